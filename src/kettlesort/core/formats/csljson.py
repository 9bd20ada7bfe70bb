"""CSL-JSON: the open interchange form of citation processors."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator
from typing import Any

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.guess import field_named
from kettlesort.core.formats.people import comes_back, whole
from kettlesort.core.formats.source import CHUNK, Problem, TextSource
from kettlesort.core.record import Record, doi_of, pages_of, plain, year_of
from kettlesort.core.text.clean import kept
from kettlesort.core.text.glance import plain_text

TYPE_OF = {
    "article": "article-journal", "conference": "paper-conference", "thesis": "thesis", "book": "book", "chapter": "chapter",
    "report": "report", "preprint": "article", "registration": "dataset", "website": "webpage", "other": "document",
}  # fmt: skip


def _name(author: str) -> dict[str, object]:
    family, comma, given = author.partition(",")
    if not comma or not comes_back(author):
        return {"literal": author} if comes_back(author) else {"literal": author, "parse-names": False}
    given, comma, suffix = given.partition(",")
    named: dict[str, object] = {"family": family.strip(), "given": given.strip()}
    return {**named, "suffix": suffix.strip()} if comma else named


def _item(number: int, record: Record) -> dict[str, object]:
    issued: dict[str, object] = {"date-parts": [[record.year]]} if record.year else {}
    if record.date and record.date != str(record.year or ""):
        issued["literal"] = record.date
    item: dict[str, object] = {
        "id": record.accession or f"record-{number}",
        "type": TYPE_OF[record.kind],
        "title": record.title,
        "author": [_name(author) for author in record.authors],
        "issued": issued,
        "container-title": record.journal,
        "container-title-short": record.journal_short,
        "volume": record.volume,
        "issue": record.issue,
        "page": record.pages.replace("–", "-"),
        "DOI": record.doi,
        "ISSN": record.issn,
        "abstract": record.abstract,
        "language": record.language,
        "keyword": "; ".join(record.keywords),
        "URL": record.url,
        "publisher": record.publisher,
        "note": record.note,
        "custom": {
            name: value
            for name, value in {
                "accession": record.accession,
                "keywords": record.keywords if any(";" in word or "," in word for word in record.keywords) else (),
                "references": record.references,
                "other": record.extra,
            }.items()
            if value
        },
    }
    return {name: value for name, value in item.items() if value}


def write(records: Iterable[Record]) -> Iterator[str]:
    """A JSON array, an item a line. What has no variable of its own stands under ``custom``, so that nothing is lost."""
    yield "["
    for number, record in enumerate(records, 1):
        yield ("," if number > 1 else "") + "\n" + json.dumps(_item(number, record), ensure_ascii=False)
    yield "\n]\n"


_KINDS = {
    "article-journal": "article", "article-magazine": "article", "article-newspaper": "article", "review": "article", "article": "preprint",
    "thesis": "thesis", "paper-conference": "conference", "speech": "conference", "report": "report", "book": "book", "chapter": "chapter",
    "entry-encyclopedia": "chapter", "webpage": "website", "post-weblog": "website", "post": "website", "dataset": "registration",
    "journal-article": "article", "proceedings-article": "conference", "posted-content": "preprint", "book-chapter": "chapter",
    "dissertation": "thesis", "monograph": "book", "edited-book": "book",
}  # fmt: skip
PLACES = {
    "id": "accession", "type": "kind", "title": "title", "author": "authors", "issued": "year", "container-title": "journal",
    "container-title-short": "journal_short", "volume": "volume", "issue": "issue", "page": "pages", "DOI": "doi", "ISSN": "issn",
    "abstract": "abstract", "language": "language", "keyword": "keywords", "subject": "keywords", "URL": "url", "publisher": "publisher", "note": "note",
}  # fmt: skip
"""Which field each variable fills."""
_USED = {
    "id", "type", "title", "subtitle", "author", "issued", "container-title", "container-title-short", "volume", "issue", "page", "DOI",
    "ISSN", "abstract", "language", "keyword", "subject", "URL", "publisher", "note", "custom", "journalAbbreviation", "citation-key",
}  # fmt: skip


def _plain(text: str) -> str:
    """Plain text that can be written as UTF-8, whatever escapes the JSON had."""
    if plain_text(text):
        return text
    text = plain(text)
    return kept(text if text.isascii() else text.encode("utf-8", "replace").decode("utf-8"))


def _text_of(value: Any) -> str:
    value = value[0] if isinstance(value, list) and value else value
    return _plain(str(value)) if isinstance(value, (str, int, float)) and not isinstance(value, bool) else ""


def _people(said: Any) -> tuple[str, ...]:
    people: list[str] = []
    for one in said if isinstance(said, list) else ():
        if not isinstance(one, dict):
            people += _heap(_plain(one)) if isinstance(one, str) else []
            continue
        said_of = {part: _plain(str(value)) for part, value in one.items() if value}
        family, given, suffix = (said_of.get(part, "") for part in ("family", "given", "suffix"))
        particles = " ".join(said_of.get(part, "") for part in ("dropping-particle", "non-dropping-particle")).strip()
        family = f"{particles} {family}".strip()
        name = ", ".join(part for part in (family, given, suffix) if part) if family and given else family
        name = name or said_of.get("literal") or said_of.get("name", "")
        people += [whole(name)] if (family and given) or one.get("parse-names") is False else _heap(name)
    return tuple(people)


def _heap(text: str) -> tuple[str, ...]:
    """What should be one name, and may be several people."""
    return () if not text else (text,) if re.search(r"[;|]|,.*,", text) else (whole(text),)


def _date(issued: Any) -> str:
    if not isinstance(issued, dict):
        return _text_of(issued)
    for name in ("literal", "raw"):
        if _text_of(issued.get(name)):
            return _text_of(issued[name])
    parts = issued.get("date-parts")
    if not isinstance(parts, list) or not parts or not isinstance(parts[0], list):
        return ""
    return "-".join(f"{part:02d}" if isinstance(part, int) else str(part) for part in parts[0] if part is not None)


def _words(said: Any) -> tuple[str, ...]:
    if isinstance(said, str):
        said = said.split(";") if ";" in said else said.split(",")
    words = [_plain(one) for one in said if isinstance(one, str)] if isinstance(said, list) else []
    return tuple(dict.fromkeys(word for word in words if word))


_VARIABLES = {field: variable for variable, field in reversed(PLACES.items())}
_OWN = {"author", "issued", "container-title"}


def _by_variable(said: dict[str, Any]) -> dict[str, Any]:
    """An item with the names of CSL: what calls them otherwise, as "authors" and "year", is another program's."""
    if _OWN & said.keys() or not isinstance(said.get("title") or said.get("Title"), str):
        return said
    out = dict(said)
    for name in said:
        variable = None if name in _USED else _VARIABLES.get(field_named(name) or "")
        if variable and not out.get(variable):
            value = out.pop(name)
            out[variable] = [value] if variable == "author" and isinstance(value, str) else value
    return out


def record_of(said: dict[str, Any]) -> Record:
    """A record from a CSL-JSON item; what has no field of its own is kept under its name, whatever is not as expected is left out."""
    said = _by_variable(said)
    custom = said["custom"] if isinstance(said.get("custom"), dict) else {}
    date = _date(said.get("issued"))
    parts = said["issued"].get("date-parts") if isinstance(said.get("issued"), dict) else None
    said_year = year_of(str(parts[0][0])) if isinstance(parts, list) and parts and isinstance(parts[0], list) and parts[0] else None
    year = said_year or year_of(date)
    title, subtitle = _text_of(said.get("title")), _text_of(said.get("subtitle"))
    url = _text_of(said.get("URL"))
    given = _text_of(said.get("id"))
    accession = _text_of(custom.get("accession")) or ("" if given.startswith(("record-", "http:", "https:")) else given)
    keywords = custom.get("keywords")
    extra = [(name, _shown(value)) for name, value in said.items() if name not in _USED and _shown(value)]
    extra += [(_plain(str(one[0])), _plain(str(one[1]))) for one in custom.get("other") or () if isinstance(one, list) and len(one) == 2]
    extra += [
        (name, _shown(value))
        for name, value in custom.items()
        if name not in ("accession", "keywords", "references", "other") and _shown(value)
    ]
    return Record(
        kind=_KINDS.get(str(said.get("type")), "other"),
        title=f"{title}: {subtitle}" if subtitle and subtitle.lower() not in title.lower() else title,
        authors=_people(said.get("author")),
        year=year,
        date=date,
        journal=_text_of(said.get("container-title")),
        journal_short=_text_of(said.get("container-title-short")) or _text_of(said.get("journalAbbreviation")),
        volume=_text_of(said.get("volume")), issue=_text_of(said.get("issue")), pages=pages_of(_text_of(said.get("page"))),
        doi=doi_of(_text_of(said.get("DOI")) or (url if "doi" in url else "")),
        accession=accession,
        issn=_text_of(said.get("ISSN")),
        abstract=_text_of(said.get("abstract")),
        language=_text_of(said.get("language")),
        keywords=_words(keywords if isinstance(keywords, list) else said.get("keyword") or said.get("subject")),
        url=url,
        publisher=_text_of(said.get("publisher")),
        references=tuple(_plain(each) for each in custom.get("references") or () if isinstance(each, str)) if isinstance(custom.get("references"), list) else (),
        note=_text_of(said.get("note")),
        extra=tuple(extra),
    )  # fmt: skip


def _shown(value: Any) -> str:
    """A value that has no field, as text."""
    if isinstance(value, str):
        return _plain(value)
    if value is None or value == [] or value == {} or isinstance(value, bool):
        return ""
    return _plain(json.dumps(value, ensure_ascii=False)) if isinstance(value, (dict, list)) else str(value)


def is_csljson(sample: str) -> bool:
    """Whether text is JSON with items of references."""
    head = sample.lstrip("\ufeff \n\t\x00")
    return head.startswith(("[", "{")) and bool(re.search(r'"(?:title|DOI|author|issued|type|container-title)"\s*:', head))


_ITEM = re.compile(r"[\s,\x00\ufeff]*")
_DECODER = json.JSONDecoder(strict=False)
_LISTS = ("items", "references", "records", "data")


def read(source: TextSource, problems: list[Problem]) -> Iterator[Entry]:
    """The entries of a CSL-JSON file: a list, one item, an item a line, or an object that holds the list. An item at a time is in memory."""
    position, source.longest = 0, float("inf")  # all of it may stand in one line
    for line, raw, said in _items(source, problems):
        if not isinstance(said, dict):
            problems.append(Problem(line, f"this is no item but {type(said).__name__}: “{raw[:40]}”"))
            continue
        held = next((said[name] for name in _LISTS if isinstance(said.get(name), list)), None) if "title" not in said else None
        for one in [said] if held is None else held:
            if not isinstance(one, dict):
                continue
            position += 1
            text = raw if held is None else json.dumps(one, ensure_ascii=False, indent=1)
            record = record_of(one)
            if not record.title:
                problems.append(Problem(line, "this item has no title"))
            dated = record.date
            if dated and record.year is None:
                problems.append(Problem(line, f"“{dated[:40]}” is not a year; kept as given"))
            yield Entry(position, line, line + text.count("\n") if held is None else line, text, record)


def _items(source: TextSource, problems: list[Problem]) -> Iterator[tuple[int, str, Any]]:
    """Line, text and value of each item."""
    pieces, held, line, at, begun = iter(source), "", 1, 0, False
    wanted = 1
    while True:
        ended = False
        while len(held) - at < wanted and not ended:
            piece = next(pieces, None)
            ended = piece is None
            held, at = held[at:] + (piece or ""), 0
        found = _ITEM.match(held, at)
        assert found is not None
        line += held.count("\n", at, found.end())
        at = found.end()
        if not begun and held[at : at + 1] == "[":
            begun, at = True, at + 1
            continue
        if held[at : at + 1] == "]" or (at >= len(held) and ended):
            return
        if at >= len(held):
            wanted = 1
            continue
        begun = True
        try:
            value, end = _DECODER.raw_decode(held, at)
        except RecursionError:
            problems.append(Problem(line, "this item is nested too deeply; reading stops here"))
            return
        except ValueError as error:
            if not ended and len(held) - at < MOST:
                wanted = 2 * max(len(held) - at, CHUNK)  # the item may only not be whole yet
                continue
            said = str(error).partition(":")[0]
            problems.append(Problem(line, f"this is not JSON from here on ({said.lower()}); the file may have been cut off"))
            return
        raw = held[at:end]
        yield line, raw, value
        line += raw.count("\n")
        at, wanted = end, 1


MOST = 32_000_000
