"""A query's text as tokens. What a word processor has done to it is repaired, and said."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import NamedTuple

_QUOTES = dict.fromkeys(map(ord, "“”„‟«»″＂❝❞"), '"')
_APOSTROPHES = dict.fromkeys(map(ord, "‘’‚‛′＇"), "'")
_DASHES = dict.fromkeys(map(ord, "‐‑‒–—―−﹣－"), "-")
_SIGNS = {
    ord("（"): "(",
    ord("）"): ")",
    ord("："): ":",
    ord("，"): ",",
    ord("＊"): "*",
    ord("？"): "?",
    ord("　"): " ",
    0xA0: " ",
    0x202F: " ",
}
_KINDS = [
    (table, re.compile(f"[{re.escape(''.join(map(chr, table)))}]"), message)
    for table, message in (
        (_QUOTES, "quotes of a word processor are read as plain ones"),
        (_APOSTROPHES, "apostrophes of a word processor are read as plain ones"),
        (_DASHES, "dashes are read as hyphens"),
        (_SIGNS, "wide signs and blanks are read as plain ones"),
    )
]
_UNSEEN = re.compile(
    r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\xad\u0600-\u0605\u061c\u180e\u200b-\u200f\u202a-\u202e\u2060-\u206f\ufeff\ufff9-\ufffb]"
)
_TOKEN = re.compile(
    r"""(?P<blank>\s+)
    | (?P<open>\()
    | (?P<close>\))
    | (?P<label>\[[^\[\]\n]{1,120}\])
    | (?P<quoted>"[^"]*")
    | (?P<unclosed>"[^"]*$)
    | (?P<line>\#\d{1,6}(?!\d))
    | (?P<field>[A-Za-z][A-Za-z,]*:(?=[\s("\w*?\-\[]|$))
    | (?P<near>(?:NEAR|near|Near)(?:/\d{1,6})?(?=[\s()"]|$))
    | (?P<joint>(?:AND|OR|NOT|and|or|not|And|Or|Not)(?=[\s()"\[]|$))
    | (?P<word>[^\s()"\[\]]+)
    | (?P<stray>.)""",
    re.X | re.S,
)


class Note(NamedTuple):
    """Something that was repaired or that a person should know, and where: characters ``begin`` to ``end``."""

    message: str
    begin: int
    end: int


class Token(NamedTuple):
    """``kind`` is one of the token pattern's names; ``text`` is what the query says there, repaired."""

    kind: str
    text: str
    begin: int
    end: int


class Repaired(NamedTuple):
    """Text to read; ``at[k]`` is where its character ``k`` stands in what was typed."""

    text: str
    at: list[int]
    notes: list[Note]


def repaired(typed: str) -> Repaired:
    """``typed`` with look-alike signs made plain and unseen ones left out, and a note on each kind."""
    notes: list[Note] = []
    text = typed
    for table, sign, message in _KINDS:
        place = sign.search(typed)
        if place:
            notes.append(Note(message, place.start(), place.end()))
            text = text.translate(table)
    unseen = _UNSEEN.search(text)
    if unseen is None:
        return Repaired(text, list(range(len(typed) + 1)), notes)
    notes.append(Note("signs that cannot be seen, such as marks of writing direction, are left out", unseen.start(), unseen.end()))
    kept = [k for k, sign in enumerate(text) if not _UNSEEN.match(sign)]
    return Repaired("".join([text[k] for k in kept]), [*kept, len(typed)], notes)


def tokens(text: str) -> Iterator[Token]:
    """The tokens of repaired ``text``, without blanks."""
    for found in _TOKEN.finditer(text):
        kind = found.lastgroup or "stray"
        if kind != "blank":
            yield Token(kind, found[0], found.start(), found.end())
