"""What the pictures of pooled studies share: an axis with round numbers, and text."""

from __future__ import annotations

import math
from typing import NamedTuple

from kettlesort.core.picture import said

_STEPS = ((1, 2, 5), (1, 1.5, 2, 3, 5, 7), (1, 1.1, 1.25, 1.5, 1.75, 2, 2.5, 3, 4, 5, 6, 7, 8, 9))
"""Round numbers of a decade, ever more of them: as many are named as an axis needs."""


class Axis(NamedTuple):
    """From where to where, in numbers and in units of the drawing, and whether the numbers are logarithms."""

    low: float
    high: float
    ratio: bool
    x1: float
    x2: float

    def at(self, value: float) -> float:
        """The place of a value."""
        return self.x1 + (value - self.low) / (self.high - self.low) * (self.x2 - self.x1)

    def ticks(self) -> list[tuple[float, str]]:
        """Round numbers along the axis."""
        if self.ratio:
            finer = ([m * 10.0**e for e in range(-6, 7) for m in some] for some in _STEPS)
            within = [[number for number in some if self.low <= math.log(number) <= self.high] for some in finer]
            chosen = next((some for some in within if len(some) > 2), within[-1])
            if len(chosen) > 7:
                chosen = [one for one in chosen if f"{one:e}".startswith("1.")]
            return [(math.log(number), f"{number:g}") for number in chosen]
        step = 10 ** math.floor(math.log10((self.high - self.low) / 3))
        step *= next(m for m in (1, 2, 5, 10) if (self.high - self.low) / (step * m) <= 7)
        first = math.ceil(self.low / step)
        return [(k * step, f"{k * step:g}") for k in range(first, math.floor(self.high / step) + 1)]


def text_at(x: float, y: float, text: str, colour: str, *, anchor: str = "start", bold: bool = False) -> str:
    """A text of the drawing, by its foot."""
    weight = ' font-weight="600"' if bold else ""
    return f'<text x="{x:.1f}" y="{y:.1f}" font-size="12" text-anchor="{anchor}" fill="{colour}"{weight}>{said(text)}</text>'
