"""NBIB, the tagged text of MEDLINE: tags of up to four letters, wrapped lines indented by six."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterable, Iterator
from functools import lru_cache

from kettlesort.core.formats import tagged
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.record import Record, author_name, doi_of, pages_of, plain, year_of

KIND_OF = {
    "journal article": "article", "review": "article", "randomized controlled trial": "article", "letter": "article",
    "clinical trial": "article", "comparative study": "article", "editorial": "article", "comment": "article",
    "congress": "conference", "meeting abstract": "conference", "academic dissertation": "thesis", "book": "book",
    "book chapter": "chapter", "technical report": "report", "preprint": "preprint", "clinical trial registration": "registration",
    "webcast": "website",
}  # fmt: skip
TYPE_OF = {
    "article": "Journal Article", "conference": "Congress", "thesis": "Academic Dissertation", "book": "Book",
    "chapter": "Book Chapter", "report": "Technical Report", "preprint": "Preprint",
    "registration": "Clinical Trial Registration", "website": "Webcast", "other": "",
}  # fmt: skip
_new = tuple.__new__
_SPECIFIC = ("preprint", "conference", "thesis", "chapter", "book", "report", "registration", "website", "article")

SINGLE = {
    "title": ("TI", "BTI", "TT"),
    "year": ("DP",),
    "journal": ("JT",),
    "journal_short": ("TA",),
    "volume": ("VI",),
    "issue": ("IP",),
    "pages": ("PG",),
    "accession": ("PMID",),
    "issn": ("IS",),
    "abstract": ("AB",),
    "language": ("LA",),
    "publisher": ("PB",),
    "note": ("GN",),
}
SEVERAL = {
    "keywords": ("MH", "OT"),
    "references": ("CR",),
    "authors": ("FAU",),
    "short_authors": ("AU",),
    "group_authors": ("CN",),
    "doi": ("LID", "AID"),
    "kind": ("PT",),
}
FIELD_OF = {tag: field for field, tags in (SINGLE | SEVERAL).items() for tag in tags} | {"AU": "authors", "CN": "authors"}
_LISTED = {tag for tags in SEVERAL.values() for tag in tags} - set(SEVERAL["doi"])  # another format's tag of this name means something else
_LAYOUT = tagged.Layout("PMID", "", tuple(SINGLE.values()), tuple(SEVERAL.values()), pair=("FAU", "AU"))


def is_nbib(sample: str) -> bool:
    """Whether text looks like NBIB: a PMID line, or many lines with four-column tags."""
    return bool(re.search(r"^PMID- ?\S", sample, re.M)) or len(re.findall(r"^[A-Z]{2,4} {0,2}- \S", sample, re.M)) >= 5


def layout_of(sample: str) -> tagged.Layout:
    """Records begin at PMID, or, in a file without it, at the tag that the file begins with."""
    if re.search(r"^PMID- ", sample, re.M):
        return _LAYOUT
    first = re.search(r"^([A-Z]{2,4}) {0,2}- ", sample, re.M)
    tag = first[1] if first else "PMID"
    return _LAYOUT._replace(start=tag)


def read(source: TextSource, problems: list[Problem]) -> Iterator[Entry]:
    """The entries of an NBIB file; what cannot be read goes to ``problems``."""
    return tagged.entries(source, layout_of(source.sample), _record, problems)


@lru_cache(maxsize=4096)
def _kind(types: tuple[str, ...]) -> str:
    kinds = {KIND_OF.get(name.lower(), "other") for name in types}
    return next((kind for kind in _SPECIFIC if kind in kinds), "other")


def _unnamed(short_names: list[str], full_names: list[str]) -> list[str]:
    """The authors among ``short_names`` who are not there with their full name."""
    names = [author_name(name) for name in short_names]
    there = {_initialled(name) for name in full_names}
    return [name for name in names if _initialled(name) not in there]


def _initialled(name: str) -> tuple[str, str]:
    family, _, given = name.partition(",")
    return family.strip().casefold(), given.strip()[:1].casefold()


def _record(single: list[str], several: list[list[str]], rest: list[tuple[str, str]], line: int, problems: list[Problem]) -> Record:
    title, date, journal, short, volume, issue, pages, accession, issn, abstract, language, publisher, note = single
    keywords, references, full_names, short_names, groups, identifiers, types = several
    if "<" in title or "&" in title:
        title = plain(title)
    year = year_of(date) if date else None
    if date and year is None:
        problems.append(Problem(line, f"“{date[:40]}” is not a year; kept as given"))
    if short_names:
        full_names += _unnamed(short_names, full_names)
    doi = ""
    for identifier in identifiers:
        if not doi and identifier.startswith("10."):
            doi = doi_of(identifier)
        elif not identifier.endswith("[doi]"):
            rest.append(("AID", identifier))
    it = (
        _kind(tuple(types)) if types else "other",
        title,
        tuple(full_names + groups if groups else full_names),
        year,
        date,
        journal or short,
        short,
        volume,
        issue,
        pages_of(pages) if pages else "",
        doi,
        accession,
        issn,
        abstract,
        language,
        tuple(keywords),
        "",
        publisher,
        tuple(references),
        note,
        tuple(rest),
    )
    return _new(Record, it)  # as Record(*it), at half the cost


def _wrapped(tag: str, value: str) -> str:
    head = tag.ljust(4) + "- " + " ".join(value.split())
    lines = textwrap.wrap(head, 88, subsequent_indent="      ", break_long_words=False, break_on_hyphens=False)
    return "\n".join(lines) + "\n"


def write(records: Iterable[Record]) -> Iterator[str]:
    """NBIB text, a record at a time; a record without accession gets its place in the list."""
    for number, it in enumerate(records, 1):
        fields = [
            ("PMID", it.accession or f"X{number}"), ("DP", it.date or str(it.year or "")), ("TI", it.title),
            ("PG", it.pages.replace("–", "-")), ("LID", f"{it.doi} [doi]" if it.doi else ""), ("AB", it.abstract),
            *(("FAU", name) for name in it.authors), ("LA", it.language), ("PT", TYPE_OF[it.kind]), ("TA", it.journal_short),
            ("JT", it.journal), ("VI", it.volume), ("IP", it.issue), ("IS", it.issn), ("PB", it.publisher), ("GN", it.note),
            *(("MH", word) for word in it.keywords), *(("CR", cited) for cited in it.references),
            *((tag, value) for tag, value in it.extra if re.fullmatch(r"[A-Z][A-Z0-9]{1,3}", tag) and tag not in _LISTED),
        ]  # fmt: skip
        yield "".join(_wrapped(tag, value) for tag, value in fields if value) + "\n"
