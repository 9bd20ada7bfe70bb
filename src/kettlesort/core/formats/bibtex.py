"""BibTeX, read with bibtexparser: strings and concatenation, nested braces, TeX accents."""

from __future__ import annotations

import logging
import re
from collections.abc import Iterable, Iterator
from functools import lru_cache

from bibtexparser.entrypoint import parse_string
from bibtexparser.model import DuplicateBlockKeyBlock, DuplicateFieldKeyBlock, ParsingFailedBlock
from bibtexparser.model import Entry as Block
from pylatexenc.latex2text import LatexNodes2Text

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.record import Record, author_name, doi_of, pages_of, plain, year_of

KIND_OF = {
    "article": "article", "inproceedings": "conference", "conference": "conference", "proceedings": "conference",
    "phdthesis": "thesis", "mastersthesis": "thesis", "thesis": "thesis", "book": "book", "incollection": "chapter",
    "inbook": "chapter", "techreport": "report", "report": "report", "unpublished": "preprint", "online": "website",
}  # fmt: skip
TYPE_OF = {
    "article": "article", "conference": "inproceedings", "thesis": "phdthesis", "book": "book", "chapter": "incollection",
    "report": "techreport", "preprint": "unpublished", "website": "online", "registration": "misc", "other": "misc",
}  # fmt: skip
FIELD_OF = {
    "title": "title", "author": "authors", "year": "year", "date": "year", "journal": "journal", "journaltitle": "journal",
    "booktitle": "journal", "volume": "volume", "number": "issue", "issue": "issue", "pages": "pages", "doi": "doi",
    "issn": "issn", "abstract": "abstract", "language": "language", "keywords": "keywords", "url": "url",
    "publisher": "publisher", "school": "publisher", "note": "note", "month": "date",
}  # fmt: skip
logging.getLogger("bibtexparser").addHandler(logging.NullHandler())  # what it cannot read is told as a problem
_SPLIT = re.compile(r"\s*[;,]\s*")
_START = re.compile(r"^\s*@\s*(?!comment|preamble|string)[A-Za-z]+\s*[{(]", re.M | re.I)


def is_bibtex(sample: str) -> bool:
    """Whether text has an entry that begins like ``@article{``."""
    return bool(re.search(r"^\s*@\s*[A-Za-z]+\s*[{(]", sample, re.M))


@lru_cache(maxsize=1)
def _tex() -> LatexNodes2Text:
    return LatexNodes2Text(keep_comments=True, math_mode="with-delimiters")


def _text(value: object) -> str:
    text = str(value)
    if "\\" in text:
        try:
            text = _tex().latex_to_text(text)
        except Exception:  # the library raises many kinds on odd TeX; the text as given is better than none
            pass
    return " ".join(text.replace("{", "").replace("}", "").replace("~", " ").split())


def read(source: TextSource, problems: list[Problem]) -> Iterator[Entry]:
    """The entries of a BibTeX file; what cannot be read goes to ``problems``."""
    text = source.read()
    library = parse_string(text)
    position = 0
    for block in library.blocks:
        line = (block.start_line or 0) + 1
        if isinstance(block, DuplicateBlockKeyBlock) and isinstance(block.ignore_error_block, Block):
            problems.append(Problem(line, f"the key “{block.key}” occurs twice; both entries are kept"))
            block = block.ignore_error_block
        if isinstance(block, DuplicateFieldKeyBlock) and isinstance(block.ignore_error_block, Block):
            names = ", ".join(sorted(block.duplicate_keys))
            problems.append(Problem(line, f"occurs twice in this entry: {names}; the first is used, the others are kept"))
            block = block.ignore_error_block
        if isinstance(block, ParsingFailedBlock):
            said = " ".join((block.raw or "").split())[:60]
            problems.append(Problem(line, f"this entry could not be read (a brace or comma is missing?): “{said}…”"))
            continue
        if not isinstance(block, Block):
            continue
        position += 1
        raw = (block.raw or "").rstrip()
        yield Entry(position, line, line + raw.count("\n"), raw, _record(block, line, problems))


def _record(block: Block, line: int, problems: list[Problem]) -> Record:
    given: dict[str, object] = {}
    again: list[tuple[str, str]] = []
    for field in block.fields:
        key = field.key.lower()
        if key in given:
            again.append((key, _text(field.value)))
        else:
            given[key] = field.value
    found = {key: _text(value) for key, value in given.items()}

    def first(*keys: str) -> str:
        return next((found[key] for key in keys if found.get(key)), "")

    dated = first("year", "date")
    year = year_of(dated) if dated else None
    if dated and year is None:
        problems.append(Problem(line, f"“{dated[:40]}” is not a year; kept as given"))
    names = re.split(r"\s+and\s+", " ".join(str(given.get("author", "")).split()))
    known = set(FIELD_OF)
    return Record(
        kind=KIND_OF.get(block.entry_type.lower(), "other"),
        title=plain(first("title")),
        authors=tuple(author_name(_text(name)) for name in names if name),
        year=year,
        date=" ".join(part for part in (dated, first("month")) if part),
        journal=first("journal", "journaltitle", "booktitle"),
        volume=first("volume"),
        issue=first("number", "issue"),
        pages=pages_of(first("pages")),
        doi=doi_of(first("doi") or (first("url") if "doi" in first("url") else "")),
        accession=block.key or "",
        issn=first("issn"),
        abstract=plain(first("abstract")),
        language=first("language"),
        keywords=tuple(word for word in _SPLIT.split(first("keywords")) if word),
        url=first("url"),
        publisher=first("publisher", "school"),
        note=first("note"),
        extra=tuple((key, value) for key, value in [*found.items(), *again] if value and (key not in known or (key, value) in again)),
    )


_SPECIAL = re.compile(r"([\\{}%#$&_])")


def _escaped(value: str) -> str:
    return _SPECIAL.sub(lambda found: "\\textbackslash{}" if found[1] == "\\" else "\\" + found[1], " ".join(value.split()))


def _once(fields: list[tuple[str, str]]) -> dict[str, str]:
    """Each name once, as BibTeX wants it; a value whose name is taken gets a numbered one."""
    named: dict[str, str] = {}
    for name, value in fields:
        free = name
        while value and free in named:
            free = f"{name}{int(free[len(name) :] or 1) + 1}"
        if value:
            named[free] = value
    return named


def write(records: Iterable[Record]) -> Iterator[str]:
    """BibTeX text, a record at a time; keys are the accessions, made unique."""
    seen: set[str] = set()
    for number, it in enumerate(records, 1):
        key = re.sub(r"[^\w:./+-]", "", it.accession) or f"record{number}"
        while key in seen:
            key += "x"
        seen.add(key)
        place = "booktitle" if it.kind in ("conference", "chapter") else "journal"
        fields = [
            ("title", it.title), ("author", " and ".join(it.authors)), ("year", str(it.year or "")), (place, it.journal),
            ("volume", it.volume), ("number", it.issue), ("pages", it.pages.replace("–", "--")), ("doi", it.doi),
            ("issn", it.issn), ("abstract", it.abstract), ("keywords", "; ".join(it.keywords)), ("language", it.language),
            ("publisher", it.publisher), ("url", it.url), ("note", it.note),
            *((name, value) for name, value in it.extra if re.fullmatch(r"[a-z][a-z-]+", name)),
        ]  # fmt: skip
        lines = [f"  {name} = {{{_escaped(value)}}}" for name, value in _once(fields).items()]
        yield f"@{TYPE_OF[it.kind]}{{{key},\n" + ",\n".join(lines) + "\n}\n\n"
