"""What every record goes through after its reader: people, values in the wrong place, letters that were encoded twice.

A reader knows its format; what is here knows the habits that sources have in any format. What is changed is noted, so
that it can be said; the raw text stays.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from functools import lru_cache
from itertools import chain, islice

from kettlesort.core.formats import nbib
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.guess import points_elsewhere
from kettlesort.core.formats.making import parted
from kettlesort.core.formats.people import LOOKED_AT, People
from kettlesort.core.formats.places import place_in, volume_in
from kettlesort.core.formats.suspicion import Noted
from kettlesort.core.identifiers import accession_among, labelled
from kettlesort.core.record import Record, doi_of, year_of
from kettlesort.core.text.glance import nothing_to_settle

_TWICE = re.compile(r"[ÂÃÄÅÐÑÎÏâãåæäéèçŽ][\u0080-\u00bf€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ¡-¿]")
"""What UTF-8 looks like when it was read as one byte a letter."""
_CODECS = ("sloppy-windows-1252", "latin-1", "sloppy-windows-1250", "sloppy-windows-1251", "mac-roman", "cp437")
_LEADS = ("Ã", "Â", "â", "Ð", "Ñ", "Å", "Ä", "Î", "Ï", "ã", "å", "æ", "ä", "é", "è", "ç", "Ž")
_TEXTS = ("title", "journal", "journal_short", "abstract", "publisher", "note")
_ALONE = re.compile(r"(?:doi\s*[:=]?\s*)?(?:https?://(?:dx\.|www\.)?doi\.org/|doi\.org/)?(10\.\d{4,9}/\S+?)[.,;]?", re.I)


_POINTING = frozenset(nbib.NOTICES.values())


class Settling:
    """Settles the records of a file as they pass; ``noted`` holds what was changed, ``people`` how names are written."""

    def __init__(self, people: People) -> None:
        self.people = people
        self.noted = Noted()
        self._heaped = ""

    def over(self, entries: Iterable[Entry]) -> Iterator[Entry]:
        """The same entries, settled."""
        rest = iter(entries)
        first = list(islice(rest, LOOKED_AT))
        self.people.judge(first)
        self._heaped = heap_sign(entry.record.keywords for entry in first)
        plain = self.people.one_each and not self._heaped
        for entry in chain(first, rest):
            record = entry.record
            if plain and nothing_to_settle(record.doi, record.volume, record.year, record.date, record.authors, entry.raw):
                yield entry
            else:
                yield self._settled(entry)

    def _settled(self, entry: Entry) -> Entry:
        record = entry.record
        if (names := self.people.names(record.authors)) is not record.authors:
            record = record._replace(authors=names)
        if self._heaped and len(parts := tuple(parted(record.keywords, self._heaped))) > 1:
            record = record._replace(keywords=parts)
        record = settled(record, entry, self.noted)
        return entry if record is entry.record else entry._replace(record=record)


def heap_sign(keywords: Iterable[Sequence[str]]) -> str:
    """What parts the descriptors of a file whose records each have all of theirs in one value; "" where they do not.

    >>> heap_sign([["bees; winter; cold"], ["queens; mating"], ["honey; heat"]])
    ';'
    """
    values = [some for some in keywords if some]
    if len(values) < 3 or any(len(some) > 1 for some in values):
        return ""
    for sign, least in ((";", 1), ("|", 1), (",", 2)):  # "Bees, wild" is one
        several = [parts for (value,) in values if len(parts := list(parted([value], sign))) > least]
        words = [len(part.split()) for parts in several for part in parts]
        if len(several) > 0.6 * len(values) and sum(words) < 4 * len(words):
            return sign
    return ""


def alone(record: Record) -> Record:
    """A record that comes on its own, not in a file, settled."""
    (entry,) = Settling(People()).over([Entry(1, 1, 1, "", record)])
    return entry.record


def settled(record: Record, entry: Entry, noted: Noted) -> Record:
    """A record with what is plainly in the wrong place put right."""
    if not entry.raw.isascii() and any(lead in entry.raw for lead in _LEADS) and _TWICE.search(entry.raw):
        record = _decoded(record, entry, noted)
    if not record.doi:
        record = _with_doi(record)
    if record.volume and not record.volume.isalnum():
        record = _parted_volume(record)
    if not record.pages and not record.volume and any(sign.isdigit() for sign in record.journal):
        record = _parted_journal(record)
    if record.year and str(record.year) not in record.date and (said := year_of(record.date)) and said != record.year:
        noted.note("dates", entry)
    return record


@lru_cache(maxsize=4096)
def decoded(text: str) -> str:
    """A text whose letters were encoded twice, as it was meant; the same text where that is not certain.

    >>> decoded("MÃ¼llbach")
    'Müllbach'
    """
    import ftfy  # takes a while to load, and few files need it

    meant = text
    for _ in range(3):  # some were encoded more than twice
        meant = next((once for codec in _CODECS if (once := _once(meant, codec)) != meant), meant)
    return meant if meant != text and meant == ftfy.fix_encoding(text) else text


def _once(text: str, codec: str) -> str:
    try:
        return text.encode(codec).decode("utf-8")
    except UnicodeError:
        return text


def _decoded(record: Record, entry: Entry, noted: Noted) -> Record:
    changed: dict[str, object] = {name: meant for name in _TEXTS if (meant := decoded(getattr(record, name))) != getattr(record, name)}
    for name in ("authors", "keywords", "references"):
        values = getattr(record, name)
        if (mended := tuple(map(decoded, values))) != values:
            changed[name] = mended
    if not changed:
        return record
    noted.note("decoded", entry)
    return record._replace(**changed)  # type: ignore[arg-type]


def _with_doi(record: Record) -> Record:
    """With the DOI that stands where none is expected: alone under any label, or among several identifiers of one cell."""
    for k, (label, value) in enumerate(record.extra):
        if label in _POINTING or points_elsewhere(label):
            continue
        if (found := _ALONE.fullmatch(value.strip())) and len(value) < 200:
            return record._replace(doi=doi_of(found[1]), extra=record.extra[:k] + record.extra[k + 1 :])
    for name in ("accession", "note", "url"):
        if (found := _ALONE.fullmatch(getattr(record, name).strip())) and len(getattr(record, name)) < 200:
            return record._replace(doi=doi_of(found[1]), **({} if name == "url" else {name: ""}))  # type: ignore[arg-type]
    if "10." in record.accession:
        said = labelled(record.accession)
        if doi := doi_of(said.get("doi", "")):
            extra = (*record.extra, ("identifiers", record.accession))
            return record._replace(doi=doi, accession=accession_among(said), issn=record.issn or said.get("issn", ""), extra=extra)
    return record


def _parted_volume(record: Record) -> Record:
    """With volume, issue and pages that stand in one value parted."""
    found = volume_in(record.volume)
    if not found or (found.issue and record.issue and found.issue != record.issue) or (found.pages and record.pages):
        return record
    return record._replace(volume=found.volume, issue=found.issue or record.issue, pages=found.pages or record.pages)


def _parted_journal(record: Record) -> Record:
    """With a journal that has its volume, issue and pages behind its name."""
    found = place_in(record.journal)
    if not found or (found.year and record.year and abs(found.year - record.year) > 1):
        return record
    return record._replace(
        journal=found.journal,
        year=record.year or found.year,
        volume=found.volume,
        issue=found.issue,
        pages=found.pages,
        doi=record.doi or doi_of(record.journal),
    )
