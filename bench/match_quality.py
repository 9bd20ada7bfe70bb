"""How well copies are found: `./kettle run python bench/match_quality.py [SEED …]`

Noisy exports of invented records from seeds that were not used while the program was tuned, in two vocabularies, and once
without volume, pages and DOI throughout; beside splink and exact matching on the same records.
"""

from __future__ import annotations

import sys
from collections import Counter, defaultdict
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core import matching
from kettlesort.core.matching import Groups
from noisy import Noisy, bibliographies, noisy
from peers import Pairs, by_exact, by_splink, table, truth


class Quality(NamedTuple):
    """Shares, 0 to 1: of surplus copies found, of reports not lost, of pairs found that are true, of true pairs found."""

    sensitivity: float
    specificity: float
    precision: float
    recall: float
    lost: int


def quality(found: Pairs, report: Sequence[int]) -> Quality:
    """Judge pairs that are closed (if a–b and b–c are in it, so is a–c)."""
    groups = Groups(len(report))
    for i, j in found:
        groups.join(i, j)
    parts: dict[int, set[int]] = defaultdict(set)
    lost = 0
    for group in groups.all():
        inside = {report[k] for k in group}
        lost += len(inside) - 1
        for number in inside:
            parts[number].add(group[0])
    sizes = Counter(report)
    surplus = sum(n - 1 for n in sizes.values())
    joined = sum(sizes[number] - len(among) for number, among in parts.items())
    right = truth(report)
    good = len(found & right)
    return Quality(joined / surplus, 1 - lost / len(sizes), good / max(1, len(found)), good / max(1, len(right)), lost)


def together(sets: Sequence[Noisy]) -> tuple[Pairs, int, Pairs, list[int]]:
    """What `ours` finds in each of several sets, as if of one, and the reports of all."""
    before, asked, after, report = set[tuple[int, int]](), 0, set[tuple[int, int]](), list[int]()
    for data in sets:
        first, questions, last = ours(data)
        at, other = len(report), max(report, default=0) + 1
        before |= {(i + at, j + at) for i, j in first}
        after |= {(i + at, j + at) for i, j in last}
        asked += questions
        report += [number + other for number in data.report]
    return before, asked, after, report


def closed(groups: Groups) -> Pairs:
    """All pairs within groups."""
    return {(i, j) for group in groups.all() for at, i in enumerate(group) for j in group[at + 1 :]}


def ours(data: Noisy) -> tuple[Pairs, int, Pairs]:
    """Pairs joined without asking, the number of questions, and pairs joined once they are answered rightly."""
    records, report = data.records, data.report
    found = matching.match(records, sources=data.source)
    before = closed(found.groups)
    asked = [pair for pair in found.pairs if pair.verdict == "unsure"]
    right = [pair[:2] for pair in asked if report[pair.left] == report[pair.right]]
    wrong = [pair[:2] for pair in asked if report[pair.left] != report[pair.right]]
    # what was joined stands, as in a review, unless an answer parts it
    groups = Groups(len(records), wrong)
    for i, j in [*right, *(pair[:2] for pair in found.pairs if pair.verdict == "same")]:
        groups.join(i, j)
    return before, len(asked), closed(groups)


def tell(name: str, it: Quality, more: str = "") -> None:
    """One line of the table."""
    print(
        f"  {name:22} {it.sensitivity:11.4f} {it.specificity:11.5f} {it.precision:9.5f} {it.recall:8.4f} {it.lost:6d}  {more}", flush=True
    )


class Wanted(NamedTuple):
    """Least shares without asking (sensitivity, specificity, precision), the most questions in a record, the least recall when they are answered."""

    sensitivity: float = 0.99
    specificity: float = 0.9999
    precision: float = 0.0
    questions: float = 0.01
    recall: float = 0.998


SMALL = 20
"""So many small reviews are judged together: in one, a single pair is more than what is wanted allows."""
BARE = Wanted(0.97, 0.0, 0.995, 0.05, 0.0)


def one(name: str, *sets: Noisy, wanted: Wanted = Wanted()) -> bool:
    """Judge a set of records, beside the peers, or several small ones taken together; whether what is wanted was reached."""
    before, asked, after, report = together(sets)
    print(f"\n{name}: {len(report):,} records, {len(set(report)):,} reports")
    print(f"  {'':22} {'sensitivity':>11} {'specificity':>11} {'precision':>9} {'recall':>8} {'lost':>6}")
    first, last = quality(before, report), quality(after, report)
    share = asked / len(report)
    tell("without asking", first, f"{asked} questions, {100 * share:.2f} in 100 records")
    tell("questions answered", last)
    if len(sets) == 1:
        tell("splink", quality(by_splink(table(sets[0].records)), report))
        tell("exact", quality(by_exact(sets[0].records), report))
    reached = (
        first.sensitivity >= wanted.sensitivity and first.specificity >= wanted.specificity and first.precision >= wanted.precision
        and share < wanted.questions and last.recall >= wanted.recall
    )  # fmt: skip
    least = " and ".join(f"{name} ≥ {value}" for name, value in wanted._asdict().items() if value and name not in ("questions", "recall"))
    print(
        f"  {'reached' if reached else 'MISSED'}: {least}, questions < {100 * wanted.questions:g} in 100, recall ≥ {wanted.recall} when answered"
    )
    return reached


def main() -> None:
    """Print the table."""
    seeds = [int(it) for it in sys.argv[1:]] or [9011, 9012]
    reached = []
    for seed in seeds:
        reached.append(one(f"science, seed {seed}", noisy(20_000, seed=seed)))
        reached.append(one(f"letters, seed {seed}", noisy(20_000, seed=seed, style="letters")))
        reached.append(
            one(
                f"letters without volume, pages and DOI, seed {seed}",
                noisy(20_000, seed=seed, style="letters", bare=True),
                wanted=BARE,
            )
        )
        reached.append(one(f"two bare bibliographies, seed {seed}", bibliographies(4_900, seed=seed), wanted=BARE))
        reached.append(one(f"science, {SMALL} reviews of 600, from seed {seed}", *(noisy(600, seed=seed + 100 * k) for k in range(SMALL))))
    sys.exit(not all(reached))


if __name__ == "__main__":
    main()
