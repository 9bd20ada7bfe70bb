"""Invented records in any number, streamed to a file: what every bench reads.

About a third of the records are copies of an earlier one, altered the way sources
alter them. The same seed gives the same file.
"""

from __future__ import annotations

import random
import textwrap
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

SUBJECTS = [
    "colony",
    "hive",
    "winter",
    "insulation",
    "survival",
    "cluster",
    "brood",
    "honey",
    "mite",
    "wrap",
    "foam",
    "moisture",
    "ventilation",
    "food",
    "temperature",
    "queen",
    "worker",
    "apiary",
    "forage",
    "pollen",
    "nectar",
    "swarm",
    "comb",
    "frame",
    "lid",
    "entrance",
    "loss",
    "season",
    "climate",
]
SYLLABLES = [
    "ba",
    "ke",
    "lo",
    "mi",
    "nu",
    "ra",
    "se",
    "ti",
    "vo",
    "zu",
    "dan",
    "fel",
    "gor",
    "hin",
    "jas",
    "kul",
    "mer",
    "nop",
    "qui",
    "rud",
    "sol",
    "tam",
    "wen",
    "yor",
]


@dataclass(frozen=True, slots=True)
class Invented:
    number: int
    title: str
    authors: tuple[str, ...]
    year: int
    journal: str
    volume: int
    issue: int
    page: int
    doi: str
    abstract: str
    keywords: tuple[str, ...]


def _word(rng: random.Random) -> str:
    return rng.choice(SUBJECTS) if rng.random() < 0.5 else "".join(rng.choices(SYLLABLES, k=rng.randint(2, 4)))


def _new(rng: random.Random, number: int) -> Invented:
    names = tuple(f"{''.join(rng.choices(SYLLABLES, k=2)).title()}, {rng.choice(SYLLABLES).title()}" for _ in range(rng.randint(2, 7)))
    return Invented(
        number=number,
        title=" ".join(_word(rng) for _ in range(rng.randint(7, 15))).capitalize(),
        authors=names,
        year=rng.randint(1985, 2026),
        journal=f"Annals of {rng.choice(SYLLABLES).title()}{rng.choice(SYLLABLES)} {rng.choice(SUBJECTS).title()}",
        volume=rng.randint(1, 90),
        issue=rng.randint(1, 12),
        page=rng.randint(1, 2000),
        doi=f"10.5555/inv.{number}",
        abstract=" ".join(_word(rng) for _ in range(rng.randint(120, 240))).capitalize() + ".",
        keywords=tuple(f"{rng.choice(SUBJECTS).title()}/{rng.choice(SUBJECTS)}" for _ in range(rng.randint(4, 12))),
    )


def _altered(rng: random.Random, number: int, it: Invented) -> Invented:
    title = it.title if rng.random() < 0.7 else it.title.upper() if rng.random() < 0.5 else it.title[: len(it.title) * 3 // 4]
    return replace(
        it,
        number=number,
        title=title,
        authors=tuple(f"{name.split(', ')[0]}, {name.split(', ')[1][0]}" for name in it.authors),
        doi=it.doi if rng.random() < 0.6 else "",
        year=it.year if rng.random() < 0.9 else it.year + 1,
        abstract=it.abstract if rng.random() < 0.7 else "",
    )


def invented(count: int, *, seed: int = 1) -> Iterator[Invented]:
    """``count`` records; a copy repeats one of the last 5,000 new ones."""
    rng = random.Random(seed)
    recent: list[Invented] = []
    for number in range(1, count + 1):
        if recent and rng.random() < 1 / 3:
            yield _altered(rng, number, rng.choice(recent))
            continue
        new = _new(rng, number)
        recent.append(new)
        if len(recent) > 5000:
            recent.pop(0)
        yield new


def ris(it: Invented) -> str:
    lines = ["TY  - JOUR", f"ID  - {it.number}", f"TI  - {it.title}", *(f"AU  - {name}" for name in it.authors)]
    lines += [f"PY  - {it.year}", f"JF  - {it.journal}", f"VL  - {it.volume}", f"IS  - {it.issue}"]
    lines += [f"SP  - {it.page}", f"EP  - {it.page + 9}"]
    lines += [f"DO  - {it.doi}"] if it.doi else []
    lines += [f"AB  - {it.abstract}"] if it.abstract else []
    lines += [f"KW  - {word}" for word in it.keywords]
    return "\n".join([*lines, "ER  - ", "", ""])


def nbib(it: Invented) -> str:
    def field(tag: str, value: str) -> list[str]:
        head = f"{tag:<4}- "
        return textwrap.wrap(head + value, 88, subsequent_indent="      ", break_long_words=False, break_on_hyphens=False)

    lines = [*field("PMID", str(it.number)), "OWN - INV", "STAT- COMPLETE", *field("DP", f"{it.year} Jan")]
    lines += [*field("TI", it.title), *field("PG", f"{it.page}-{it.page + 9}"), f"VI  - {it.volume}", f"IP  - {it.issue}"]
    lines += field("LID", f"{it.doi} [doi]") if it.doi else []
    lines += field("AB", it.abstract) if it.abstract else []
    for name in it.authors:
        family, given = name.split(", ")
        lines += [f"FAU - {name}", f"AU  - {family} {given[0]}"]
    lines += ["LA  - eng", "PT  - Journal Article", *field("TA", it.journal), *field("JT", it.journal)]
    lines += [f"MH  - {word}" for word in it.keywords]
    return "\n".join([*lines, "", ""])


def write(path: Path, count: int, form: str = "ris") -> Path:
    """Write ``count`` records as ``ris`` or ``nbib`` unless the file is there already."""
    if not path.exists():
        path.parent.mkdir(parents=True, exist_ok=True)
        part = path.with_suffix(".part")
        with part.open("w", encoding="utf-8") as out:
            out.writelines(map(ris if form == "ris" else nbib, invented(count)))
        part.rename(path)
    return path
