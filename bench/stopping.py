"""When screening may stop: `./kettle run python bench/stopping.py [reviews] [seed]`

Simulates reviews of many kinds, each looked at once at a place that is not chosen by what was found, and prints what is promised and what
comes true: of the looks that say p95 < 0.05, how many have recall of 95 % or more, and how many are wrong in the worst case that the assumption allows; how often the 95 % interval of what is left holds the truth; and how
much work is saved by stopping at the first of regular looks that says so.
"""

from __future__ import annotations

import sys
from collections import defaultdict
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.screening.stopping import remaining

KINDS = ("good", "fair", "bad", "no order", "outliers", "late", "second wave")


class Review(NamedTuple):
    """Included or not, in the order of screening."""

    kind: str
    labels: NDArray[np.int8]


def review(rng: np.random.Generator, kind: str) -> Review:
    """One review: 300 to 6,000 records, 0.2 to 20 % included."""
    n = int(np.exp(rng.uniform(np.log(300), np.log(6000))))
    included = max(2, round(n * float(np.exp(rng.uniform(np.log(0.002), np.log(0.2))))))
    spread = {"good": 0.8, "fair": 2.0, "bad": 6.0, "no order": 1e9, "outliers": 0.8, "late": 2.0, "second wave": 0.8}[kind]
    scores = rng.exponential(spread * included / n, included)
    if kind == "outliers":
        odd = rng.random(included) < rng.uniform(0.02, 0.15)
        scores[odd] = rng.uniform(0, 1, int(odd.sum()))
    if kind == "late":
        late = rng.random(included) < 0.3
        scores[late] += rng.exponential(0.15, int(late.sum()))
    if kind == "second wave":
        wave = rng.random(included) < rng.uniform(0.1, 0.4)
        scores[wave] = rng.normal(rng.uniform(0.4, 0.9), 0.03, int(wave.sum()))
    if kind == "no order":
        scores = rng.uniform(0, 1, included)
    beyond = (scores < 0) | (scores > 1)
    scores[beyond] = rng.uniform(0, 1, int(beyond.sum()))
    keys = np.concatenate([scores, rng.uniform(0, 1, n - included)])
    labels = np.concatenate([np.ones(included, np.int8), np.zeros(n - included, np.int8)])
    return Review(kind, labels[np.argsort(keys, kind="stable")])


def looked(rng: np.random.Generator, it: Review, sample: bool) -> tuple[NDArray[np.int8], int, int]:
    """Answers at one look, how many of them are random ones, and how many included records are left."""
    n = len(it.labels)
    seen = int(n * rng.uniform(0.05, 0.98))
    if not sample:
        return it.labels[:seen], 0, int(it.labels[seen:].sum())
    drawn = min(n - seen, int(rng.integers(20, 500)))
    rest = rng.permutation(it.labels[seen:])
    return np.concatenate([it.labels[:seen], rest[:drawn]]), drawn, int(rest[drawn:].sum())


def first_stop(it: Review) -> tuple[int, bool]:
    """Where the first of fifty regular looks says that one may stop, and whether 95 % are found there."""
    n, total = len(it.labels), int(it.labels.sum())
    for at in np.linspace(0.02, 1, 50):
        seen = int(n * at)
        if seen and remaining(n, it.labels[:seen]).p95 < 0.05:
            return seen, it.labels[:seen].sum() >= 0.95 * total
    return n, True


WORST = [(found, seen) for found in (10, 38, 100, 180) for seen in (0.3, 0.4, 0.5, 0.6, 0.8, 0.95)]
TIMES = 1000


def wrong_at_worst(rng: np.random.Generator) -> float:
    """The largest share of looks that say p95 < 0.05 wrongly where the order has no more to give: all finds first, then just too many anywhere."""
    shares = []
    for found, seen in WORST:
        left, wrong = found // 19 + 1, 0
        for _ in range(TIMES):
            rest = np.zeros(1000 - found, np.int8)
            rest[rng.choice(len(rest), left, replace=False)] = 1
            answers = np.concatenate([np.ones(found, np.int8), rest])[: int(1000 * seen)]
            wrong += bool(answers.sum() < 0.95 * (found + left) and remaining(1000, answers).p95 < 0.05)
        shares.append(wrong / TIMES)
    return max(shares)


def main() -> None:
    """Print the table."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 2100
    rng = np.random.default_rng(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    sums: dict[str, dict[str, list[float]]] = defaultdict(lambda: defaultdict(list))
    for k in range(count):
        it = review(rng, KINDS[k % len(KINDS)])
        n, total = len(it.labels), int(it.labels.sum())
        for sample in (False, True):
            answers, drawn, left = looked(rng, it, sample)
            told = remaining(n, answers, drawn)
            enough = total - left >= 0.95 * total
            name = "random sample" if sample else it.kind
            if told.p95 < 0.05:
                sums[name]["kept"].append(enough)
            if enough and left + len(answers) < n + 1 and len(answers) < n:
                sums[name]["said"].append(told.p95 < 0.05)
            sums[name]["covered"].append(told.left.low <= left <= told.left.high)
            sums[name]["off"].append(abs(told.left.estimate - left) / total)
            sums[name]["wide"].append((told.left.high - told.left.low) / total)
        stop, fine = first_stop(it)
        sums[it.kind]["saved"].append(1 - stop / n)
        sums[it.kind]["fine"].append(fine)
        ideal = int(np.flatnonzero(it.labels)[int(np.ceil(0.95 * total)) - 1]) + 1
        sums[it.kind]["ideal"].append(1 - ideal / n)
    columns = ("kept", "said", "covered", "off", "wide", "saved", "ideal", "fine")
    print(f"{'':16}" + "".join(f"{it:>10}" for it in columns))
    for name in (*KINDS, "random sample"):
        print(f"{name:16}" + "".join(f"{np.mean(sums[name][it]):10.3f}" if sums[name][it] else f"{'':>10}" for it in columns))
    ranked = [name for name in KINDS if name != "second wave"]
    kept = float(np.mean([x for name in (*ranked, "random sample") for x in sums[name]["kept"]]))
    covered = float(np.mean([x for name in (*ranked, "random sample") for x in sums[name]["covered"]]))
    saved = float(np.mean(sums["good"]["saved"]))
    print(
        f"{'reached' if kept >= 0.95 else 'MISSED '} of looks that say p95 < 0.05, with recall ≥ 95 %: {kept:.3f} (second wave without a sample aside)"
    )
    print(f"{'reached' if covered >= 0.93 else 'MISSED '} intervals that hold what is left: {covered:.3f}")
    print(f"{'reached' if saved >= 0.19 else 'MISSED '} work saved where the order is good: {saved:.3f}")
    wrong, allowed = wrong_at_worst(rng), 0.05 + 3 * (0.05 * 0.95 / TIMES) ** 0.5
    print(
        f"{'reached' if wrong <= allowed else 'MISSED '} wrong at one look in the worst of {len(WORST)} cases of {TIMES:,}: {wrong:.3f} (0.05, and {allowed - 0.05:.3f} of chance)"
    )
    sys.exit(not (kept >= 0.95 and covered >= 0.93 and saved >= 0.19 and wrong <= allowed))


if __name__ == "__main__":
    main()
