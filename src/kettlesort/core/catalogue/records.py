"""Records in the forms in which catalogues give them: MARCXML, MODS, Dublin Core."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from lxml import etree

from kettlesort.core.names import author_name
from kettlesort.core.record import Record, doi_of, pages_of, plain, year_of

_KINDS = (
    ("thes", "thesis"), ("dissert", "thesis"), ("conference", "conference"), ("congress", "conference"), ("preprint", "preprint"), ("chapter", "chapter"),
    ("registration", "registration"), ("report", "report"), ("book", "book"), ("monograph", "book"), ("article", "article"), ("web", "website"),
)  # fmt: skip


def text_of(said: Any) -> str:
    """All text within an element, blanks joined; "" for none."""
    return "" if said is None else " ".join("".join(said.itertext()).split())


def _name(said: Any) -> str:
    return etree.QName(said).localname if isinstance(said.tag, str) else ""


def record_of(said: Any) -> Record:
    """The record that an element of MARCXML, MODS or Dublin Core holds; what has no field of its own is kept as extra."""
    name = _name(said)
    if name == "collection" and len(said):
        return record_of(said[0])
    if name == "record" and any(_name(child) in ("datafield", "controlfield", "leader") for child in said):
        return _of_marc(said)
    if name in ("mods", "modsCollection"):
        return _of_mods(said[0] if name == "modsCollection" and len(said) else said)
    return _of_dublin_core(said)


def _kind(*said: str) -> str:
    text = " ".join(said).lower()
    return next((kind for sign, kind in _KINDS if sign in text), "other")


def _unstopped(text: str) -> str:
    """Text without the signs with which cataloguing rules end a part."""
    return re.sub(r"\s*[/:;,=]\s*$", "", text).strip()


def _of_marc(value: Any) -> Record:
    control = {str(f.get("tag")): str(f.text or "") for f in value if _name(f) == "controlfield"}  # their blanks count
    fields = [(str(f.get("tag")), [(str(s.get("code")), text_of(s)) for s in f]) for f in value if _name(f) == "datafield"]

    def each(*tags: str) -> Iterator[list[tuple[str, str]]]:
        return (parts for tag, parts in fields if tag in tags)

    def first(tag: str, codes: str) -> str:
        for parts in each(tag):
            said = " ".join(text for code, text in parts if code in codes and text)
            if said:
                return _unstopped(said)
        return ""

    title = ": ".join(_unstopped(text) for code, text in next(each("245"), []) if code in "ab" and text).removesuffix(".")
    host = next(each("773"), [])
    part = " ".join(text for code, text in host if code == "g")
    volume, issue, pages = _part(part)
    doi = next((doi_of(text) for parts in each("024") for code, text in parts if code == "a" and doi_of(text)), "")
    keywords = []
    for parts in each("650", "651", "653"):
        heading = next((_unstopped(text).rstrip(".") for code, text in parts if code == "a"), "")
        qualifiers = [_unstopped(text).rstrip(".") for code, text in parts if code == "x"]
        if heading:
            keywords.append("/".join([heading, *qualifiers]))
    year = year_of(first("260", "c") or first("264", "c")) or year_of(part) or year_of(control.get("008", "")[7:11])
    kind = _kind(*(text for parts in each("655", "502") for _, text in parts), "article" if host else "")
    country = control.get("008", "")[15:18].strip()
    used = {"020", "022", "024", "041", "100", "110", "245", "260", "264", "520", "650", "651", "653", "655", "700", "710", "773", "856"}
    return Record(
        kind=kind,
        title=plain(title),
        authors=tuple(author_name(_unstopped(text)) for parts in each("100", "700") for code, text in parts if code == "a" and text)
        + tuple(_unstopped(text) for parts in each("110", "710") for code, text in parts if code == "a" and text),
        year=year,
        date=first("260", "c") or first("264", "c"),
        journal=_unstopped(next((text for code, text in host if code == "t"), "")).rstrip("."),
        volume=volume, issue=issue, pages=pages, doi=doi,
        accession=control.get("001", "").strip(),
        issn=next((text for code, text in host if code == "x"), "") or first("022", "a"),
        abstract=plain(first("520", "a")),
        language=first("041", "a") or control.get("008", "")[35:38].strip(),
        keywords=tuple(dict.fromkeys(keywords)),
        url=first("856", "u"),
        publisher=first("260", "b") or first("264", "b"),
        extra=tuple((f"{tag}{code}", text) for tag, parts in fields if tag not in used for code, text in parts if text)
        + ((("country", country),) if country else ()),
    )  # fmt: skip


def _part(text: str) -> tuple[str, str, str]:
    """Volume, issue and pages of "Vol. 12, no. 3 (2001), p. 5-9"."""
    volume = re.search(r"\bv(?:ol)?\.?\s*(\w+)", text, re.I)
    issue = re.search(r"\b(?:no|nr|iss(?:ue)?)\.?\s*(\w+)", text, re.I)
    pages = re.search(r"\bpp?\.?\s*(\w+(?:\s*[-–]\s*\w+)?)", text, re.I)
    return (volume[1] if volume else "", issue[1] if issue else "", pages_of(pages[1]) if pages else "")


def _of_mods(said: Any) -> Record:
    def all_of(path: str, within: Any = None) -> list[Any]:
        found = [said if within is None else within]
        for name in path.split("/"):
            found = [child for parent in found for child in parent if _name(child) == name]
        return found

    def first(path: str, within: Any = None) -> str:
        return next((text_of(found) for found in all_of(path, within) if text_of(found)), "")

    host = next((found for found in all_of("relatedItem") if found.get("type") == "host"), None)
    details = {str(found.get("type")): first("number", found) for found in (all_of("part/detail", host) if host is not None else [])}
    extent = all_of("part/extent", host) if host is not None else []
    ids = [(str(found.get("type") or "").lower(), text_of(found)) for found in all_of("identifier")]
    names = []
    for person in all_of("name"):
        parts = {str(part.get("type") or ""): text_of(part) for part in person if _name(part) == "namePart"}
        named = (
            f"{parts['family']}, {parts['given']}"
            if parts.get("family") and parts.get("given")
            else parts.get("family") or parts.get("", "")
        )
        if named:
            names.append(named if person.get("type") == "corporate" else author_name(named))
    keywords = []
    for subject in all_of("subject"):
        topics = [text_of(topic) for topic in subject if _name(topic) in ("topic", "geographic", "genre")]
        if topics:
            keywords.append("/".join(topics))
    date = first("originInfo/dateIssued") or (first("part/date", host) if host is not None else "")
    title = ": ".join(part for part in (first("titleInfo/title"), first("titleInfo/subTitle")) if part)
    country = first("originInfo/place/placeTerm")
    return Record(
        kind=_kind(first("genre"), "article" if host is not None else ""),
        title=plain(title),
        authors=tuple(names),
        year=year_of(date),
        date=date,
        journal=first("titleInfo/title", host) if host is not None else "",
        volume=details.get("volume", ""), issue=details.get("issue", ""),
        pages=pages_of(first("start", extent[0]), first("end", extent[0])) if extent else "",
        doi=next((doi_of(text) for kind, text in ids if kind == "doi"), "") or next((doi_of(text) for _, text in ids if doi_of(text)), ""),
        accession=first("recordInfo/recordIdentifier"),
        issn=next((text for kind, text in ids if kind == "issn"), "") or (first("identifier", host) if host is not None else ""),
        abstract=plain(first("abstract")),
        language=first("language/languageTerm"),
        keywords=tuple(dict.fromkeys(keywords)),
        url=first("location/url"),
        publisher=first("originInfo/publisher"),
        note=first("note"),
        extra=(("country", country),) if country else (),
    )  # fmt: skip


def _of_dublin_core(value: Any) -> Record:
    said: dict[str, list[str]] = {}
    for child in value.iter():
        if child is not value and isinstance(child.tag, str) and not len(child) and text_of(child):
            said.setdefault(_name(child), []).append(text_of(child))
    first = {name: values[0] for name, values in said.items()}
    ids = said.get("identifier", [])
    doi = next((doi_of(text) for text in ids if doi_of(text)), "")
    source = first.get("source", "")
    volume, issue, pages = _part(source)
    used = ("title", "creator", "contributor", "date", "source", "identifier", "description", "subject", "language", "type", "publisher")
    return Record(
        kind=_kind(*said.get("type", [])),
        title=plain(first.get("title", "")),
        authors=tuple(author_name(text) for text in said.get("creator", []) + said.get("contributor", [])),
        year=year_of(first.get("date", "")),
        date=first.get("date", ""),
        journal=re.split(r"[;,]?\s+v(?:ol)?\.?\s*\d", source, flags=re.I)[0],
        volume=volume, issue=issue, pages=pages, doi=doi,
        accession=next((text for text in ids if not doi_of(text) and not text.startswith("http")), ""),
        abstract=plain(first.get("description", "")),
        language=first.get("language", ""),
        keywords=tuple(dict.fromkeys(said.get("subject", []))),
        url=next((text for text in ids if text.startswith("http")), ""),
        publisher=first.get("publisher", ""),
        extra=tuple((name, text) for name, values in said.items() if name not in used for text in values),
    )  # fmt: skip
