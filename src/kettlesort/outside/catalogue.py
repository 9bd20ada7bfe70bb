"""A catalogue that speaks Search/Retrieve via URL."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from kettlesort.core.catalogue import (
    Answer,
    Explained,
    NotAnAnswer,
    Version,
    explain_request,
    read_answer,
    read_explanation,
    search_request,
)
from kettlesort.outside.polite import Manners, Refused, Unreachable, ask

_XML = "application/sru+xml, application/xml;q=0.9, text/xml;q=0.8"


class CatalogueError(Exception):
    """A catalogue that is away, does not understand, or sends something else; the message is for the person."""


@dataclass
class Catalogue:
    """A catalogue at an address; ``schema`` is the form in which records are asked for."""

    address: str
    version: Version = "2.0"
    schema: str = "marcxml"
    manners: Manners = field(default_factory=Manners)

    def explain(self) -> Explained:
        """What the catalogue says of itself. Raises CatalogueError."""
        try:
            return read_explanation(self._ask(explain_request(self.version)))
        except NotAnAnswer as error:
            raise CatalogueError(f"What answers at this address is no catalogue that can be asked. {error}") from None

    def search(self, query: str, start: int = 1, count: int = 0) -> Answer:
        """The records found by a query in CQL, from place ``start``, at most ``count`` of them. Raises CatalogueError."""
        try:
            answer = read_answer(self._ask(search_request(query, self.version, start, count, self.schema)))
        except NotAnAnswer as error:
            raise CatalogueError(f"The catalogue’s answer cannot be read. {error}") from None
        if answer.diagnostics and not answer.records and not answer.total:
            first = answer.diagnostics[0]
            raise CatalogueError(f"Not counted: {first.message}" + (f" ({first.details[:200]})" if first.details else "") + ".")
        return answer

    def pages(self, query: str, start: int = 1, size: int = 200) -> Iterator[Answer]:
        """Every page of what a query finds, the next asked for when the one before is used up. Raises CatalogueError."""
        place: int | None = start
        while place is not None:
            answer = self.search(query, place, size)
            yield answer
            following = answer.following or (place + len(answer.records) if answer.records else None)
            place = following if following is not None and place < following <= answer.total else None

    def _ask(self, parameters: dict[str, str]) -> bytes:
        try:
            return ask(self.address, parameters, _XML, self.manners)
        except Unreachable as error:
            raise CatalogueError(f"The catalogue is away. {error} Try again later; nothing is lost.") from None
        except Refused as error:
            raise CatalogueError(f"The catalogue did not answer the question: {error}.") from None
        except ValueError as error:
            raise CatalogueError(str(error)) from None
