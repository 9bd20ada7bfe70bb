"""A document of headings, paragraphs and tables, as Markdown and as DOCX."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from dataclasses import dataclass

import docx
import docx.shared

from kettlesort.core.text.clean import for_xml


@dataclass(frozen=True, slots=True)
class Heading:
    """A heading; ``level`` 1 is the document's title."""

    text: str
    level: int = 2


@dataclass(frozen=True, slots=True)
class Paragraph:
    """Running text; its line breaks are kept."""

    text: str


@dataclass(frozen=True, slots=True)
class Verbatim:
    """Text that is to be read sign by sign, such as a query."""

    text: str


@dataclass(frozen=True, slots=True)
class Items:
    """A list, numbered or not."""

    items: Sequence[str]
    numbered: bool = False


@dataclass(frozen=True, slots=True)
class Grid:
    """A table; every row has as many cells as the head."""

    head: Sequence[str]
    rows: Sequence[Sequence[str]]


Block = Heading | Paragraph | Verbatim | Items | Grid

_MARKS = re.compile(r"([\\`*_{}\[\]<>#|])")
_AT_BEGIN = re.compile(r"^(\s*)([-+]|\d+[.)])(?=\s)", re.M)


def markdown(blocks: Sequence[Block]) -> str:
    """The document as Markdown; signs that would be taken for marks are escaped."""
    return "\n\n".join(map(_markdown, blocks)) + "\n"


def _escaped(text: str) -> str:
    return _AT_BEGIN.sub(_escaped_begin, _MARKS.sub(r"\\\1", _plain(text)))


def _escaped_begin(found: re.Match[str]) -> str:
    """A line that begins like an item of a list."""
    return f"{found[1]}{found[2][:-1]}\\{found[2][-1]}"


def _cell(text: str) -> str:
    return _escaped(text).replace("\n", "<br>")


def _markdown(block: Block) -> str:
    match block:
        case Heading(text, level):
            return "#" * level + " " + _escaped(" ".join(text.split()))
        case Paragraph(text):
            return _escaped(text).replace("\n", "  \n")
        case Verbatim(text):
            fence = "`" * max(3, 1 + max(map(len, re.findall("`+", text)), default=0))
            return f"{fence}\n{_plain(text)}\n{fence}"
        case Items(items, numbered):
            return "\n".join((f"{k}. " if numbered else "- ") + _escaped(item).replace("\n", "  \n   ") for k, item in enumerate(items, 1))
        case Grid(head, rows):
            lines = [head, ["---"] * len(head), *rows]
            return "\n".join("| " + " | ".join(word if k == 1 else _cell(word) for word in line) + " |" for k, line in enumerate(lines))


def docx_file(blocks: Sequence[Block]) -> bytes:
    """The document as a DOCX file; signs that XML cannot hold are left out."""
    document = docx.Document()
    for block in blocks:
        match block:
            case Heading(text, level):
                document.add_heading(_plain(text), 0 if level == 1 else level - 1)
            case Paragraph(text):
                document.add_paragraph(_plain(text))
            case Verbatim(text):
                run = document.add_paragraph().add_run(_plain(text))
                run.font.name, run.font.size = "Courier New", docx.shared.Pt(9)
            case Items(items, numbered):
                for item in items:
                    document.add_paragraph(_plain(item), style="List Number" if numbered else "List Bullet")
            case Grid(head, rows):
                table = document.add_table(1, len(head), style="Table Grid")
                for cell, text in zip(table.rows[0].cells, head, strict=True):
                    cell.paragraphs[0].add_run(_plain(text)).bold = True
                for row in rows:
                    for cell, text in zip(table.add_row().cells, row, strict=True):
                        cell.text = _plain(text)
    out = io.BytesIO()
    document.save(out)
    return out.getvalue()


def _plain(text: str) -> str:
    return for_xml(text)
