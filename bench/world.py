"""Invented reports, and those that look the same and are not."""

from __future__ import annotations

import random
from collections.abc import Callable
from dataclasses import dataclass, replace

from words import CODAS, DESIGNS, GENERIC, NUCLEI, ONSETS, OPPOSED, UNTITLED


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
        otherwise = random.Random(f"{style} names")  # what one source calls a journal in fifteen
        self.otherwise = {
            k: f"{otherwise.choice(('Transactions on', 'Papers of the', 'Notes from the'))} {otherwise.choice(self.words).title()} {otherwise.choice(self.words).title()}"
            for k in range(0, len(self.journals), 15)
        }
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


def cap(text: str) -> str:
    return text[0].upper() + text[1:]


def _parts(w: World, it: Report) -> list[Report]:
    form = w.rng.choice([("Part I", "Part II"), ("part 1", "part 2"), ("I.", "II."), ("1", "2")])
    two = w.next_to(it, abstract=it.abstract if w.rng.random() < 0.3 else w.abstract(it.title), year=it.year + w.rng.choice((0, 0, 1)))
    return [replace(it, subtitle=f"{form[0]}"), replace(two, subtitle=f"{form[1]}")]


def _yearly(w: World, it: Report) -> list[Report]:
    base = f"{cap(w.word())} {w.word()} {w.word()} annual report"
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
    a, b = (cap(form.format(*words, x=x)) for x in (one, two))
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


def _column(w: World, it: Report) -> list[Report]:
    """A column: the same title by the same person, issue after issue."""
    title = f"{w.word()} {w.word()} {w.rng.choice(('column', 'notes', 'watch'))}".capitalize()
    pieces = [replace(it, title=title, subtitle="", authors=it.authors[:1], abstract="", length=w.rng.randint(0, 2))]
    for k in range(1, w.rng.randint(4, 8)):
        later = 2 * k if w.bare else k // 3
        pieces.append(
            w.next_to(
                pieces[0],
                title=title,
                year=it.year + later,
                volume=it.volume + later,
                issue=k % 3 * 4 + 1,
                page=it.page + 40 * k,
                abstract="",
            )
        )
    return pieces


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
    return [it, w.elsewhere(it, language="ger", original=cap(" ".join(w._word(2) for _ in range(7))), year=it.year + w.rng.choice((0, 1)))]


def _thesis(w: World, it: Report) -> list[Report]:
    year = it.year - w.rng.choice((0, 1, 2))
    return [it, w.next_to(it, kind="thesis", authors=it.authors[:1], year=year, page=1, length=150, doi="")]


FAMILIES: list[tuple[Family, float]] = [
    (_parts, 0.008), (_yearly, 0.004), (_erratum, 0.008), (_letter, 0.005), (_protocol, 0.005), (_namesake, 0.004), (_twins, 0.012), (_untitled, 0.0015), (_column, 0.0008),
    (_editions, 0.003), (_updates, 0.004), (_preprint, 0.004), (_meeting, 0.005), (_translation, 0.002), (_thesis, 0.002),
]  # fmt: skip
