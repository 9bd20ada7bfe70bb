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
_FLOOR = 0.02
"""No further proposal is made below this chance."""


@lru_cache(maxsize=1)
def families() -> dict[str, Family]:
    """The fitted weights."""
    held = json.loads(files(__package__).joinpath("weights.json").read_text("utf-8"))
    return {name: Family(one["intercept"], one["weights"], one["least"]) for name, one in held.items()}


def chance(kind: str, signs: Mapping[str, float], weights: Mapping[str, Family] | None = None) -> float:
    """The chance that a candidate is right, between 0 and 1."""
    family = (weights or families())[FAMILY[kind]]
    score = family.intercept + sum(family.weights.get(name, 0.0) * value for name, value in crossed(signs).items())
    return 1 / (1 + exp(-max(-30.0, min(30.0, score))))


def crossed(signs: Mapping[str, float]) -> dict[str, float]:
    """Signs with those products that a sum cannot say: what counts differently in a table, and what counts only together."""
    out = dict(signs)
    if signs.get("table"):
        out.update({f"table: {name}": signs[name] for name in ("name", "near", "instructions", "with caption") if name in signs})
    out["name and near"] = signs.get("name", 0.0) * signs.get("near", 0.0)
    out["nameless"] = max(0.0, 0.5 - signs.get("name", 0.0))
    out["unheard and nameless"] = signs.get("unheard", 0.0) * (1 - signs.get("name", 0.0))
    out["name squared"] = signs.get("name", 0.0) ** 2
    if "arm" in signs:
        out["arm and near"] = signs["arm"] * signs.get("near", 0.0)
    return out


def kept(kind: str, rated: Sequence[tuple[float, T]], weights: Mapping[str, Family] | None = None) -> list[tuple[float, T]]:
    """Of candidates with their chances, the surest first, those that are proposed: none if the surest is not likely enough."""
    if not rated or rated[0][0] < (weights or families())[FAMILY[kind]].least:
        return []
    return [(sure, one) for sure, one in rated if sure >= _FLOOR]


class Answer(NamedTuple):
    """What a person said of a proposal: the kind of its item, its signs, and whether it was right."""

    kind: str
    signs: Mapping[str, float]
    right: bool


PULL = 4.0
"""How strongly weights are held to those fitted on invented reports: it takes about so many answers to move one weight by as much as they say."""


def learnt(answers: Sequence[Answer]) -> dict[str, Family]:
    """The weights as a team's answers move them: a logistic regression for each family, with a penalty of ``PULL`` / 2 on the square of every weight's way
    from where it was (a normal prior around the fitted weights), solved by Newton's method. Families without answers of both sorts stay as they are.
    """
    import numpy as np

    out = dict(families())
    for name, family in families().items():
        mine = [answer for answer in answers if FAMILY[answer.kind] == name]
        right = np.array([answer.right for answer in mine], dtype=float)
        if not mine or right.min() == right.max():
            continue
        signs = [crossed(answer.signs) for answer in mine]
        names = sorted({sign for entry in signs for sign in entry if sign in family.weights})
        x = np.array([[1.0, *(entry.get(sign, 0.0) for sign in names)] for entry in signs])
        before = np.array([family.intercept, *(family.weights[sign] for sign in names)])
        weights = before.copy()
        for _ in range(30):
            p = 1 / (1 + np.exp(-np.clip(x @ weights, -30, 30)))
            slope = x.T @ (right - p) - PULL * (weights - before)
            bend = (x * (p * (1 - p))[:, None]).T @ x + PULL * np.eye(len(weights))
            step = np.linalg.solve(bend, slope)
            weights = weights + step / max(1.0, float(np.abs(step).max()))
            if float(np.abs(step).max()) < 1e-8:
                break
        out[name] = Family(
            float(weights[0]), {**family.weights, **{sign: float(one) for sign, one in zip(names, weights[1:], strict=True)}}, family.least
        )
    return out
