"""Countries, as texts in English name them."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

from babel import Locale

_ALSO = (
    "UK", "U.K.", "USA", "U.S.A.", "US", "U.S.", "United States of America", "Great Britain", "Britain", "England", "Scotland", "Wales", "Northern Ireland",
    "Republic of Ireland", "Republic of Korea", "South Korea", "North Korea", "Korea", "Czech Republic", "Czechia", "Turkey", "Türkiye", "Russian Federation",
    "Russia", "Viet Nam", "Burma", "Ivory Coast", "Cape Verde", "Swaziland", "Macedonia", "Bosnia and Herzegovina", "Bosnia", "Trinidad and Tobago",
    "Democratic Republic of the Congo", "Congo", "Gambia", "Bahamas", "Hong Kong", "Macau", "Taiwan", "Palestine", "Syrian Arab Republic",
    "Islamic Republic of Iran", "United Republic of Tanzania", "Lao PDR", "People's Republic of China", "Timor-Leste", "East Timor", "Netherlands",
)  # fmt: skip
"""What the list of territories has under another name only, or as parts of a country that report for themselves."""


@lru_cache(maxsize=1)
def _pattern() -> re.Pattern[str]:
    """Every name, the longest first: those of the Unicode Common Locale Data Repository and what else they go by."""
    names = {name for code, name in Locale("en").territories.items() if code.isalpha() and code not in ("EU", "UN", "EZ", "ZZ", "XA", "XB")}
    every = sorted({*names, *(name.replace("&", "and") for name in names), *_ALSO}, key=lambda name: (-len(name), name))
    return re.compile(rf"(?<![\w.-])(?:{'|'.join(map(re.escape, every))})(?![\w-])")


def countries_in(text: str) -> Iterator[tuple[int, int]]:
    """Where a text names countries.

    >>> [("Wards in Denmark and in northern France"[a:b]) for a, b in countries_in("Wards in Denmark and in northern France")]
    ['Denmark', 'France']
    """
    return ((found.start(), found.end()) for found in _pattern().finditer(text))


def names_countries(text: str) -> bool:
    """Whether a text is the name of a country, or a list of some.

    >>> names_countries("Denmark, Norway and the Netherlands"), names_countries("Porto, Portugal")
    (True, False)
    """
    rest = _pattern().sub("", text)
    return rest != text and not re.sub(r"\b(?:and|the|or)\b|[\s,;/&]", "", rest)
