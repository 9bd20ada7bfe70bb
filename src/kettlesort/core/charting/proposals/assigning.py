"""Which amount of a sentence is that of which arm."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

from kettlesort.core.charting.proposals.amounts import Amount
from kettlesort.core.charting.proposals.arms import Arms, Mention
from kettlesort.core.charting.proposals.candidates import Asking

RESPECTIVELY = re.compile(r"\brespectively\b", re.I)
_WITHOUT = re.compile(
    r"\b(?:(?:who|that|which)\s+(?:did|were|was|had|do|have|are)\s+not|without(?:\s+(?:it|them|this))?|(?:in\s+)?the\s+others?(?:\s+(?:group|arm))?)\b(?=\s*(?:[.,;:)]|$|\()|\s+(?:\w+ed|had|were|was|did)\b)",
    re.I,
)
"""The arm that is not named, where the other one is: "with huddles … and without"."""

VERSUS = re.compile(
    r"^(?:\s*[,;]\s*n\s*=\s*\d+)?[)\]\s]*(?:[a-zµ°%/]{1,8}\s+)?(?:and|versus|vs\.?|v\.?|against|compared (?:with|to)|as against|or)\s+(?:\d+(?:\.\d+)?\s?%\s*[(\[]\s*)?$",
    re.I,
)
"""What stands between two values that are set against each other."""
_AND = re.compile(r"\s*[)\]]?(?:\s+[a-zµ°%/]{1,8})?\s*(?:,|,?\s+and)\s+(?:in\s+)?", re.I)


_WITH_AND_WITHOUT = re.compile(r"\bwith\s+(?=and\b[^.;]{0,60}\bwithout\b)", re.I)


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
    if RESPECTIVELY.search(text) and len({m.arm for m in last}) == len(last) and len(found) % len(last) == 0:
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


def with_the_other(arms: Arms, text: str) -> list[Mention]:
    """The arms that a sentence names; of two also the one that it only calls the other."""
    mentions = arms.mentions(text)
    if len(arms.arms) == 2 and len({m.arm for m in mentions}) == 1 and (with_it := _WITH_AND_WITHOUT.search(text)):
        return [Mention(with_it.start(), with_it.start() + 4, 1 - mentions[0].arm, 0.8), *mentions]
    if len(arms.arms) == 2 and len({m.arm for m in mentions}) == 1 and (other := _WITHOUT.search(text, mentions[0].end)):
        return [*mentions, Mention(other.start(), other.end(), 1 - mentions[0].arm, 0.7)]
    return mentions


def said_before(asking: Asking, arms: Arms, k: int) -> list[Mention]:
    """The arms in the order in which one of the two sentences before named them all: what "respectively" means."""
    for before in range(k - 1, max(-1, k - 3), -1):
        if first := _all_named(arms, asking.passages.sentences[before].text, 0.7):
            return first
    return []


def in_order(asking: Asking, arms: Arms) -> list[Mention]:
    """The arms in the order in which the sentences that name them all do so, nearly all of them; none where they do not agree."""
    if arms.order is None:
        found = [first for sentence in asking.passages.sentences if (first := _all_named(arms, sentence.text, 0.6))]
        often = Counter(tuple(m.arm for m in first) for first in found)
        most, times = next(iter(often.most_common(1)), ((), 0))
        arms.order = (
            next(first for first in reversed(found) if tuple(m.arm for m in first) == most) if times > 0.75 * len(found) > 0 else []
        )
    return list(arms.order)


def first_of_each(named: Sequence[Mention], before: int) -> list[Mention]:
    """The arms in the order in which a sentence names each first ``before`` a place, as mentions beyond its end; none if it has named but one."""
    first = _first([mention for mention in named if mention.begin < before], 0.9)
    return first if len(first) > 1 else []


def _all_named(arms: Arms, text: str, sure: float) -> list[Mention]:
    """The arms in the order in which a text first names each, if it names all of them: as mentions of another sentence, beyond its end."""
    first = _first(arms.mentions(text), sure)
    return first if len(first) == len(arms.arms) else []


def _first(mentions: Sequence[Mention], sure: float) -> list[Mention]:
    """The first mention of each arm, as one beyond the end of its sentence."""
    first: dict[int, Mention] = {}
    for mention in mentions:
        first.setdefault(mention.arm, mention._replace(begin=10**6, end=10**6, sure=sure * mention.sure))
    return list(first.values())


def apart(found: Sequence[Amount]) -> list[Amount]:
    """Amounts in the order of the text, of those that overlap the surest."""
    out: list[Amount] = []
    for amount in sorted(found, key=lambda one: (one.begin, -one.sure)):
        if not out or amount.begin >= out[-1].end:
            out.append(amount)
    return out


def is_part(amount: Amount, every: Sequence[Amount]) -> bool:
    """Whether a number stands in another amount: events beside their per cent, a mean beside its SD."""
    return any(
        one.sort not in ("single", "size") and (one.sort != "of" or one.sure == 1) and one.begin <= amount.begin < one.end for one in every
    )


def set_against(text: str, some: Sequence[Amount]) -> bool:
    """Whether amounts are set against each other: 20 v. 7."""
    return all(VERSUS.match(text[a.end : b.begin]) for a, b in pairwise(some))


def listed(text: str, some: Sequence[Amount]) -> bool:
    """Whether amounts are counted up: 50.2 (11.4), 50.9 (12.1) and 53.8 (12.7)."""
    return all(_AND.fullmatch(text[a.end : b.begin]) for a, b in pairwise(some))


def sets_against(text: str, some: Sequence[Amount], size: int) -> list[list[Amount]]:
    """Amounts of several things, each of them a set of one for each arm: empty where not all of them are so."""
    if size < 2 or len(some) <= size:
        return []
    for opened in re.finditer(r"\(([^()]*)\)", text):
        inside = [amount for amount in some if opened.start() < amount.begin < opened.end()]
        if len(inside) == size and RESPECTIVELY.search(opened[1]):
            return [inside]  # four died (one, two and one, respectively)
    if len(some) % size:
        return []
    sets = [list(some[k : k + size]) for k in range(0, len(some), size)]
    return sets if all(set_against(text, one) for one in sets) else []


def clauses(text: str) -> list[tuple[int, int]]:
    """From where to where the parts of a sentence stand that semicolons outside brackets set apart."""
    ends = [match.end() for match in re.finditer(r";\s", text) if text.count("(", 0, match.start()) == text.count(")", 0, match.start())]
    return list(pairwise([0, *ends, len(text)]))
