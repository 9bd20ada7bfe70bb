"""How many an arm has: as sentences say it, or as it stands above the columns of tables."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from kettlesort.core.charting.items import COUNTED
from kettlesort.core.charting.proposals.amounts import Amount, amounts
from kettlesort.core.charting.proposals.arms import Arms, Mention
from kettlesort.core.charting.proposals.assigning import apart, assigned, clauses, in_order, is_part, listed
from kettlesort.core.charting.proposals.candidates import Asking, amounts_of, speaks_of_others
from kettlesort.core.charting.proposals.numbers import Number, numbers
from kettlesort.core.charting.units import DIMENSIONS, of_unit, unit_after
from kettlesort.core.fulltext.pages import Word

_ASSIGNED = re.compile(
    r"\b(?:randomi[sz]|assign|allocat|allotted|divided|enrol|took\s+part|participat|were\s+included|analy[sz]ed)",
    re.I,
)
_MADE_OF = re.compile(r"\b(?:comprised|consisted|formed)\b", re.I)
"""What a group is made of, if people are counted behind it: eight modules are not."""
_TREATED = re.compile(r"\b(?:received|given|treated|underwent|served)\b", re.I)
_HAD = re.compile(r"\b(?:left|entered|joined|waited|had|got|wore|took)\b", re.I)
"""What is said of groups too, but also of those to whom something happened: among results it tells no size."""
_EACH = re.compile(
    r"\s+(?!times\b)(?:\w+\s+){0,4}?(?:(?:to|in|per|for|at|from|with|under|on)\s+(?:each|every)\s+(?!day|week|month|year|hour|visit|occasion|time|session|side)\w|per\s+(?:group|arm|treatment|condition)\b|each\s*[,.;)])",
    re.I,
)
"""The size of every group: 167 to each group, eight plots each."""
_LEFT = re.compile(
    r"\b(?:available|in\s+the\s+analysis|analy[sz]ed|complet\w+|remained|evaluable|followed|measured|assessed|had\s+data)\b", re.I
)
_PLANNED = re.compile(
    r"\b(?:to (?:detect|show)|power of|\d\s?% power|(?:would be|were|was|is|are) (?:needed|required)|would need|sample size\b[^.;]{0,60}\b(?:calculated|planned|of))\b",
    re.I,
)
"""How many were wanted, not how many there are."""
_LOST = re.compile(r"\bnot (?:\w+ ){0,2}(?:analy|available|complet|assess|measur|follow)|\b(?:died|lost|missing|withdrew|dropped)\b", re.I)
_OF_THEM = re.compile(r"\b(?:of (?:whom|which|these|them)|including)\b", re.I)
_FURTHER = re.compile(r"(?:\s*(?:,\s*(?:and|or)?|and|or|to|[-–/])\s*\d+(?:\.\d+)?)*")
"""Numbers that are counted up behind one, and share its unit: 15, 30 and 60 minutes."""
_BRACKETS = re.compile(r"[^().;\d]{0,40}\(([^()]*)\)")
_PEOPLE = re.compile(rf"(?:{COUNTED})$")


class Size(NamedTuple):
    """How many an arm has, said in a sentence or above a column (then without a sentence, but with its page and words)."""

    arm: int
    number: Number
    sentence: int | None
    surely: bool = True
    """Whether the sentence says that it is a size, and not just a number beside an arm."""
    rank: int = 0
    """1 where it is the total of other events, 2 where it is any number of a sentence that names the arm: the size only of events whose per cent says so."""
    page: int = 0
    words: tuple[Word, ...] = ()


def sizes_of(asking: Asking, arms: Arms) -> list[Size]:
    """The sizes of arms that a report says."""
    return [*_sizes(asking, arms), *_beside_arms(asking, arms), *_above_columns(asking, arms)]


def _sizes(asking: Asking, arms: Arms) -> Iterator[Size]:
    for k, sentence in enumerate(asking.passages.sentences):
        if _PLANNED.search(sentence.text) or speaks_of_others(sentence.text):
            continue
        every = amounts_of(asking, k)
        alike = [amount for amount in every if _may_be_size(sentence.text, amount) and _EACH.match(sentence.text, amount.end)]
        yield from (Size(arm, amount.numbers[0], k) for amount in alike for arm in range(len(arms.arms)))
        if not (mentions := arms.mentions(sentence.text)):
            some = [amount for amount in every if _may_be_size(sentence.text, amount)]
            if len(some) == len(arms.arms) > 1 and _are_left(sentence.text, some):  # data were available for 131 and 127
                yield from (Size(m.arm, amount.numbers[0], k) for amount, m in zip(some, in_order(asking, arms), strict=False))
            continue
        for begin, end in clauses(sentence.text):
            inside = [amount for amount in every if begin <= amount.begin < end]
            named = [mention for mention in mentions if begin <= mention.begin < end]
            yield from _of_clause(asking, arms, k, inside, named)


def _are_left(text: str, some: Sequence[Amount]) -> bool:
    """Whether a sentence says of numbers that it counts up that they are those who were left, and not those who were lost."""
    return bool(_LEFT.search(text) and listed(text, some) and not _OF_THEM.search(text) and not _LOST.search(text))


def _of_clause(asking: Asking, arms: Arms, k: int, every: Sequence[Amount], mentions: Sequence[Mention]) -> Iterator[Size]:
    """The sizes that a clause says of the arms that it mentions."""
    sentence = asking.passages.sentences[k]
    named = {mention.arm for mention in mentions}
    totals = apart([amount for amount in every if amount.sort == "of" and amount.sure == 1])
    yield from (Size(arm, amount.numbers[1], k, rank=1) for amount, arm, _ in assigned(sentence.text, totals, mentions))
    found = [amount for amount in every if amount.sort == "size"]
    treated = sentence.section != "results" and _are_treated(sentence.text, mentions)
    surely = bool(found or _ASSIGNED.search(sentence.text) or treated)
    if len(found) < len(named):
        alone = [amount for amount in every if _may_be_size(sentence.text, amount) and not is_part(amount, every)]
        people = (
            [amount for amount in alone if _counts_people(asking, sentence.text[amount.end :])] if _MADE_OF.search(sentence.text) else []
        )
        surely, alone = (True, people) if people else (surely, alone)
        if inside := _in_brackets(asking, sentence.text, alone, mentions):
            yield from (Size(arm, amount.numbers[0], k) for arm, amount in inside.items())
            return
        if len(alone) == len(mentions) + 1 and alone[0].numbers[0].value == sum(amount.numbers[0].value for amount in alone[1:]):
            alone = alone[1:]
        if len(alone) != len(mentions):  # 31 had sessions (three a week) and 34 had none
            outside = [amount for amount in alone if sentence.text.count("(", 0, amount.begin) == sentence.text.count(")", 0, amount.begin)]
            alone = outside if len(outside) == len(mentions) else alone
        if len(alone) != len(mentions) and len(named) == len(arms.arms):  # 216 patients of 18 practices
            alone = _alike(asking, sentence.text, alone, len(mentions)) or alone
        if len(alone) == len(mentions):
            found = alone
        elif surely and len(alone) == len(arms.arms) == 2 and len(named) == 1:  # 76 took the lozenge and 54 served as controls
            mine = min(alone, key=lambda amount: min(abs(amount.begin - mention.begin) for mention in mentions))
            arm = named.pop()
            yield from (Size(arm if amount is mine else 1 - arm, amount.numbers[0], k) for amount in alone)
            return
        elif not found:
            return
    for amount, arm, _ in assigned(sentence.text, found, mentions):
        yield Size(arm, amount.numbers[0], k, surely)


def _beside_arms(asking: Asking, arms: Arms) -> Iterator[Size]:
    """Any number of a sentence that names an arm: events with their per cent tell whether it is its size."""
    for k, sentence in enumerate(asking.passages.sentences):
        for arm in {mention.arm for mention in arms.mentions(sentence.text)}:
            yield from (
                Size(arm, amount.numbers[0], k, surely=False, rank=2)
                for amount in amounts_of(asking, k)
                if _may_be_size(sentence.text, amount)
            )


def _above_columns(asking: Asking, arms: Arms) -> Iterator[Size]:
    """The sizes of arms that stand above the columns of tables."""
    for table in asking.passages.article.tables:
        for column, (arm, _) in arms.assign([cell.text for cell in table.head]).items():
            if column and (number := size_above(table.head[column].text, asking.passages.commas)):
                yield Size(arm, number, None, page=table.page, words=table.head[column].words)


_ALONE_IN_BRACKETS = re.compile(
    rf"[^\d]*\(\s*(\d[\d, ]*)(?:\s+(?!(?:weeks?|months?|days?|years?|h|min)\b)[a-z]+)?\s*\)\s*|[^\d]*?[,:;]?\s*(\d[\d, ]*)\s+(?:{COUNTED})\s*",
    re.I,
)


def size_above(head: str, commas: bool = False) -> Number | None:
    """The size of a group as what stands above its column says it: Foam (n = 40), Foam (40), Foam, 40 hives."""
    said = next((amount.numbers[0] for amount in amounts(head, commas) if amount.sort == "size"), None)
    if said is None and (alone := _ALONE_IN_BRACKETS.fullmatch(head)):
        begin = alone.start(1) if alone[1] else alone.start(2)
        said = next((number for number in numbers(head, commas) if number.begin == begin and number.whole), None)
    return said if said and said.value > 0 else None


def _may_be_size(text: str, amount: Amount) -> bool:
    number = amount.numbers[0]
    return (
        amount.sort == "single"
        and not amount.note
        and number.whole
        and number.value > 1
        and of_unit(unit_after(text, number._replace(end=_FURTHER.match(text, number.end).end())))[0] not in DIMENSIONS  # type: ignore[union-attr]
    )


def _are_treated(text: str, mentions: Sequence[Mention]) -> bool:
    """Whether a sentence says who had which treatment, or that there were so many of each."""
    return bool(_TREATED.search(text) or re.match(r"\W*there were\b", text, re.I)) or any(
        0 <= mention.begin - verb.end() < 25 for mention in mentions for verb in _HAD.finditer(text)
    )


def _alike(asking: Asking, text: str, found: Sequence[Amount], size: int) -> list[Amount]:
    """So many numbers as there are groups that count the same people; the largest, where several sorts are counted."""
    by_noun: dict[str, list[Amount]] = {}
    for amount in found:
        if who := _whom(asking, text[amount.end :]):
            by_noun.setdefault(who, []).append(amount)
    return max((some for some in by_noun.values() if len(some) == size), key=lambda some: some[0].numbers[0].value, default=[])


def _counts_people(asking: Asking, after: str) -> bool:
    """Whether the words right behind a number, up to a sign or the next one, are those who take part."""
    return bool(_whom(asking, after))


def _whom(asking: Asking, after: str) -> str:
    """Who of those that take part are counted by a number: the word for them among the first three behind it; empty for nobody."""
    words = re.findall(r"[a-z]+", re.split(r"[\d,;)]", after[:40].lower())[0])[:3]
    return next((word for word in words if word in asking.speech.people or _PEOPLE.match(word)), "")


def _in_brackets(asking: Asking, text: str, found: Sequence[Amount], mentions: Sequence[Mention]) -> dict[int, Amount]:
    """The size of each arm where it stands in brackets behind its name, alone or among other numbers: "huddles (18 homes, 751 residents)"; empty where it does so for no two arms."""
    out: dict[int, Amount] = {}
    for mention in mentions:
        opened = _BRACKETS.match(text, mention.end)
        inside = [amount for amount in found if opened and opened.start(1) <= amount.begin < opened.end(1)]
        counted = [amount for amount in inside if _counts_people(asking, text[amount.end :])]
        if mention.arm not in out and inside and (len(inside) == 1 or counted):
            out[mention.arm] = (counted or inside)[0]
    return out if len(out) > 1 else {}
