"""Events, means and medians of each arm, from sentences and from tables."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import groupby
from typing import Any

from kettlesort.core.charting.items import COUNTED
from kettlesort.core.charting.proposals.amounts import LIMIT_BEFORE, Amount, amounts
from kettlesort.core.charting.proposals.arms import Arms, Mention
from kettlesort.core.charting.proposals.assigning import (
    RESPECTIVELY,
    VERSUS,
    apart,
    assigned,
    clauses,
    first_of_each,
    in_order,
    is_part,
    listed,
    said_before,
    set_against,
    sets_against,
    with_the_other,
)
from kettlesort.core.charting.proposals.candidates import Asking, Candidate, amounts_of, nearness, of_cell, of_sentence, of_time
from kettlesort.core.charting.proposals.items import Asked
from kettlesort.core.charting.proposals.numbers import Number, numbers, plain
from kettlesort.core.charting.proposals.passages import CellAt, Quote, leans_on_before, of_sentences, of_words
from kettlesort.core.charting.proposals.sizes import Size, size_above, sizes_of
from kettlesort.core.charting.proposals.speaks import BASELINE, stems_of, times_of
from kettlesort.core.fulltext.article import normal
from kettlesort.core.fulltext.tables import Cell, Table

_SORTS: dict[str, tuple[str, ...]] = {"counts": ("of", "share", "single"), "mean_sd": ("spread",), "median_range": ("range",)}
_SIZE_LABEL = re.compile(
    rf"^(?:n|no\.?|number|total|sample size|(?:number |no\.? )?(?:of )?(?:(?:total|all|included|enrolled|treated|study|analy[sz]ed|randomi[sz]ed|allocated|assigned) )?(?:randomi[sz]ed|analy[sz]ed|assigned|allocated|{COUNTED}|n)|(?:{COUNTED}),? \(?n\)?)\.?$",
    re.I,
)
_EVENT_HEAD = re.compile(r"^(?:events?|n|cases|no\.?|number|with event|count|x)\.?$", re.I)
_TOTAL_HEAD = re.compile(
    rf"^(?:total|n|of|sample|denominator|randomi[sz]ed|analy[sz]ed|at risk|(?:(?:no\.?|number) of )?(?:{COUNTED}))\.?$", re.I
)
_SHARE_HEAD = re.compile(r"(?:.*[\s,(])?(?:%|per ?cent|percentage|share|proportion)\)?$", re.I)
_MEAN_HEAD, _SD_HEAD = re.compile(r"\b(?:mean|average|m)\b", re.I), re.compile(r"\b(?:sd|s\.d\.|standard deviation|±\s*sd)(?:\b|$)", re.I)
_NOT_SD = re.compile(
    r"\b(?:(?:se|sem|s\.e\.(?:m\.)?|standard errors?|95\s?% ?ci|iqr|interquartile)(?:\b|$)|(?:n|no\.?|number)\s*[(\[,]\s*%)", re.I
)
_PER_CENT = re.compile(r"%|\bper ?cent", re.I)
_FIGURES = {"counts": 2, "mean_sd": 2, "median_range": 3}
"""The figures of a value without the n."""
_MEDIAN, _IQR = re.compile(r"\bmedian\b", re.I), re.compile(r"\b(?:iqr|interquartile|quartiles?|q1)\b", re.I)


_IN_EACH = re.compile(
    r"\b(?:in|of|for|with)\s+(?:either|both|each|any|every|all(?:\s+(?:the|of the))?(?:\s+\w+)?)\s+(?:(?:treatment|study|of the)\s+)?(?:\w+\s+)?(?:groups?|arms?|conditions?|treatments?|periods?|seasons?|years?)\b",
    re.I,
)


def by_arm(asking: Asking, item: Asked) -> Iterator[Candidate]:
    """What may be the values of an item that has arms; of one without arms, for the study as a whole."""
    heads = [normal(cell.text) for table in asking.passages.article.tables for cell in table.head]
    labels = [normal(line.cells[0].text) for table in asking.passages.article.tables for line in table.lines]
    arms = Arms(
        item.arms,
        [*(sentence.text for sentence in asking.passages.sentences), *heads, *labels],
        asking.speech.people_told | frozenset(stems_of(item.name)),
    )
    sizes = sizes_of(asking, arms) if item.arms else []
    for k in range(len(asking.passages.sentences)):
        yield from _from_sentence(asking, item, arms, sizes, k)
    yield from _from_tables(asking, item, arms, sizes)


def _from_sentence(asking: Asking, item: Asked, arms: Arms, sizes: Sequence[Size], k: int) -> Iterator[Candidate]:
    text = asking.passages.sentences[k].text
    signs = of_sentence(asking, item, k)
    if signs["contrary"] or (signs["name"] < 0.1 and signs["sense"] < 0.05 and signs["instructions"] < 0.4):
        return
    named = with_the_other(arms, text) if item.arms else []
    parts = clauses(text)
    for begin, end in parts:
        every = [amount for amount in amounts_of(asking, k) if begin <= amount.begin < end]
        mentions = [mention for mention in named if begin <= mention.begin < end]
        of_clause = {**signs, **of_time(item, text[begin:end])} if len(parts) > 1 and times_of(text[begin:end]) else signs
        for sort in _SORTS[item.kind]:
            for amount, arm, sure, near in _by_arm(asking, item, arms, k, sort, every, mentions, first_of_each(named, begin)):
                yield from _candidate(asking, item, k, amount, arm, sure, sizes, of_clause, near)


def _by_arm(
    asking: Asking, item: Asked, arms: Arms, k: int, sort: str, every: Sequence[Amount], mentions: list[Mention], earlier: list[Mention]
) -> Iterator[tuple[Amount, int, float, float | None]]:
    """Which amounts of a clause are those of which arms, how surely, and how near to the item where that is not for the whole sentence to say. ``earlier``: the arms in the order in which the sentence has named them all before."""
    text, size = asking.passages.sentences[k].text, len(item.arms)
    some = apart([amount for amount in every if amount.sort == sort and _may_be(item, amount)])
    if not item.arms:
        yield from ((amount, -1, 1.0, None) for amount in some)
        return
    if sort == "single":
        some = _counted_alone(text, some, every, mentions)
    if not mentions and len(some) == size > 1:
        if RESPECTIVELY.search(text) or set_against(text, some):
            mentions = earlier or said_before(asking, arms, k) or in_order(asking, arms)
        elif listed(text, some):
            mentions = earlier or said_before(asking, arms, k)
    elif sort != "of" and (sets := sets_against(text, some, size)):  # dizziness (20 v. 7), drowsiness (14 v. 3)
        order = said_before(asking, arms, k) or in_order(asking, arms)
        for begin, one in zip([0, *(one[-1].end for one in sets)], sets, strict=False):  # what is counted stands before its numbers
            piece = text[begin : one[0].begin]
            near = nearness(asking, item, piece, len(piece), len(piece))
            yield from ((*pair, near) for pair in assigned(text, one, order))
        return
    elif len(some) == size == 2 and len({m.arm for m in mentions}) == 1 and VERSUS.match(text[some[0].end : some[1].begin]):
        mentions = in_order(asking, arms) or mentions  # longer after the one (96 ± 31 vs 74 ± 28)
    if not mentions and len(some) == 1 and _IN_EACH.search(text):
        yield from ((some[0], arm, 0.8, None) for arm in range(size))
    else:
        yield from ((*pair, None) for pair in assigned(text, some, mentions))


def _counted_alone(text: str, some: Sequence[Amount], every: Sequence[Amount], mentions: Sequence[Mention]) -> list[Amount]:
    """Single numbers that may count events: none that is part of another amount, of an arm's name, a limit, or the sum of the others."""
    some = [amount for amount in some if not is_part(amount, every) and not any(m.begin <= amount.begin < m.end for m in mentions)]
    some = [amount for amount in some if not LIMIT_BEFORE.search(text[: amount.begin])] or some
    if len(some) == len(mentions) + 1 > 2 and some[0].numbers[0].value == sum(amount.numbers[0].value for amount in some[1:]):
        return some[1:]  # nine (five with the drug, four with placebo)
    return some


def _may_be(item: Asked, amount: Amount) -> bool:
    if amount.sort != "single":
        return amount.note != "interval"
    number = amount.numbers[0]
    return number.whole and not amount.note


def _candidate(
    asking: Asking,
    item: Asked,
    k: int,
    amount: Amount,
    arm: int,
    sure: float,
    sizes: Sequence[Size],
    signs: dict[str, float],
    near: float | None = None,
) -> Iterator[Candidate]:
    sentence = asking.passages.sentences[k]
    own = {
        **signs, "near": _near(asking, item, k, amount) if near is None else near, "pattern": amount.sure, "arm": sure,
        "baseline": _changed(item, amount, sentence.text, signs["baseline"]), "odd": _odd(item, amount, sentence.text), "single": float(amount.sort == "single"), "share": float(amount.sort == "share"),
    }  # fmt: skip
    name = item.arms[arm].id if item.arms else None
    if amount.sort == "of" or len(amount.numbers) > _FIGURES[item.kind]:
        if quote := of_sentences(asking.passages, k, k, amount.begin):
            yield Candidate(item.id, name, _value(item, amount, None), quote, own)
        return
    fit = [
        size
        for size in sizes
        if size.arm == arm
        and size.sentence is not None
        and (size.sentence, size.number.begin) != (k, amount.begin)
        and (size.surely or amount.sort == "share")
        and _fits(item, amount, size.number)
    ]
    least = min((size.rank for size in fit), default=0)
    fit = [size for size in fit if size.rank <= max(1, least)]
    fit = sorted(fit, key=lambda size: (size.rank, not size.surely, abs(k - (size.sentence or 0)), size.sentence))
    for size in [*fit[:2], *(size for size in fit[2:] if size.rank != fit[0].rank)][:3]:
        at = size.sentence or 0
        last = max(at, k)
        if quote := of_sentences(asking.passages, min(at, k), last, amount.begin if last == k else size.number.begin):
            yield Candidate(
                item.id,
                name,
                _value(item, amount, size.number),
                quote,
                {**own, "size": 1.0, "total of others": float(size.rank > 0), "far": min(1.0, abs(k - at) / 5)},
            )
    for size in sizes:
        above = size.arm == arm and size.sentence is None and _fits(item, amount, size.number)
        if above and (quote := _with_head(asking, k, size)):
            yield Candidate(item.id, name, _value(item, amount, size.number), quote, {**own, "size": 1.0, "far": 1.0})
    if not fit and item.kind != "counts" and (quote := of_sentences(asking.passages, k, k, amount.begin)):
        yield Candidate(item.id, name, _value(item, amount, None), quote, own)


def _near(asking: Asking, item: Asked, k: int, amount: Amount) -> float:
    """How near an amount stands to the words of an item, which may be those of the sentence before."""
    text = asking.passages.sentences[k].text
    near = nearness(asking, item, text, amount.begin, amount.end)
    if k == 0 or not leans_on_before(text):
        return near
    before = asking.passages.sentences[k - 1].text
    return max(near, nearness(asking, item, before, len(before), len(before)))


def _with_head(asking: Asking, k: int, size: Size) -> Quote | None:
    """A sentence with the head of a column on its page, and all that stands between them."""
    sentence = asking.passages.sentences[k]
    if not sentence.words or set(sentence.pages) != {size.page}:
        return None
    return of_words(asking.passages, size.page, [*size.words, *sentence.words])


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
    own = amount.numbers[_FIGURES[item.kind] :]
    n = int(own[0].value) if own else int(size.value) if size else None
    match item.kind:
        case "counts":
            return {"events": said[0], "total": said[1] if amount.sort == "of" else n}
        case "mean_sd":
            return {"mean": said[0], "sd": said[1], "n": n}
        case _:
            return {"median": said[0], "low": said[1], "high": said[2], "n": n}


def _from_tables(asking: Asking, item: Asked, arms: Arms, sizes: Sequence[Size]) -> Iterator[Candidate]:
    every = asking.passages.cells
    for table, group in groupby(range(len(every)), key=lambda k: id(every[k].table)):
        del table
        cells = list(group)
        yield from _OneTable(asking, item, arms, sizes, cells).candidates()


_N_BEHIND = re.compile(r"\W*?[,;(\[]\s*(?:n\s*=\s*)?(\d+)\s*[)\]]?\s*", re.I)
_SAYS_N = re.compile(r"[,;(\[]\s*(?:n|number)\b", re.I)
"""A cell, its label or its head says that an n stands behind: "mean (SD), n"."""


class _OneTable:
    """The cells of one table, with the arm of each."""

    def __init__(self, asking: Asking, item: Asked, arms: Arms, sizes: Sequence[Size], cells: Sequence[int]) -> None:
        self._asking, self._item, self._sizes = asking, item, sizes
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
            if not self._rows and len(item.arms) > 1:
                self._rows = self._by_a_column(arms)
            if self._rows:
                self._columns = {}
        else:
            self._rows = {}
        labels = [line.cells[0].text for line in self._table.lines]
        self._same_label = bool(self._rows) and len(set(labels)) < len(labels)  # what is measured stands before each group

    def _by_a_column(self, arms: Arms) -> dict[int, tuple[int, float]]:
        """The arm of each row where a column beside the labels names it: systolic pressure, usual care, 503."""
        for column in range(1, min(3, len(self._table.head))):
            found = {row: arm for row, line in enumerate(self._table.lines) if (arm := arms.one_of(line.cells[column].text))}
            if len({arm for arm, _ in found.values()}) > 1 and len(found) > 0.6 * len(self._table.lines):
                return found
        return {}

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
                signs = of_cell(
                    self._asking, self._item, k, cell.head if self._rows and not self._same_label else f"{cell.group} {cell.label}"
                )
            if signs["contrary"]:
                return
            size, more = (
                (None, []) if amount.sort == "of" or len(amount.numbers) > _FIGURES[self._item.kind] else self._size(cell, arm, amount)
            )
            if self._item.kind == "counts" and amount.sort != "of" and size is None:
                continue
            quote = of_words(self._asking.passages, self._table.page, cell.words(*further, *more))
            if quote is None and more:
                if self._item.kind == "counts":
                    continue
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
            elif kind == "counts" and amount.sort == "spread" and amount.numbers[0].whole and not _SD_HEAD.search(hint):
                a, b = amount.numbers  # where no per cent is said, the size must tell that it is one
                said = bool(_PER_CENT.search(hint))
                yield Amount("share", amount.begin, amount.end, (a, b._replace(percent=True))), [], 1.0 if said else 0.8, 0.0
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
            elif number.whole and others and _SHARE_HEAD.match(others[0][2]) and others[0][1].value <= 100:
                yield Amount("share", alone.begin, alone.end, (number, others[0][1]._replace(percent=True))), [], 0.9, 0.0
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
        """The n of an arm as the table says it: in the cell, in the row, above the column, beside the label, or in a row of its own."""
        commas = self._asking.passages.commas
        lines, head = self._table.lines, self._table.head
        places: list[tuple[str, list[Cell]]] = []
        if (own := _N_BEHIND.fullmatch(cell.text[amount.end :])) and _SAYS_N.search(
            f"{cell.text} {cell.label} {cell.head} {self._table.caption}"
        ):
            places.append((f"n = {own[1]}", []))
        columns = [
            column
            for column in range(1, len(lines[cell.row].cells))
            if column != cell.column and (self._rows or (self._arm(cell.row, column) or (-1,))[0] == arm)
        ]
        totals = [column for column in columns if _TOTAL_HEAD.match(self._last_of(column))]
        told = [column for column in columns if column not in totals] if amount.sort == "share" else []  # the per cent decides
        for column in [*totals, *told]:
            places.append((f"n = {lines[cell.row].cells[column].text}", [lines[cell.row].cells[column]]))
        if not self._table.inherited:
            places.append((head[cell.column].text, [head[cell.column]]))
            if self._columns:
                places += [(head[k].text, [head[k]]) for k, (other, _) in self._columns.items() if other == arm and k != cell.column]
        places += [(cell.label, []), (cell.group, [lines[cell.row].group])]
        for row, line in enumerate(lines):
            if row != cell.row and not self._rows and _SIZE_LABEL.match(line.cells[0].text.strip(" ,:")) and line.cells[cell.column].words:
                places.append((f"n = {line.cells[cell.column].text}", [line.cells[cell.column]]))
        for text, further in places:
            if (number := size_above(text, commas)) and _fits(self._item, amount, number):
                return number, further
        return self._said_in_text(arm, amount)

    def _said_in_text(self, arm: int, amount: Amount) -> tuple[Number | None, list[Cell]]:
        """The n of an arm as a sentence of the same page says it: one that is sure, or that the per cent confirms."""
        for size in self._sizes:
            if size.arm == arm and size.sentence is not None and (amount.sort == "share" or (size.surely and size.rank == 0)):
                sentence = self._asking.passages.sentences[size.sentence]
                if sentence.words and set(sentence.pages) == {self._table.page} and _fits(self._item, amount, size.number):
                    return size.number, [Cell(tuple(sentence.words))]
        return None, []
