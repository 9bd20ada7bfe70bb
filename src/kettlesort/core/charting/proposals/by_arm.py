"""Events, means and medians of each arm, from sentences and from tables."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import groupby, pairwise
from typing import Any, NamedTuple

from kettlesort.core.charting.items import COUNTED
from kettlesort.core.charting.proposals.amounts import Amount, amounts
from kettlesort.core.charting.proposals.arms import Arms, Mention
from kettlesort.core.charting.proposals.candidates import Asking, Candidate, amounts_of, nearness, of_cell, of_sentence
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.numbers import Number, numbers, plain
from kettlesort.core.charting.proposals.passages import CellAt, of_sentences, of_words
from kettlesort.core.charting.proposals.speaks import BASELINE, stems_of
from kettlesort.core.charting.units import DIMENSIONS, of_unit, unit_after
from kettlesort.core.fulltext.article import normal
from kettlesort.core.fulltext.tables import Cell, Table

_SORTS: dict[str, tuple[str, ...]] = {"counts": ("of", "share", "single"), "mean_sd": ("spread",), "median_range": ("range",)}
_RESPECTIVELY = re.compile(r"\brespectively\b", re.I)
_VERSUS = re.compile(r"^[)\]\s]*(?:[a-zµ°%/]{1,8}\s+)?(?:and|versus|vs\.?|v\.?|against|compared (?:with|to)|as against|or)\s+$", re.I)
"""What stands between two values that are set against each other."""
_ASSIGNED = re.compile(r"\b(?:randomi[sz]|assign|allocat|divided|received|given|enrol|comprised|analy[sz]ed)", re.I)
_SIZE_LABEL = re.compile(
    rf"^(?:n|no\.?|number|total|sample size|(?:number |no\.? )?(?:of )?(?:\w+ )?(?:randomi[sz]ed|analy[sz]ed|assigned|allocated|{COUNTED}|n))\.?$",
    re.I,
)
_EVENT_HEAD = re.compile(r"^(?:events?|n|cases|no\.?|number|with event|count|x)\.?$", re.I)
_TOTAL_HEAD = re.compile(
    rf"^(?:total|n|of|sample|denominator|randomi[sz]ed|analy[sz]ed|at risk|(?:(?:no\.?|number) of )?(?:{COUNTED}))\.?$", re.I
)
_MEAN_HEAD, _SD_HEAD = re.compile(r"\b(?:mean|average|m)\b", re.I), re.compile(r"\b(?:sd|s\.d\.|standard deviation|±\s*sd)(?:\b|$)", re.I)
_NOT_SD = re.compile(
    r"\b(?:(?:se|sem|s\.e\.(?:m\.)?|standard errors?|95\s?% ?ci|iqr|interquartile)(?:\b|$)|(?:n|no\.?|number)\s*[(\[,]\s*%)", re.I
)
_MEDIAN, _IQR = re.compile(r"\bmedian\b", re.I), re.compile(r"\b(?:iqr|interquartile|quartiles?|q1)\b", re.I)


class Size(NamedTuple):
    """How many an arm has, said in a sentence or above a column."""

    arm: int
    number: Number
    sentence: int | None
    surely: bool = True
    """Whether the sentence says that it is a size, and not just a number beside an arm."""


def by_arm(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """What may be the values of an item that has arms; of one without arms, for the study as a whole."""
    heads = [normal(cell.text) for table in asking.passages.article.tables for cell in table.head]
    labels = [normal(line.cells[0].text) for table in asking.passages.article.tables for line in table.lines]
    arms = Arms(item.arms, [*(sentence.text for sentence in asking.passages.sentences), *heads, *labels], frozenset(stems_of(item.name)))
    sizes = list(_sizes(asking, arms)) if item.arms else []
    for k in range(len(asking.passages.sentences)):
        yield from _from_sentence(asking, item, arms, sizes, k)
    yield from _from_tables(asking, item, arms)


def _sizes(asking: Asking, arms: Arms) -> Iterator[Size]:
    for k, sentence in enumerate(asking.passages.sentences):
        if not (mentions := arms.mentions(sentence.text)):
            continue
        found = [amount for amount in amounts_of(asking, k) if amount.sort == "size"]
        surely = bool(found or _ASSIGNED.search(sentence.text))
        if not found:
            found = [
                amount
                for amount in amounts_of(asking, k)
                if amount.sort == "single"
                and not amount.note
                and amount.numbers[0].whole
                and amount.numbers[0].value > 1
                and of_unit(unit_after(sentence.text, amount.numbers[0]))[0] not in DIMENSIONS
            ]
            if len(found) == len(mentions) + 1 and found[0].numbers[0].value == sum(amount.numbers[0].value for amount in found[1:]):
                found = found[1:]
            if len(found) != len(mentions):
                continue
        for amount, arm, _ in assigned(sentence.text, found, mentions):
            yield Size(arm, amount.numbers[0], k, surely)


def assigned(text: str, found: Sequence[Amount], mentions: Sequence[Mention]) -> list[tuple[Amount, int, float]]:
    """Which amount of a sentence is that of which arm, and how surely: one by one where there are as many arms as amounts, else by what stands nearest."""
    if not found or not mentions:
        return []
    named = [(amount, [m for m in mentions if amount.begin <= m.begin < amount.end]) for amount in found]
    if any(inside for _, inside in named):
        return [(amount, inside[0].arm, 0.9 * inside[0].sure) for amount, inside in named if inside]
    arms = [m.arm for m in mentions]
    if len(set(arms)) == 1:
        if len(found) == 1:
            return [(found[0], arms[0], 0.8 * mentions[0].sure)]
        return [
            min(
                _nearest(text, found, mentions),
                key=lambda pair: min(abs(pair[0].begin - m.end) if pair[0].begin > m.end else abs(m.begin - pair[0].end) for m in mentions),
            )
        ]
    if len(found) == len(mentions) and len(set(arms)) == len(arms):
        return [(amount, m.arm, m.sure) for amount, m in zip(found, mentions, strict=True)]
    last = mentions[-len(set(arms)) :]
    if _RESPECTIVELY.search(text) and len({m.arm for m in last}) == len(last) and len(found) % len(last) == 0:
        return [(amount, last[k % len(last)].arm, 0.9 * last[k % len(last)].sure) for k, amount in enumerate(found)]
    if len(set(arms)) == len(arms) and len(found) % len(arms) == 0:
        each = len(found) // len(arms)
        first = found[0].begin < mentions[0].begin
        if all(_between(found, mentions, k, each, first) for k in range(len(arms))):
            return [(amount, mentions[k // each].arm, 0.85 * mentions[k // each].sure) for k, amount in enumerate(found)]
    return _nearest(text, found, mentions)


def _between(found: Sequence[Amount], mentions: Sequence[Mention], k: int, each: int, first: bool) -> bool:
    """Whether the k-th arm's amounts stand beside it, and beside no other."""
    some = found[k * each : (k + 1) * each]
    if first:
        return some[-1].end <= mentions[k].begin and (k == 0 or some[0].begin >= mentions[k - 1].end)
    return some[0].begin >= mentions[k].end and (k + 1 == len(mentions) or some[-1].end <= mentions[k + 1].begin)


_INTO = re.compile(
    r"^\W{0,3}(?:\(?\d+(?:\.\d+)?\s?%\)?\W{0,2})?\s*(?:\w+\s+){0,3}?(?:in|of|for|with|among|on|under|receiving|given|the|from|to)\b[^.;:\d]{0,40}$",
    re.I,
)


def _nearest(text: str, found: Sequence[Amount], mentions: Sequence[Mention]) -> list[tuple[Amount, int, float]]:
    out = []
    for amount in found:

        def gap(m: Mention, amount: Amount = amount) -> float:
            between = text[amount.end : m.begin] if m.begin >= amount.end else text[m.end : amount.begin]
            far = (
                len(between)
                + 40 * sum(between.count(sign) for sign in ";.:")
                + 15 * len(re.findall(r"\band\b|,|\bversus\b|\bvs\b", between))
            )
            return far - (25 if m.begin >= amount.end and _INTO.match(between) else 0)

        best = min(mentions, key=gap)
        others = [gap(m) for m in mentions if m.arm != best.arm]
        clear = min(others) - gap(best) if others else 50
        out.append((amount, best.arm, best.sure * (0.7 if clear > 20 else 0.45)))
    return out


def _from_sentence(asking: Asking, item: Asked, arms: Arms, sizes: Sequence[Size], k: int) -> Iterator[Candidate]:
    sentence = asking.passages.sentences[k]
    signs = of_sentence(asking, item, k)
    if signs["contrary"] or (signs["name"] < 0.1 and signs["sense"] < 0.05):
        return
    mentions = arms.mentions(sentence.text) if item.arms else []
    every = amounts_of(asking, k)
    for sort in _SORTS[item.kind]:
        some = _apart([amount for amount in every if amount.sort == sort and _may_be(item, amount)])
        if sort == "single":
            some = [
                amount for amount in some if not any(o.begin <= amount.begin < o.end for o in every if o.sort not in ("single", "size"))
            ]
        if not mentions and len(some) == len(item.arms) > 1:
            if _RESPECTIVELY.search(sentence.text) or all(_VERSUS.match(sentence.text[a.end : b.begin]) for a, b in pairwise(some)):
                mentions = _said_before(asking, arms, k) or _in_order(asking, arms)
        elif (
            len(some) == len(item.arms) == 2
            and len({m.arm for m in mentions}) == 1
            and _VERSUS.match(sentence.text[some[0].end : some[1].begin])
        ):
            mentions = _in_order(asking, arms) or mentions  # longer after the one (96 ± 31 vs 74 ± 28)
        for amount, arm, sure in assigned(sentence.text, some, mentions) if item.arms else [(amount, -1, 1.0) for amount in some]:
            yield from _candidate(asking, item, k, amount, arm, sure, sizes, signs)


def _said_before(asking: Asking, arms: Arms, k: int) -> list[Mention]:
    """The arms in the order in which one of the two sentences before named them all: what "respectively" means."""
    for before in range(k - 1, max(-1, k - 3), -1):
        if first := _all_named(arms, asking.passages.sentences[before].text, 0.7):
            return first
    return []


def _in_order(asking: Asking, arms: Arms) -> list[Mention]:
    """The arms in the order in which every sentence that names them all does so; none where they do not agree."""
    found = [first for sentence in asking.passages.sentences if (first := _all_named(arms, sentence.text, 0.6))]
    return found[-1] if len({tuple(m.arm for m in first) for first in found}) == 1 else []


def _all_named(arms: Arms, text: str, sure: float) -> list[Mention]:
    """The arms in the order in which a text first names each, if it names all of them: as mentions of another sentence, beyond its end."""
    first: dict[int, Mention] = {}
    for mention in arms.mentions(text):
        first.setdefault(mention.arm, mention._replace(begin=10**6, end=10**6, sure=sure * mention.sure))
    return list(first.values()) if len(first) == len(arms.arms) else []


def _apart(found: Sequence[Amount]) -> list[Amount]:
    out: list[Amount] = []
    for amount in sorted(found, key=lambda one: (one.begin, -one.sure)):
        if not out or amount.begin >= out[-1].end:
            out.append(amount)
    return out


def _may_be(item: Asked, amount: Amount) -> bool:
    if amount.sort != "single":
        return amount.note != "interval"
    number = amount.numbers[0]
    return number.whole and not amount.note


def _candidate(
    asking: Asking, item: Asked, k: int, amount: Amount, arm: int, sure: float, sizes: Sequence[Size], signs: dict[str, float]
) -> Iterator[Candidate]:
    sentence = asking.passages.sentences[k]
    own = {
        **signs, "near": nearness(asking, item, sentence.text, amount.begin, amount.end), "pattern": amount.sure, "arm": sure,
        "baseline": _changed(item, amount, sentence.text, signs["baseline"]), "odd": _odd(item, amount, sentence.text), "single": float(amount.sort == "single"), "share": float(amount.sort == "share"),
    }  # fmt: skip
    name = item.arms[arm].id if item.arms else None
    if amount.sort == "of":
        if quote := of_sentences(asking.passages, k, k, amount.begin):
            yield Candidate(item.id, name, _value(item, amount, None), quote, own)
        return
    fit = [
        size
        for size in sizes
        if size.arm == arm and size.sentence is not None and (size.surely or amount.sort == "share") and _fits(item, amount, size.number)
    ]
    for size in sorted(fit, key=lambda size: (not size.surely, abs(k - (size.sentence or 0)), size.sentence))[:2]:
        at = size.sentence or 0
        last = max(at, k)
        if quote := of_sentences(asking.passages, min(at, k), last, amount.begin if last == k else size.number.begin):
            yield Candidate(item.id, name, _value(item, amount, size.number), quote, {**own, "size": 1.0, "far": min(1.0, abs(k - at) / 5)})
    if not fit and item.kind != "counts" and (quote := of_sentences(asking.passages, k, k, amount.begin)):
        yield Candidate(item.id, name, _value(item, amount, None), quote, own)


def _fits(item: Asked, amount: Amount, size: Number) -> bool:
    """Whether a size can be that of an amount: not less than its events, and of the same share."""
    if item.kind != "counts":
        return True
    if not 0 < amount.numbers[0].value <= size.value:
        return amount.numbers[0].value == 0 and size.value > 0
    if amount.sort == "share":
        share = amount.numbers[1]
        return abs(100 * amount.numbers[0].value / size.value - share.value) <= 0.6 / 10.0**share.decimals + 0.05
    return True


_FROM, _RISES_TO = (
    re.compile(r"\bfrom\s*(?:an?\s+(?:mean|median)\s+of\s*)?$", re.I),
    re.compile(r"\bfrom\b[^.;]{3,60}\bto\s*(?:an?\s+(?:mean|median)\s+of\s*)?$", re.I),
)


def _changed(item: Asked, amount: Amount, text: str, said: float) -> float:
    """Whether an amount is of the start, or not, as was asked: of "from 88 (SD 61) to 119 (SD 70)" the first is."""
    before, asked = text[: amount.begin], bool(BASELINE.search(f"{item.name} {item.instructions}"))
    if _FROM.search(before):
        return 1.0 if asked else -1.0
    if _RISES_TO.search(before):
        return -1.0 if asked else 0.5
    return said


def _odd(item: Asked, amount: Amount, text: str) -> float:
    """What speaks against an amount by its own words: a standard error where an SD is asked, quartiles where the range is."""
    asked = f"{item.name} {item.instructions}"
    if amount.note == "se":
        return 1.0
    if item.kind == "median_range":
        return float((amount.note == "iqr") != bool(_IQR.search(asked)))
    if item.kind == "mean_sd" and amount.sure < 1 and _NOT_SD.search(text):
        return 0.7
    return 0.0


def _value(item: Asked, amount: Amount, size: Number | None) -> dict[str, Any]:
    said = [plain(number.value, number.decimals) for number in amount.numbers]
    n = int(size.value) if size else None
    match item.kind:
        case "counts":
            return {"events": said[0], "total": said[1] if amount.sort == "of" else n}
        case "mean_sd":
            return {"mean": said[0], "sd": said[1], "n": n}
        case _:
            return {"median": said[0], "low": said[1], "high": said[2], "n": n}


def _from_tables(asking: Asking, item: Asked, arms: Arms) -> Iterator[Candidate]:
    every = asking.passages.cells
    for table, group in groupby(range(len(every)), key=lambda k: id(every[k].table)):
        del table
        cells = list(group)
        yield from _OneTable(asking, item, arms, cells).candidates()


class _OneTable:
    """The cells of one table, with the arm of each."""

    def __init__(self, asking: Asking, item: Asked, arms: Arms, cells: Sequence[int]) -> None:
        self._asking, self._item = asking, item
        self._at = {(asking.passages.cells[k].row, asking.passages.cells[k].column): k for k in cells}
        self._table: Table = asking.passages.cells[cells[0]].table
        heads = [cell.text for cell in self._table.head]
        self._columns = {k: arm for k, arm in arms.assign(heads).items() if k > 0} if item.arms else {}
        if len({arm for arm, _ in self._columns.values()}) < min(2, len(item.arms)):
            labels = [line.cells[0].text for line in self._table.lines]
            found = arms.assign(labels)
            self._rows = found if len({arm for arm, _ in found.values()}) >= min(2, len(item.arms)) else {}
            groups = {line.group.text: arm for line in self._table.lines if line.group.words and (arm := arms.one_of(line.group.text))}
            if not self._rows and len(groups) > 1:
                self._rows = {k: groups[line.group.text] for k, line in enumerate(self._table.lines) if line.group.text in groups}
            if self._rows:
                self._columns = {}
        else:
            self._rows = {}

    def candidates(self) -> Iterator[Candidate]:
        for (row, column), k in self._at.items():
            arm = self._arm(row, column)
            if arm is not None:
                yield from self._of_cell(k, self._asking.passages.cells[k], *arm)

    def _arm(self, row: int, column: int) -> tuple[int, float] | None:
        if not self._item.arms:
            return -1, 1.0
        return self._rows.get(row) if self._rows else self._columns.get(column)

    def _of_cell(self, k: int, cell: CellAt, arm: int, sure: float) -> Iterator[Candidate]:
        text, hint = cell.text, f"{self._table.caption} {cell.group} {cell.label} {cell.head}"
        signs: dict[str, float] | None = None
        for amount, further, pattern, odd in self._amounts(cell, text, hint, arm):
            if signs is None:
                signs = of_cell(self._asking, self._item, k, cell.head if self._rows else f"{cell.group} {cell.label}")
            if signs["contrary"]:
                return
            size, more = (None, []) if amount.sort == "of" else self._size(cell, arm, amount)
            if self._item.kind == "counts" and amount.sort != "of" and size is None:
                continue
            quote = of_words(self._asking.passages, self._table.page, cell.words(*further, *more))
            if quote is None and more:
                quote, size = of_words(self._asking.passages, self._table.page, cell.words(*further)), None
            if quote:
                yield Candidate(
                    self._item.id,
                    self._item.arms[arm].id if self._item.arms else None,
                    _value(self._item, amount, size),
                    quote,
                    {
                        **signs,
                        "near": signs["label"],
                        "pattern": pattern,
                        "arm": sure,
                        "odd": odd,
                        "size": float(size is not None),
                        "single": float(amount.sort == "single"),
                        "share": float(amount.sort == "share"),
                    },
                )

    def _amounts(self, cell: CellAt, text: str, hint: str, arm: int) -> Iterator[tuple[Amount, list[Cell], float, float]]:
        """What a cell says of the kind that is asked, alone or with the cells beside it: further cells to quote, how sure, how odd."""
        found = amounts(text, self._asking.passages.commas)
        first = [one for one in found if one.begin <= 3]
        kind = self._item.kind
        for amount in first:
            if kind == "counts" and amount.sort in ("of", "share"):
                yield amount, [], 1.0, 0.0
            elif kind == "counts" and amount.sort == "spread" and re.search(r"%", hint):
                a, b = amount.numbers
                if a.whole:
                    yield Amount("share", amount.begin, amount.end, (a, b._replace(percent=True))), [], 1.0, 0.0
            elif kind == "mean_sd" and amount.sort == "spread":
                if _NOT_SD.search(hint) and not _SD_HEAD.search(hint) and "%" in hint:
                    continue  # events with their per cent
                said = bool(_SD_HEAD.search(hint) or _MEAN_HEAD.search(hint) or "±" in text)
                yield amount, [], 1.0 if said else 0.5, float(bool(_NOT_SD.search(hint)) and not _SD_HEAD.search(hint))
            elif kind == "median_range" and amount.sort == "range":
                iqr = bool(_IQR.search(hint)) or amount.note == "iqr"
                yield (
                    amount,
                    [],
                    1.0 if _MEDIAN.search(hint) else 0.6,
                    float(iqr != bool(_IQR.search(f"{self._item.name} {self._item.instructions}"))),
                )
        alone = next((one for one in first if one.sort == "single" and one.end >= len(text) - 3 and not one.note), None)
        if alone:
            yield from self._beside(cell, alone, arm)

    def _beside(self, cell: CellAt, alone: Amount, arm: int) -> Iterator[tuple[Amount, list[Cell], float, float]]:
        """A number that is alone in its cell, with what stands in the next columns of the same arm: a total, an SD, a range."""
        line, head = self._table.lines[cell.row], self._last_of(cell.column)
        others: list[tuple[int, Number, str]] = []
        for column in range(cell.column + 1, len(line.cells)):
            said = numbers(line.cells[column].text, self._asking.passages.commas)
            if self._arm(cell.row, column) is None or self._arm(cell.row, column)[0] != arm or not said:  # type: ignore[index]
                break
            others.append((column, said[0], self._last_of(column)))
        number = alone.numbers[0]
        if self._item.kind == "counts":
            total = next(
                (other for other in others if _TOTAL_HEAD.match(other[2]) and other[1].whole and other[1].value >= number.value), None
            )
            if number.whole and total and not _TOTAL_HEAD.fullmatch(head if head.lower() != "n" else ""):
                yield Amount("of", alone.begin, alone.end, (number, total[1])), [line.cells[total[0]]], 0.9, 0.0
            elif number.whole and not (_SIZE_LABEL.match(cell.label) and not _EVENT_HEAD.match(head)):
                yield alone, [], 0.4, 0.0
        if self._item.kind == "mean_sd" and _MEAN_HEAD.search(head):
            sd = next((other for other in others if _SD_HEAD.search(other[2])), None)
            if sd:
                yield Amount("spread", alone.begin, alone.end, (number, sd[1])), [line.cells[sd[0]]], 1.0, 0.0
        if self._item.kind == "median_range" and _MEDIAN.search(head) and others:
            column, low, _ = others[0]
            both = numbers(line.cells[column].text.replace("–", " to "), self._asking.passages.commas)
            if len(both) == 2:
                yield (
                    Amount("range", alone.begin, alone.end, (number, *both)),
                    [line.cells[column]],
                    1.0,
                    float(bool(_IQR.search(others[0][2]))),
                )
            elif len(others) > 1:
                yield (
                    Amount("range", alone.begin, alone.end, (number, low, others[1][1])),
                    [line.cells[column], line.cells[others[1][0]]],
                    0.9,
                    0.0,
                )

    def _last_of(self, column: int) -> str:
        """The lowest part of what stands above a column: its words without those of the arm."""
        words = self._table.head[column].words
        lowest = max((word.base for word in words), default=0.0)
        return " ".join(word.text for word in words if abs(word.base - lowest) < 2)

    def _size(self, cell: CellAt, arm: int, amount: Amount) -> tuple[Number | None, list[Cell]]:
        """The n of an arm as the table says it: in the row, above the column, beside the label, or in a row of its own."""
        commas = self._asking.passages.commas
        lines, head = self._table.lines, self._table.head
        places: list[tuple[str, list[Cell]]] = []
        for column, one in enumerate(lines[cell.row].cells):
            if (
                column
                and column != cell.column
                and _TOTAL_HEAD.match(self._last_of(column))
                and (self._rows or (self._arm(cell.row, column) or (-1,))[0] == arm)
            ):
                places.append((f"n = {one.text}", [one]))
        if not self._table.inherited:
            places.append((head[cell.column].text, [head[cell.column]]))
            if self._columns:
                places += [(head[k].text, [head[k]]) for k, (other, _) in self._columns.items() if other == arm and k != cell.column]
        places += [(cell.label, []), (cell.group, [lines[cell.row].group])]
        for row, line in enumerate(lines):
            if row != cell.row and not self._rows and _SIZE_LABEL.match(line.cells[0].text.strip(" ,:")) and line.cells[cell.column].words:
                places.append((f"n = {line.cells[cell.column].text}", [line.cells[cell.column]]))
        for text, further in places:
            for size in amounts(text, commas):
                if size.sort == "size" and size.numbers[0].value > 0 and _fits(self._item, amount, size.numbers[0]):
                    return size.numbers[0], further
        return None, []
