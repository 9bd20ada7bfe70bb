"""Where the sentences of a text begin and end."""

from __future__ import annotations

import re
from collections.abc import Iterator

_END = re.compile(r"(?<=[.!?。！？])[\"”’)\]]*\s+(?=[\"“‘(\[]*[A-ZÀ-ÞА-ЯΑ-Ω0-9\u3040-\u9fff])|(?<=[。！？])|\n+")
_ABBREVIATED = re.compile(
    r"(?:\b(?:e\.g|i\.e|vs|cf|et al|approx|no|fig|dr|sp|spp|var|cv|subsp|nr|resp|ca|st|mt|prof|inc|ltd|vol|eq|refs?|figs)|(?<!°)\b[A-Z])\.[\"”’)\]]*$",
    re.IGNORECASE,
)


def sentences(text: str) -> list[tuple[int, int]]:
    """Where the sentences of a text begin and end; an abbreviation or an initial ends none.

    >>> [("We wrapped hives (e.g. in foam). Losses fell by 3.5 per cent."[a:b]) for a, b in sentences("We wrapped hives (e.g. in foam). Losses fell by 3.5 per cent.")]
    ['We wrapped hives (e.g. in foam).', 'Losses fell by 3.5 per cent.']
    """
    return list(_parts(text))


def _parts(text: str) -> Iterator[tuple[int, int]]:
    begin = 0
    for end in _END.finditer(text):
        stop = end.start() + len(end[0].rstrip())  # with the quotes and brackets that close
        if "\n" not in end[0] and _ABBREVIATED.search(text[begin:stop]):
            continue
        if text[begin:stop].strip():
            yield begin, stop
        begin = end.end()
    if text[begin:].strip():
        yield begin, len(text.rstrip())
