"""Search/Retrieve via URL, versions 1.2 and 2.0 (OASIS searchRetrieve, 2013): requests as parameters, answers from XML."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple

from lxml import etree

from kettlesort.core.catalogue.records import record_of, text_of
from kettlesort.core.record import Record

Version = Literal["1.2", "2.0"]
SCHEMAS = {"marcxml": "info:srw/schema/1/marcxml-v1.1", "mods": "info:srw/schema/1/mods-v3.6", "dc": "info:srw/schema/1/dc-v1.1"}
"""The forms in which records are asked for, with their identifiers."""
LARGEST_ANSWER = 20_000_000
"""Bytes of an answer; a larger one is not read."""
_MEANINGS = {
    "1": "the catalogue has a fault of its own", "2": "the catalogue is out of order for now", "3": "this catalogue wants to be asked by somebody it knows",
    "4": "the catalogue does not know this request", "5": "the catalogue does not speak this version", "6": "a part of the request is not what the catalogue expects",
    "10": "the catalogue cannot read the query", "11": "the catalogue does not read this kind of query", "16": "the catalogue has no index of this name",
    "19": "the catalogue does not know this relation", "22": "the catalogue cannot combine this relation with this index", "27": "the query says nothing", "28": "the catalogue does not truncate like this",
    "31": "the catalogue does not truncate here", "37": "the catalogue does not know this operator", "39": "the catalogue knows no proximity", "48": "the query asks for more than the catalogue allows",
    "59": "the result is too large for the catalogue to sort", "60": "the result is too large to be given", "61": "there is no record at that place", "66": "the catalogue does not give records in this form",
}  # fmt: skip


class NotAnAnswer(Exception):
    """What came is no answer of a catalogue; the message says what came."""


class Diagnostic(NamedTuple):
    """What a catalogue has against a request: its number, what that means, and its own words."""

    number: str
    message: str
    details: str


class Understood(NamedTuple):
    """How a catalogue took a term, as its answer says."""

    said: str
    taken: str


class Answer(NamedTuple):
    """An answer to a search. ``records`` come with the text of their XML; ``following`` is the place of the next record, if there is one."""

    total: int
    records: list[tuple[Record, str]]
    following: int | None
    diagnostics: list[Diagnostic]
    understood: list[Understood]


class Explained(NamedTuple):
    """What a catalogue says of itself: its name, its version, the forms it gives records in, how many it gives at once (0 unknown)."""

    name: str
    version: str
    schemas: list[str]
    most: int


def search_request(query: str, version: Version, start: int, count: int, schema: str) -> dict[str, str]:
    """The parameters of a search: ``count`` records from place ``start``, which counts from 1. ``query`` is CQL."""
    paging = {"query": query, "startRecord": str(start), "maximumRecords": str(count), "recordSchema": SCHEMAS.get(schema, schema)}
    if version == "2.0":
        return {"queryType": "cql", "recordXMLEscaping": "xml", **paging}
    return {"operation": "searchRetrieve", "version": version, "recordPacking": "xml", **paging}


def explain_request(version: Version) -> dict[str, str]:
    """The parameters that ask a catalogue what it is."""
    return {} if version == "2.0" else {"operation": "explain", "version": version}


def _tree(data: bytes) -> etree._Element:
    if len(data) > LARGEST_ANSWER:
        raise NotAnAnswer(f"It sent more than {LARGEST_ANSWER // 1_000_000} MB at once.")
    parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=False, remove_comments=True, remove_pis=True)
    try:
        return etree.fromstring(data, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        begin = " ".join(data[:80].decode("utf-8", "replace").split())
        raise NotAnAnswer(f"It did not send XML but “{begin or 'nothing'}” ({str(error)[:120]}).") from None


def _name(said: Any) -> str:
    return etree.QName(said).localname if isinstance(said.tag, str) else ""


def _child(element: etree._Element | None, *names: str) -> etree._Element | None:
    for name in names:
        if element is None:
            return None
        element = next((child for child in element if _name(child) == name), None)
    return element


def _number(element: etree._Element | None) -> int | None:
    text = text_of(element)
    return int(text) if text.isdecimal() and len(text) < 12 else None


def read_answer(data: bytes) -> Answer:
    """What a catalogue answered to a search. Raises NotAnAnswer."""
    root = _tree(data)
    if _name(root) not in ("searchRetrieveResponse", "explainResponse"):
        raise NotAnAnswer(f"It sent “{_name(root)}” instead of the answer to a search.")
    diagnostics = [_diagnostic(one) for part in root if _name(part) == "diagnostics" for one in part]
    total = _number(_child(root, "numberOfRecords"))
    if total is None and not diagnostics:
        raise NotAnAnswer("It did not say how many records it found.")
    records = []
    for each in _child(root, "records") if _child(root, "records") is not None else ():  # type: ignore[union-attr]
        inside = _record_data(each)
        if inside is not None and _name(inside) == "diagnostic":
            diagnostics.append(_diagnostic(inside))
        elif inside is not None:
            raw = etree.tostring(inside, encoding="unicode", pretty_print=True)
            records.append((record_of(inside), raw))
    extra = _child(root, "extraResponseData")
    understood = [
        Understood(str(this.get("said") or ""), text_of(this))
        for this in (extra.iter() if extra is not None else ())
        if _name(this) == "term" and this.get("said")
    ]
    return Answer(total or 0, records, _number(_child(root, "nextRecordPosition")), diagnostics, understood)


def read_record(text: str) -> Record:
    """A record from the text of its XML, as an answer had it. Raises NotAnAnswer."""
    return record_of(_tree(text.encode()))


def _record_data(element: etree._Element) -> etree._Element | None:
    data = _child(element, "recordData")
    if data is None:
        return None
    for child in data:
        return child
    text = text_of(data)  # sent as a string within the XML
    try:
        return _tree(text.encode()) if text.startswith("<") else None
    except NotAnAnswer:
        return None


def _diagnostic(element: etree._Element) -> Diagnostic:
    number = text_of(_child(element, "uri")).rpartition("/")[2]
    said = text_of(_child(element, "message"))
    return Diagnostic(number, _MEANINGS.get(number, said or "the catalogue could not answer"), text_of(_child(element, "details")) or said)


def read_explanation(data: bytes) -> Explained:
    """What a catalogue says of itself. Raises NotAnAnswer."""
    root = _tree(data)
    if _name(root) != "explainResponse":
        raise NotAnAnswer(f"It sent “{_name(root)}” instead of saying what it is.")
    info = _child(root, "record", "recordData", "explain")
    server = _child(info, "serverInfo")
    most = 0
    for one in _child(info, "configInfo") if _child(info, "configInfo") is not None else ():  # type: ignore[union-attr]
        if one.get("type") == "maximumRecords":
            most = _number(one) or 0
    schemas = [str(each.get("identifier") or "") for each in (info.iter() if info is not None else ()) if _name(each) == "schema"]
    name = text_of(_child(info, "databaseInfo", "title"))
    return Explained(
        name[:200], str(server.get("version") or "") if server is not None else "", [schema for schema in schemas if schema], most
    )
