"""Numbers and quantities of a study, from sentences and from tables."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import cache
from typing import Any, NamedTuple

from kettlesort.core.charting.proposals.amounts import LIMIT_BEFORE, Amount, amounts
from kettlesort.core.charting.proposals.candidates import Asking, Candidate, amounts_of, nearness, of_cell, of_sentence, speaks_of_others
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.numbers import Number, plain
from kettlesort.core.charting.proposals.passages import of_sentences, of_words
from kettlesort.core.charting.proposals.speaks import kin, stems_of, times_of
from kettlesort.core.charting.proposals.terms import ratio_of
from kettlesort.core.charting.units import DIMENSIONS, has_unit, of_unit, unit_after

_LIKE_A_UNIT = re.compile(
    r"^(?!(?:of|in|at|to|and|or|by|on|were|was|had|for|as|per|vs|did|from|with|died)\b)(?:[^\W\d_]{1,4}(?:[/·^²³].*)?|.*/.*)$", re.I
)
_WORD = re.compile(r"[^\W_]+")
_IN_ALL = re.compile(r"\b(?:total of|altogether|overall|in all|in total|all)\s*$", re.I)
_IMPLIED = (
    (re.compile(r"\b(?:age|aged|duration|length of|(?<!lost to )follow-?up|how long|time)\b", re.I), "time"),
    (re.compile(r"\b(?:weight|dose|dosage|mass)\b", re.I), "mass"), (re.compile(r"\btemperature\b", re.I), "temperature"),
    (re.compile(r"\b(?:per ?cent|percentage|proportion|share)\b", re.I), "share"), (re.compile(r"\b(?:height|depth|width|thickness|distance)\b", re.I), "length"),
)  # fmt: skip
_PLACES = re.compile(r"\b(?:sites?|cent(?:re|er)s?|hospitals?|clinics?|places?|locations?|schools?|farms?|units?)\b", re.I)
_ANY_PLACE = re.compile(r"\b(?:sites?|cent(?:re|er)s?|places?|locations?)\b", re.I)
_AT_PLACES = re.compile(
    r"(?:\b(?:at|in|on|from|across|within)\s+(?P<n>\w+)\s+(?P<what>(?:[a-z-]+\s+){0,2}[a-z]+s)\b)|(?:^(?P<m>\w+)\s+(?:[a-z-]+\s+){1,3}(?:in|across|of)\s+[A-Z])"
)
_STATISTICS = {
    "mean": re.compile(r"\b(?:mean|average[ds]?|averaging)\b|\bM\s*=", re.I),
    "median": re.compile(r"\bmedian\b", re.I),
    "limit": re.compile(
        r"\b(?:minim\w*|maxim\w*|limits?|eligib\w*|lowest|highest|range|cut-?offs?|criteri\w*|upper|lower|youngest|oldest|greatest|least|longest|shortest|threshold)\b",
        re.I,
    ),
}
_STATED = {name: re.compile(rf"(?:{_STATISTICS[name].pattern})[^.;\d]{{0,25}}\d", re.I) for name in ("mean", "median")}
"""Where a sentence gives a mean or a median: no other number of it is one."""
_LIMIT_AFTER = re.compile(
    r"^\s*(?:[a-z]+\s+)?(?:(?:of age\s+)?(?:and|or)\s+(?:older|over|above|more|younger|under|below|less|fewer|later|longer)\b|(?:to|[-–])\s*\d)",
    re.I,
)
_HOW_MANY = re.compile(r"^\s*(?:(?:total|overall)\s+)?(?:number|no\.|count|n)\s+of\s+|^\s*how many\s+", re.I)
_AND_THEN = re.compile(r"\s*(?:[,;]\s*)?(?:and|or|but)\b", re.I)
_TIMES = re.compile(r"\b(?:times|how often|rounds?|visits?|sessions?|applications?|sprays|treatments)\b", re.I)
_OF_WHAT = re.compile(r"\s+(?:per|of|in|at|with|from|for|by|on|to)\s+", re.I)
_WHO_DID = re.compile(r"\s+(?:who|that|which|were|was)\s+", re.I)
_ALLOTTED = re.compile(
    r"^[^.;\d]{0,40}?\b(?:received|underwent|served as|acted as|waited|got|were (?:assigned|allocated) to|in the \w+ (?:group|arm))\b", re.I
)
_GONE = re.compile(
    r"^[^.;]{0,60}?\b(?:lost|drop(?:ped)? ?-?out|dropped|withdr\w+|excluded|discontinued|died|missing|refused|declined|screened|assessed for eligibility|invited|approached|contacted|eligible|did not|failed|missed|stopped|left (?:early|the))\b",
    re.I,
)
_ASKED = re.compile(
    r"\b(?:invited|approached|contacted|screened|serves|serving|population of|catchment \w*\s?of)\s+(?:about\s+|some\s+|all\s+(?:the\s+)?|a\s+total\s+of\s+)?$",
    re.I,
)
_AGED = re.compile(r"\b(?:age|aged|ages)\b[^.;\d]{0,25}$|\b(?:older|younger) than\s*$", re.I)
_COUNTING = re.compile(r"\b(?:number|how many|n|sample size|count|no\.|size)\b", re.I)
_SCALE = re.compile(r"\b(?:scores?|scale|minimum|maximum|range|highest|lowest|best|worst|points|items)\b", re.I)


class _Wanted(NamedTuple):
    """What is looked for in the whole report: whether places are counted, the values in the item's unit, what tells those who are asked for, and how many took part (0 where others are asked for)."""

    places: bool
    in_unit: _InUnit
    deeds: list[str]
    everybody: float


def single(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """What may be the number or the quantity that an item asks for."""
    deeds = _deeds(asking, item)
    everybody = _largest(asking) if item.kind == "number" and all(stem in _joining() for stem in deeds) else 0.0
    wanted = _Wanted(bool(_PLACES.search(item.name)), _values_in(asking, item.unit), deeds, everybody)
    for k, sentence in enumerate(asking.passages.sentences):
        signs = of_sentence(asking, item, k)
        if (
            signs["name"] < 0.08
            and signs["instructions"] < 0.25
            and signs["sense"] < 0.15
            and not (wanted.places and _AT_PLACES.search(sentence.text))
            and k not in wanted.in_unit.sentences
        ):
            continue
        every = amounts_of(asking, k)
        for amount in every:
            if (fit := _fit(item, amount, sentence.text, every)) and (quote := of_sentences(asking.passages, k, k, amount.begin)):
                beside = _beside(asking, item, wanted, k, amount, every, fit)
                yield Candidate(item.id, None, fit.value, quote, {**signs, **fit.signs, **beside})
    for k, cell in enumerate(asking.passages.cells):
        text = cell.text
        every = amounts(text, asking.passages.commas)
        for amount in every:
            if amount.begin > (6 if len(cell.table.head) > 2 else 60) or not (
                fit := _fit(item, amount, text, every, f"{cell.label} {cell.head}")
            ):
                continue
            signs = of_cell(asking, item, k)
            if signs["name"] > 0.15 and (quote := of_words(asking.passages, cell.table.page, cell.words())):
                whole = len(cell.table.head) == 2 or bool(re.search(r"\b(?:total|all|overall|value|both)\b", cell.head, re.I))
                yield Candidate(
                    item.id,
                    None,
                    fit.value,
                    quote,
                    {**signs, **fit.signs, "near": signs["label"], "whole": float(whole), "part": float(not whole)},
                )


def _beside(asking: Asking, item: Asked, wanted: _Wanted, k: int, amount: Amount, every: Sequence[Amount], fit: Fit) -> dict[str, float]:
    """What stands beside a number of the k-th sentence, and what it is in the whole report."""
    text, others, in_unit = asking.passages.sentences[k].text, asking.passages.numbers[k], wanted.in_unit
    before, after = text[max(0, amount.begin - 45) : amount.begin], text[amount.end :]
    near = nearness(asking, item, text, amount.begin, amount.end)
    within = [one for one in every if one.sort not in ("single", "size") and one.begin <= amount.begin < one.end]
    signs = {
        "near": near,
        "first": 1 / (1 + k / 20),
        "sole unit": float(fit.signs["unit"] == in_unit.itself and bool(item.unit)) / max(1, len(in_unit.values)),
        "counted": _counted(asking, item, _what_is_counted(text, amount)),
        "compound": float(any(not _is_asked_of(one, amount, item) for one in within)),
        "named before": _named_before(asking, item, text[: amount.begin]),
        "claimed": _claimed(asking, item, text, amount, others),
        "per asked": _per_asked(item, after),
        "apiece": float(
            bool(_APIECE.match(after))
            and not _EACH.search(f"{item.name} {item.instructions}")
            and not (item.unit and has_unit(text, amount.numbers[0], item.unit))  # 200 kg N per hectare
        ),
        "largest": float(amount.numbers[0].value == wanted.everybody > 1),
        "places": float(wanted.places and _at_places(asking, item, text, amount.begin)),
        "in all": float(not _ASKED.search(before) and bool(_IN_ALL.search(before[-30:]))),
        **_which_end(item, text, amount),
        **_statistic(item, text, amount),
        **_sums(amount.numbers[0], others, near),
        **_deed(asking, wanted.deeds, text, amount),
        **_own_time(item, text, amount, others),
    }
    if not in_unit.itself:  # the report measures it otherwise throughout
        signs["other unit"] = 0.3 * fit.signs["other unit"]
    return signs


def _at_places(asking: Asking, item: Asked, text: str, begin: int) -> bool:
    """Whether a number at ``begin`` counts places that something was done at: in three wards, where sites are asked for."""
    wanted = stems_of(item.name)
    for at in _AT_PLACES.finditer(text):
        if max(at.start("n"), at.start("m")) == begin:
            what = at["what"]
            return (
                what is None
                or bool(_PLACES.search(what) or _ANY_PLACE.search(item.name))
                or any(asking.speech.likeness(one, stems_of(what)) >= 0.7 for one in wanted)
            )
    return False


class _InUnit(NamedTuple):
    """The values that a report gives in a unit, or, where it gives none in it, in others of what it measures; and the sentences that hold them."""

    values: frozenset[float]
    sentences: frozenset[int]
    itself: bool


def _values_in(asking: Asking, unit: str) -> _InUnit:
    said = asking.passages
    every = [
        (sentence.text, number, k)
        for k, sentence in enumerate(said.sentences)
        for number in said.numbers[k]
        if unit and not _IN_A_SIZE.search(sentence.text[max(0, number.begin - 8) : number.begin])
    ]
    found = [(number.value, k) for text, number, k in every if has_unit(text, number, unit)]
    itself, dimension = bool(found), of_unit(unit)[0] if unit else ""
    if not found and dimension in DIMENSIONS:
        found = [(number.value, k) for text, number, k in every if of_unit(unit_after(text, number))[0] == dimension]
    return _InUnit(frozenset(value for value, _ in found), frozenset(k for _, k in found), itself)


_IN_A_SIZE = re.compile(r"\d\s?\w{0,3}\s?[x×]\s?$")
_RANGE_OF = re.compile(
    r"(?<=[\d ])(?P<unit>[A-Za-z%°]+)(?:\s+(?:old|of age))?\s*[(\[,]\s*(?:(?:range|iqr|from|interquartile range)[:,]?\s*|(?:mean|median|average)[:,]?\s*|(?=\d+(?:\.\d+)?\s*(?:[-–—]|to)))(?:\d+(?:\.\d+)?\s*(?:[-–—]|to)\s*)?$",
    re.I,
)
_LOWEST, _HIGHEST = (
    re.compile(rf"\b(?:{words})\b", re.I)
    for words in (
        r"minim\w*|lowest|youngest|lower|smallest|least|shortest|from",
        r"maxim\w*|highest|oldest|upper|largest|greatest|most|longest|up to",
    )
)
_ON, _BEFORE = re.compile(r"\s?(?:[-−–—]|to|and)\s?\d"), re.compile(r"\d\s?(?:[-−–—]|to|and)\s?$")


def _which_end(item: Asked, text: str, amount: Amount) -> dict[str, float]:
    """Whether a number is the end of a range that is asked for: of "aged 18 to 45 years" the lowest is 18."""
    asked = f"{item.name} {item.instructions}"
    wanted = 1 * bool(_HIGHEST.search(asked)) - 1 * bool(_LOWEST.search(asked))
    end = 1 * bool(_BEFORE.search(text[: amount.begin])) - 1 * bool(_ON.match(text, amount.numbers[0].end))
    return {"right end": float(bool(wanted) and wanted == end), "wrong end": float(bool(wanted) and wanted == -end)}


def _is_asked_of(several: Amount, amount: Amount, item: Asked) -> bool:
    """Whether of several numbers an amount is the one that may be asked for alone: the count beside its share, 161 (74%), or the mean beside its SD where a mean is asked for."""
    if several.sort == "of" and several.sure < 1:
        return True  # of 33 who began, 30 completed
    first = several.numbers[0].begin == amount.numbers[0].begin
    mean = several.sort == "spread" and _STATISTICS["mean"].search(f"{item.name} {item.instructions}") is not None
    return first and (several.sort in ("share", "of") or mean)


def _statistic(item: Asked, text: str, amount: Amount) -> dict[str, float]:
    """Whether a number is the statistic that is asked for: a mean, a median, a limit; and whether it counts those that were lost, which is not asked."""
    asked_of = f"{item.name} {item.instructions}"
    asked = {name for name, pattern in _STATISTICS.items() if pattern.search(asked_of)}
    before, after = text[max(0, amount.begin - 45) : amount.begin], text[amount.end : amount.end + 40]
    clause = re.split(r"[;:(]|,\s", before)[-1]
    said = {name for name in ("mean", "median") if _STATISTICS[name].search(clause)}
    if LIMIT_BEFORE.search(before) or _LIMIT_AFTER.match(re.sub(r"^\s*(?:years?|months?|weeks?|days?)\b", "", after)):
        said.add("limit")
    gone = _GONE.match(text[amount.end :]) or _ASKED.search(before)
    return {
        "statistic": float(bool(asked & said)),
        "other statistic": float(bool(asked and said and not asked & said)),
        "statistic elsewhere": float(not said and any(_STATED[name].search(text) for name in asked & _STATED.keys())),
        "limit": float("limit" in said and not asked),
        "allotted": float(bool(_ALLOTTED.match(text[amount.end :]))),
        "gone": float(bool(gone) and not _GONE.search(f" {asked_of}") and not any(kin(stem) & _leaving() for stem in stems_of(asked_of))),
    }


def _leaving() -> set[int]:
    """The concepts of those who do not stay to the end."""
    return kin("dropout") | kin("die") | kin("death") | kin("lost")


_BEFORE_SIZE = re.compile(r"(?:^|[,;:.()]|\b(?:and|the|of|in|with|were|was|to|for)\b)?\s*(?P<who>(?:[\w'-]+\s+){0,3}[\w'-]+)\s*[(\[,]\s*$")


def _what_is_counted(text: str, amount: Amount) -> str:
    """The words behind a number; of "emergency operations (n = 41)" those before it."""
    if amount.sort == "size" and (before := _BEFORE_SIZE.search(re.sub(r"\b[nN]\s*=?\s*$", "", text[: amount.begin]))):
        return before["who"]
    return text[amount.end :]


def _counted(asking: Asking, item: Asked, after: str) -> float:
    """Whether the words right after a number are those of the item: what it counts. Up to the next number; words that only mean the like count half."""
    if re.match(r"\s+times\b", after) and (_HOW_MANY.match(item.name) or _TIMES.search(f"{item.name} {item.instructions}")):
        return 0.5  # sprayed three times
    if _AND_THEN.match(after):
        return 0.0  # sensitivity 0.71 and specificity 0.97
    words = _WORD.findall(re.split(r"\d", re.sub(r"^\s*\([^)]*\)", "", after)[:60])[0])
    stems = [stem for word in words[:3] for stem in stems_of(word)]
    people = asking.speech.people_stems & frozenset(stems_of(item.instructions)[:2])  # "Children enrolled" says what is counted
    names = [item.name, *([item.instructions] if people or _HOW_MANY.match(item.instructions) else [])]
    return max(_counts(asking, _HOW_MANY.sub("", name), stems) for name in names) if stems else 0.0


def _counts(asking: Asking, name: str, stems: Sequence[str]) -> float:
    whole, *told = _WHO_DID.split(name, maxsplit=1)
    head = (
        (stems_of(_OF_WHAT.split(whole)[0]) or stems_of(whole)) if not told else stems_of(told[0])
    )  # those who did something are counted where they do
    like = max((asking.speech.likeness(wanted, stems) for wanted in head), default=0.0)
    like = like if like >= 0.8 else like / 2
    return max(like, *(asking.speech.likeness(wanted, stems) / 2 for wanted in stems_of(name))) if stems_of(name) else like


def _sums(number: Number, others: Sequence[Number], near: float) -> dict[str, float]:
    """Whether a number is the sum of two to six others of its sentence that follow each other, or a part of such a sum; a sum counts as far as the item is spoken of ``near`` it."""
    whole = [other.value for other in others if other.whole and other.value > 1]
    runs = [whole[k : k + size] for size in range(2, 7) for k in range(len(whole) - size + 1)]
    parts = [run for run in runs if sum(run) in whole]
    return {
        "sum": min(1.0, 2 * near) * any(number.value == sum(run) for run in parts),
        "part": float(any(number.value in run for run in parts)),
    }


def _deeds(asking: Asking, item: Asked) -> list[str]:
    """The stems of an item's name that tell those who are counted from others: not those of whoever takes part, nor of counting."""
    people = asking.speech.people_stems
    for said in (item.name, item.instructions):
        if found := [stem for stem in stems_of(said) if stem not in people and asking.speech.is_telling(stem)]:
            return found
    return []


def _deed(asking: Asking, deeds: Sequence[str], text: str, amount: Amount) -> dict[str, float]:
    """How much of what tells those who are asked for stands right by a number: behind it up to the next one, or before the bracket that it stands in."""
    if not deeds:
        return {}
    if _AND_THEN.match(text[amount.end :]):
        after = ""
    else:
        after = re.split(r"\d|[;:]|,\s+(?:and|but|of whom)\b", re.sub(r"^\s*[)\]]|^\s*\([^)]*\)", "", text[amount.end :])[:70])[0]
    words = _WORD.findall(after)[:8]
    if amount.sort == "size":
        words += _WORD.findall(_what_is_counted(text, amount))
    else:
        words += _WORD.findall(re.split(r"[\d;:,.()]", text[: amount.begin])[-1])[-2:]
    stems = [stem for word in words for stem in stems_of(word)]
    return {"deed": sum(asking.speech.likeness(one, stems) for one in deeds) / len(deeds) if stems else 0.0}


_JUST_BEFORE = re.compile(
    r"(?P<word>[^\W\d_]+)\W{0,3}(?:(?:of|was|is|were|at|about|around|to|equal(?:led|s)?|averaged|being|reached)\s+){0,2}(?:an?\s+)?[=:(]?\s*$",
    re.I,
)


def _named_before(asking: Asking, item: Asked, before: str) -> float:
    """How like the item's most telling words is the word right before a number: a pH of 5.6, response rate 76.5%."""
    found = _JUST_BEFORE.search(before[-60:])
    stems = stems_of(ratio_of(found["word"])) if found else []
    return (
        max((asking.speech.likeness(one, stems) for one in stems_of(item.name) if asking.speech.is_telling(one)), default=0.0)
        if stems
        else 0.0
    )


def _claimed(asking: Asking, item: Asked, text: str, amount: Amount, others: Sequence[Number]) -> float:
    """Whether one of the item's telling words stands before a number with no other number between: of sensitivity 0.71 and specificity 0.97 each has its own."""
    begin = max((other.end for other in others if other.end <= amount.begin), default=0)
    clause = re.split(r"[;:.]\s", text[max(begin, amount.begin - 90) : amount.begin])[-1]
    stems = [stem for word in _WORD.findall(clause) for stem in stems_of(ratio_of(word))]
    return (
        max((asking.speech.likeness(one, stems) for one in stems_of(item.name) if asking.speech.is_telling(one)), default=0.0)
        if stems
        else 0.0
    )


_ONE_OF_SEVERAL = re.compile(r"\s+of\s+(?:the\s+)?(?:\d|two|three|four|five|six)\b", re.I)
_APIECE = re.compile(r"\s+(?:[a-z-]+\s+){1,2}(?:per|in each|for each|to each|each)\b", re.I)
_EACH = re.compile(r"\b(?:per|each|every)\b", re.I)


def _own_time(item: Asked, text: str, amount: Amount, others: Sequence[Number]) -> dict[str, float]:
    """Whether the time that is asked for stands between a number and the one before it, or another does: at 12 months 93% and at 24 months 89%."""
    wanted = times_of(f"{item.name} {item.instructions}")
    if not wanted:
        return {}
    before = [other for other in others if other.end <= amount.begin and of_unit(unit_after(text, other))[0] != "time"]
    said = times_of(text[max((other.end for other in before), default=0) : amount.begin])
    return {"own time": float(bool(wanted & said)), "not its time": float(bool(said) and not wanted & said)}


def _per_asked(item: Asked, after: str) -> float:
    """Whether a number is by what the item asks it by: 45 fish per tank."""
    asked, said = _PER.search(item.name), _PER.match(re.split(r"\d", after)[0])
    return float(bool(asked and said and set(stems_of(asked["what"])) & set(stems_of(said["what"]))))


_PER = re.compile(r"(?:.{0,25}?\s)?(?:per|in each|for each|to each|each|an?)\s+(?P<what>[a-z]+)", re.I)


@cache
def _joining() -> frozenset[str]:
    """The stems of taking part, which tell nobody from the others."""
    words = "enrolled enrol recruited included inclusion randomised randomized participated participating part took sample size cohort followed studied study examined observed investigated allocated assigned admitted treated surveyed visited joined began"
    return frozenset(stems_of(words))


def _largest(asking: Asking) -> float:
    """The largest number of those who take part that the report gives of itself."""
    people = asking.speech.people
    return max(
        (
            amount.numbers[0].value
            for k, sentence in enumerate(asking.passages.sentences)
            if not speaks_of_others(sentence.text)
            for amount in amounts_of(asking, k)
            if amount.sort == "single" and not amount.note and amount.numbers[0].whole
            if not _GONE.match(sentence.text[amount.end :]) and not _ASKED.search(sentence.text[max(0, amount.begin - 45) : amount.begin])
            if set(re.findall(r"[a-z]+", re.split(r"[(.,;:]", sentence.text[amount.end : amount.end + 40].lower())[0])[:3]) & people
        ),
        default=0.0,
    )


class Fit(NamedTuple):
    """A number as a value, and how well it fits the item by itself."""

    value: Any
    signs: dict[str, float]


def _named(unit: str, text: str) -> bool:
    """Whether a text names a unit, whichever way it is written."""
    return any(of_unit(word)[1] == unit for word in _WORD.findall(text))


def _fit(item: Asked, amount: Amount, text: str, every: Sequence[Amount], hint: str = "") -> Fit | None:
    """A number as the value of an item, by itself; of ``every`` amount of its text one may say that it is a mean, whose unit stands behind its SD: 7.4 +/- 1.2 kg."""
    if amount.sort not in ("single", "size") or amount.note in ("p", "interval", "cited", "label"):
        return None
    if amount.note == "scale" and not _SCALE.search(f"{item.name} {item.instructions}"):
        return None
    number = amount.numbers[0]
    if number.in_words and number.value == 1 and _ONE_OF_SEVERAL.match(text, number.end):
        return None
    if item.kind == "number" and re.match(r"-[A-Za-z]", text[number.end : number.end + 2]):
        return None  # two-year-old
    sd = next((one.numbers[1] for one in every if one.sort == "spread" and one.begin == amount.begin), None)
    unit = unit_after(text, number) or (unit_after(text, sd) if sd else "")
    wanted = of_unit(item.unit) if item.unit else None
    found = of_unit(unit) if unit else None
    behind = _RANGE_OF.search(text[: amount.begin])  # 47 years (range 18-86)
    if wanted and (
        has_unit(text, number, item.unit) or (unit and of_unit(unit) == wanted) or (behind and of_unit(behind["unit"]) == wanted)
    ):
        found, unit = wanted, item.unit
    unknown = found is not None and found[0] not in DIMENSIONS
    if unknown and not (wanted and found == wanted) and (item.kind != "quantity" or wanted or not _LIKE_A_UNIT.match(unit)):
        found = None
    if wanted and found is None and hint and re.search(rf"(?<![\w]){re.escape(item.unit)}(?![\w])", hint, re.I):
        found, unit = wanted, item.unit
    signs = {
        "unit": float(bool(wanted and found and found == wanted)),
        "other unit": float(bool(wanted and (found is None or found != wanted))),
        "percent": float(number.percent and not (wanted and wanted[0] == "share")),
        "year": float(amount.note == "year"),
        "sd": float(amount.note == "sd"),
        "count": float(number.whole),
        "money or time": float(not wanted and found is not None and found[0] in ("time", "mass", "share", "length", "volume")),
        "size": float(amount.sort == "size"),
        "unknown unit": float(unknown and not wanted),
        "no count": float(not number.whole and bool(_COUNTING.search(f"{item.name} {item.instructions}")) and not item.unit),
        "counting": float(bool(_COUNTING.search(f"{item.name} {item.instructions}")) and found is not None),
    }
    asked = f"{item.name} {item.instructions}"
    if (
        item.kind == "number"
        and not wanted
        and found
        and found[0] not in ("share", "money")
        and _COUNTING.search(item.name)
        and not _named(found[1], asked)
    ):
        return None  # 12 weeks are no number of places
    implied = {dimension for pattern, dimension in _IMPLIED if pattern.search(asked)}
    if (
        found is None
        and wanted == of_unit("years")
        and _AGED.search(text[max(0, amount.begin - 40) : amount.begin])
        and re.search(r"\bage", asked, re.I)
    ):
        found, signs["other unit"] = wanted, 0.0  # a mean age of 13.6 is one of years
        signs["implied unit"] = 1.0
        return (
            Fit({"value": plain(number.value, number.decimals), "unit": item.unit}, {**signs, "no implied unit": 0.0})
            if item.kind == "quantity"
            else Fit(plain(number.value, number.decimals), signs)
        )
    signs["implied unit"] = float(bool(not wanted and found and found[0] in implied))
    signs["no implied unit"] = float(bool(not wanted and implied and (found is None or found[0] not in implied)))
    if item.kind == "quantity":
        if wanted and (found is None or found[0] != wanted[0]):
            return None
        if not wanted and found is None:
            return None
        assert found
        return Fit(
            {
                "value": plain(number.value, number.decimals),
                "unit": item.unit if wanted and found == wanted else unit if found else item.unit,
            },
            signs,
        )
    if wanted and found and found[0] != wanted[0]:
        return None
    return Fit(plain(number.value, number.decimals), signs)
