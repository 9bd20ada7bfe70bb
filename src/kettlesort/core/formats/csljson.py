"""CSL-JSON: the open interchange form of citation processors."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator
from typing import Any

from kettlesort.core.record import Record, doi_of, pages_of, plain, year_of

TYPE_OF = {
    "article": "article-journal", "conference": "paper-conference", "thesis": "thesis", "book": "book", "chapter": "chapter",
    "report": "report", "preprint": "article", "registration": "dataset", "website": "webpage", "other": "document",
}  # fmt: skip


def _name(author: str) -> dict[str, str]:
    family, comma, given = author.partition(",")
    return {"family": family.strip(), "given": given.strip()} if comma else {"literal": author}


def _item(number: int, it: Record) -> dict[str, object]:
    item: dict[str, object] = {
        "id": it.accession or f"record-{number}",
        "type": TYPE_OF[it.kind],
        "title": it.title,
        "author": [_name(author) for author in it.authors],
        "issued": {"date-parts": [[it.year]]} if it.year else None,
        "container-title": it.journal,
        "container-title-short": it.journal_short,
        "volume": it.volume,
        "issue": it.issue,
        "page": it.pages.replace("–", "-"),
        "DOI": it.doi,
        "ISSN": it.issn,
        "abstract": it.abstract,
        "language": it.language,
        "keyword": ", ".join(it.keywords),
        "URL": it.url,
        "publisher": it.publisher,
        "note": it.note,
    }
    return {name: value for name, value in item.items() if value}


def write(records: Iterable[Record]) -> Iterator[str]:
    """A JSON array, an item a line."""
    yield "["
    for number, it in enumerate(records, 1):
        yield ("," if number > 1 else "") + "\n" + json.dumps(_item(number, it), ensure_ascii=False)
    yield "\n]\n"


_KINDS = {
    "article-journal": "article", "article": "preprint", "thesis": "thesis", "paper-conference": "conference", "report": "report",
    "book": "book", "chapter": "chapter", "webpage": "website", "journal-article": "article", "proceedings-article": "conference",
}  # fmt: skip


def record_of(said: dict[str, Any]) -> Record:
    """A record from a CSL-JSON item; whatever is not as expected is left out."""

    def text(name: str) -> str:
        value = said.get(name)
        value = value[0] if isinstance(value, list) and value else value
        return plain(str(value)) if isinstance(value, (str, int)) and not isinstance(value, bool) else ""

    people = []
    for it in said.get("author") if isinstance(said.get("author"), list) else ():  # type: ignore[union-attr]
        if isinstance(it, dict):
            family, given = (plain(str(it.get(part) or "")) for part in ("family", "given"))
            particle = plain(str(it.get("non-dropping-particle") or ""))
            family = f"{particle} {family}".strip()
            name = f"{family}, {given}" if family and given else family or plain(str(it.get("literal") or it.get("name") or ""))
            people += [name] if name else []
    issued = said.get("issued")
    parts = issued.get("date-parts") if isinstance(issued, dict) else None
    date = (
        "-".join(f"{part:02d}" if isinstance(part, int) else str(part) for part in parts[0])
        if isinstance(parts, list) and parts and isinstance(parts[0], list)
        else ""
    )
    subjects = said.get("subject") or said.get("keyword") or []
    keywords = (
        subjects.split(";")
        if isinstance(subjects, str)
        else [it for it in subjects if isinstance(it, str)]
        if isinstance(subjects, list)
        else []
    )
    title, subtitle = text("title"), text("subtitle")
    return Record(
        kind=_KINDS.get(str(said.get("type")), "other"),
        title=f"{title}: {subtitle}" if subtitle and subtitle.lower() not in title.lower() else title,
        authors=tuple(people),
        year=year_of(date),
        date=date,
        journal=text("container-title"),
        journal_short=text("container-title-short"),
        volume=text("volume"), issue=text("issue"), pages=pages_of(text("page")),
        doi=doi_of(text("DOI")),
        issn=text("ISSN"),
        abstract=text("abstract"),
        language=text("language"),
        keywords=tuple(dict.fromkeys(plain(it) for it in keywords if plain(it))),
        url=text("URL"),
        publisher=text("publisher"),
    )  # fmt: skip
