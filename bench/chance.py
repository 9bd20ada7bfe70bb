"""Whether the chance that is shown at the desk can be believed: `./kettle run python bench/chance.py [tuning]`

Screening is simulated on texts that other people labelled, in the order of closeness. After 60 to 300 decisions the chance of every record that nobody has looked
at is told and held against what it is: of those that would come next, of all, and by how sure they are.
"""

from __future__ import annotations

import sys

import numpy as np

from kettlesort.core.ranking import RankedText, Ranker, build
from kettlesort.core.ranking.chance import Decision, calibrate
from labelled import REPORTED, TUNING, labelled
from measure import tell

_SEEDS, _STEP, _LOOKS = 5, 10, (60, 100, 150, 200, 300)
_BINS = ((0.0, 0.05), (0.05, 0.2), (0.2, 0.5), (0.5, 0.8), (0.8, 1.01))


def main() -> None:
    bins = np.zeros((len(_BINS), 3))
    ratios, squares, outcomes, silent, looks, reached = [], [], [], 0, 0, 0
    for plan in TUNING if "tuning" in sys.argv else REPORTED:
        data = labelled(plan)
        labels = np.array(data.labels)
        ranker = Ranker(build([RankedText(*text) for text in zip(data.titles, data.abstracts, strict=True)]))
        for draw in range(1, 4):
            rng = np.random.default_rng(draw)
            seeds = rng.choice(np.flatnonzero(labels), _SEEDS, replace=False).tolist()
            found: list[int] = []
            excluded: list[int] = []
            history: list[Decision] = []
            while len(found) + len(excluded) < max(_LOOKS):
                score = ranker.rank([*seeds, *found], excluded).score
                seen = {*seeds, *found, *excluded}
                for k in [k for k in np.argsort(-score).tolist() if k not in seen][:_STEP]:
                    (found if labels[k] else excluded).append(k)
                    history.append(Decision(k, bool(labels[k])))
                if len(found) + len(excluded) not in _LOOKS:
                    continue
                looks += 1
                calibration = calibrate(ranker, seeds, history)
                if calibration is None:
                    silent += 1
                    continue
                score = ranker.rank([*seeds, *found], excluded).score
                left = np.setdiff1d(np.arange(len(labels)), [*seeds, *found, *excluded])
                told = {int(k): likely for k in left if (likely := calibration.of(float(score[k])))}
                reached += len(told)
                if not told:
                    continue
                left = np.array(list(told))
                chance = np.array([likely.chance for likely in told.values()])
                ratios.append((chance.sum(), labels[left].sum()))
                outcomes += labels[left].tolist()
                squares.append(float(((chance - labels[left]) ** 2).sum()))
                for row, (low, high) in enumerate(_BINS):
                    inside = (chance >= low) & (chance < high)
                    bins[row] += inside.sum(), chance[inside].sum(), labels[left][inside].sum()
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
        sum(squares) / plain,
        1.0,
        at_most=True,
        detail=f"{sum(squares):.1f} against {plain:.1f}",
    )


if __name__ == "__main__":
    main()
