"""The demo review as the present code loads it, in a database from which the tests' own are copied: loaded once, kept for the next run."""

from __future__ import annotations

import hashlib
import os
import subprocess
import sys
from pathlib import Path

import psycopg

ROOT = Path(__file__).parents[2]


def _name() -> str:
    said = hashlib.sha256()
    for path in sorted([*(ROOT / "src").rglob("*.py"), *(ROOT / "src").rglob("*.toml"), *(ROOT / "demo").rglob("*"), ROOT / "uv.lock"]):
        if path.is_file():
            said.update(str(path.relative_to(ROOT)).encode() + path.read_bytes())
    return f"demo_{said.hexdigest()[:16]}"


def copy_of_demo(server: str, name: str, environment: dict[str, str]) -> None:
    """Make a database that holds the demo review; of several processes one loads it, and the others wait for that."""
    template = _name()
    with psycopg.connect(f"{server}/postgres", autocommit=True) as admin:
        admin.execute("SELECT pg_advisory_lock(hashtext('demo for tests'))")
        there = {row[0] for row in admin.execute("SELECT datname FROM pg_database WHERE datname LIKE 'demo\\_%'")}
        if template not in there:
            for old in there:
                admin.execute(f'DROP DATABASE IF EXISTS "{old}" WITH (FORCE)'.encode())
            making = f"demo_making_{os.getpid()}"
            admin.execute(f"CREATE DATABASE {making}".encode())
            admin.execute(f"ALTER DATABASE {making} SET synchronous_commit TO off".encode())
            loading = {**environment, "KETTLE_DATABASE": f"{server}/{making}"}
            for module in ("kettlesort.store.migrate", "kettlesort.demo.load"):
                subprocess.run([sys.executable, "-m", module], check=True, env=loading, cwd=ROOT, stdout=subprocess.DEVNULL)
            admin.execute(f"ALTER DATABASE {making} RENAME TO {template}".encode())
        admin.execute(f"CREATE DATABASE {name} TEMPLATE {template}".encode())
        admin.execute(f"ALTER DATABASE {name} SET synchronous_commit TO off".encode())  # it is dropped at the end
    with psycopg.connect(f"{server}/{name}") as db:  # whoever loaded it had a catalogue at another port
        db.execute("UPDATE catalogue SET address = %s", (environment["KETTLE_DEMO_CATALOGUE"],))
