"""Bytes to text: which encoding, in constant memory, with every bad byte reported and kept."""

from __future__ import annotations

import codecs
import io
import re
import threading
from collections.abc import Callable, Iterator
from contextlib import suppress
from typing import BinaryIO, NamedTuple

from kettlesort.core.text.glance import plain_lines

CHUNK = 1 << 18
SAMPLE = 1 << 18
LONGEST = 4_000_000
"""Bytes of a line; what goes on longer is no text that a person wrote."""


class Problem(NamedTuple):
    """Something that could not be read as it stands; ``line`` counts from 1, 0 for the file as a whole.

    A ``remark`` is said too, but nothing of a record was lost.
    """

    line: int
    message: str
    remark: bool = False


def heading(line: int, text: str) -> Problem:
    """The remark on a line that stands before the first record."""
    return Problem(line, f"a heading before the first record: “{' '.join(text.split())[:60]}”", True)


class Encoding(NamedTuple):
    """A codec's name, the name that people use, and whether the content proves it."""

    codec: str
    label: str
    sure: bool


_MARKS = (
    (codecs.BOM_UTF8, Encoding("utf-8-sig", "UTF-8 with mark", True)),
    (codecs.BOM_UTF16_LE, Encoding("utf-16", "UTF-16", True)),
    (codecs.BOM_UTF16_BE, Encoding("utf-16", "UTF-16", True)),
)
CODECS = {
    "utf-8": Encoding("utf-8", "UTF-8", True), "utf-16": Encoding("utf-16", "UTF-16", True), "cp1252": Encoding("cp1252", "Windows-1252", True),
    "latin-1": Encoding("latin-1", "Latin-1", True), "cp1250": Encoding("cp1250", "Windows-1250", True), "cp1251": Encoding("cp1251", "Windows-1251", True),
    "mac-roman": Encoding("mac-roman", "Mac Roman", True), "gb18030": Encoding("gb18030", "GB 18030", True), "shift_jis": Encoding("shift_jis", "Shift JIS", True),
}  # fmt: skip
"""Encodings that a person can choose."""
_CONTROL = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
_CONTROLS = [chr(code) for code in range(128) if _CONTROL.match(chr(code))]
_HIGH = re.compile(rb"[\x80-\xff]")
_UTF8_RUN = re.compile(rb"[\xc2-\xf4][\x80-\xbf]{1,3}")


def encoding_of(sample: bytes) -> Encoding:
    """Judge the encoding from the first bytes of a file (``SAMPLE`` of them are enough)."""
    for mark, encoding in _MARKS:
        if sample.startswith(mark):
            return encoding
    even, odd = sample[0:4000:2].count(0), sample[1:4000:2].count(0)
    half = max(1, min(len(sample), 4000) // 2)
    if odd > max(7, 0.4 * half) and even < 0.05 * half:  # a stray NUL or two in a few letters are none of UTF-16
        return Encoding("utf-16-le", "UTF-16", True)
    if even > max(7, 0.4 * half) and odd < 0.05 * half:
        return Encoding("utf-16-be", "UTF-16", True)
    if sample.isascii():
        return Encoding("utf-8", "UTF-8", True)
    high = len(_HIGH.findall(sample))
    in_runs = sum(len(run) for run in _UTF8_RUN.findall(sample))
    if in_runs >= 0.5 * high:
        return Encoding("utf-8", "UTF-8", True)
    return Encoding("cp1252", "Windows-1252", bool(re.search(rb"[\x80-\x9f]", sample)))


class TextSource:
    """The text of a binary file as chunks with ``\\n`` line ends.

    A byte that does not fit the encoding is read as Windows-1252, control characters are taken out; both are noted in
    ``problems`` with their line. ``straight`` is done to whole lines of the text, if it is set.
    """

    def __init__(self, file: BinaryIO, encoding: str = "") -> None:
        self.problems: list[Problem] = []
        self.straight: Callable[[str], str] | None = None
        self.bytes_read = 0
        self.longest: float = LONGEST
        self._file = file
        self._head = file.read(SAMPLE)
        self.encoding = CODECS[encoding] if encoding in CODECS else encoding_of(self._head)
        self._decoder = _decoder(self.encoding.codec, _MEND)
        self._begun = 0  # bytes before the piece that is being decoded
        self._counted = (0, 1)  # bytes up to which lines have been counted, and the line there
        self._counter = _decoder(self.encoding.codec, "replace")

    @property
    def sample(self) -> str:
        """The beginning of the text, for detection; empty once reading has begun."""
        text = self._head[:CHUNK].decode(self.encoding.codec, errors="replace").replace("\r\n", "\n").replace("\r", "\n")
        return self.straight(text) if self.straight else text

    def __iter__(self) -> Iterator[str]:
        if self.straight:
            yield from self._straightened(self.straight)
            return
        for data in self._pieces():
            yield self._decode(data)
        yield self._decode(b"", final=True)

    def _straightened(self, straight: Callable[[str], str]) -> Iterator[str]:
        """The text in pieces that end with a line, each with its lines made straight."""
        held = ""
        for data in (*self._pieces(), b""):
            held += self._decode(data, final=not data)
            cut = held.rfind("\n") + 1
            yield straight(held[:cut])
            held = held[cut:]
        yield straight(held)

    def utf8(self) -> Iterator[bytes]:
        """The same text as UTF-8; pieces that are that already, and hold no control character, are not read letter by letter."""
        if self.straight:
            yield from (piece.encode() for piece in self._straightened(self.straight))
            return
        for data in self._pieces():
            yield self._as_utf8(data)
        yield self._decode(b"", final=True).encode()

    def _as_utf8(self, data: bytes) -> bytes:
        if self.encoding.codec in ("utf-8", "cp1252") and self._decoder.getstate() == (b"", 0) and not data.endswith(b"\r"):
            lines = data.replace(b"\r\n", b"\n") if b"\r" in data else data
            if plain_lines(lines):
                if lines.isascii():
                    return lines
                if self.encoding.codec == "utf-8":
                    with suppress(UnicodeDecodeError):
                        _, whole = codecs.utf_8_decode(lines, "strict", False)  # all but a letter that is cut
                        return lines[:whole] + self._decode(lines[whole:]).encode()
        return self._decode(data).encode()

    def _decode(self, data: bytes, final: bool = False) -> str:
        _decoding.source = self  # for bytes that do not fit
        text = self._decoder.decode(data, final=final)
        return self._without_controls(text) if any(sign in text for sign in _CONTROLS) else text

    def _without_controls(self, text: str) -> str:
        """Text without its control characters; each line that held some is told."""
        line, at = self._first_line(), 0
        for found in _CONTROL.finditer(text):
            said = text.count("\n", at, found.start())
            if (said or not at) and len(self.problems) < 1000:
                signs = ", ".join(dict.fromkeys(f"{ord(sign):02X}" for sign in _CONTROL.findall(text[found.start() :].partition("\n")[0])))
                self.problems.append(Problem(line + said, f"control characters ({signs}) were taken out of this line"))
            line, at = line + said, found.start() + 1
        return _CONTROL.sub(lambda found: " " if found[0] in "\x0b\x0c" else "", text)

    def _pieces(self) -> Iterator[bytes]:
        data, self._head = self._head, b""
        run = 0  # bytes of the line that is not at its end yet
        while data:
            self._begun, self.bytes_read = self.bytes_read, self.bytes_read + len(data)
            last = max(data.rfind(b"\n"), data.rfind(b"\r"))
            if run <= self.longest:
                yield data
            elif last >= 0:  # the line that was cut ends in here
                first = min(at for at in (data.find(b"\n"), data.find(b"\r")) if at >= 0)
                yield data[first - first % 2 :] if self.encoding.codec.startswith("utf-16") else data[first:]
            before, run = run, (len(data) - last - 1 if last >= 0 else run + len(data))
            if run > self.longest >= before and len(self.problems) < 1000:
                self.problems.append(
                    Problem(self._first_line(), f"this line is longer than {LONGEST // 1_000_000} MB; the rest of it is not read")
                )
            data = self._file.read(CHUNK)
        self._begun = self.bytes_read

    def read(self) -> str:
        """All of the text at once."""
        return "".join(self)

    def mend(self, error: UnicodeError) -> tuple[str, int]:
        if not isinstance(error, UnicodeDecodeError):
            raise error
        bad = error.object[error.start : error.end]
        line = self._first_line() + error.object[: error.start].replace(b"\r\n", b"\n").replace(b"\r", b"\n").count(b"\n")
        shown = " ".join(f"{byte:02X}" for byte in bad[:4])
        if len(self.problems) < 1000:
            self.problems.append(Problem(line, f"byte {shown} is not {self.encoding.label}; read as Windows-1252, please check the letter"))
        return bad.decode("cp1252", errors="replace"), error.end

    def _first_line(self) -> int:
        """The line in which the piece that is being decoded begins; counted only when somebody asks."""
        done, line = self._counted
        place = self._file.tell()
        self._file.seek(done)
        while done < self._begun:
            data = self._file.read(min(CHUNK, self._begun - done))
            done += len(data)
            line += self._counter.decode(data).count("\n")
        alone = bool(self._counter.getstate()[1] & 1) and self._file.read(1) != b"\n"  # a line end of one byte, still held back
        self._file.seek(place)
        self._counted = done, line
        return line + alone


def _decoder(codec: str, errors: str) -> io.IncrementalNewlineDecoder:
    return io.IncrementalNewlineDecoder(codecs.getincrementaldecoder(codec)(errors=errors), translate=True)


class _Decoding(threading.local):
    """The source whose bytes this thread decodes at the moment."""

    source: TextSource


_decoding = _Decoding()
_MEND = "kettlesort"
codecs.register_error(_MEND, lambda error: _decoding.source.mend(error))  # once: what is registered is kept for ever
