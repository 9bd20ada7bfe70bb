"""Writing a query as text, so that reading it gives the same query."""

from __future__ import annotations

from kettlesort.core.query.nodes import Descriptor, Group, In, Near, Node, Text, Value, Without, Years

_JOINTS = ("and", "or", "not", "near")


def write(node: Node) -> str:
    """The text of a query; ``parse(write(node)).node == node`` for every normal query."""
    if isinstance(node, Group) and node.label:
        return f"[{node.label}] ({_inside(node)})"
    return _inside(node)


def _inside(node: Node) -> str:
    """The text of a node within its own parentheses, or at the top."""
    match node:
        case Text(words):
            return words[0] if len(words) == 1 and words[0].lower() not in _JOINTS else f'"{" ".join(words)}"'
        case Descriptor(heading, qualifier, narrower):
            return f"descriptor:{_quoted(heading + (f'/{qualifier}' if qualifier else '') + ('+' if narrower else ''))}"
        case Years(first, last):
            return f"year:{first or ''}-{last or ''}" if first != last else f"year:{first}"
        case Value(field, value):
            return f"{field}:{_quoted(value)}"
        case Near(left, right, within):
            return f"{_side(left)} NEAR/{within} {_side(right)}"
        case In(fields, part):
            return f"{','.join(fields)}:{beside(part)}"
        case Group(joint, parts):
            return (" OR " if joint == "any" else " AND ").join(map(beside, parts))
        case Without(kept, left_out):
            return f"{beside(kept)} NOT {beside(left_out)}"


def beside(node: Node) -> str:
    """The text of a node beside others: in parentheses where it would fall apart without."""
    if isinstance(node, Group) and node.label:
        return write(node)
    return f"({_inside(node)})" if isinstance(node, (Group, Without, Near)) else _inside(node)


def _side(node: Node) -> str:
    if isinstance(node, Group) and node.label:
        return write(node)
    return f"({_inside(node)})" if isinstance(node, (Group, Near)) else _inside(node)


def _quoted(text: str) -> str:
    plain = text.replace("+", "").replace("/", "").replace("-", "")
    return (
        text
        if plain.isalnum() and text.lower() not in _JOINTS and plain.isascii() and not text.startswith("-")
        else '"' + text.replace('"', "'") + '"'
    )
