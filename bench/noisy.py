"""Noisy exports of invented reports: copies as sources alter them."""

from __future__ import annotations

import random
from dataclasses import replace
from typing import NamedTuple

from kettlesort.core.names import author_name
from kettlesort.core.record import Record, doi_of, pages_of
from world import FAMILIES, Report, World, cap


class Noisy(NamedTuple):
    """``records`` with the number of the report that each is a copy of (``report``), and the ``source`` that brought it."""

    records: list[Record]
    report: list[int]
    source: list[str]


def _typo(rng: random.Random, text: str) -> str:
    if len(text) < 8:
        return text
    at = rng.randrange(3, len(text) - 2)
    kind = rng.random()
    if kind < 0.35:
        return text[:at] + text[at + 1 :]
    if kind < 0.6:
        return text[:at] + text[at + 1] + text[at] + text[at + 2 :]
    if kind < 0.8:
        return text[:at] + rng.choice("aeiourstn") + text[at:]
    return text[:at] + rng.choice("aeiourstn") + text[at + 1 :]


def _short(journal: str) -> str:
    words = [word for word in journal.replace("&", "").split() if word not in ("of", "and", "in")]
    return " ".join(word if len(word) < 5 else word[: 4 if len(word) < 8 else 5] for word in words)


def _plain(text: str) -> str:
    return text.replace("ü", "ue").replace("ö", "oe").replace("é", "e")


_COUNTED = {"I": ("I", "1", "one"), "1": ("1", "I", "one"), "II": ("II", "2", "two"), "2": ("2", "II", "two")}
_REMARKS = (
    " (Review)", " [see comments]", " (with discussion)", " [corrected]", " (invited paper)", " [Article in German]", " (abstract only)",
    " [published erratum appears elsewhere]", " (extended abstract)", " [comment]",
)  # fmt: skip


def _said_otherwise(rng: random.Random, title: str) -> str:
    """A title whose part is counted in another way, or with a remark behind it, as sources do each in its own way."""
    head, _, last = title.rstrip(".").rpartition(" ")
    if last in _COUNTED and head.lower().endswith("part"):
        word = rng.choice(_COUNTED[last])
        title = f"{head[: -len('part')]}{rng.choice(('Part', 'part', 'Pt.', 'Part'))} {word}"
    if rng.random() < 0.02:
        title = title.rstrip(".") + rng.choice(_REMARKS)
    return title


def _export(w: World, it: Report, source: int, number: int, bare: bool) -> Record:
    rng = w.rng
    journal, doi, year = w.journals[it.journal], it.doi, it.year
    title, subtitle = it.title, it.subtitle
    language = it.language
    if it.original:
        title, subtitle = (
            (it.original + f" [{it.title}]", "")
            if source == 0
            else (f"[{it.title}]", it.subtitle)
            if source == 1
            else (it.original, "")
            if source == 2
            else (it.title, it.subtitle)
        )
    joint = {0: ": ", 1: ". ", 2: " - ", 3: ": ", 4: ": "}[source]
    if subtitle and not (source >= 3 and rng.random() < 0.15 and not subtitle.lower().startswith(("part", "i", "1", "2", "study"))):
        title = title.rstrip("?") + ("? " if title.endswith("?") else joint) + (cap(subtitle) if source in (1, 2) else subtitle)
    if source == 1:
        title = title.replace("α", "alpha") + "."
    if source == 2:
        title = title.upper() if rng.random() < 0.3 else title.title() if rng.random() < 0.4 else title.replace("α", "<i>α</i>")
    if source == 4 and len(title) > 90 and rng.random() < 0.5:
        title = title[: rng.randint(70, 88)]
    title = _said_otherwise(rng, title)
    if rng.random() < 0.025:
        title = _typo(rng, title)
    if rng.random() < 0.01:
        title = title.replace(" and ", " & ")
    authors = [f"{family}, {given}" for family, given in it.authors]
    if source in (1, 2, 4) or rng.random() < 0.2:
        authors = [f"{family}, {''.join(part[0] for part in given.replace('.', '').split())}" for family, given in it.authors]
    if source in (2, 4) and rng.random() < 0.5:
        lost = source == 4 and rng.random() < 0.2
        authors = [name.encode("ascii", "ignore").decode() if lost else _plain(name) for name in authors]
    if source == 3 and len(authors) > 3 and rng.random() < 0.2:
        authors = [*authors[: rng.choice((1, 3))], "et al."]
    if rng.random() < 0.01 and len(authors) > 1:
        authors = [authors[1], authors[0], *authors[2:]]
    if rng.random() < 0.01:
        rng.shuffle(authors)
    if rng.random() < 0.008:
        authors = [", ".join(reversed(name.split(", "))) for name in authors]
    if rng.random() < 0.012:
        authors = [_typo(rng, authors[0]), *authors[1:]]
    if rng.random() < 0.015:
        authors = []
    if source == 4:
        authors = [author_name(" ".join(reversed(name.split(", ")))) for name in authors]
    if rng.random() < (0.10 if source == 3 else 0.015):
        year += rng.choice((-1, 1))
    name, short, serial = journal, _short(journal), w.serials[it.journal] if rng.random() < 0.6 else ""
    if source == 1:
        name = short
    if source == 2:
        name = journal.replace("and", "&") if rng.random() < 0.5 else journal.upper()
    if source == 3 and it.journal in w.otherwise:
        name, serial = w.otherwise[it.journal], ""
    if it.kind == "preprint":
        name, short, serial = ("Preprint", f"{w.words[7].title()} Preprints")[it.journal % 2], "", ""
    if it.kind == "thesis":
        name = short = f"{cap(w.words[it.journal % 40])} University"
        serial = ""
    first, last = it.page, it.page + it.length
    pages = pages_of(str(first), str(last)) if it.length else str(first)
    if source == 1 and last > first > 99:
        pages = pages_of(str(first), str(last)[-2:])
    if source == 3 and rng.random() < 0.08:
        pages = f"e{rng.randint(10000, 99999)}"
    if rng.random() < 0.008:
        pages = pages_of(str(first + rng.randint(1, 200)))
    volume, issue = str(it.volume), str(it.issue)
    if it.kind == "conference":
        volume, pages = f"{volume} (Suppl 1)", f"S{first}"
    if it.kind in ("preprint", "book", "thesis") or rng.random() < (0.12 if source in (3, 4) else 0.02):
        volume = issue = pages = ""
    if rng.random() > (0.92, 0.75, 0.4, 0.85, 0.3)[source]:
        doi = ""
    elif rng.random() < 0.008:
        doi = _typo(rng, doi)
    elif rng.random() < 0.004:
        doi = doi.rpartition(".")[0]
    elif rng.random() < 0.003:
        doi = f"{doi.rpartition('.')[0]}.{rng.randint(90000, 99999)}"
    abstract = it.abstract if rng.random() > (0.05, 0.1, 0.45, 0.2, 0.7)[source] else ""
    if abstract and source == 1 and rng.random() < 0.4:
        abstract = "BACKGROUND: " + abstract
    if abstract and source == 3:
        abstract = abstract[:300] if rng.random() < 0.2 else abstract + " Copyright the authors."
    kind = it.kind if rng.random() < 0.93 and not (it.kind == "conference" and source == 2) else "article"
    if bare:
        volume = issue = pages = doi = ""
    accession = f"{'ABCDE'[source]}{100000 + number}" if source != 1 else str(20_000_000 + number)
    return Record(
        kind=kind, title=title, authors=tuple(authors), year=year, journal=name, journal_short=short if source == 0 else "", volume=volume,
        issue="" if source == 4 else issue, pages=pages, doi=doi_of(doi), accession=accession, issn=serial, abstract=abstract, language=language if source in (0, 1, 3) else "",
    )  # fmt: skip


def noisy(count: int, *, seed: int, style: str = "science", bare: bool = False, families: float = 1.0) -> Noisy:
    """About ``count`` records. With ``bare`` there is no volume, issue, page or DOI throughout. The same seed gives the same records."""
    rng = random.Random(f"{style} {seed}")
    w = World(rng, style, bare)
    out: list[tuple[Record, int, str]] = []
    report = 0
    made = 0
    while made < count:
        it = w.report()
        chosen = [it]
        roll = rng.random()
        for family, share in FAMILIES:
            if roll < share * families:
                chosen = family(w, it)
                break
            roll -= share * families
        for one in chosen:
            report += 1
            found = rng.sample(range(5), rng.choices((1, 2, 3, 4, 5), (52, 26, 14, 6, 2))[0])
            if rng.random() < 0.01:
                found.append(found[0])  # a source has it twice
            for source in found:
                made += 1
                out.append((_export(w, one, source, made, bare), report, "ABCDE"[source]))
    rng.shuffle(out)
    records, reports, sources = zip(*out, strict=True)
    return Noisy(list(records), list(reports), list(sources))


def bibliographies(count: int, *, seed: int) -> Noisy:
    """Two bibliographies of one trade with nothing but title, authors, venue and year, each with names of its own for venues."""
    rng = random.Random(f"bare {seed}")
    w = World(rng, "letters", bare=True)
    venues = rng.sample(range(len(w.journals)), 14)
    acronyms = {k: "".join(rng.choice("ABCDEFGIKLMNOPRSTV") for _ in range(rng.choice((3, 4, 5)))) for k in venues}
    names = {k: (rng.choice((acronyms[k], f"{acronyms[k]} Conference", f"{acronyms[k]} J.")), w.journals[k]) for k in venues}
    out: list[tuple[Record, int, str]] = []
    report = 0

    def export(it: Report, source: int) -> Record:
        title = it.title + (f": {it.subtitle}" if it.subtitle else "")
        if source == 0:
            title += "."
        elif rng.random() < 0.25:
            title = title.title() if rng.random() < 0.5 else title.lower()
        title = _said_otherwise(rng, title)
        if rng.random() < 0.03:
            title = _typo(rng, title)
        if source == 1 and rng.random() < 0.03 and ": " in title:
            title = title.partition(": ")[0]
        short = source == 1 and rng.random() < 0.4
        authors = [
            f"{family}, {''.join(part[0] for part in given.replace('.', '').split()) if short else given}" for family, given in it.authors
        ]
        if source == 1 and rng.random() < 0.15:
            authors = [f"{family}, {given.partition(' ')[0]}" for family, given in it.authors]
        if rng.random() < 0.03:
            rng.shuffle(authors)
        if rng.random() < 0.02:
            authors = [_typo(rng, authors[0]), *authors[1:]]
        if rng.random() < 0.02 and len(authors) > 2:
            authors = authors[:-1]
        if rng.random() < 0.01:
            authors = []
        year = it.year + (rng.choice((-1, 1)) if rng.random() < 0.015 else 0)
        return Record(
            title=title, authors=tuple(authors), year=year, journal=names[it.journal][source], accession=f"{'AB'[source]}{len(out)}"
        )

    while len(out) < count:
        it = w.report(journal=rng.choice(venues), year=rng.randint(1995, 2004))
        roll = rng.random()
        chosen = [it]
        if roll < 0.04:  # the same work again in a journal, years later: another report
            chosen = [it, w.elsewhere(it, journal=rng.choice([k for k in venues if k != it.journal]), year=it.year + rng.choice((1, 2, 3)))]
        elif roll < 0.046:
            chosen = _pieces(w, it)
        elif roll < 0.06:
            chosen = [replace(it, subtitle="Part I"), w.next_to(it, subtitle="Part II")]
        for one in chosen:
            report += 1
            for source in (0, 1):
                if rng.random() < 0.86:
                    out.append((export(one, source), report, "AB"[source]))
    rng.shuffle(out)
    records, reports, sources = zip(*out, strict=True)
    return Noisy(list(records), list(reports), list(sources))


def _pieces(w: World, it: Report) -> list[Report]:
    """Pieces that have one title issue after issue: an editorial, a column."""
    title = w.rng.choice(
        ("Editorial", "Guest editors introduction", "Message from the chairs", "Reminiscences on influential papers", "Editor's notes")
    )
    people = [w.people(1) for _ in range(2)]
    return [replace(it, title=title, subtitle="", authors=w.rng.choice(people), year=it.year + k) for k in range(w.rng.randint(2, 5))]
