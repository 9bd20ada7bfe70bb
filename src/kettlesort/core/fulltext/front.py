"""Which record a PDF is the full text of, by what its first pages and its name say."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from typing import BinaryIO, NamedTuple

from rapidfuzz import fuzz

from kettlesort.core.fulltext.article import normal
from kettlesort.core.fulltext.pages import Page, document
from kettlesort.core.record import doi_of, folded

FIRST_PAGES = 2
_MOST_TEXT = 12_000
_DOI = re.compile(r"\b10\.\d{4,9}/[^\s\"<>]+[^\s\"<>.,;:)\]}]")
_LETTERS = re.compile(r"[\W_]+")
_LIKELY = 40
"""Of so many records whose titles share the rarest words with a PDF, titles are compared letter by letter."""


class Front(NamedTuple):
    """What a PDF says of itself: its DOIs in order, the text of its first pages, the line in the largest letters, its name, how many pages it has."""

    name: str
    dois: tuple[str, ...]
    text: str
    title: str
    pages: int


class Sought(NamedTuple):
    """A record whose full text may have come: ``id`` is the caller's."""

    id: int
    title: str
    authors: tuple[str, ...] = ()
    year: int | None = None
    doi: str = ""
    accession: str = ""


class Found(NamedTuple):
    """A record that a PDF may belong to: how likely (0 to 1), what speaks for it, and whether that is enough to attach it without asking."""

    id: int
    likely: float
    why: tuple[str, ...]
    sure: bool


def front_of(file: BinaryIO, name: str) -> Front:
    """What the first pages of a PDF say. Raises NotAPdf."""
    found = document(file, FIRST_PAGES).pages
    text = "\n".join(page.text for page in found)[:_MOST_TEXT]
    dois = [doi for match in _DOI.finditer(normal(text)) if (doi := doi_of(match[0]))]
    return Front(name, tuple(dict.fromkeys(dois)), normal(text), title_of(found[0])[0], found[0].of)


def title_of(page: Page) -> tuple[str, list[str]]:
    """The first lines in the largest letters of a page that are long enough to be a title, and the lines below them; "" and the first lines where there are none."""
    lines = [(round(row[0].size, 1), " ".join(run.text for run in row)) for part in page.parts for row in part]
    for size in sorted({size for size, _ in lines[:60]}, reverse=True):
        begun = next(k for k, (other, _) in enumerate(lines) if other == size)
        end = begun
        while end < len(lines) and lines[end][0] == size and end - begun < 6:
            end += 1
        title = normal(" ".join(text for _, text in lines[begun:end]))
        if 15 <= len(title) <= 400 and len(title.split()) >= 3:
            return title, [text for _, text in lines[end : end + 6]]
    return "", [text for _, text in lines[:6]]


def match(front: Front, sought: Sequence[Sought]) -> list[Found]:
    """The records that a PDF may be the full text of, the likeliest first, at most five.

    It is sure where the first DOI and the title agree, or the title stands on the first pages with an author or the year, and no other record has as
    much. A DOI beside another title, as in a correction, a letter or a list of references, is no more than likely.
    """
    letters = _letters(front.text)
    found = [compared for record in _likely(front, letters, sought) if (compared := _compared(front, letters, record))]
    found.sort(key=lambda one: (-one.likely, one.id))
    if len(found) > 1 and found[0].sure and found[1].likely > found[0].likely - 0.15:
        found = [one._replace(sure=False) for one in found]
    return [found[0], *(one._replace(sure=False) for one in found[1:5])] if found else []


def _letters(text: str) -> str:
    return _LETTERS.sub("", folded(text))


def _words(text: str) -> set[str]:
    return {word for word in re.findall(r"\w+", folded(text)) if len(word) > 3}


def _likely(front: Front, letters: str, sought: Sequence[Sought]) -> Iterable[Sought]:
    """Those that are named outright, and those whose titles share the most of their rare words."""
    name = _letters(front.name)
    said = _words(front.text[:4_000]) | _words(front.name)
    often = Counter(word for one in sought for word in _words(one.title))
    scored = []
    for one in sought:
        title = _letters(one.title)
        if (one.doi and one.doi in front.dois) or (len(title) >= 20 and title in letters) or _named(one, name, front):
            yield one
            continue
        words = _words(one.title)
        total = sum(1 / often[word] for word in words)
        share = sum(1 / often[word] for word in words & said) / total if total else 0
        if share > 0.5:
            scored.append((share, one))
    yield from (number for _, number in sorted(scored, key=lambda pair: -pair[0])[:_LIKELY])


def _named(sought: Sought, name: str, front: Front) -> bool:
    """Whether a file's name names a record: by its accession, the end of its DOI, or its first author with the year."""
    if (
        sought.accession
        and len(sought.accession) >= 5
        and re.search(rf"(?<![0-9a-z]){re.escape(sought.accession.lower())}(?![0-9a-z])", front.name.lower())
    ):
        return True
    suffix = _letters(sought.doi.partition("/")[2])
    if len(suffix) >= 6 and suffix in name:
        return True
    return bool(sought.authors and sought.year and str(sought.year) in front.name and len(_family(sought)) > 2 and _family(sought) in name)


def _family(sought: Sought) -> str:
    return _letters(sought.authors[0].partition(",")[0]) if sought.authors else ""


def _compared(front: Front, letters: str, sought: Sought) -> Found | None:
    why: list[str] = []
    likely = 0.0
    title = _letters(sought.title)
    whole = len(title) >= 20 and title in letters
    like = 1.0 if whole else fuzz.partial_ratio(title, letters[:6_000], score_cutoff=80) / 100 if len(title) >= 12 else 0.0
    first = bool(sought.doi and front.dois[:1] == (sought.doi,))
    if first or (sought.doi and sought.doi in front.dois):
        likely += 0.5 if first else 0.25
        why.append("its DOI" if first else "its DOI, not the first one in it")
    if like >= 0.8:
        likely += 0.45 if whole else 0.45 * (like - 0.6) / 0.4
        why.append("its title" if whole else f"a title that is {like:.0%} the same")
    else:
        own = _words(front.title)
        shared = len(own & _words(sought.title)) / len(own) if len(own) >= 3 else 0.0
        if shared >= 0.75:
            likely += 0.3 * shared
            why.append("a title of the same words")
    author = len(_family(sought)) > 2 and _family(sought) in letters[:4_000]
    year = bool(sought.year and re.search(rf"(?<!\d){sought.year}(?!\d)", front.text[:6_000]))
    named = _named(sought, _letters(front.name), front)
    likely += 0.12 * author + 0.08 * year + 0.3 * named
    why += [said for said, holds in (("its first author", author), ("its year", year), ("the file's name", named)) if holds]
    if likely < 0.4:
        return None
    other = bool(sought.doi and front.dois and sought.doi not in front.dois and _looks_own(front, front.dois[0]))
    if other:
        likely -= 0.15
        why.append(f"but another DOI, {front.dois[0]}")
    longer = whole and len(_letters(front.title)) > len(title) + 8 and title in _letters(front.title)
    if longer:
        likely -= 0.2
        why.append("but a longer title")
    sure = not other and not longer and ((first and like >= 0.8) or (like >= 0.95 and (author or year or named)))
    return Found(sought.id, round(max(0.0, min(1.0, likely)), 3), tuple(why), sure)


def _looks_own(front: Front, doi: str) -> bool:
    """Whether a DOI stands so early that it is the report's own and not of a reference."""
    at = normal(front.text).lower().find(doi)
    return 0 <= at < 3_000
