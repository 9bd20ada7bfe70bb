"""Lists of records and of copies: what each is called, and what stands in it."""

from __future__ import annotations

from typing import NamedTuple

OFFERED = {
    "all": "All records",
    "open": "To be decided",
    "differs": "Verdicts differ",
    "unsure": "Unsure",
    "aside": "Set aside by narrowing",
    "excluded": "Excluded in the first pass",
    "sought": "Full texts sought",
    "waiting": "Full texts still sought",
    "missing": "Full texts not obtained",
    "assessed": "Full texts assessed",
    "reports_excluded": "Full texts excluded",
    "included": "Included reports",
    "seeds": "Seeds",
    "found": "All copies, as found",
    "copies": "Copies removed",
}
"""Lists that one can choose; each figure opens one of these, or one of the others."""
_OTHERS = {
    "decided": "Decided in the first pass",
    "studies": "Reports of included studies",
    "to_read": "To be read",
    "second_open": "Full texts still to be decided",
    "second_to_read": "Full texts to be read",
    "second_differs": "Full texts whose verdicts differ",
    "second_unsure": "Full texts on which somebody is unsure",
    "not_seeds": "Records that are no seeds",
    "screened": "Records to screen",
    "in_play": "Records that are not excluded",
    "automated": "Set aside by automation",
    "removed": "Set aside for other reasons",
    "short_names": "Authors by their initials, or none",
}
_KEYED = {
    "reason": "Full texts excluded: {}",
    "source": "Copies from {}",
    "kind": "Copies from sources of the kind “{}”",
    "search": "Copies of one search",
    "batch": "Copies of one file",
    "run": "Copies of one run",
    "new": "Records that one run brought first",
    "label": "Labelled “{}”",
    "narrowed": "Set aside: {}",
    "group": "A group that is alike: {}",
    "read": "Read by two: {}",
    "named": "Read by two or more: {}",
}
"""Lists that are named with a key after a colon."""
COPIES = frozenset({"found", "copies", "source", "kind", "batch", "search", "run"})
"""Lists of copies; all others are of records."""
SECOND = frozenset(
    {"assessed", "second_open", "second_to_read", "second_differs", "second_unsure", "reports_excluded", "included", "studies", "reason"}
)
"""Lists of which the second pass speaks: its verdicts, its reasons."""
_ASIDE = frozenset({"aside", "narrowed", "automated", "removed"})
_ROUTES = {"main": " from databases and registers", "other": " from other methods"}


class ReadByTwo(NamedTuple):
    """Records that two people read independently in a pass, and what each said: a verdict, or an exclusion with the number of its criterion, ``exclude/7``; of one
    sharing, or of all (0)."""

    pass_number: int
    one: int
    said: str
    other: int
    other_said: str
    sharing: int

    @property
    def key(self) -> str:
        """As it stands in the name of a list."""
        return ".".join(map(str, self))


def read_by_two(key: str) -> ReadByTwo:
    """What the key of such a list says. KeyError for one that says nothing.

    >>> read_by_two("1.3.include.5.exclude/7.0").other_said
    'exclude/7'
    """
    parts = key.split(".")
    if len(parts) != 6 or not all(parts[k].isdecimal() and len(parts[k]) < 19 for k in (0, 1, 3, 5)):
        raise KeyError(key)
    for said in (parts[2], parts[4]):
        verdict, _, criterion = said.partition("/")
        if verdict not in ("include", "exclude", "unsure") or (criterion and not (criterion.isdecimal() and len(criterion) < 19)):
            raise KeyError(key)
    return ReadByTwo(int(parts[0]), int(parts[1]), parts[2], int(parts[3]), parts[4], int(parts[5]))


NAMED = {
    "any": "at least one named {}",
    "all": "all named {}",
    "other": "one named {}, others another reason",
    "none": "one named {}, others did not exclude",
}
"""How readers of one record may name a criterion."""


class NamedBySome(NamedTuple):
    """Records that two or more read independently in a pass, by how they named a criterion; ``how`` is one of `NAMED`, ``sharing`` 0 for all that several read."""

    pass_number: int
    criterion: int
    how: str
    sharing: int


def named_by_some(key: str) -> NamedBySome:
    """What the key of such a list says. KeyError for one that says nothing.

    >>> named_by_some("1.7.all.0")
    NamedBySome(pass_number=1, criterion=7, how='all', sharing=0)
    """
    parts = key.split(".")
    if len(parts) != 4 or parts[2] not in NAMED or not all(parts[k].isdecimal() and len(parts[k]) < 19 for k in (0, 1, 3)):
        raise KeyError(key)
    return NamedBySome(int(parts[0]), int(parts[1]), parts[2], int(parts[3]))


class Shown(NamedTuple):
    """A list: its heading, whether it is one of copies, whether the ``second`` pass speaks of it, whether its records are set ``aside``."""

    heading: str
    of_copies: bool
    second: bool
    aside: bool


def keyed(list: str) -> tuple[str, str]:
    """What a list is of, and its key: ``label:7`` gives ``("label", "7")``. A route at its end is no key."""
    name, _, rest = list.partition(":")
    *key, last = rest.split(":")
    return (name, ":".join(key)) if last in _ROUTES else (name, rest)


def shown(list: str, called: str = "") -> Shown:
    """What a list is; ``called`` is the name of what its key stands for. KeyError if there is none like it."""
    name, key = keyed(list)
    heading = _KEYED[name].format(called or key) if name in _KEYED else {**OFFERED, **_OTHERS}[name]
    route = _ROUTES.get(list.rpartition(":")[2], "") if ":" in list else ""
    return Shown(heading + route, name in COPIES, name in SECOND, name in _ASIDE)
