"""The picture of a network: treatments on a ring, as large as many took part, joined by as many studies as a line is wide."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from kettlesort.core.picture import PAPER, Palette, document, said
from kettlesort.core.pooling.axes import text_at

_RADIUS, _NODE = 122.0, 20.0


def network(
    parts: Sequence[Sequence[str]],
    people: Mapping[str, float],
    studies: Mapping[tuple[str, str], int],
    palette: Palette = PAPER,
    link: str = "",
) -> str:
    """Treatments of each part on a ring of its own, side by side where a network falls apart; ``studies`` that compare two; ``link`` to the comparisons."""
    most, busiest = max(people.values(), default=1.0) or 1.0, max(studies.values(), default=1)
    places: dict[str, tuple[float, float]] = {}
    centres: dict[str, float] = {}
    left = 0.0
    tall = 2 * (_RADIUS + 64)
    for part in parts:
        wide = 2 * (_RADIUS * (1 if len(part) > 1 else 0.2) + 110)
        for k, name in enumerate(part):
            turn = 2 * math.pi * k / len(part) - math.pi / 2 if len(part) != 2 else math.pi * (1 - k)
            far = _RADIUS if len(part) > 1 else 0.0
            places[name] = (left + wide / 2 + far * math.cos(turn), tall / 2 + far * math.sin(turn))
            centres[name] = left + wide / 2
        left += wide
    out = []
    for (a, b), n in sorted(studies.items(), key=lambda pair: pair[1]):
        (x1, y1), (x2, y2) = places[a], places[b]
        out.append(
            f'<path d="M{x1:.1f} {y1:.1f}L{x2:.1f} {y2:.1f}" stroke="{palette.soft}" stroke-width="{1 + 9 * n / busiest:.1f}" stroke-opacity=".55">'
            f"<title>{said(a)} and {said(b)}: {n} {'study' if n == 1 else 'studies'}</title></path>"
        )
        x, y = (x1 + x2) / 2, (y1 + y2) / 2
        out.append(
            f'<circle cx="{x:.1f}" cy="{y:.1f}" r="9" fill="{palette.sheet}"/>' + text_at(x, y + 4, str(n), palette.ink, anchor="middle")
        )
    for name, (x, y) in places.items():
        radius = max(6.0, _NODE * (people.get(name, 0.0) / most) ** 0.5)
        out.append(
            f'<circle cx="{x:.1f}" cy="{y:.1f}" r="{radius:.1f}" fill="{palette.pine}"><title>{said(name)}: {people.get(name, 0.0):g} took part</title></circle>'
        )
        aside = x - centres[name]
        anchor = "middle" if abs(aside) < 40 else "start" if aside > 0 else "end"
        dx = 0.0 if anchor == "middle" else math.copysign(radius + 6, aside)
        dy = 4.0 if anchor != "middle" else (radius + 16 if y > tall / 2 else -radius - 8)
        out.append(text_at(x + dx, y + dy, name if len(name) < 30 else name[:29] + "…", palette.ink, anchor=anchor, bold=True))
    body = "".join(out)
    whole = sum(studies.values())
    foot = max(y for _, y in places.values()) + _NODE + 30
    title = f"Network of {len(places)} treatments, {whole} comparisons" + (f", in {len(parts)} parts" if len(parts) > 1 else "")
    return document(f'<a href="{said(link)}">{body}</a>' if link else body, left, foot, title, palette)
