"""Reading and writing files of records: one entry point for every format.

>>> with open("export.txt", "rb") as file:
...     reading = open_reading(file)
...     for entry in reading:
...         print(entry.line, entry.record.title)
"""

from __future__ import annotations

import re
import zipfile
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import BinaryIO

from kettlesort.core.formats import bibtex, csljson, nbib, ris, table
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.source import Problem, TextSource
from kettlesort.core.record import Record

__all__ = ["FORMATS", "LABELS", "WRITABLE", "Entry", "NotReadable", "Problem", "Reading", "open_reading", "write"]

LABELS = {"ris": "RIS", "nbib": "NBIB", "bibtex": "BibTeX", "csv": "CSV", "tsv": "TSV", "xlsx": "XLSX"}
FORMATS = tuple(LABELS)
WRITABLE = ("ris", "nbib", "bibtex", "csv", "xlsx", "csljson")
_MAX_UNPACKED = 2_000_000_000
_MAX_RATIO = 200


class NotReadable(ValueError):
    """The file is none of the formats; the message says what it seems to be and what to do."""


class Reading:
    """A file being read: iterate once for its entries; ``problems`` fills meanwhile."""

    def __init__(
        self, format: str, encoding: str, sure: bool, entries: Iterator[Entry], problems: list[Problem], progress: Callable[[], int]
    ) -> None:
        self.format = format
        self.encoding = encoding
        self.sure = sure
        self.problems = problems
        self.records = 0
        self._entries = entries
        self._progress = progress

    @property
    def bytes_read(self) -> int:
        """How much of the file has been read, for showing progress."""
        return self._progress()

    def __iter__(self) -> Iterator[Entry]:
        for entry in self._entries:
            self.records += 1
            yield entry


_READERS: dict[str, Callable[[TextSource, list[Problem]], Iterator[Entry]]] = {
    "ris": ris.read,
    "nbib": nbib.read,
    "bibtex": bibtex.read,
    "csv": table.read_delimited,
    "tsv": table.read_delimited,
}
_OTHERS = (
    (b"%PDF", "a PDF, not an export of records; export from the source as RIS, NBIB, BibTeX or CSV"),
    (b"\xd0\xcf\x11\xe0", "an old binary office file; save it as XLSX or CSV"),
    (b"\x89PNG", "a picture"),
    (b"\xff\xd8\xff", "a picture"),
    (b"\x1f\x8b", "a compressed file; unpack it first"),
    (b"Rar!", "a compressed file; unpack it first"),
    (b"7z\xbc\xaf", "a compressed file; unpack it first"),
    (b"{\\rtf", "a word processor's file; save it as plain text"),
)


def open_reading(file: BinaryIO) -> Reading:
    """Detect the format of a seekable binary file from its content and begin to read it.

    Raises NotReadable when it is empty, binary or of no known format.
    """
    head = file.read(8)
    file.seek(0)
    if not head:
        raise NotReadable("the file is empty; export it again from the source")
    for magic, what in _OTHERS:
        if head.startswith(magic):
            raise NotReadable(f"this is {what}")
    problems: list[Problem] = []
    if head.startswith(b"PK"):
        _check_archive(file)
        return Reading("xlsx", "UTF-8", True, _sheet(file, problems), problems, file.tell)
    source = TextSource(file)
    sample = source.sample
    if not source.encoding.codec.startswith("utf-16") and sample.count("\x00") > max(8, len(sample) // 100):
        raise NotReadable("this is a binary file, not text; export it again from the source as RIS, NBIB, BibTeX or CSV")
    format = _format_of(sample)
    source.problems = problems
    entries = _READERS[format](source, problems)
    return Reading(format, source.encoding.label, source.encoding.sure, entries, problems, lambda: source.bytes_read)


def _format_of(sample: str) -> str:
    if not sample.strip("\x00\ufeff \n\t"):
        raise NotReadable("the file holds nothing but blanks; export it again from the source")
    if nbib.is_nbib(sample) and not re.search(r"^TY {1,2}-", sample, re.M):
        return "nbib"
    if ris.is_ris(sample):
        return "ris"
    if bibtex.is_bibtex(sample):
        return "bibtex"
    delimiter = table.delimiter_of(sample)
    if delimiter:
        return "tsv" if delimiter == "\t" else "csv"
    first = next(line.strip() for line in sample.split("\n") if line.strip())
    if first.lower().startswith(("<!doctype html", "<html")):
        raise NotReadable("this is a web page, perhaps a sign-in page saved instead of the export; export it again")
    raise NotReadable(
        f"no known format: no tags (RIS, NBIB), no @entries (BibTeX), no row of column names (CSV, XLSX); it begins “{first[:60]}”"
    )


def _check_archive(file: BinaryIO) -> None:
    """Refuse an archive that is no workbook, or that would unpack to something huge."""
    try:
        with zipfile.ZipFile(file) as archive:
            names = archive.namelist()
            sizes = [(info.file_size, info.compress_size) for info in archive.infolist()]
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise NotReadable("this archive is damaged or cut off; save it again") from error
    finally:
        file.seek(0)
    if "xl/workbook.xml" not in names:
        raise NotReadable("this is an archive or office file, not an XLSX workbook; unpack it or save it as XLSX or CSV")
    total, packed = sum(size for size, _ in sizes), sum(size for _, size in sizes)
    if total > _MAX_UNPACKED or (total > 50_000_000 and total > _MAX_RATIO * max(1, packed)):
        raise NotReadable(f"this workbook would unpack to {total // 1_000_000:,} MB; save the table as CSV")


def _sheet(file: BinaryIO, problems: list[Problem]) -> Iterator[Entry]:
    try:
        yield from table.read_sheet(file, problems)
    except Exception as error:  # whatever calamine finds in a damaged workbook
        problems.append(Problem(0, f"this workbook could not be read to its end ({error}); save it again, or as CSV"))


def header_of(file: BinaryIO, format: str) -> list[str]:
    """The names of the columns of a table, as the file has them; none for other formats."""
    if format == "xlsx":
        return table.sheet_header(file)
    return table.delimited_header(TextSource(file).sample) if format in ("csv", "tsv") else []


def write(records: Iterable[Record], format: str, out: BinaryIO) -> None:
    """Write records as one of `WRITABLE`. Raises ValueError for another format."""
    if format == "xlsx":
        table.write_xlsx(table.rows_of(records), out)
        return
    if format == "csv":
        out.write("\ufeff".encode())
        pieces = table.write_csv(table.rows_of(records))
    elif format in ("ris", "nbib", "bibtex", "csljson"):
        writer = {"ris": ris.write, "nbib": nbib.write, "bibtex": bibtex.write, "csljson": csljson.write}[format]
        pieces = writer(records)
    else:
        raise ValueError(f"cannot write {format!r}; one of {', '.join(WRITABLE)}")
    for piece in pieces:
        out.write(piece.encode())


def suffix_of(format: str) -> str:
    """The customary ending of a file of this format."""
    return {"bibtex": "bib", "csljson": "json"}.get(format, format)


def read_path(path: Path) -> Reading:
    """Open a file by its path. Raises OSError or NotReadable."""
    return open_reading(path.open("rb"))
