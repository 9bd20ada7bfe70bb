"""Reading a query's text. Parentheses are kept on a list, not on Python's stack, so that no depth brings it down."""

from __future__ import annotations

import difflib
import re
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from typing import NamedTuple

from kettlesort.core.query.lexer import Note, Token, repaired, tokens
from kettlesort.core.query.nodes import (
    TEXT_FIELDS,
    VALUE_FIELDS,
    Descriptor,
    Group,
    In,
    Near,
    Node,
    Text,
    Value,
    Without,
    Years,
    normal,
    parts_of,
)
from kettlesort.core.query.words import parted

LONGEST = 200_000
DEEPEST = 100
FARTHEST = 50
MOST_NODES = 50_000
"""Parts of a query, those of the lines that it refers to counted each time."""
MOST_STARS = 3
FIELDS = (*TEXT_FIELDS, "descriptor", "year", *VALUE_FIELDS)
_YEARS = re.compile(r"(\d{4})?\s*(-)?\s*(\d{4})?")


class NotAQuery(Exception):
    """Text that cannot be read as a query: where (characters ``begin`` to ``end``), what was expected, how to mend it."""

    def __init__(self, message: str, begin: int, end: int, expected: str = "", mend: str = "") -> None:
        super().__init__(message)
        self.message, self.begin, self.end, self.expected, self.mend = message, begin, end, expected, mend


class Parsed(NamedTuple):
    """The query, and what was repaired or read in one of several ways."""

    node: Node
    notes: list[Note]


class _Item(NamedTuple):
    """Something to search for, and the text that it came from."""

    node: Node
    begin: int
    end: int


class _Frame:
    """What stands within one pair of parentheses: items, with the token that joins each with the one before."""

    def __init__(self, opened: Token | None, fields: Token | None, label: Token | None, around: Token | None) -> None:
        self.opened, self.fields, self.label = opened, fields, label
        self.inside = fields or around  # the field that all of it is searched in
        self.items: list[_Item] = []
        self.joints: list[Token] = []
        self.waiting: Token | None = None  # a joint whose right side has not come
        self.field: Token | None = None
        self.name: Token | None = None


def parse(typed: str, earlier: Sequence[Node] = (), tokens_of: Callable[[str], Iterable[Token]] = tokens) -> Parsed:
    """The query that ``typed`` says.

    ``AND`` binds before ``OR``, ``NEAR/n`` before both; ``NOT`` takes away from what stands
    before it. ``earlier`` are the queries that ``#1``, ``#2`` … stand for; ``tokens_of`` turns
    text into tokens, for text in another syntax. Raises NotAQuery.
    """
    if len(typed) > LONGEST:
        raise NotAQuery(f"A query has at most {LONGEST:,} characters; this one has {len(typed):,}.", LONGEST, len(typed))
    text, at, notes = repaired(typed)
    try:
        node = _Reader(text, notes, at, earlier).read(tokens_of(text))
    except NotAQuery as error:
        error.begin, error.end = at[min(error.begin, len(text))], at[min(error.end, len(text))]
        raise
    _not_too_deep(node)
    return Parsed(normal(node), notes)


class _Reader:
    def __init__(self, text: str, notes: list[Note], at: list[int], earlier: Sequence[Node]) -> None:
        self.text, self.notes, self.at, self.earlier = text, notes, at, earlier
        self.known: dict[str, list[str]] = {}
        self.sizes: dict[int, int] = {}
        self.nodes = 0
        self.frames = [_Frame(None, None, None, None)]

    def note(self, message: str, token: Token) -> None:
        self.notes.append(Note(message, self.at[token.begin], self.at[token.end]))

    def read(self, said: Iterable[Token]) -> Node:
        for token in said:
            frame = self.frames[-1]
            match token.kind:
                case "open":
                    self.before(token)
                    self.frames.append(_Frame(token, frame.field, frame.name, frame.inside))
                    frame.field = frame.name = None
                case "close":
                    self.close(token)
                case "label":
                    self.before(token)
                    self.must_be_complete(frame, token)
                    frame.name = token
                case "field":
                    self.before(token)
                    if frame.field or frame.inside:
                        raise NotAQuery(
                            "A field stands within another field.",
                            token.begin,
                            token.end,
                            "a word, a phrase or a group",
                            f"take “{token.text}” out, or close the group before it",
                        )
                    self.known_fields(token)
                    frame.field = token
                case "joint" | "near":
                    self.joint(token)
                case "quoted" | "word" | "line":
                    self.before(token)
                    if frame.name:
                        raise self.name_of_nothing(frame.name)
                    node = self.operand(token, frame.field or frame.inside)
                    self.item(_Item(self.within(node, frame.field), (frame.field or token).begin, token.end))
                    frame.field = None
                case "unclosed":
                    raise NotAQuery("These quotes are never closed.", token.begin, token.end, 'a second "', 'close the phrase with "')
                case _:
                    raise NotAQuery(
                        f"“{token.text}” has no meaning here.", token.begin, token.end, "a word, a phrase or a group", "leave it out"
                    )
        return self.end()

    def before(self, token: Token) -> None:
        """Something to search for begins here: it must be joined with what stands before."""
        frame = self.frames[-1]
        if frame.items and frame.waiting is None and frame.field is None and frame.name is None:
            left, right = self.text[frame.items[-1].begin : frame.items[-1].end], token.text
            plain = token.kind == "word" and re.fullmatch(r"[\w*?'-]+", left)
            mend = (
                f'“"{left} {right}"” for a phrase, “{left} AND {right}” for both, “{left} OR {right}” for either'
                if plain
                else "write AND, OR or NOT between them"
            )
            raise NotAQuery(
                f"Nothing joins “{_short(left)}” and “{_short(right)}”.", token.begin, token.end, "AND, OR, NOT or NEAR/n", mend
            )

    def must_be_complete(self, frame: _Frame, token: Token) -> None:
        if frame.field:
            raise self.field_of_nothing(frame.field)
        if frame.name:
            raise self.name_of_nothing(frame.name)

    def field_of_nothing(self, field: Token) -> NotAQuery:
        return NotAQuery(
            f"“{field.text}” is followed by nothing to search for.",
            field.begin,
            field.end,
            "a word, a phrase or a group",
            f"{field.text}word or {field.text}(one OR two)",
        )

    def name_of_nothing(self, name: Token) -> NotAQuery:
        return NotAQuery(
            f"The name “{name.text[1:-1]}” is not followed by a group.", name.begin, name.end, "(", f"{name.text} (one OR two)"
        )

    def joint(self, token: Token) -> None:
        frame = self.frames[-1]
        self.must_be_complete(frame, token)
        if token.text[:3] not in ("AND", "OR", "NOT", "NEA"):
            self.note(f"“{token.text}” is read as {token.text.upper()}; put it into quotes to search for the word", token)
            token = token._replace(text=token.text.upper())
        if frame.waiting and frame.waiting.text == "AND" and token.text == "NOT":
            frame.waiting = token
            return
        if frame.waiting:
            raise NotAQuery(
                f"{frame.waiting.text} is followed by {token.text}.",
                token.begin,
                token.end,
                "a word, a phrase or a group",
                f"leave one of them out, or put “{token.text.lower()}” into quotes",
            )
        if not frame.items:
            what = (
                "NOT takes away from what stands before it, and nothing does."
                if token.text == "NOT"
                else f"{token.text} needs something on its left."
            )
            raise NotAQuery(what, token.begin, token.end, "a word, a phrase or a group", f"write what to search for before {token.text}")
        if token.kind == "near":
            _, _, within = token.text.partition("/")
            if not within or int(within) > FARTHEST:
                raise NotAQuery(
                    f"NEAR needs a number of words from 0 to {FARTHEST}.",
                    token.begin,
                    token.end,
                    "NEAR/n",
                    "NEAR/5 for at most five words between",
                )
        frame.waiting = token

    def item(self, item: _Item) -> None:
        frame = self.frames[-1]
        if frame.items:
            assert frame.waiting is not None
            frame.joints.append(frame.waiting)
        frame.waiting = None
        frame.items.append(item)

    def close(self, token: Token) -> None:
        frame = self.frames.pop()
        if frame.opened is None:
            raise NotAQuery(
                "This parenthesis closes nothing.", token.begin, token.end, "the end, or AND, OR, NOT", "take it out, or open one before"
            )
        node = self.whole(frame, token)
        if frame.label:
            label = " ".join(frame.label.text[1:-1].split())
            node = replace(node, label=label) if isinstance(node, Group) and not node.label else Group("any", (node,), label)
        begin = (frame.label or frame.fields or frame.opened).begin
        self.item(_Item(self.within(node, frame.fields), begin, token.end))

    def end(self) -> Node:
        frame = self.frames[-1]
        stop = Token("stray", "", len(self.text), len(self.text))
        if frame.opened is not None:
            raise NotAQuery("This parenthesis is never closed.", frame.opened.begin, frame.opened.end, ")", "add ) where the group ends")
        if not frame.items and not frame.field and not frame.name:
            raise NotAQuery("There is nothing to search for yet.", 0, 0, "a word, a phrase or a group", "honeybee* AND winter*")
        return self.whole(frame, stop)

    def whole(self, frame: _Frame, stop: Token) -> Node:
        """What stands in a frame, joined."""
        self.must_be_complete(frame, stop)
        if frame.waiting:
            raise NotAQuery(
                f"{frame.waiting.text} needs something on its right.",
                frame.waiting.begin,
                frame.waiting.end,
                "a word, a phrase or a group",
                f"leave {frame.waiting.text} out, or write what follows it",
            )
        if not frame.items:
            opened = frame.opened or stop
            raise NotAQuery(
                "These parentheses are empty.",
                opened.begin,
                stop.end,
                "a word, a phrase or a group",
                "take them out, or write something between them",
            )
        nodes, joints = [frame.items[0].node], []
        for joint, item in zip(frame.joints, frame.items[1:], strict=True):
            if joint.kind == "near":
                nodes.append(self.near(nodes.pop(), item.node, joint))
            else:
                nodes.append(item.node)
                joints.append(joint)
        any_: list[Node] = []
        all_ = nodes[:1]
        kinds = {joint.text for joint in joints}
        if "OR" in kinds and len(kinds) > 1:
            self.note("AND and NOT are read before OR; parentheses would say it plainly", next(one for one in joints if one.text == "OR"))
        for joint, node in zip(joints, nodes[1:], strict=True):
            if joint.text == "OR":
                any_.append(_joined("all", all_))
                all_ = [node]
            elif joint.text == "NOT":
                all_ = [Without(_joined("all", all_), node)]
            else:
                all_.append(node)
        any_.append(_joined("all", all_))
        return _joined("any", any_)

    def near(self, left: Node, right: Node, joint: Token) -> Node:
        (fields, left), (other, right) = _lifted(left), _lifted(right)
        if fields != other:
            raise NotAQuery(
                "The two sides of NEAR stand in different fields.",
                joint.begin,
                joint.end,
                "the same field on both sides",
                "write the field once, around both: title:(one NEAR/3 two)",
            )
        for side in (left, right):
            if not _can_be_near(side):
                raise NotAQuery(
                    "NEAR joins words, phrases and OR-groups of them.",
                    joint.begin,
                    joint.end,
                    "a word, a phrase or (one OR two)",
                    "use AND, or put the words themselves beside NEAR",
                )
        near = Near(left, right, int(joint.text.partition("/")[2]))
        return In(fields, near) if fields else near

    def known_fields(self, token: Token) -> list[str]:
        if token.text in self.known:
            return self.known[token.text]
        names = [name.lower() for name in token.text[:-1].split(",")]
        for name in names:
            if name not in FIELDS:
                close = difflib.get_close_matches(name, FIELDS, 1)
                raise NotAQuery(
                    f"There is no field “{name}”.",
                    token.begin,
                    token.end,
                    ", ".join(FIELDS),
                    f"write “{close[0]}:”" if close else "to search for a colon, put the words into quotes",
                )
        if len(names) > 1 and not set(names) <= set(TEXT_FIELDS):
            raise NotAQuery(
                "Only fields that are searched by words can stand together.",
                token.begin,
                token.end,
                ", ".join(TEXT_FIELDS),
                "join them with OR",
            )
        self.known[token.text] = names
        return names

    def within(self, node: Node, field: Token | None) -> Node:
        """``node`` searched in the fields of ``field``, when these are fields of words; others have made their own nodes."""
        if field is None:
            return node
        names = self.known_fields(field)
        return In(tuple(dict.fromkeys(names)), node) if names[0] in TEXT_FIELDS else node

    def operand(self, token: Token, field: Token | None) -> Node:
        if token.kind == "line":
            number = int(token.text[1:])
            if not 0 < number <= len(self.earlier):
                raise NotAQuery(
                    f"There is no line {number} before this one.",
                    token.begin,
                    token.end,
                    "the number of an earlier line",
                    "#1 for the first line",
                )
            return self.line(number, token)
        inside = token.text[1:-1] if token.kind == "quoted" else token.text
        name = self.known_fields(field)[0] if field else ""
        if name == "year":
            return self.years(inside, token)
        if name == "descriptor":
            return self.descriptor(inside, token)
        if name in VALUE_FIELDS:
            return Value(name, self.said(inside, token))
        return Text(self.words(inside, token))

    def line(self, number: int, token: Token) -> Node:
        """The query of an earlier line, unless it makes this one too large: lines that name lines grow with each."""
        node = self.earlier[number - 1]
        if number not in self.sizes:
            self.sizes[number] = _size(node)
        self.nodes += self.sizes[number]
        if self.nodes > MOST_NODES:
            raise NotAQuery(
                f"With the lines that it names, this query has more than {MOST_NODES:,} parts.",
                token.begin,
                token.end,
                "fewer or smaller lines",
                "name each line once",
            )
        return node

    def said(self, text: str, token: Token) -> str:
        text = " ".join(text.split())
        if not text:
            raise NotAQuery("There is nothing between these quotes.", token.begin, token.end, "a word or a phrase", "take them out")
        return text

    def years(self, text: str, token: Token) -> Node:
        found = _YEARS.fullmatch(text.strip())
        first, dash, last = found.groups() if found else (None, None, None)
        if not (first or last) or (last and not dash):
            raise NotAQuery(
                f"“{_short(text)}” is not a range of years.",
                token.begin,
                token.end,
                "year:1980-2026, year:1980-, year:-2026 or year:1980",
                "write four digits for each year",
            )
        begin, end = int(first) if first else None, int(last) if last else None
        if not dash:
            end = begin
        if begin and end and begin > end:
            raise NotAQuery("The first year is after the last.", token.begin, token.end, "an earlier year first", f"year:{end}-{begin}")
        return Years(begin, end)

    def descriptor(self, text: str, token: Token) -> Node:
        narrower = text.rstrip().endswith("+")
        heading, _, qualifier = self.said(text.rstrip().removesuffix("+"), token).partition("/")
        if not heading.strip():
            raise NotAQuery(
                "A qualifier needs a descriptor before it.",
                token.begin,
                token.end,
                'descriptor:"heading/qualifier"',
                "write the heading before the slash",
            )
        return Descriptor(heading.strip(), qualifier.strip(), narrower)

    def words(self, text: str, token: Token) -> tuple[str, ...]:
        found = parted(text)
        if not found and ("*" in text or "?" in text):
            raise NotAQuery(
                f"“{_short(text)}” would match every word.",
                token.begin,
                token.end,
                "at least two letters beside * and ?",
                "write more of the word, or leave it out",
            )
        if not found:
            raise NotAQuery(f"“{_short(text)}” holds no letter or digit.", token.begin, token.end, "a word or a phrase", "take it out")
        for word in found:
            if word.count("*") > MOST_STARS:
                raise NotAQuery(
                    f"“{_short(word)}” has more than {MOST_STARS} stars.",
                    token.begin,
                    token.end,
                    "fewer stars",
                    "join those that touch, or write the words out",
                )
            if ("*" in word or "?" in word) and len(word.replace("*", "").replace("?", "")) < 2:
                raise NotAQuery(
                    f"“{word}” would match nearly every word.",
                    token.begin,
                    token.end,
                    "at least two letters beside * and ?",
                    "write more of the word",
                )
        return found


def _short(text: str) -> str:
    return text if len(text) <= 40 else text[:39] + "…"


def _joined(joint: str, parts: list[Node]) -> Node:
    return parts[0] if len(parts) == 1 else Group("any" if joint == "any" else "all", tuple(parts))


def _lifted(node: Node) -> tuple[tuple[str, ...], Node]:
    """The fields that all of a side of a proximity stands in, and the side without them."""
    if isinstance(node, In):
        return node.fields, node.part
    if isinstance(node, Group) and node.joint == "any":
        parts = [_lifted(part) for part in node.parts]
        if len({fields for fields, _ in parts}) == 1:
            return parts[0][0], replace(node, parts=tuple(part for _, part in parts))
    return (), node


def _can_be_near(node: Node) -> bool:
    if isinstance(node, Group):
        return node.joint == "any" and all(_can_be_near(part) for part in node.parts)
    return isinstance(node, (Text, Near))


def _size(node: Node) -> int:
    """The parts of a query."""
    n, waiting = 0, [node]
    while waiting:
        n += 1
        waiting.extend(parts_of(waiting.pop()))
    return n


def _not_too_deep(node: Node) -> None:
    level, depth = [node], 0
    while level:
        depth += 1
        if depth > DEEPEST:
            raise NotAQuery(
                f"Groups are nested more than {DEEPEST} deep.", 0, 0, "fewer levels", "give parts of the query a line of their own"
            )
        level = [part for group in level for part in parts_of(group)]
