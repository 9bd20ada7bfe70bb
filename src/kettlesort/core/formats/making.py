"""A record from named values: what every reader does that has no tags of its own to think of."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping, Sequence

from kettlesort.core.formats.people import whole
from kettlesort.core.formats.places import Place, place_in, volume_in
from kettlesort.core.formats.source import Problem
from kettlesort.core.identifiers import accession_among, labelled
from kettlesort.core.record import KINDS, Record, doi_of, pages_of, plain, year_of

_SOME = re.compile(r"\s*[;|]\s*")
_HINTS = (
    ("conference", "conference"), ("proceeding", "conference"), ("congress", "conference"), ("meeting", "conference"), ("thesis", "thesis"),
    ("dissertation", "thesis"), ("chapter", "chapter"), ("section", "chapter"), ("book", "book"), ("preprint", "preprint"),
    ("registr", "registration"), ("trial", "registration"), ("report", "report"), ("web", "website"), ("article", "article"),
    ("journal", "article"), ("review", "article"), ("paper", "article"), ("aufsatz", "article"), ("artikel", "article"), ("artículo", "article"),
)  # fmt: skip

_LETTERS = {"j": "article", "b": "book", "c": "conference", "t": "thesis", "r": "report"}


def some(text: str) -> tuple[str, ...]:
    """Descriptors or references in one text, split at semicolons and bars."""
    return tuple(word for word in _SOME.split(text) if word)


def parted(values: Iterable[str], sign: str) -> Iterator[str]:
    """The parts of values, without blanks around them and without empty ones."""
    return (part for value in values for piece in value.split(sign) if (part := piece.strip()))


def kind_of(text: str) -> str:
    """The kind of document from what a source calls it; "article" where it says nothing."""
    lowered = text.lower().strip()
    if lowered in KINDS:
        return lowered
    if len(lowered) == 1 and lowered in _LETTERS:
        return _LETTERS[lowered]
    return next((kind for hint, kind in _HINTS if hint in lowered), "other" if lowered else "article")


_ONE = (
    "title", "abstract", "journal", "year", "volume", "issue", "doi", "accession", "issn", "language", "url", "publisher", "note", "pages", "kind", "place", "article_number",
)  # fmt: skip
"""Fields that have one value; what comes after the first is kept."""
Found = Mapping[str, Sequence[str]]


def record_from(
    found: Found, extra: Sequence[tuple[str, str]], line: int, problems: list[Problem], *, split: Mapping[str, str] | None = None
) -> Record:
    """A record from the values of its fields in their order; of a field with one value the first is used.

    Fields may be parts too: first_page and last_page, short_authors, group_authors, kinds,
    identifiers (a DOI among others). ``split`` says what separates the values of a field
    where that is not to be guessed.
    """
    split = split or {}

    def one(name: str) -> str:
        values = found.get(name)
        return values[0] if values else ""

    rest = [*extra]
    if any(len(values) > 1 for values in found.values()):
        rest += [(name, value) for name in _ONE for value in found.get(name, ())[1:] if value != one(name)]
    doi, others = _doi_among(found, one("doi"), one("url"))
    dated = one("year") or one("date")
    year = year_of(dated) if dated else None
    if dated and year is None:
        problems.append(Problem(line, f"“{dated[:40]}” is not a year; kept as given"))
    first, pages = one("first_page"), one("pages") or one("article_number")
    if first and one("pages").isdigit():  # how many they are
        rest.append(("pages", pages))
    by_ends = bool(first) and (not one("pages") or one("pages").isdigit())
    place = _place(one("place"), rest)
    authors = _authors(found, split)
    if authors or not one("family_name"):
        rest += [(name, one(name)) for name in ("family_name", "given_name") if one(name)]
    return Record(
        kind=kind_of(" ".join(found.get("kinds", ())) or one("kind")),
        title=plain(one("title")),
        authors=tuple(authors or _of_two_parts(found)),
        year=year or place.year,
        date=one("date") or dated,
        journal=plain(one("journal")) or place.journal,
        journal_short=plain(one("journal_short")),
        volume=one("volume") or place.volume,
        issue=one("issue") or place.issue,
        pages=pages_of(first, one("last_page")) if by_ends else pages_of(pages or one("last_page")) or place.pages,
        doi=doi,
        accession=one("accession") or accession_among(labelled(" ; ".join(found.get("identifiers", ())))),
        issn=one("issn"),
        abstract=plain(one("abstract")),
        language=one("language"),
        keywords=tuple(_several(found, "keywords", split)),
        url=one("url"),
        publisher=one("publisher"),
        references=tuple(_several(found, "references", split)),
        note=one("note"),
        extra=(*rest, *others),
    )


def _place(text: str, rest: list[tuple[str, str]]) -> Place:
    """What a text says of where a work stands; what cannot be understood is kept."""
    found = place_in(text) or volume_in(text) if text else Place()
    if found is None:
        rest.append(("citation", text))
    return found or Place()


def _several(found: Found, name: str, split: Mapping[str, str]) -> list[str]:
    """All values of a field that has many, parted where they stand in one."""
    values = found.get(name, ())
    if name in split:
        sign = split[name].strip() or split[name]
        return list(parted(values, sign))
    return [word for value in values for word in some(value)]


def _authors(found: Found, split: Mapping[str, str]) -> list[str]:
    """The authors as they stand, in full; short names only where there are no others, groups after people."""
    authors = _several(found, "authors", split) if "authors" in split else list(found.get("authors", ()))
    authors = authors or list(found.get("short_authors", ()))
    return [*authors, *(whole(" ".join(value.split())) for value in found.get("group_authors", ()))]


def _of_two_parts(found: Found) -> list[str]:
    """Authors whose family and given names stand apart, one or as many of each."""
    family, given = ([part.strip() for value in found.get(name, ()) for part in value.split(";")] for name in ("family_name", "given_name"))
    if len(family) != len(given):
        family, given = ["; ".join(family)], ["; ".join(given)]
    return [whole(f"{one}, {other}" if other else one) for one, other in zip(family, given, strict=True) if one]


def _doi_among(found: Found, said: str, url: str) -> tuple[str, list[tuple[str, str]]]:
    """The DOI that is ``said``, stands among other identifiers, or in an address; and what else these are, to be kept."""
    doi, others = doi_of(said), list[tuple[str, str]]()
    for identifier in found.get("identifiers", ()):
        if doi_of(identifier) and not doi:
            doi = doi_of(identifier)
            others += [("identifiers", identifier)] if len(labelled(identifier)) > 1 else []
        elif not doi or doi not in identifier.lower():
            others.append(("identifier", identifier))
    if not doi and "doi" in url:
        doi = doi_of(url)
    return doi, [*others, ("doi", said)] if said and not doi else others
