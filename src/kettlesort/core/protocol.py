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


def years(protocol: Protocol) -> str:
    """The years that belong into every search: those of the protocol, and not those that the earlier review has searched."""
    first = max(protocol.year_from or 0, protocol.updates_from.year if protocol.updates_from else 0)
    return query_years(first or None, protocol.year_to)


def limits(protocol: Protocol) -> str:
    """The limits that every search has to keep, in words; "" where there are none."""
    said = []
    if protocol.updates_from:
        said.append(f"added since {protocol.updates_from.isoformat()}, the last search of the earlier review")
    if protocol.year_from and protocol.year_to:
        said.append(f"published {protocol.year_from} to {protocol.year_to}")
    elif protocol.year_from:
        said.append(f"published from {protocol.year_from}")
    elif protocol.year_to:
        said.append(f"published until {protocol.year_to}")
    if protocol.languages:
        said.append(f"languages: {protocol.languages}")
    if protocol.types:
        said.append(f"types: {protocol.types}")
    return "; ".join(said)


def sections(protocol: Protocol) -> list[Section]:
    """The protocol in parts, in the order of the document; those that say nothing are empty."""
    passes = {(True, True): "both passes", (True, False): "first pass", (False, True): "second pass", (False, False): "no pass"}
    registration = " ".join(part for part in (protocol.registered_in, protocol.registration_number) if part)
    return [
        Section("Title", protocol.title),
        Section("Question", protocol.question),
        Section("Framework", FRAMEWORKS[protocol.framework][0] if protocol.framework != "free" else ""),
        *(Section(element.label or "Element", "; ".join(element.terms)) for element in protocol.elements),
        Section(
            "Criteria",
            "\n".join(
                f"{k}. {c.name} ({passes[c.first, c.second]}){': ' if c.wording else ''}{c.wording}"
                for k, c in enumerate(protocol.criteria, 1)
            ),
        ),
        Section("Limits", limits(protocol)),
        Section("Earlier review", protocol.update_of),
        Section("Planned sources", "\n".join(f"{source.name} ({source.kind})" for source in protocol.sources)),
        Section("Registration", registration + (f", {protocol.registered_on.isoformat()}" if protocol.registered_on else "")),
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
    for section in said:
        name, n = section.name, 2
        while name in out:  # two elements of one name are told apart by their order
            name, n = f"{section.name} {n}", n + 1
        out[name] = section.text
    return out


def document(
    protocol: Protocol, team: Sequence[tuple[str, str]], amendments: Sequence[Amendment], changes: Sequence[Sequence[Difference]]
) -> list[Block]:
    """The protocol as a document. ``team`` are names and roles; ``changes[k]`` is what amendment k changed."""
    blocks: list[Block] = [Heading(protocol.title, 1)]
    if amendments:
        blocks.append(Paragraph(f"Version {amendments[-1].version}, {amendments[-1].on.isoformat()}"))
    said = {section.name: section.text for section in sections(protocol)}
    blocks += _part("Question", protocol.question)
    if protocol.elements:
        name = FRAMEWORKS[protocol.framework][0]
        blocks.append(Heading("Elements of the question" + (f" ({name})" if protocol.framework != "free" else "")))
        blocks.append(Grid(("Element", "Terms"), [(element.label, "; ".join(element.terms)) for element in protocol.elements]))
    if protocol.criteria:
        wordings = [c.name + (f": {c.wording}" if c.wording else "") for c in protocol.criteria]
        blocks += [
            Heading("Criteria of eligibility"),
            Paragraph("A record is excluded for the first criterion that it fails."),
            Items(wordings, numbered=True),
        ]
    blocks += [*_part("Limits", limits(protocol)), *_part("Earlier review", protocol.update_of)]
    if protocol.sources:
        blocks += [Heading("Planned sources"), Grid(("Source", "Kind"), [(source.name, source.kind) for source in protocol.sources])]
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
