"""MEDLINE XML: read as a stream, without entities and without a network, into the tags that NBIB has for the same things."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import cache
from typing import Any, BinaryIO

from kettlesort.core.formats import nbib
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.people import whole
from kettlesort.core.formats.source import CHUNK, Problem
from kettlesort.core.record import Record, doi_of, pages_of, plain, year_of

_RECORDS = ("PubmedArticle", "PubmedBookArticle", "MedlineCitation")
_NOT_IN_TEXT = re.compile(rb"[\x00-\x08\x0b\x0c\x0e-\x1f]")


_OUTSIDE = re.compile(r"<!ENTITY\s+(?:%\s*)?[\w.:-]+\s+(?:SYSTEM|PUBLIC)\b")


def leans_outside(sample: str) -> bool:
    """Whether an XML text takes parts of itself from other files, which are never fetched."""
    return bool(_OUTSIDE.search(sample))


def is_medline(sample: str) -> bool:
    """Whether text is XML with records of this kind."""
    return bool(re.search(rf"<(?:{'|'.join(_RECORDS)})[\s>]", sample))


def read(file: BinaryIO, problems: list[Problem]) -> Iterator[Entry]:
    """The entries of a MEDLINE XML file; what cannot be read goes to ``problems``."""
    from lxml import etree  # takes a while to load, and few files need it

    parser = etree.XMLPullParser(
        events=("end",), tag=_RECORDS, resolve_entities=False, no_network=True, load_dtd=False, huge_tree=False, recover=True, remove_comments=True, remove_pis=True
    )  # fmt: skip
    position = 0
    data = file.read(CHUNK)
    while data:
        try:
            parser.feed(
                _NOT_IN_TEXT.sub(b" ", data) if b"\x00\xfe" not in data[:4] and not data.startswith((b"\xff\xfe", b"\xfe\xff")) else data
            )
        except etree.XMLSyntaxError as error:
            problems.append(Problem(_line_of(error), f"the XML cannot be read from here on: {_said(error)}"))
            return
        for entry in _entries(parser, position, problems):
            position = entry.position
            yield entry
        data = file.read(CHUNK)
    try:
        parser.close()
    except etree.XMLSyntaxError as error:
        problems.append(Problem(_line_of(error), f"the XML is damaged or cut off: {_said(error)}"))
    for entry in _entries(parser, position, problems):
        position = entry.position
        yield entry
    told = {problem.line for problem in problems}
    for fault in parser.feed_error_log:
        if fault.line not in told and len(problems) < 1000:
            told.add(fault.line)
            problems.append(Problem(fault.line, f"this is not well-formed XML ({fault.message.strip()}); what could be read was"))


def _line_of(error: Any) -> int:
    return int(error.lineno or 0)


def _said(error: Exception) -> str:
    return str(error).partition(", line")[0]


def _entries(parser: Any, position: int, problems: list[Problem]) -> Iterator[Entry]:
    from lxml.etree import tostring

    for _, element in parser.read_events():
        if element.tag == "MedlineCitation" and _within(element):
            continue
        position += 1
        raw = tostring(element, encoding="unicode", with_tail=False)
        line = int(element.sourceline or 0)
        yield Entry(position, line, line + raw.count("\n"), raw, _record(element, line, problems))
        element.clear()
        parent = element.getparent()
        while parent is not None and element.getprevious() is not None:
            del parent[0]


def _within(element: Any) -> bool:
    parent = element.getparent()
    return parent is not None and parent.tag == "PubmedArticle"


def _text(element: Any) -> str:
    if element is None:
        return ""
    return plain("".join(element.itertext()) if len(element) else element.text or "")


class _Elements:
    """The elements of a record by their tags: it is gone through once, and asked for dozens of paths."""

    def __init__(self, record: Any) -> None:
        self._by_tag: dict[str, list[Any]] = {}
        for element in record.iter("*"):
            self._by_tag.setdefault(element.tag, []).append(element)

    def of(self, path: str) -> Sequence[Any]:
        """Those of the path's last tag that stand directly within one of the tag before it, and so on; in the order of the file."""
        tag, around = _steps(path)
        found = self._by_tag.get(tag, ())
        return [one for one in found if _stands_in(one, around)] if found and around else found


@cache
def _steps(path: str) -> tuple[str, tuple[str, ...]]:
    """The last tag of a path, and those around it from within."""
    tag, *around = reversed(path.split("/"))
    return tag, tuple(around)


def _stands_in(element: Any, around: Sequence[str]) -> bool:
    for tag in around:
        element = element.getparent()
        if element is None or element.tag != tag:
            return False
    return True


def _record(record: Any, line: int, problems: list[Problem]) -> Record:
    value = _Elements(record)

    def first(*paths: str) -> str:
        for path in paths:
            for found in value.of(path):
                if said := _text(found):
                    return said
        return ""

    when = (found for path in ("JournalIssue/PubDate", "Book/PubDate", "PubDate", "ArticleDate") for found in value.of(path))
    date = _date(next(when, None))
    year = year_of(date) if date else None
    if date and year is None:
        problems.append(Problem(line, f"“{date[:40]}” is not a year; kept as given"))
    pages = first("MedlinePgn") or pages_of(first("StartPage"), first("EndPage"))
    types = tuple(_texts(value, "PublicationType"))
    kind = nbib.kind_of(types) if types else ("book" if record.tag == "PubmedBookArticle" else "other")
    accession = first("MedlineCitation/PMID", "BookDocument/PMID", "PMID")
    doi, identifiers = _identifiers(value, accession)
    return Record(
        kind=kind,
        title=first("ArticleTitle", "BookTitle", "Book/BookTitle"),
        authors=tuple(_authors(value)),
        year=year,
        date=date,
        journal=first("Journal/Title", "Book/CollectionTitle") or first("ISOAbbreviation", "MedlineTA"),
        journal_short=first("ISOAbbreviation", "MedlineTA"),
        volume=first("JournalIssue/Volume", "Book/Volume"),
        issue=first("JournalIssue/Issue"),
        pages=pages_of(pages) if pages else "",
        doi=doi,
        accession=accession,
        issn=first("ISSN", "ISSNLinking", "Isbn"),
        abstract=_abstract(value),
        language="; ".join(dict.fromkeys(_texts(value, "Language"))),
        keywords=tuple(dict.fromkeys([*_headings(value), *_texts(value, "Keyword")])),
        publisher=first("PublisherName"),
        references=tuple(_texts(value, "ReferenceList/Reference/Citation")),
        note=first("GeneralNote"),
        extra=(*(("PT", name) for name in types if name != nbib.TYPE_OF[kind]), *identifiers, *_kept(value)),
    )


def _texts(value: _Elements, path: str) -> list[str]:
    """What all elements of a path say, those that say something."""
    return [said for found in value.of(path) if (said := _text(found))]


def _authors(said: _Elements) -> list[str]:
    lists = [listed for listed in said.of("AuthorList") if listed.get("Type") != "editors"]
    return [whole(name) for listed in lists for person in listed.iterfind("Author") if (name := _name(person))]


def _identifiers(value: _Elements, accession: str) -> tuple[str, list[tuple[str, str]]]:
    """The DOI, and all other identifiers but the accession, as they are kept."""
    doi, others = "", list[tuple[str, str]]()
    for found in [
        *value.of("ELocationID"),
        *value.of("PubmedData/ArticleIdList/ArticleId"),
        *value.of("BookDocument/ArticleIdList/ArticleId"),
    ]:
        said, sort = _text(found), found.get("EIdType") or found.get("IdType") or ""
        if sort == "doi" and doi_of(said):
            doi = doi or doi_of(said)
        elif said and said != accession and (sort, said) not in others:
            others.append((sort, said))
    return doi, [("PMC", said) if sort == "pmc" else ("AID", f"{said} [{sort}]" if sort else said) for sort, said in others]


_AS_THEY_ARE = (
    ("PL", "MedlineJournalInfo/Country"),
    ("SB", "CitationSubset"),
    ("COIS", "CoiStatement"),
    ("JID", "NlmUniqueID"),
)


def _kept(value: _Elements) -> list[tuple[str, str]]:
    """What has no field of its own, under the tags that it has in the line format."""
    kept = [("VTI", said) for said in _texts(value, "VernacularTitle")]
    for found in value.of("CommentsCorrections"):
        number = f"PMID: {_text(found.find('PMID'))}" if found.find("PMID") is not None else ""
        said = " ".join(part for part in (_text(found.find("RefSource")), number) if part)
        kept += [(nbib.NOTICES.get(found.get("RefType", ""), "CIN"), said)] if said else []
    for found in value.of("Grant"):
        said = "/".join(part for part in (_text(found.find(name)) for name in ("GrantID", "Acronym", "Agency", "Country")) if part)
        kept += [("GR", said)] if said else []
    kept += [(tag, said) for tag, path in _AS_THEY_ARE for said in _texts(value, path)]
    kept += [("RN", f"{_text(one.find('RegistryNumber'))} ({_text(one.find('NameOfSubstance'))})") for one in value.of("Chemical")]
    for bank in value.of("DataBank"):
        kept += [("SI", f"{_text(bank.find('DataBankName'))}/{_text(number)}") for number in bank.iter("AccessionNumber")]
    return [*kept, *(("AD", said) for said in _texts(value, "Affiliation"))]


def _parts(element: Any) -> dict[str, str]:
    """What the parts of an element say, by their tags; the first of a tag counts."""
    return {part.tag: _text(part) for part in reversed(element) if isinstance(part.tag, str)}


def _name(person: Any) -> str:
    said = _parts(person)
    family, group, suffix = (said.get(name, "") for name in ("LastName", "CollectiveName", "Suffix"))
    given = said.get("ForeName") or said.get("Initials", "")
    return ", ".join(part for part in (family, given, suffix) if part) if family else group


def _date(when: Any) -> str:
    if when is None:
        return ""
    said = _parts(when)
    return " ".join(part for name in ("Year", "Season", "Month", "Day") if (part := said.get(name))) or said.get("MedlineDate", "")


def _abstract(value: _Elements) -> str:
    """The abstract with its section heads; other abstracts behind it."""
    parts = []
    for abstract in [
        *value.of("Article/Abstract"),
        *value.of("BookDocument/Abstract"),
        *value.of("OtherAbstract"),
    ]:
        for found in abstract.iterfind("AbstractText"):
            label, said = (found.get("Label") or "").strip(), _text(found)
            if said:
                parts.append(f"{label}: {said}" if label and label.upper() != "UNLABELLED" and label.upper() != "UNLABELED" else said)
        if parts:
            break
    return " ".join(parts)


def _headings(said: _Elements) -> Iterator[str]:
    """Descriptors as NBIB writes them: with qualifiers behind strokes, an asterisk before what is a main point."""
    for heading in said.of("MeshHeading"):
        named = heading.find("DescriptorName")
        if named is None:
            continue
        parts = [("*" if found.get("MajorTopicYN") == "Y" else "") + _text(found) for found in [named, *heading.iterfind("QualifierName")]]
        yield "/".join(parts)


PLACES = {
    "ArticleTitle": "title", "BookTitle": "title", "LastName": "authors", "ForeName": "authors", "CollectiveName": "authors", "Suffix": "authors",
    "Year": "year", "Month": "year", "Day": "year", "MedlineDate": "year", "Title": "journal", "ISOAbbreviation": "journal_short", "Volume": "volume",
    "Issue": "issue", "MedlinePgn": "pages", "ELocationID": "doi", "ArticleId": "doi", "PMID": "accession", "ISSN": "issn", "AbstractText": "abstract",
    "Language": "language", "DescriptorName": "keywords", "QualifierName": "keywords", "Keyword": "keywords", "PublicationType": "kind",
    "PublisherName": "publisher", "Citation": "references",
}  # fmt: skip
"""Which field the text of an element goes to."""
