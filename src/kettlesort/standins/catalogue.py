"""A catalogue that speaks Search/Retrieve via URL, 1.2 and 2.0, over invented records that overlap with the demo's.

Its quirks: at most 200 records at a time, a slow answer and an error now and then, terms
that it maps to its descriptors by itself (and says so), records with small flaws.
"""

from __future__ import annotations

import re
import threading
import time
from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import count
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import Response
from starlette.routing import Route

from kettlesort.core.query import Descriptor, Group, In, Index, Near, Node, NotAQuery, Searched, Text, find, parts_of, with_parts
from kettlesort.core.query.syntax import profile_of, read, shipped
from kettlesort.core.query.words import words_of
from kettlesort.demo.document import Document
from kettlesort.demo.invent import catalogue
from kettlesort.demo.thesaurus import OTHER_NAMES

MOST = 200
SCHEMAS = {
    "info:srw/schema/1/marcxml-v1.1": "marcxml",
    "info:srw/schema/1/mods-v3.6": "mods",
    "info:srw/schema/1/dc-v1.1": "dc",
    "marcxml": "marcxml",
    "mods": "mods",
    "dc": "dc",
}
_SPACES = {
    "1.2": ("http://www.loc.gov/zing/srw/", "http://www.loc.gov/zing/srw/diagnostic/"),
    "2.0": ("http://docs.oasis-open.org/ns/search-ws/sruResponse", "http://docs.oasis-open.org/ns/search-ws/diagnostic"),
}
_CQL = profile_of(shipped()["cql"])
_HEADING_OF = {" ".join(words_of(name)): heading for name, heading in OTHER_NAMES.items()}


@dataclass(slots=True)
class Quirks:
    """How it misbehaves: every so many requests it is slow, for so many seconds, or out of order; 0 for never."""

    slow_every: int = 13
    slow: float = 1.2
    fail_every: int = 17
    huge: bool = False
    asked: count[int] = field(default_factory=lambda: count(1))


class Holdings:
    """The records of the catalogue and their index, made in the background; the first who asks waits."""

    def __init__(self, size: int) -> None:
        self.size = size
        self._made = threading.Event()
        threading.Thread(target=self._make, daemon=True).start()

    def _make(self) -> None:
        self.documents = list(catalogue(self.size))
        self.index = Index(_searched(document) for document in self.documents)
        self._made.set()

    def wait(self) -> None:
        """Until it can be searched."""
        self._made.wait()

    def search(self, query: str) -> tuple[list[int], list[tuple[str, str]]]:
        """The places of the records found, newest first, and how terms were understood. Raises NotAQuery."""
        self.wait()
        if "".join(query.split()).lower() == "cql.allrecords=1":
            return list(range(self.size)), []
        named = re.fullmatch(r'\s*rec\.identifier\s*=\s*"?([\w.-]+)"?\s*', query)
        if named:
            return [k for k, document in enumerate(self.documents) if named[1].upper() == _accession(document)], []
        node = read(query, _CQL).node
        understood: list[tuple[str, str]] = []
        hits = find(_mapped(node, understood), self.index)
        return [int(k) for k in np.flatnonzero(hits)], understood


def _searched(document: Document) -> Searched:
    return Searched(
        document.full_title,
        document.abstract,
        document.descriptors,
        document.authors,
        document.venue.name,
        document.year,
        "eng",
        document.kind,
        document.doi,
    )


def _mapped(node: Node, understood: list[tuple[str, str]]) -> Node:
    """Terms for any field that are a name of a heading are looked for as that heading, too."""
    if isinstance(node, Text):
        heading = _HEADING_OF.get(" ".join(node.words).lower())
        if heading:
            understood.append((" ".join(node.words), f'"{" ".join(node.words)}" in title, description, subject, or subject "{heading}"'))
            return Group("any", (node, Descriptor(heading)))
        return node
    if isinstance(node, (In, Near)):
        return node
    return with_parts(node, tuple(_mapped(part, understood) for part in parts_of(node)))


def _answer(version: str, name: str, inside: str, status: int = 200) -> Response:
    space = _SPACES[version][0]
    said = f'<?xml version="1.0" encoding="UTF-8"?>\n<{name} xmlns="{space}"><version>{version}</version>{inside}</{name}>'
    return Response(said, status, media_type="application/xml")


def _diagnostics(version: str, number: int, message: str, details: str = "") -> Response:
    inside = f'<diagnostics><diagnostic xmlns="{_SPACES[version][1]}"><uri>info:srw/diagnostic/1/{number}</uri><details>{escape(details)}</details><message>{escape(message)}</message></diagnostic></diagnostics>'
    return _answer(version, "searchRetrieveResponse", f"<numberOfRecords>0</numberOfRecords>{inside}")


def _explain(version: str, holdings: Holdings) -> Response:
    schemas = "".join(f'<schema identifier={quoteattr(long)} name="{name}"/>' for long, name in SCHEMAS.items() if long != name)
    inside = (
        '<record><recordSchema>http://explain.z3950.org/dtd/2.0/</recordSchema><recordData><explain xmlns="http://explain.z3950.org/dtd/2.0/">'
        f'<serverInfo protocol="SRU" version="{version}"><host>127.0.0.1</host><database>hive-union</database></serverInfo>'
        f"<databaseInfo><title>Hive Union Catalogue</title><extent>{holdings.size}</extent></databaseInfo><schemaInfo>{schemas}</schemaInfo>"
        f'<configInfo><setting type="maximumRecords">{MOST}</setting></configInfo></explain></recordData></record>'
    )
    return _answer(version, "explainResponse", inside)


def catalogue_app(size: int = 60_000, quirks: Quirks | None = None) -> Starlette:
    """The catalogue as an application; everything is at its root."""
    holdings, manners = Holdings(size), quirks or Quirks()

    def ask(request: Request) -> Response:
        said = request.query_params
        version = said.get("version") or ("1.2" if said.get("operation") else "2.0")
        if version not in _SPACES:
            return _diagnostics("1.2", 5, "Unsupported version", "2.0")
        if "query" not in said:
            return (
                _explain(version, holdings)
                if said.get("operation", "explain") == "explain"
                else _diagnostics(version, 7, "Mandatory parameter not supplied", "query")
            )
        number = next(manners.asked)
        if manners.huge:
            return Response("<a>" + " " * 50_000_000 + "</a>", media_type="application/xml")
        if manners.fail_every and number % manners.fail_every == 0:
            return Response("Out of order for a moment", 503, headers={"Retry-After": "1"})
        if manners.slow_every and number % manners.slow_every == 0:
            time.sleep(manners.slow)
        return _search(
            holdings,
            version,
            said.get("query", ""),
            said.get("startRecord", "1"),
            said.get("maximumRecords", "10"),
            said.get("recordSchema", "dc"),
        )

    return Starlette(routes=[Route("/", ask), Route("/{rest:path}", ask)])


def _search(holdings: Holdings, version: str, query: str, start: str, most: str, schema: str) -> Response:
    if not (start.isdecimal() and most.isdecimal() and int(start) >= 1):
        return _diagnostics(version, 6, "Unsupported parameter value", f"startRecord {start}, maximumRecords {most}")
    if schema not in SCHEMAS:
        return _diagnostics(version, 66, "Unknown schema for retrieval", schema)
    try:
        found, understood = holdings.search(query)
    except NotAQuery as error:
        return _diagnostics(
            version,
            16 if "no code" in error.message else 10,
            "Unsupported index" if "no code" in error.message else "Query syntax error",
            error.message,
        )
    first, wanted = int(start), min(int(most), MOST)
    if first > max(1, len(found)):
        return _diagnostics(version, 61, "First record position out of range", start)
    page = found[first - 1 : first - 1 + wanted]
    write = {"marcxml": _marc, "mods": _mods, "dc": _dublin_core}[SCHEMAS[schema]]
    records = "".join(
        f"<record><recordSchema>{escape(schema)}</recordSchema><recordData>{write(holdings.documents[k])}</recordData><recordPosition>{first + n}</recordPosition></record>"
        for n, k in enumerate(page)
    )
    following = f"<nextRecordPosition>{first + len(page)}</nextRecordPosition>" if first - 1 + len(page) < len(found) and page else ""
    terms = "".join(f"<h:term said={quoteattr(said)}>{escape(taken)}</h:term>" for said, taken in understood)
    extra = (
        f'<extraResponseData><h:understood xmlns:h="https://kettle.example/understood">{terms}</h:understood></extraResponseData>'
        if terms
        else ""
    )
    return _answer(
        version, "searchRetrieveResponse", f"<numberOfRecords>{len(found)}</numberOfRecords><records>{records}</records>{following}{extra}"
    )


def _accession(document: Document) -> str:
    return f"HU{document.number:07d}"


def _marc(document: Document) -> str:
    def fields(tag: str, *parts: tuple[str, str]) -> str:
        inside = "".join(f'<subfield code="{code}">{escape(text)}</subfield>' for code, text in parts if text)
        return f'<datafield tag="{tag}" ind1=" " ind2=" ">{inside}</datafield>' if inside else ""

    people = [fields("100" if k == 0 else "700", ("a", name + ",")) for k, name in enumerate(document.authors)]
    subjects = [fields("650", ("a", word.partition("/")[0] + "."), ("x", word.partition("/")[2])) for word in document.descriptors]
    part = f"Vol. {document.volume}, no. {document.issue} ({document.year}), p. {document.page}-{document.page + document.length}"
    return (
        '<record xmlns="http://www.loc.gov/MARC21/slim"><leader>00000nab a2200000 a 4500</leader>'
        f'<controlfield tag="001">{_accession(document)}</controlfield><controlfield tag="008">260301s{document.year}    xx                  eng d</controlfield>'
        + fields("024", ("a", document.doi), ("2", "doi")) + "".join(people[:1])
        + fields("245", ("a", document.title + (" :" if document.subtitle else ".")), ("b", document.subtitle and document.subtitle + "."))
        + fields("520", ("a", document.abstract)) + fields("655", ("a", document.kind.capitalize())) + "".join(subjects) + "".join(people[1:])
        + fields("773", ("t", document.venue.name + "."), ("g", part)) + "</record>"
    )  # fmt: skip


def _mods(document: Document) -> str:
    people = "".join(
        f'<name type="personal"><namePart type="family">{escape(name.partition(", ")[0])}</namePart><namePart type="given">{escape(name.partition(", ")[2])}</namePart></name>'
        for name in document.authors
    )
    subjects = "".join(
        "<subject>" + "".join(f"<topic>{escape(part)}</topic>" for part in word.split("/")) + "</subject>" for word in document.descriptors
    )
    return (
        f'<mods xmlns="http://www.loc.gov/mods/v3"><titleInfo><title>{escape(document.title)}</title>' + (f"<subTitle>{escape(document.subtitle)}</subTitle>" if document.subtitle else "") + "</titleInfo>"
        f"{people}<genre>{document.kind}</genre><originInfo><dateIssued>{document.year}</dateIssued></originInfo><language><languageTerm>eng</languageTerm></language><abstract>{escape(document.abstract)}</abstract>{subjects}"
        f'<relatedItem type="host"><titleInfo><title>{escape(document.venue.name)}</title></titleInfo><part><detail type="volume"><number>{document.volume}</number></detail>'
        f'<detail type="issue"><number>{document.issue}</number></detail><extent unit="pages"><start>{document.page}</start><end>{document.page + document.length}</end></extent></part></relatedItem>'
        + (f'<identifier type="doi">{escape(document.doi)}</identifier>' if document.doi else "") + f"<recordInfo><recordIdentifier>{_accession(document)}</recordIdentifier></recordInfo></mods>"
    )  # fmt: skip


def _dublin_core(document: Document) -> str:
    def each(name: str, values: Iterable[str]) -> str:
        return "".join(f"<dc:{name}>{escape(value)}</dc:{name}>" for value in values if value)

    source = f"{document.venue.name}, vol. {document.volume}, no. {document.issue}, p. {document.page}-{document.page + document.length}"
    return (
        '<srw_dc:dc xmlns:srw_dc="info:srw/schema/1/dc-schema" xmlns:dc="http://purl.org/dc/elements/1.1/">'
        + each("title", [document.full_title]) + each("creator", document.authors) + each("subject", document.descriptors) + each("description", [document.abstract]) + each("date", [str(document.year)])
        + each("type", [document.kind]) + each("identifier", [_accession(document), f"doi:{document.doi}" if document.doi else ""]) + each("source", [source]) + each("language", ["eng"]) + "</srw_dc:dc>"
    )  # fmt: skip
