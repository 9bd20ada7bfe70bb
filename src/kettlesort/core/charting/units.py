"""Units: the word after a number, and what it measures."""

from __future__ import annotations

import re
from functools import cache
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from kettlesort.core.charting.proposals.numbers import Number

_UNIT = re.compile(r"\s?-?\s?([A-Za-zµμ°%Ω][\w°µμ²³/·^%\-−]*(?:\s?(?:/|per)\s?[\w²³]+)?(?:\s+per\s+\w+)?)")
_GOES_ON = re.compile(r"\s?(?:[-−–—]|to)\s?\d+(?:[.,]\d+)?")
"""The second number of a range, whose unit is that of the first too."""
_MONEY = re.compile(r"(?:[$€£]|\b(?:USD|EUR|GBP|US\s?\$))\s?$")
_PARTED = re.compile(r"\s*(?:/|\bper\b|[\s·.]+(?=[\w²³µ%°]+\s?\^?[-−–⁻]\s?[1¹]\b))\s*")
_INVERSE = re.compile(r"\s?\^?[-−–⁻]\s?[1¹]$")
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
    on = _GOES_ON.match(text, number.end)
    found = _UNIT.match(text, on.end() if on else number.end)
    return found[1] if found else ""


def has_unit(text: str, number: Number, unit: str) -> bool:
    """Whether a number is followed by a unit, however that is written: kg/ha, kg N ha-1, kilograms per hectare; also behind the second number of a range.

    >>> from kettlesort.core.charting.proposals.numbers import numbers
    >>> [has_unit(text, numbers(text)[0], "kg/ha") for text in ("40 kg N/ha", "40 kg ha-1", "40 to 60 kg per ha", "40 kg")]
    [True, True, True, False]
    """
    on = _GOES_ON.match(text, number.end)
    money = _MONEY.search(text[: number.begin])
    return _written(unit).match(text, on.end() if on else number.end) is not None or bool(
        money and of_unit(money[0].strip()) == of_unit(unit)
    )


@cache
def _written(unit: str) -> re.Pattern[str]:
    """A pattern for all ways to write a unit."""
    first, *others = (_INVERSE.sub("", part) for part in _PARTED.split(unit.strip()))
    below = "".join(
        rf"(?:\s+(?:of\s+)?[A-Za-z]\w*)??(?:\s?(?:/|\bper\b)\s?{_ways(other)}|[\s·.]+{_ways(other)}\s?\^?[-−–⁻]\s?[1¹])" for other in others
    )
    return re.compile(rf"[\s-]?\s?{_ways(first)}{below}(?![\w/²³^])")


def _ways(name: str) -> str:
    """The names of a unit as an alternation; those of more than two letters in capitals or not."""
    known = _KNOWN.get(name) or _KNOWN.get(name.lower())
    names = [other for other, at in _KNOWN.items() if at == known] if known else [name, _singular(name), f"{name}s"]
    names += next((some for some in _AREAS if name.lower() in some), [])
    every = sorted({*names, name}, key=len, reverse=True)
    return "(?:" + "|".join(re.escape(one) if len(one) < 3 else f"(?i:{re.escape(one)})" for one in every) + ")"


_AREAS = (
    ["ha", "hectare", "hectares"],
    ["m2", "m²", "square metre", "square metres", "square meter"],
    ["km2", "km²", "square kilometre", "square kilometres"],
)
"""Names of areas, by which amounts are divided."""
_CALLED = {
    "°c": "degC",
    "°f": "degF",
    "k": "kelvin",
    "%": "percent",
    "l": "liter",
    "t": "metric_ton",
    "m": "meter",
    "h": "hour",
    "s": "second",
}
_PLAIN_UNIT = re.compile(r"[A-Za-zµμΩ%°][\w µμ²³/·^*%().\-−]{0,39}")


def same_unit(one: str, other: str) -> bool:
    """Whether two words name the same unit.

    >>> same_unit("weeks", "wk"), same_unit("colony", "colonies"), same_unit("mg", "g")
    (True, True, False)
    """
    if one.strip() == other.strip() or _singular(one) == _singular(other):
        return True
    first, second = of_unit(one), of_unit(other)
    return first == second and first[0] in DIMENSIONS


def _singular(unit: str) -> str:
    word = unit.strip()
    return word[:-3] + "y" if word.endswith("ies") else word[:-1] if len(word) > 3 and word.endswith("s") else word


def converted(value: float, given: str, wanted: str) -> float | None:
    """A value in another unit, to twelve figures; None where the units do not measure the same, or are not known. Temperatures are converted as such.

    >>> converted(0.5, "g", "mg"), converted(2, "weeks", "days"), converted(1, "mg", "ml")
    (500.0, 14.0, None)
    """
    if same_unit(given, wanted):
        return value
    names = [_called(unit) for unit in (given, wanted)]
    if not all(names):
        return None
    known = _registry()
    try:
        return float(f"{known.Quantity(value, names[0]).to(names[1]).magnitude:.12g}")
    except Exception:  # whatever a strange unit makes of a parser, it cannot be converted
        return None


def _called(unit: str) -> str:
    unit = unit.strip().replace("−", "-").replace("·", "*").replace("μ", "µ")
    if not _PLAIN_UNIT.fullmatch(unit) or re.search(r"\d{2}|\*\*|\^\D", unit):
        return ""
    parts = re.split(r"\s*(/|\*|\bper\b)\s*", unit)
    return "".join("/" if part == "per" else part if part in "/*" else _one(part) for part in parts)


def _one(unit: str) -> str:
    dimension, name = of_unit(unit)
    return _CALLED.get(name, name) if dimension in DIMENSIONS else unit


@cache
def _registry() -> Any:
    import pint

    known: Any = pint.UnitRegistry()
    known.define("international_unit = [international_unit] = IU")
    return known
