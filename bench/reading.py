"""Reading each format against a common library, or against plain parsing of the same bytes; and a million records in constant memory.

`./kettle run python bench/reading.py [records for the memory run]`
"""

from __future__ import annotations

import csv
import io
import json
import sys
from collections.abc import Callable
from pathlib import Path

import bibtexparser
import python_calamine
import rispy
from Bio import Medline
from lxml import etree

from corpus import write
from kettlesort.core import formats
from measure import FOLDER, best, peak_of, tell

RECORDS = 10_000


def ours(path: Path) -> int:
    return sum(1 for _ in formats.open_reading(path.open("rb")))


def as_xml(records: int) -> bytes:
    """MEDLINE XML of so many records, as plain as it can be."""
    one = (
        "<MedlineCitation><PMID>{k}</PMID><Article><Journal><JournalIssue><Volume>12</Volume><PubDate><Year>2016</Year></PubDate></JournalIssue>"
        "<Title>Hive Letters</Title></Journal><ArticleTitle>Wraps of kind {k}</ArticleTitle><Abstract><AbstractText>{text}</AbstractText></Abstract>"
        "<AuthorList><Author><LastName>Orsel</LastName><ForeName>Wilma</ForeName></Author></AuthorList></Article></MedlineCitation>\n"
    )
    text = "Hives were weighed every week over the winter and again in spring. " * 12
    return ("<MedlineCitationSet>\n" + "".join(one.format(k=k, text=text) for k in range(records)) + "</MedlineCitationSet>").encode()


def files() -> dict[str, Path]:
    """The same records in every format."""
    ris = write(FOLDER / "10k.ris", RECORDS)
    found = {"ris": ris, "nbib": write(FOLDER / "10k.nbib", RECORDS, "nbib")}
    records = [entry.record for entry in formats.open_reading(ris.open("rb"))]
    for format in ("bibtex", "csv", "xlsx", "csljson"):
        found[format] = FOLDER / f"10k.{formats.suffix_of(format)}"
        with found[format].open("wb") as out:
            formats.write(records, format, out)
    found["labelled"] = FOLDER / "10k-labelled.txt"
    found["labelled"].write_text(
        "".join(
            f"Title: {it.title}\nAuthors: {'; '.join(it.authors)}\nYear: {it.year}\nJournal: {it.journal}\nAbstract: {it.abstract}\n\n"
            for it in records
        )
    )
    found["medline"] = FOLDER / "10k.xml"
    found["medline"].write_bytes(as_xml(RECORDS))
    return found


PEERS: dict[str, tuple[str, Callable[[Path], object], float]] = {
    "ris": ("rispy", lambda path: len(rispy.load(path.open(encoding="utf-8"))), 5),
    "nbib": ("Biopython", lambda path: sum(1 for _ in Medline.parse(path.open(encoding="utf-8"))), 5),
    "bibtex": ("bibtexparser", lambda path: len(bibtexparser.parse_file(str(path)).entries), 0.5),
    "csv": ("plain csv", lambda path: sum(1 for _ in csv.DictReader(path.open(encoding="utf-8-sig"))), 0.2),
    "xlsx": (
        "plain calamine",
        lambda path: len(python_calamine.CalamineWorkbook.from_path(str(path)).get_sheet_by_index(0).to_python()),
        0.2,
    ),
    "csljson": ("plain json", lambda path: len(json.loads(path.read_text())), 0.2),
    "medline": ("plain lxml", lambda path: len(etree.parse(io.BytesIO(path.read_bytes())).getroot()), 0.1),
    "labelled": ("plain split", lambda path: [line.partition(": ") for line in path.read_text().split("\n")], 0.05),
}
"""What each is compared with, and how many times as fast ours is wanted to be, at least: libraries that do as much, or parsing that does a part."""


def main() -> None:
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000
    path = write(FOLDER / f"{many}.ris", many)
    code = f"from kettlesort.core import formats\nprint(sum(1 for _ in formats.open_reading(open({str(path)!r}, 'rb'))))"
    tell(f"peak memory for {many:,} records, MB", peak_of(code), 300, at_most=True)  # first: a child has the peak of its parent
    for format, path in files().items():
        name, peer, wanted = PEERS[format]
        mine, theirs = best(lambda path=path: ours(path), lambda path=path, peer=peer: peer(path))
        tell(
            f"reading {format}, times as fast as {name}",
            theirs / mine,
            wanted,
            at_most=False,
            detail=f"{mine / RECORDS * 1e6:.0f} µs a record",
        )


if __name__ == "__main__":
    main()
