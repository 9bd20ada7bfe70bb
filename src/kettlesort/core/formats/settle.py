"""What every record goes through after its reader: people, values in the wrong place, letters that were encoded twice.

A reader knows its format; what is here knows the habits that sources have in any format. What is changed is noted, so
that it can be said; the raw text stays.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from functools import lru_cache
from itertools import islice

from kettlesort.core.formats import nbib
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.guess import points_elsewhere
from kettlesort.core.formats.people import LOOKED_AT, WHOLE, People
from kettlesort.core.formats.places import place_in, volume_in
from kettlesort.core.formats.suspicion import Noted
from kettlesort.core.identifiers import accession_among, labelled
from kettlesort.core.record import Record, doi_of, year_of

_TWICE = re.compile(r"[ÂÃÄÅÐÑÎÏâãåæäéèçŽ][\u0080-\u00bf€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ¡-¿]")
"""What UTF-8 looks like when it was read as one byte a letter."""
_AT_ONCE = 50
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

    def over(self, entries: Iterable[Entry]) -> Iterator[Entry]:
        """The same entries, settled."""
        rest = iter(entries)
        first = list(islice(rest, LOOKED_AT))
        self.people.judge(first)
        while first:
            yield from self._together(first)
            first = list(islice(rest, _AT_ONCE))

    def _together(self, entries: list[Entry]) -> list[Entry]:
        """Entries that are looked at together: what nearly all records have in order is tested once for all."""
        plain = self.people.plain([name for entry in entries for name in entry.record.authors if name[0] != WHOLE])
        for k, entry in enumerate(entries):
            record = entry.record
            if (not plain or WHOLE in "".join(record.authors)) and (names := self.people.names(record.authors)) is not record.authors:
                record = record._replace(authors=names)
            if not (record.doi and record.volume.isalnum() and entry.raw.isascii() and str(record.year) in record.date):
                record = settled(record, entry, self.noted)
            if record is not entry.record:
                entries[k] = entry._replace(record=record)
        return entries


def alone(record: Record) -> Record:
    """A record that comes on its own, not in a file, settled."""
    (entry,) = Settling(People()).over([Entry(1, 1, 1, "", record)])
    return entry.record


def settled(it: Record, entry: Entry, noted: Noted) -> Record:
    """A record with what is plainly in the wrong place put right."""
    if not entry.raw.isascii() and any(lead in entry.raw for lead in _LEADS) and _TWICE.search(entry.raw):
        it = _decoded(it, entry, noted)
    if not it.doi:
        it = _with_doi(it)
    if it.volume and not it.volume.isalnum():
        it = _parted_volume(it)
    if not it.pages and not it.volume and any(sign.isdigit() for sign in it.journal):
        it = _parted_journal(it)
    if it.year and str(it.year) not in it.date and (said := year_of(it.date)) and said != it.year:
        noted.note("dates", entry)
    return it


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


def _decoded(it: Record, entry: Entry, noted: Noted) -> Record:
    changed: dict[str, object] = {name: meant for name in _TEXTS if (meant := decoded(getattr(it, name))) != getattr(it, name)}
    for name in ("authors", "keywords", "references"):
        values = getattr(it, name)
        if (mended := tuple(map(decoded, values))) != values:
            changed[name] = mended
    if not changed:
        return it
    noted.note("decoded", entry)
    return it._replace(**changed)  # type: ignore[arg-type]


def _with_doi(it: Record) -> Record:
    """With the DOI that stands where none is expected: alone under any label, or among several identifiers of one cell."""
    for k, (label, value) in enumerate(it.extra):
        if label in _POINTING or points_elsewhere(label):
            continue
        if (found := _ALONE.fullmatch(value.strip())) and len(value) < 200:
            return it._replace(doi=doi_of(found[1]), extra=it.extra[:k] + it.extra[k + 1 :])
    for name in ("accession", "note", "url"):
        if (found := _ALONE.fullmatch(getattr(it, name).strip())) and len(getattr(it, name)) < 200:
            return it._replace(doi=doi_of(found[1]), **({} if name == "url" else {name: ""}))  # type: ignore[arg-type]
    if "10." in it.accession:
        said = labelled(it.accession)
        if doi := doi_of(said.get("doi", "")):
            extra = (*it.extra, ("identifiers", it.accession))
            return it._replace(doi=doi, accession=accession_among(said), issn=it.issn or said.get("issn", ""), extra=extra)
    return it


def _parted_volume(it: Record) -> Record:
    """With volume, issue and pages that stand in one value parted."""
    found = volume_in(it.volume)
    if not found or (found.issue and it.issue and found.issue != it.issue) or (found.pages and it.pages):
        return it
    return it._replace(volume=found.volume, issue=found.issue or it.issue, pages=found.pages or it.pages)


def _parted_journal(it: Record) -> Record:
    """With a journal that has its volume, issue and pages behind its name."""
    found = place_in(it.journal)
    if not found or (found.year and it.year and abs(found.year - it.year) > 1):
        return it
    return it._replace(
        journal=found.journal,
        year=it.year or found.year,
        volume=found.volume,
        issue=found.issue,
        pages=found.pages,
        doi=it.doi or doi_of(it.journal),
    )
