"""CSL-JSON: the open interchange form of citation processors."""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator

from kettlesort.core.record import Record

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
