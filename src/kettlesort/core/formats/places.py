"""Where a work stands, in one text: "Hive Letters 2016;12(3):1-9", "12(3)", "Vol. 12, No. 3, pp. 1-9"."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import NamedTuple

from kettlesort.core.record import pages_of


class Place(NamedTuple):
    """A journal's name, year, volume, issue and pages; what is not said is empty."""

    journal: str = ""
    year: int | None = None
    volume: str = ""
    issue: str = ""
    pages: str = ""


_NUMBER = r"[A-Za-z]{0,3}\d{1,6}[A-Za-z]?(?:[-–/]\d{1,5}[A-Za-z]?)?"
_PAGES = r"(?:pp?\.?\s*|pages?\s*|S\.\s*)?[A-Za-z]{0,3}\d[\w.]{0,9}(?:\s*[-–—]+\s*[A-Za-z]{0,3}\d[\w.]{0,9})?"
_ISSUE = r"(?:no\.?|nr\.?|n[°º]|issue|iss\.?|heft|h\.|number)"
_VOLUME = r"(?:vol(?:ume)?\.?|v\.|bd\.?|band|jg\.?|jahrgang|tome?)"
_IN_VOLUME = (
    re.compile(
        rf"{_VOLUME}?\s*(?P<volume>{_NUMBER})\s*\((?:{_ISSUE}\s*)?(?P<issue>[\w\s./–-]{{1,20}})\)(?:\s*[:,;.]\s*(?P<pages>{_PAGES}))?\.?",
        re.I,
    ),
    re.compile(
        rf"{_VOLUME}?\s*(?P<volume>{_NUMBER})\s*[,;/]?\s*{_ISSUE}\s*(?P<issue>{_NUMBER})(?:\s*[:,;.]\s*(?P<pages>{_PAGES}))?\.?", re.I
    ),
    re.compile(rf"{_VOLUME}\s*(?P<volume>{_NUMBER})(?:\s*[:,;.]\s*(?P<pages>{_PAGES}))?\.?", re.I),
    re.compile(rf"(?P<volume>{_NUMBER})\s*:\s*(?P<pages>{_PAGES})\.?"),
    re.compile(r"(?P<volume>\d{1,4})\s*/\s*(?P<issue>\d{1,3})"),
)
_YEAR = r"(?P<year>(?:1[6-9]|20)\d\d)"
_A_MONTH = r"(?:jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec|spring|summer|autumn|fall|winter)[a-z]*\.?"
_MONTH = rf"(?:\s*{_A_MONTH}(?:[-–][a-z]+)?(?:\s*\d{{1,2}})?)?"
_WHOLE = (
    re.compile(rf"(?P<journal>\D.{{1,180}}?)[\s.,;(]+{_YEAR}{_MONTH}\)?\s*[;,:.]\s*(?P<rest>\S.*)", re.I),
    re.compile(rf"(?P<journal>\D.{{1,180}}?)[\s.,;]+(?P<rest>(?:{_VOLUME}\s*)?\d.*?)[\s.,;(]+{_YEAR}{_MONTH}\)?\.?", re.I),
    re.compile(r"(?P<journal>\D.{1,180}?)[\s.,;]+(?P<rest>(?:vol(?:ume)?\.?\s*)?\d.*)", re.I),
)
_IDENTIFIERS = re.compile(r"[\s.;,]*\b(?:doi|https?://|pmid|epub)\b.*$", re.I | re.S)
_DATED = re.compile(rf"[\s,;.]*\((?:{_MONTH}[\s,.]+)?\s*((?:1[6-9]|20)\d\d){_MONTH}\s*\)[\s,;:.]*", re.I)
_PIECES = tuple(
    re.compile(pattern, re.I)
    for pattern in (
        r"(?:pp?\.?|pages?|S\.)\s*(?P<pages>[A-Za-z]{0,3}\d[\w.]{0,9}?(?:\s*[-–—]+\s*[A-Za-z]{0,3}\d\w{0,9})?)(?!\w)",
        r"\d{1,4}\s*p\b\.?",  # how many pages
        rf"(?:\d{{1,2}}\.?\s*)?(?:{_A_MONTH}(?:[-–/]{_A_MONTH})?\s*(?:\d{{1,2}}\s*,\s*)?)?(?P<year>(?:1[6-9]|20)\d\d)(?:\s+{_A_MONTH}(?:[-–/]{_A_MONTH})?(?:\s+\d{{1,2}}\b)?)?(?!\w)",
        rf"(?:{_VOLUME}\s*)?(?P<volume>{_NUMBER})\s*\((?:{_ISSUE}\s*)?(?P<issue>{_NUMBER}|suppl?\.?\s*\w{{0,3}})\)",
        rf"(?:{_VOLUME}|v)\s*(?P<volume>{_NUMBER})(?!\w)",
        rf"(?:{_ISSUE}|n)\s*(?P<issue>{_NUMBER})(?!\w)",
        rf"(?P<pages>{_NUMBER}\s*[-–—]+\s*{_NUMBER})(?!\w)",
    )
)
"""What stands in a place by its label or its form; years before numbers, and pages before both."""
_BETWEEN = re.compile(r"[\s,;:.()\[\]]*")
_BEGINS = re.compile(r"(?<!\w)(?=\w)")
_LATER = re.compile(r"[\s.;,]*\bdate of (?:electronic )?publication\b.*$", re.I | re.S)
_STOPPED = re.compile(r"^(?:\d{1,6}|[A-Za-z]{0,3}\d{1,6}[A-Za-z]?)$")


@lru_cache(maxsize=8192)
def volume_in(text: str) -> Place | None:
    """Volume, issue and pages in one value; ``None`` for what is not of such a form.

    >>> volume_in("Vol. 12 (No. 3)")
    Place(journal='', year=None, volume='12', issue='3', pages='')
    """
    for pattern in _IN_VOLUME:
        if found := pattern.fullmatch(text.strip()):
            said = found.groupdict()
            volume, issue = said["volume"], (said.get("issue") or "").strip()
            if "/" in text and issue.isdigit() and volume.isdigit() and int(issue) == int(volume) + 1:
                return None  # a double volume
            dated = re.fullmatch(_YEAR, issue)
            return Place("", int(issue) if dated else None, volume, "" if dated else issue, _pages(said.get("pages") or ""))
    return None


@lru_cache(maxsize=8192)
def place_in(text: str) -> Place | None:
    """Journal and place in one value; ``None`` for a text that is not of such a form, as a name with a number in it is not.

    >>> place_in("Hive Letters 2016;12(3):1-9. doi: 10.5555/a")
    Place(journal='Hive Letters', year=2016, volume='12', issue='3', pages='1–9')
    """
    whole = text = _LATER.sub("", _IDENTIFIERS.sub("", " ".join(text.split()))).strip(" .;,")
    dated = _DATED.search(text)
    if dated:  # "12 (2016) 1-9": the year is taken out, whatever stands around it
        text = _DATED.sub(", ", text, count=1).strip(" ,;.")
    for k, pattern in enumerate(_WHOLE):
        found = pattern.fullmatch(text)
        if not found:
            continue
        rest = found["rest"].strip(" .;,")
        place = volume_in(rest) or _listed(rest)
        if place and place.volume and (k < 2 or place.pages or place.issue):
            year = int(found["year"]) if k < 2 else int(dated[1]) if dated else None
            return place._replace(journal=found["journal"].strip(" .,;("), year=year)
    return _pieced(whole)


def _pieced(text: str) -> Place | None:
    """The place of a text that ends with labelled pieces in any order: "Hive Letters, vol. 12, no. 3, May 2016, pp. 1-9"."""
    for begin in _BEGINS.finditer(text[:200]):
        said = _pieces(text, begin.start())
        if said and said.get("volume") and (said.get("pages") or said.get("issue")):
            journal = re.sub(r"\s*\[[^\]]*\]$", "", text[: begin.start()].strip(" .,;:(")).strip(" .,;:(")
            year = int(said["year"]) if "year" in said else None
            return Place(journal, year, said["volume"], said.get("issue", ""), _pages(said.get("pages", "")))
    return None


def _pieces(text: str, at: int) -> dict[str, str] | None:
    """The pieces from a place on, each once and nothing between them but signs; None where something else stands there."""
    said: dict[str, str] = {}
    while at < len(text):
        found = next((match for piece in _PIECES if (match := piece.match(text, at))), None)
        if found is None or any(name in said for name, value in found.groupdict().items() if value):
            return None
        said |= {name: value.strip() for name, value in found.groupdict().items() if value}
        between = _BETWEEN.match(text, found.end())
        at = between.end() if between else found.end()
    return said


def _listed(text: str) -> Place | None:
    """Numbers with commas between them: volume, issue, pages; or volume and pages."""
    parts = [re.sub(rf"^(?:{_VOLUME}|{_ISSUE})\s*", "", part.strip(), flags=re.I) for part in re.split(r"\s*[,;]\s*", text)]
    if len(parts) == 1 and _STOPPED.match(parts[0]):
        return Place(volume=parts[0])
    if len(parts) == 3 and all(map(_STOPPED.match, parts[:2])) and re.fullmatch(_PAGES, parts[2], re.I):
        return Place(volume=parts[0], issue=parts[1], pages=_pages(parts[2]))
    if len(parts) == 2 and re.fullmatch(_PAGES, parts[1], re.I):
        inner = volume_in(parts[0])
        if inner and not inner.pages:
            return inner._replace(pages=_pages(parts[1]))
        if _STOPPED.match(parts[0]):
            return Place(volume=parts[0], pages=_pages(parts[1]))
    return None


def _pages(text: str) -> str:
    return pages_of(re.sub(r"^(?:pp?\.?|pages?|S\.)\s*", "", text.strip(), flags=re.I)) if text else ""
