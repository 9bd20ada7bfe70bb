"""Funnel plots as SVG, and any picture as a file."""

from __future__ import annotations

from collections.abc import Sequence

from kettlesort.core.picture import PAPER, Palette, document, pdf, png, said
from kettlesort.core.pooling.axes import Axis, text_at


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
    """A picture as ``svg``, ``png`` (300 points an inch) or ``pdf``."""
    return svg.encode() if kind == "svg" else png(svg, 300 / 96) if kind == "png" else pdf(svg)
