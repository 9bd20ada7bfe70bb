"""Values: what people type for data items, in one form for each kind, and what its figures are."""

from __future__ import annotations

import re
from datetime import date
from typing import Any

from kettlesort.core.charting.items import Item
from kettlesort.core.charting.units import converted, same_unit

NOT_REPORTED = "not reported"
NOT_APPLICABLE = "not applicable"
_ABSENT = {
    "nr": NOT_REPORTED, "n.r.": NOT_REPORTED, "n/r": NOT_REPORTED, NOT_REPORTED: NOT_REPORTED,
    "na": NOT_APPLICABLE, "n.a.": NOT_APPLICABLE, "n/a": NOT_APPLICABLE, NOT_APPLICABLE: NOT_APPLICABLE,
}  # fmt: skip
_GROUPED = re.compile(r"[+\-−]?\d{1,3}(?:[ \u202f\u00a0\u2009]\d{3})+(?:[.,]\d+)?|[+\-−]?[1-9]\d{0,2}(?:,\d{3})+(?:\.\d+)?")
_FIGURE = r"[+\-−]?(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:[eE][+-]?\d+)?"
_NUMBER = re.compile(_FIGURE)
_QUANTITY = re.compile(rf"({_GROUPED.pattern}|{_FIGURE})\s*(\D.*)?")
_COUNTS = re.compile(r"(\d+)\s*(?:/|of|out of)\s*(\d+)(?:\s*\(.*\))?", re.I)
_N = r"(?:[,;(\s]*\bn\s*=?\s*(\d+)\)?)?"
_MEAN_SD = re.compile(rf"({_FIGURE})\s*(?:±|\+/-|\(\s*SD\s*=?|\(|,?\s*SD\s*=?|[;\t]|\s)\s*({_FIGURE})\s*\)?{_N}", re.I)
_MEDIAN = re.compile(rf"({_FIGURE})\s*[(\[;,]?\s*(?:range\s*)?({_FIGURE})\s*(?:to|–|-|;|,)\s*({_FIGURE})\s*[)\]]?{_N}\s*\)?", re.I)
_DAY = re.compile(r"(\d{4})-(\d{1,2})(?:-(\d{1,2}))?")
_YES_NO = {"y": "yes", "yes": "yes", "true": "yes", "1": "yes", "n": "no", "no": "no", "false": "no", "0": "no"}


class NotAValue(ValueError):
    """What was typed does not fit the item; the message says what would."""


def understood(item: Item, typed: str) -> str:
    """The normal form of what was typed for ``item``; ``""`` clears the value.

    Numbers keep their precision as typed, with a decimal point; quantities their unit as typed, the item's where none was; counts are ``3 / 20``,
    means ``12.3 ± 4.5 (n 20)``, medians ``12 (8 to 20, n 30)``, several choices ``one; two``; dates ``2024-05-01`` (or year, or year and month); yes
    and no are words. Every kind also takes "not reported" (NR) and "not applicable" (NA). Raises NotAValue with a message for the person.
    """
    typed = typed.strip()
    chosen = [choice for choice in item.choices if choice.casefold() == typed.casefold()]
    if not typed or (typed.casefold() in _ABSENT and not chosen):
        return _ABSENT.get(typed.casefold(), "")
    match item.kind:
        case "text":
            return typed
        case "number":
            return _within(item, _number(typed, "a number"))
        case "quantity":
            return _quantity(item, typed)
        case "date":
            return _date(typed)
        case "choice":
            if not chosen:
                raise NotAValue(f"“{typed}” is none of the choices: {', '.join(item.choices)}")
            return chosen[0]
        case "choices":
            return _choices(item, typed)
        case "yesno":
            if typed.casefold() not in _YES_NO:
                raise NotAValue(f"“{typed}” is neither yes nor no")
            return _YES_NO[typed.casefold()]
        case "counts":
            return _counts(typed)
        case "mean_sd":
            return _mean_sd(typed)
        case "median_range":
            return _median_range(typed)


def absent(text: str) -> bool:
    """Whether a value says that there is none to report."""
    return text in (NOT_REPORTED, NOT_APPLICABLE)


def parsed(item: Item, text: str) -> Any:
    """A value in its normal form as data, by kind as `kettlesort propose` gives it; None where there is nothing to report.

    Raises NotAValue for a text that is no normal form.
    """
    text = understood(item, text)
    if not text or absent(text):
        return None
    figures = (
        [float(one) for one in re.findall(r"-?\d+(?:\.\d+)?(?:e[+-]?\d+)?", text)]
        if item.kind not in ("text", "choice", "choices", "date")
        else []
    )
    match item.kind:
        case "number":
            return float(text)
        case "quantity":
            number, _, unit = text.partition(" ")
            return {"value": float(number), "unit": unit}
        case "choices":
            return text.split("; ")
        case "yesno":
            return text == "yes"
        case "counts":
            return {"events": int(figures[0]), "total": int(figures[1])}
        case "mean_sd":
            return {"mean": figures[0], "sd": figures[1], "n": int(figures[2]) if "(n " in text else None}
        case "median_range":
            return {"median": figures[0], "low": figures[1], "high": figures[2], "n": int(figures[3]) if ", n " in text else None}
        case _:
            return text


def worded(item: Item, value: Any) -> str:
    """A value as data (as `parsed` gives it) in its normal form. Raises NotAValue where it does not fit the item.

    >>> worded(Item("Deaths", "counts"), {"events": 3, "total": 20})
    '3 / 20'
    """
    if value is None:
        return ""
    match item.kind:
        case "quantity":
            typed = f"{_plain(value['value'])} {value['unit'] or ''}"
        case "choices":
            typed = "; ".join(value)
        case "yesno":
            typed = "yes" if value else "no"
        case "counts":
            typed = f"{value['events']} / {value['total']}"
        case "mean_sd":
            typed = f"{_plain(value['mean'])} ± {_plain(value['sd'])}" + (f" (n {value['n']})" if value.get("n") is not None else "")
        case "median_range":
            n = f", n {value['n']}" if value.get("n") is not None else ""
            typed = f"{_plain(value['median'])} ({_plain(value['low'])} to {_plain(value['high'])}{n})"
        case _:
            typed = _plain(value) if isinstance(value, int | float) else str(value)
    return understood(item, typed)


def shown(item: Item, text: str) -> str:
    """How a value stands in a column that names its item's unit: converted to that unit, with what was typed where it was another.

    >>> dose = Item("Dose", "quantity", "mg")
    >>> shown(dose, "0.5 g"), shown(dose, "500 mg")
    ('500 (0.5 g)', '500')
    """
    if item.kind != "quantity" or not item.unit or absent(text):
        return text
    number, _, unit = text.partition(" ")
    if same_unit(unit, item.unit):
        return number
    value = converted(float(number), unit, item.unit)
    return text if value is None else f"{_plain(value)} ({text})"


def number_of(item: Item, text: str) -> float | None:
    """The figure by which a value in its normal form is compared with others of its item: a quantity in the item's unit, the share of counts, a mean, a
    median."""
    if not text or absent(text) or item.kind not in ("number", "quantity", "counts", "mean_sd", "median_range"):
        return None
    first, _, rest = text.partition(" ")
    if item.kind == "counts":
        return float(first) / float(rest[2:])
    if item.kind == "quantity" and item.unit:
        return converted(float(first), rest, item.unit)
    return float(first)


def _plain(value: float) -> str:
    return f"{value:.12g}" if isinstance(value, float) else str(value)


def _number(typed: str, what: str) -> str:
    text = typed
    if _GROUPED.fullmatch(typed):
        text = re.sub(r"[ \u202f\u00a0\u2009]", "", typed) if re.search(r"\s", typed) else typed.replace(",", "")
    if not _NUMBER.fullmatch(text):
        raise NotAValue(f"“{typed}” is not {what}")
    text = text.replace(",", ".").replace("−", "-").lstrip("+")
    return re.sub(r"^(-?)\.", r"\g<1>0.", text)


def _within(item: Item, number: str, unit: str = "") -> str:
    value = float(number)
    if (item.low is not None and value < item.low) or (item.high is not None and value > item.high):
        low, high = ("" if end is None else _plain(end) for end in (item.low, item.high))
        allowed = f"from {low} to {high}" if low and high else f"of at least {low}" if low else f"of at most {high}"
        raise NotAValue(f"{number}{unit and f' {unit}'} lies outside the allowed range {allowed}{unit and f' {unit}'}")
    return number


def _quantity(item: Item, typed: str) -> str:
    found = _QUANTITY.fullmatch(typed)
    in_unit = f" in {item.unit}" if item.unit else " with a unit"
    if not found:
        raise NotAValue(f"“{typed}” is not a number{in_unit}")
    number, unit = _number(found[1], f"a number{in_unit}"), (found[2] or "").strip()
    if not item.unit:
        return f"{number} {unit}".strip()
    if not unit or same_unit(unit, item.unit):
        return f"{_within(item, number, item.unit)} {item.unit}"
    value = converted(float(number), unit, item.unit)
    if value is None:
        raise NotAValue(f"“{unit}” cannot be converted to {item.unit}")
    _within(item, _plain(value), item.unit)
    return f"{number} {unit}"


def _choices(item: Item, typed: str) -> str:
    by_name = {choice.casefold(): choice for choice in item.choices}
    if typed.casefold() in by_name:
        return by_name[typed.casefold()]
    said = [part.strip() for part in re.split(r"[;\n]" if re.search(r"[;\n]", typed) else ",", typed) if part.strip()]
    unknown = [part for part in said if part.casefold() not in by_name]
    if unknown:
        raise NotAValue(f"“{unknown[0]}” is none of the choices: {'; '.join(item.choices)}")
    named = {by_name[part.casefold()] for part in said}
    return "; ".join(choice for choice in item.choices if choice in named)


def _counts(typed: str) -> str:
    found = _COUNTS.fullmatch(typed)
    if not found:
        raise NotAValue(f"“{typed}” is not events of total; write 12 / 40 or 12 of 40")
    events, total = int(found[1]), int(found[2])
    if events > total:
        raise NotAValue(f"{events} events are more than the total of {total}")
    if total == 0:
        raise NotAValue("a total of 0 has no events to count")
    return f"{events} / {total}"


def _mean_sd(typed: str) -> str:
    found = _MEAN_SD.fullmatch(typed)
    if not found:
        raise NotAValue(f"“{typed}” is not a mean with its SD; write 12.3 ± 4.5 or 12.3 ± 4.5 (n 20)")
    mean, sd = (_number(one, "a number") for one in found.group(1, 2))
    if float(sd) < 0:
        raise NotAValue(f"an SD is never negative, as {sd} is")
    return f"{mean} ± {sd}" + (f" (n {_group(found[3])})" if found[3] else "")


def _median_range(typed: str) -> str:
    found = _MEDIAN.fullmatch(typed)
    if not found:
        raise NotAValue(f"“{typed}” is not a median with its range; write 12 (8 to 20) or 12 (8 to 20, n 30)")
    median, low, high = (_number(one, "a number") for one in found.group(1, 2, 3))
    if not float(low) <= float(median) <= float(high):
        raise NotAValue(f"the median {median} does not lie between {low} and {high}")
    return f"{median} ({low} to {high}{f', n {_group(found[4])}' if found[4] else ''})"


def _group(size: str) -> str:
    if int(size) < 1:
        raise NotAValue("a group has at least one in it")
    return str(int(size))


def _date(typed: str) -> str:
    if re.fullmatch(r"\d{4}", typed):
        return typed
    found = _DAY.fullmatch(typed)
    if not found:
        raise NotAValue(f"“{typed}” is not a date; write 2024-05-01, 2024-05 or 2024")
    try:
        day = date(int(found[1]), int(found[2]), int(found[3] or 1))
    except ValueError as error:
        raise NotAValue(f"“{typed}” is not a day of the calendar") from error
    return day.isoformat() if found[3] else day.isoformat()[:7]
