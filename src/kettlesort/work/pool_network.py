"""Several treatments compared at once: what studies state of their arms as one network."""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

import numpy as np

from kettlesort.core.pooling import network as core
from kettlesort.core.pooling.models import Estimate
from kettlesort.core.pooling.network import Apart, Arms, Network, Rank
from kettlesort.work.double import Cell
from kettlesort.work.pool_studies import Arm, Table, arm_of, chosen
from kettlesort.work.pool_wording import Wording, part_key


class StudyInNetwork(NamedTuple):
    """A study with what it states of each treatment ("" where nothing), the cells, whether the team leaves it ``out``, or why it compares nothing."""

    study: int
    label: str
    out: bool
    columns: tuple[str, ...]
    cells: tuple[Cell, ...]
    why_not: str


class Compared(NamedTuple):
    """Treatments ``a`` against ``b`` in the whole network, and how many studies compare them directly."""

    a: int
    b: int
    estimate: Estimate
    studies: int


class NetworkResult(NamedTuple):
    """A network: its ``treatments`` by name, the reference first; how many took part in each; ``parts`` that hang together; how many studies compare two; how many
    ``others`` are not among the studies that it is about; and what is worked out of the part with the reference: all against all, apart, the ranking, by positions
    in ``treatments``."""

    treatments: list[str]
    people: list[float]
    parts: list[list[int]]
    studies: dict[tuple[int, int], int]
    rows: list[StudyInNetwork]
    others: int
    used: int
    network: Network | None
    league: list[Compared]
    apart: list[Apart]
    ranking: list[tuple[int, float, Rank]]


def compared(table: Table, said: Wording, without: Collection[str] = ()) -> NetworkResult:
    """What a network comes to."""
    item = table.items[said.item]
    names = [table.levels.get(arm, "an arm that is gone") for arm in said.arms]
    rows: list[StudyInNetwork] = []
    built: list[Arms] = []
    people = [0.0] * len(names)
    for study in chosen(table, said):
        arms = [arm_of(said, item, study.id, arm, table) for arm in said.arms]
        there = [k for k, arm in enumerate(arms) if not arm.why_not]
        seen = core.all_seen(said.measure, [_seen(arms[k]) for k in there], said.correction) if there else "no value for any of the arms"
        out = any(part_key(study.id) in some for some in (said.left_out, without))
        why = seen if isinstance(seen, str) else ""
        rows.append(StudyInNetwork(study.id, study.label, out, tuple(_text(arm) for arm in arms), tuple(arm.cell for arm in arms), why))
        if isinstance(seen, str) or out:
            continue
        y, v = zip(*seen, strict=True)
        built.append(Arms(np.array(there, np.int64), np.array(y, np.float64), np.array(v, np.float64)))
        for k in there:
            people[k] += float(arms[k].value["n" if said.measure == "MD" else "total"])
    counted: dict[tuple[int, int], int] = {}
    for study_arms in built:
        at = sorted(study_arms.treatments.tolist())
        for k, a in enumerate(at):
            for b in at[k + 1 :]:
                counted[a, b] = counted.get((a, b), 0) + 1
    parts = core.components(len(names), built)
    blank = NetworkResult(names, people, parts, counted, rows, len(table.evidence.studies) - len(rows), len(built), None, [], [], [])
    inside = parts[0]
    if len(inside) < 2:
        return blank
    return _worked_out(blank, inside, built, said)


def _worked_out(blank: NetworkResult, inside: list[int], built: list[Arms], said: Wording) -> NetworkResult:
    """The figures of the part with the reference; positions are turned back into those of all treatments."""
    place = {treatment: k for k, treatment in enumerate(inside)}
    own = [
        Arms(np.array([place[k] for k in study.treatments.tolist()], np.int64), study.y, study.v)
        for study in built
        if study.treatments.tolist()[0] in place
    ]
    told = core.compare(len(inside), own, said.tau2 if said.model == "random" else None)
    smaller = said.better == "smaller"
    league = [
        Compared(inside[a], inside[b], told.against(a, b, said.level), blank.studies.get((inside[a], inside[b]), 0))
        for a in range(len(inside))
        for b in range(a + 1, len(inside))
    ]
    apart = [one._replace(a=inside[one.a], b=inside[one.b]) for one in core.taken_apart(told, own, said.level)]
    scores = core.p_scores(told, smaller_is_better=smaller)
    ranks = core.ranks(told, smaller_is_better=smaller, level=said.level)
    ranking = sorted(zip(inside, scores, ranks, strict=True), key=lambda entry: -entry[1])
    return blank._replace(used=len(own), network=told, league=league, apart=apart, ranking=ranking)


def _seen(arm: Arm) -> tuple[float, ...]:
    names = ("events", "total") if "events" in arm.value else ("mean", "sd", "n")
    return tuple(float(arm.value[name]) for name in names)


def _text(arm: Arm) -> str:
    if arm.why_not:
        return ""
    value = arm.value
    return f"{value['events']:g} / {value['total']:g}" if "events" in value else f"{value['mean']:g} ± {value['sd']:g} (n {value['n']:g})"
