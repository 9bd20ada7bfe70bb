"""Reading what strangers made in a process of its own, with a limit of memory and of time.

A workbook of five kilobytes may ask for a hundred gigabytes, a PDF for an hour. Whatever
such a file does, it does to a child process; the person gets a message.
"""

from __future__ import annotations

import importlib
import inspect
import os
import pickle
import resource
import shutil
import signal
import socket
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


class _Child(NamedTuple):
    """A process that works: it reads what to do from ``asked``, and says in ``told`` what came of it. ``handle`` names it, whatever its number is used for later."""

    handle: int
    asked: BinaryIO
    told: BinaryIO

    def kill(self) -> None:
        with suppress(ProcessLookupError):
            signal.pidfd_send_signal(self.handle, signal.SIGKILL)


class _Nursery:
    """A process of which children are forked: it has imported what they need, which takes them much longer than most of their work."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._door: socket.socket | None = None
        self._owner = 0

    def child(self, modules: Sequence[str]) -> _Child:
        """A child that knows some modules."""
        with self._lock:
            if self._door is None or self._owner != os.getpid():
                self._open()
            try:
                return self._born(modules)
            except OSError:  # it has died
                self._open()
                return self._born(modules)

    def _open(self) -> None:
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        with theirs:
            alone = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}  # threads do not outlive a fork
            subprocess.Popen(
                [sys.executable, "-m", "kettlesort.apart"], stdin=theirs.fileno(), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, env=alone
            )  # fmt: skip
        self._door, self._owner = ours, os.getpid()

    def _born(self, modules: Sequence[str]) -> _Child:
        assert self._door
        (reads, asked), (told, says) = os.pipe(), os.pipe()
        try:
            socket.send_fds(self._door, [" ".join(("kettlesort.apart", *modules)).encode()], [reads, says])
            number = int(self._door.recv(20) or b"0")
            if not number:
                raise ConnectionResetError
            handle = os.pidfd_open(number)
        except OSError:
            os.close(asked)
            os.close(told)
            raise
        finally:
            os.close(reads)
            os.close(says)
        return _Child(handle, open(asked, "wb"), open(told, "rb"))


_nursery = _Nursery()


def _tend() -> None:
    """What the nursery does: fork a child for each pair of pipes that comes through its door, until that is closed."""
    door = socket.socket(fileno=0)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # nobody waits for them
    while True:
        said, files, _, _ = socket.recv_fds(door, 10_000, 2)
        if not said:
            return
        for module in said.decode().split():
            with suppress(Exception):  # the child meets it again, and says so
                importlib.import_module(module)
        number = os.fork()
        if not number:
            try:
                os.dup2(files[0], 0)
                os.dup2(files[1], 1)
                os.closerange(3, max(files) + 1)
                _confined()
            finally:
                os._exit(0)
        door.send(str(number).encode())
        for file in files:
            os.close(file)


def pieces(work: Callable[..., Iterator[T]], *arguments: Any, limits: Limits) -> Iterator[T]:
    """What ``work``, a generator of a module, yields in a child process. Raises Broken, and what it raises of ValueError.

    Arguments and pieces are pickled. Closing the iterator ends the child.
    """
    known = [one.__module__ for one in (work, *arguments) if inspect.isroutine(one)]
    child = _nursery.child([word for word in known if word.startswith("kettlesort.")])
    late = threading.Event()

    def stop() -> None:
        late.set()
        child.kill()

    clock = threading.Timer(limits.seconds, stop)
    clock.start()
    try:
        with suppress(BrokenPipeError), child.asked as asked:
            pickle.dump((limits, work, arguments), asked)
        while True:
            try:
                sort, said = _Pieces(child.told).load()
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
        child.told.close()
        os.close(child.handle)


def call(work: Callable[..., T], *arguments: Any, limits: Limits = Limits()) -> T:
    """What ``work``, a function of a module, returns in a child process. Raises Broken, and what it raises of ValueError."""
    with closing(pieces(_once, work, arguments, limits=limits)) as one:  # type: ignore[type-var]
        result: T = next(iter(one))
        return result


def _once(work: Callable[..., T], arguments: tuple[Any, ...]) -> Iterator[T]:
    yield work(*arguments)


def _confined() -> None:
    """What the child does: set its limits, work, and say what came of it, piece by piece."""
    with open(0, "rb") as asked:
        limits, work, arguments = pickle.load(asked)
    with open("/proc/self/statm") as status:
        held = int(status.read().split()[0]) * os.sysconf("SC_PAGE_SIZE")
    resource.setrlimit(resource.RLIMIT_AS, (held + limits.megabytes * 1_000_000,) * 2)
    resource.setrlimit(resource.RLIMIT_CPU, (int(limits.seconds) + 1, int(limits.seconds) + 2))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    with open(1, "wb") as out:
        try:
            for piece in work(*arguments):
                out.write(pickle.dumps(("piece", piece)))
                out.flush()
            out.write(pickle.dumps(("done", None)))
        except ValueError as error:
            out.write(pickle.dumps(("refused", error if type(error).__module__.startswith("kettlesort.core") else NotReadable(str(error)))))


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
            for entry in told:
                state["read"] = entry["read"]
                yield from entry["entries"]
                problems[:] = entry["problems"]
                if entry["people"]:
                    reading.people, reading.settled = entry["people"], entry["settled"]
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
    from kettlesort.apart import _tend as tend  # under the name by which the parent knows it

    tend()
