"""What a PDF says of itself: title, authors, DOI and year, from its metadata and its first pages. Proposals, for a person to correct."""

from __future__ import annotations

import re
from typing import BinaryIO

from kettlesort.core.fulltext.front import title_of
from kettlesort.core.fulltext.pages import document
from kettlesort.core.names import author_name
from kettlesort.core.record import Record, doi_of, plain, year_of

_NO_TITLE = re.compile(r"^(?:untitled|microsoft word|document\d*|.*\.(?:docx?|pdf|tex|indd)|slide 1|pii:.*)\b", re.I)
_AFFILIATION = re.compile(r"universi|department|institut|abstract|correspond|received|accepted|doi|http|@|journal|volume|issn", re.I)
_NOT_A_NAME = re.compile(r"[\d*†‡§¶]+")
PAGES = 2


def proposed(file: BinaryIO) -> Record:
    """What a PDF seems to be about. Raises NotAPdf."""
    said, pages = document(file, PAGES)
    said = {name: plain(value) for name, value in said.items()}
    texts = [page.text.replace("\r\n", "\n").replace("\x00", "") for page in pages]
    title, after = title_of(pages[0])
    _, begins, rest = "\n".join(texts).partition(after[0]) if title and after else ("", "", "")
    given = said.get("Title", "")
    if given and not _NO_TITLE.match(given) and len(given) > 8:
        title = given
    authors = _authors(after) or tuple(
        author_name(name) for name in re.split(r"\s*;\s*|\s+and\s+|,\s+(?=\S+ \S)", said.get("Author", "")) if name
    )
    text = "\n".join(texts)
    return Record(
        kind="article",
        title=title,
        authors=authors,
        year=_year((begins + rest or text).replace(title, " "), said),
        doi=_doi(text),
        abstract=_abstract(texts[0]),
    )


def _doi(text: str) -> str:
    """The first DOI, also where it goes on in the next line."""
    broken = re.search(r"(10\.\d{4,9}/\S*[./_-])\n(\w\S*)", text)
    first = doi_of(text.replace("\n", " "))
    return doi_of(broken[1] + broken[2]) if broken and doi_of(broken[1]) == first else first


def _authors(lines: list[str]) -> tuple[str, ...]:
    lines = list(lines)
    for k in range(len(lines) - 1, 0, -1):  # names that go on in the next line
        if lines[k - 1].endswith((";", ",", " and", "&")):
            lines[k - 1 : k + 1] = [f"{lines[k - 1]} {lines[k]}"]
    for line in lines:
        if _AFFILIATION.search(line) or len(line) > 400:
            continue
        parts = [
            _NOT_A_NAME.sub("", part).strip(" .,") for part in re.split(r"\s*;\s*|\s+(?:and|&)\s+|,\s+(?=[^\W\d_][\w.’'-]* [^\W\d_])", line)
        ]
        parts = [part for part in parts if part]
        if parts and all(
            (2 <= len(part.replace(",", "").split()) <= 5 and part[0].isupper() and not part.endswith(".")) or re.search(r"[A-Z]\.?$", part)
            for part in parts
        ):
            return tuple(author_name(part) for part in parts)
    return ()


def _year(text: str, said: dict[str, str]) -> int | None:
    found = re.search(r"(?:©|\(c\)|published|accepted|received)\D{0,40}((?:19|20)\d\d)", text[:6000], re.I)
    if found:
        return int(found[1])
    head = re.search(r"\b((?:19|20)\d\d)\s*;\s*\d|\(((?:19|20)\d\d)\)|\b((?:19|20)\d\d)\s*[;,(]", text[:3000])
    return int(next(filter(None, head.groups()))) if head else year_of(text[:1500]) or year_of(said.get("CreationDate", "")[2:6])


def _abstract(text: str) -> str:
    found = re.search(
        r"\babstract\b[.:\s]*(.{120,4000}?)(?:\n\s*(?:keywords?|introduction|1\.? introduction|methods|background)\b|\Z)", text, re.I | re.S
    )
    return plain(found[1].replace("-\n", "")) if found else ""
