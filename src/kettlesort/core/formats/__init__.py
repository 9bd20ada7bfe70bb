"""Reading and writing files of records: one entry point for every format.

>>> with io.BytesIO(b"TY  - JOUR\\nTI  - Wrapped hives\\nER  - \\n") as file:
...     for entry in open_reading(file):
...         print(entry.line, entry.record.title)
1 Wrapped hives
"""

from __future__ import annotations

import io
import shutil
import tempfile
import zipfile
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import IO, Any, BinaryIO, NamedTuple, cast

from kettlesort.core.formats import archive, bibtex, csljson, listed, medline, nbib, ris, table
from kettlesort.core.formats.detection import GUESS, LIKELY, SURE, Detected, NotReadable, format_of, refuse_others
from kettlesort.core.formats.entry import Entry
from kettlesort.core.formats.habits import straightening
from kettlesort.core.formats.infer import propose
from kettlesort.core.formats.people import People
from kettlesort.core.formats.recipe import Recipe, shipped
from kettlesort.core.formats.settle import Settling
from kettlesort.core.formats.source import CODECS, Problem, TextSource
from kettlesort.core.formats.suspicion import Noted
from kettlesort.core.formats.tagged import read_recipe
from kettlesort.core.names import manner_named
from kettlesort.core.record import Record

__all__ = ["CODECS", "FORMATS", "GUESS", "LABELS", "LIKELY", "SURE", "WRITABLE", "Entry", "How", "NotReadable", "Problem", "Reading", "members_of", "open_reading", "write"]  # fmt: skip

LABELS = {
    "ris": "RIS", "nbib": "NBIB", "bibtex": "BibTeX", "csv": "CSV", "tsv": "TSV", "xlsx": "XLSX", "ods": "ODS", "xls": "XLS",
    "medline": "MEDLINE XML", "csljson": "CSL-JSON", "refer": "Refer", "recipe": "Reading recipe", "identifiers": "List of identifiers", "zip": "ZIP",
}  # fmt: skip
FORMATS = tuple(LABELS)
WRITABLE = ("ris", "nbib", "bibtex", "csv", "xlsx", "csljson")


class How(NamedTuple):
    """How a person wants a file read, where that is not to be found out: empty values are.

    ``format`` is one of `FORMATS`, ``encoding`` one of `CODECS`; ``fields`` says which field some tags or
    columns fill ("" for none); ``header`` is the row of column names, 0 for none; ``sheet`` a sheet's name;
    ``names`` is the manner in which names are written, as `names.Manner.key` has it.
    """

    format: str = ""
    encoding: str = ""
    fields: Mapping[str, str] = {}
    recipe: Recipe | None = None
    sheet: str = ""
    header: int | None = None
    names: str = ""


class Reading:
    """A file being read: iterate once for its entries; ``problems`` fills meanwhile.

    ``certainty`` is how sure the format is, ``sure`` whether the encoding is proved. ``fields`` are the labels or
    columns with the field that each fills; ``header`` the columns of a table in their order.
    """

    def __init__(
        self, format: str, encoding: str, sure: bool, entries: Iterator[Entry], problems: list[Problem], progress: Callable[[], int]
    ) -> None:
        self.format = format
        self.encoding = encoding
        self.sure = sure
        self.problems = problems
        self.certainty = SURE
        self.recipe: Recipe | None = None
        self.header: list[str] = []
        self.fields: dict[str, str] = {}
        self.delimiter = ""
        self.sheets: list[str] = []
        self.sheet = ""
        self.records = 0
        self.people = People()
        self.settled = Noted()
        self.parts: list[Reading] = []
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


def open_reading(file: BinaryIO, how: How = How(), recipes: Sequence[Recipe] = ()) -> Reading:
    """Detect the format of a seekable binary file from its content and begin to read it.

    ``recipes`` of the team take part in the detection. Raises NotReadable when the file is empty, binary or of no
    known format.
    """
    head = file.read(8)
    file.seek(0)
    if not head:
        raise NotReadable("the file is empty; export it again from the source")
    refuse_others(head)
    try:
        if head.startswith(b"PK"):
            reading = _packed(file, how, recipes)
        elif head.startswith(b"\xd0\xcf\x11\xe0"):
            reading = _old_book(file, how)
        else:
            reading = _text(file, how, recipes)
    except archive.Unsafe as error:
        raise NotReadable(str(error)) from None
    if not reading.parts:
        settling = Settling(People(manner_named(how.names) if how.names else None))
        reading.people, reading.settled = settling.people, settling.noted
        reading._entries = settling.over(reading._entries)
    return reading


def _text(file: BinaryIO, how: How, recipes: Sequence[Recipe]) -> Reading:
    source = TextSource(file, how.encoding)
    sample = source.sample
    if not source.encoding.codec.startswith("utf-16") and sample.count("\x00") > max(8, len(sample) // 100):
        raise NotReadable("this is a binary file, not text; export it again from the source as RIS, NBIB, BibTeX or CSV")
    source.straight = straightening(sample)
    sample = source.sample if source.straight else sample
    found = _wanted(sample, how) if how.format else format_of(sample, recipes)
    problems: list[Problem] = []
    source.problems = problems
    shape, recipe = found.shape, found.recipe
    if shape:
        shape = _shaped(shape, how, sample)
    elif recipe is None and found.format in ("ris", "nbib"):
        recipe = shipped()[found.format]
    if recipe is not None:
        recipe = recipe.reassigned(how.fields)
    if found.format == "medline":
        file.seek(0)
        entries, progress = medline.read(file, problems), file.tell
    else:
        entries, progress = _entries(found.format, source, problems, recipe, shape, how), lambda: source.bytes_read
    reading = Reading(found.format, source.encoding.label, source.encoding.sure, entries, problems, progress)
    reading.certainty, reading.recipe = found.certainty, recipe if found.format in ("recipe", "refer") else None
    if shape:
        reading.header, reading.fields, reading.delimiter = shape.header, shape.fields, shape.delimiter
    elif recipe:
        reading.fields = dict(recipe.fields)
    return reading


def _entries(
    format: str, source: TextSource, problems: list[Problem], recipe: Recipe | None, shape: table.Shape | None, how: How
) -> Iterator[Entry]:
    if shape:
        return table.read_delimited(source, problems, shape)
    if format in ("ris", "nbib"):
        assert recipe is not None
        read = ris.read if format == "ris" else nbib.read
        return read(source, problems, recipe if how.fields else shipped()[format])
    if recipe is not None:
        return read_recipe(source, recipe, problems)
    readers: dict[str, Callable[[TextSource, list[Problem]], Iterator[Entry]]] = {
        "bibtex": bibtex.read,
        "csljson": csljson.read,
        "identifiers": listed.read,
    }
    return readers[format](source, problems)


def _wanted(sample: str, how: How) -> Detected:
    """The format that a person chose."""
    if how.format in ("csv", "tsv"):
        shape = table.shape_of(sample) or table.forced_shape(sample, "\t" if how.format == "tsv" else "")
        return Detected(how.format, SURE, None, shape)
    if how.format in ("recipe", "refer"):
        recipe = how.recipe or (shipped()["refer"] if how.format == "refer" else None)
        if recipe is None:
            proposal = propose(sample)
            if proposal is None:
                raise NotReadable("no line of this file begins with a label that repeats; there is nothing that a recipe could go by")
            recipe = proposal.recipe
        return Detected(how.format, SURE, recipe)
    if how.format in ("ris", "nbib", "bibtex", "csljson", "identifiers", "medline"):
        return Detected(how.format, SURE)
    raise NotReadable(f"this file cannot be read as {LABELS.get(how.format, how.format)}; it is text")


def _shaped(shape: table.Shape, how: How, sample: str) -> table.Shape:
    if how.header is not None:
        shape = table.with_header(shape, how.header, sample)
    return shape._replace(fields={**shape.fields, **{name: field for name, field in how.fields.items() if name in shape.header}})


def _packed(file: BinaryIO, how: How, recipes: Sequence[Recipe]) -> Reading:
    """An archive: a workbook, or files that are read one after the other."""
    infos = archive.members(file)
    sort = archive.sort_of(infos)
    if sort == "office":
        raise NotReadable("this is an archive or office file, not a workbook; save its table as XLSX or CSV")
    if sort == "zip":
        return _zipped(file, how, recipes)
    archive.check_cells(file, sort, table.MOST_CELLS)
    return _book(file, sort, how)


def _old_book(file: BinaryIO, how: How) -> Reading:
    """A workbook of the older, binary form, if it is not locked."""
    data = file.read(20_000_000)
    file.seek(0)
    if "EncryptedPackage".encode("utf-16-le") in data:
        raise NotReadable("this workbook is locked with a password; open it, take the password off, and save it again")
    if "Workbook".encode("utf-16-le") not in data and "Book".encode("utf-16-le") not in data:
        raise NotReadable("this is an old office file, not a workbook; save it as XLSX or CSV")
    return _book(file, "xls", how)


def _book(file: BinaryIO, sort: str, how: How) -> Reading:
    problems: list[Problem] = []
    try:
        book = table.Book(file)
        sheet = table.sheet_of(book, how.sheet)
    except Exception as error:  # calamine raises many kinds on damaged and locked workbooks
        locked = "password" in str(error).lower() or "encrypt" in str(error).lower()
        raise NotReadable(
            "this workbook is locked with a password; open it, take the password off, and save it again"
            if locked
            else f"this workbook is damaged ({_first_line(error)}); save it again, or as CSV"
        ) from error
    if sheet:
        shape = sheet.shape
        if how.header is not None:
            shape = table.with_header(shape, how.header, table.head_of(book, sheet.name))
        sheet = sheet._replace(
            shape=shape._replace(fields={**shape.fields, **{name: f for name, f in how.fields.items() if name in shape.header}})
        )
    entries = _guarded(table.read_sheet(book, problems, sheet), problems)
    reading = Reading(sort, "UTF-8", True, entries, problems, file.tell)
    reading.sheets = book.sheet_names
    if sheet:
        reading.header, reading.fields, reading.sheet = sheet.shape.header, sheet.shape.fields, sheet.name
        reading.certainty = SURE if sheet.shape.sure else GUESS
    return reading


def _first_line(error: Exception) -> str:
    return (str(error).splitlines() or [type(error).__name__])[0][:120]


def _guarded(entries: Iterator[Entry], problems: list[Problem]) -> Iterator[Entry]:
    try:
        yield from entries
    except Exception as error:  # whatever calamine finds in a damaged workbook
        problems.append(Problem(0, f"this workbook could not be read to its end ({_first_line(error)}); save it again, or as CSV"))


def members_of(file: BinaryIO) -> list[tuple[str, BinaryIO]]:
    """The files in an archive with their names, opened one at a time as they are taken; none where ``file`` is no archive of files.

    Raises NotReadable for an archive that is damaged, locked or unsafe.
    """
    head = file.read(4)
    file.seek(0)
    if not head.startswith(b"PK"):
        return []
    try:
        infos = archive.members(file)
        return (
            [(info.filename, cast(BinaryIO, io.BufferedReader(_Member(file, info)))) for info in archive.to_read(infos)]
            if archive.sort_of(infos) == "zip"
            else []
        )
    except archive.Unsafe as error:
        raise NotReadable(str(error)) from None


class _Member(io.RawIOBase):
    """A file of an archive; unpacked to the disk, a piece at a time, when it is first read."""

    def __init__(self, file: BinaryIO, info: zipfile.ZipInfo) -> None:
        super().__init__()
        self._packed = (file, info)
        self._unpacked: BinaryIO | None = None

    def _content(self) -> BinaryIO:
        if self._unpacked is None:
            file, info = self._packed
            out = tempfile.TemporaryFile()  # noqa: SIM115 closed with the member
            try:
                with zipfile.ZipFile(file) as packed, packed.open(info) as member:
                    shutil.copyfileobj(member, out, 1 << 20)
            except archive.DAMAGED as error:
                out.close()
                raise NotReadable(f"{info.filename} in this archive is damaged; save it again") from error
            out.seek(0)
            self._unpacked = cast(BinaryIO, out)
        return self._unpacked

    def readable(self) -> bool:
        """It is."""
        return True

    def seekable(self) -> bool:
        """It is."""
        return True

    def readinto(self, buffer: Any) -> int:
        """Bytes of the unpacked file. Raises NotReadable for a damaged one."""
        data = self._content().read(len(buffer))
        buffer[: len(data)] = data
        return len(data)

    def seek(self, offset: int, whence: int = 0) -> int:
        """Go to a place."""
        return self._content().seek(offset, whence)

    def tell(self) -> int:
        """The place."""
        return self._content().tell()

    def close(self) -> None:
        """Forget what was unpacked."""
        if self._unpacked:
            self._unpacked.close()
        super().close()


def _zipped(file: BinaryIO, how: How, recipes: Sequence[Recipe]) -> Reading:
    """All files of an archive as one; lines are those of each file."""
    held = members_of(file)
    problems: list[Problem] = []
    readings: list[tuple[str, Reading]] = []
    for name, member in held:
        try:
            if member.read(2) == b"PK" and archive.sort_of(archive.members(member)) == "zip":
                raise NotReadable("it is an archive within an archive; unpack it first")
            member.seek(0)
            readings.append((name, open_reading(member, how, recipes)))
        except (NotReadable, archive.Unsafe) as error:
            problems.append(Problem(0, f"{name}: {error}"))
    if not readings:
        raise NotReadable(f"this archive holds nothing readable: {problems[0].message}")

    def entries() -> Iterator[Entry]:
        position = 0
        for name, reading in readings:
            for entry in reading:
                position += 1
                yield entry._replace(position=position)
            problems.extend(Problem(problem.line, f"{name}: {problem.message}") for problem in reading.problems)

    formats = {reading.format for _, reading in readings}
    first = readings[0][1]
    reading = Reading(
        first.format if len(formats) == 1 else "zip", first.encoding, all(one.sure for _, one in readings), entries(), problems, file.tell
    )
    reading.parts = [one for _, one in readings]
    reading.certainty, reading.recipe, reading.header, reading.fields = first.certainty, first.recipe, first.header, first.fields
    return reading


def write(
    records: Iterable[Record],
    format: str,
    out: IO[bytes],
    columns: Sequence[str] = table.COLUMNS,
    more: Mapping[str, Iterable[str]] | None = None,
) -> None:
    """Write records as one of `WRITABLE`; of a table the ``columns``, and ``more`` columns with a value for each record.

    Raises ValueError for another format.
    """
    if format == "xlsx":
        table.write_xlsx(table.rows_of(records, columns, more), out)
        return
    if format == "csv":
        out.write("\ufeff".encode())
        pieces = table.write_csv(table.rows_of(records, columns, more))
    elif format in ("ris", "nbib", "bibtex", "csljson"):
        writer = {"ris": ris.write, "nbib": nbib.write, "bibtex": bibtex.write, "csljson": csljson.write}[format]
        pieces = writer(records)
    else:
        raise ValueError(f"cannot write {format!r}; one of {', '.join(WRITABLE)}")
    for piece in pieces:
        out.write(piece.encode("utf-8", "replace"))


class Loss(NamedTuple):
    """What a format cannot hold: a field, of how many records, and one of them as it is and as it would come back."""

    field: str
    records: int
    before: str
    after: str


def losses(records: Sequence[Record], format: str) -> list[Loss]:
    """What would be lost by writing records in a format: they are written, read again, and compared."""
    out = io.BytesIO()
    write(records, format, out)
    out.seek(0)
    try:
        back = [entry.record for entry in open_reading(out, How(format=format if format != "xlsx" else ""))]
    except NotReadable:
        back = []
    found: dict[str, Loss] = {}
    empty = Record(kind="")
    for k, before in enumerate(records):
        after = back[k] if k < len(back) else empty
        for name in Record._fields:
            one, two = _compared(before, name), _compared(after, name)
            if one != two and one:
                held = found.get(name)
                found[name] = held._replace(records=held.records + 1) if held else Loss(name, 1, _shown(one), _shown(two))
    return [found[name] for name in Record._fields if name in found]


def _compared(record: Record, name: str) -> Any:
    value = getattr(record, name)
    if name == "date":
        return "" if value == str(record.year or "") else value
    return sorted(value) if name == "extra" else value


def _shown(value: Any) -> str:
    if isinstance(value, (tuple, list)):
        return "; ".join(" ".join(word) if isinstance(word, tuple) else word for word in value)[:200]
    return "" if value is None else str(value)[:200]


def suffix_of(format: str) -> str:
    """The customary ending of a file of this format."""
    return {"bibtex": "bib", "csljson": "json"}.get(format, format)


def read_path(path: Path) -> Reading:
    """Open a file by its path. Raises OSError or NotReadable."""
    return open_reading(path.open("rb"))
