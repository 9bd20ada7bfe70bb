"""Habits by which a file of tags is not quite one: records numbered, tags in small letters, indented, with another dash."""

from __future__ import annotations

import re
from collections.abc import Callable

_INDENT = r"[ \t\u00a0]*"
_NUMBER = r"(?:[\[(#]?\d{1,7}[\])]?[.):]?[ \t\u00a0]*)?"
_DASH = r"[-\u2010-\u2015\u2212]"
_RIS = re.compile(rf"^({_INDENT}){_NUMBER}(?i:ty)[ \t\u00a0]{{1,4}}{_DASH}[ \t\u00a0]*[A-Za-z]{{2,8}}[ \t]*$", re.M)
_RIS_PLAIN = re.compile(r"^\ufeff?TY {1,2}-(?: |$)", re.M)
_RIS_LINE = re.compile(
    rf"^{_INDENT}(?:{_NUMBER}(?=(?i:ty)[ \t\u00a0]))?([A-Za-z][A-Za-z0-9])[ \t\u00a0]{{1,4}}{_DASH}(?:[ \t\u00a0]|$|(?=[^\s-]))", re.M
)
_NBIB = re.compile(rf"^({_INDENT}){_NUMBER}(?i:pmid)[ \t]?{_DASH} ?\d+[ \t]*$", re.M)
_NBIB_PLAIN = re.compile(r"^\ufeff?PMID- ", re.M)
_PLAINLY = re.compile(r"[\ufeff\s]*(?:PMID- |TY {1,2}- )")
_NBIB_LINE = re.compile(rf"^(?:{_NUMBER}(?=(?i:pmid)))?([A-Za-z]{{2,4}}\d?)[ \t\u00a0]{{0,3}}{_DASH}(?:[ \t\u00a0]|$)", re.M)
_NUMBERED_LABEL = re.compile(r"^([ \t]*)[\[(<#]?(\d{1,6})[\])>]?[.:)]?[ \t]+([^\W\d_][^\n:=|]{1,30}?[ \t]*[:=])(?=[ \t])", re.M)


def straightening(sample: str) -> Callable[[str], str] | None:
    """What makes the lines of a file those of RIS or NBIB, or takes numbers of records from before labels; ``None`` where nothing is to be done."""
    if _PLAINLY.match(sample):  # as nearly all begin
        return None
    if (found := _RIS.search(sample)) and not _RIS_PLAIN.search(sample):
        return _straightener(found[1], _RIS_LINE, 2)
    if (found := _NBIB.search(sample)) and not _NBIB_PLAIN.search(sample):
        return _straightener(found[1], _NBIB_LINE, 4)
    return _unnumbering(_NUMBERED_LABEL.findall(sample))


def _unnumbering(found: list[tuple[str, str, str]]) -> Callable[[str], str] | None:
    """Where each record begins with its number and the same label on one line, as "[1] AUTHORS: Orsel": what takes the number away from there, and from nowhere else."""
    numbers, labels = [int(number) for _, number, _ in found], {label for _, _, label in found}
    if len(found) < 2 or len(labels) > 1 or numbers != list(range(numbers[0], numbers[0] + len(found))):
        return None
    return lambda text: _NUMBERED_LABEL.sub(lambda one: one[1] + one[3] if one[3] in labels else one[0], text)


def _straightener(indent: str, line: re.Pattern[str], width: int) -> Callable[[str], str]:
    outer = re.compile(rf"^{re.escape(indent)}", re.M) if indent else None
    between = "  - " if width == 2 else "- "

    def straight(text: str) -> str:
        text = outer.sub("", text) if outer else text
        return line.sub(lambda found: found[1].upper().ljust(width) + between, text)

    return straight
