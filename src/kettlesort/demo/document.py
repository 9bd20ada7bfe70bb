"""One invented document, and where it may have appeared."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple


class Venue(NamedTuple):
    """A journal or another place where documents appear, in full and as sources abbreviate it."""

    name: str
    short: str


JOURNALS = (
    Venue("Annals of Made-up Apiculture", "Ann. Made-up Apicult."),
    Venue("Journal of Invented Bee Science", "J. Invent. Bee Sci."),
    Venue("Hive and Climate Letters", "Hive Clim. Lett."),
    Venue("Proceedings of the Overwintering Society", "Proc. Overwinter. Soc."),
    Venue("Northern Beekeeping Quarterly", "North. Beekeep. Q."),
    Venue("Applied Pollinator Studies", "Appl. Pollinat. Stud."),
    Venue("Colony Health Reports", "Colony Health Rep."),
    Venue("Archives of Rural Inventions", "Arch. Rural Invent."),
)


COUNTRIES = ("Norland", "Estmark", "Veldenia", "South Isle", "Karlow")
"""Where the journals are published, by their number."""


@dataclass(frozen=True, slots=True)
class Document:
    """One invented document, as it would be described without flaws."""

    number: int
    theme: str
    title: str
    subtitle: str
    authors: tuple[str, ...]
    year: int
    journal: int
    volume: int
    issue: int
    page: int
    length: int
    doi: str
    abstract: str
    descriptors: tuple[str, ...]
    kind: str = "article"
    arms: tuple[int, int, int, int] = (0, 0, 0, 0)
    place: str = ""
    appeared: Venue | None = None
    language: str = "eng"
    flawless: bool = False
    """Whether sources hold it exactly so."""

    @property
    def full_title(self) -> str:
        """Title and subtitle."""
        return f"{self.title}: {self.subtitle}" if self.subtitle else self.title

    @property
    def venue(self) -> Venue:
        """Where it appeared."""
        return self.appeared or JOURNALS[self.journal]

    @property
    def pages(self) -> tuple[str, str]:
        """First and last page; empty where they are not known."""
        return (str(self.page), str(self.page + self.length)) if self.page else ("", "")
