"""Forest plots as SVG, in the width of a page or of a journal's column. They are read in black and white too."""

from __future__ import annotations

import math
import textwrap
from collections.abc import Sequence
from itertools import zip_longest
from typing import Literal, NamedTuple

from kettlesort.core.picture import PAPER, SCREEN, Palette, document, said
from kettlesort.core.pooling.axes import Axis, text_at

Width = Literal["page", "column"]
MILLIMETRES: dict[Width, int] = {"page": 178, "column": 85}
"""How wide a picture is on paper."""
_ROW = 20
_SIGN = 6.7
"""How wide a sign is, in units, on average and rather too wide."""
_PAGE_NAMES, _PAGE_AXIS = 228.0, 304.0
_COLUMN, _COLUMN_NAMES, _COLUMN_AXIS = 413.0, 150.0, 110.0
"""The width of a column in units, so that its letters are of 7 points; at most for names, at least for the axis."""


class Line(NamedTuple):
    """A study, or what is pooled: estimate and interval on the scale of the axis (logarithms for ratios), weight in per cent; None where there is none.

    ``columns``: what each arm says, as text. ``beside``: what stands beside its name. ``group``: the subgroup that it stands under. ``link``: where a click leads.
    ``out``: it is left out by hand.
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
    beside: tuple[str, ...] = ()


class Labels(NamedTuple):
    """What a forest plot says besides its numbers: heads over the arms' columns and over those beside the names, what lies to the left and to the right of no effect,
    a line below. ``effect`` and ``weight``: whether these stand there in numbers."""

    heads: tuple[str, ...] = ()
    left: str = ""
    right: str = ""
    below: str = ""
    beside: tuple[str, ...] = ()
    effect: bool = True
    weight: bool = True


class _Places(NamedTuple):
    """Where columns are: left edges ``beside`` the names, right edges of the arms' ``figures``, the axis, the left edge of effects, the right edge of weights."""

    names: float
    beside: dict[int, float]
    figures: dict[int, float]
    axis: tuple[float, float]
    effect: float | None
    weight: float | None
    width: float

    def signs(self, begin: float, end: float) -> int:
        """How many signs of a text there is room for."""
        return max(1, int((end - begin) / _SIGN))


def forest(
    measure: str, studies: Sequence[Line], pooled: Line, prediction: tuple[float, float] | None, *, groups: Sequence[Line] = (), labels: Labels = Labels(),
    palette: Palette = PAPER, width: Width = "page",
) -> str:  # fmt: skip
    """A forest plot: a square for each study, its area as its weight, the pooled figure as a diamond, the prediction interval as a bar below it. An arrow says
    that an interval goes on. Studies of a subgroup stand under its name and have a diamond of their own, which ``groups`` gives by that name; a study that is left
    out is drawn hollow. In the width of a column there stands what has room there: effects first, then weights, the arms' figures, what is beside the names."""
    ratio = measure in ("OR", "RR")
    places = _placed([*studies, pooled], labels, ratio, narrow=width == "column", indented=bool(groups))
    axis = _axis([*studies, *groups, pooled], ratio, *places.axis)
    drawing = _Forest(measure, axis, places, palette, max((study.weight for study in studies), default=0) or 1)
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
    return drawing.whole(labels, bottom, pooled, len(studies), None if palette is SCREEN else MILLIMETRES[width])


def _placed(lines: Sequence[Line], labels: Labels, ratio: bool, *, narrow: bool, indented: bool) -> _Places:
    """Where each column stands. A page is as wide as all of them; a column has those that there is room for."""
    beside = [_wide([head, *_texts(lines, "beside", k)]) for k, head in enumerate(labels.beside)]
    figures = [_wide([head, *_texts(lines, "columns", k)]) for k, head in enumerate(labels.heads)]
    effect = 16.0 + (_SIGN * max((len(_shown(line, ratio)) for line in lines if line.ci), default=20) if narrow else 184)
    wanted = {("effect", 0): effect if labels.effect else 0.0, ("weight", 0): 62.0 if labels.weight else 0.0}
    wanted |= {("figures", k): wide for k, wide in enumerate(figures)} | {("beside", k): wide for k, wide in enumerate(beside)}
    longest = _SIGN * max((len(line.name) for line in lines), default=0) + (12 if indented else 0)
    names = min(_COLUMN_NAMES, 12 + longest) if narrow else _PAGE_NAMES
    has = dict(wanted)
    if narrow:
        room, has = _COLUMN - names - 20 - _COLUMN_AXIS, {}
        for column, wide in wanted.items():
            if wide <= room:
                has[column], room = wide, room - wide
        if sum(name == "figures" for name, _ in has) < len(figures):  # one side without the other says nothing
            has = {column: wide for column, wide in has.items() if column[0] != "figures"}
    x, left, right = names, dict[int, float](), dict[int, float]()
    for k in range(len(beside)):
        if ("beside", k) in has:
            left[k], x = x, x + beside[k]
    for k in range(len(figures)):
        if ("figures", k) in has:
            x += figures[k]
            right[k] = x
    after = has.get(("effect", 0), 0.0) + has.get(("weight", 0), 0.0)
    x1 = x + 12
    x2 = _COLUMN - 8 - after if narrow else x1 + _PAGE_AXIS
    width = _COLUMN if narrow else x2 + max(after, 16)
    return _Places(
        names, left, right, (x1, x2), x2 + 16 if has.get(("effect", 0)) else None, width - 8 if has.get(("weight", 0)) else None, width
    )


def _texts(lines: Sequence[Line], name: str, k: int) -> list[str]:
    return [texts[k] for line in lines if len(texts := getattr(line, name)) > k]


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


class _Forest:
    """A forest plot in the making, row by row."""

    def __init__(self, measure: str, axis: Axis, places: _Places, palette: Palette, heaviest: float) -> None:
        self._measure, self._axis, self._at, self._ink = measure, axis, places, palette
        self._heaviest = heaviest
        self._parts: list[str] = []
        self._y = 18.0
        self._names_end = min([*places.beside.values(), places.names])

    def _say(self, x: float, text: str, *, anchor: str = "start", bold: bool = False, soft: bool = False) -> None:
        self._parts.append(text_at(x, self._y, text, self._ink.soft if soft else self._ink.ink, anchor=anchor, bold=bold))

    def _name(self, x: float, name: str, *, bold: bool = False, soft: bool = False, until: float | None = None) -> None:
        self._say(x, _short(name, self._at.signs(x, until or self._names_end)), bold=bold, soft=soft)

    def _columns(self, line: Line, *, bold: bool = False, soft: bool = False) -> None:
        for texts, edges, anchor in ((line.beside, self._at.beside, "start"), (line.columns, self._at.figures, "end")):
            for k, x in edges.items():
                if k < len(texts):
                    self._say(x, _short(texts[k], _MOST), anchor=anchor, bold=bold, soft=soft)

    def _effect(self, text: str, *, bold: bool = False, soft: bool = False) -> None:
        if self._at.effect is not None:
            self._say(self._at.effect, text, bold=bold, soft=soft)

    def heads(self, labels: Labels) -> None:
        self._say(8, "Study", bold=True)
        self._columns(Line("", None, None, columns=labels.heads, beside=labels.beside), bold=True)
        self._effect(f"{self._measure} [interval]", bold=True)
        if self._at.weight is not None:
            self._say(self._at.weight, "Weight", anchor="end", bold=True)

    def heading(self, name: str) -> None:
        self._y += _ROW + 4
        self._name(8, name, bold=True, until=self._axis.x1)

    def study(self, line: Line, *, indent: bool) -> None:
        self._y += _ROW
        y = self._y - 4
        begun = len(self._parts)
        self._name(20 if indent else 8, line.name, soft=line.out)
        self._columns(line, soft=line.out)
        if line.ci:
            self._effect(_shown(line, self._axis.ratio), soft=line.out)
        else:
            x = self._axis.x1 if self._at.effect is None else self._at.effect
            self._say(x, _short(line.note, self._at.signs(x, self._at.width)), soft=True)
        if line.estimate is not None and line.ci is not None:
            if not line.out and self._at.weight is not None:
                self._say(self._at.weight, f"{line.weight:.1f} %", anchor="end")
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
        self._parts.append(f'<path d="M8 {self._y - 15:.1f}H{self._at.width - 8:.1f}" stroke="{self._ink.hair}"/>')
        self._y -= _ROW
        return self._y

    def diamond(self, line: Line, *, small: bool = False) -> None:
        self._y += _ROW
        name = f"Together{f', {line.note}' if line.note else ''}" if small else line.name
        x = 20 if small else 8
        if small and len(name) > self._at.signs(x, self._names_end):
            name = line.note
        self._name(x, name, bold=True, soft=small)
        self._columns(line, bold=True, soft=small)
        self._effect(_shown(line, self._axis.ratio), bold=True)
        if line.ci and line.estimate is not None:
            low, high = (self._axis.at(min(max(end, self._axis.low), self._axis.high)) for end in line.ci)
            middle, y, tall = self._axis.at(line.estimate), self._y - 4, 5 if small else 6
            fill = f'fill="{self._ink.sheet}" stroke="{self._ink.ink}"' if small else f'fill="{self._ink.ink}"'
            self._parts.append(
                f'<polygon points="{low:.1f},{y:.1f} {middle:.1f},{y - tall:.1f} {high:.1f},{y:.1f} {middle:.1f},{y + tall:.1f}" {fill}/>'
            )

    def prediction(self, ci: tuple[float, float], pooled: Line) -> None:
        self._y += _ROW
        words = "Prediction for a new study"
        self._name(8, words if len(words) <= self._at.signs(8, self._names_end) else "Prediction")
        self._parts.append(_whisker(self._axis, ci, self._y - 4, self._ink.ink, wide=4))
        self._effect(_shown(Line("", pooled.estimate, ci), self._axis.ratio).partition(" ")[2])

    def whole(self, labels: Labels, bottom: float, pooled: Line, k: int, millimetres: float | None) -> str:
        axis, foot, width = self._axis, self._y + 12, self._at.width
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
        left, right = min(zero, axis.x2) - 8, max(zero, axis.x1) + 8
        of_left = textwrap.wrap(f"← {labels.left}" if labels.left else "", self._at.signs(8, left))
        of_right = textwrap.wrap(f"{labels.right} →" if labels.right else "", self._at.signs(right, width))
        for words, other in zip_longest(of_left, of_right, fillvalue=""):
            tall += _ROW
            out.append(text_at(left, tall - 8, words, self._ink.soft, anchor="end") + text_at(right, tall - 8, other, self._ink.soft))
        for words in textwrap.wrap(labels.below, self._at.signs(8, width)):
            tall += _ROW
            out.append(text_at(8, tall - 8, words, self._ink.soft))
        return document("".join(out), width, tall, f"Forest plot of {k} studies", self._ink, millimetres)


_MOST = 30
"""So many signs stand in a column."""


def _wide(texts: Sequence[str]) -> float:
    """How wide a column of texts is, with what parts it from the one before."""
    return 20 + max(40.0, _SIGN * max(len(_short(text, _MOST)) for text in texts))


def _short(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"


def _whisker(axis: Axis, ci: tuple[float, float], y: float, colour: str, wide: float = 1.2) -> str:
    x1, x2 = axis.at(max(ci[0], axis.low)), axis.at(min(ci[1], axis.high))
    ends, half = "", 3 + wide / 2
    if ci[0] < axis.low:
        ends += f'<polygon points="{x1:.1f},{y} {x1 + 6:.1f},{y - half} {x1 + 6:.1f},{y + half}" fill="{colour}"/>'
    if ci[1] > axis.high:
        ends += f'<polygon points="{x2:.1f},{y} {x2 - 6:.1f},{y - half} {x2 - 6:.1f},{y + half}" fill="{colour}"/>'
    return f'<path d="M{x1:.1f} {y}H{x2:.1f}" stroke="{colour}" stroke-width="{wide}"/>{ends}'
