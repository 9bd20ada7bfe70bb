"""Why two records are, or are not, the same report."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from kettlesort.core.matching.columns import columns_of
from kettlesort.core.matching.compare import compare
from kettlesort.core.matching.fields import FIELDS
from kettlesort.core.matching.learnt import NOTHING, Learnt
from kettlesort.core.matching.lookalikes import ALIKE, lookalikes
from kettlesort.core.record import Record


class Evidence(NamedTuple):
    """What one field says: in words, and as a weight; positive speaks for the same report, negative against. ``says`` is "" if one is silent."""

    field: str
    weight: float
    says: str


class Weighed(NamedTuple):
    """All evidence on a pair, its sum, the kind of look-alikes it belongs to ("" for none), and the chance, 0 to 1, that it is one report."""

    evidence: list[Evidence]
    total: float
    kind: str
    chance: float


def explain(a: Record, b: Record, learnt: Learnt = NOTHING) -> Weighed:
    """What each field of two records says about their being the same report."""
    columns = columns_of((a, b))
    learnt.common.prepare(columns)
    compared = compare(columns, np.array([[0, 1]]))
    kind = int(lookalikes(columns, compared)[0])
    levels = compared.levels[0].tolist()
    table = learnt.weights.table
    evidence = [
        Evidence(field.name, float(table[k][level]) if level else 0.0, field.levels[level - 1].says if level else "")
        for k, (field, level) in enumerate(zip(FIELDS, levels, strict=True))
    ]
    total = float(learnt.weights.of(compared.levels)[0])
    return Weighed(evidence, total, ALIKE[kind - 1].name if kind else "", float(learnt.weights.chance(np.array([total]))[0]))
