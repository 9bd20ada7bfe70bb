"""Pictures for a closer look: effects against a moderator, both arms' risks, the likelihood of τ². They are read in black and white too."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.picture import PAPER, Palette, document, said
from kettlesort.core.pooling.axes import Axis, text_at
from kettlesort.core.pooling.influence import Profile

_WIDTH, _TOP, _BOTTOM, _LEFT = 480.0, 16.0, 300.0, 64.0


class Point(NamedTuple):
    """A study: where it stands, and its weight, which its circle's area shows beside the others'."""

    name: str
    x: float
    y: float
    weight: float = 0.0


class _Field:
    """A drawing with an axis below and one at the left."""

    def __init__(self, across: Axis, up: Axis, palette: Palette) -> None:
        self.across, self.up, self.ink = across, up, palette
        self.parts: list[str] = []

    def path(
        self, points: Sequence[tuple[float, float]], *, dashes: str = "", fill: str = "none", stroke: str = "", wide: float = 1
    ) -> None:
        at = "L".join(f"{self.across.at(x):.1f} {self.up.at(y):.1f}" for x, y in points)
        style = f' stroke-dasharray="{dashes}"' if dashes else ""
        self.parts.append(f'<path d="M{at}" fill="{fill}" stroke="{stroke or self.ink.ink}" stroke-width="{wide}"{style}/>')

    def circles(self, points: Sequence[Point], heaviest: float) -> None:
        for point in points:
            radius = max(2.5, 13 * (point.weight / heaviest) ** 0.5)
            self.parts.append(
                f'<circle cx="{self.across.at(point.x):.1f}" cy="{self.up.at(point.y):.1f}" r="{radius:.1f}" fill="{self.ink.pine}" fill-opacity=".45" '
                f'stroke="{self.ink.pine}"><title>{said(point.name)}</title></circle>'
            )

    def whole(self, below: str, left: str, title: str) -> str:
        """The drawing with its axes; ``left`` stands above the upright one."""
        a, b = self.across, self.up
        out = [f'<path d="M{a.x1} {b.x2}V{b.x1}H{a.x2}" fill="none" stroke="{self.ink.ink}"/>', *self.parts]
        for value, words in a.ticks():
            out.append(
                f'<path d="M{a.at(value):.1f} {b.x1}v4" stroke="{self.ink.ink}"/>'
                + text_at(a.at(value), b.x1 + 17, words, self.ink.ink, anchor="middle")
            )
        for value, words in b.ticks():
            out.append(
                f'<path d="M{a.x1} {b.at(value):.1f}h-4" stroke="{self.ink.ink}"/>'
                + text_at(a.x1 - 8, b.at(value) + 4, words, self.ink.ink, anchor="end")
            )
        out.append(
            text_at((a.x1 + a.x2) / 2, b.x1 + 36, below, self.ink.soft, anchor="middle") + text_at(8, b.x2 - 12, left, self.ink.soft)
        )
        return document("".join(out), _WIDTH, b.x1 + 48, title, self.ink)


def _span(values: Sequence[float], x1: float, x2: float, *, ratio: bool = False) -> Axis:
    low, high = min(values), max(values)
    rim = 0.06 * (high - low) or max(0.5, 0.1 * abs(low))
    return Axis(low - rim, high + rim, ratio, x1, x2)


def _field(xs: Sequence[float], ys: Sequence[float], palette: Palette, *, ratio: bool = False) -> _Field:
    return _Field(_span(xs, _LEFT, _WIDTH - 16), _span(ys, _BOTTOM, _TOP + 20, ratio=ratio), palette)


def bubble(
    measure: str, moderator: str, points: Sequence[Point], line: Sequence[tuple[float, float, float, float]], palette: Palette = PAPER
) -> str:
    """Effects (up, logarithms for ratios) against a moderator (across). ``line``: x, what is predicted there, and its interval."""
    effects = [point.y for point in points]
    low, high = min(effects), max(effects)
    reach = max(high - low, 0.2)
    ys = [*effects, *(min(max(y, low - reach), high + reach) for _, *some in line for y in some), 0.0]
    drawing = _field([point.x for point in points], ys, palette, ratio=measure in ("OR", "RR"))

    def within(y: float) -> float:
        return min(max(y, drawing.up.low), drawing.up.high)

    drawing.path([(x, within(lower)) for x, _, lower, _ in line], dashes="4 3", stroke=palette.soft)
    drawing.path([(x, within(upper)) for x, _, _, upper in line], dashes="4 3", stroke=palette.soft)
    drawing.path([(drawing.across.low, 0.0), (drawing.across.high, 0.0)], stroke=palette.soft, dashes="1 3")
    drawing.path([(x, within(y)) for x, y, _, _ in line], wide=1.6)
    drawing.circles(points, max((point.weight for point in points), default=1.0) or 1.0)
    return drawing.whole(moderator, measure, f"{measure} against {moderator}, {len(points)} studies")


def labbe(measure: str, points: Sequence[Point], pooled: float, heads: tuple[str, str], palette: Palette = PAPER) -> str:
    """Risks of both sides (L'Abbé KA et al. Ann Intern Med 1987;107:224-233): x that of the second side, y that of the first, 0 to 1; where both are equal, and where ``pooled`` lies."""
    most = min(1.0, 1.1 * max(max(point.x, point.y) for point in points) or 1.0)
    drawing = _Field(Axis(0.0, most, False, _LEFT, _LEFT + _BOTTOM - _TOP - 20), Axis(0.0, most, False, _BOTTOM, _TOP + 20), palette)
    drawing.path([(0.0, 0.0), (most, most)], stroke=palette.soft)
    curve = [(x, y) for x, y in ((k * most / 100, _risk(measure, k * most / 100, pooled)) for k in range(101)) if 0 <= y <= most]
    if len(curve) > 1:
        drawing.path(curve, dashes="4 3")
    drawing.circles(points, max((point.weight for point in points), default=1.0) or 1.0)
    return drawing.whole(f"Risk, {heads[1]}; dashed: the pooled {measure}", f"Risk, {heads[0]}", f"Risks of {len(points)} studies")


def _risk(measure: str, risk: float, pooled: float) -> float:
    """The risk on the first side, given that on the second and what is pooled."""
    if measure == "RD":
        return risk + pooled
    if measure == "RR":
        return risk * math.exp(pooled)
    odds = math.exp(pooled) * risk
    return odds / (1 - risk + odds)


def curve(profile: Profile, method: str, level: float, palette: Palette = PAPER) -> str:
    """The log likelihood of τ² below its maximum; a bar where the interval by likelihood ratio lies."""
    floor = max(float(profile.height.min()), -4.0)
    points = [(float(x), float(y)) for x, y in zip(profile.tau2, profile.height, strict=True) if y >= floor]
    drawing = _field([x for x, _ in points], [0.0, floor], palette)
    drawing.path(points, wide=1.6)
    foot = drawing.up.low
    drawing.path([(profile.best, foot), (profile.best, 0.0)], stroke=palette.soft, dashes="2 3")
    drawing.path([(profile.low, foot), (min(profile.high, drawing.across.high), foot)], wide=5, stroke=palette.pine)
    return drawing.whole(
        f"τ²; bar: {100 * level:g} % interval by likelihood ratio", f"log likelihood less its maximum ({method})", "Likelihood of τ²"
    )
