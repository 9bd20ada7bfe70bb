"""One record: looked up by its DOI or accession, typed, or proposed from a PDF; it comes in as a file of its own."""

from __future__ import annotations

import io
from datetime import UTC, datetime
from typing import BinaryIO, NamedTuple

from kettlesort import apart
from kettlesort.core import formats
from kettlesort.core.formats.pdf import proposed
from kettlesort.core.fulltext.pages import NotAPdf
from kettlesort.core.identifiers import named
from kettlesort.core.names import author_name
from kettlesort.core.record import KINDS, Record, doi_of
from kettlesort.outside.catalogue import CatalogueError
from kettlesort.outside.registry import Registry, RegistryError
from kettlesort.settings import settings
from kettlesort.store import jobs
from kettlesort.store import seeds as known
from kettlesort.store.base import session, snapshot
from kettlesort.store.gather import copies_of, count_files, entry_for
from kettlesort.work import catalogue, gather, searches
from kettlesort.work.errors import Invalid
from kettlesort.work.protocol import SOURCE_KINDS

ADDED = "Added by hand"
"""The entry of the search log for single records, unless the person names another source."""


class LookedUp(NamedTuple):
    """What a DOI or accession stands for: a record proposed by ``source``, or the record that is here already."""

    record: Record | None
    source: str
    here: int | None
    title: str
    problem: str


def look_up(review: int, text: str) -> LookedUp:
    """Look a DOI up in the registry, an accession in the connected catalogues; first among the records that are here."""
    found = named(text)
    if len(found) != 1 or found[0].kind == "title":
        raise Invalid("Type one DOI, such as 10.5555/abc, or one accession number.", field="text")
    doi, accession = (found[0].key, "") if found[0].kind == "doi" else ("", found[0].key)
    with snapshot() as db:
        here = known.by_key(db, review, [found[0].key]).get(found[0].key)
        title = known.titles(db, [here])[here] if here else ""
    if here:
        return LookedUp(None, "", here, title, "")
    return _by_doi(doi) if doi else _by_accession(review, accession)


def _by_doi(doi: str) -> LookedUp:
    if not settings().registry:
        return LookedUp(None, "", None, "", "This server knows no DOI registry; whoever runs it can name one. Type the record instead.")
    try:
        record = Registry(settings().registry, catalogue.manners()).record(doi)
    except RegistryError as error:
        return LookedUp(None, "", None, "", str(error))
    if record is None:
        return LookedUp(None, "", None, "", f"The registry does not know {doi}. Check it, or type the record.")
    return LookedUp(record, "DOI registry", None, record.title, "")


def _by_accession(review: int, accession: str) -> LookedUp:
    problem = "No catalogue is connected in which an accession number could be looked up. Type the record instead."
    for one in catalogue.catalogues(review):
        try:
            answer = catalogue.client(review, one.id or 0).search(f'rec.identifier = "{accession}"', 1, 2)
        except CatalogueError as error:
            problem = f"{one.name}: {error}"
            continue
        alike = [record for record, _ in answer.records if record.accession.lower() == accession]
        if alike:
            return LookedUp(alike[0], one.name, None, alike[0].title, "")
        problem = f"No connected catalogue has the accession number {accession}."
    return LookedUp(None, "", None, "", problem)


def from_pdf(filename: str, file: BinaryIO) -> Record:
    """What a PDF seems to be about. Raises Invalid."""
    try:
        return apart.call_on(proposed, file, apart.Limits(seconds=30, megabytes=800))
    except (NotAPdf, apart.Broken) as error:
        raise Invalid(f"{filename}: {error}.", field="file") from None


class Typed(NamedTuple):
    """A record as typed, and where it was found."""

    source: str
    source_kind: str
    kind: str
    title: str
    authors: list[str]
    year: int | None
    journal: str
    volume: str
    issue: str
    pages: str
    doi: str
    accession: str
    abstract: str
    language: str
    url: str
    label: str = ""


def add(review: int, account: int, said: Typed) -> int:
    """Take a typed record in; the record."""
    if not said.title.strip():
        raise Invalid("A record has at least a title.", field="title")
    if said.kind not in KINDS:
        raise Invalid(f"A record is one of {', '.join(KINDS)}.", field="kind")
    if said.source_kind not in SOURCE_KINDS:
        raise Invalid(f"A source is one of {', '.join(SOURCE_KINDS)}.", field="source_kind")
    if said.doi.strip() and not doi_of(said.doi):
        raise Invalid(f"“{said.doi[:60]}” is no DOI; one begins with 10. and has a stroke.", field="doi")

    def one(text: str) -> str:
        return " ".join(text.split())

    record = Record(
        kind=said.kind, title=one(said.title), authors=tuple(author_name(name) for name in said.authors if name.strip()), year=said.year,
        journal=one(said.journal), volume=one(said.volume), issue=one(said.issue), pages=one(said.pages), doi=doi_of(said.doi),
        accession=one(said.accession), abstract=one(said.abstract), language=one(said.language), url=one(said.url),
    )  # fmt: skip
    out = io.BytesIO()
    formats.write([record], "csljson", out)
    out.seek(0)
    source = one(said.source) or ADDED
    search = _entry(review, account, source, said.source_kind)
    with session() as db:
        number = count_files(db, search) + 1
    (batch,) = gather.upload(review, account, search, f"typed-{number}.json", out, label=said.label).batches
    with session() as db:
        job = jobs.latest(db, review, "read_file", batch)
    gather.read_file(job)
    gather.take_in(review, account, batch)
    with session() as db:
        return copies_of(db, batch)[0]


def _entry(review: int, account: int, source: str, kind: str) -> int:
    with snapshot() as db:
        found = entry_for(db, review, source, kind)
    if found:
        return found
    notes = "Records that were added one by one"
    return searches.write_search(review, account, searches.SearchEntry(source, kind, "", datetime.now(UTC).date(), "", notes, None))
