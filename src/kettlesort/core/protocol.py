"""The protocol of a review: what it says, how two versions differ, and the document."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import Literal, NamedTuple

from pydantic import BaseModel, ConfigDict

from kettlesort.core.documents import Block, Grid, Heading, Items, Paragraph
from kettlesort.core.query.limits import years as query_years

Framework = Literal["pico", "peco", "picos", "spider", "free"]
FRAMEWORKS: dict[Framework, tuple[str, tuple[str, ...]]] = {
    "pico": ("PICO", ("Population", "Intervention", "Comparator", "Outcome")),
    "peco": ("PECO", ("Population", "Exposure", "Comparator", "Outcome")),
    "picos": ("PICOS", ("Population", "Intervention", "Comparator", "Outcome", "Study design")),
    "spider": ("SPIDER", ("Sample", "Phenomenon of interest", "Design", "Evaluation", "Research type")),
    "free": ("Free", ()),
}
"""Frameworks of a question, each with its elements (PICO: Richardson WS et al. ACP J Club 1995;123:A12; SPIDER: Cooke A et al. Qual Health Res 2012;22:1435-1443)."""


class _Part(BaseModel):
    model_config = ConfigDict(frozen=True)


class Element(_Part):
    """An element of the question, with the terms for it."""

    label: str
    terms: tuple[str, ...] = ()


class Criterion(_Part):
    """A rule of eligibility, and the passes in which it can be the reason for excluding."""

    name: str
    wording: str = ""
    first: bool = True
    second: bool = True


class Source(_Part):
    """A source that will be searched."""

    name: str
    kind: str


class Protocol(_Part):
    """What a protocol says. ``updates_from`` is the date of the last search of the earlier review that this one goes on from."""

    title: str
    question: str = ""
    framework: Framework = "free"
    elements: tuple[Element, ...] = ()
    criteria: tuple[Criterion, ...] = ()
    year_from: int | None = None
    year_to: int | None = None
    languages: str = ""
    types: str = ""
    update_of: str = ""
    updates_from: date | None = None
    sources: tuple[Source, ...] = ()
    registered_in: str = ""
    registration_number: str = ""
    registered_on: date | None = None


class Amendment(NamedTuple):
    """A version of a protocol: when, who, why."""

    version: int
    on: date
    by: str
    reason: str


class Section(NamedTuple):
    """A part of a protocol as text, for comparing and for reading."""

    name: str
    text: str


def years(it: Protocol) -> str:
    """The years that belong into every search: those of the protocol, and not those that the earlier review has searched."""
    first = max(it.year_from or 0, it.updates_from.year if it.updates_from else 0)
    return query_years(first or None, it.year_to)


def limits(it: Protocol) -> str:
    """The limits that every search has to keep, in words; "" where there are none."""
    said = []
    if it.updates_from:
        said.append(f"added since {it.updates_from.isoformat()}, the last search of the earlier review")
    if it.year_from and it.year_to:
        said.append(f"published {it.year_from} to {it.year_to}")
    elif it.year_from:
        said.append(f"published from {it.year_from}")
    elif it.year_to:
        said.append(f"published until {it.year_to}")
    if it.languages:
        said.append(f"languages: {it.languages}")
    if it.types:
        said.append(f"types: {it.types}")
    return "; ".join(said)


def sections(it: Protocol) -> list[Section]:
    """The protocol in parts, in the order of the document; those that say nothing are empty."""
    passes = {(True, True): "both passes", (True, False): "first pass", (False, True): "second pass", (False, False): "no pass"}
    registration = " ".join(part for part in (it.registered_in, it.registration_number) if part)
    return [
        Section("Title", it.title),
        Section("Question", it.question),
        Section("Framework", FRAMEWORKS[it.framework][0] if it.framework != "free" else ""),
        *(Section(element.label or "Element", "; ".join(element.terms)) for element in it.elements),
        Section(
            "Criteria",
            "\n".join(
                f"{k}. {c.name} ({passes[c.first, c.second]}){': ' if c.wording else ''}{c.wording}" for k, c in enumerate(it.criteria, 1)
            ),
        ),
        Section("Limits", limits(it)),
        Section("Earlier review", it.update_of),
        Section("Planned sources", "\n".join(f"{source.name} ({source.kind})" for source in it.sources)),
        Section("Registration", registration + (f", {it.registered_on.isoformat()}" if it.registered_on else "")),
    ]


class Difference(NamedTuple):
    """A part that two versions say otherwise; "" on the side that does not have it."""

    name: str
    before: str
    after: str


def differences(before: Protocol, after: Protocol) -> list[Difference]:
    """What two versions of a protocol say otherwise, in the order of the document."""
    left, right = _by_name(sections(before)), _by_name(sections(after))
    names = list(dict.fromkeys([*right, *left]))
    return [Difference(name, left.get(name, ""), right.get(name, "")) for name in names if left.get(name, "") != right.get(name, "")]


def _by_name(said: Sequence[Section]) -> dict[str, str]:
    out: dict[str, str] = {}
    for it in said:
        name, n = it.name, 2
        while name in out:  # two elements of one name are told apart by their order
            name, n = f"{it.name} {n}", n + 1
        out[name] = it.text
    return out


def document(
    it: Protocol, team: Sequence[tuple[str, str]], amendments: Sequence[Amendment], changes: Sequence[Sequence[Difference]]
) -> list[Block]:
    """The protocol as a document. ``team`` are names and roles; ``changes[k]`` is what amendment k changed."""
    blocks: list[Block] = [Heading(it.title, 1)]
    if amendments:
        blocks.append(Paragraph(f"Version {amendments[-1].version}, {amendments[-1].on.isoformat()}"))
    said = {section.name: section.text for section in sections(it)}
    blocks += _part("Question", it.question)
    if it.elements:
        name = FRAMEWORKS[it.framework][0]
        blocks.append(Heading("Elements of the question" + (f" ({name})" if it.framework != "free" else "")))
        blocks.append(Grid(("Element", "Terms"), [(element.label, "; ".join(element.terms)) for element in it.elements]))
    if it.criteria:
        wordings = [c.name + (f": {c.wording}" if c.wording else "") for c in it.criteria]
        blocks += [
            Heading("Criteria of eligibility"),
            Paragraph("A record is excluded for the first criterion that it fails."),
            Items(wordings, numbered=True),
        ]
    blocks += [*_part("Limits", limits(it)), *_part("Earlier review", it.update_of)]
    if it.sources:
        blocks += [Heading("Planned sources"), Grid(("Source", "Kind"), [(source.name, source.kind) for source in it.sources])]
    blocks += _part("Registration", said["Registration"])
    if team:
        blocks += [Heading("Team"), Grid(("Name", "Role"), list(team))]
    if amendments:
        rows = [
            (
                str(a.version),
                a.on.isoformat(),
                a.by,
                a.reason,
                "\n".join(f"{d.name}: {d.before or '—'} → {d.after or '—'}" for d in changed) or "—",
            )
            for a, changed in zip(amendments, changes, strict=True)
        ]
        blocks += [Heading("Amendments"), Grid(("Version", "Date", "Person", "Reason", "What changed"), rows)]
    return blocks


def _part(name: str, text: str) -> list[Block]:
    return [Heading(name), Paragraph(text)] if text else []
