"""Fields folded so that spelling habits do not count: titles, names, venues, pages and numbers."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from kettlesort.core.matching.marks import COUNTED, LANGUAGES, ROMAN, without_label
from kettlesort.core.names import PARTICLES
from kettlesort.core.record import SPELLED, Folding, folded, plain

ARTICLES = frozenset(
    [
        "a",
        "an",
        "the",
        "of",
        "and",
        "in",
        "on",
        "for",
        "to",
        "with",
        "by",
        "from",
        "at",
        "as",
        "its",
        "is",
        "are",
        "der",
        "die",
        "das",
        "des",
        "und",
        "im",
        "von",
        "zur",
        "zum",
        "fur",
        "le",
        "la",
        "les",
        "du",
        "de",
        "et",
        "en",
        "el",
        "los",
        "las",
        "un",
        "une",
        "ein",
        "eine",
        "del",
        "il",
    ]
)
_LETTERED = frozenset(
    [
        "vitamin",
        "hepatitis",
        "influenza",
        "type",
        "group",
        "protein",
        "class",
        "part",
        "serotype",
        "grade",
        "phase",
        "model",
        "study",
        "stage",
        "apolipoprotein",
        "immunoglobulin",
    ]
)
_LETTERS = Folding(
    {
        ord("α"): " alpha ", ord("β"): " beta ", ord("γ"): " gamma ", ord("δ"): " delta ", ord("ε"): " epsilon ", ord("ζ"): " zeta ", ord("η"): " eta ", ord("θ"): " theta ", ord("κ"): " kappa ",
        ord("λ"): " lambda ", ord("μ"): " mu ", ord("µ"): " mu ", ord("ν"): " nu ", ord("π"): " pi ", ord("ρ"): " rho ", ord("σ"): " sigma ", ord("τ"): " tau ", ord("φ"): " phi ", ord("χ"): " chi ",
        ord("ψ"): " psi ", ord("ω"): " omega ",
        ord("°"): " degrees ", ord("±"): " ", ord("×"): " ", ord("→"): " to ", ord("&"): " and ", ord("%"): " percent ", ord("'"): "", ord("’"): "", ord("‘"): "", ord("ʼ"): "",
    }
)  # fmt: skip
_LETTERS.update({ord(letter): said for letter, said in SPELLED.items()})
_GREEK_MARKUP = re.compile(r"[$\\{}]+|\bmathrm\b|\btext(?:it|bf|rm)\b")
SAID_TWICE = re.compile(r"\s*\[([^\[\]]{12,})\]\s*\.?$")
_TYPES = (
    "review|book review|abstract|extended abstract|article|letter|editorial|poster|conference abstract|meeting abstract|comment|correction|erratum|"
    "retracted(?: article)?|tutorial|panel(?: session| discussion| abstract)?|keynote(?: talk| address)?|invited (?:paper|talk|lecture)|demonstration|"
    "short communication|experience paper"
)
_TONGUES = "|".join(name for name in LANGUAGES if len(name) > 4)
_REMARKS = (
    rf"(?:article |text |abstract |published |original )?(?:in |from the )?(?:{_TONGUES})|see comments?.{{0,40}}|comments?|with (?:discussion|comments?|reply)|discussion|"
    r"(?:published )?err(?:atum|ata)\b.{0,120}|corrected(?: and republished)?.{0,80}|republished\b.{0,80}|retracted\b.{0,80}|retraction in.{0,80}|"
    r"abstract only|abstracts?|full (?:text|paper)|short paper|invited\b.{0,30}|translat\w+\b.{0,60}|author.?s.? transl.{0,10}|reprint\w*\b.{0,60}|"
    r"proceedings|video|online first|early access|in press|letter to the editor|.{0,20}transl\.?"
)
_TYPE_SAID = re.compile(rf"\s*[\[(](?:{_TYPES}|{_REMARKS})\.?[\])]\s*\.?$", re.I)
_NOTICE_OF = re.compile(
    r"\s*\(vol(?:ume)?\.? [\w/-]{1,12}, ?(?:(?:no|iss|issue)\.? [\w/-]{1,8}, ?)?(?:pg?|pp|pages?|art(?:icle)?n?(?:\. ?no)?|e)?\.? ?[\w–-]{0,16},? ?\(?(?:19|20)\d\d\)?\)\s*\.?$",
    re.I,
)
"""What a notice of correction puts behind the title of its article: the place of that, not its own."""
_PARTS = "part|pt|phase|stage|section|volume|chapter|study|trial|experiment|paper|report|series|number|teil|partie|parte"
_COUNTS = {**ROMAN, **COUNTED, "i": "1", "v": "5", "x": "10", "seven": "7", "eight": "8", "nine": "9", "ten": "10"}
_COUNTED = re.compile(rf"\b({_PARTS}) ({'|'.join(sorted(_COUNTS, key=len, reverse=True))}|\d{{1,2}})\b")
_LAST_ROMAN = re.compile(rf" ({'|'.join(ROMAN)})$")
_PARTICLES = PARTICLES | {"o", "d"}
_AND_OTHERS = ("et al", "Et al", "ET AL")
_LATER = frozenset(["jr", "sr", "ii", "iii", "iv", "phd", "md", "msc"])
_UMLAUT = re.compile(r"([aou])e(?![aeiou])")
_SERIAL = re.compile(r"\b(\d{4})-?(\d{3}[\dxX])\b")
_NUMBER = re.compile(r"\d+[a-z]?")


@lru_cache(maxsize=65536)
def venue_name(text: str) -> str:
    """A journal's name to compare: folded, without a subtitle in brackets."""
    return folded(re.sub(r"\s*\(.*?\)", "", text.replace("&", " and ")) or text)


class Person(NamedTuple):
    """An author's family name to compare, both names as ``family,given``, and the first letter of the given one."""

    family: str
    names: str
    initial: str


@lru_cache(maxsize=262144)
def person_of(said: str) -> Person | None:
    """An author, said as ``Family, Given``; ``None`` if that is no name but says that there are others."""
    if said.startswith(_AND_OTHERS):
        return None
    family, _, given = said.partition(",")
    family, given = family_name(family), given.strip().lower()
    return Person(family, f"{family},{given}", given[:1])


@lru_cache(maxsize=262144)
def family_name(name: str) -> str:
    """A family name to compare: without particles, titles, accents and ways to write an umlaut."""
    if name.isascii() and name.isalpha():
        word = name.lower()
    else:
        words = folded(name.replace("'", "").replace("’", "")).split()
        kept = [word for word in words if word not in _PARTICLES and word not in _LATER] or words
        word = "".join(kept)
    return _UMLAUT.sub(r"\1", word)


def title_of(said: str) -> str:
    """A title to compare: signs spelled out, without mark-up, articles, its repetition in another language and the record's type."""
    if "]" in said or ")" in said:
        if noticed := _NOTICE_OF.search(said):
            said = f"Correction to {said[: noticed.start()]}"
        while (bare := _TYPE_SAID.sub("", said)) and bare != said:
            said = bare
        if said.endswith(("]", "].")) and not said.startswith("["):
            said = SAID_TWICE.sub("", said)
    if "\\" in said or "$" in said:
        said = _GREEK_MARKUP.sub(" ", said)
    if "<" in said or "&" in said:
        said = plain(said)
    title = " ".join(said.translate(_LETTERS).split())
    return _counted(without_label(title))


def _counted(title: str) -> str:
    """A folded title with the numbers of its parts as digits, however they are written."""
    title = _COUNTED.sub(_as_digits, title)
    return _LAST_ROMAN.sub(lambda found: f" {_COUNTS[found[1]]}", title)


def _as_digits(found: re.Match[str]) -> str:
    return f"{'part' if found[1] in ('pt', 'teil', 'partie', 'parte') else found[1]} {_COUNTS.get(found[2], found[2])}"


def significant(title: str) -> list[str]:
    """The words of a folded title without its articles and small words; all if it has nothing else."""
    words = title.split(" ")
    kept = [word for word in words if word not in ARTICLES]
    if "a" in words:  # of "vitamin A" it is no article
        kept = [
            w for k, w in enumerate(words) if w not in ARTICLES or (w == "a" and k and (k == len(words) - 1 or words[k - 1] in _LETTERED))
        ]
    return kept or words


def page_of(pages: str) -> tuple[str, bool]:
    """The first page, without the letter of an electronic one, and whether it may be an article's number instead.

    >>> page_of("e0123–e0130"), page_of("101–18")
    (('123', True), ('101', False))
    """
    first = pages.lower().partition("–")[0]
    found = _NUMBER.search(first)
    if found is None:
        return first.strip(), True
    number = found[0].lstrip("0") or "0"
    return number, first[0] == "e" or len(number) >= 5


@lru_cache(maxsize=65536)
def venue_of(journal: str, short: str, issn: str) -> tuple[str, frozenset[str]]:
    """A journal's names, joined by a bar, and its serial numbers."""
    names = dict.fromkeys([venue_name(name) for name in (journal, short) if name])
    return "|".join(names), frozenset(["".join(one).lower() for one in _SERIAL.findall(issn)])


@lru_cache(maxsize=65536)
def number_of(text: str) -> str:
    """The first number of a volume or an issue, without leading zeros; the text itself if it has none."""
    text = text.lower()
    found = _NUMBER.search(text)
    return (found[0].lstrip("0") if found else "") or text.strip()
