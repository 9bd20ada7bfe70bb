"""A running copy for the benches that attack or crowd one: a database of its own, servers, a worker, and people who talk HTTP to it."""

from __future__ import annotations

import http.client
import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import uuid
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import psycopg

ROOT = Path(__file__).parents[1]
PASSWORD = "long enough to be one"


def free_port() -> int:
    """A port that nobody listens on."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def own_database(name: str) -> Iterator[str]:
    """A migrated database, which this process works with too, dropped at the end."""
    server = os.environ["KETTLE_PG"]
    name = f"{name}_{os.getpid()}"
    with psycopg.connect(f"{server}/postgres", autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE {name}".encode())
    os.environ["KETTLE_DATABASE"] = f"{server}/{name}"
    from kettlesort.store.base import engine
    from kettlesort.store.migrate import migrate

    try:
        migrate()
        yield os.environ["KETTLE_DATABASE"]
    finally:
        engine().dispose()
        with psycopg.connect(f"{server}/postgres", autocommit=True) as admin:
            admin.execute(f"DROP DATABASE {name} WITH (FORCE)".encode())


class Cluster:
    """A PostgreSQL of its own, started as `./kettle` starts one, that can be killed."""

    def __init__(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="kettle-cluster-", dir="/var/tmp"))
        self.port = free_port()
        if os.getuid() == 0:
            shutil.chown(self.folder, "postgres")
        options = next(line for line in (ROOT / "kettle").read_text().splitlines() if line.startswith("PG_OPTIONS="))
        self.options = options.partition('"')[2].rpartition('"')[0]
        self._run("initdb", "-D", str(self.folder / "data"), "-U", "kettle", "--auth=trust", "-E", "UTF8", "--locale=C.UTF-8")
        self.start()
        self.address = f"postgresql://kettle@127.0.0.1:{self.port}"

    def _run(self, program: str, *arguments: str) -> int:
        command = [f"/usr/lib/postgresql/15/bin/{program}", *arguments]
        if os.getuid() == 0:
            command = ["runuser", "-u", "postgres", "--", *command]
        return subprocess.run(command, cwd="/", stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL).returncode

    def start(self) -> None:
        """Start it; children of one that was killed may linger for a moment."""
        data = str(self.folder / "data")
        for _ in range(40):
            if self._run("pg_ctl", "-D", data, "-w", "-l", str(self.folder / "log"), "-o", f"-p {self.port} {self.options}", "start") == 0:
                return
            time.sleep(0.5)
        raise SystemExit(f"PostgreSQL does not start: {self.folder / 'log'}")

    def kill(self) -> None:
        """SIGKILL all of it, and start it again."""
        pid = int((self.folder / "data" / "postmaster.pid").read_text().splitlines()[0])
        children = [int(it) for it in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]
        for it in (pid, *children):
            with suppress(ProcessLookupError):
                os.kill(it, signal.SIGKILL)
        self.start()

    def halt(self) -> None:
        """Stop it, as somebody who maintains the machine does."""
        self._run("pg_ctl", "-D", str(self.folder / "data"), "-m", "fast", "-w", "stop")

    def stop_for(self, seconds: float) -> None:
        """Let it be away for a while."""
        self.halt()
        time.sleep(seconds)
        self.start()

    def stop(self) -> None:
        """End it, and leave nothing behind."""
        self._run("pg_ctl", "-D", str(self.folder / "data"), "-m", "immediate", "stop")
        shutil.rmtree(self.folder, ignore_errors=True)


class Copy:
    """A running copy: ``server`` and ``worker`` can be killed, and are started again by `keep`."""

    def __init__(self, processes: int, **settings: str) -> None:
        self.port = free_port()
        self.processes = processes
        self.environment = {**os.environ, "KETTLE_NEW_ACCOUNTS_AN_HOUR": "1000", "KETTLE_PRIVATE_ADDRESSES": "1", **settings}
        self.logs = Path(tempfile.mkdtemp(prefix="kettle-bench-"))
        self.server = self._server()
        self.worker = self._worker()

    def _server(self) -> subprocess.Popen[bytes]:
        return self._start([sys.executable, "-m", "kettlesort.api", "--port", str(self.port), "--workers", str(self.processes)], "server")

    def _worker(self) -> subprocess.Popen[bytes]:
        return self._start([sys.executable, "-m", "kettlesort.jobs"], "worker")

    def _start(self, command: list[str], name: str) -> subprocess.Popen[bytes]:
        log = (self.logs / f"{name}.log").open("ab")
        return subprocess.Popen(command, env=self.environment, cwd=ROOT, stdout=log, stderr=log, start_new_session=True)

    def kill(self, part: str) -> None:
        """SIGKILL the server with all its processes, or the worker, and start it again, as an init system would."""
        it = self.server if part == "server" else self.worker
        os.killpg(it.pid, signal.SIGKILL)
        it.wait()
        if part == "server":
            self.server = self._server()
        else:
            self.worker = self._worker()

    def wait(self, seconds: float = 60) -> bool:
        """Whether it answers within so many seconds."""
        begun = time.monotonic()
        while time.monotonic() - begun < seconds:
            try:
                if Person(self.port).ask("GET", "/api/health")[0] == 200:
                    return True
            except OSError:
                pass
            time.sleep(0.1)
        return False

    def stop(self) -> None:
        """End it."""
        for it in (self.server, self.worker):
            it.terminate()
        for it in (self.server, self.worker):
            try:
                it.wait(15)
            except subprocess.TimeoutExpired:
                os.killpg(it.pid, signal.SIGKILL)

    def memory(self, part: str = "server") -> float:
        """Megabytes that a part holds, with its children."""
        pid = (self.server if part == "server" else self.worker).pid
        total = 0
        for path in Path("/proc").glob("[0-9]*/stat"):
            try:
                group = int(path.read_text().rpartition(")")[2].split()[2])
                if group == pid:
                    total += int((path.parent / "statm").read_text().split()[1]) * 4096
            except (OSError, IndexError, ValueError):
                continue
        return total / 1e6


@contextmanager
def running(processes: int = 1, **settings: str) -> Iterator[Copy]:
    """A copy that runs until the end."""
    it = Copy(processes, **settings)
    try:
        if not it.wait():
            raise SystemExit(f"it does not start: {it.logs}")
        yield it
    finally:
        it.stop()


class Person:
    """Somebody's browser: one connection, kept open, and a cookie."""

    def __init__(self, port: int, timeout: float = 60) -> None:
        self.port, self.timeout = port, timeout
        self.cookie = ""
        self._used = 0.0
        self._connection: http.client.HTTPConnection | None = None

    def ask(self, method: str, path: str, body: Any = None, raw: bytes | None = None, **headers: str) -> tuple[int, Any]:
        """The status and the JSON of an answer. OSError when the connection breaks off."""
        data = raw if raw is not None else json.dumps(body).encode() if body is not None else None
        if self._connection is not None and time.monotonic() - self._used > 4:
            self.close()  # the server is about to
        self._used = time.monotonic()
        sent = {"x-kettle-sort": "1", "content-type": "application/json", **({"cookie": self.cookie} if self.cookie else {}), **headers}
        try:
            if self._connection is None:
                self._connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=self.timeout)
                self._connection.connect()
                self._connection.sock.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
            self._connection.request(method, path, data, sent)
            answer = self._connection.getresponse()
            said = answer.read()
        except (OSError, http.client.HTTPException) as error:
            self.close()
            raise OSError(str(error)) from error
        if cookie := answer.getheader("set-cookie"):
            self.cookie = cookie.partition(";")[0]
        try:
            return answer.status, json.loads(said) if said else None
        except ValueError:
            return answer.status, said

    def close(self) -> None:
        """Close the connection; the next question opens another."""
        if self._connection:
            self._connection.close()
        self._connection = None

    def make_account(self, name: str) -> None:
        """Make an account and sign in."""
        status, said = self.ask("POST", "/api/account/new", {"name": name, "full_name": name.title(), "password": PASSWORD})
        assert status == 204, said

    def sign_in(self, name: str) -> None:
        """Sign in."""
        status, said = self.ask("POST", "/api/account/sign-in", {"name": name, "password": PASSWORD})
        assert status == 204, said

    def upload(self, path: str, name: str, data: bytes) -> tuple[int, Any]:
        """Upload a file."""
        edge = uuid.uuid4().hex
        head = (
            f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\nContent-Type: application/octet-stream\r\n\r\n'
        )
        return self.ask(
            "POST",
            path,
            raw=head.encode() + data + f"\r\n--{edge}--\r\n".encode(),
            **{"content-type": f"multipart/form-data; boundary={edge}"},
        )

    def listen(self, path: str, ended: Any) -> int:
        """Hold an event stream open until ``ended`` is set; the words heard."""
        heard = 0
        while not ended.is_set():
            connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=2)
            try:
                connection.request("GET", path, headers={"cookie": self.cookie})
                answer = connection.getresponse()
                while not ended.is_set():
                    try:
                        line = answer.fp.readline()
                    except TimeoutError:
                        break
                    if not line:
                        break
                    heard += line.startswith(b"data:")
            except OSError:
                time.sleep(0.5)
            finally:
                connection.close()
        return heard
