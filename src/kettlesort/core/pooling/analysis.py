"""One analysis: studies with their effects, how they are pooled, and the same looked at more closely."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

import numpy as np

from kettlesort.core.pooling import counts, models
from kettlesort.core.pooling.closer import Between, between_groups
from kettlesort.core.pooling.effects import RATIOS, Cells, cells_of, effect
from kettlesort.core.pooling.models import TAU2, Model, Pooled, interval

OF_COUNTS, OF_MEANS = ("OR", "RR", "RD"), ("MD", "SMD")


class How(NamedTuple):
    """How studies are pooled: the ``measure``, the model, with fixed effects the ``weights`` (iv, mh, peto), and the correction of a zero cell."""

    measure: str
    model: Model = Model()
    weights: str = "iv"
    correction: float = 0.5

    @property
    def ratio(self) -> bool:
        """Whether estimates are logarithms of ratios."""
        return self.measure in RATIOS


class Study(NamedTuple):
    """A study: its effect with its variance, or why it is left out. ``key`` is whatever the caller knows it by."""

    name: str
    estimate: float | None
    variance: float | None
    left_out: str | None
    cells: Cells | None = None
    key: Any = None


def study(name: str, values: dict[str, float], how: How, key: Any = None) -> Study:
    """A study from its figures, by the columns of its measure (`effects.COLUMNS`). Raises `effects.Bad`."""
    cells = cells_of(values) if how.measure in OF_COUNTS else None
    peto = counts.peto(cells) if cells and how.weights == "peto" else effect(how.measure, values, how.correction)
    return Study(name, *peto, cells, key)


def pooled(studies: Sequence[Study], how: How) -> Pooled | None:
    """Studies as one figure, those that are left out not among them; None where nothing can be pooled."""
    used = [study for study in studies if study.estimate is not None]
    if not used:
        return None
    y, v = effects_of(used)
    found = models.pool(y, v, how.model)
    if how.weights != "mh":
        return found  # Peto's is inverse variance of Z/V with variance 1/V
    told = counts.mantel_haenszel(how.measure, [study.cells for study in used if study.cells], how.correction)
    if told is None:
        return None
    q, _, q_p, i2 = models.heterogeneity(y, v, told.estimate)
    return found._replace(pooled=interval(told.estimate, told.se, how.model.level), q=q, q_p=q_p, i2=i2, weights=np.array(told.weights))


def effects_of(used: Sequence[Study]) -> tuple[models.Floats, models.Floats]:
    """Estimates and variances (k,) of studies that have them."""
    return np.array([study.estimate for study in used], float), np.array([study.variance for study in used], float)


def without_each(studies: Sequence[Study], how: How) -> list[tuple[Study, Pooled | None]]:
    """What is pooled without each study that is used."""
    used = [study for study in studies if study.estimate is not None]
    return [(study, pooled([other for other in used if other is not study], how)) for study in used]


def added(ordered: Sequence[Study], how: How) -> list[tuple[Study, Pooled | None]]:
    """What is pooled as studies are added one by one, in the order in which they are given."""
    used = [study for study in ordered if study.estimate is not None]
    return [(study, pooled(used[: k + 1], how)) for k, study in enumerate(used)]


def by_group(groups: Mapping[str, Sequence[Study]], how: How) -> tuple[list[tuple[str, Pooled]], Between]:
    """What is pooled in each group that has any study, each with its own τ², and the test between them."""
    told = [(name, found) for name, members in groups.items() if (found := pooled(members, how)) is not None]
    return told, between_groups([found.pooled for _, found in told])


def every_way(studies: Sequence[Study], how: How) -> list[tuple[How, Pooled | None]]:
    """The same studies pooled by fixed effects, and by random effects with each estimator of τ² and both intervals."""
    level = how.model.level
    plain = how if how.weights != "iv" else how._replace(weights="iv")
    ways = [plain._replace(model=Model(random=False, level=level))]
    ways += [how._replace(weights="iv", model=Model(random=True, tau2=tau2, hk=hk, level=level)) for tau2 in TAU2 for hk in (False, True)]
    if how.weights == "peto":  # its effects are others
        return [(ways[0], pooled(studies, ways[0]))]
    return [(way, pooled(studies, way)) for way in ways]
