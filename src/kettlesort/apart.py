"""Reading what strangers made in a process of its own, with a limit of memory and of time.

A workbook of five kilobytes may ask for a hundred gigabytes, a PDF for an hour. Whatever
such a file does, it does to a child process; the person gets a message.
"""

from __future__ import annotations

import os
import pickle
import resource
import shutil
import subprocess
import sys
import tempfile
import threading
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing, contextmanager, suppress
from typing import Any, BinaryIO, NamedTuple, TypeVar

from kettlesort.core import formats
from kettlesort.core.formats import Entry, How, NotReadable, Reading
from kettlesort.core.formats.recipe import Recipe

T = TypeVar("T")
_TOLD = ("format", "encoding", "sure", "certainty", "recipe", "header", "fields", "delimiter", "sheets", "sheet")
_AT_ONCE = 200


class Limits(NamedTuple):
    """Seconds that a child may take, and megabytes that it may ask for beyond those of an empty one."""

    seconds: float = 120
    megabytes: int = 1000


class Broken(Exception):
    """The child came to no end; the message says what was too much, for a person."""


_TOO_MUCH = "reading it takes more memory than a file of this kind needs"


class _Pieces(pickle.Unpickler):
    """Reads what a child says: values and our own records and refusals, nothing that could do something."""

    def find_class(self, module: str, name: str) -> Any:
        if module.startswith("kettlesort.core."):
            found = super().find_class(module, name)
            if isinstance(found, type) and found.__module__.startswith("kettlesort.core."):
                return found  # not what such a module happens to import
        raise pickle.UnpicklingError(f"{module}.{name} is not expected from a reader")


def pieces(work: Callable[..., Iterator[T]], *arguments: Any, limits: Limits) -> Iterator[T]:
    """What ``work``, a generator of a module, yields in a child process. Raises Broken, and what it raises of ValueError.

    Arguments and pieces are pickled. Closing the iterator ends the child.
    """
    child = subprocess.Popen(
        [sys.executable, "-m", "kettlesort.apart"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
    )
    assert child.stdin
    assert child.stdout
    late = threading.Event()

    def stop() -> None:
        late.set()
        child.kill()

    clock = threading.Timer(limits.seconds, stop)
    clock.start()
    try:
        with suppress(BrokenPipeError):
            pickle.dump((limits, work, arguments), child.stdin)
            child.stdin.close()
        while True:
            try:
                sort, said = _Pieces(child.stdout).load()
            except (EOFError, pickle.UnpicklingError):
                raise Broken(f"reading it takes longer than {limits.seconds:g} seconds" if late.is_set() else _TOO_MUCH) from None
            if sort == "piece":
                yield said
            elif sort == "refused":
                raise said
            else:
                return
    finally:
        clock.cancel()
        child.kill()
        child.wait()
        child.stdout.close()


def call(work: Callable[..., T], *arguments: Any, limits: Limits = Limits()) -> T:
    """What ``work``, a function of a module, returns in a child process. Raises Broken, and what it raises of ValueError."""
    with closing(pieces(_once, work, arguments, limits=limits)) as it:  # type: ignore[type-var]
        result: T = next(iter(it))
        return result


def _once(work: Callable[..., T], arguments: tuple[Any, ...]) -> Iterator[T]:
    yield work(*arguments)


def _confined() -> None:
    """What the child does: set its limits, work, and say what came of it, piece by piece."""
    limits, work, arguments = pickle.load(sys.stdin.buffer)
    with open("/proc/self/statm") as status:
        held = int(status.read().split()[0]) * os.sysconf("SC_PAGE_SIZE")
    resource.setrlimit(resource.RLIMIT_AS, (held + limits.megabytes * 1_000_000,) * 2)
    resource.setrlimit(resource.RLIMIT_CPU, (int(limits.seconds) + 1, int(limits.seconds) + 2))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    out = sys.stdout.buffer
    try:
        for piece in work(*arguments):
            out.write(pickle.dumps(("piece", piece)))
            out.flush()
        out.write(pickle.dumps(("done", None)))
    except ValueError as error:
        out.write(pickle.dumps(("refused", error if type(error).__module__.startswith("kettlesort.core") else NotReadable(str(error)))))
    out.flush()


@contextmanager
def on_disk(file: BinaryIO) -> Iterator[str]:
    """The path of a file's content, for as long as it is needed."""
    path = None
    try:
        with tempfile.NamedTemporaryFile(prefix="kettlesort-", delete=False) as out:
            path = out.name
            shutil.copyfileobj(file, out, 1 << 20)
        file.seek(0)
        yield path
    finally:
        if path:
            with suppress(OSError):
                os.unlink(path)


def call_on(work: Callable[[BinaryIO], T], file: BinaryIO, limits: Limits = Limits()) -> T:
    """What ``work`` makes of a file, in a child process. Raises Broken, and what it raises of ValueError."""
    with on_disk(file) as path:
        made: T = call(_of_path, work, path, limits=limits)
        return made


def _of_path(work: Callable[[BinaryIO], Any], path: str) -> Any:
    with open(path, "rb") as file:
        return work(file)


def open_reading(file: BinaryIO, how: How = How(), recipes: Sequence[Recipe] = (), limits: Limits = Limits()) -> Reading:
    """The same as `formats.open_reading`; workbooks and archives are read in a child process."""
    head = file.read(4)
    file.seek(0)
    if not head.startswith((b"PK", b"\xd0\xcf\x11\xe0")):
        return formats.open_reading(file, how, recipes)
    told = _told(file, how, list(recipes), limits)
    try:
        opened = next(told)
    except Broken as error:
        raise NotReadable(f"{error}; save the table as CSV, or unpack the archive, and upload that") from None
    problems: list[formats.Problem] = []
    state = {"read": 0}

    def entries() -> Iterator[Entry]:
        try:
            for it in told:
                state["read"] = it["read"]
                yield from it["entries"]
                problems[:] = it["problems"]
                if it["people"]:
                    reading.people, reading.settled = it["people"], it["settled"]
        except Broken as error:
            raise NotReadable(f"{error}; save the table as CSV, or unpack the archive, and upload that") from None

    reading = Reading(opened["format"], opened["encoding"], opened["sure"], entries(), problems, lambda: state["read"])
    for name in _TOLD[3:]:
        setattr(reading, name, opened[name])
    return reading


def _told(file: BinaryIO, how: How, recipes: list[Recipe], limits: Limits) -> Iterator[dict[str, Any]]:
    with on_disk(file) as path:
        yield from pieces(_read, path, how, recipes, limits=limits)


def _read(path: str, how: How, recipes: list[Recipe]) -> Iterator[dict[str, Any]]:
    """In the child: how a file is read, then its entries, many at once, each time with the problems so far."""
    with open(path, "rb") as file:
        reading = formats.open_reading(file, how, recipes)
        yield {name: getattr(reading, name) for name in _TOLD}
        some: list[Entry] = []
        for entry in reading:
            some.append(entry)
            if len(some) == _AT_ONCE:
                yield {"entries": some, "read": reading.bytes_read, "problems": [], "people": None}
                some = []
        yield {
            "entries": some,
            "read": reading.bytes_read,
            "problems": reading.problems,
            "people": reading.people,
            "settled": reading.settled,
        }


if __name__ == "__main__":
    from kettlesort.apart import _confined as confined  # under the name by which the parent knows it

    confined()
