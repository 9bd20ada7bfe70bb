"""Whether the chance that is shown at the desk can be believed: `./kettle run python bench/chance.py [tuning]`

Screening is simulated on three samples of texts that other people labelled, with three draws of seeds each, in the order of closeness. After 60 to 300 decisions the
chances that are told of records that nobody has looked at are held against what they are: of all, and by how sure they are.
"""

from __future__ import annotations

import itertools
import sys
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.ranking import RankedText, Ranker, build
from kettlesort.core.ranking.chance import Decision, calibrate
from labelled import REPORTED, TUNING, Labelled, labelled
from measure import tell

Floats = NDArray[np.float64]
_SEEDS, _STEP, _LOOKS = 5, 10, (60, 100, 150, 200, 300)
_SAMPLES = _DRAWS = (1, 2, 3)
_BINS = ((0.0, 0.05), (0.05, 0.2), (0.2, 0.5), (0.5, 0.8), (0.8, 1.01))


def screened(data: Labelled) -> Iterator[tuple[Floats | None, NDArray[np.bool_]]]:
    """At each look of each draw of seeds: the chances of the records nobody has looked at that one is told of, and whether they belong; None where nothing is told."""
    labels = np.array(data.labels)
    ranker = Ranker(build([RankedText(*text) for text in zip(data.titles, data.abstracts, strict=True)]))
    for draw in _DRAWS:
        seeds = np.random.default_rng(draw).choice(np.flatnonzero(labels), _SEEDS, replace=False).tolist()
        found: list[int] = []
        excluded: list[int] = []
        history: list[Decision] = []
        score = ranker.rank(seeds, []).score
        while len(history) < max(_LOOKS):
            seen = {*seeds, *found, *excluded}
            for k in [k for k in np.argsort(-score).tolist() if k not in seen][:_STEP]:
                (found if labels[k] else excluded).append(k)
                history.append(Decision(k, bool(labels[k])))
            score = ranker.rank([*seeds, *found], excluded).score
            if len(history) not in _LOOKS:
                continue
            calibration = calibrate(ranker, seeds, history)
            seen = {*seeds, *found, *excluded}
            left = [k for k in np.argsort(-score).tolist() if k not in seen]
            told = {k: likely.chance for rank, k in enumerate(left, 1) if calibration and (likely := calibration.of(float(score[k]), rank))}
            yield np.array(list(told.values())) if calibration else None, labels[list(told)]


def main() -> None:
    bins = np.zeros((len(_BINS), 3))
    ratios, squares, outcomes, silent, looks, reached = [], 0.0, [], 0, 0, 0
    for plan in TUNING if "tuning" in sys.argv else REPORTED:
        for chance, belongs in itertools.chain.from_iterable(screened(labelled(plan, sample)) for sample in _SAMPLES):
            looks += 1
            silent += chance is None
            if chance is None or not len(chance):
                continue
            reached += len(chance)
            ratios.append((chance.sum(), belongs.sum()))
            outcomes += belongs.tolist()
            squares += float(((chance - belongs) ** 2).sum())
            for row, (low, high) in enumerate(_BINS):
                inside = (chance >= low) & (chance < high)
                bins[row] += inside.sum(), chance[inside].sum(), belongs[inside].sum()
    print(
        f"         {looks} looks, {silent} of them with too few decisions to tell a chance; told of {reached / max(1, looks - silent):.0f} records each"
    )
    for (low, high), (n, told, was) in zip(_BINS, bins, strict=True):
        if n:
            print(f"         told {low:.2f} to {min(1, high):.2f}: {int(n)} records, on average {told / n:.3f}, belonged {was / n:.3f}")
    told, was = np.array(ratios).sum(axis=0)
    tell("told to belong over what belonged", told / max(1, was), 1.5, at_most=True, detail=f"{told:.0f} of {was:.0f}")
    plain = float(np.var(outcomes)) * len(outcomes)
    tell(
        "Brier score over that of one share for all",
        squares / plain,
        1.0,
        at_most=True,
        detail=f"{squares:.1f} against {plain:.1f}",
    )


if __name__ == "__main__":
    main()
