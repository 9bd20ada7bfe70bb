"""RIS: tags of the older and the newer form, wrapped lines, missing ER, text between records."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

from kettlesort.core.formats import tagged
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.people import WHOLE, comes_back
from kettlesort.core.formats.recipe import Recipe, shipped
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.record import Record, doi_of, pages_of, plain, year_of
from kettlesort.core.text.glance import plain_names

KIND_OF = {
    "JOUR": "article", "JFULL": "article", "MGZN": "article", "NEWS": "article", "EJOUR": "article", "INPR": "article",
    "ABST": "conference", "CONF": "conference", "CPAPER": "conference", "THES": "thesis", "BOOK": "book", "EBOOK": "book",
    "EDBOOK": "book", "CHAP": "chapter", "ECHAP": "chapter", "RPRT": "report", "GOVDOC": "report", "UNPB": "preprint",
    "DBASE": "registration", "CTLG": "registration", "ELEC": "website", "WEB": "website", "BLOG": "website",
}  # fmt: skip
CODE_OF = {
    "article": "JOUR", "conference": "CPAPER", "thesis": "THES", "book": "BOOK", "chapter": "CHAP", "report": "RPRT",
    "preprint": "UNPB", "registration": "DBASE", "website": "ELEC", "other": "GEN",
}  # fmt: skip

RIS = shipped()["ris"]
_SINGLE = (
    "kind", "title", "year", "date", "journal", "journal_short", "volume", "issue", "first_page", "last_page", "doi", "accession",
    "issn", "abstract", "language", "url", "publisher", "note",
)  # fmt: skip
_SEVERAL = ("authors", "keywords", "references")

_LISTED = {tag for field in _SEVERAL for tag in RIS.tags_of(field)} | {"TY", "ER"}  # another format's tag of this name means something else


def is_ris(sample: str) -> bool:
    """Whether text looks like RIS: a TY line, or many lines with two-character tags."""
    if re.search(r"^TY {1,2}-(?: |$)", sample, re.M):
        return True
    return tagged.speaks(re.findall(r"^([A-Z][A-Z0-9])  - ", sample, re.M), RIS)


def layout_of(recipe: Recipe = RIS) -> tagged.Layout:
    """What the scanner has to know of RIS, or of what a person made of it."""
    return tagged.layout(recipe, _SINGLE, _SEVERAL)


def read(source: TextSource, problems: list[Problem], recipe: Recipe = RIS) -> Iterator[Entry]:
    """The entries of a RIS file; what cannot be read goes to ``problems``. The recipe may fill other fields than RIS does."""
    narrow = not re.search(r"^[A-Z][A-Z0-9]  -", source.sample, re.M)  # one space before the dash, as some sources write
    layout = layout_of(recipe)
    return tagged.entries(source, layout._replace(dash=3) if narrow else layout, _record, problems)


def _record(single: list[str], several: list[list[str]], rest: list[tuple[str, str]], line: int, problems: list[Problem]) -> Record:
    (kind, title, dated, date, journal, short, volume, issue, first, last, doi, accession, issn, abstract, language, url,
     publisher, note) = single  # fmt: skip
    authors, keywords, references = several
    if "<" in title or "&" in title:
        title = plain(title)
    if not journal and KIND_OF.get(kind) == "conference" and (said := dict(rest).get("C3")):  # the title of its proceedings
        journal = said
        rest.remove(("C3", said))
    doi = doi_of(doi) if doi else doi_of(url) if "doi" in url else ""
    dated = dated or date
    year = year_of(dated) if dated else None
    if dated and year is None:
        problems.append(Problem(line, f"“{dated[:40]}” is not a year; kept as given"))
    people = tuple(authors)
    if not plain_names(people):
        people = tuple([name if name[-1] != "," else WHOLE + name[:-1].rstrip() for name in people])
    one = (
        KIND_OF.get(kind.upper(), "other"),
        title,
        people,
        year,
        date or dated,
        journal,
        short,
        volume,
        issue,
        pages_of(first, last) if first else "",
        doi,
        accession,
        issn,
        abstract,
        language,
        tuple(keywords),
        url,
        publisher,
        tuple(references),
        note,
        tuple(rest),
    )
    return tuple.__new__(Record, one)  # as Record(*one), at half the cost


def _one_line(value: str) -> str:
    return " ".join(value.split())


def write(records: Iterable[Record]) -> Iterator[str]:
    """RIS text, a record at a time."""
    for record in records:
        first, _, last = record.pages.partition("–")
        fields = [
            ("TY", CODE_OF[record.kind]), ("ID", record.accession), ("TI", record.title), *(("AU", name if comes_back(name) else name + ",") for name in record.authors),
            ("PY", str(record.year or "")), ("DA", record.date if record.date != str(record.year or "") else ""), ("JF", record.journal),
            ("JA", record.journal_short), ("VL", record.volume), ("IS", record.issue), ("SP", first), ("EP", last), ("DO", record.doi),
            ("SN", record.issn), ("AB", record.abstract), *(("KW", word) for word in record.keywords), ("LA", record.language),
            ("PB", record.publisher), ("UR", record.url), ("N1", record.note), *(("CR", cited) for cited in record.references),
            *((tag, value) for tag, value in record.extra if re.fullmatch(r"[A-Z][A-Z0-9]", tag) and tag not in _LISTED),
        ]  # fmt: skip
        yield "".join(f"{tag}  - {_one_line(value)}\n" for tag, value in fields if value) + "ER  - \n\n"
