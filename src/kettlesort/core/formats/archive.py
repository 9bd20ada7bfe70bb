"""Archives: what is in them, and whether they are safe to unpack."""

from __future__ import annotations

import lzma
import re
import struct
import zipfile
import zlib
from typing import BinaryIO

MOST_UNPACKED = 2_000_000_000
MOST_RATIO = 200
MOST_MEMBERS = 500
DAMAGED = (
    zipfile.BadZipFile,
    zlib.error,
    lzma.LZMAError,
    OSError,
    EOFError,
    ValueError,
    NotImplementedError,
    RuntimeError,
    struct.error,
    IndexError,
)
"""What reading a damaged or locked archive raises."""
_CELL = re.compile(rb'<(?:\w+:)?c [^>]*?r="([A-Z]{1,3})(\d{1,7})"')
_REPEATED = re.compile(rb'number-(columns|rows)-repeated="(\d{1,9})"')


class Unsafe(ValueError):
    """The archive is damaged, locked, or would unpack to something huge; the message says what to do."""


def members(file: BinaryIO) -> list[zipfile.ZipInfo]:
    """The files in an archive. Raises Unsafe."""
    try:
        with zipfile.ZipFile(file) as archive:
            infos = [info for info in archive.infolist() if not info.is_dir()]
    except DAMAGED as error:
        raise Unsafe("this archive is damaged or cut off; save it again") from error
    finally:
        file.seek(0)
    total, packed = sum(info.file_size for info in infos), sum(info.compress_size for info in infos)
    if total > MOST_UNPACKED or (total > 50_000_000 and total > MOST_RATIO * max(1, packed)):
        raise Unsafe(f"this would unpack to {total // 1_000_000:,} MB, which no export does; save it without packing")
    return infos


def sort_of(infos: list[zipfile.ZipInfo]) -> str:
    """ "xlsx" or "ods" for a workbook, "office" for another office file, "zip" for an archive of files."""
    names = {info.filename for info in infos}
    if "xl/workbook.xml" in names:
        return "xlsx"
    if "content.xml" in names and any(name.startswith("META-INF/") for name in names):
        return "ods"
    return "office" if "[Content_Types].xml" in names or "mimetype" in names else "zip"


def to_read(infos: list[zipfile.ZipInfo]) -> list[zipfile.ZipInfo]:
    """The members that may hold records: no folders of the system, nothing hidden, no archive within. Raises Unsafe."""
    found = [
        info for info in infos
        if not info.filename.startswith("__MACOSX/") and not info.filename.rsplit("/", 1)[-1].startswith(".") and info.file_size
    ]  # fmt: skip
    if not found:
        raise Unsafe("this archive holds no file")
    if len(found) > MOST_MEMBERS:
        raise Unsafe(f"this archive holds {len(found):,} files; at most {MOST_MEMBERS} are read at once")
    if any(info.flag_bits & 1 for info in found):
        raise Unsafe("this archive is locked with a password; unpack it and upload its files")
    return found


def check_cells(file: BinaryIO, sort: str, most: int) -> None:
    """Refuse a workbook whose few bytes spread over more cells than fit into memory. Raises Unsafe."""
    with zipfile.ZipFile(file) as archive:
        for info in archive.infolist():
            if sort == "xlsx" and re.fullmatch(r"xl/worksheets/[^/]+\.xml", info.filename):
                _check(_extent(archive, info), most)
            elif sort == "ods" and info.filename == "content.xml":
                _check(_repeats(archive, info), most)
    file.seek(0)


def _check(cells: int, most: int) -> None:
    if cells > most:
        raise Unsafe(f"the table of this workbook spreads over {cells:,} cells, most of them empty; save the table as CSV")


def _extent(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> int:
    """Rows times columns of the sheet's used area."""
    widest = lowest = 0
    tail = b""
    try:
        with archive.open(info) as member:
            while data := member.read(1 << 20):
                for letters, row in _CELL.findall(tail + data):
                    column = 0
                    for letter in letters:
                        column = column * 26 + letter - 64
                    widest, lowest = max(widest, column), max(lowest, int(row))
                tail = data[-200:]
    except DAMAGED as error:
        raise Unsafe("this workbook is damaged or locked; save it again") from error
    return widest * lowest


def _repeats(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> int:
    """The cells that repeated columns and rows with something in them would make."""
    total, rows, tail = 0, 1, b""
    try:
        with archive.open(info) as member:
            while data := member.read(1 << 20):
                text = tail + data
                cut = text.rfind(b"<")
                text, tail = (text[:cut], text[cut:]) if cut > 0 else (text, b"")
                for element in re.findall(rb"<table:table-(?:row|cell)\b[^>]*>", text):
                    repeats = {sort: int(n) for sort, n in _REPEATED.findall(element)}
                    if element.startswith(b"<table:table-row"):
                        rows = repeats.get(b"rows", 1)
                    elif b"office:value" in element or b"calcext" in element:
                        total += rows * repeats.get(b"columns", 1)
    except DAMAGED as error:
        raise Unsafe("this workbook is damaged or locked; save it again") from error
    return total
