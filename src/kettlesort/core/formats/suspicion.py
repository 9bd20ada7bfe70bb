"""What reads cleanly and may still be wrong: values in the wrong field, cut, heaped or garbled, and files that are only a part."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping
from typing import NamedTuple

from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.people import People
from kettlesort.core.record import Record, folded

PLACES = 500
"""Places that are listed for a suspicion, at most."""
REMEMBERED = 300_000
"""Records that are remembered to find the same one again."""
ROUND = (50, 100, 200, 250, 400, 500, 1000, 1500, 2000, 2500, 3000, 4000, 5000, 10_000, 20_000, 50_000, 100_000)
"""Counts at which sources cut an export off."""
_GARBLED = re.compile(
    r"Ã[\u0080-\u00bf¡-¿€‚ƒ„…†‡ˆ‰Š‹ŒŽ‘’“”•–—˜™š›œžŸ]|Â[\u00a0-\u00bf]|â€[\u0080-\u009f™œžŸ“”˜¦¢]|ï»¿|\ufffd|Ð[\u0080-\u00bf]|Ñ[\u0080-\u00bf]"
)
_HEADS = re.compile(r"\b(?:background|objectives?|aims?|methods?|results|conclusions?)\s*:", re.I)
_CUT = re.compile(r"(?:\.\.\.|…)\s*$")
_SEPARATORS = re.compile(r";|\s&\s|\sand\s")


class Place(NamedTuple):
    """A record in its file, and its line."""

    position: int
    line: int


class Suspicion(NamedTuple):
    """Something that a person should look at: ``kind``, what it is, how many records it concerns, and the first of them.

    The places of ``whole`` ones are none: they concern the file. ``other`` is the manner in which names may be written too.
    """

    kind: str
    message: str
    records: int
    places: tuple[Place, ...]
    other: str = ""


class Noted:
    """How often something was seen in the records of a file, and where the first `PLACES` of them stand."""

    def __init__(self) -> None:
        self.counts: dict[str, int] = {}
        self.places: dict[str, list[Place]] = {}

    def note(self, kind: str, entry: Entry) -> None:
        """That this was seen in a record."""
        self.counts[kind] = self.counts.get(kind, 0) + 1
        held = self.places.setdefault(kind, [])
        if len(held) < PLACES:
            held.append(Place(entry.position, entry.line))

    def said(self, messages: Mapping[str, str]) -> list[Suspicion]:
        """What was seen, in the order of the messages."""
        return [
            Suspicion(kind, message, self.counts[kind], tuple(self.places[kind]))
            for kind, message in messages.items()
            if kind in self.counts
        ]


class Watch:
    """Looks at records as they pass; `suspicions` says afterwards what was odd.

    A record is looked at once and then forgotten, but for a number that stands for it, so that memory stays constant.
    """

    def __init__(self) -> None:
        self._counts: Counter[str] = Counter()
        self._places: dict[str, list[Place]] = {}
        self._seen: set[int] = set()
        self._dois: dict[str, int] = {}
        self._lengths: Counter[int] = Counter()
        self._ends: dict[int, list[Place]] = {}
        self._titles = 0
        self._same: Counter[int] = Counter()
        self._records = 0

    def over(self, entries: Iterable[Entry]) -> Iterator[Entry]:
        """The same entries, looked at."""
        for entry in entries:
            self.see(entry)
            yield entry

    def see(self, entry: Entry) -> None:
        """Look at a record."""
        record, place = entry.record, Place(entry.position, entry.line)
        self._records += 1
        if record.year is None and record.date:
            self._note("year", place)
        if _heaped(record):
            self._note("heap", place)
        if record.title:
            self._title(record, place)
        if any(_GARBLED.search(text) for text in (record.title, record.abstract, record.journal, *record.authors[:5])):
            self._note("garbled", place)
        if not record.abstract and len(record.note) > 200 and len(record.note.split()) > 30:
            self._note("note", place)
        if record.abstract and len(record.abstract) < 40 and record.title and not record.abstract.endswith("."):
            self._note("short_abstract", place)
        if record.journal and (record.journal.isdigit() or record.journal.lower().startswith(("http", "10."))):
            self._note("journal", place)
        self._again(record, place)

    def _note(self, kind: str, place: Place) -> None:
        self._counts[kind] += 1
        held = self._places.setdefault(kind, [])
        if len(held) < PLACES:
            held.append(place)

    def _title(self, record: Record, place: Place) -> None:
        self._titles += 1
        if self._titles <= REMEMBERED // 6:
            self._same[hash(record.title)] += 1
        title = record.title
        if len(title) > 24 and title.isupper():
            self._note("capitals", place)
        if _CUT.search(title):
            self._note("dots", place)
        elif (len(title) > 350 and len(title.split()) > 45) or (len(title) > 200 and _HEADS.search(title)):
            self._note("abstract_in_title", place)
        if len(title) >= 30 and title[-1].isalnum():
            self._lengths[len(title)] += 1
            self._ends.setdefault(len(title), [])
            if len(self._ends[len(title)]) < 50:
                self._ends[len(title)].append(place)

    def _again(self, record: Record, place: Place) -> None:
        if len(self._seen) >= REMEMBERED:
            return
        key = record.accession or (
            f"{folded(record.title)}|{record.year}|{record.authors[:1]}|{record.pages}|{record.abstract[:80]}"
            if record.title
            else record.doi
        )
        if not key:
            return
        mark = hash((bool(record.accession), key))
        if mark in self._seen:
            self._note("again", place)
        self._seen.add(mark)
        if record.doi and len(self._dois) < REMEMBERED // 3:
            title = hash(folded(record.title)[:60])
            if self._dois.setdefault(record.doi, title) != title:
                self._note("doi", place)

    def suspicions(self, people: People | None = None, settled: Noted | None = None) -> list[Suspicion]:
        """What was odd, what concerns the file first; ``people`` say whether names can be read in two ways, ``settled`` what was put right."""
        out: list[Suspicion] = []
        if people and people.judged.rival and people.example:
            one, two = (" and ".join(f"“{name}”" for name in names[:2]) for names in people.both())
            said = f"names may be written in either of two ways: “{people.example[:60]}” was read as {one}; it may be {two}"
            out.append(Suspicion("names", said, self._records, (), people.judged.rival.key()))
        if self._records in ROUND:
            out.append(Suspicion("round", f"exactly {self._records:,} records: many sources give out only so many at a time; has every part been exported?", self._records, ()))  # fmt: skip
        cut = self._cut()
        if cut:
            out.append(cut)
        seldom = self._titles - len(self._same)
        if 8 <= self._titles <= REMEMBERED // 6 and seldom > 0.4 * self._titles:
            out.append(Suspicion("same_titles", f"only {len(self._same):,} different titles in {self._titles:,} records: another field, such as the journal, may stand as the title", self._titles, ()))  # fmt: skip
        out += settled.said(PUT_RIGHT) if settled else []
        for kind, message in _MESSAGES.items():
            if self._counts[kind]:
                n = self._counts[kind]
                many = n >= max(5, 0.5 * self._records)
                said = message + ("; another field may stand there" if many and kind in _WHOLE else "")
                out.append(Suspicion(kind, said, n, tuple(self._places[kind])))
        return out

    def _cut(self) -> Suspicion | None:
        """Titles that end at the same length as no title by chance does: the longest one, several times."""
        if self._titles < 8 or not self._lengths:
            return None
        length = max(self._lengths)
        n = self._lengths[length]
        others = sorted(self._lengths.elements())
        expected = max(1.0, sum(1 for other in others if length - 20 <= other < length) / 20)
        if n >= 3 and n > 5 * expected:
            return Suspicion("cut", f"titles cut at {length} characters", n, tuple(self._ends[length]))
        return None


def _heaped(record: Record) -> bool:
    """Whether all names stand as one."""
    if len(record.authors) != 1:
        return False
    name = record.authors[0]
    return name.count(",") >= 3 or (
        len(_SEPARATORS.findall(name)) >= 1 and len(name) > 12 and ("," in name or ";" in name or name.count(".") >= 2)
    )


PUT_RIGHT = {
    "decoded": "letters that had been encoded twice were mended",
    "dates": "the year and the date disagree; the year stands",
}
"""What is said of what was put right while reading."""
_MESSAGES = {
    "again": "the same record stands in this file before",
    "doi": "the same DOI as another title of this file has",
    "year": "no year in what stands as the year",
    "heap": "all authors in one heap, which could not be taken apart",
    "abstract_in_title": "a title as long as an abstract",
    "dots": "the title is cut off with dots",
    "capitals": "the title is all in capitals",
    "garbled": "letters that were read in the wrong encoding",
    "note": "no abstract, but a note as long as one",
    "short_abstract": "an abstract of a few words",
    "journal": "a number or an address stands as the journal",
}
_WHOLE = {"year", "note", "abstract_in_title", "journal"}
