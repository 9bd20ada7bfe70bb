"""Noisy exports of invented records: copies as sources alter them, and reports that look the same and are not.

Two vocabularies that share no word with each other, so that nothing can be tuned to one: ``science`` and ``letters``.
"""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

from kettlesort.core.record import Record, author_name, doi_of, pages_of

ONSETS = [
    "b",
    "br",
    "c",
    "ch",
    "d",
    "dr",
    "f",
    "fl",
    "g",
    "gr",
    "h",
    "j",
    "k",
    "kl",
    "l",
    "m",
    "n",
    "p",
    "pr",
    "qu",
    "r",
    "s",
    "sch",
    "st",
    "t",
    "tr",
    "v",
    "w",
    "z",
]
NUCLEI = (*["a", "e", "i", "o", "u", "ai", "ea", "ie", "oo", "ou"] * 4, "ü", "ö", "é")
CODAS = ["n", "r", "l", "s", "t", "nd", "rk", "m", "x", "lt", "ss", "ck"]

GENERIC = {
    "science": [
        "effect",
        "effects",
        "role",
        "impact",
        "association",
        "comparison",
        "relationship",
        "treatment",
        "management",
        "prevention",
        "prevalence",
        "incidence",
        "risk",
        "factors",
        "quality",
        "outcome",
        "outcomes",
        "patients",
        "children",
        "adults",
        "women",
        "men",
        "older",
        "adolescents",
        "workers",
        "community",
        "hospital",
        "care",
        "health",
        "therapy",
        "surgery",
        "infection",
        "disease",
        "syndrome",
        "pain",
        "function",
        "cancer",
        "heart",
        "kidney",
        "lung",
        "liver",
        "brain",
        "bone",
        "muscle",
        "blood",
        "glucose",
        "insulin",
        "sleep",
        "stress",
        "exercise",
        "diet",
        "weight",
        "smoking",
        "alcohol",
        "vaccine",
        "antibody",
        "gene",
        "protein",
        "cell",
        "receptor",
        "expression",
        "growth",
        "survival",
        "mortality",
        "pregnancy",
        "birth",
        "infant",
        "school",
        "training",
        "education",
        "cost",
        "screening",
        "diagnosis",
        "imaging",
        "test",
        "validity",
        "reliability",
    ],
    "letters": [
        "state",
        "nation",
        "labour",
        "market",
        "trade",
        "policy",
        "reform",
        "party",
        "election",
        "court",
        "law",
        "property",
        "land",
        "river",
        "soil",
        "forest",
        "crop",
        "yield",
        "water",
        "climate",
        "energy",
        "price",
        "tax",
        "bank",
        "credit",
        "firm",
        "industry",
        "wage",
        "migration",
        "city",
        "region",
        "network",
        "system",
        "model",
        "theory",
        "history",
        "memory",
        "text",
        "reading",
        "language",
        "grammar",
        "translation",
        "poem",
        "novel",
        "theatre",
        "archive",
        "museum",
        "empire",
        "church",
        "village",
        "family",
        "gender",
        "class",
        "identity",
        "ethics",
        "belief",
        "reason",
        "mind",
        "perception",
        "learning",
        "teaching",
        "curriculum",
        "pupil",
        "university",
        "method",
        "measure",
        "survey",
        "data",
    ],
}
DESIGNS = {
    "science": ["a randomized controlled trial", "a cohort study", "a systematic review", "a cross-sectional survey", "results from a pilot study", "a case-control study",
                "a prospective multicentre study", "a qualitative study", "two-year follow-up", "a meta-analysis"],
    "letters": ["evidence from panel data", "a comparative case study", "a critical reading", "a field experiment", "lessons from three regions", "an archival study",
                "a survey of practice", "a reappraisal", "an ethnographic account", "a natural experiment"],
}  # fmt: skip
OPPOSED = [
    ("before", "after"), ("upper", "lower"), ("5 mg", "10 mg"), ("phase 2", "phase 3"), ("male", "female"), ("left", "right"), ("rural", "urban"),
    ("early", "late"), ("acute", "chronic"), ("primary", "secondary"), ("summer", "winter"), ("type 1", "type 2"), ("hypertension", "hypotension"),
    ("invasive", "noninvasive"), ("inpatient", "outpatient"), ("vitamin A", "vitamin D"), ("2.5%", "5%"), ("younger", "older"), ("public", "private"),
]  # fmt: skip
UNTITLED = [
    "Editorial",
    "Introduction",
    "Preface",
    "Reply",
    "Book review",
    "Letter to the editor",
    "In this issue",
    "Foreword",
    "Untitled",
    "Editor's note",
]


class Noisy(NamedTuple):
    """``records`` with the number of the report that each is a copy of (``report``), and the ``source`` that brought it."""

    records: list[Record]
    report: list[int]
    source: list[str]


@dataclass(frozen=True)
class Report:
    title: str
    subtitle: str
    authors: tuple[tuple[str, str], ...]
    year: int
    journal: int
    volume: int
    issue: int
    page: int
    length: int
    doi: str
    abstract: str
    kind: str = "article"
    language: str = "eng"
    original: str = ""


class World:
    """One vocabulary, its journals and people."""

    def __init__(self, rng: random.Random, style: str, bare: bool = False) -> None:
        self.rng, self.style, self.bare = rng, style, bare
        self.words = [self._word(rng.choice((2, 2, 3))) for _ in range(4000)]
        self.weights = [1 / (k + 8) for k in range(4000)]
        self.cum: list[float] = []
        total = 0.0
        for weight in self.weights:
            total += weight
            self.cum.append(total)
        self.families = [self._word(rng.choice((1, 2, 2, 3))).title() for _ in range(2500)]
        self.given = [self._word(rng.choice((1, 2))).title() for _ in range(300)]
        stems = ["Journal of", "Annals of", "Archives of", "International Journal of", "Review of", "Studies in", "Advances in", "Acta"]
        self.journals = [
            f"{rng.choice(stems)} {rng.choice(GENERIC[style]).title()}{rng.choice([' and ', ' & ', ' '])}{rng.choice(GENERIC[style]).title()} {self._word(2).title()}"
            for _ in range(400)
        ]
        self.serials = [f"{rng.randint(1000, 9999)}-{rng.randint(1000, 9999)}" for _ in self.journals]
        self.number = 0

    def _word(self, syllables: int) -> str:
        rng = self.rng
        return "".join(rng.choice(ONSETS) + rng.choice(NUCLEI) for _ in range(syllables)) + (
            rng.choice(CODAS) if rng.random() < 0.6 else ""
        )

    def word(self) -> str:
        return self.rng.choice(GENERIC[self.style]) if self.rng.random() < 0.45 else self.rng.choices(self.words, cum_weights=self.cum)[0]

    def title(self) -> tuple[str, str]:
        rng, w = self.rng, self.word
        body = rng.choice(
            [
                lambda: f"Effects of {w()} {w()} on {w()} {w()} in {w()}",
                lambda: f"{w()} {w()} and {w()} {w()} among {w()}",
                lambda: f"The {w()} of {w()} {w()}",
                lambda: f"{w()}, {w()} and the {w()} of {w()} {w()} {w()}",
                lambda: f"Is {w()} {w()} associated with {w()} {w()}?",
                lambda: f"{w()} {w()} {w()}",
                lambda: f"Long-term {w()} of {w()} {w()} with α-{w()} in {w()} {w()}",
                lambda: f"{w()} versus {w()} for {w()} {w()}",
            ]
        )()
        return body[0].upper() + body[1:], rng.choice(DESIGNS[self.style]) if rng.random() < 0.45 else ""

    def people(self, n: int | None = None) -> tuple[tuple[str, str], ...]:
        rng = self.rng
        n = n or min(12, max(1, int(rng.expovariate(1 / 4)) + 1))
        out = []
        for _ in range(n):
            family = self.families[min(int(rng.expovariate(1 / 400)), 2499)]
            if rng.random() < 0.04:
                family = f"{rng.choice(['van', 'de', 'von der'])} {family}"
            elif rng.random() < 0.03:
                family += "-" + rng.choice(self.families)
            given = rng.choice(self.given) + (f" {rng.choice('ABCDEFGHJKLMPRST')}." if rng.random() < 0.4 else "")
            out.append((family, given))
        return tuple(out)

    def abstract(self, title: str) -> str:
        rng, w = self.rng, self.word
        lead = title.split()
        text = [f"Little is known about {' '.join(lead[:4]).lower()}."]
        text += [
            " ".join([w().capitalize(), *(w() for _ in range(rng.randint(8, 18)))]) + f" ({rng.randint(1, 900)})."
            for _ in range(rng.randint(5, 10))
        ]
        return " ".join(text)

    def report(self, **values: object) -> Report:
        rng = self.rng
        self.number += 1
        title, subtitle = self.title()
        journal, year, page = rng.randrange(len(self.journals)), rng.randint(1985, 2024), rng.randint(1, 1800)
        volume, issue = max(1, year - 1960 + journal % 20), rng.randint(1, 12)
        doi = (
            f"10.{5000 + journal % 90}/{self.journals[journal].split()[-1][:4].lower()}.{year}.{self.number:05d}".replace("ü", "u")
            .replace("ö", "o")
            .replace("é", "e")
        )
        made = Report(title, subtitle, self.people(), year, journal, volume, issue, page, rng.randint(3, 18), doi, self.abstract(title))
        return replace(made, **values)  # type: ignore[arg-type]

    def next_to(self, it: Report, **values: object) -> Report:
        """Another report in the journal of one: other pages and DOI, by the same people."""
        rng = self.rng
        self.number += 1
        other = replace(
            it,
            page=it.page + rng.randint(it.length + 1, 90),
            issue=rng.randint(1, 12),
            doi=f"{it.doi.rpartition('.')[0]}.{self.number:05d}",
            abstract=self.abstract(it.title),
        )
        return replace(other, **values)  # type: ignore[arg-type]

    def elsewhere(self, it: Report, **values: object) -> Report:
        """Another report of one study: another journal, volume, pages and DOI."""
        new = self.report()
        moved = replace(
            it,
            journal=new.journal,
            volume=new.volume,
            issue=new.issue,
            page=new.page,
            doi=new.doi,
            year=it.year + self.rng.choice((0, 1, 1, 2)),
        )
        return replace(moved, **values)  # type: ignore[arg-type]


Family = Callable[[World, Report], list[Report]]


def _cap(text: str) -> str:
    return text[0].upper() + text[1:]


def _parts(w: World, it: Report) -> list[Report]:
    form = w.rng.choice([("Part I", "Part II"), ("part 1", "part 2"), ("I.", "II."), ("1", "2")])
    two = w.next_to(it, abstract=it.abstract if w.rng.random() < 0.3 else w.abstract(it.title), year=it.year + w.rng.choice((0, 0, 1)))
    return [replace(it, subtitle=f"{form[0]}"), replace(two, subtitle=f"{form[1]}")]


def _yearly(w: World, it: Report) -> list[Report]:
    base = f"{_cap(w.word())} {w.word()} {w.word()} annual report"
    return [
        w.next_to(it, title=f"{base} {it.year + k}", subtitle="", year=it.year + k, volume=it.volume + k)
        for k in range(w.rng.randint(2, 4))
    ]


def _erratum(w: World, it: Report) -> list[Report]:
    head = w.rng.choice(["Erratum: ", "Correction to: ", "Corrigendum to ", "Retraction of "])
    return [it, w.next_to(it, title=head + it.title, abstract="", year=it.year + w.rng.choice((0, 1)))]


def _letter(w: World, it: Report) -> list[Report]:
    letter = w.next_to(it, title=f"Comment on: {it.title}", authors=w.people(2), abstract="")
    return [it, letter, w.next_to(letter, title=f"Authors' reply: {it.title}", authors=it.authors, abstract="")]


def _protocol(w: World, it: Report) -> list[Report]:
    return [replace(it, subtitle="a randomized trial"), w.elsewhere(it, subtitle="study protocol for a randomized trial", year=it.year - 2)]


def _namesake(w: World, it: Report) -> list[Report]:
    return [it, w.elsewhere(it, authors=w.people(), abstract=w.abstract(it.title), year=it.year + w.rng.randint(-6, 6))]


def _twins(w: World, it: Report) -> list[Report]:
    one, two = w.rng.choice(OPPOSED)
    form = w.rng.choice(["{0} of {1} {x} {2} in {3}", "{x} {0} {1} and {2} {3}", "{0} {1} {2} with {x} {3}"])
    words = [w.word() for _ in range(4)]
    a, b = (_cap(form.format(*words, x=x)) for x in (one, two))
    return [
        replace(it, title=a),
        w.next_to(
            it,
            title=b,
            abstract=it.abstract.replace(one, two) if w.rng.random() < 0.4 else w.abstract(b),
            year=it.year + w.rng.choice((0, 0, 1)),
        ),
    ]


def _untitled(w: World, it: Report) -> list[Report]:
    title = w.rng.choice(UNTITLED)
    first = replace(it, title=title, subtitle="", authors=it.authors[:1], abstract="", length=w.rng.randint(0, 2))
    return [
        first,
        *(
            w.next_to(
                first,
                title=title,
                year=it.year + (k if w.bare else k // 3),
                volume=it.volume + (k if w.bare else k // 3),
                page=it.page + 40 * k,
                abstract="",
            )
            for k in range(1, w.rng.randint(2, 5))
        ),
    ]


def _editions(w: World, it: Report) -> list[Report]:
    book = replace(it, kind="book", subtitle="", abstract="")
    return [replace(book, title=f"{it.title}, 2nd edition"), w.next_to(book, title=f"{it.title}, 3rd edition", year=it.year + 4)]


def _updates(w: World, it: Report) -> list[Report]:
    return [
        replace(it, doi=f"10.5999/14.cd{w.number:06d}.pub2", subtitle="", page=w.rng.randint(1, 9)),
        w.next_to(
            it, doi=f"10.5999/14.cd{w.number:06d}.pub3", subtitle="", year=it.year + 4, volume=it.volume + 4, page=w.rng.randint(10, 19)
        ),
    ]


def _preprint(w: World, it: Report) -> list[Report]:
    return [it, w.elsewhere(it, kind="preprint", doi=f"10.21203/rs.{w.number}/v1", year=it.year - w.rng.choice((0, 1)))]


def _meeting(w: World, it: Report) -> list[Report]:
    return [it, w.elsewhere(it, kind="conference", year=it.year - w.rng.choice((0, 1, 2)), length=0, abstract=w.abstract(it.title))]


def _translation(w: World, it: Report) -> list[Report]:
    return [it, w.elsewhere(it, language="ger", original=_cap(" ".join(w._word(2) for _ in range(7))), year=it.year + w.rng.choice((0, 1)))]


FAMILIES: list[tuple[Family, float]] = [
    (_parts, 0.008), (_yearly, 0.004), (_erratum, 0.008), (_letter, 0.005), (_protocol, 0.005), (_namesake, 0.004), (_twins, 0.012), (_untitled, 0.0015),
    (_editions, 0.003), (_updates, 0.004), (_preprint, 0.004), (_meeting, 0.005), (_translation, 0.002),
]  # fmt: skip


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
        title = title.rstrip("?") + ("? " if title.endswith("?") else joint) + (_cap(subtitle) if source in (1, 2) else subtitle)
    if source == 1:
        title = title.replace("α", "alpha") + "."
    if source == 2:
        title = title.upper() if rng.random() < 0.3 else title.title() if rng.random() < 0.4 else title.replace("α", "<i>α</i>")
    if source == 4 and len(title) > 90 and rng.random() < 0.5:
        title = title[: rng.randint(70, 88)]
    if rng.random() < 0.025:
        title = _typo(rng, title)
    if rng.random() < 0.01:
        title = title.replace(" and ", " & ")
    authors = [f"{family}, {given}" for family, given in it.authors]
    if source in (1, 2, 4) or rng.random() < 0.2:
        authors = [f"{family}, {''.join(part[0] for part in given.replace('.', '').split())}" for family, given in it.authors]
    if source in (2, 4) and rng.random() < 0.5:
        authors = [_plain(name) for name in authors]
    if source == 3 and len(authors) > 3 and rng.random() < 0.2:
        authors = [*authors[: rng.choice((1, 3))], "et al."]
    if rng.random() < 0.01 and len(authors) > 1:
        authors = [authors[1], authors[0], *authors[2:]]
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
    if it.kind == "preprint":
        name, short, serial = ("Preprint", f"{w.words[7].title()} Preprints")[it.journal % 2], "", ""
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
    if it.kind in ("preprint", "book") or rng.random() < (0.12 if source in (3, 4) else 0.02):
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
