"""Data items: what is extracted from every study, of which kind, and for which parts of a study."""

from __future__ import annotations

from typing import Literal, NamedTuple, get_args

Kind = Literal["text", "number", "quantity", "date", "choice", "choices", "yesno", "counts", "mean_sd", "median_range"]
KINDS: tuple[Kind, ...] = get_args(Kind)
BY_ARM: tuple[Kind, ...] = ("counts", "mean_sd", "median_range")
"""Kinds that say something of a group of people or things, not of a whole study."""
IN_WORDS: dict[Kind, str] = {
    "text": "text", "number": "number", "quantity": "quantity", "date": "date", "choice": "one of some choices", "choices": "several choices",
    "yesno": "yes or no", "counts": "events of total", "mean_sd": "mean with SD", "median_range": "median with range",
}  # fmt: skip

COUNTED = (
    "patients|participants|subjects|volunteers|people|persons|adults|women|men|mothers|children|infants|pupils|students|workers|athletes|households|families|"
    "animals|cows|calves|pigs|sheep|mice|rats|birds|fish|hives|colonies|plots|fields|farms|plants|trees|eyes|knees|hips|teeth|samples|schools|wards|clinics"
)
"""What is counted in studies, as an alternation: whoever heads a column with it gives the size of groups."""

Factor = Literal["arm", "outcome", "time"]
FACTORS: tuple[Factor, ...] = get_args(Factor)
"""What parts of a study an item can be asked for: each arm, each outcome, each time point."""
PLURAL: dict[Factor, str] = {"arm": "arms", "outcome": "outcomes", "time": "time points"}


class Item(NamedTuple):
    """One thing to extract, once for a study or for each combination of the levels of the factors ``per``.

    ``unit`` goes with quantities, ``choices`` with choices; numbers, and quantities in ``unit``, lie between ``low`` and ``high``.
    ``concept`` names the broader concept that it belongs to.
    """

    name: str
    kind: Kind
    unit: str = ""
    choices: tuple[str, ...] = ()
    low: float | None = None
    high: float | None = None
    per: tuple[Factor, ...] = ()
    concept: str = ""
    instructions: str = ""
    examples: str = ""


class Level(NamedTuple):
    """A level of a factor: an arm, an outcome or a time point, with other words for it."""

    factor: Factor
    name: str
    words: tuple[str, ...] = ()


class Concept(NamedTuple):
    """A concept of the codebook; ``within`` names the broader one of which it is a kind."""

    name: str
    within: str = ""
