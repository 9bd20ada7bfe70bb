"""Forest and funnel plots as SVG, and from it as PNG and PDF. They are read in black and white too."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from kettlesort.core.picture import PAPER, Palette, document, pdf, png, said
from kettlesort.core.pooling.axes import Axis, text_at

_ROW = 20
_LEFT, _AXIS, _FIGURES = 228, 304, 200
"""How wide names, the axis, and figures with weights are, in units."""


class Line(NamedTuple):
    """A study, or what is pooled: estimate and interval on the scale of the axis (logarithms for ratios), weight in per cent; None where there is none.

    ``columns``: what each arm says, as text. ``group``: the subgroup that it stands under. ``link``: where a click leads. ``out``: it is left out by hand.
    """

    name: str
    estimate: float | None
    ci: tuple[float, float] | None
    weight: float = 0.0
    note: str = ""
    columns: tuple[str, ...] = ()
    group: str = ""
    link: str = ""
    out: bool = False


class Labels(NamedTuple):
    """What a forest plot says besides its numbers: heads over the arms' columns, what lies to the left and to the right of no effect, a line below."""

    heads: tuple[str, ...] = ()
    left: str = ""
    right: str = ""
    below: str = ""


def _axis(lines: Sequence[Line], ratio: bool, x1: float, x2: float) -> Axis:
    """An axis that holds every estimate, and intervals as far as they are not much wider than all estimates."""
    known = [line.estimate for line in lines if line.estimate is not None] + [0.0]
    low, high = min(known), max(known)
    reach = max(0.5 * (high - low), 0.2)
    ends = [end for line in lines if line.ci for end in line.ci]
    return Axis(max(min([low, *ends]), low - reach) - 0.02 * reach, min(max([high, *ends]), high + reach) + 0.02 * reach, ratio, x1, x2)


def _shown(line: Line, ratio: bool) -> str:
    if line.estimate is None or line.ci is None:
        return line.note
    numbers = [math.exp(x) if ratio and x < 700 else x for x in (line.estimate, *line.ci)]
    return "{:.2f} [{:.2f}, {:.2f}]".format(*numbers)


def forest(
    measure: str, studies: Sequence[Line], pooled: Line, prediction: tuple[float, float] | None, *, groups: Sequence[Line] = (), labels: Labels = Labels(),
    palette: Palette = PAPER,
) -> str:  # fmt: skip
    """A forest plot: a square for each study, its area as its weight, the pooled figure as a diamond, the prediction interval as a bar below it. An arrow says
    that an interval goes on. Studies of a subgroup stand under its name and have a diamond of their own, which ``groups`` gives by that name; a study that is left
    out is drawn hollow."""
    ratio = measure in ("OR", "RR")
    wide = [
        _wide([head, *(line.columns[k] for line in (*studies, pooled) if len(line.columns) > k)]) for k, head in enumerate(labels.heads)
    ]
    ends = tuple(_LEFT + sum(wide[: k + 1]) for k in range(len(wide)))
    left = (ends[-1] if ends else _LEFT) + 12
    axis = _axis([*studies, *groups, pooled], ratio, left, left + _AXIS)
    width = left + _AXIS + 16 + _FIGURES + 62
    drawing = _Forest(measure, ratio, axis, width, palette, max((study.weight for study in studies), default=0) or 1, ends)
    drawing.heads(labels)
    of = {group.name: group for group in groups}
    for name in [*of, ""] if of else [""]:
        members = [study for study in studies if (study.group if study.group in of else "") == name]
        if name or (of and members):
            drawing.heading(name or "In no group")
        for member in members:
            drawing.study(member, indent=bool(of))
        if name:
            drawing.diamond(of[name], small=True)
    bottom = drawing.rule()
    drawing.diamond(pooled)
    if prediction:
        drawing.prediction(prediction, pooled)
    return drawing.whole(labels, bottom, pooled, len(studies))


class _Forest:
    """A forest plot in the making, row by row."""

    def __init__(
        self, measure: str, ratio: bool, axis: Axis, width: float, palette: Palette, heaviest: float, ends: Sequence[float]
    ) -> None:
        self._measure, self._ratio, self._axis, self._width, self._ink = measure, ratio, axis, width, palette
        self._heaviest = heaviest
        self._ends = ends
        self._parts: list[str] = []
        self._y = 18.0
        self._figures = axis.x2 + 16

    def _say(self, x: float, text: str, *, anchor: str = "start", bold: bool = False, soft: bool = False) -> None:
        self._parts.append(text_at(x, self._y, text, self._ink.soft if soft else self._ink.ink, anchor=anchor, bold=bold))

    def heads(self, labels: Labels) -> None:
        self._say(8, "Study", bold=True)
        for x, head in zip(self._ends, labels.heads, strict=True):
            self._say(x, _short(head, 30), anchor="end", bold=True)
        self._say(self._figures, f"{self._measure} [interval]", bold=True)
        self._say(self._width - 8, "Weight", anchor="end", bold=True)

    def heading(self, name: str) -> None:
        self._y += _ROW + 4
        self._say(8, _short(name, 40), bold=True)

    def study(self, line: Line, *, indent: bool) -> None:
        self._y += _ROW
        y, at = self._y - 4, 20 if indent else 8
        begun = len(self._parts)
        self._say(at, _short(line.name, 34 if indent else 36), soft=line.out)
        for x, column in zip(self._ends, line.columns, strict=False):
            self._say(x, column, anchor="end", soft=line.out)
        self._say(self._figures, _shown(line, self._ratio) if line.ci else _short(line.note, 36), soft=line.ci is None or line.out)
        if line.estimate is not None and line.ci is not None:
            if not line.out:
                self._say(self._width - 8, f"{line.weight:.1f} %", anchor="end")
            self._parts.append(_whisker(self._axis, line.ci, y, self._ink.soft if line.out else self._ink.ink))
            side = 7.0 if line.out else max(2.0, 12 * (line.weight / self._heaviest) ** 0.5)
            fill = f'fill="{self._ink.sheet}" stroke="{self._ink.soft}"' if line.out else f'fill="{self._ink.pine}"'
            self._parts.append(
                f'<rect x="{self._axis.at(line.estimate) - side / 2:.1f}" y="{y - side / 2:.1f}" width="{side:.1f}" height="{side:.1f}" {fill}/>'
            )
        if line.link:
            row = "".join(self._parts[begun:])
            self._parts[begun:] = [f'<a href="{said(line.link)}">{row}</a>']

    def rule(self) -> float:
        self._y += _ROW + 4
        self._parts.append(f'<path d="M8 {self._y - 15:.1f}H{self._width - 8:.1f}" stroke="{self._ink.hair}"/>')
        self._y -= _ROW
        return self._y

    def diamond(self, line: Line, *, small: bool = False) -> None:
        self._y += _ROW
        name = f"Together{f', {line.note}' if line.note else ''}" if small else line.name
        self._say(20 if small else 8, name, bold=True, soft=small)
        for x, column in zip(self._ends, line.columns, strict=False):
            self._say(x, column, anchor="end", bold=True, soft=small)
        self._say(self._figures, _shown(line, self._ratio), bold=True)
        if line.ci and line.estimate is not None:
            low, high = (self._axis.at(min(max(end, self._axis.low), self._axis.high)) for end in line.ci)
            middle, y, high_ = self._axis.at(line.estimate), self._y - 4, 5 if small else 6
            fill = f'fill="{self._ink.sheet}" stroke="{self._ink.ink}"' if small else f'fill="{self._ink.ink}"'
            self._parts.append(
                f'<polygon points="{low:.1f},{y:.1f} {middle:.1f},{y - high_:.1f} {high:.1f},{y:.1f} {middle:.1f},{y + high_:.1f}" {fill}/>'
            )

    def prediction(self, ci: tuple[float, float], pooled: Line) -> None:
        self._y += _ROW
        self._say(8, "Prediction for a new study")
        self._parts.append(_whisker(self._axis, ci, self._y - 4, self._ink.ink, wide=4))
        self._say(self._figures, _shown(Line("", pooled.estimate, ci), self._ratio).partition(" ")[2])

    def whole(self, labels: Labels, bottom: float, pooled: Line, k: int) -> str:
        axis, foot = self._axis, self._y + 12
        zero, centre = axis.at(0), axis.at(pooled.estimate or 0)
        ground = (
            f'<path d="M{zero:.1f} 26V{foot:.1f}" stroke="{self._ink.soft}"/>'
            f'<path d="M{centre:.1f} 26V{foot:.1f}" stroke="{self._ink.soft}" stroke-dasharray="2 3"/>'
        )
        out = [ground, *self._parts, f'<path d="M{axis.x1} {foot:.1f}H{axis.x2}" stroke="{self._ink.ink}"/>']
        for value, words in axis.ticks():
            x = axis.at(value)
            out.append(
                f'<path d="M{x:.1f} {foot:.1f}v4" stroke="{self._ink.ink}"/>' + text_at(x, foot + 16, words, self._ink.ink, anchor="middle")
            )
        tall = foot + 24
        if labels.left or labels.right:
            tall += _ROW
            out.append(text_at(min(zero, axis.x2) - 8, tall - 8, f"← {labels.left}" if labels.left else "", self._ink.soft, anchor="end"))
            out.append(text_at(max(zero, axis.x1) + 8, tall - 8, f"{labels.right} →" if labels.right else "", self._ink.soft))
        if labels.below:
            tall += _ROW
            out.append(text_at(8, tall - 8, labels.below, self._ink.soft))
        return document("".join(out), self._width, tall, f"Forest plot of {k} studies", self._ink)


def _wide(texts: Sequence[str]) -> float:
    """How wide a column of texts is, with what parts it from the one before."""
    return 20 + max(60.0, 6.7 * max(len(_short(text, 30)) for text in texts))


def _short(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def _whisker(axis: Axis, ci: tuple[float, float], y: float, colour: str, wide: float = 1.2) -> str:
    x1, x2 = axis.at(max(ci[0], axis.low)), axis.at(min(ci[1], axis.high))
    ends = ""
    if ci[0] < axis.low:
        ends += f'<polygon points="{x1:.1f},{y} {x1 + 6:.1f},{y - 3.5} {x1 + 6:.1f},{y + 3.5}" fill="{colour}"/>'
    if ci[1] > axis.high:
        ends += f'<polygon points="{x2:.1f},{y} {x2 - 6:.1f},{y - 3.5} {x2 - 6:.1f},{y + 3.5}" fill="{colour}"/>'
    return f'<path d="M{x1:.1f} {y}H{x2:.1f}" stroke="{colour}" stroke-width="{wide}"/>{ends}'


def funnel(measure: str, studies: Sequence[tuple[str, float, float]], pooled: float, palette: Palette = PAPER) -> str:
    """A funnel plot: estimate across, standard error downwards; dotted where p is 0.05 and 0.01 against no effect, a line at the pooled figure."""
    ratio = measure in ("OR", "RR")
    largest = 1.08 * max(se for _, _, se in studies)
    reach = max([abs(y) for _, y, _ in studies] + [2.0 * largest, abs(pooled)]) * 1.05
    width, top, bottom = 480.0, 24, 320
    axis = Axis(-reach, reach, ratio, 70, width - 20)

    def down(se: float) -> float:
        return top + se / largest * (bottom - top)

    parts = [text_at(12, top + 4, "SE 0", palette.soft), text_at(12, bottom, f"{largest:.2g}", palette.soft)]
    for z, dots in ((1.959964, "1 3"), (2.575829, "4 3")):
        far = min(z * largest, reach)
        parts.append(
            f'<path d="M{axis.at(-far):.1f} {down(far / z):.1f}L{axis.at(0):.1f} {top}L{axis.at(far):.1f} {down(far / z):.1f}" fill="none" '
            f'stroke="{palette.soft}" stroke-dasharray="{dots}"/>'
        )
    parts.append(
        f'<path d="M{axis.at(pooled):.1f} {top}V{bottom}" stroke="{palette.ink}"/><path d="M{axis.x1} {bottom}H{axis.x2}" stroke="{palette.ink}"/>'
    )
    for name, y, se in studies:
        parts.append(
            f'<circle cx="{axis.at(y):.1f}" cy="{down(se):.1f}" r="3.5" fill="{palette.pine}" fill-opacity=".75"><title>{said(name)}</title></circle>'
        )
    for value, words in axis.ticks():
        parts.append(text_at(axis.at(value), bottom + 16, words, palette.ink, anchor="middle"))
    parts.append(
        text_at((axis.x1 + axis.x2) / 2, bottom + 36, f"{measure}; dotted: p = 0.05, dashed: p = 0.01", palette.soft, anchor="middle")
    )
    return document("".join(parts), width, bottom + 50, f"Funnel plot of {len(studies)} studies", palette)


def drawn(svg: str, kind: str) -> bytes:
    """A picture as ``svg``, ``png`` or ``pdf``."""
    return svg.encode() if kind == "svg" else png(svg) if kind == "png" else pdf(svg)
