"""What an analysis is: which numbers of the evidence table it pools, and how."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

from kettlesort.core.pooling.analysis import OF_COUNTS, OF_MEANS, How
from kettlesort.core.pooling.models import TAU2, Model
from kettlesort.work.chart import Evidence
from kettlesort.work.errors import Invalid

MEASURES = (*OF_COUNTS, *OF_MEANS, "GEN")
OF_NETWORKS = ("OR", "RR", "RD", "MD")
ORDERS = ("name", "effect", "weight", "people", "year")
"""By what studies may be ordered in the picture."""
BY_APPRAISAL = 0
"""What groups studies by their appraisal as a whole."""
BY_YEAR = 0
"""The moderator that is the year of a study's first report."""
HIDEABLE = ("figures", "effect", "weight")
"""What a picture may go without: the figures of the sides, each study's effect in numbers, its weight."""
MOST_BESIDE = 6


def part_key(study: int, arm: int | None = None) -> str:
    """A study, or with ``arm`` the one comparison of it that a divided side leaves it.

    >>> part_key(12), part_key(12, 3)
    ('12', '12:3')
    """
    return str(study) if arm is None else f"{study}:{arm}"


class Wording(NamedTuple):
    """What an analysis pools and how.

    ``item`` at an ``outcome`` and a ``time``, as far as it is asked for them; ``arms`` against the arms ``against``: several are joined as one, or with ``split`` each of
    ``arms`` is a comparison of its own that has its part of the other side. In a ``network`` all ``arms`` are compared with each other, the first of them leads, and
    ``better`` says which way. For GEN, ``item`` is an estimate and ``se_item`` its standard error. ``left_out``: what the team leaves out, by `part_key`. ``group``: an item
    by whose values studies are grouped (0: by their appraisal). ``only``: an item (0: the appraisal) of which a
    study must have one of the values ``among``. ``moderators``: items, or the year (0), on which effects are regressed. ``order``: of studies in the picture,
    where the values of the items ``beside`` stand beside their names; what ``hidden`` names of `HIDEABLE` does not.
    """

    name: str
    measure: str
    item: int
    arms: tuple[int, ...] = ()
    against: tuple[int, ...] = ()
    outcome: int | None = None
    time: int | None = None
    se_item: int | None = None
    model: str = "random"
    tau2: str = "REML"
    hk: bool = False
    weights: str = "iv"
    level: float = 0.95
    correction: float = 0.5
    left_out: tuple[str, ...] = ()
    group: int | None = None
    order: str = "name"
    left: str = ""
    right: str = ""
    kind: str = "pair"
    split: bool = False
    moderators: tuple[int, ...] = ()
    better: str = "larger"
    only: int | None = None
    among: tuple[str, ...] = ()
    beside: tuple[int, ...] = ()
    hidden: tuple[str, ...] = ()

    @property
    def how(self) -> How:
        """As the core knows it."""
        random = self.model == "random"
        return How(
            self.measure, Model(random, self.tau2, random and self.hk, self.level), "iv" if random else self.weights, self.correction
        )


_LISTS = ("arms", "against", "left_out", "moderators", "among", "beside", "hidden")


def wording_of(content: Mapping[str, Any]) -> Wording:
    """An analysis from data."""
    return Wording(**{**content, **{name: tuple(content.get(name) or ()) for name in _LISTS}})


def as_data(wording: Wording) -> dict[str, Any]:
    """An analysis as data."""
    return {name: list(value) if isinstance(value, tuple) else value for name, value in wording._asdict().items()}


_CALLED = {
    "name": "name", "measure": "measure", "item": "item", "arms": "arms", "against": "arms", "outcome": "outcome", "time": "time point", "se_item": "standard error",
    "model": "model", "tau2": "variance between studies", "hk": "interval", "weights": "weights", "level": "level", "correction": "correction", "left_out": "what is left out",
    "group": "groups", "order": "order", "left": "labels", "right": "labels", "kind": "what is compared", "split": "how arms are joined", "moderators": "moderators",
    "better": "ranking", "only": "studies", "among": "studies", "beside": "columns", "hidden": "columns",
}  # fmt: skip


def changed(now: Wording, before: Wording) -> list[str]:
    """Which parts of an analysis are other than before, in words."""
    return list(dict.fromkeys(_CALLED[name] for name in Wording._fields if getattr(now, name) != getattr(before, name)))


def checked(evidence: Evidence, said: Wording) -> Wording:
    """An analysis that can be. Raises Invalid."""
    said = said._replace(name=" ".join(said.name.split())[:200], left=said.left.strip()[:80], right=said.right.strip()[:80])
    if not said.name:
        raise Invalid("An analysis needs a name.", field="name")
    known = (
        (said.measure, MEASURES), (said.model, ("fixed", "random")), (said.tau2, TAU2), (said.order, ORDERS), (said.kind, ("pair", "network")), (said.better, ("larger", "smaller")),
    )  # fmt: skip
    if any(chosen not in some for chosen, some in known):
        raise Invalid("There is no such way to pool.")
    if (
        said.weights not in ("iv", "mh", "peto")
        or (said.weights == "peto" and said.measure != "OR")
        or (said.weights == "mh" and said.measure not in OF_COUNTS)
    ):
        raise Invalid("These weights are not for this measure.", field="weights")
    if not 0.5 <= said.level < 1 or not 0 <= said.correction <= 10:
        raise Invalid("A level lies between 0.5 and 1, a correction between 0 and 10.", field="level")
    items = {one.id: one for one in evidence.book.items}
    item = items.get(said.item)
    if item is None:
        raise Invalid("This item is no longer in the codebook.", field="item")
    kinds = ("counts",) if said.measure in OF_COUNTS else ("mean_sd",) if said.measure in OF_MEANS else ("number", "quantity")
    if item.kind not in kinds:
        raise Invalid(f"{item.name} is no item from which {said.measure} can be worked out.", field="item")
    if said.measure == "GEN":
        se = items.get(said.se_item)
        if se is None or se.kind not in kinds or se.per != item.per:
            raise Invalid("The item of the standard error is a number that is asked for the same parts of a study.", field="se_item")
    said = _network(said) if said.kind == "network" else _pair(said)
    levels = {one.id: one.factor for one in evidence.levels}
    for factor, some in (("arm", [*said.arms, *said.against]), ("outcome", [said.outcome]), ("time", [said.time])):
        asked = factor in item.per
        if any((one is not None) != asked or (one is not None and levels.get(one) != factor) for one in some):
            raise Invalid(f"{item.name} is {'asked' if asked else 'not asked'} for each {factor}; choose accordingly.", field=factor)
    if said.group not in (None, BY_APPRAISAL) and said.group not in items:
        raise Invalid("The item of the groups is no longer in the codebook.", field="group")
    if said.only not in (None, BY_APPRAISAL) and said.only not in items:
        raise Invalid("The item that studies are chosen by is no longer in the codebook.", field="only")
    if said.only is not None and not said.among:
        raise Invalid("Choose at least one value that studies must have.", field="among")
    said = said if said.only is not None else said._replace(among=())
    if any(number not in items or items[number].per for number in said.beside) or len(said.beside) > MOST_BESIDE:
        raise Invalid(f"Beside the names stand up to {MOST_BESIDE} items that are asked once for a study.", field="beside")
    if any(name not in HIDEABLE for name in said.hidden):
        raise Invalid("The picture has no such column.", field="hidden")
    for number in said.moderators:
        if number != BY_YEAR and (number not in items or items[number].kind not in ("number", "quantity") or items[number].per):
            raise Invalid("A moderator is a number that is asked once for a study.", field="moderators")
    return said


def _pair(said: Wording) -> Wording:
    if said.measure != "GEN" and (not said.arms or not said.against or set(said.arms) & set(said.against)):
        raise Invalid("Choose at least one arm for each side, none for both.", field="arms")
    return said._replace(
        split=said.split and said.measure != "GEN" and len(said.arms) > 1,
        moderators=tuple(dict.fromkeys(said.moderators)),
        beside=tuple(dict.fromkeys(said.beside)),
    )


def _network(said: Wording) -> Wording:
    """A network has what it needs, and nothing that is only of two sides."""
    if said.measure not in OF_NETWORKS:
        raise Invalid("Several treatments are compared by odds ratio, risk ratio, risk difference or mean difference.", field="measure")
    if len(set(said.arms)) < 2:
        raise Invalid("Choose at least two arms to compare.", field="arms")
    if said.model == "random" and said.tau2 not in ("REML", "DL"):
        raise Invalid("The variance between studies of a network is estimated by REML or by DerSimonian and Laird.", field="tau2")
    return said._replace(
        arms=tuple(dict.fromkeys(said.arms)),
        against=(),
        split=False,
        moderators=(),
        group=None,
        hk=False,
        weights="iv",
        beside=(),
        hidden=(),
    )
