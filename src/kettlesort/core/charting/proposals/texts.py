"""Texts: the words of a report that answer an item, from sentences and from tables."""

from __future__ import annotations

import re
from collections.abc import Iterator

from kettlesort.core.charting.proposals.candidates import Asking, Candidate, nearness, of_cell, of_sentence
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.passages import of_sentences, of_words
from kettlesort.core.charting.proposals.speaks import stem_of_word, stems_of, word_stems
from kettlesort.core.text.countries import countries_in, names_countries

_COPULA = re.compile(
    r"\b(?:was|were|is|are|being|included|comprised|consisted of|defined as|namely|measured as|used|uses|employed|chose|chosen|had|called)\b\s+|[:=–—]\s+",
    re.I,
)
_PREPOSITION = re.compile(
    r"\b(?P<how>by means of|by|using|with|via|through|according to|from|based on)\s+|\b(?P<where>in|at|across|within|near|on|throughout)\s+(?=(?:the\s+)?(?:[A-ZÀ-Þ]|(?:an?\s+)?(?:[\w-]+\s+){1,3}(?:hospitals?|clinics?|schools?|centres?|centers?|sites?|farms?|apiaries|universit|wards?|departments?|homes?|practices?|units?|prisons?|laborator)))|\b(?P<to>of|to|for|as|against|than|received|given|called|named)\s+",
    re.I,
)
_CLAUSE = re.compile(
    r"\s*(?:[;:.!?](?:\s|$)|,\s+(?:and|but|which|who|with|while|whereas|where|so|as|defined|measured|because|although|after|before|at|in|by|from|for|on|using)\b|\s[(\[]|\band\s+(?:was|were|had|the|no|is|it|they|we)\b|\b(?:who|which|that|while|whereas|because|although|when|if|between)\b|\s[–—]\s)"
)
_CUT = re.compile(r"\s*[,;(\[]|\.(?:\s|$)")
_NARROW = re.compile(
    r"\s+(?:in|into|at|on|by|from|for|with|after|before|during|to|using|via|as|over|until|and|was|were|is|are|had|has)\s+|,\s+|\s*[(\[;.]"
)
_HALFWAY = re.compile(
    r"\s+(?:in|into|at|on|by|from|with|after|before|during|using|via|until|was|were|is|are|had|has)\s+|\s*[(\[;.]|,\s+(?!and\b|[A-ZÀ-Þ])"
)
_APPOSED = re.compile(
    r"(?:^|[,;(]\s*|\b(?:and|with|by|for|of|to|in|the|an?|was|were|is|one)\s+)(?P<what>(?:[\w'’-]+\s+){0,4}?[\w'’-]+)\s+\((?P<inside>[^()]{2,80})\)"
)
"""What stands before a bracket, and within it: polymerase chain reaction (reference standard)."""
_COUNTED_OFF = re.compile(
    r"\b(?:\d+|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|several)\s+(?P<what>(?:[a-z-]+\s+){0,3}?[a-z]{3,}s)(?=\s+(?:in|across|of|around|near|throughout|from|were|was)\b|[,.;])",
    re.I,
)
_AND_LIST = re.compile(
    r"\b(?:for|of|by|with|to|were|was|included|are|on)\s+(?P<list>(?:[a-z][\w'’-]*(?:\s+[\w'’-]+){0,3},\s+)*[a-z][\w'’-]*(?:\s+[\w'’-]+){0,3}?,?\s+and\s+[a-z][\w'’-]*(?:\s+(?!(?:in|by|using|with|at|from|on|were|was|had|is|are|to)\b)[\w'’-]+){0,3})"
)
_INSIDE = re.compile(r"\s*[,;)]")
_PROPER = re.compile(
    r"(?:[A-ZÀ-Þ][\w’'.&-]*|\d{4,})(?:\s+(?:(?:of|for|the|and|de|du|van|von|on|in|&)\s+)*[A-ZÀ-Þ][\w’'&-]*)*(?:\s+v?\d+(?:\.\d+)+)?"
)
_CALENDAR = re.compile(
    r"(?:One|Two|Three|Four|Five|Six|Seven|Eight|Nine|Ten|Eleven|Twelve|All|Both|Most|Some|Several|Between|We|In|At|From|This|These|Those|There|After|During|Before|January|February|March|April|May|June|July|August|September|October|November|December|Monday|Tuesday|Wednesday|Thursday|Friday|Saturday|Sunday|and|to|\d+)"
)
_NO_ANSWER = re.compile(
    r"^(?:(?:accordance|addition|contrast|order)\b.*|no\s+(?:role|part|influence|involvement)\b.*|(?:not\s+|also\s+|all\s+)?(?:\w+ly\s+)?(?:\w+(?:ed|en|wn|ne|ught)|told|said|made|left|kept|held)(?:\s+(?:by|under|with|in|at|from|as|for|on|to|into|over|between|during|which|what|who|how)\b.*)?)$",
    re.I,
)
_LIST = re.compile(
    rf"{_PROPER.pattern}(?:,\s+(?:the\s+)?{_PROPER.pattern})*,?\s+(?:and|&)\s+(?:(?:the|from)\s+)?(?:(?:city|province|region|state|county) of\s+)?{_PROPER.pattern}"
)
"""Names that are counted up: Tallinn, Riga and Kaunas."""
_NUMBERED = re.compile(r"\b([A-Za-z]{3,})\s+(?:\d+|[IVX]+\b)(?:\s*(?:,|and|to|or|[-–/])\s*(?:\d+|[IVX]+\b))*")
"""A word with its numbers: grades 7 and 8, phase III."""
_PLACE = re.compile(
    r"\b(?:Universit(?:y|ies)|Hospitals?|Institut(?:e|ion)s?|Colleges?|Clinics?|Cent(?:re|er)s?|Infirmary|Polytechnic|Academy|Stations?|Farms?|Estates?|Nurser(?:y|ies)|Forests?|Parks?|Reserves?|Gardens?|Schools?|Laborator(?:y|ies)|Service|Department|Unit|Bay|Lake|River|Valley|Islands?|Districts?|Province|County)\b"
)
"""What names of places hold."""
_MEASURE = re.compile(
    r"\d[\d.,]*(?:\s?[a-zµ%°]{1,3})?\s?(?:[-–x×]|to|by)\s?\d[\d.,]*(?:\s?[x×]\s?\d[\d.,]*)?\s?(?:[a-zµ]{1,3}[²³]?|%|°C?)(?![a-z])"
)
"""A size or a range with its unit: 6 m x 5 m, 0-10 cm."""
_FORMS = (
    (
        re.compile(r"\b(?:software|program(?:me)?|package)\b", re.I),
        re.compile(
            r"\b[A-Z][\w+-]*(?:\s+[A-Z][\w+-]*)*,?\s+(?:v\.?|ver\.?|version|release)\s*\d+(?:\.\d+)*|(?<=\bin )[A-Z][A-Za-z+-]*\s\d{1,2}(?:\.\d+)*\b|(?<=\b(?:with|sing) )[A-Z][A-Za-z+-]*\s\d{1,2}(?:\.\d+)*\b"
        ),
    ),
    (
        re.compile(r"\b(?:acronym|short name|name of the (?:study|trial))\b", re.I),
        re.compile(r"\b[A-Z][A-Z0-9]+(?:-[A-Z0-9]+)*(?=\s+(?:[\w-]+\s+){0,2}(?:study|trial|investigators|protocol)\b)"),
    ),
    (
        re.compile(r"\b(?:frequen\w+|how often|interval|schedule)\b", re.I),
        re.compile(
            r"\b(?:every\s+(?:\w+\s+)?(?:days?|weeks?|months?|hours?|years?|visit|session)|(?:once|twice|thrice|(?:one|two|three|four|five|six|\d+)\s+times)\s+(?:(?:a|per|each|every)\s+)?(?:days?|weeks?|months?|years?|daily|weekly|monthly)|(?:twice\s+)?(?:daily|weekly|monthly|yearly))\b",
            re.I,
        ),
    ),
    (
        re.compile(r"\bsoils?\b", re.I),
        re.compile(
            r"\b(?:[A-Z][a-z]+\s+)?[A-Z][a-z]+sols?\b|\b(?:(?:sandy|silty|loamy|clayey|clay|silt|sand|calcareous|acid|peaty|heavy|light|deep|shallow)\s+){1,3}(?:loams?|clays?|sands?|soils?|silts?|peat)\b"
        ),
    ),
    (
        re.compile(r"\b(?:season|term|semester)\b", re.I),
        re.compile(r"\b(?:spring|summer|autumn|fall|winter)(?:\s+(?:term|semester))?(?:\s+of)?\s+\d{4}(?:\s?[-–/]\s?\d{2,4})?", re.I),
    ),
    (
        re.compile(r"\b(?:species|organism|scientific name|latin name|taxon|pathogen|strain|bacteri\w+|insect|parasite)\b", re.I),
        re.compile(
            r"\b[A-Z](?:[a-z]{3,}|\.)\s+(?!spp?\b)[a-z]{4,}(?:us|um|a|is|ens|i|ae|e|ii|or|er|ix|ax|es|os|on|yx|ys)\b(?=\s*(?:\(?L\.|[,;.)]|[A-Z(]|and\b|was\b|were\b|in\b|is\b|from\b|isolate|strain|$))"
        ),
    ),
    (re.compile(r"\bratio\b", re.I), re.compile(r"(?<![\d:])\d{1,2}\s?:\s?\d{1,2}(?:\s?:\s?\d{1,2})*(?![\d:])")),
)
"""What an item may ask for by name, and the form in which it is written."""
_ID_OF = re.compile(r"[A-Z0-9]*\d[\w-]*\s+(?:of|from|by)\s+(?:the\s+)?")
_ARTICLE = re.compile(r"(?:The|A|An|Our|In|At|From)\s+(?=[A-Z])")
_LIKE_AN_ID = re.compile(r"(?:[A-Z]{1,6}\s)?[A-Z0-9][\w./+-]*\d[\w./+-]*")
_SAID_NUMBER = re.compile(r"\b(?:no\.?|number|nr\.?|ref\.?|reference|grant|id)\s*[:#]?\s*(?P<id>[A-Z0-9][\w./-]*\d[\w./-]*)", re.I)
_NO_NAME = re.compile(r"(?:SD|SE|SEM|CI|IQR|OR|RR|HR|ANOVA|M|N|Table|Figure|Fig)\b\.?")
_BEFORE_IT = frozenset(["inside", "is", "is short", "labelled", "labelled short", "to", "where", "how", "own", "id"])
"""Pieces behind what they are: the words of the item stand before them; of a subject they stand after it."""
_NAMED_BEHIND = re.compile(
    r"\b(?P<word>[A-Za-z]{3,}|cv)\.?(?:\s*[:=,]\s*|\s+(?:called |named )?)[“\"']?(?P<name>(?:[A-ZÀ-Þ][\w-]*|\d+(?:\.\d+)+)(?:[ -](?:[A-ZÀ-Þ][\w-]*|\d[\w.-]*))*)"
)
_LABEL = re.compile(r"[A-ZÀ-Þ][\w ,&/-]{2,45}(?::\s+|\.\s+(?=[A-ZÀ-Þ]))")
"""A word or a few before a colon, or set apart by a full stop: Setting: two hospitals."""
_ID = re.compile(
    r"(?:(?<=\()[A-Z]*\+?\d[\w+./-]{3,}(?=\))|(?<=\()[A-Z]+\+[\w+./-]{3,}(?=\)))|\b(?:[A-Z]{2,}[A-Z0-9]*[-/ ]?\d{3,}(?:[-/]\d+)*|[A-Z]+[A-Z0-9]*(?:[-/][A-Z0-9]*\d[A-Z0-9]*)+|\d{4,}-\d{3,}(?:-\d+)*)\b"
)
_WHERE = re.compile(
    r"\b(?:where|country|countries|location|place|region|city|cities|setting|site|sites|town|district|area|province|state|hospitals?|clinics?|universit(?:y|ies)|institut(?:ion|e)s?|farms?|stations?|laborator(?:y|ies)|cent(?:re|er)s?|facility|schools?|apiar(?:y|ies))\b",
    re.I,
)
_SETTING = re.compile(r"\bsetting\b|\bwhere\b[^.]{0,30}\b(?:treated|recruited|cared)", re.I)
_INSTITUTION = re.compile(
    r"\b(?:hospitals?|clinics?|wards?|schools?|kindergartens?|nurser(?:y|ies)|homes?|practices?|(?:primary|secondary|tertiary|intensive|outpatient|inpatient|ambulatory|residential|community) care|departments?|communit(?:y|ies)|laborator(?:y|ies)|farms?|universit(?:y|ies)|centres?|centers?|units?|prisons?|pharmac(?:y|ies)|workplaces?|greenhouses?|fields?|orchards?|forests?)\b",
    re.I,
)
_COUNTRY = re.compile(r"\b(?:country|countries|nation)\b", re.I)
_WHO = re.compile(
    r"\b(?:who|fund\w*|sponsor\w*|manufacturer|maker|company|author\w*|software|program|package|committee|organi[sz]ation|supplier|contact)\b",
    re.I,
)
_HOW = re.compile(
    r"\b(?:how|method\w*|technique|procedure|approach|sequence|generation|tool|instrument|scale|device|means|analysis|test|model|measured)\b",
    re.I,
)
_WHICH_ID = re.compile(r"\b(?:regist\w+|identifier|id|grant|protocol number|accession|licen[cs]e|approval number|reference number)\b", re.I)


def texts(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """What may be the words that an item asks for: what follows its own words in a sentence, a name, an identifier; and the whole sentence."""
    wanted, of_country = _wanted(item), bool(_COUNTRY.search(f"{item.name} {item.instructions}"))
    setting = bool(_SETTING.search(f"{item.name} {item.instructions}"))
    own_stems, asked = set(stems_of(item.name)), f"{item.name} {item.instructions}"
    for k, sentence in enumerate(asking.passages.sentences):
        signs = of_sentence(asking, item, k)
        spans = [(begin, end, "where") for begin, end in countries_in(sentence.text)] if of_country else []
        spans += [(begin, end, "own") for begin, end in _own(sentence.text, asked, own_stems)]
        spans += _spans(sentence.text)
        sorts = {sort for _, _, sort in spans}
        apt = "own" in sorts or (wanted in ("where", "id") and bool({wanted, "place"} & sorts))
        if signs["name"] < 0.12 and signs["instructions"] < 0.2 and signs["sense"] < 0.2 and not apt:
            continue
        text = sentence.text
        headed = _covered_by(asking, item, sentence.heading) if sentence.heading else 0.0
        if wanted == "who" and signs["key"] < 0.5 and headed < 0.5:
            continue
        seen: set[str] = set()
        for begin, end, sort in spans:
            value = _trimmed(text[begin:end])
            if (said := _SORT_OF.match(value)) and stem_of_word(said[1]) in own_stems:
                value = value[said.end() :]  # the regions of Ostrel and Vastmark
            if wanted == "who":
                value = _NUMBER_BEHIND.sub("", value)
            if (
                not 2 <= len(value) <= 240
                or value.lower() in seen
                or not re.search(r"\w", value)
                or (sort != "all" and not value[0].isupper() and _NO_ANSWER.match(value))
                or (wanted != "id" and sort not in ("own", "figure") and _is_no_name(value))
                or (wanted == "who" and _LIKE_AN_ID.fullmatch(value))
                or (wanted == "id" and (sort == "figure" or (sort in ("inside", "apposed") and not _LIKE_AN_ID.fullmatch(value))))
            ):
                continue
            if sort != "all" and _says_only(asking, value, own_stems, wanted):
                continue
            seen.add(value.lower())
            if not (quote := of_sentences(asking.passages, k, k, begin)):
                continue
            told = _told(asking, item, sentence.text, (begin, end, sort), value)
            signs_of_it = {**signs, **told, "headed": headed, f"{wanted}: {sort}": 1.0, f"{wanted}: proper": _is_proper(value, begin)}
            if setting:
                signs_of_it["setting"] = float(
                    sort not in ("all", "labelled") and bool(_INSTITUTION.search(value)) and len(value.split()) <= 7
                )
            if wanted == "who" and _ONE_BEFORE.search(text[:begin]):
                signs_of_it["of several"] = 1.0  # where somebody named sits
            if wanted == "where":
                signs_of_it["a place"] = float(sort != "all" and bool(_PLACE.search(value)) and _is_proper(value, begin))
                signs_of_it |= {
                    "country": float(of_country and names_countries(value)),
                    "no country": float(of_country and not names_countries(value)),
                }
            yield Candidate(
                item.id,
                None,
                value,
                quote,
                {**signs_of_it, "first": 1 / (1 + k / 20), "front": float(sentence.section in ("title", "front"))},
            )
    for k, cell in enumerate(asking.passages.cells):
        signs = of_cell(asking, item, k)
        if (
            signs["label"] > 0.4
            and signs["name"] > 0.4
            and re.search(r"[A-Za-z]", cell.text)
            and (quote := of_words(asking.passages, cell.table.page, cell.words()))
        ):
            yield Candidate(item.id, None, cell.text, quote, {**signs, "near": signs["label"], "whole": float(len(cell.table.head) == 2)})


def _told(asking: Asking, item: Asked, text: str, span: tuple[int, int, str], value: str) -> dict[str, float]:
    """What speaks for a piece of a sentence by its own words and by those beside it."""
    begin, end, sort = span
    own, wanted = frozenset(word_stems(value)), set(stems_of(item.name))
    before, after = (_covered_by(asking, item, piece) for piece in (text[max(0, begin - 45) : begin], text[end : end + 45]))
    label = _LABEL.match(text)
    labelled = _covered_by(asking, item, text[: label.end()]) if label else 0.0
    return {
        "near": nearness(asking, item, text, begin, end), "repeats": _covered_by(asking, item, value), "said before": before, "said after": after,
        "said where it stands": after if sort in ("subject", "apposed") else before if sort in _BEFORE_IT else 0.0, "long": min(2.0, len(value.split()) / 12),
        "empty": float(not own - wanted - _SAYS_NOTHING), "labelled": labelled if sort.startswith("labelled") else 0.0, "within labelled": 0.0 if sort.startswith("labelled") else labelled,
        "named so": float(sort != "all" and bool(_PROPER.fullmatch(value)) and bool(own & wanted) and len(value.split()) > 1),
        "of several": float(_is_of_several(text, begin, end)),
    }  # fmt: skip


_IN_A_LIST, _AFTER_A_LIST = (
    re.compile(r"(?:,\s+[A-ZÀ-Þ][\w’'-]+(?:\s+[A-ZÀ-Þ][\w’'-]+)*)*,?\s+(?:and|&)\s+(?:the\s+|from\s+)?(?:city of\s+)?[A-ZÀ-Þ]"),
    re.compile(r"\b[A-ZÀ-Þ][\w’'-]+,?\s+(?:and|&)\s+(?:the\s+|from\s+)?$"),
)
_ONE_BEFORE = re.compile(r"\b[A-ZÀ-Þ][\w’'-]+\.?,\s+$")


def _is_of_several(text: str, begin: int, end: int) -> bool:
    """Whether a name is only a part of names that are counted up."""
    value = text[begin:end].strip()
    if ", " in value and any(match.end() == len(value) for match in _LIST.finditer(value)):
        return False
    named = next((match for match in _PROPER.finditer(value) if match.end() == len(value)), None)
    if named is None:
        return False
    value, begin = named[0], begin + text[begin:end].index(value) + named.start()
    if " and " in value:
        return bool(_ONE_BEFORE.search(text[:begin]))
    return bool(_IN_A_LIST.match(text, end) or _AFTER_A_LIST.search(text[:begin]))


def _says_only(asking: Asking, value: str, own: set[str], wanted: str) -> bool:
    """Whether words are those of the item itself; of a name that is sought also a label that means the same."""
    stems = set(stems_of(value))
    like = 0.8 if wanted == "who" and len(stems) == 1 else 0.95
    return bool(stems) and all(asking.speech.likeness(stem, own) >= like for stem in stems)


_SAYS_NOTHING = frozenset(
    stem for word in ("study", "trial", "measure", "main", "the", "number", "group", "method", "data") for stem in stems_of(word)
)


def _is_proper(value: str, begin: int) -> float:
    return float(bool(_PROPER.fullmatch(value) or _LIST.fullmatch(value)) and (begin > 0 or " " in value))


def _is_no_name(value: str) -> bool:
    """Whether words are no answer to anything but a date: a month, a year, the letters of a statistic."""
    return bool(_NO_NAME.fullmatch(value)) or all(_CALENDAR.fullmatch(word) for word in re.findall(r"\w+", value))


def _own(text: str, asked: str, stems: set[str]) -> Iterator[tuple[int, int]]:
    """What stands right with a word of the item ("grades 7 and 8", "variety SK 12"), or has the form of what it asks for: a version, a short name, how often, a ratio."""
    for match in _NUMBERED.finditer(text):
        if stem_of_word(match[1]) in stems:
            yield match.span()
    for match in _NAMED_BEHIND.finditer(text):
        if stem_of_word(match["word"]) in stems or (match["word"] == "cv" and stems & {"cultivar", "varieti"}):
            yield match.span("name")
    for asks, form in _FORMS:
        if asks.search(asked):
            yield from (match.span() for match in form.finditer(text))


def _wanted(item: Asked) -> str:
    """What sort of words an item asks for: an identifier, a name, a place, a manner, or any."""
    for text in (item.name, item.instructions):
        for sort, pattern in (("id", _WHICH_ID), ("who", _WHO), ("where", _WHERE), ("how", _HOW)):
            if pattern.search(text):
                return sort
    return "what"


def _covered_by(asking: Asking, item: Asked, text: str) -> float:
    """The share of an item's name that a text says."""
    stems = frozenset(word_stems(text))
    wanted = {stem: asking.speech.weight(stem) for stem in stems_of(item.name)}
    total = sum(wanted.values())
    return sum(weight * asking.speech.likeness(stem, stems) for stem, weight in wanted.items()) / total if total and stems else 0.0


def _spans(text: str) -> Iterator[tuple[int, int, str]]:
    """Pieces of a sentence that may be an answer, each with what it is; none that ends within a name."""
    names = [(match.start(), match.start() + len(match[0].rstrip(".'’&-"))) for match in _PROPER.finditer(text)]
    return (piece for piece in _pieces(text) if not any(begin < piece[1] < end for begin, end in names))


def _pieces(text: str) -> Iterator[tuple[int, int, str]]:
    """An identifier, what follows a label, a verb, a preposition, a name, what stands before a verb, all."""
    if labelled := _LABEL.match(text):
        yield labelled.end(), len(text), "labelled"
        yield labelled.end(), _until(text, labelled.end(), _CUT), "labelled short"
    for match in _ID.finditer(text):
        yield match.start(), match.end(), "id"
    for match in _SAID_NUMBER.finditer(text):
        yield match.start("id"), match.end("id"), "id"
    for match in _MEASURE.finditer(text):
        yield match.start(), match.end(), "figure"
    for match in _COPULA.finditer(text):
        yield match.end(), _until(text, match.end(), _CLAUSE), "is"
        yield match.end(), _until(text, match.end(), _NARROW), "is short"
    for match in _COUNTED_OFF.finditer(text):
        yield match.start("what"), match.end("what"), "counted"
    for match in _AND_LIST.finditer(text):
        yield match.start("list"), match.end("list"), "list of words"
    for match in _APPOSED.finditer(text):
        yield match.start("what"), match.end("what"), "apposed"
        yield match.start("inside"), _until(text, match.start("inside"), _INSIDE), "inside"
    for match in _PREPOSITION.finditer(text):
        sort = "how" if match["how"] else "where" if match["where"] else "to"
        narrow = _until(text, match.end(), _NARROW)
        if sort == "to" and match["to"].lower() == "of" and _PROPER.fullmatch(text[match.end() : narrow]):
            sort = "where"
        yield match.end(), _until(text, match.end(), _CLAUSE), sort
        yield match.end(), narrow, sort
        yield match.end(), _until(text, match.end(), _HALFWAY), sort
    for match in _LIST.finditer(text):
        yield match.start(), match.end(), "list"
    for match in _PROPER.finditer(text):
        article = _ARTICLE.match(match[0])
        begin = match.start() + (article.end() if article else 0)
        if behind := _ID_OF.match(match[0]):
            yield match.start() + behind.end(), match.end(), "name"
        if " " in match[0] and _PLACE.search(match[0]):
            yield begin, match.end(), "place"
        if (match.start() > 0 or " " in match[0]) and not all(_CALENDAR.fullmatch(word) for word in re.findall(r"\w+", match[0])):
            yield begin, match.end(), "name"
    subject = re.match(r"[^.;:(]{2,80}?(?=\s+(?:was|were|is|are|paid|funded|supported|served)\b)", text)
    if subject:
        yield 0, subject.end(), "subject"
    yield 0, len(text), "all"


def _until(text: str, begin: int, pattern: re.Pattern[str]) -> int:
    found = pattern.search(text, begin)
    return found.start() if found else len(text)


_SORT_OF = re.compile(r"([a-z]+)\s+of\s+(?:the\s+)?(?=[A-ZÀ-Þ])")
_NUMBER_BEHIND = re.compile(r"\s*[(\[][^()]*\d[^()]*[)\]]$")


def _trimmed(text: str) -> str:
    """A piece without the article, the signs at its ends and brackets that it opens only."""
    text = re.sub(r"^(?:(?:the|a|an|our|its|their|either|both)\s+)+", "", text.strip(" ,;:.–—\"“”'"), flags=re.I).strip(' ,;:.–—"“”')
    if text.count("(") != text.count(")"):
        text = text.replace("(", "").replace(")", "").strip()
    return text
