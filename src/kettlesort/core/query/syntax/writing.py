"""Writing a query in another family of syntax."""

from __future__ import annotations

import re
from typing import NamedTuple

from kettlesort.core.query.nodes import EVERYWHERE, Descriptor, Group, In, Near, Node, Text, Value, Without, Years
from kettlesort.core.query.syntax.carrying import Loss, carry
from kettlesort.core.query.syntax.profile import Profile


class Translation(NamedTuple):
    """The query's text in the other syntax, what could not be carried over and what was done instead, and what to look at."""

    text: str
    losses: tuple[Loss, ...]
    checks: tuple[Loss, ...]


def translate(node: Node, profile: Profile) -> Translation:
    """Write a query in the syntax of a profile; what it has no equal for is said otherwise, and listed. The text is "" when nothing is left."""
    carried = carry(node, profile)
    return Translation("" if carried.node is None else _Writer(profile).whole(carried.node), carried.losses, carried.checks)


class _Writer:
    def __init__(self, profile: Profile) -> None:
        self.profile = profile
        said = profile.operators
        near = re.escape(profile.near.operator).replace(r"\{n\}", r"\d+") if profile.near.operator else ""
        names = [re.escape(word) for word in (*said.and_, *said.or_, *said.not_, profile.fields.any, profile.fields.all) if word]
        self.operator = re.compile("|".join([*names, *filter(None, [near])]), re.I)
        self.joints = {"any": f" {said.or_[0]} ", "all": f" {said.and_[0]} "}
        self.signs = str.maketrans({"*": profile.words.many, "?": profile.words.one})

    def whole(self, node: Node) -> str:
        """The text of a node at the top, or within its own parentheses."""
        match node:
            case Group(joint, parts):
                return self.joints[joint].join(map(self.beside, parts))
            case Without(kept, left_out):
                return f"{self.beside(kept)} {self.profile.operators.not_[0]} {self.beside(left_out)}"
            case Near(left, right, within):
                return self.near(left, right, within)
            case In(fields, part):
                return self.fielded(fields, part)
            case Text(words):
                return self.quoted(" ".join(words).translate(self.signs))
            case Descriptor():
                return self.descriptor(node)
            case Value(field, value):
                return self.form(self.profile.code_of((field,)), self.quoted(value))
            case Years(first, last):
                return self.years(first, last)

    def beside(self, node: Node) -> str:
        """The text of a node beside others."""
        falls_apart = isinstance(node, (Group, Without)) or (isinstance(node, Near) and not self.profile.near.mark) or self.in_parts(node)
        return f"({self.whole(node)})" if falls_apart else self.whole(node)

    def in_parts(self, node: Node) -> bool:
        """Whether the text of a node has a joint in it, though the node has none."""
        years = self.profile.years
        return (isinstance(node, In) and isinstance(node.part, Near) and not self.profile.fields.groups and not self.profile.near.mark) or (
            isinstance(node, Years) and bool(node.first and node.last) and not years.between
        )

    def near(self, left: Node, right: Node, within: int) -> str:
        form = self.profile.near
        if form.mark:
            words = " ".join(word for side in (left, right) if isinstance(side, Text) for word in side.words)
            return f'"{words}"{form.mark.replace("{n}", str(within + form.adds))}'
        return f"{self.side(left)} {form.operator.replace('{n}', str(within + form.adds))} {self.side(right)}"

    def side(self, node: Node) -> str:
        return self.whole(node) if isinstance(node, (Text, In)) and not self.in_parts(node) else f"({self.whole(node)})"

    def fielded(self, fields: tuple[str, ...], part: Node) -> str:
        code = self.profile.code_of(fields)
        if not self.profile.fields.groups and isinstance(part, (Near, Group)) and not self.profile.near.mark:
            return self.whole(_at_each(fields, part))
        alone = isinstance(part, Text) or (isinstance(part, Near) and self.profile.near.mark) or self.profile.code_around
        return self.form(code, self.whole(part) if alone else f"({self.whole(part)})")

    def form(self, code: str, term: str) -> str:
        return self.profile.fields.form.replace("{code}", code).replace("{term}", term)

    def descriptor(self, node: Descriptor) -> str:
        form = self.profile.descriptor
        heading = node.heading + (form.qualifier + node.qualifier if node.qualifier else "")
        if node.narrower and not form.narrower:
            return self.form(form.code, self.quoted(heading + form.mark, always=True))
        return self.form(form.narrower if node.narrower else form.code, self.quoted(heading, always=True))

    def years(self, first: int | None, last: int | None) -> str:
        forms = self.profile.years
        if first and last and forms.between:
            return forms.between.replace("{first}", str(first)).replace("{last}", str(last))
        said = [forms.since.replace("{first}", str(first))] if first else []
        said += [forms.until.replace("{last}", str(last))] if last else []
        return self.joints["all"].join(said)

    def quoted(self, text: str, *, always: bool = False) -> str:
        """``text`` as one term; quotes within it have no equal."""
        signs = self.profile.words.many + self.profile.words.one
        plain = "".join(sign for sign in text if sign not in signs)
        if always or not plain.isalnum() or self.operator.fullmatch(text):
            return '"' + text.replace('"', "'") + '"'
        return text


def _at_each(fields: tuple[str, ...], node: Node) -> Node:
    """The fields at every word of a proximity, where they cannot stand at the whole."""
    match node:
        case Near(left, right, within):
            return Near(_at_each(fields, left), _at_each(fields, right), within)
        case Group(joint, parts):
            return Group(joint, tuple(_at_each(fields, part) for part in parts))
        case _:
            return node if fields == EVERYWHERE else In(fields, node)
