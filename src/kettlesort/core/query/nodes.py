"""A query as a tree: what is searched for, and how it is joined."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from operator import is_not
from typing import Literal

TEXT_FIELDS = ("title", "abstract", "keyword", "author", "journal")
"""Fields that are searched by words; ``keyword`` are the words of descriptors."""
EVERYWHERE = ("title", "abstract", "keyword")
"""Where a word is looked for that names no field."""
VALUE_FIELDS = ("language", "type", "country", "doi")
"""Fields that are searched by their whole value."""


@dataclass(frozen=True, slots=True)
class Text:
    """A word, or words that follow each other; ``*`` stands for any letters, ``?`` for exactly one."""

    words: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Descriptor:
    """A heading of a controlled vocabulary, with its narrower ones when asked for; a qualifier narrows it."""

    heading: str
    qualifier: str = ""
    narrower: bool = False


@dataclass(frozen=True, slots=True)
class Years:
    """Published from ``first`` to ``last``, both included; ``None`` is open."""

    first: int | None
    last: int | None


@dataclass(frozen=True, slots=True)
class Value:
    """A field whose whole value is this, whatever the case."""

    field: str
    value: str


@dataclass(frozen=True, slots=True)
class Near:
    """Both sides in one field, in any order, with at most ``within`` words between them."""

    left: Node
    right: Node
    within: int


@dataclass(frozen=True, slots=True)
class In:
    """``part`` looked for in these fields alone."""

    fields: tuple[str, ...]
    part: Node


@dataclass(frozen=True, slots=True)
class Group:
    """Any or all of the parts; a concept of the question may have a name."""

    joint: Literal["any", "all"]
    parts: tuple[Node, ...]
    label: str = ""


@dataclass(frozen=True, slots=True)
class Without:
    """What is ``kept``, less what is ``left_out``."""

    kept: Node
    left_out: Node


Node = Text | Descriptor | Years | Value | Near | In | Group | Without


def parts_of(node: Node) -> tuple[Node, ...]:
    """The nodes right below ``node``, in the order of its text."""
    match node:
        case Near(left, right):
            return (left, right)
        case In(_, part):
            return (part,)
        case Group(_, parts):
            return parts
        case Without(kept, left_out):
            return (kept, left_out)
        case _:
            return ()


def with_parts(node: Node, parts: tuple[Node, ...]) -> Node:
    """``node`` with other nodes right below it."""
    match node:
        case Near():
            return Near(parts[0], parts[1], node.within)
        case In():
            return In(node.fields, parts[0])
        case Group():
            return Group(node.joint, parts, node.label)
        case Without():
            return Without(parts[0], parts[1])
        case _:
            return node


def walk(node: Node, path: tuple[int, ...] = ()) -> Iterator[tuple[tuple[int, ...], Node]]:
    """Every node with its path from the root, those above first."""
    yield path, node
    for k, part in enumerate(parts_of(node)):
        yield from walk(part, (*path, k))


def without_branch(node: Node, path: tuple[int, ...]) -> Node | None:
    """The query without the branch at ``path``; ``None`` when nothing is left.

    A side of a proximity takes the other along only when nothing can stand alone: the
    other side stays. Without what is kept, nothing is left to leave out from.
    """
    if not path:
        return None
    k, below = path[0], path[1:]
    parts = parts_of(node)
    rest = without_branch(parts[k], below)
    if rest is not None:
        return with_parts(node, (*parts[:k], rest, *parts[k + 1 :]))
    match node:
        case Group():
            left = parts[:k] + parts[k + 1 :]
            return None if not left else left[0] if len(left) == 1 and not node.label else replace(node, parts=left)
        case Near():
            return parts[1 - k]
        case Without():
            return parts[0] if k == 1 else None
        case _:
            return None


def normal(node: Node) -> Node:
    """The tree that reading the query's own text gives: no unnamed group of one, no name around an unnamed group, a name outside its field."""
    below = parts_of(node)
    parts = tuple([normal(part) for part in below])
    if any(map(is_not, parts, below)):
        node = with_parts(node, parts)
    if isinstance(node, In) and isinstance(node.part, Group) and node.part.label:
        return Group("any", (In(node.fields, normal(replace(node.part, label=""))),), node.part.label)
    if isinstance(node, Group) and len(parts) == 1:
        (only,) = parts
        if not node.label:
            return only
        if isinstance(only, Group) and not only.label:
            return replace(only, label=node.label)
        return replace(node, joint="any")
    return node
