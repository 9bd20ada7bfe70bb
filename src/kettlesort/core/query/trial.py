"""Trying a query: what the whole, every branch and every term finds, and what each is good for."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from kettlesort.core.query.index import Hits, Index, Spans, either, headings_of, near
from kettlesort.core.query.nodes import (
    EVERYWHERE,
    Descriptor,
    Group,
    In,
    Near,
    Node,
    Text,
    Value,
    Without,
    Years,
    parts_of,
    walk,
    without_branch,
)
from kettlesort.core.query.parts import Parts
from kettlesort.core.query.words import folded
from kettlesort.core.query.writer import write

Narrower = Callable[[str], Iterable[str]]
"""The headings below a heading, at any depth."""


def _none(heading: str) -> Iterable[str]:
    return ()


def find(node: Node, index: Index | Parts, narrower: Narrower = _none, fields: Sequence[str] = EVERYWHERE) -> Hits:
    """The records that a query finds. Shape (n,) for an index of n records."""
    if isinstance(index, Parts):
        return index.gather(lambda part: find(node, part, narrower, fields))
    match node:
        case Text(words):
            patterns = _patterns(words)
            return index.with_word(patterns[0], fields) if len(patterns) == 1 else index.records_at(index.spans_of(patterns).first, fields)
        case Near():
            return index.records_at(_spans(node, index).first, fields)
        case In(inside, part):
            return find(part, index, narrower, inside)
        case Group(joint, parts):
            return _join(joint, [find(part, index, narrower, fields) for part in parts])
        case Without(kept, left_out):
            return find(kept, index, narrower, fields) & ~find(left_out, index, narrower, fields)
        case Descriptor(heading, qualifier, below):
            return _with_descriptor(index, heading, qualifier, narrower(heading) if below else ())
        case Years(first, last):
            return (index.years >= (first or 1)) & (index.years <= (last or 9999))
        case Value(field, value):
            return index.with_value(field, value)


def _patterns(words: Sequence[str]) -> list[str]:
    return [folded(word) for word in words]


def _with_descriptor(index: Index, heading: str, qualifier: str, below: Iterable[str]) -> Hits:
    hits = np.zeros(index.size, np.bool_)
    for name in (heading, *below):
        whole = f"{name}/{qualifier}" if qualifier else name
        hits |= index.with_heading(headings_of(whole)[0])
    return hits


def _spans(node: Node, index: Index) -> Spans:
    match node:
        case Text(words):
            return index.spans_of(_patterns(words))
        case Near(left, right, within):
            return near(_spans(left, index), _spans(right, index), within)
        case Group("any", parts):
            return either([_spans(part, index) for part in parts])
    raise ValueError(f"{type(node).__name__} stands at no place")


def _join(joint: str, hits: Sequence[Hits]) -> Hits:
    out = hits[0].copy()
    for other in hits[1:]:
        out = out | other if joint == "any" else out & other
    return out


class Branch(NamedTuple):
    """A branch of a query on trial.

    ``path`` leads from the root to ``node``; ``text`` is its text there, ``query`` that of a query of its own,
    with the fields that it stands in. ``hits`` and ``seeds`` (places
    in the list of seeds) are what it finds by itself; ``without_hits`` and ``lost_seeds`` what
    the whole query would find, and no longer find, if it were taken out (``None`` for the
    whole, and where nothing would be left). ``adds`` are the records that only it brings into
    the whole.
    """

    path: tuple[int, ...]
    node: Node
    text: str
    query: str
    hits: int
    seeds: tuple[int, ...]
    without_hits: int | None
    adds: int | None
    lost_seeds: tuple[int, ...]
    remark: str


class Trial(NamedTuple):
    """Every branch, the whole first, and the records that the whole finds. ``found`` has shape (n,)."""

    branches: list[Branch]
    found: Hits


def try_on(node: Node, index: Index | Parts, seeds: Sequence[int], narrower: Narrower = _none) -> Trial:
    """Try a query on the records of an index. ``seeds`` are places of records in it.

    The remark on a term says that it finds many records and no seed, that taking it out
    would lose nothing, or that it alone brings a seed.
    """
    results = _Results(node, index, narrower)
    found = results.hits[()]
    at = np.array(seeds, np.int64)
    branches = []
    nodes = dict(walk(node))
    for path, branch in nodes.items():
        hits = results.hits[path]
        rest = results.without(path)
        lost = () if rest is None else _places(found[at] & ~rest[at])
        tried = Branch(
            path=path,
            node=branch,
            text=write(branch),
            query=write(results.alone(path, branch)),
            hits=int(np.count_nonzero(hits)),
            seeds=_places(hits[at]),
            without_hits=None if rest is None else int(np.count_nonzero(rest)),
            adds=None if rest is None else int(np.count_nonzero(found & ~rest)),
            lost_seeds=lost,
            remark="",
        )
        above = nodes.get(path[:-1]) if path else None
        if isinstance(above, Group) and above.joint == "any" and len(above.parts) > 1:
            tried = tried._replace(remark=_remark(tried, int(np.count_nonzero(results.hits[path[:-1]])), seeded=len(at) > 0))
        branches.append(tried)
    return Trial(branches, found)


def _places(mask: Hits) -> tuple[int, ...]:
    return tuple(int(k) for k in np.flatnonzero(mask))


def _remark(branch: Branch, group: int, *, seeded: bool) -> str:
    """What stands out of one of several alternatives, which find ``group`` records together."""
    if branch.lost_seeds:
        return "alone brings a seed"
    if not branch.hits:
        return "finds nothing"
    if not branch.adds:
        return "adds nothing"
    return "many hits, no seed" if seeded and not branch.seeds and branch.hits * 20 >= group else ""


class _Results:
    """What every node of a query finds, by its path, and what the whole finds without one of them."""

    def __init__(self, root: Node, index: Index | Parts, narrower: Narrower) -> None:
        self.root, self.index, self.narrower = root, index, narrower
        self.hits: dict[tuple[int, ...], Hits] = {}
        self._fields: dict[tuple[int, ...], Sequence[str]] = {}
        self._sums: dict[tuple[int, ...], NDArray[np.int32]] = {}
        self._find(root, (), EVERYWHERE)

    def _find(self, node: Node, path: tuple[int, ...], fields: Sequence[str]) -> Hits:
        self._fields[path] = fields
        inside = node.fields if isinstance(node, In) else fields
        below = [self._find(part, (*path, k), inside) for k, part in enumerate(parts_of(node))]
        match node:
            case In():
                hits = below[0]
            case Group(joint, _):
                hits = _join(joint, below)
            case Without():
                hits = below[0] & ~below[1]
            case _:
                hits = find(node, self.index, self.narrower, fields)
        self.hits[path] = hits
        return hits

    def alone(self, path: tuple[int, ...], node: Node) -> Node:
        """The node as a query of its own."""
        fields = self._fields[path]
        return node if tuple(fields) == EVERYWHERE or isinstance(node, (Descriptor, Years, Value)) else In(tuple(fields), node)

    def without(self, path: tuple[int, ...]) -> Hits | None:
        """What the whole finds without the branch at ``path``; ``None`` when nothing is left to search for."""
        if not path:
            return None
        chain = [self.root]
        for k in path:
            chain.append(parts_of(chain[-1])[k])
        depth, now = len(path), None
        nearest = next((d for d in range(len(path)) if isinstance(chain[d], Near)), None)
        if nearest is not None:  # what is near changes with the words, not with the records
            rest = without_branch(chain[nearest], path[nearest:])
            assert rest is not None
            depth, now = nearest, find(rest, self.index, self.narrower, self._fields[path[:nearest]])
        for d in range(depth - 1, -1, -1):
            now = self._beside(chain[d], path[:d], path[d], now)
        return now

    def _beside(self, above: Node, place: tuple[int, ...], k: int, now: Hits | None) -> Hits | None:
        """What ``above`` finds when its part ``k`` finds ``now``, or is gone."""
        match above:
            case Group(joint, parts):
                if len(parts) == 1:
                    return now
                if place not in self._sums:
                    self._sums[place] = np.sum([self.hits[(*place, n)] for n in range(len(parts))], axis=0, dtype=np.int32)
                others: NDArray[np.int32] = self._sums[place] - self.hits[(*place, k)]
                found: Hits = others > 0 if joint == "any" else others == len(parts) - 1
                return found if now is None else found | now if joint == "any" else found & now
            case Without():
                if k == 1:
                    return self.hits[(*place, 0)] if now is None else self.hits[(*place, 0)] & ~now
                return None if now is None else now & ~self.hits[(*place, 1)]
            case _:
                return now


def recall_interval(found: int, of: int, level: float = 0.95) -> tuple[float, float]:
    """The exact binomial interval of a share (Clopper CJ, Pearson ES. Biometrika 1934;26:404-413).

    >>> recall_interval(6, 6)[1]
    1.0
    """
    if not 0 <= found <= of or of == 0:
        raise ValueError("found lies between 0 and a positive number")
    from scipy.stats import binomtest  # takes half a second to load

    interval = binomtest(found, of).proportion_ci(level, method="exact")
    return float(interval.low), float(interval.high)
