"""A flow diagram as SVG; its figures as rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from kettlesort.core.flow.diagram import LINE, TITLE, Band, Box, Diagram, Head, height, wrapped
from kettlesort.core.flow.figures import Figures
from kettlesort.core.picture import PAPER, Palette, document, said

UNDERLINED = ' text-decoration="underline"'


def svg(diagram: Diagram, palette: Palette = PAPER, *, link: Callable[[str], str] | None = None, title: str = "Flow diagram") -> str:
    """The drawing as an SVG document; ``link`` gives the address of a list, for figures that can be opened."""
    boxes = {box.key: box for box in diagram.boxes}
    width = max(box.x + box.w for box in diagram.boxes) + 20
    tall = max(box.y + height(box) for box in diagram.boxes) + 20
    largest = max((band.n for band in diagram.bands), default=0) or 1
    parts = [_band(band, boxes, largest, diagram.wide_bands, palette) for band in diagram.bands]
    for heading in diagram.headings:
        if heading.first in boxes and heading.last in boxes:
            parts.append(_heading(heading.text, boxes[heading.first], boxes[heading.last], palette))
    parts += [_head(head, palette) for head in diagram.heads]
    parts += [_box(box, palette, link, inline=not diagram.wide_bands) for box in diagram.boxes]
    return document("".join(parts), width, tall, title, palette)


def _band(band: Band, boxes: dict[str, Box], largest: int, wide: bool, palette: Palette) -> str:
    a, b = boxes[band.start], boxes[band.end]
    size = max(1.5, 38 * (band.n / largest) ** 0.5) if wide else 1.5
    if band.down:
        x = min(a.x + a.w / 2, b.x + b.w / 2) if wide else a.x + a.w / 2
        y1, y2 = a.y + height(a), b.y
        if wide:
            return f'<rect x="{x - size / 2:.1f}" y="{y1}" width="{size:.1f}" height="{max(0, y2 - y1)}" fill="{palette.copper}" fill-opacity=".22"/>'
        if a.x == b.x:
            return f'<path d="M{x} {y1}V{y2}" stroke="{palette.soft}" stroke-width="1.5" fill="none"/>' + _arrow(x, y2, "down", palette)
        y = b.y + height(b) / 2
        return f'<path d="M{x} {y1}V{y}H{b.x + b.w}" stroke="{palette.soft}" stroke-width="1.5" fill="none"/>' + _arrow(
            b.x + b.w, y, "left", palette
        )
    y = min(max(b.y + height(b) / 2, a.y + size / 2 + 2), a.y + height(a) - size / 2 - 2)
    opacity = ".35" if wide else "1"
    line = f'<path d="M{a.x + a.w} {y:.1f}H{b.x}" stroke="{palette.slate}" stroke-opacity="{opacity}" stroke-width="{min(size, height(b)):.1f}"/>'
    return line if wide else line + _arrow(b.x, y, "right", palette)


def _arrow(x: float, y: float, way: str, palette: Palette) -> str:
    points = {
        "down": f"{x - 4},{y - 7} {x + 4},{y - 7} {x},{y}",
        "right": f"{x - 7},{y - 4} {x - 7},{y + 4} {x},{y}",
        "left": f"{x + 7},{y - 4} {x + 7},{y + 4} {x},{y}",
    }
    return f'<polygon points="{points[way]}" fill="{palette.soft}"/>'


def _heading(text: str, first: Box, last: Box, palette: Palette) -> str:
    y1, y2 = first.y, last.y + height(last)
    middle = (y1 + y2) / 2
    return (
        f'<text transform="translate(28 {middle}) rotate(-90)" text-anchor="middle" font-size="12" font-weight="600" fill="{palette.soft}">'
        f'{said(text)}</text><path d="M44 {y1}V{y2}" stroke="{palette.hair}" stroke-width="2"/>'
    )


def _head(head: Head, palette: Palette) -> str:
    return (
        f'<rect x="{head.x}" y="6" width="{head.w}" height="24" rx="3" fill="none" stroke="{palette.copper}"/>'
        f'<text x="{head.x + head.w / 2}" y="22" text-anchor="middle" font-size="12" font-weight="600" fill="{palette.ink}">{said(head.text)}</text>'
    )


def _box(box: Box, palette: Palette, link: Callable[[str], str] | None, *, inline: bool) -> str:
    edge = palette.copper if box.strong else palette.hair
    parts = [
        f'<rect x="{box.x}" y="{box.y}" width="{box.w}" height="{height(box)}" rx="3" fill="{palette.sheet}" stroke="{edge}"/>',
        f'<text x="{box.x + 12}" y="{box.y + 20}" font-size="13" font-weight="600" fill="{palette.ink}">{said(box.title)}</text>',
    ]
    y = box.y + TITLE + 12
    for line in box.lines:
        number = f"(n = {line.n:,})" if inline else f"{line.n:,}"
        figure = f'<tspan fill="{palette.ink}"{UNDERLINED if link else ""}>{number}</tspan>'
        if link:
            name = f"{box.title.rstrip(':')}{', ' + line.label if line.label else ''}: {line.n:,}, open the list"
            figure = f'<a href="{said(link(line.list))}" aria-label="{said(name)}">{figure}</a>'
        *before, last = wrapped(line.label, box.w)
        begin = f'<text x="{box.x + 12}" font-size="12.5" fill="{palette.soft}" y='
        for words in before:
            parts.append(f'{begin}"{y}">{said(words)}</text>')
            y += LINE
        if inline:
            parts.append(f'{begin}"{y}">{said(last)}{" " if last else ""}{figure}</text>')
        else:
            parts.append(
                f'{begin}"{y}">{said(last)}</text><text x="{box.x + box.w - 12}" y="{y}" font-size="12.5" text-anchor="end">{figure}</text>'
            )
        y += LINE
    return f"<g>{''.join(parts)}</g>"


def rows(figures: Figures, diagram: Diagram) -> list[Sequence[object]]:
    """The figures as a table: box, line, count; then each sum with whether it holds."""
    table: list[Sequence[object]] = [("box", "line", "n")]
    table += [(box.title.rstrip(":"), line.label, line.n) for box in diagram.boxes for line in box.lines]
    table += [
        (f"Sum: {check.name}", f"{check.sum} = {check.expected}" + ("" if check.holds else f", but {check.counted} counted"), check.counted)
        for check in figures.checks
    ]
    return table
