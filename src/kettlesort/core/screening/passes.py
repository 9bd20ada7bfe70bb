"""How a pass is screened, and what the verdicts on a record come to."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Literal, NamedTuple

Verdict = Literal["include", "exclude", "unsure"]
State = Literal["open", "include", "exclude", "unsure", "differs"]
PASSES = (1, 2)
"""Titles and abstracts, kindly; full texts, strictly."""
MOST_READERS = 4


class Mode(NamedTuple):
    """How a pass is screened.

    Several ``readers`` decide independently and blind. Their verdicts ``differ`` by verdict, or also where they exclude for
    different reasons. A verdict of unsure ``stays`` a question, or the record ``goes_on`` as if it were included. What differs is settled by a
    ``third`` person, or by ``talk`` of whoever read it.
    """

    readers: int = 1
    differ: Literal["verdict", "reason"] = "verdict"
    unsure: Literal["stays", "goes_on"] = "stays"
    settling: Literal["third", "talk"] = "third"


class Said(NamedTuple):
    """A verdict in force; later ones have a higher ``number``. One that ``settles`` was given in sight of the others."""

    number: int
    person: int
    verdict: Verdict
    criterion: int | None = None
    settles: bool = False


class Outcome(NamedTuple):
    """What the verdicts on a record come to; it is ``blind`` while some of its several readers have not decided."""

    state: State
    criterion: int | None = None
    blind: bool = False


def outcome(mode: Mode, said: Iterable[Said], allotted: int = 0, order: Mapping[int, int] | None = None) -> Outcome:
    """What verdicts come to under a mode.

    Of one reader the latest verdict holds, whoever gave it. Of several each person's latest counts; once as many have decided as the mode
    wants, or as a pilot or an overlap has ``allotted`` it to, they agree or differ. What was settled holds until it is taken back.

    Parameters
    ----------
    mode : how the pass is screened
    said : the verdicts in force on the record, in any sequence
    allotted : how many people it waits for who have it on a share beyond what the mode wants, as in a pilot or an overlap; 0 else
    order : the place of each criterion in the protocol: of several reasons for one exclusion the first in it is named

    Returns
    -------
    Outcome : ``unsure`` only under one reader; several who are unsure differ, as that is for people to settle
    """
    held = sorted(said)
    needed = max(mode.readers, allotted)
    if needed == 1:
        return _one(mode, held[-1]) if held else Outcome("open")
    settled = [one for one in held if one.settles]
    if settled:
        return _one(mode, settled[-1])
    each = {one.person: one for one in held}
    if len(each) < needed:
        return Outcome("open", blind=True)
    verdicts = {_counts_as(mode, one.verdict) for one in each.values()}
    if verdicts == {"include"}:
        return Outcome("include")
    if verdicts != {"exclude"}:
        return Outcome("differs")
    reasons = {one.criterion for one in each.values() if one.criterion is not None}
    if mode.differ == "reason" and len(reasons) > 1:
        return Outcome("differs")
    places = order or {}
    return Outcome("exclude", min(reasons, key=lambda reason: (places.get(reason, len(places)), reason), default=None))


def _counts_as(mode: Mode, verdict: Verdict) -> Verdict:
    return "include" if verdict == "unsure" and mode.unsure == "goes_on" else verdict


def _one(mode: Mode, said: Said) -> Outcome:
    return Outcome(_counts_as(mode, said.verdict), said.criterion)
