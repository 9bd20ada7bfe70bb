"""NBIB, the tagged text of MEDLINE: tags of up to four letters, wrapped lines indented by six."""

from __future__ import annotations

import re
import textwrap
from collections.abc import Iterable, Iterator
from functools import lru_cache

from kettlesort.core.formats import tagged
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.people import WHOLE, comes_back
from kettlesort.core.formats.recipe import Recipe, shipped
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.names import author_name
from kettlesort.core.record import Record, doi_of, pages_of, plain, year_of
from kettlesort.core.text.glance import plain_names

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
NOTICES = {
    "ErratumIn": "EIN", "ErratumFor": "EFR", "RetractionIn": "RIN", "RetractionOf": "ROF", "PartialRetractionIn": "PRIN", "PartialRetractionOf": "PROF",
    "CommentIn": "CIN", "CommentOn": "CON", "UpdateIn": "UIN", "UpdateOf": "UOF", "RepublishedIn": "RPI", "RepublishedFrom": "RPF",
    "ExpressionOfConcernIn": "ECI", "ExpressionOfConcernFor": "ECF", "CorrectedandRepublishedIn": "CRI", "CorrectedandRepublishedFrom": "CRF",
    "SummaryForPatientsIn": "SPIN", "OriginalReportIn": "ORI", "AssociatedDataset": "DDIN", "Cites": "CITES",
}  # fmt: skip
"""The tags of what points to another record: its correction, a comment on it, and so on."""
_new = tuple.__new__
_SPECIFIC = ("preprint", "conference", "thesis", "chapter", "book", "report", "registration", "website", "article")

NBIB = shipped()["nbib"]
_SINGLE = (
    "title", "year", "journal", "journal_short", "volume", "issue", "pages", "accession", "issn", "abstract", "language", "publisher", "note",
)  # fmt: skip
_SEVERAL = ("keywords", "references", "authors", "short_authors", "identifiers", "kinds")

_LISTED = {tag for field in ("keywords", "references", "authors", "short_authors") for tag in NBIB.tags_of(field)} | {
    "PMID"
}  # another format's tag of this name means something else


def is_nbib(sample: str) -> bool:
    """Whether text looks like NBIB: a PMID line, or many lines with four-column tags."""
    return bool(re.search(r"^PMID- ", sample, re.M)) or tagged.speaks(re.findall(r"^([A-Z]{2,4}) {0,2}- \S", sample, re.M), NBIB)


def layout_of(sample: str, recipe: Recipe = NBIB) -> tagged.Layout:
    """Records begin at PMID, or, in a file without it, at the tag that the file begins with."""
    layout = tagged.layout(recipe, _SINGLE, _SEVERAL, pair=("FAU", "AU") if recipe is NBIB else ())
    if re.search(r"^PMID- ", sample, re.M):
        return layout
    first = re.search(r"^([A-Z]{2,4}) {0,2}- ", sample, re.M)
    return layout._replace(start=first[1] if first else "PMID")


def read(source: TextSource, problems: list[Problem], recipe: Recipe = NBIB) -> Iterator[Entry]:
    """The entries of an NBIB file; what cannot be read goes to ``problems``. The recipe may fill other fields than NBIB does."""
    return tagged.entries(source, layout_of(source.sample, recipe), _record, problems)


@lru_cache(maxsize=4096)
def kind_of(types: tuple[str, ...]) -> str:
    """The kind of document that publication types speak of; the most telling of them counts."""
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
    keywords, references, full_names, short_names, identifiers, types = several
    if "<" in title or "&" in title:
        title = plain(title)
    year = year_of(date) if date else None
    if date and year is None:
        problems.append(Problem(line, f"“{date[:40]}” is not a year; kept as given"))
    if short_names and (missing := _unnamed(short_names, full_names)):
        groups = [name for name in full_names if "," not in name]
        full_names = [*(name for name in full_names if "," in name), *missing, *groups]
    people = tuple(full_names)
    if not plain_names(people):
        people = tuple([name if "," in name and name[-1] != "," else WHOLE + name.rstrip(" ,") for name in people])
    doi = ""
    for identifier in identifiers:
        if identifier.startswith("10.") and (found := doi_of(identifier.removesuffix(" [doi]"))):
            if doi and found != doi:
                rest.append(("AID", identifier))
            doi = doi or found
        else:
            rest.append(("AID", identifier))
    kind = kind_of(tuple(types)) if types else "other"
    for name in types:
        if name != TYPE_OF[kind]:
            rest.append(("PT", name))
    one = (
        kind,
        title,
        people,
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
    return _new(Record, one)  # as Record(*one), at half the cost


def _wrapped(tag: str, value: str) -> str:
    head = tag.ljust(4) + "- " + " ".join(value.split())
    lines = textwrap.wrap(head, 88, subsequent_indent="      ", break_long_words=False, break_on_hyphens=False)
    return "\n".join(lines) + "\n"


def write(records: Iterable[Record]) -> Iterator[str]:
    """NBIB text, a record at a time."""
    for record in records:
        fields = [
            ("DP", record.date if record.date and (not record.year or year_of(record.date) == record.year) else str(record.year or "")),
            ("DEP", record.date if record.year and record.date and year_of(record.date) != record.year else ""), ("TI", record.title),
            ("PG", record.pages.replace("–", "-")), ("LID", f"{record.doi} [doi]" if record.doi else ""), ("AB", record.abstract),
            *(("FAU", name if comes_back(name) else name + ",") if "," in name else ("CN", name) for name in record.authors), ("LA", record.language), ("PT", TYPE_OF[record.kind]), ("TA", record.journal_short),
            ("JT", record.journal), ("VI", record.volume), ("IP", record.issue), ("IS", record.issn), ("PB", record.publisher), ("GN", record.note),
            *(("MH", word) for word in record.keywords), *(("CR", cited) for cited in record.references),
            *((tag, value) for tag, value in record.extra if re.fullmatch(r"[A-Z][A-Z0-9]{1,3}", tag) and tag not in _LISTED),
        ]  # fmt: skip
        yield f"PMID- {record.accession}\n" + "".join(_wrapped(tag, value) for tag, value in fields if value) + "\n"
