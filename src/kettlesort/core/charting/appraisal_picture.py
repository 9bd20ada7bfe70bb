"""Appraisals drawn: studies and domains as a table of signs, and the share of each judgement as a bar. A sign is told by how full it is before its colour."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from math import cos, pi, sin
from typing import NamedTuple

from kettlesort.core.charting.appraisal import Form, filled
from kettlesort.core.picture import PAPER, Palette, document, said

_ROW, _COLUMN, _HEAD, _R = 30, 64, 132, 9
_WHOLE = "All together"


class Judged(NamedTuple):
    """A study with its judgements by the key of their domain, "" or missing where there is none, and that of the whole."""

    label: str
    by_domain: Mapping[str, str]
    whole: str = ""
    key: str = ""


def sign(form: Form, judgement: str, x: float, y: float, palette: Palette = PAPER, r: float = _R) -> str:
    """The sign of a judgement round a place: a hexagonal cell, the fuller the better; one with a bar across for what stands in no order; a point for none."""
    if judgement not in form.words:
        return f'<circle cx="{x:.1f}" cy="{y:.1f}" r="1.5" fill="{palette.soft}"/>'
    share = filled(form, judgement)
    edge = palette.soft if share is None else _colour(share, palette)
    corners = " ".join(f"{x + r * sin(k * pi / 3):.2f},{y - r * cos(k * pi / 3):.2f}" for k in range(6))
    out = f'<polygon points="{corners}" fill="{palette.sheet}" stroke="{edge}" stroke-width="1.6"/>'
    if share is None:
        return out + f'<path d="M{x - r / 2:.1f} {y:.1f}H{x + r / 2:.1f}" stroke="{edge}" stroke-width="1.6"/>'
    return out + (f'<polygon points="{_part(x, y, r - 2.2, share)}" fill="{edge}"/>' if share else "")


def _part(x: float, y: float, r: float, share: float) -> str:
    """A hexagon filled from its lower corner up to a share of its height."""
    top = y + r - 2 * r * share
    side = r * sin(pi / 3)

    def half(at: float) -> float:
        """Half of its width at a height."""
        away = abs(at - y)
        return side if away <= r / 2 else side * (r - away) / (r / 2)

    heights = sorted({top, y + r, *(value for value in (y - r / 2, y + r / 2, y - r) if value > top)})
    left = [f"{x - half(height):.2f},{height:.2f}" for height in heights]
    right = [f"{x + half(height):.2f},{height:.2f}" for height in reversed(heights)]
    return " ".join(left + right)


def _colour(share: float, palette: Palette) -> str:
    return palette.pine if share > 2 / 3 else palette.ochre if share > 1 / 3 else palette.copper


def table(form: Form, studies: Sequence[Judged], palette: Palette = PAPER, *, link: Callable[[str, str], str] | None = None) -> str:
    """Studies by domains as SVG; ``link`` gives the address of a study's domain."""
    columns = [(domain.key, domain.name) for domain in form.domains] + ([("", _WHOLE)] if form.whole else [])
    first = 20 + min(320, max((_wide(judged.label) for judged in studies), default=60)) + 16
    width = first + len(columns) * _COLUMN + 90
    height = _HEAD + len(studies) * _ROW + 34 + _ROW * _lines(form, width)
    parts = []
    for k, (_, name) in enumerate(columns):
        x = first + k * _COLUMN + _COLUMN / 2
        weight = 600 if name == _WHOLE else 400
        parts.append(
            f'<text transform="translate({x - 4:.1f} {_HEAD - 10}) rotate(-36)" font-size="12" font-weight="{weight}" fill="{palette.ink}">{said(_short(name, 27))}<title>{said(name)}</title></text>'
        )
    for j, study in enumerate(studies):
        y = _HEAD + j * _ROW
        parts.append(f'<path d="M20 {y}H{width - 20:.0f}" stroke="{palette.hair}"/>')
        parts.append(
            f'<text x="20" y="{y + _ROW / 2 + 4}" font-size="12.5" fill="{palette.ink}">{said(_short(study.label, 46))}<title>{said(study.label)}</title></text>'
        )
        for k, (key, name) in enumerate(columns):
            judgement = study.by_domain.get(key, "") if key else study.whole
            drawn = sign(form, judgement, first + k * _COLUMN + _COLUMN / 2, y + _ROW / 2, palette)
            words = f"{study.label}, {name}: {judgement or 'not judged'}"
            if link and key:
                drawn = f'<a href="{said(link(study.key, key))}" aria-label="{said(words)}">{drawn}</a>'
            parts.append(f"<g>{drawn}<title>{said(words)}</title></g>")
    parts.append(_legend(form, 20, _HEAD + len(studies) * _ROW + 30, width, palette))
    return document("".join(parts), width, height, form.name, palette)


def bars(form: Form, studies: Sequence[Judged], palette: Palette = PAPER, *, wide: float = 420) -> str:
    """The share of each judgement, by domain, as SVG. The fuller a part is drawn the better the judgement; its count stands in it."""
    rows = [(domain.name, [study.by_domain.get(domain.key, "") for study in studies]) for domain in form.domains]
    if form.whole:
        rows.append((_WHOLE, [study.whole for study in studies]))
    first = 20 + min(280, max((_wide(name) for name, _ in rows), default=60)) + 14
    width = first + wide + 20
    height = 20 + len(rows) * _ROW + 34 + _ROW * _lines(form, width)
    parts = [_patterns(form, palette)]
    for j, (name, judged) in enumerate(rows):
        y = 16 + j * _ROW
        weight = 600 if name == _WHOLE else 400
        parts.append(
            f'<text x="20" y="{y + 17}" font-size="12.5" font-weight="{weight}" fill="{palette.ink}">{said(_short(name, 42))}<title>{said(name)}</title></text>'
        )
        counts = Counter(one if one in form.words else "" for one in judged)
        x = float(first)
        for k, word in enumerate((*form.words, "")):
            part = wide * counts[word] / max(1, len(judged))
            if part:
                fill = f"url(#judged-{k})" if word else palette.sheet
                words = f"{name}: {word or 'not judged'}, {counts[word]} of {len(judged)}"
                edge = ' stroke-dasharray="2 3"' if not word else ""
                parts.append(
                    f'<rect x="{x:.1f}" y="{y + 3}" width="{part:.1f}" height="18" fill="{fill}" stroke="{palette.soft}"{edge}><title>{said(words)}</title></rect>'
                )
                if part > 16:
                    middle = x + part / 2
                    parts.append(
                        f'<rect x="{middle - 9:.1f}" y="{y + 5}" width="18" height="14" rx="2" fill="{palette.sheet}"/>'
                        f'<text x="{middle:.1f}" y="{y + 16}" text-anchor="middle" font-size="11" fill="{palette.ink}">{counts[word]}</text>'
                    )
                x += part
    parts.append(_legend(form, 20, 16 + len(rows) * _ROW + 26, width, palette, as_parts=True))
    return document("".join(parts), width, height, f"{form.name}: shares", palette)


def _patterns(form: Form, palette: Palette) -> str:
    """Grounds that are told without colour: solid for the best, then stripes ever thinner, white for the worst."""
    out = []
    for k, word in enumerate(form.words):
        share = filled(form, word)
        colour = palette.soft if share is None else _colour(share, palette)
        thick = 8 * share if share is not None else 1.2
        turn = "" if share is not None else ' patternTransform="rotate(45)"'
        out.append(
            f'<pattern id="judged-{k}" width="8" height="8" patternUnits="userSpaceOnUse"{turn}><rect width="8" height="8" fill="{palette.sheet}"/>'
            f'<rect width="{thick:.1f}" height="8" fill="{colour}"/></pattern>'
        )
    return f"<defs>{''.join(out)}</defs>"


def _legend(form: Form, x: float, y: float, width: float, palette: Palette, *, as_parts: bool = False) -> str:
    out, at = [], x
    for k, word in enumerate(form.words):
        if at > x and at + 34 + _wide(word) > width - 10:
            at, y = x, y + _ROW - 6
        part = f'<rect x="{at}" y="{y - 12}" width="18" height="14" fill="url(#judged-{k})" stroke="{palette.soft}"/>'
        out.append(
            (part if as_parts else sign(form, word, at + _R, y - 4, palette))
            + f'<text x="{at + 2 * _R + 8}" y="{y}" font-size="12" fill="{palette.soft}">{said(word)}</text>'
        )
        at += 2 * _R + 28 + _wide(word)
    return "".join(out)


def _lines(form: Form, width: float) -> int:
    """How many more lines than one the legend needs."""
    return int(sum(2 * _R + 28 + _wide(word) for word in form.words) // max(1.0, width - 60))


def _wide(text: str) -> float:
    return 6.9 * len(text)


def _short(text: str, most: int) -> str:
    return text if len(text) <= most else text[: most - 1] + "…"
