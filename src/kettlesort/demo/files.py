"""What six invented sources export of the documents, each in its own format and with its own flaws."""

from __future__ import annotations

import io
import random
import textwrap
from collections import Counter
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path

import xlsxwriter

from kettlesort.demo.document import COUNTRIES, Document
from kettlesort.demo.doubts import doubts
from kettlesort.demo.invent import FIRST_DOUBTED, documents
from kettlesort.demo.papers import paper
from kettlesort.demo.thesaurus import THESAURUS, turtle

FOLDER = Path(__file__).parents[3] / "demo" / "files"
VOCABULARIES = FOLDER.parent / "vocabularies"


@dataclass(frozen=True, slots=True)
class Export:
    """A file of a search; one that is not taken in waits to be looked at."""

    name: str
    source: str
    kind: str
    announced: int
    query: str
    data: bytes
    taken_in: bool = True


QUERY = '(bee* OR honeybee* OR "Apis") AND (insulat* OR wrap* OR "hive cover*")\nAND (winter* OR overwinter*)'


def _flawed(rng: random.Random, it: Document, *, initials: bool, keep_doi: float) -> Document:
    """A document as a careless source would have it."""
    if it.flawless:
        return it
    subtitle = it.subtitle if rng.random() < 0.85 else ""
    title = it.title.upper() if rng.random() < 0.03 else it.title
    if rng.random() < 0.03 and len(it.full_title) > 60:
        title, subtitle = it.full_title[:58], ""
    names = tuple(f"{name.split(', ')[0]}, {name.split(', ')[1][0]}" for name in it.authors) if initials else it.authors
    if len(names) > 4 and rng.random() < 0.1:
        names = (*names[:3], "et al.")
    return replace(
        it,
        title=title,
        subtitle=subtitle,
        authors=() if rng.random() < 0.015 else names,
        year=it.year + (1 if rng.random() < 0.04 else 0),
        doi=it.doi if rng.random() < keep_doi else "",
        abstract="" if rng.random() < 0.05 else it.abstract,
    )


def shared_out(found: list[Document], seed: int = 7) -> dict[str, list[Document]]:
    """Which source holds which documents: each in at least one, 432 in more than one; those over which a team doubts as `doubts` says."""
    rng = random.Random(seed)
    pairs = doubts(FIRST_DOUBTED)
    placed = [side for pair in pairs for side in ((pair.one_from, pair.one), (pair.other_from, pair.other))]
    found = [it for it in found if it.number < FIRST_DOUBTED]
    theses = [it for it in found if it.kind == "thesis"]
    others = [it for it in found if it.kind != "thesis"]
    rng.shuffle(others)
    belonging = [it for it in others if it.theme == "belongs"]
    register, rest = others[:24], others[24:]
    register = [
        replace(it, kind="registration", abstract=it.abstract.split(". ")[0] + ".") if it.theme != "belongs" else it for it in register
    ]
    chased, rest = rest[:12], rest[12:]
    only_theses = (theses + [it for it in rest if it.kind == "report"])[:115]
    rest = [it for it in [*theses, *rest] if it not in only_theses]
    held: dict[str, list[Document]] = {
        "agrarica": [],
        "vitalis": [],
        "abstracts": [],
        "theses": list(only_theses),
        "register": list(register),
        "chasing": list(chased),
    }
    kept_for = Counter(source for source, _ in placed)
    wanted = {name: size - kept_for[name] for name, size in (("agrarica", 418), ("vitalis", 391), ("abstracts", 302))}
    shares = [n / 1111 for n in wanted.values()]
    for it in rest:
        open_ = [name for name in wanted if len(held[name]) < wanted[name]]
        held[rng.choices(open_, [shares[list(wanted).index(name)] for name in open_])[0]].append(it)
    for name, size in wanted.items():
        pool = [it for it in rest if it not in held[name]]
        chosen = [it for it in pool if it.theme == "belongs"][: size - len(held[name])]
        chosen += rng.sample([it for it in pool if it.theme != "belongs"], size - len(held[name]) - len(chosen))
        held[name] += chosen
    held["theses"] += rng.sample([it for it in rest if it not in held["theses"]], 129 - kept_for["theses"] - len(held["theses"]))
    held["chasing"] += (belonging + rng.sample(rest, 30))[: 42 - kept_for["chasing"] - len(held["chasing"])]
    for source, it in placed:
        held[source].append(it)
    for name in held:
        rng.shuffle(held[name])
    return held


_RIS_KINDS = {
    "article": "JOUR", "conference": "CPAPER", "thesis": "THES", "report": "RPRT", "book": "BOOK", "preprint": "UNPB", "registration": "DBASE",
}  # fmt: skip


def _ris(rng: random.Random, it: Document, accession: str, *, old: bool) -> str:
    title_tag, name_tag, year_tag, abstract_tag = ("T1", "A1", "Y1", "N2") if old else ("TI", "AU", "PY", "AB")
    lines = [f"TY  - {_RIS_KINDS[it.kind]}", f"ID  - {accession}"]
    title = it.full_title
    if old and len(title) > 70:
        lines += [f"{title_tag}  - {title[: title.rfind(' ', 0, 60)]}", title[title.rfind(" ", 0, 60) + 1 :]]
    else:
        lines.append(f"{title_tag}  - {title}")
    lines += [f"{name_tag}  - {name}" for name in it.authors]
    lines.append(f"{year_tag}  - {it.year}" + ("///Winter" if old and rng.random() < 0.1 else ""))
    lines += [
        f"{tag}  - {value}"
        for tag, value in (
            ("JF" if old else "T2", it.venue.name), ("VL", it.volume or ""), ("IS", it.issue or ""), ("SP", it.pages[0]), ("EP", it.pages[1])
        )
        if value
    ]  # fmt: skip
    if it.doi:
        lines.append("DO  - " + (f"https://doi.org/{it.doi.upper()}" if old else it.doi))
    if it.abstract:
        lines += [f"{abstract_tag}  - " + "\n".join(textwrap.wrap(it.abstract, 90)) if old else f"{abstract_tag}  - {it.abstract}"]
    lines += [f"KW  - {word}" for word in it.descriptors]
    lines += [f"M9  - 0.{rng.randint(100, 999)}"] if old and rng.random() < 0.3 else []
    return "\n".join([*lines, "ER  - ", "", ""])


def _nbib(it: Document, accession: str) -> str:
    def field(tag: str, value: str) -> str:
        return "\n".join(textwrap.wrap(f"{tag:<4}- {value}", 88, subsequent_indent="      ", break_on_hyphens=False)) + "\n"

    text = field("PMID", accession) + "OWN - VX\nSTAT- Indexed\n" + field("DP", f"{it.year} Feb") + field("TI", it.full_title + ".")
    text += (
        (field("PG", f"{it.page}-{it.pages[1][-2:]}") if it.page else "")
        + (field("LID", f"{it.doi} [doi]") if it.doi else "")
        + (field("AB", it.abstract) if it.abstract else "")
    )
    for name in it.authors:
        family, _, given = name.partition(", ")
        text += field("FAU", name) + field("AU", f"{family} {given[:1]}")
    text += f"LA  - {it.language}\n" + field(
        "PT", {"conference": "Congress", "book": "Book", "report": "Technical Report"}.get(it.kind, "Journal Article")
    )
    text += field("TA", it.venue.short) + field("JT", it.venue.name)
    text += "".join(f"{tag}  - {value}\n" for tag, value in (("VI", it.volume), ("IP", it.issue)) if value)
    return text + "".join(field("MH", word) for word in it.descriptors) + field("PL", COUNTRIES[it.journal % len(COUNTRIES)]) + "\n"


def _bibtex(it: Document, key: str) -> str:
    kind = {"thesis": "phdthesis", "report": "techreport", "conference": "inproceedings", "book": "book"}.get(it.kind, "article")
    accents = str.maketrans({"ø": "{\\o}", "ö": '{\\"o}', "ü": '{\\"u}', "Ç": "{\\c C}"})
    fields = [
        ("title", "{" + it.full_title + "}"), ("author", " and ".join(it.authors).translate(accents)), ("year", str(it.year)),
        ("school" if kind == "phdthesis" else "journal", it.venue.name), ("pages", "--".join(it.pages)), ("doi", it.doi),
        ("abstract", it.abstract), ("keywords", ", ".join(it.descriptors)),
    ]  # fmt: skip
    return f"@{kind}{{{key},\n" + "".join(f"  {name} = {{{value}}},\n" for name, value in fields if value) + "}\n\n"


def _csv(rows: list[list[str]]) -> str:
    return "".join(";".join('"' + cell.replace('"', '""') + '"' for cell in row) + "\r\n" for row in rows)


def exports(found: list[Document] | None = None) -> list[Export]:
    """Every file of the demo. The same every time."""
    held = shared_out(found or documents())
    rng = random.Random(11)
    files: list[Export] = []
    agrarica = [_ris(rng, _flawed(rng, it, initials=False, keep_doi=0.75), f"AGR{it.number:06d}", old=True) for it in held["agrarica"]]
    for part, records in ((1, agrarica[:206]), (2, agrarica[206:])):
        files.append(
            Export(
                f"agrarica-2026-02-part-{part}.txt",
                "Agrarica",
                "database",
                424,
                QUERY,
                "".join(records).replace("\n", "\r\n").encode("cp1252"),
            )
        )
    vitalis = "".join(_nbib(_flawed(rng, it, initials=False, keep_doi=0.9), str(7300000 + it.number)) for it in held["vitalis"])
    files.append(Export("vitalis-index.nbib", "Vitalis Index", "database", 391, QUERY.replace("\n", " "), vitalis.encode()))
    theses = "".join(_bibtex(_flawed(rng, it, initials=False, keep_doi=0.3), f"nt{it.number}") for it in held["theses"])
    files.append(
        Export("northern-theses.bib", "Northern Theses", "database", 129, "insulation AND (hive OR bees) AND winter", theses.encode())
    )
    rows = [
        [
            "Accession",
            "Article title",
            "Authors",
            "Publication year",
            "Source title",
            "Volume",
            "Issue",
            "Start page",
            "DOI",
            "Abstract",
            "Descriptors",
            "Relevance",
        ]
    ]
    for it in (_flawed(rng, it, initials=True, keep_doi=0.5) for it in held["abstracts"]):
        names = "; ".join(name.replace(",", "") for name in it.authors)
        rows.append([f"APA-{it.number:05d}", it.full_title, names, str(it.year), it.venue.short, str(it.volume or ""), str(it.issue or ""), it.pages[0], it.doi, it.abstract, "; ".join(it.descriptors), f"{rng.random():.2f}"])  # fmt: skip
    files.append(
        Export(
            "apicultural-abstracts.csv",
            "Apicultural Abstracts",
            "database",
            302,
            "TI,AB(insulat* winter* bee*)",
            ("\ufeff" + _csv(rows)).encode(),
        )
    )
    files.append(Export("hive-trials-register.xlsx", "Hive Trials Register", "register", 24, "insulation", _workbook(held["register"])))
    chased = "".join(_ris(rng, _flawed(rng, it, initials=True, keep_doi=0.6), f"CC{it.number:05d}", old=False) for it in held["chasing"])
    files.append(Export("citation-chasing.ris", "Citation chasing", "citation", 42, "Reference lists of the six seeds", chased.encode()))
    rng = random.Random(13)
    files.append(
        Export(
            "hive-house-list.txt", "Hive House Library", "website", 26, "Shelf list: hives, wintering",
            _listing(rng.sample(held["vitalis"] + held["theses"], 26)).encode(), taken_in=False,
        )
    )  # fmt: skip
    files.append(
        Export(
            "beekeepers-archive.ris", "Beekeepers' Archive", "organisation", 18, "All entries under “Wintering”",
            "".join(_mislabelled(it) for it in rng.sample(held["abstracts"], 18)).encode(), taken_in=False,
        )
    )  # fmt: skip
    return files


def _listing(held: list[Document]) -> str:
    """Labelled text of a kind that nobody has a reader for."""
    text = "Hive House Library. Printed for readers on 7 February 2026.\n\n"
    for number, it in enumerate(held, 1):
        said = [
            ("Rec No", str(number)), ("Headline", it.full_title), ("Writers", "; ".join(it.authors)), ("Issued", str(it.year)), ("Printed in", it.venue.name),
            ("Leaves", "-".join(it.pages).strip("-")), ("Digest", "\n   ".join(textwrap.wrap(it.abstract, 84))), ("Look at", f"https://doi.org/{it.doi}" if it.doi else ""),
            ("Shelf words", "; ".join(it.descriptors)),
        ]  # fmt: skip
        text += "".join(f"{label}: {value}\n" for label, value in said if value) + "\n"
    return text


def _mislabelled(it: Document) -> str:
    """RIS with the title where the journal belongs, the journal where the title does, and all authors in one heap."""
    names = ", ".join(f"{name.split(', ')[0]} {name.split(', ')[1][0]}" for name in it.authors)
    lines = [
        "TY  - JOUR",
        f"ID  - BA{it.number}",
        f"TI  - {it.venue.name}",
        f"T2  - {it.full_title}",
        f"AU  - {names}",
        f"PY  - {it.year}",
        f"VL  - {it.volume}",
    ]
    return "\n".join([*lines, *([f"N1  - {it.abstract}"] if it.abstract else []), "ER  - ", "", ""])


def _workbook(held: list[Document]) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True})
    book.set_properties({"created": datetime(2026, 2, 4)})
    sheet = book.add_worksheet("Entries")
    sheet.write(0, 0, "Hive Trials Register, exported 4 February 2026")
    for column, name in enumerate(("Record ID", "Title", "Authors", "Year", "Type", "Abstract", "Status")):
        sheet.write(2, column, name)
    for k, it in enumerate(held, 3):
        for column, value in enumerate(
            (f"HTR-{it.number:04d}", it.full_title, "; ".join(it.authors), it.year, "Trial registration", it.abstract, "completed")
        ):
            sheet.write(k, column, value)
    book.close()
    return out.getvalue()


def write(folder: Path = FOLDER) -> None:
    """Write the demo's files, and the full texts of what belongs, into a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    for export in exports():
        (folder / export.name).write_bytes(export.data)
    VOCABULARIES.mkdir(exist_ok=True)
    (VOCABULARIES / THESAURUS).write_text(turtle(), encoding="utf-8")
    papers = folder / "full-texts"
    papers.mkdir(exist_ok=True)
    for it in documents()[:40]:
        (papers / f"{it.doi.rpartition('/')[2]}.pdf").write_bytes(paper(it))


if __name__ == "__main__":
    write()
