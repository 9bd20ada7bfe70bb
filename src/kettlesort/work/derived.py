"""Values that are worked out from other numbers: of the same group, of two measurements, of several arms, of two groups against each other."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from math import isfinite
from typing import Any, NamedTuple

from kettlesort.core.charting.items import Item
from kettlesort.core.charting.values import NotAValue, parsed, worded
from kettlesort.core.pooling.derive import (
    GIVENS,
    LEVEL,
    WAYS,
    Contradiction,
    Group,
    derive,
    doubts,
    joined,
    of_change,
    of_difference,
    of_ratio,
)

CHANGE = ("mean1", "sd1", "mean2", "sd2", "correlation", "n")


class WorkedOut(NamedTuple):
    """A value in its normal form, by which formula it was had, and what of the numbers does not go together."""

    text: str
    by: str
    doubts: Sequence[str] = ()


def of_group(item: Item, givens: Mapping[str, float]) -> WorkedOut:
    """A mean with its SD from what else is known of a group. Raises NotAValue."""
    if item.kind != "mean_sd":
        raise NotAValue("only a mean with its SD is worked out so")
    group = Group(**{name: value for name, value in givens.items() if name in GIVENS})
    found = _without_contradiction(lambda: derive(group))
    if found.mean is None or found.sd is None:
        missing = "mean" if found.mean is None else "SD"
        raise NotAValue(
            f"no {missing} follows from these numbers yet; it takes n, and an SE, an interval, quartiles with the median, or a range with it"
        )
    by = WAYS[found.mean_by] if found.mean_by == found.sd_by else f"mean: {WAYS[found.mean_by]}; SD: {WAYS[found.sd_by]}"
    return WorkedOut(_mean_sd(item, found.mean, found.sd, group.n), by, doubts(group))


def of_measurements(item: Item, givens: Mapping[str, float]) -> WorkedOut:
    """The change between two measurements of a group, with the correlation that is assumed. Raises NotAValue."""
    if item.kind != "mean_sd":
        raise NotAValue("only a mean with its SD is worked out so")
    missing = next((name for name in CHANGE[:5] if name not in givens), None)
    if missing:
        raise NotAValue(f"{missing} is missing")
    mean, sd = _without_contradiction(lambda: of_change(*(givens[name] for name in CHANGE[:5])))
    by = f"second less first, SD = √(sd1² + sd2² − 2 r sd1 sd2) with r = {givens['correlation']:g} assumed (Higgins 2019, 6.5.2.8)"
    return WorkedOut(_mean_sd(item, mean, sd, givens.get("n")), by)


def of_arms(item: Item, texts: Sequence[str]) -> WorkedOut:
    """Several arms as one: events and totals added, or means and SDs joined exactly. Raises NotAValue."""
    if item.kind not in ("counts", "mean_sd"):
        raise NotAValue("only counts, and means with their SD and n, are joined")
    values = [parsed(item, text) for text in texts if text]
    if len(values) < len(texts) or len(texts) < 2 or any(value is None for value in values):
        raise NotAValue("one of the arms has no value to be joined")
    if item.kind == "counts":
        events, total = (sum(value[name] for value in values) for name in ("events", "total"))
        return WorkedOut(worded(item, {"events": events, "total": total}), "events and totals added")
    if any(value["n"] is None for value in values):
        raise NotAValue("one of the arms has no n; write it as 12.3 ± 4.5 (n 20)")
    n, mean, sd = joined([(value["n"], value["mean"], value["sd"]) for value in values])
    return WorkedOut(_mean_sd(item, mean, sd, n), "groups joined exactly (Higgins 2019, 6.5.2.10)")


def of_two_groups(item: Item, way: str, givens: Mapping[str, float]) -> WorkedOut:
    """A number on two groups against each other: the logarithm of a ratio, its standard error, or that of a difference of means. Raises NotAValue."""
    if item.kind != "number":
        raise NotAValue("only a number is worked out so")
    wanted = ("difference", "p", "n1", "n2") if way == "difference_se" else ("ratio", "ci_low", "ci_high")
    missing = next((name for name in wanted if name not in givens), None)
    if missing:
        raise NotAValue(f"{missing.replace('_', ' ')} is missing")
    if way == "difference_se":
        found = _without_contradiction(lambda: of_difference(givens["difference"], givens["p"], givens["n1"], givens["n2"]))[0]
        return WorkedOut(_number(item, found), "SE of a difference of means, from p by t on n1 + n2 − 2 degrees (Higgins 2019, 6.5.2.3)")
    level = givens.get("level", LEVEL)
    estimate, se = _without_contradiction(lambda: of_ratio(givens["ratio"], givens["ci_low"], givens["ci_high"], level))
    if way == "log_ratio":
        return WorkedOut(_number(item, estimate), "natural logarithm of the ratio")
    return WorkedOut(_number(item, se), f"SE of the logarithm, (ln high − ln low) / 2z at {100 * level:g} %")


def of(item: Item, source: Mapping[str, Any], texts: Sequence[str]) -> WorkedOut:
    """A value from its ``source``: the numbers of a group, a change, or arms, of which ``texts`` are the values. Raises NotAValue."""
    match source["way"]:
        case "group":
            return of_group(item, source["givens"])
        case "change":
            return of_measurements(item, source["givens"])
        case "log_ratio" | "log_se" | "difference_se" as way:
            return of_two_groups(item, way, source["givens"])
        case _:
            return of_arms(item, texts)


def _without_contradiction(work: Any) -> Any:
    try:
        return work()
    except Contradiction as error:
        raise NotAValue(f"{error.column}: {error}") from error
    except (OverflowError, ZeroDivisionError, ValueError) as error:
        raise NotAValue("these numbers are too large or too small to be worked with") from error


def _number(item: Item, value: float) -> str:
    if not isfinite(value):
        raise NotAValue("these numbers are too large to be worked with")
    return worded(item, float(f"{value:.6g}"))


def _mean_sd(item: Item, mean: float, sd: float, n: float | None) -> str:
    if not (isfinite(mean) and isfinite(sd)):
        raise NotAValue("these numbers are too large to be worked with")
    return worded(item, {"mean": float(f"{mean:.6g}"), "sd": float(f"{sd:.6g}"), "n": None if n is None else int(n)})
