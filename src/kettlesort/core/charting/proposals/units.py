"""Units: the word after a number, and what it measures."""

from __future__ import annotations

import re

from kettlesort.core.charting.proposals.numbers import Number

_UNIT = re.compile(r"\s?-?\s?([A-Za-zµμ°%Ω][\w°µμ²³/·^%\-−]*(?:\s?(?:/|per)\s?[\w²³]+)?(?:\s+per\s+\w+)?)")
_UNITS = """
mass: ng nanogram nanograms; ug µg mcg microgram micrograms; mg milligram milligrams; g gram grams gramme grammes; kg kilogram kilograms kilo kilos; t tonne tonnes ton tons
volume: ul µl microlitre microlitres; ml millilitre millilitres milliliter milliliters; dl decilitre; l litre litres liter liters
length: nm; um µm micrometre; mm millimetre millimetres millimeter millimeters; cm centimetre centimetres centimeter centimeters; m metre metres meter meters; km kilometre kilometres
time: s sec second seconds; min mins minute minutes; h hr hrs hour hours; day days d; week weeks wk wks; month months mo mos; year years yr yrs y
temperature: °c c celsius degrees; °f f; k kelvin
share: % percent percentage
money: usd dollars $; eur euros €; gbp pounds £
"""


def _known() -> dict[str, tuple[str, str]]:
    out = {}
    for line in _UNITS.strip().splitlines():
        dimension, _, units = line.partition(": ")
        for group in units.split(";"):
            first, *others = group.split()
            for name in (first, *others):
                out[name] = (dimension, first)
    return out


_KNOWN = _known()
DIMENSIONS = frozenset(dimension for dimension, _ in _KNOWN.values())
"""What units measure, by the units that are known."""


def of_unit(name: str) -> tuple[str, str]:
    """The dimension of a unit and its first name; itself where it is not known.

    >>> of_unit("Weeks"), of_unit("mg/kg")
    (('time', 'week'), ('mg/kg', 'mg/kg'))
    """
    low = name.strip().replace("μ", "µ")
    return _KNOWN.get(low) or _KNOWN.get(low.lower().strip(".")) or (low.lower(), low.lower())


def unit_after(text: str, number: Number) -> str:
    """The word or sign after a number, which may be its unit; per cent for a share.

    >>> from kettlesort.core.charting.proposals.numbers import numbers
    >>> unit_after("3 mg/kg daily", numbers("3 mg/kg daily")[0])
    'mg/kg'
    """
    if number.percent:
        return "%"
    found = _UNIT.match(text, number.end)
    return found[1] if found else ""
