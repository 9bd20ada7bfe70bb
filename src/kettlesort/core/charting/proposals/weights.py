"""How sure a candidate is by its signs: a logistic regression for each family of kinds, fitted by `bench/propose.py fit`."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from functools import lru_cache
from importlib.resources import files
from math import exp
from typing import NamedTuple, TypeVar

T = TypeVar("T")


class Family(NamedTuple):
    """The weights of a family of kinds, and the chance below which the surest is not proposed."""

    intercept: float
    weights: dict[str, float]
    least: float


FAMILY = {
    "counts": "arms", "mean_sd": "arms", "median_range": "arms", "number": "number", "quantity": "number", "date": "date",
    "choice": "choice", "choices": "choice", "yesno": "yesno", "text": "text",
}  # fmt: skip
_FLOOR = 0.03
"""No further proposal is made below this chance."""


@lru_cache(maxsize=1)
def families() -> dict[str, Family]:
    """The fitted weights."""
    held = json.loads(files(__package__).joinpath("weights.json").read_text("utf-8"))
    return {name: Family(it["intercept"], it["weights"], it["least"]) for name, it in held.items()}


def chance(kind: str, signs: Mapping[str, float]) -> float:
    """The chance that a candidate is right, between 0 and 1."""
    family = families()[FAMILY[kind]]
    score = family.intercept + sum(family.weights.get(name, 0.0) * value for name, value in crossed(signs).items())
    return 1 / (1 + exp(-max(-30.0, min(30.0, score))))


def crossed(signs: Mapping[str, float]) -> dict[str, float]:
    """Signs with those products that a sum cannot say: what counts differently in a table, and what counts only together."""
    out = dict(signs)
    if signs.get("table"):
        out.update({f"table: {name}": signs[name] for name in ("name", "near", "instructions", "with caption") if name in signs})
    out["name and near"] = signs.get("name", 0.0) * signs.get("near", 0.0)
    out["name squared"] = signs.get("name", 0.0) ** 2
    if "arm" in signs:
        out["arm and near"] = signs["arm"] * signs.get("near", 0.0)
    return out


def kept(kind: str, rated: Sequence[tuple[float, T]]) -> list[tuple[float, T]]:
    """Of candidates with their chances, the surest first, those that are proposed: none if the surest is not likely enough."""
    if not rated or rated[0][0] < families()[FAMILY[kind]].least:
        return []
    return [(sure, it) for sure, it in rated if sure >= _FLOOR]
