"""What all drawings share: colours by role, text that XML can hold, and an SVG document as PNG and PDF."""

from __future__ import annotations

from html import escape
from typing import NamedTuple

import cairosvg

from kettlesort.core.text.clean import for_xml


class Palette(NamedTuple):
    """Colours by role."""

    sheet: str = "#FFFFFF"
    ink: str = "#22262A"
    soft: str = "#5E6872"
    hair: str = "#D8D1C4"
    copper: str = "#A8502B"
    slate: str = "#5E6872"
    pine: str = "#1F5F5B"
    ochre: str = "#80610B"
    font: str = "Public Sans, DejaVu Sans, sans-serif"


PAPER = Palette()
SCREEN = Palette(**{role: "inherit" if role == "font" else f"var(--ks-{role})" for role in Palette._fields})
"""The roles of the application's theme, for a drawing within a page."""


def said(text: str) -> str:
    """Text as it stands in XML."""
    return escape(for_xml(text))


def document(body: str, width: float, height: float, title: str, palette: Palette = PAPER, millimetres: float | None = None) -> str:
    """An SVG document of so many units, or so many ``millimetres`` wide; on paper it has a ground, within a page it has not."""
    ground = "" if palette is SCREEN else f'<rect width="{width:g}" height="{height:g}" fill="{palette.sheet}"/>'
    size = f'width="{width:g}" height="{height:g}"'
    if millimetres is not None:
        size = f'width="{millimetres:g}mm" height="{millimetres * height / width:.1f}mm"'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" {size} '
        f'font-family="{palette.font}" role="group" aria-label="{said(title)}">{ground}{body}</svg>'
    )


def png(drawing: str, scale: float = 2.0) -> bytes:
    """An SVG document as a picture of ``scale`` pixels a unit."""
    return bytes(cairosvg.svg2png(bytestring=drawing.encode(), scale=scale))


def pdf(drawing: str) -> bytes:
    """An SVG document as a PDF of one page."""
    return bytes(cairosvg.svg2pdf(bytestring=drawing.encode()))
