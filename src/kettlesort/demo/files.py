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


def _flawed(rng: random.Random, document: Document, *, initials: bool, keep_doi: float) -> Document:
    """A document as a careless source would have it."""
    if document.flawless:
        return document
    subtitle = document.subtitle if rng.random() < 0.85 else ""
    title = document.title.upper() if rng.random() < 0.03 else document.title
    if rng.random() < 0.03 and len(document.full_title) > 60:
        title, subtitle = document.full_title[:58], ""
    names = tuple(f"{name.split(', ')[0]}, {name.split(', ')[1][0]}" for name in document.authors) if initials else document.authors
    if len(names) > 4 and rng.random() < 0.1:
        names = (*names[:3], "et al.")
    return replace(
        document,
        title=title,
        subtitle=subtitle,
        authors=() if rng.random() < 0.015 else names,
        year=document.year + (1 if rng.random() < 0.04 else 0),
        doi=document.doi if rng.random() < keep_doi else "",
        abstract="" if rng.random() < 0.05 else document.abstract,
    )


def shared_out(found: list[Document], seed: int = 7) -> dict[str, list[Document]]:
    """Which source holds which documents: each in at least one, 432 in more than one; those over which a team doubts as `doubts` says."""
    rng = random.Random(seed)
    pairs = doubts(FIRST_DOUBTED)
    placed = [side for pair in pairs for side in ((pair.one_from, pair.one), (pair.other_from, pair.other))]
    found = [document for document in found if document.number < FIRST_DOUBTED]
    theses = [one for one in found if one.kind == "thesis"]
    others = [one for one in found if one.kind != "thesis"]
    rng.shuffle(others)
    belonging = [other for other in others if other.theme == "belongs"]
    register, rest = others[:24], others[24:]
    register = [
        replace(one, kind="registration", abstract=one.abstract.split(". ")[0] + ".") if one.theme != "belongs" else one for one in register
    ]
    chased, rest = rest[:12], rest[12:]
    only_theses = (theses + [one for one in rest if one.kind == "report"])[:115]
    rest = [one for one in [*theses, *rest] if one not in only_theses]
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
    for one in rest:
        open_ = [name for name in wanted if len(held[name]) < wanted[name]]
        held[rng.choices(open_, [shares[list(wanted).index(name)] for name in open_])[0]].append(one)
    for name, size in wanted.items():
        pool = [each for each in rest if each not in held[name]]
        chosen = [each for each in pool if each.theme == "belongs"][: size - len(held[name])]
        chosen += rng.sample([each for each in pool if each.theme != "belongs"], size - len(held[name]) - len(chosen))
        held[name] += chosen
    held["theses"] += rng.sample([each for each in rest if each not in held["theses"]], 129 - kept_for["theses"] - len(held["theses"]))
    held["chasing"] += (belonging + rng.sample(rest, 30))[: 42 - kept_for["chasing"] - len(held["chasing"])]
    for source, one in placed:
        held[source].append(one)
    for name in held:
        rng.shuffle(held[name])
    return held


_RIS_KINDS = {
    "article": "JOUR", "conference": "CPAPER", "thesis": "THES", "report": "RPRT", "book": "BOOK", "preprint": "UNPB", "registration": "DBASE",
}  # fmt: skip


def _ris(rng: random.Random, document: Document, accession: str, *, old: bool) -> str:
    title_tag, name_tag, year_tag, abstract_tag = ("T1", "A1", "Y1", "N2") if old else ("TI", "AU", "PY", "AB")
    lines = [f"TY  - {_RIS_KINDS[document.kind]}", f"ID  - {accession}"]
    title = document.full_title
    if old and len(title) > 70:
        lines += [f"{title_tag}  - {title[: title.rfind(' ', 0, 60)]}", title[title.rfind(" ", 0, 60) + 1 :]]
    else:
        lines.append(f"{title_tag}  - {title}")
    lines += [f"{name_tag}  - {name}" for name in document.authors]
    lines.append(f"{year_tag}  - {document.year}" + ("///Winter" if old and rng.random() < 0.1 else ""))
    lines += [
        f"{tag}  - {value}"
        for tag, value in (
            ("JF" if old else "T2", document.venue.name), ("VL", document.volume or ""), ("IS", document.issue or ""), ("SP", document.pages[0]), ("EP", document.pages[1])
        )
        if value
    ]  # fmt: skip
    if document.doi:
        lines.append("DO  - " + (f"https://doi.org/{document.doi.upper()}" if old else document.doi))
    if document.abstract:
        lines += [
            f"{abstract_tag}  - " + "\n".join(textwrap.wrap(document.abstract, 90)) if old else f"{abstract_tag}  - {document.abstract}"
        ]
    lines += [f"KW  - {word}" for word in document.descriptors]
    lines += [f"M9  - 0.{rng.randint(100, 999)}"] if old and rng.random() < 0.3 else []
    return "\n".join([*lines, "ER  - ", "", ""])


def _nbib(document: Document, accession: str) -> str:
    def field(tag: str, value: str) -> str:
        return "\n".join(textwrap.wrap(f"{tag:<4}- {value}", 88, subsequent_indent="      ", break_on_hyphens=False)) + "\n"

    text = (
        field("PMID", accession)
        + "OWN - VX\nSTAT- Indexed\n"
        + field("DP", f"{document.year} Feb")
        + field("TI", document.full_title + ".")
    )
    text += (
        (field("PG", f"{document.page}-{document.pages[1][-2:]}") if document.page else "")
        + (field("LID", f"{document.doi} [doi]") if document.doi else "")
        + (field("AB", document.abstract) if document.abstract else "")
    )
    for name in document.authors:
        family, _, given = name.partition(", ")
        text += field("FAU", name) + field("AU", f"{family} {given[:1]}")
    text += f"LA  - {document.language}\n" + field(
        "PT", {"conference": "Congress", "book": "Book", "report": "Technical Report"}.get(document.kind, "Journal Article")
    )
    text += field("TA", document.venue.short) + field("JT", document.venue.name)
    text += "".join(f"{tag}  - {value}\n" for tag, value in (("VI", document.volume), ("IP", document.issue)) if value)
    return (
        text
        + "".join(field("MH", word) for word in document.descriptors)
        + field("PL", COUNTRIES[document.journal % len(COUNTRIES)])
        + "\n"
    )


def _bibtex(document: Document, key: str) -> str:
    kind = {"thesis": "phdthesis", "report": "techreport", "conference": "inproceedings", "book": "book"}.get(document.kind, "article")
    accents = str.maketrans({"ø": "{\\o}", "ö": '{\\"o}', "ü": '{\\"u}', "Ç": "{\\c C}"})
    fields = [
        ("title", "{" + document.full_title + "}"), ("author", " and ".join(document.authors).translate(accents)), ("year", str(document.year)),
        ("school" if kind == "phdthesis" else "journal", document.venue.name), ("pages", "--".join(document.pages)), ("doi", document.doi),
        ("abstract", document.abstract), ("keywords", ", ".join(document.descriptors)),
    ]  # fmt: skip
    return f"@{kind}{{{key},\n" + "".join(f"  {name} = {{{value}}},\n" for name, value in fields if value) + "}\n\n"


def _csv(rows: list[list[str]]) -> str:
    return "".join(";".join('"' + cell.replace('"', '""') + '"' for cell in row) + "\r\n" for row in rows)


def exports(found: list[Document] | None = None) -> list[Export]:
    """Every file of the demo. The same every time."""
    held = shared_out(found or documents())
    rng = random.Random(11)
    files = _agrarica(rng, held["agrarica"])
    vitalis = "".join(_nbib(_flawed(rng, one, initials=False, keep_doi=0.9), str(7300000 + one.number)) for one in held["vitalis"])
    files.append(Export("vitalis-index.nbib", "Vitalis Index", "database", 391, QUERY.replace("\n", " "), vitalis.encode()))
    theses = "".join(_bibtex(_flawed(rng, each, initials=False, keep_doi=0.3), f"nt{each.number}") for each in held["theses"])
    files.append(
        Export("northern-theses.bib", "Northern Theses", "database", 129, "insulation AND (hive OR bees) AND winter", theses.encode())
    )
    files.append(_abstracts(rng, held["abstracts"]))
    files.append(Export("hive-trials-register.xlsx", "Hive Trials Register", "register", 24, "insulation", _workbook(held["register"])))
    chased = "".join(
        _ris(rng, _flawed(rng, each, initials=True, keep_doi=0.6), f"CC{each.number:05d}", old=False) for each in held["chasing"]
    )
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
            "".join(_mislabelled(each) for each in rng.sample(held["abstracts"], 18)).encode(), taken_in=False,
        )
    )  # fmt: skip
    return files


def _agrarica(rng: random.Random, held: list[Document]) -> list[Export]:
    """Two parts, as of a source that gives only so many at a time."""
    records = [_ris(rng, _flawed(rng, one, initials=False, keep_doi=0.75), f"AGR{one.number:06d}", old=True) for one in held]
    return [
        Export(
            f"agrarica-2026-02-part-{part}.txt", "Agrarica", "database", 424, QUERY, "".join(some).replace("\n", "\r\n").encode("cp1252")
        )
        for part, some in ((1, records[:206]), (2, records[206:]))
    ]


_HEAD = (
    "Accession", "Article title", "Authors", "Publication year", "Source title", "Volume", "Issue", "Start page", "DOI", "Abstract", "Descriptors", "Relevance",
)  # fmt: skip


def _abstracts(rng: random.Random, held: list[Document]) -> Export:
    rows = [list(_HEAD)]
    for one in (_flawed(rng, each, initials=True, keep_doi=0.5) for each in held):
        names = "; ".join(name.replace(",", "") for name in one.authors)
        rows.append([f"APA-{one.number:05d}", one.full_title, names, str(one.year), one.venue.short, str(one.volume or ""), str(one.issue or ""), one.pages[0], one.doi, one.abstract, "; ".join(one.descriptors), f"{rng.random():.2f}"])  # fmt: skip
    data = ("\ufeff" + _csv(rows)).encode()
    return Export("apicultural-abstracts.csv", "Apicultural Abstracts", "database", 302, "TI,AB(insulat* winter* bee*)", data)


def _listing(held: list[Document]) -> str:
    """Labelled text of a kind that nobody has a reader for."""
    text = "Hive House Library. Printed for readers on 7 February 2026.\n\n"
    for number, document in enumerate(held, 1):
        said = [
            ("Rec No", str(number)), ("Headline", document.full_title), ("Writers", "; ".join(document.authors)), ("Issued", str(document.year)), ("Printed in", document.venue.name),
            ("Leaves", "-".join(document.pages).strip("-")), ("Digest", "\n   ".join(textwrap.wrap(document.abstract, 84))), ("Look at", f"https://doi.org/{document.doi}" if document.doi else ""),
            ("Shelf words", "; ".join(document.descriptors)),
        ]  # fmt: skip
        text += "".join(f"{label}: {value}\n" for label, value in said if value) + "\n"
    return text


def _mislabelled(document: Document) -> str:
    """RIS with the title where the journal belongs, the journal where the title does, and all authors in one heap."""
    names = ", ".join(f"{name.split(', ')[0]} {name.split(', ')[1][0]}" for name in document.authors)
    lines = [
        "TY  - JOUR",
        f"ID  - BA{document.number}",
        f"TI  - {document.venue.name}",
        f"T2  - {document.full_title}",
        f"AU  - {names}",
        f"PY  - {document.year}",
        f"VL  - {document.volume}",
    ]
    return "\n".join([*lines, *([f"N1  - {document.abstract}"] if document.abstract else []), "ER  - ", "", ""])


def _workbook(held: list[Document]) -> bytes:
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True})
    book.set_properties({"created": datetime(2026, 2, 4)})
    sheet = book.add_worksheet("Entries")
    sheet.write(0, 0, "Hive Trials Register, exported 4 February 2026")
    for column, name in enumerate(("Record ID", "Title", "Authors", "Year", "Type", "Abstract", "Status")):
        sheet.write(2, column, name)
    for k, document in enumerate(held, 3):
        for column, value in enumerate(
            (
                f"HTR-{document.number:04d}",
                document.full_title,
                "; ".join(document.authors),
                document.year,
                "Trial registration",
                document.abstract,
                "completed",
            )
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
    for document in documents()[:40]:
        (papers / f"{document.doi.rpartition('/')[2]}.pdf").write_bytes(paper(document))


if __name__ == "__main__":
    write()
