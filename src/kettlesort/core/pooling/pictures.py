"""Forest and funnel plots as SVG, and from it as PNG and PDF. They are read in black and white too."""

from __future__ import annotations

import math
from collections.abc import Sequence
from html import escape
from typing import NamedTuple

from kettlesort.core.text.clean import for_xml

_INK, _SOFT, _HAIR, _FILL = "#22262A", "#5E6872", "#D8D1C4", "#1F5F5B"
_FONT = "Public Sans, DejaVu Sans, sans-serif"
_WIDTH, _ROW = 760, 20
_LEFT, _RIGHT = 236, 540
_TICKS = [m * 10.0**e for e in range(-6, 7) for m in (1, 2, 5)]


class Line(NamedTuple):
    """A study, or what is pooled: estimate and interval on the scale of the axis (logarithms for ratios), weight in per cent; None where there is none."""

    name: str
    estimate: float | None
    ci: tuple[float, float] | None
    weight: float = 0.0
    note: str = ""


class Axis(NamedTuple):
    """From where to where, in numbers and in pixels, and whether the numbers are logarithms."""

    low: float
    high: float
    ratio: bool

    def at(self, value: float) -> float:
        """The place of a value, in pixels."""
        return _LEFT + (value - self.low) / (self.high - self.low) * (_RIGHT - _LEFT)

    def ticks(self) -> list[tuple[float, str]]:
        """Round numbers along the axis."""
        if self.ratio:
            said = [it for it in _TICKS if self.low <= math.log(it) <= self.high]
            if len(said) > 7:
                said = [it for it in said if f"{it:e}".startswith("1.")]
            return [(math.log(it), f"{it:g}") for it in said]
        step = 10 ** math.floor(math.log10((self.high - self.low) / 3))
        step *= next(m for m in (1, 2, 5, 10) if (self.high - self.low) / (step * m) <= 7)
        first = math.ceil(self.low / step)
        return [(k * step, f"{k * step:g}") for k in range(first, math.floor(self.high / step) + 1)]


def _axis(lines: Sequence[Line], ratio: bool) -> Axis:
    """An axis that holds every estimate, and intervals as far as they are not much wider than all estimates."""
    said = [it.estimate for it in lines if it.estimate is not None] + [0.0]
    low, high = min(said), max(said)
    reach = max(0.5 * (high - low), 0.2)
    ends = [end for it in lines if it.ci for end in it.ci]
    return Axis(max(min([low, *ends]), low - reach) - 0.02 * reach, min(max([high, *ends]), high + reach) + 0.02 * reach, ratio)


def _text(x: float, y: float, said: str, *, anchor: str = "start", bold: bool = False, colour: str = _INK) -> str:
    weight = ' font-weight="600"' if bold else ""
    return f'<text x="{x:.1f}" y="{y:.1f}" text-anchor="{anchor}" fill="{colour}"{weight}>{escape(for_xml(said))}</text>'


def _shown(it: Line, ratio: bool) -> str:
    if it.estimate is None or it.ci is None:
        return it.note
    numbers = [math.exp(x) if ratio and x < 700 else x for x in (it.estimate, *it.ci)]
    return "{:.2f} [{:.2f}, {:.2f}]".format(*numbers)


def forest(measure: str, studies: Sequence[Line], pooled: Line, prediction: tuple[float, float] | None) -> str:
    """A forest plot: a square for each study, its area as its weight, the pooled figure as a diamond, the prediction interval as a bar below it. An arrow says that an interval goes on."""
    ratio = measure in ("OR", "RR")
    axis = _axis([*studies, pooled], ratio)
    tall = (len(studies) + 5) * _ROW + 24
    parts = [
        _text(8, 18, "Study", bold=True),
        _text(_RIGHT + 20, 18, f"{measure} [interval]", bold=True),
        _text(_WIDTH - 8, 18, "Weight", anchor="end", bold=True),
    ]
    bottom = (len(studies) + 3) * _ROW + 6
    zero, centre = axis.at(0), axis.at(pooled.estimate or 0)
    parts.append(
        f'<path d="M{zero:.1f} 26V{bottom}" stroke="{_SOFT}"/><path d="M{centre:.1f} 26V{bottom}" stroke="{_SOFT}" stroke-dasharray="2 3"/>'
    )
    heaviest = max((it.weight for it in studies), default=0) or 1
    for k, it in enumerate(studies, 1):
        y = k * _ROW + 18
        parts.append(_text(8, y, it.name if len(it.name) < 36 else it.name[:34] + "…"))
        parts.append(_text(_RIGHT + 20, y, _shown(it, ratio), colour=_INK if it.ci else _SOFT))
        if it.estimate is None or it.ci is None:
            continue
        parts.append(_text(_WIDTH - 8, y, f"{it.weight:.1f} %", anchor="end"))
        parts.append(_whisker(axis, it.ci, y - 4))
        side = max(2.0, 12 * (it.weight / heaviest) ** 0.5)
        parts.append(
            f'<rect x="{axis.at(it.estimate) - side / 2:.1f}" y="{y - 4 - side / 2:.1f}" width="{side:.1f}" height="{side:.1f}" fill="{_FILL}"/>'
        )
    y = (len(studies) + 1) * _ROW + 22
    parts.append(
        f'<path d="M8 {y - 15}H{_WIDTH - 8}" stroke="{_HAIR}"/>'
        + _text(8, y, pooled.name, bold=True)
        + _text(_RIGHT + 20, y, _shown(pooled, ratio), bold=True)
    )
    if pooled.ci:
        low, high = (axis.at(min(max(end, axis.low), axis.high)) for end in pooled.ci)
        parts.append(f'<polygon points="{low:.1f},{y - 4} {centre:.1f},{y - 10} {high:.1f},{y - 4} {centre:.1f},{y + 2}" fill="{_INK}"/>')
    if prediction:
        y += _ROW
        parts.append(_text(8, y, "Prediction for a new study") + _whisker(axis, prediction, y - 4, wide=4))
        parts.append(_text(_RIGHT + 20, y, _shown(Line("", pooled.estimate, prediction), ratio).partition(" ")[2]))
    parts.append(f'<path d="M{_LEFT} {bottom}H{_RIGHT}" stroke="{_INK}"/>')
    for value, said in axis.ticks():
        parts.append(
            f'<path d="M{axis.at(value):.1f} {bottom}v4" stroke="{_INK}"/>' + _text(axis.at(value), bottom + 16, said, anchor="middle")
        )
    return _document(_WIDTH, tall, f"Forest plot of {len(studies)} studies", parts)


def _whisker(axis: Axis, ci: tuple[float, float], y: float, wide: float = 1.2) -> str:
    low, high = max(ci[0], axis.low), min(ci[1], axis.high)
    x1, x2 = axis.at(low), axis.at(high)
    ends = ""
    if ci[0] < axis.low:
        ends += f'<polygon points="{x1:.1f},{y} {x1 + 6:.1f},{y - 3.5} {x1 + 6:.1f},{y + 3.5}" fill="{_INK}"/>'
    if ci[1] > axis.high:
        ends += f'<polygon points="{x2:.1f},{y} {x2 - 6:.1f},{y - 3.5} {x2 - 6:.1f},{y + 3.5}" fill="{_INK}"/>'
    return f'<path d="M{x1:.1f} {y}H{x2:.1f}" stroke="{_INK}" stroke-width="{wide}"/>{ends}'


def funnel(measure: str, studies: Sequence[tuple[str, float, float]], pooled: float) -> str:
    """A funnel plot: estimate across, standard error downwards; dotted where p is 0.05 and 0.01 against no effect, a line at the pooled figure."""
    ratio = measure in ("OR", "RR")
    largest = 1.08 * max(se for _, _, se in studies)
    reach = max([abs(y) for _, y, _ in studies] + [2.0 * largest, abs(pooled)]) * 1.05
    axis, tall, top, bottom = Axis(-reach, reach, ratio), 420, 24, 370

    def down(se: float) -> float:
        return top + se / largest * (bottom - top)

    parts = [_text(_LEFT - 60, top + 4, "SE 0", colour=_SOFT), _text(_LEFT - 60, bottom, f"{largest:.2g}", colour=_SOFT)]
    for z, dots in ((1.959964, "1 3"), (2.575829, "4 3")):
        far = min(z * largest, reach)
        parts.append(
            f'<path d="M{axis.at(-far):.1f} {down(far / z):.1f}L{axis.at(0):.1f} {top}L{axis.at(far):.1f} {down(far / z):.1f}" fill="none" stroke="{_SOFT}" stroke-dasharray="{dots}"/>'
        )
    parts.append(f'<path d="M{axis.at(pooled):.1f} {top}V{bottom}" stroke="{_INK}"/><path d="M{_LEFT} {bottom}H{_RIGHT}" stroke="{_INK}"/>')
    for name, y, se in studies:
        parts.append(
            f'<circle cx="{axis.at(y):.1f}" cy="{down(se):.1f}" r="3.5" fill="{_FILL}" fill-opacity=".75"><title>{escape(for_xml(name))}</title></circle>'
        )
    for value, said in axis.ticks():
        parts.append(_text(axis.at(value), bottom + 16, said, anchor="middle"))
    parts.append(_text((_LEFT + _RIGHT) / 2, bottom + 36, f"{measure}; dotted: p = 0.05, dashed: p = 0.01", anchor="middle", colour=_SOFT))
    return _document(_WIDTH, tall, f"Funnel plot of {len(studies)} studies", parts)


def _document(width: int, tall: int, title: str, parts: Sequence[str]) -> str:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width} {tall}" width="{width}" height="{tall}" font-family="{_FONT}" font-size="12" '
        f'role="img" aria-label="{escape(title)}"><rect width="{width}" height="{tall}" fill="#FFFFFF"/>{"".join(parts)}</svg>'
    )


def drawn(svg: str, kind: str) -> bytes:
    """A picture as ``svg``, ``png`` or ``pdf``."""
    if kind == "svg":
        return svg.encode()
    import cairosvg

    made: bytes = cairosvg.svg2png(bytestring=svg.encode(), scale=2) if kind == "png" else cairosvg.svg2pdf(bytestring=svg.encode())
    return made
