"""An analysis looked at more closely: without each study, one after another, by every model, what explains its differences, who carries it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from kettlesort.core.pooling import analysis as core
from kettlesort.core.pooling.analysis import How, Study, effects_of
from kettlesort.core.pooling.closer import Asymmetry, Regression, asymmetry, regress
from kettlesort.core.pooling.influence import Influence, Profile, influences, profile, stands_out
from kettlesort.core.pooling.models import Pooled
from kettlesort.work.pool_studies import Table, moderator_of, year_in
from kettlesort.work.pool_wording import BY_YEAR, Wording


class Influential(NamedTuple):
    """A study with what it carries, and whether it deserves a look."""

    name: str
    influence: Influence
    stands_out: bool


class Moderated(NamedTuple):
    """Effects on moderators: their names, the studies that have all of them with their figures, and what comes of it; None where there is nothing to tell. ``lacking``: studies without one."""

    names: list[str]
    used: list[Study]
    values: list[list[float]]
    regression: Regression | None
    lacking: list[str]


class Closer(NamedTuple):
    """The same studies without each, one by one as they came, by every model, by moderators, what each carries, how likely each τ² is, and the test of asymmetry."""

    without: list[tuple[str, Pooled | None]]
    added: list[tuple[str, Pooled | None]]
    ways: list[tuple[How, Pooled | None]]
    asymmetry: Asymmetry | None
    influence: list[Influential]
    profile: Profile | None
    moderated: Moderated | None
    k: int


def closer(table: Table, said: Wording, used: Sequence[Study]) -> Closer:
    """Studies that are pooled, looked at more closely."""
    how = said.how
    ordered = sorted(used, key=lambda study: year_in(study.key.label) or 9999)
    y, v = effects_of(used)
    test = asymmetry(y, v) if len(used) > 2 else None
    carried = influences(y, v, how.model) if used and how.weights == "iv" else []
    return Closer(
        [(study.name, found) for study, found in core.without_each(used, how)],
        [(study.name, found) for study, found in core.added(ordered, how)],
        core.every_way(used, how),
        test,
        [Influential(study.name, one, stands_out(one, len(used))) for study, one in zip(used, carried, strict=False)],
        likelihood(said, used),
        moderated(table, said, used),
        len(used),
    )


def likelihood(said: Wording, used: Sequence[Study]) -> Profile | None:
    """How likely each τ² is, by the likelihood that the analysis takes it from, or the restricted one."""
    if said.model != "random":
        return None
    return profile(*effects_of(used), restricted=said.tau2 != "ML", level=said.level)


def moderated(table: Table, said: Wording, used: Sequence[Study]) -> Moderated | None:
    """Effects on the analysis's moderators, of the studies that say something of each."""
    if not said.moderators:
        return None
    items = table.items
    names = ["year" if number == BY_YEAR else _named(items[number].name, items[number].unit) for number in said.moderators]
    there: list[Study] = []
    values: list[list[float]] = []
    lacking: list[str] = []
    for study in used:
        found = [moderator_of(table, number, study.key.study, study.key.label) for number in said.moderators]
        known = [value for value in found if value is not None]
        if len(known) < len(found):
            lacking.append(study.name)
        else:
            there.append(study)
            values.append(known)
    told = regress(*effects_of(there), np.array(values, float).reshape(len(there), len(names)), said.how.model)
    return Moderated(names, there, values, told, lacking)


def _named(name: str, unit: str) -> str:
    return f"{name} ({unit})" if unit else name
