"""Marks by which reports that look the same are told apart: a part's number, a notice, a protocol, an edition, a preprint …"""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

from rapidfuzz.distance import Indel

from kettlesort.core.record import Record

ERRATUM, RETRACTION, REPLY = 1, 2, 3

_ERRATUM = re.compile(
    r"^(?:erratum|errata|corrigendum|corrigenda|correction|corrections|publisher correction|author correction|addendum|expression of concern)\b|\b(?:erratum|corrigendum)$"
)
_RETRACTION = re.compile(r"^(?:retraction of|retraction notice|notice of retraction|retraction note|retraction to|retraction(?= [a-z]))")
_REPLY = re.compile(
    r"^(?:re|reply|in reply|replies|author(?:s)? reply|authors? response|response to|in response|comment on|comments on|commentary on|letter to the editor|letter regarding|regarding|editorial comment on|invited commentary on|discussion of)\b"
    r"|\b(?:reply|authors? reply|author s reply|authors response|comment|invited commentary|letter)$"
)
_PROTOCOL = re.compile(
    r"\b(?:protocol|rationale and design|design and rationale|statistical analysis plan|study design and|design of (?:a|the)|design and methods|rationale design and|design methods and)\b"
)
_EDITION = re.compile(
    r"\b(?:(\d+)(?:st|nd|rd|th)?|(first|second|third|fourth|fifth|sixth|seventh|revised)) (?:rev )?ed(?:ition|n)?\b|\bedition (\d+)\b"
)
_UPDATE = re.compile(r"\b(?:updates?|updated|updating)\b")
_RELABELLED = re.compile(r"^(?:retracted(?: article| paper)?|withdrawn(?: article)?)\b ?|\b(?:retracted article|retracted)$")
_PREPRINT_DOI = re.compile(r"^10\.(?:1101|21203|48550|20944|31219|31234|31235|36227|26434|22541)/")
_VERSION = re.compile(r"(?:[./]v\d+|\.pub\d+|_v\d+)$")
_PUB = re.compile(r"\.pub(\d+)$")
_ALL_DIGITS = re.compile(r"\d+")
_DIGITS = re.compile(r"(?<![a-z\d])\d+|\d+(?![a-z\d])")
ROMAN = {"ii": "2", "iii": "3", "iv": "4", "vi": "6", "vii": "7", "viii": "8", "ix": "9", "xi": "11", "xii": "12"}
COUNTED = {
    "one": "1",
    "two": "2",
    "three": "3",
    "four": "4",
    "five": "5",
    "six": "6",
    "first": "1",
    "second": "2",
    "third": "3",
    "fourth": "4",
    "fifth": "5",
}
_ORDINALS = ("first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth", "eleventh", "twelfth")
_SAID = {**ROMAN, **{word: str(k) for k, word in enumerate(_ORDINALS, 1)}}
_ROMANS = frozenset(ROMAN)
_COUNTING = frozenset(
    [
        "part",
        "phase",
        "stage",
        "type",
        "group",
        "grade",
        "class",
        "section",
        "volume",
        "chapter",
        "study",
        "trial",
        "experiment",
        "paper",
        "report",
        "series",
        "number",
        "no",
    ]
)
_LAST = {**COUNTED, "i": "1", "v": "5", "x": "10"}
_SHORT_RANGE = re.compile(r"\b(19|20)(\d\d) (\d\d)\b(?! \d)")
_LETTERED = re.compile(
    r"\b(?:part|phase|stage|type|group|grade|class|section|volume|chapter|study|trial|experiment|paper|report|series|number|no) (i|v|x|[b-d]|a$|\d+|one|two|three|four|five|six)\b"
)
OPPOSITES = frozenset(
    ["before", "after", "upper", "lower", "left", "right", "high", "low", "male", "female", "men", "women", "boys", "girls", "pre", "post", "short", "long", "early", "late", "proximal", "distal", "anterior", "posterior", "acute", "chronic", "positive", "negative", "increased", "decreased", "increase", "decrease", "prenatal", "postnatal", "preoperative", "postoperative", "primary", "secondary", "tertiary", "inpatient", "inpatients", "outpatient", "outpatients", "rural", "urban", "summer", "winter", "spring", "autumn", "north", "south", "east", "west", "northern", "southern", "eastern", "western", "young", "old", "older", "younger", "children", "adults", "adolescents", "adult", "child", "maternal", "paternal", "systolic", "diastolic", "dorsal", "ventral", "inner", "outer", "internal", "external", "with", "without", "more", "less", "small", "large", "new", "major", "minor", "single", "double", "open", "closed", "active", "passive", "morning", "evening", "day", "night", "wet", "dry", "hot", "cold", "warm", "sensory", "motor", "invasive", "noninvasive", "in", "vitro", "vivo", "human", "mouse", "rat", "mice", "rats", "mother", "father", "mothers", "fathers", "nurses", "physicians", "teachers", "students", "phase"]
) - {"phase", "in", "new"}  # fmt: skip
_OPPOSITE_OF = {"".join(sorted(word)): word for word in sorted(OPPOSITES) if len(word) > 5}
"""Long opposites by their letters."""
LANGUAGES = {
    "eng": "en", "english": "en", "ger": "de", "deu": "de", "german": "de", "deutsch": "de", "fre": "fr", "fra": "fr", "french": "fr",
    "francais": "fr", "français": "fr", "spa": "es", "spanish": "es", "espanol": "es", "español": "es", "ita": "it", "italian": "it",
    "italiano": "it", "por": "pt", "portuguese": "pt", "rus": "ru", "russian": "ru", "chi": "zh", "zho": "zh", "chinese": "zh", "jpn": "ja",
    "japanese": "ja", "pol": "pl", "polish": "pl", "dut": "nl", "nld": "nl", "dutch": "nl", "swe": "sv", "swedish": "sv", "dan": "da",
    "danish": "da", "nor": "no", "norwegian": "no", "fin": "fi", "finnish": "fi", "tur": "tr", "turkish": "tr", "kor": "ko", "korean": "ko",
    "cze": "cs", "ces": "cs", "czech": "cs", "hun": "hu", "hungarian": "hu", "per": "fa", "fas": "fa", "persian": "fa", "ara": "ar", "arabic": "ar",
}  # fmt: skip


class Marks(NamedTuple):
    """What a record says about which of several like reports it is; 0 or an empty text where it says nothing."""

    notice: int
    protocol: bool
    numbers: str
    edition: str
    update: str
    preprint: bool
    meeting: bool
    thesis: bool


def version_of(doi: str) -> tuple[str, str]:
    """A DOI without the version at its end, and that version: ``("10.5555/x", ".v2")``."""
    found = _VERSION.search(doi)
    return (doi[: found.start()], found[0]) if found else (doi, "")


@lru_cache(maxsize=4096)
def language_of(text: str) -> str:
    """The language as two letters where it is one of the common ones, else as written, in lower case; of several the first."""
    word = re.split(r"[;,/ ]", text.strip().lower(), maxsplit=1)[0]
    return LANGUAGES.get(word, word[:2] if len(word) == 5 and word[2] in "-_" else word)


def without_label(title: str) -> str:
    """A folded title without the word that it was withdrawn, which later exports put before it."""
    return _RELABELLED.sub("", title) if "retracted" in title or "withdrawn" in title else title


def numbers_of(title: str, words: Sequence[str]) -> str:
    """The numbers in a folded title, one after the other: digits, Roman numerals, and words and letters that count a part or a phase.

    >>> numbers_of("wintering part ii 1990 95", "wintering part ii 1990 95".split())
    '2 19901995'
    """
    digits = ""
    if not title.replace(" ", "").isalpha():
        digits = "".join(_DIGITS.findall(_SHORT_RANGE.sub(r"\1\2\1\3", title)))
    counted = [] if _ROMANS.isdisjoint(words) else [ROMAN[word] for word in words if word in ROMAN]
    if not _COUNTING.isdisjoint(words):
        for name in _LETTERED.findall(title):
            if not name.isdigit():
                counted.append({"i": "1", "v": "5", "x": "10"}.get(name, COUNTED.get(name, name)))
    if words[-1] in _LAST:
        counted.append(_LAST[words[-1]])
    if not counted:
        return digits
    return " ".join([*sorted(set(counted)), digits] if digits else sorted(set(counted)))


def numbers_said(words: Sequence[str]) -> list[str]:
    """The numbers among words whatever their order: digits, Roman numerals, and ordinals that are spelled out.

    >>> numbers_said(["4th", "workshop", "99"]) == numbers_said(["99", "fourth", "workshop"])
    True
    """
    return sorted(number for word in words for number in ([_SAID[word]] if word in _SAID else _ALL_DIGITS.findall(word)))


def marks_of(record: Record, title: str, words: Sequence[str]) -> Marks:
    """The marks of a record whose folded title is ``title``, with its significant ``words``."""
    notice, protocol, edition, update = 0, record.kind == "registration", "", ""
    if not _TELLING.isdisjoint(words):
        notice = ERRATUM if _ERRATUM.search(title) else RETRACTION if _RETRACTION.search(title) else REPLY if _REPLY.search(title) else 0
        protocol = protocol or bool(_PROTOCOL.search(title))
        found = _EDITION.search(title)
        edition = next((part for part in found.groups() if part), "") if found else ""
        update = "update" if _UPDATE.search(title) else ""
    if len(words) > 1 and words[-2] == "study" and "protocol".startswith(words[-1]):
        protocol = True  # cut off in the word
    if ".pub" in record.doi and record.doi[-1].isdigit():
        found = _PUB.search(record.doi)
        update = found[1] if found else update
    meets, printed_before = _venue_says(record.journal or record.publisher)
    preprint = record.kind == "preprint" or printed_before or (bool(record.doi) and _PREPRINT_DOI.match(record.doi) is not None)
    meeting = (
        meets
        or record.kind == "conference"
        or (record.pages[:1] in ("s", "S") and record.pages[1:2].isdigit())
        or bool(record.issue and not record.issue.isdigit() and "suppl" in record.issue.lower())
        or bool(record.volume and not record.volume.isdigit() and "suppl" in record.volume.lower())
    )
    thesis = record.kind == "thesis" or _of_theses(record.journal or record.publisher)
    return Marks(notice, protocol, numbers_of(title, words), edition, update, preprint, meeting, thesis)


_TELLING = frozenset(
    [
        "erratum",
        "errata",
        "corrigendum",
        "corrigenda",
        "correction",
        "corrections",
        "addendum",
        "concern",
        "retraction",
        "retracted",
        "re",
        "reply",
        "replies",
        "response",
        "response",
        "comment",
        "comments",
        "commentary",
        "letter",
        "regarding",
        "editorial",
        "discussion",
        "protocol",
        "design",
        "plan",
        "rationale",
        "ed",
        "edition",
        "edn",
        "update",
        "updates",
        "updated",
        "updating",
        "author",
        "authors",
        "authored",
    ]
)
"""A title without any of these words has no notice, protocol, edition or update in it."""


@lru_cache(maxsize=65536)
def _venue_says(name: str) -> tuple[bool, bool]:
    """Whether a venue is that of a meeting, and whether it is one of preprints."""
    name = name.lower()
    return any(word in name for word in ("proceedings", "abstracts", "conference", "congress", "meeting")), "preprint" in name


@lru_cache(maxsize=65536)
def _of_theses(name: str) -> bool:
    """Whether a venue is a list of theses."""
    name = name.lower()
    return any(word in name for word in ("dissertation", "thesis", "theses", "habilitation"))


_PREFIXES = (
    ("hyper", "hypo"), ("pre", "post"), ("in", "out"), ("intra", "inter"), ("intra", "extra"), ("micro", "macro"), ("mono", "poly"), ("endo", "exo"),
    ("over", "under"), ("uni", "bi"), ("mono", "bi"), ("anti", "pro"), ("sys", "dias"), ("systo", "diasto"), ("up", "down"), ("in", "de"), ("homo", "hetero"),
    ("eu", "dys"), ("ante", "post"), ("ab", "ad"), ("ortho", "para"), ("meta", "para"), ("ortho", "meta"), ("pro", "retro"), ("brady", "tachy"),
)  # fmt: skip
_NEGATIONS = ("un", "non", "dis", "im", "anti", "ir", "mal", "re")
"""Without "a" and "in", which may be small words that lost their space; such a pair is asked."""


@lru_cache(maxsize=65536)
def _meant(word: str) -> str:
    """The opposite that a long word is but for a letter lost or doubled, or two swapped; or the word itself."""
    if len(word) < 7 or word in OPPOSITES:
        return word
    swapped = _OPPOSITE_OF.get("".join(sorted(word)))
    return swapped or next((text for text in _OPPOSITE_OF.values() if Indel.distance(text, word, score_cutoff=1) == 1), word)


def contrasted(one: str, two: str) -> bool:
    """Whether two words make opposites: two of a list, prefixes that are, a negation, or single letters.

    >>> contrasted("hypertension", "hypotension"), contrasted("invasive", "noninvasive"), contrasted("b", "c"), contrasted("tumor", "tumour")
    (True, True, True, False)
    >>> contrasted("inpatient", "oupatient"), contrasted("inpatietn", "outpatient")
    (True, True)
    """
    if len(one) == len(two) == 1 and one != two:
        return True
    one, two = _meant(one), _meant(two)
    if one in OPPOSITES and two in OPPOSITES:
        return one[:3] != two[:3] and {one, two} != {"mouse", "mice"}
    short, long = (one, two) if len(one) <= len(two) else (two, one)
    if any(long == negation + short for negation in _NEGATIONS) and len(short) > 3:
        return True
    for left, right in _PREFIXES:
        for x, y in ((one, two), (two, one)):
            if x.startswith(left) and y.startswith(right) and len(x) > len(left) + 2:
                one_rest, two_rest = x[len(left) :], y[len(right) :]
                mistyped = min(len(left), len(right)) > 3 and Indel.normalized_similarity(one_rest, two_rest) >= 0.75
                if one_rest == two_rest or mistyped:
                    return True
    return False
