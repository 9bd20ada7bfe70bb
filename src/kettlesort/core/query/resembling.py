"""A query for what is like some records: several of their telling terms at once, whichever these are."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import islice

from kettlesort.core.query.mining import Mined
from kettlesort.core.query.nodes import Group, Node


def telling(mined: Sequence[Mined], most: int) -> list[Mined]:
    """The weightiest terms of some texts, at most ``most``, no two with a word in common; among equals the rarer one elsewhere.

    ``mined`` is of `mine`, whose settings say how places are weighed.
    """
    taken: list[Mined] = []
    words: set[str] = set()
    for one in sorted(mined, key=lambda each: (-each.weight, each.records, each.term)):
        own = {word for form in one.forms for word in form.split()}
        if len(taken) < most and not own & words:
            taken.append(one)
            words |= own
    return taken


def at_least(least: int, parts: Sequence[Node]) -> Node:
    """What has ``least`` or more of the parts, from 1 to all of them. ValueError for any other number.

    Written so that each part stands as seldom as can be: of a, b and c two are (a and (b or c)) or (b and c).
    """
    if not 1 <= least <= len(parts):
        raise ValueError(f"at least {least} of {len(parts)} cannot be")
    if least == 1:
        return _joined("any", parts)
    if least == len(parts):
        return _joined("all", parts)
    ways = [_joined("all", [part, at_least(least - 1, parts[k + 1 :])]) for k, part in enumerate(islice(parts, len(parts) - least + 1))]
    return _joined("any", ways)


def _joined(joint: str, parts: Sequence[Node]) -> Node:
    if len(parts) == 1:
        return parts[0]
    flat = [
        below for part in parts for below in (part.parts if isinstance(part, Group) and part.joint == joint and not part.label else (part,))
    ]
    return Group("any" if joint == "any" else "all", tuple(flat))
