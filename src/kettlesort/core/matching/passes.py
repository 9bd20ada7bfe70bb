"""What each pass of a rule would join alone, what it adds to those before it, and what just escapes it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from kettlesort.core.matching import Matching
from kettlesort.core.matching.grouping import Groups
from kettlesort.core.matching.lookalikes import ALIKE
from kettlesort.core.matching.rule import failed, failures

_EXAMPLES = 12


class Reach(NamedTuple):
    """How far a pass goes: pairs that it holds for, copies that it alone would remove, pairs that no pass before it decided, and pairs that fail it in one condition."""

    name: str
    then: str
    holds: int
    alone: int
    adds: int
    edge: int


class Edge(NamedTuple):
    """A pair (positions) that fails a pass in one field only."""

    left: int
    right: int
    score: float
    how: str
    kind: str
    fails: str


def reach(found: Matching) -> list[Reach]:
    """How far each pass of the rule goes."""
    out = []
    judged = found.judged
    for number, one in enumerate(found.rule.passes):
        fails = failures(found.columns, judged.compared, one, found.sources)
        holds = np.flatnonzero(fails == 0)
        groups = Groups(len(found.columns))
        for k in holds.tolist():
            groups.join(int(judged.left[k]), int(judged.right[k]))
        alone = len(found.columns) - len(groups.all())
        out.append(Reach(one.name, one.then, len(holds), alone, int((judged.by == number).sum()), int((fails == 1).sum())))
    return out


def edges(found: Matching) -> list[Edge]:
    """For each pass some pairs that fail it in one condition and are in different groups, the weightiest first."""
    out = []
    judged = found.judged
    for one in found.rule.passes:
        near = np.flatnonzero(failures(found.columns, judged.compared, one, found.sources) == 1)
        taken: set[tuple[int, int]] = set()
        for k in near[np.argsort(-judged.weight[near], kind="stable")].tolist():
            i, j = int(judged.left[k]), int(judged.right[k])
            groups = (found.groups.of(i), found.groups.of(j))
            if groups[0] == groups[1] or groups in taken:
                continue
            taken.add(groups)
            fails = failed(found.columns, judged.compared, one, k)
            kind = int(judged.kind[k])
            out.append(
                Edge(
                    i, j, float(judged.weight[k]), one.name, ALIKE[kind - 1].name if kind else "", fails[0] if fails else "kinds or sources"
                )
            )
            if len(taken) >= _EXAMPLES:
                break
    return out
