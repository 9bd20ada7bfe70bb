"""What of a query a syntax can say: the query with everything else said otherwise, and a list of what was done."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import product
from typing import Literal, NamedTuple

from kettlesort.core.query.nodes import EVERYWHERE, Descriptor, Group, In, Near, Node, Text, Value, Without, Years, walk
from kettlesort.core.query.syntax.profile import Profile
from kettlesort.core.query.writer import write

MOST_PAIRS = 60
"""A proximity of groups is written out as at most so many pairs."""


class Loss(NamedTuple):
    """A part of the query, as we write it, and what was done instead."""

    part: str
    done: str


class Carried(NamedTuple):
    """What the syntax can say, ``None`` when nothing is left; what was done instead of the rest; what to look at before it is run."""

    node: Node | None
    losses: tuple[Loss, ...]
    checks: tuple[Loss, ...]


def carry(node: Node, profile: Profile) -> Carried:
    """Fit a query to a syntax."""
    carrier = _Carrier(profile)
    carried = carrier.carry(node, None)
    names = [f"[{part.label}]" for _, part in walk(node) if isinstance(part, Group) and part.label]
    if names:
        carrier.losses.append(Loss(" ".join(names), "names of concepts are left out"))
    if carried is not None and profile.code_of(EVERYWHERE):
        carried = _coded(carried)
    return Carried(carried, tuple(dict.fromkeys(carrier.losses)), tuple(dict.fromkeys(carrier.checks)))


def _plain(node: Node) -> bool:
    return all(isinstance(group, (Text, Near, Group, Without)) for _, group in walk(node))


def _coded(node: Node) -> Node:
    """The widest parts that name no field get the code that stands for where we look for them."""
    match node:
        case Without(kept, left_out):
            return Without(_coded(kept), _coded(left_out))
        case Group(joint, parts) if joint == "all" or not _plain(node):
            return Group(joint, tuple(map(_coded, parts)))
    return In(EVERYWHERE, node) if _plain(node) else node


def _alternatives(node: Node) -> bool:
    """Whether any of its words is enough, so that looking in one field after the other finds the same."""
    return all(isinstance(group, (Text, Near)) or (isinstance(group, Group) and group.joint == "any") for _, group in walk(node))


def _joined(joint: Literal["any", "all"], parts: Sequence[Node | None]) -> Node | None:
    """What is left of the parts, joined, without groups of the same kind within."""
    kept: list[Node] = []
    for part in parts:
        if isinstance(part, Group) and part.joint == joint:
            kept += part.parts
        elif part is not None:
            kept.append(part)
    return None if not kept else kept[0] if len(kept) == 1 else Group(joint, tuple(kept))


class _Carrier:
    def __init__(self, profile: Profile) -> None:
        self.profile = profile
        self.losses: list[Loss] = []
        self.checks: list[Loss] = []

    def lose(self, node: Node, done: str) -> None:
        self.losses.append(Loss(write(node), done))

    def carry(self, node: Node, fields: tuple[str, ...] | None) -> Node | None:
        """``node`` as it can be said; ``fields`` are those whose code has to be put to every term."""
        match node:
            case Text():
                return self.coded(self.text(node), fields)
            case Near():
                return self.near(node, fields)
            case In():
                return self.field(node)
            case Group(joint, parts):
                return _joined(joint, [self.carry(part, fields) for part in parts])
            case Without(kept_, left_out_):
                kept_now, left_out = self.carry(kept_, fields), self.carry(left_out_, fields)
                return kept_now if kept_now is None or left_out is None else Without(kept_now, left_out)
            case Descriptor():
                return self.descriptor(node)
            case Years(first, last):
                forms = self.profile.years
                if (forms.between and first and last) or ((forms.since or not first) and (forms.until or not last)):
                    return node
                self.lose(node, "left out: limit the years where the search is run")
                return None
            case Value(field):
                if self.profile.code_of((field,)):
                    return node
                self.lose(node, f"left out: limit the {field} where the search is run")
                return None

    def text(self, node: Text) -> Node:
        """A word or a phrase, with the signs that the syntax has."""
        signs, out = self.profile.words, []
        for word in node.words:
            said = word
            if "?" in said and not signs.one:
                said = said[: said.index("?")] + "*"
            if "*" in said[:-1] and not signs.within:
                said = said[: said.index("*")] + "*"
            if "*" in said and not signs.many:
                said = said[: said.index("*")]
            if len(said.strip("*")) < 2 <= len(word) and said != word:
                said = "".join(sign for sign in word if sign not in "*?")
            out.append(said)
        if tuple(out) != node.words:
            wider = all("*" in one or one == word for one, word in zip(out, node.words, strict=True))
            self.lose(node, f"written as {' '.join(out)}, which finds {'more' if wider else 'less'}")
        if len(out) > 1 and not signs.in_phrases and any("*" in one or "?" in one for one in out):
            self.lose(node, "its words are joined by AND, which finds more: a phrase cannot be truncated here")
            return Group("all", tuple(Text((one,)) for one in out))
        return Text(tuple(out))

    def coded(self, node: Node, fields: tuple[str, ...] | None) -> Node | None:
        """A part with its fields at every term, or with one code for them all."""
        if fields is None:
            return node
        if isinstance(node, Group):
            return _joined(node.joint, [self.coded(part, fields) for part in node.parts])
        if self.profile.code_of(fields):
            return In(fields, node)
        return Group("any", tuple(In((name,), node) for name in fields))

    def field(self, node: In) -> Node | None:
        """A part that is looked for in some fields alone."""
        known = tuple(name for name in node.fields if self.profile.code_of((name,)) or self.profile.code_of(node.fields))
        if not known:
            self.lose(node, "looked for everywhere: the field has no code here")
            return self.carry(node.part, None)
        if known != node.fields:
            self.lose(node, f"looked for in {', '.join(known)} alone: the other fields have no code here")
        if self.profile.fields.groups and self.profile.code_of(known):
            part = self.carry(node.part, None)
            return None if part is None else In(known, part)
        if self.profile.fields.groups and _alternatives(node.part):
            part = self.carry(node.part, None)
            if part is not None and _alternatives(part):
                return Group("any", tuple(In((name,), part) for name in known))
        return self.carry(node.part, known)

    def near(self, node: Near, fields: tuple[str, ...] | None) -> Node | None:
        """A proximity, as an operator between its sides, as marked pairs of words, or as AND."""
        form = self.profile.near
        within = node.within
        if form.most < node.within + form.adds and (form.operator or form.mark):
            within = max(0, form.most - form.adds)
            self.lose(node, f"at most {within} words between, which finds less: no more are possible here")
        if form.operator:
            left, right = self.side(node.left), self.side(node.right)
            if left is not None and right is not None:
                pairs = Near(left, right, within)
                both: Node = Group("any", (pairs, Near(right, left, within))) if form.ordered else pairs
                return self.coded(both, fields)
        if form.mark:
            words = [list(_words(side)) for side in (node.left, node.right)]
            if all(words) and len(words[0]) * len(words[1]) <= MOST_PAIRS and all(word.isalnum() for side in words for word in side):
                pairs_ = [Near(Text((one,)), Text((other,)), within) for one, other in product(*words)]
                if form.ordered:
                    pairs_ += [Near(each.right, each.left, within) for each in pairs_ if each.left != each.right]
                return self.coded(Group("any", tuple(pairs_)) if len(pairs_) > 1 else pairs_[0], fields)
        self.lose(node, "joined by AND, which finds more: this proximity cannot be said here")
        return self.carry(Group("all", (node.left, node.right)), fields)

    def side(self, node: Node) -> Node | None:
        """A side of a proximity as it can be said, ``None`` where it cannot."""
        carried = self.carry(node, None)
        alike = carried is not None and all(not isinstance(group, Group) or group.joint == "any" for _, group in walk(carried))
        return carried if alike else None

    def descriptor(self, node: Descriptor) -> Node | None:
        """A descriptor; its heading is carried as it is, whether or not the other vocabulary has it."""
        form = self.profile.descriptor
        if not form.code:
            words = Text(tuple("".join(sign if sign.isalnum() else " " for sign in node.heading).split()))
            if not words.words:
                self.lose(node, "left out: descriptors have no code here")
                return None
            self.lose(node, "its words are looked for instead: descriptors have no code here")
            return self.carry(In(("keyword",), words), None) if self.profile.code_of(("keyword",)) else words
        out = node
        if node.qualifier and not form.qualifier:
            self.lose(node, "without its qualifier, which finds more")
            out = Descriptor(out.heading, "", out.narrower)
        if node.narrower and not (form.narrower or form.mark):
            self.lose(node, "without its narrower headings, which finds less")
            out = Descriptor(out.heading, out.qualifier, False)
        self.checks.append(Loss(write(node), "the heading is carried as it is: see whether the other vocabulary has it"))
        return out


def _words(node: Node) -> Iterator[str]:
    """The single words of a side of a proximity; an empty word where it is more than that."""
    parts: Sequence[Node] = node.parts if isinstance(node, Group) and node.joint == "any" else (node,)
    for part in parts:
        if isinstance(part, Group):
            yield from _words(part)
        else:
            yield part.words[0] if isinstance(part, Text) and len(part.words) == 1 else ""
