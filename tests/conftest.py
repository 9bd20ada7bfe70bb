"""A database of one's own for each test process, and a review to work in."""

from __future__ import annotations

import io
import os
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import psycopg
import pytest
from _pytest.nodeid import NodeId
from hypothesis import HealthCheck
from hypothesis import settings as hypothesis_settings
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher

# a busy machine is slow, and no fault
hypothesis_settings.register_profile(
    "kettle", deadline=None, max_examples=40, derandomize=True, suppress_health_check=[HealthCheck.too_slow]
)
hypothesis_settings.load_profile("kettle")


@pytest.hookimpl(trylast=True)
def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Tests of one group go to one worker: pytest-xdist 3.8 writes the group where pytest 9.2 no longer reads it."""
    if not config.getoption("loadgroup", False):
        return
    for item in items:
        group = item.get_closest_marker("xdist_group")
        if group and "@" not in item.nodeid:
            item._id = NodeId.parse(f"{item.nodeid}@{group.args[0]}")  # type: ignore[attr-defined]


@pytest.fixture(scope="session")
def database(worker_id: str) -> Iterator[str]:
    """An empty, migrated database, dropped at the end."""
    server = os.environ.get("KETTLE_PG")
    if not server:
        pytest.skip("run by ./kettle test, which starts PostgreSQL")
    name = f"test_{worker_id}_{os.getpid()}"
    with psycopg.connect(f"{server}/postgres", autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE {name}".encode())
        admin.execute(f"ALTER DATABASE {name} SET synchronous_commit TO off".encode())  # it is dropped at the end
        os.environ["KETTLE_DATABASE"] = f"{server}/{name}"
        os.environ.setdefault("KETTLE_SECRET", "for tests only")
        from kettlesort.settings import settings
        from kettlesort.store.base import engine

        settings.cache_clear()
        engine.cache_clear()
        from kettlesort.store.migrate import migrate

        migrate()
        from kettlesort.work import people

        with pytest.MonkeyPatch.context() as patch:  # a hash that is meant to be slow would be half of the tests' time
            quick = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=8, parallelism=1),))
            patch.setattr(people, "_hasher", lambda: quick)
            yield os.environ["KETTLE_DATABASE"]
        engine().dispose()
        admin.execute(f"DROP DATABASE {name} WITH (FORCE)".encode())


_counter = iter(range(10**9))


@dataclass
class Room:
    """A fresh review with a lead and a reviewer, and shortcuts through the work layer."""

    review: int
    lead: int
    reviewer: int

    def gather(self, text: str, name: str = "records.ris", source: str = "Agrarica", kind: str = "database") -> int:
        """Upload a file for a search of a source, read it, and take it in (matching waits for `match`)."""
        from kettlesort.work import gather

        batch = self.upload(text, name, source, kind)
        gather.take_in(self.review, self.lead, batch)
        return batch

    def upload(self, text: str | bytes, name: str = "records.ris", source: str = "Agrarica", kind: str = "database") -> int:
        from kettlesort.store.base import session
        from kettlesort.store.sql import scalar
        from kettlesort.work import gather, searches

        data = text.encode() if isinstance(text, str) else text
        search = searches.write_search(self.review, self.lead, searches.SearchEntry(source, kind, "", None, "", "", None))
        (batch,) = gather.upload(self.review, self.lead, search, name, io.BytesIO(data)).batches
        with session() as db:
            job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'read_file'", v=self.review)
        gather.read_file(job)
        return batch

    def match(self) -> None:
        """Run every matching job that waits."""
        from kettlesort.store.base import session
        from kettlesort.store.sql import rows
        from kettlesort.work import match

        with session() as db:
            waiting = rows(
                db, "SELECT id FROM job WHERE review_id = :v AND kind = 'match_copies' AND state = 'waiting' ORDER BY id", v=self.review
            )
        for job in waiting:
            match.match_copies(job["id"])

    def records(self, list_: str = "all") -> list[int]:
        """The records of a list, in its order."""
        from kettlesort.store.records import Wanted
        from kettlesort.work import records

        return [it["id"] for it in records.page_of(self.review, Wanted(list_), 0, 500)[1]]

    def include(self, *titles: str, more: Sequence[str] = (), pdf: bytes | None = None) -> list[int]:
        """Records by title that both passes include, beside ``more`` that are only gathered; their numbers."""
        from kettlesort.work import fulltexts

        self.gather(ris(*titles, *more))
        chosen = self.records()[: len(titles)]
        for record in chosen:
            self.decide(record, "include")
            file = io.BytesIO(pdf) if pdf else None
            fulltexts.set_full_text(self.review, self.reviewer, record, "obtained", "", "report.pdf" if pdf else "", file)
            self.decide(record, "include", 2)
        return chosen

    def criterion(self) -> int:
        """The first criterion."""
        from kettlesort.work import protocol

        return protocol.protocol(self.review).criteria[0].id or 0

    def decide(self, record: int, verdict: str, pass_number: int = 1, by: int | None = None) -> None:
        from kettlesort.work import screen

        criterion = self.criterion() if verdict == "exclude" else None
        screen.decide(self.review, by or self.reviewer, screen.Said(record, pass_number, verdict, criterion))

    def total(self):  # type: ignore[no-untyped-def]
        """The figures of the flow, all routes together."""
        from kettlesort.work import report

        return report.standing(self.review).figures.total


def make_room() -> Room:
    """A review with a lead, a reviewer and two criteria."""
    from kettlesort.work import people, plan, protocol

    number = next(_counter)
    lead = people.make_account(f"lead{number}-{os.getpid()}", "Lead Orsel", "long enough").id or 0
    reviewer = people.make_account(f"reviewer{number}-{os.getpid()}", "Reviewer Ames", "long enough").id or 0
    review = plan.make_review(lead, "Hives", "Do wraps help?")
    plan.add_member(review, lead, f"reviewer{number}-{os.getpid()}", "reviewer")
    protocol.amend(
        review,
        lead,
        {"criteria": [protocol.Wording(None, "Not bees", "", True, True), protocol.Wording(None, "No comparison", "", True, True)]},
        "Piloted",
    )
    return Room(review, lead, reviewer)


def ris(*titles: str, doi: str = "", start: int = 1) -> str:
    """A RIS file of invented records, each with its own author and year."""
    out = []
    for k, title in enumerate(titles, start):
        lines = ["TY  - JOUR", f"ID  - R{k:07d}", f"TI  - {title}", f"AU  - Orsel{chr(97 + k % 26)}, Tamsin", f"PY  - {1990 + k % 30}"]
        lines += [
            "JF  - Annals of Made-up Apiculture",
            f"VL  - {k}",
            f"SP  - {k * 10}",
            f"AB  - About {title.lower()}, told at some length.",
        ]
        out.append("\n".join([*lines, *([f"DO  - {doi}{k}"] if doi else []), "ER  - ", ""]))
    return "\n".join(out)


@pytest.fixture
def room(database: str) -> Room:
    """A review of one's own."""
    return make_room()
