"""BibTeX, read with bibtexparser: strings and concatenation, nested braces, TeX accents."""

from __future__ import annotations

import logging
import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from typing import TYPE_CHECKING

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.people import comes_back, whole
from kettlesort.core.formats.source import CHUNK, Problem, TextSource
from kettlesort.core.record import Record, doi_of, pages_of, plain, year_of

if TYPE_CHECKING:  # what parses is loaded when there is something to parse
    from bibtexparser.model import Entry as Block
    from pylatexenc.latex2text import LatexNodes2Text

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


def is_bibtex(sample: str) -> bool:
    """Whether text has an entry that begins like ``@article{``."""
    return bool(re.search(r"^\s*@\s*[A-Za-z]+\s*[{(]", sample, re.M))


_OF_WORD = {"textbraceleft": "\x02", "textbraceright": "\x03", "textasciicircum": "^", "{": "\x02", "}": "\x03"}
_SIGN = re.compile(r"\\(?:(textbraceleft|textbraceright|textasciicircum)(?:\{\}|[ \t])?|([{}]))")
_AS_SIGNS = {2: "{", 3: "}"}


@lru_cache(maxsize=1)
def _tex() -> LatexNodes2Text:
    from pylatexenc.latex2text import LatexNodes2Text

    return LatexNodes2Text(keep_comments=True, math_mode="with-delimiters")


_MATH = re.compile(r"(?<!\\)\$([^$]{1,80}?)(?<!\\)\$")
_BELOW = re.compile(r"_(?:\{([^{}]*)\}|(\w))")
_DOLLAR = re.compile(r"(?<!\\)\$")


def _without_dollars(found: re.Match[str]) -> str:
    """Mathematics between dollar signs as text; the same where it is none, as in "$5 and $10"."""
    inside = found[1]
    if not re.search(r"[\\_^{<>=]", inside) and not re.fullmatch(r"[A-Za-z]\w{0,9}", inside):
        return found[0]
    return _BELOW.sub(lambda below: below[1] or below[2], inside)


def _text(value: object) -> str:
    text = str(value)
    if "$" in text:
        text = _MATH.sub(_without_dollars, text)
    if "\\" not in text:
        return " ".join(text.replace("{", "").replace("}", "").replace("~", " ").split())
    text = _SIGN.sub(lambda found: _OF_WORD[found[1] or found[2]], text)
    if "\\" in text or "$" in text or "{" in text:
        try:
            text = _tex().latex_to_text(_DOLLAR.sub(r"\\$", text))
        except Exception:  # the library raises many kinds on odd TeX; the text as given is better than none
            pass
    return " ".join(text.translate(_AS_SIGNS).split())


_BLOCK = re.compile(r"^[ \t]*@[ \t]*([A-Za-z]+)[ \t]*[{(]", re.M)
TOGETHER = 400
"""Entries that are parsed at once."""
LONGEST_ENTRY = 8_000_000


def read(source: TextSource, problems: list[Problem]) -> Iterator[Entry]:
    """The entries of a BibTeX file, some hundreds at a time; what cannot be read goes to ``problems``.

    An entry that takes fields from another by ``crossref`` waits until that one has been read.
    """
    known: dict[str, Block] = {}
    waiting: list[tuple[int, Block, str]] = []
    position = 0
    for line, block in _blocks(source, problems):
        raw = (block.raw or "").rstrip()
        waiting.append((line, block, raw))
        if _is_parent(block):
            known[block.key.lower()] = block
        while waiting and (_parent_key(waiting[0][1]) in known or not _parent_key(waiting[0][1])):
            position += 1
            yield _entry(position, *waiting.pop(0), known, problems)
    for line, block, raw in waiting:
        if _parent_key(block) not in known and _parent_key(block):
            problems.append(Problem(line, f"no entry has the key “{_parent_key(block)}” that crossref names"))
        position += 1
        yield _entry(position, line, block, raw, known, problems)


def _is_parent(block: Block) -> bool:
    return block.entry_type.lower() in ("proceedings", "book", "collection", "incollection", "mvbook", "periodical")


def _parent_key(block: Block) -> str:
    return next((str(field.value).strip().lower() for field in block.fields if field.key.lower() == "crossref"), "")


def _entry(position: int, line: int, block: Block, raw: str, known: dict[str, Block], problems: list[Problem]) -> Entry:
    from bibtexparser.model import Field

    parent = known.get(_parent_key(block))
    if parent is not None and parent is not block:
        there = {field.key.lower() for field in block.fields}
        names = {"title": "booktitle", "booktitle": "booktitle"}
        for field in parent.fields:
            name = names.get(field.key.lower(), field.key.lower())
            if name not in there and name != "crossref":
                block.set_field(Field(name, field.value))
                there.add(name)
    return Entry(position, line, line + raw.count("\n"), raw, _record(block, line, problems))


def _blocks(source: TextSource, problems: list[Problem]) -> Iterator[tuple[int, Block]]:
    """The entries with their lines, their values resolved; text is parsed in parts that end where an entry begins."""
    from bibtexparser.entrypoint import parse_string
    from bibtexparser.model import DuplicateBlockKeyBlock, DuplicateFieldKeyBlock, ParsingFailedBlock, String
    from bibtexparser.model import Entry as Block

    strings = dict(_MONTHS)
    seen: set[str] = set()
    for first, text in _parts(source):
        for block in parse_string(_braced(text), parse_stack=[]).blocks:
            line = (block.start_line or 0) + first
            if isinstance(block, DuplicateBlockKeyBlock) and isinstance(block.ignore_error_block, Block):
                block = block.ignore_error_block
            if isinstance(block, DuplicateFieldKeyBlock) and isinstance(block.ignore_error_block, Block):
                names = ", ".join(sorted(block.duplicate_keys))
                problems.append(Problem(line, f"occurs twice in this entry: {names}; the first is used, the others are kept"))
                block = block.ignore_error_block
            if isinstance(block, String):
                strings[block.key.lower()] = _resolved(str(block.value), strings)
            if isinstance(block, ParsingFailedBlock):
                said = " ".join((block.raw or "").split())[:60]
                problems.append(Problem(line, f"this entry could not be read (a brace or comma is missing?): “{said}…”"))
            if not isinstance(block, Block):
                continue
            for field in block.fields:
                field.value = _resolved(str(field.value), strings)
            key = block.key or ""
            if key in seen:
                problems.append(Problem(line, f"the key “{key}” occurs twice; both entries are kept"))
            elif len(seen) < 200_000:
                seen.add(key)
            yield line, block


_ROUND = re.compile(r"^[ \t]*@[ \t]*[A-Za-z]+[ \t]*(\()", re.M)


def _braced(text: str) -> str:
    """Entries in round brackets, ``@article(…)``, with braces in their stead."""
    signs: list[str] | None = None
    for found in _ROUND.finditer(text):
        begin, depth, quoted = found.end(), 0, False
        for k in range(begin, len(text)):
            sign = text[k]
            depth += (sign == "{") - (sign == "}")
            quoted ^= sign == '"' and depth == 0
            if sign == ")" and depth == 0 and not quoted:
                signs = signs or list(text)
                signs[begin - 1], signs[k] = "{", "}"
                break
            if sign == "@" and depth == 0 and not quoted and text[k - 1] == "\n":
                break  # the next entry: this one does not end
    return "".join(signs) if signs else text


_MONTHS = {name: name.title() for name in ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")}
_MOST_VALUE = 1_000_000
_ENCLOSING = re.compile(r"[{}\"#]")


def _resolved(value: str, strings: dict[str, str]) -> str:
    """A value without what encloses it; names of strings stand for their text, and # joins."""
    parts, begun, depth, quoted = [], 0, 0, False
    for found in _ENCLOSING.finditer(value) if "#" in value else ():
        k, sign = found.start(), found[0]
        if sign == "{":
            depth += 1
        elif sign == "}":
            depth -= 1
        elif sign == '"' and depth == 0:
            quoted = not quoted
        elif sign == "#" and depth == 0 and not quoted:
            parts.append(value[begun:k])
            begun = k + 1
    return "".join(_part(part.strip(), strings) for part in [*parts, value[begun:]])[:_MOST_VALUE]


def _part(part: str, strings: dict[str, str]) -> str:
    if len(part) > 1 and part[0] + part[-1] in ("{}", '""'):
        return part[1:-1]
    return strings.get(part.lower(), part)


def _parts(source: TextSource) -> Iterator[tuple[int, str]]:
    """The text in parts of some hundred entries, each with the line that it begins in; an entry that does not end is cut."""
    held, line, looked = "", 1, 0
    begins: list[int] = []
    for piece in source:
        held += piece
        begins += [found.start() for found in _BLOCK.finditer(held, looked)]
        looked = max(looked, held.rfind("\n") + 1)
        begins = [at for k, at in enumerate(begins) if not k or at > begins[k - 1]]
        if len(begins) > TOGETHER or (len(held) > 8 * CHUNK and len(begins) > 1) or len(held) > LONGEST_ENTRY:
            cut = begins[-1] if len(begins) > 1 else len(held)
            yield line, held[:cut]
            line += held.count("\n", 0, cut)
            held, begins, looked = held[cut:], [0] if len(begins) > 1 else [], max(0, looked - cut)
    yield line, held


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
    names = _names(" ".join(str(given.get("author") or "").split()))
    known = set(FIELD_OF)
    return Record(
        kind=KIND_OF.get(block.entry_type.lower(), "other"),
        title=plain(first("title")),
        authors=tuple(whole(_text(name)) if name.startswith("{") and name.endswith("}") else _text(name) for name in names if name),
        year=year,
        date=first("date") or " ".join(part for part in (dated, first("month")) if part),
        journal=first("journal", "journaltitle", "booktitle"),
        volume=first("volume"),
        issue=first("number", "issue"),
        pages=pages_of(first("pages")),
        doi=doi_of(first("doi") or (first("url") if "doi" in first("url") else "")),
        accession=block.key or "",
        issn=first("issn"),
        abstract=plain(first("abstract")),
        language=first("language"),
        keywords=tuple(word for part in first("keywords").split(";" if ";" in first("keywords") else ",") if (word := part.strip())),
        url=first("url"),
        publisher=first("publisher", "school"),
        note=first("note"),
        extra=tuple((key, value) for key, value in [*found.items(), *again] if value and (key not in known or (key, value) in again)),
    )


def _names(text: str) -> list[str]:
    """The names between "and" that stands outside braces."""
    names, depth, begun = [], 0, 0
    for found in re.finditer(r"\\.|[{}]|\s+and\s+", text):
        if found[0] == "{":
            depth += 1
        elif found[0] == "}":
            depth = max(0, depth - 1)
        elif depth == 0 and found[0][0] != "\\":
            names.append(text[begun : found.start()].strip())
            begun = found.end()
    return [*names, text[begun:].strip()]


_SPECIAL = re.compile(r"([\\{}%#$&_~^])")
_WORDS = {
    "\\": "\\textbackslash{}", "~": "\\textasciitilde{}", "^": "\\textasciicircum{}", "{": "\\textbraceleft{}", "}": "\\textbraceright{}",
}  # fmt: skip


_LIGATURE = re.compile(r"(?<=-)(?=-)|(?<=')(?=')|(?<=[`?!])(?=`)|(?<=,)(?=,)|(?<=<)(?=<)|(?<=>)(?=>)")
"""Between two signs that TeX makes one of."""


def _escaped(value: str) -> str:
    return _SPECIAL.sub(lambda found: _WORDS.get(found[1]) or "\\" + found[1], _LIGATURE.sub("\x02", " ".join(value.split()))).replace(
        "\x02", "{}"
    )


_JOINS = re.compile(r"\band\b", re.I)


def _written(name: str) -> str:
    """A name; one that is no person's, or would be taken apart, in braces."""
    return _escaped(name) if comes_back(name) and not _JOINS.search(name) else "{" + _escaped(name) + "}"


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
    for number, record in enumerate(records, 1):
        key = re.sub(r"[^\w:./+-]", "", record.accession) or f"record{number}"
        while key in seen:
            key += "x"
        seen.add(key)
        place = "booktitle" if record.kind in ("conference", "chapter") else "journal"
        fields = [
            ("title", record.title), ("year", str(record.year or "")), ("date", record.date if record.date != str(record.year or "") else ""), (place, record.journal),
            ("volume", record.volume), ("number", record.issue), ("pages", record.pages.replace("–", "--")), ("doi", record.doi),
            ("issn", record.issn), ("abstract", record.abstract), ("keywords", "; ".join(record.keywords) + (";" if len(record.keywords) == 1 and "," in record.keywords[0] else "")), ("language", record.language),
            ("publisher", record.publisher), ("url", record.url), ("note", record.note),
            *((name, value) for name, value in record.extra if re.fullmatch(r"[a-z][a-z-]+", name)),
        ]  # fmt: skip
        lines = [f"  {name} = {{{value if name == 'pages' else _escaped(value)}}}" for name, value in _once(fields).items()]
        if record.authors:
            lines.insert(1, "  author = {" + " and ".join(_written(name) for name in record.authors) + "}")
        yield f"@{TYPE_OF[record.kind]}{{{key},\n" + ",\n".join(lines) + "\n}\n\n"
