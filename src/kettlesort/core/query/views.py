"""One query in other views: as concepts, each of some terms, and as numbered lines."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Literal, NamedTuple

from kettlesort.core.query.nodes import TEXT_FIELDS, Descriptor, Group, In, Near, Node, Text, Without, normal, walk
from kettlesort.core.query.parser import NotAQuery, parse
from kettlesort.core.query.writer import beside, write


class Concept(NamedTuple):
    """Any (or all) of the terms, looked for in ``fields`` or, where there are none, everywhere.

    All concepts must be met, but those that are left out must not.
    """

    label: str
    joint: Literal["any", "all"]
    terms: tuple[Node, ...]
    left_out: bool = False
    fields: tuple[str, ...] = ()


_PLAIN = (Text, Near, Group, Without)


def concepts_of(node: Node) -> list[Concept]:
    """The query as concepts; a group within a concept is one term of it."""
    left_out: list[Node] = []
    while isinstance(node, Without):
        left_out.insert(0, node.left_out)
        node = node.kept
    parts = node.parts if isinstance(node, Group) and node.joint == "all" and not node.label else (node,)
    return [*(_concept(part, False) for part in parts), *(_concept(part, True) for part in left_out)]


def _concept(node: Node, left_out: bool) -> Concept:
    label = ""
    fields: tuple[str, ...] = ()
    if isinstance(node, Group) and len(node.parts) == 1 and isinstance(node.parts[0], In):
        label, node = node.label, node.parts[0]
    if isinstance(node, In):
        fields, node = node.fields, node.part
    if isinstance(node, Group):
        return Concept(label or node.label, node.joint, node.parts, left_out, fields)
    return Concept(label, "any", (node,), left_out, fields)


def of_concepts(concepts: Sequence[Concept]) -> Node:
    """The query of these concepts; those without a term count for nothing. NotAQuery when nothing is left to search for."""
    kept = [_group(concept) for concept in concepts if concept.terms and not concept.left_out]
    if not kept:
        raise NotAQuery(
            "No concept has a term to search for.", 0, 0, "a term in a concept that is not left out", "write a term into a concept"
        )
    node: Node = kept[0] if len(kept) == 1 else Group("all", tuple(kept))
    for concept in concepts:
        unknown = set(concept.fields) - set(TEXT_FIELDS)
        if unknown or (concept.fields and any(not isinstance(node, _PLAIN) for term in concept.terms for _, node in walk(term))):
            raise NotAQuery(
                f"In {', '.join(concept.fields)} only words and phrases can be looked for.",
                0,
                0,
                "words, phrases and groups of them",
                "look for this concept everywhere, or give the term a concept of its own",
            )
    for concept in concepts:
        if concept.terms and concept.left_out:
            node = Without(node, _group(concept))
    return normal(node)


def _group(concept: Concept) -> Node:
    if concept.fields:
        part: Node = In(concept.fields, Group(concept.joint, concept.terms) if len(concept.terms) > 1 else concept.terms[0])
        return Group("any", (part,), concept.label) if concept.label else part
    return Group(concept.joint, concept.terms, concept.label) if concept.label or len(concept.terms) > 1 else concept.terms[0]


def lines_of(node: Node) -> list[str]:
    """The query as lines: each group on its own, ``#n`` for an earlier line; the last is the whole."""
    lines: list[str] = []
    _put(node, lines)
    return lines


def _put(node: Node, lines: list[str]) -> int:
    match node:
        case Group(joint, parts, label):
            said = (" OR " if joint == "any" else " AND ").join([_said(part, lines) for part in parts])
            said = f"[{label}] ({said})" if label else said
        case Without(kept, left_out):
            said = f"{_said(kept, lines)} NOT {_said(left_out, lines)}"
        case _:
            said = write(node)
    lines.append(said)
    return len(lines)


def _said(node: Node, lines: list[str]) -> str:
    return f"#{_put(node, lines)}" if isinstance(node, (Group, Without)) else beside(node)


class BadLine(NotAQuery):
    """A line that cannot be read; ``line`` counts from 1."""

    def __init__(self, line: int, error: NotAQuery) -> None:
        super().__init__(error.message, error.begin, error.end, error.expected, error.mend)
        self.line = line


def of_lines(lines: Sequence[str]) -> Node:
    """The query that the last line says. Raises BadLine."""
    read: list[Node] = []
    last: Node | None = None
    for number, line in enumerate(lines, 1):
        try:
            last = parse(line, read).node
        except NotAQuery as error:
            raise BadLine(number, error) from None
        read.append(last)
    if last is None:
        raise NotAQuery("There is no line yet.", 0, 0, "a word, a phrase or a group", "honeybee* OR bee*")
    return last


def limited_to(node: Node, term: Node) -> Node:
    """A query limited to a term: one more concept beside those that it has, or a second one."""
    parts = node.parts if isinstance(node, Group) and node.joint == "all" and not node.label else (node,)
    return normal(Group("all", (*parts, term)))


_QUERY = re.compile(r'["():]|\b(?:AND|OR|NOT|NEAR)\b')
_WORD = re.compile(r"(?:and|or|not|near)", re.I)


def as_term(typed: str) -> str:
    """What somebody types into a concept as a term of the query: words with blanks between are a phrase, unless they are a query already.

    >>> as_term("dead  bees"), as_term("wrap*"), as_term("hive OR colony"), as_term("not")
    ('"dead bees"', 'wrap*', 'hive OR colony', '"not"')
    """
    text = " ".join(typed.split())
    if _WORD.fullmatch(text) or (" " in text and not _QUERY.search(text)):
        return f'"{text}"'
    return text


def as_descriptor(heading: str, narrower: bool) -> str:
    """A heading of a vocabulary as a term of the query, alone or with its ``narrower`` ones."""
    return write(Descriptor(" ".join(heading.replace('"', "'").split()), narrower=narrower))
