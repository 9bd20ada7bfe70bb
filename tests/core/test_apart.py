"""What strangers made is read in a process of its own: whatever it asks for, there is a message, and nothing else suffers."""

from __future__ import annotations

import io
import os
import pickle
import resource
import signal
import time
import zipfile
from collections.abc import Iterator
from pathlib import Path

import pytest
from fpdf import FPDF

from kettlesort import apart
from kettlesort.core import formats
from kettlesort.core.formats import How, NotReadable
from kettlesort.core.formats.pdf import proposed
from kettlesort.core.fulltext.pages import NotAPdf
from tests.core.books import FAR, book


def plain(file: io.BytesIO) -> list[str]:
    file.seek(0)
    return [entry.record.title for entry in apart.open_reading(file)]


def test_a_workbook_reads_as_it_does_at_home() -> None:
    here, there = formats.open_reading(book()), apart.open_reading(book(), How())
    assert [it.record for it in there] == [it.record for it in here]
    assert (there.format, there.header, there.sheets, there.certainty) == (here.format, here.header, here.sheets, here.certainty)


@pytest.mark.parametrize("how", sorted(FAR))
def test_a_far_cell_is_refused_however_it_is_written(how: str) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    with pytest.raises(NotReadable, match=r"spreads over|takes more memory"):
        plain(FAR[how])
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 50_000, "kilobytes, in this process"


def test_an_archive_in_which_a_bomb_lies_is_refused_and_the_rest_is_read() -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        packed.writestr("one.ris", "TY  - JOUR\nTI  - Wrapped hives\nER  - \n")
        packed.writestr("zeros.ris", b"\0" * 40_000_000)
    out.seek(0)
    reading = apart.open_reading(out)
    assert [it.record.title for it in reading] == ["Wrapped hives"]
    assert any("zeros.ris" in it.message for it in reading.problems)


def endless() -> Iterator[int]:
    while True:
        time.sleep(0.05)
        yield 1


def greedy() -> int:
    return len(bytearray(3_000_000_000))


def test_a_child_that_takes_too_long_or_too_much_is_ended() -> None:
    with pytest.raises(apart.Broken, match="longer than 1 seconds"):
        list(apart.pieces(endless, limits=apart.Limits(seconds=1)))
    with pytest.raises(apart.Broken, match="more memory"):
        apart.call(greedy, limits=apart.Limits(megabytes=200))


def parent() -> int:
    return os.getppid()


def test_children_are_forked_of_one_process_and_of_another_one_when_that_has_died() -> None:
    nursery = apart.call(parent)
    assert nursery != os.getpid()
    assert apart.call(parent) == nursery
    os.kill(nursery, signal.SIGKILL)
    assert apart.call(parent) not in (nursery, os.getpid())


def test_who_stops_listening_leaves_no_child_behind(tmp_path: Path) -> None:
    told = apart.pieces(endless, limits=apart.Limits(seconds=60))
    next(told)
    begun = time.monotonic()
    told.close()  # type: ignore[attr-defined]
    assert time.monotonic() - begun < 5


def test_a_pdf_without_text_is_a_pdf_about_which_nothing_is_known() -> None:
    empty = FPDF()
    empty.add_page()
    assert apart.call_on(proposed, io.BytesIO(bytes(empty.output()))).title == ""
    for broken in (b"%PDF-1.7 nothing", bytes(empty.output())[:150]):
        with pytest.raises(NotAPdf):
            apart.call_on(proposed, io.BytesIO(broken))


def naming(module: str, name: str) -> io.BytesIO:
    """What a child that was taken over would send: something under a name that one of our modules happens to know."""
    return io.BytesIO(b"\x80\x04" + b"".join(b"\x8c" + bytes([len(it)]) + it.encode() for it in (module, name)) + b"\x93.")


@pytest.mark.parametrize(
    "name", ["os:system", "builtins:eval", "kettlesort.core.formats:shutil.os.system", "kettlesort.core.formats:zipfile.ZipFile"]
)
def test_nothing_that_a_child_says_can_do_anything(name: str) -> None:
    with pytest.raises(pickle.UnpicklingError, match="not expected"):
        apart._Pieces(naming(*name.split(":"))).load()
    assert apart._Pieces(naming("kettlesort.core.formats.entry", "Entry")).load() is formats.Entry
