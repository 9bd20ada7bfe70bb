"""What comes from outside: runs in a catalogue, also planned ones with the clock moved on; gaps filled; single records."""

from __future__ import annotations

import os
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from starlette.routing import Mount

from kettlesort.demo.invent import catalogue as invented
from kettlesort.demo.invent import documents
from kettlesort.demo.papers import paper
from kettlesort.outside.catalogue import Catalogue, CatalogueError
from kettlesort.settings import settings
from kettlesort.standins.catalogue import Quirks, catalogue_app
from kettlesort.standins.registry import registry_app
from kettlesort.store.base import session
from kettlesort.store.sql import run
from kettlesort.work import people, runs
from tests.api.test_thread import Client, run_jobs
from tests.conftest import ris
from tests.serving import serving

KNOWN = [it for it in documents() if it.doi and it.number % 9 and it.number % 7 and len(it.authors) > 1]


@pytest.fixture(scope="module")
def union() -> Iterator[str]:
    with serving([Mount("/union", catalogue_app(900, Quirks(slow_every=0, fail_every=0))), Mount("/doi", registry_app())]) as address:
        settings().registry = f"{address}/doi"
        settings().private_addresses = True
        yield f"{address}/union/"
        settings().registry, settings().private_addresses = "", False


@pytest.fixture
def lead(database: str, union: str, request: pytest.FixtureRequest) -> Client:
    from kettlesort.api import app

    name = f"outside-{os.getpid()}-{abs(hash(request.node.name)) % 10**8}"
    people.make_account(name, "Outside Lead", "long enough")
    it = Client(app, name)
    it.review = it.ask("POST", "/api/reviews", json={"title": "Outside"})["id"]
    it.ask("POST", "catalogues", json={"address": union})
    return it


def ask_for(lead: Client, query: str, every: str = "once", **more: object) -> dict[str, int]:
    number = lead.ask("GET", "catalogues")[0]["id"]
    return dict(lead.ask("POST", "catalogue-runs", json={"catalogue": number, "query": query, "every": every, **more}))


def log(lead: Client) -> list[dict]:  # type: ignore[type-arg]
    return [run for entry in lead.ask("GET", "searches") for run in entry["runs"]]


def test_a_run_is_fetched_in_pages_and_only_what_is_new_becomes_copies_of_the_next(lead: Client) -> None:
    begun = ask_for(lead, "title:insulat*", query_version=3)
    run_jobs(lead.review)
    (first,) = log(lead)
    assert (first["state"], first["fetched"], first["imported"]) == ("done", first["announced"], first["announced"])
    assert first["announced"] > 5
    assert first["query"].startswith("dc.title")
    assert first["query_version"] == 3
    assert lead.ask("GET", "figures")["found"] == first["announced"]
    ask_for(lead, "title:insulat* OR title:wrap*", search=begun["search"])
    run_jobs(lead.review)
    _, second = log(lead)
    assert second["state"] == "done"
    assert 0 < second["imported"] == second["announced"] - first["announced"]
    lines = lead.ask("GET", f"files/{lead.ask('GET', 'files')[0]['id']}/entries/1")["lines"]
    assert {"Title", "Accession", "Authors"} <= {it["field"] for it in lines}
    origin = lead.ask("GET", f"records/{lead.ask('GET', 'records/ids')[0]}/whole")["copies"][0]
    assert (origin["source"], origin["query_version"]) == ("Hive Union Catalogue", 3)


def test_a_run_that_fails_halfway_is_taken_up_where_it_stopped(lead: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(runs, "PAGE", 5)
    search = Catalogue.search
    asked: list[int] = []

    def breaks(self: Catalogue, query: str, start: int = 1, count: int = 0) -> object:
        asked.append(start)
        if start > 5 and asked.count(start) == 1 and start == 6:
            raise CatalogueError("The catalogue is away.")
        return search(self, query, start, count)

    monkeypatch.setattr(Catalogue, "search", breaks)
    begun = ask_for(lead, "title:insulat*")
    run_jobs(lead.review)
    (half,) = log(lead)
    assert (half["state"], half["fetched"], half["imported"], half["failure"]) == ("failed", 5, 0, "The catalogue is away.")
    asked.clear()
    asked.append(6)
    lead.ask("POST", f"catalogue-runs/{begun['run']}/resume")
    run_jobs(lead.review)
    (whole,) = log(lead)
    assert whole["state"] == "done"
    assert whole["imported"] == whole["announced"] == whole["fetched"]
    assert 1 not in asked  # the first page was not asked for again
    lead.ask("POST", f"catalogue-runs/{begun['run']}/resume", expect=409)


def test_what_is_most_like_a_record_comes_from_the_catalogue_as_a_search_of_its_own(lead: Client, monkeypatch: pytest.MonkeyPatch) -> None:
    """The record is one of the catalogue's own, brought here without its DOI: what is most like it is itself."""
    known = next(it for it in invented(900) if it.doi and it.abstract and "insulat" in it.full_title.lower())
    entry = {"source": "Agrarica", "kind": "database", "query": "", "run_on": None, "run_by": "", "notes": "", "announced": None}
    search = lead.ask("POST", "searches", json=entry)["id"]
    text = ris(known.full_title, "A survey of rubber trees", "Honey prices in spring").replace(
        "TY  - JOUR\n", f"TY  - JOUR\nAB  - {known.abstract}\n", 1
    )
    batch = lead.ask("POST", f"searches/{search}/files", files={"file": ("one.ris", text.encode())})["batches"][0]
    run_jobs(lead.review)
    lead.ask("POST", f"files/{batch}/take-in")
    run_jobs(lead.review)
    chosen = next(it["id"] for it in lead.ask("GET", "records?list=all&offset=0&limit=10")["records"] if it["title"] == known.full_title)
    wish = {"catalogue": lead.ask("GET", "catalogues")[0]["id"], "records": [chosen], "keep": 1}

    away = Catalogue.search
    monkeypatch.setattr(Catalogue, "search", lambda *_: (_ for _ in ()).throw(CatalogueError("The catalogue is away.")))
    begun = lead.ask("POST", "catalogue-runs/nearest", json=wish)
    run_jobs(lead.review)
    assert [(it["state"], it["failure"]) for it in log(lead)][1:] == [("failed", "The catalogue is away.")]
    monkeypatch.setattr(Catalogue, "search", away)
    lead.ask("POST", f"catalogue-runs/{begun['run']}/resume")
    run_jobs(lead.review)
    made = log(lead)[1]
    assert (made["state"], made["imported"], made["catalogue"]) == ("done", 1, "Hive Union Catalogue")
    assert 1 < made["announced"] <= 1000
    assert " or " in made["query"]
    assert made["limits"].startswith(f"Of what was found, the 1 most like “{known.full_title}”")
    (found,) = lead.ask("GET", f"records?list=run:{begun['run']}&offset=0&limit=10")["records"]
    assert found["title"] == known.full_title
    # what was found and not kept may still come with another run of the same entry
    ask_for(lead, "title:insulat*", search=begun["search"])
    run_jobs(lead.review)
    again = next(run for run in log(lead) if run["query"].startswith("dc.title"))
    assert again["imported"] == again["announced"] - 1
    # it is here by its DOI now, so that another comes
    other = lead.ask("POST", "catalogue-runs/nearest", json={**wish, "records": [found["id"]]})
    run_jobs(lead.review)
    (next_one,) = lead.ask("GET", f"records?list=run:{other['run']}&offset=0&limit=10")["records"]
    assert next_one["title"] != known.full_title
    lead.ask("POST", "catalogue-runs/nearest", json={**wish, "records": [chosen, 10**9]}, expect=404)


def test_a_planned_run_that_was_missed_often_is_done_once(lead: Client) -> None:
    begun = ask_for(lead, "title:insulat*", "daily")
    run_jobs(lead.review)
    (plan,) = lead.ask("GET", "schedules")
    due = datetime.fromisoformat(plan["next_at"])
    assert timedelta(hours=23) < due - datetime.now(UTC) <= timedelta(days=1)

    def begun_at(now: datetime) -> int:  # other reviews may have plans of their own
        before = len(log(lead))
        runs.begin_due(now)
        return len(log(lead)) - before

    assert begun_at(due - timedelta(minutes=1)) == 0
    assert begun_at(due + timedelta(days=4, hours=2)) == 1
    assert begun_at(due + timedelta(days=4, hours=2)) == 0
    run_jobs(lead.review)
    assert [(it["number"], it["state"], it["imported"]) for it in log(lead)][1:] == [(2, "done", 0)]
    (plan,) = lead.ask("GET", "schedules")
    assert datetime.fromisoformat(plan["next_at"]) == due + timedelta(days=5)
    lead.ask("POST", f"schedules/{plan['id']}/stop")
    assert begun_at(due + timedelta(days=40)) == 0
    lead.ask("POST", f"schedules/{plan['id']}/go-on")
    assert begun["search"] == plan["search_id"]


def test_months_have_different_lengths() -> None:
    at = datetime(2026, 1, 31, 8, tzinfo=UTC)
    assert [runs.following(at, every).isoformat()[:10] for every in ("daily", "weekly", "monthly")] == [
        "2026-02-01",
        "2026-02-07",
        "2026-02-28",
    ]


def test_a_single_record_by_doi_by_accession_by_form_and_by_pdf(lead: Client) -> None:
    it = KNOWN[0]
    found = lead.ask("POST", "one/look-up", json={"text": f"https://doi.org/{it.doi.upper()}"})
    assert found["fields"]["title"] == it.full_title
    held = next(iter(invented(900)))
    by_number = lead.ask("POST", "one/look-up", json={"text": f"HU{held.number:07d}"})
    assert (by_number["fields"]["title"], by_number["source"]) == (held.full_title, "Hive Union Catalogue")
    assert "does not know" in lead.ask("POST", "one/look-up", json={"text": "10.5555/nowhere"})["problem"]
    assert lead.ask("POST", "one/look-up", expect=422, json={"text": "a title of some words"})
    read = lead.ask("POST", "one/pdf", files={"file": ("found.pdf", paper(it))})["fields"]
    assert (read["title"], read["doi"], read["year"]) == (it.full_title, it.doi, it.year)
    assert read["authors"] == list(it.authors)
    assert "no PDF" in lead.ask("POST", "one/pdf", expect=422, files={"file": ("x.pdf", b"%PDF-1.4 broken")})["message"]
    said = {name: read[name] for name in ("title", "authors", "year", "doi", "abstract", "kind")} | {
        "label": "from a drawer",
        "source_kind": "website",
        "source": "A drawer",
    }
    record = lead.ask("POST", "one", json=said)["id"]
    whole = lead.ask("GET", f"records/{record}/whole")
    assert (whole["copies"][0]["source"], whole["copies"][0]["labels"]) == ("A drawer", ["from a drawer"])
    assert lead.ask("POST", "one/look-up", json={"text": it.doi})["here"] == record
    assert lead.ask("POST", "one", expect=422, json={"title": " "})["details"]["field"] == "title"
    assert lead.ask("POST", "one", expect=422, json={"title": "x", "doi": "11/x"})["details"]["field"] == "doi"


def taken_in(lead: Client, text: str) -> None:
    search = lead.ask("POST", "searches", json={"source": "Agrarica", "kind": "database"})["id"]
    (batch,) = lead.ask("POST", f"searches/{search}/files", files={"file": ("one.ris", text.encode())})["batches"]
    run_jobs(lead.review)
    lead.ask("POST", f"files/{batch}/take-in")
    run_jobs(lead.review)


def bare(title: str, **tags: str) -> str:
    return f"TY  - JOUR\nTI  - {title}\n" + "".join(f"{tag}  - {value}\n" for tag, value in tags.items()) + "ER  - \n"


def test_gaps_are_proposed_side_by_side_taken_one_by_one_and_given_back(lead: Client) -> None:
    first, second = KNOWN[0], KNOWN[1]
    short = "".join(f"AU  - {name.split(', ')[0]}, {name.split(', ')[1][0]}\n" for name in first.authors)
    known = {it.full_title for it in documents()}
    held = next(it for it in invented(900) if len(it.full_title.split()) > 6 and it.abstract and it.doi and it.full_title not in known)
    text = bare(first.full_title, DO=first.doi).replace("ER  - ", f"{short}ER  - ") + bare(
        second.full_title, DO=second.doi, AU="Someone, Else"
    )
    text += bare(held.full_title, PY=str(held.year), AU=held.authors[0]) + bare(
        "Nobody knows this title at all", AU="Ames, Brenna", AB="It is here.", DO="10.5555/own.1"
    )
    taken_in(lead, text)
    before = lead.ask("GET", "gaps")
    assert (before["records"], before["abstract"], before["doi"], before["authors"]) == (4, 3, 1, 1)
    lead.ask("POST", "gaps/look-up", json={})
    run_jobs(lead.review)
    proposals = lead.ask("GET", "gaps")["proposals"]
    offered = {(it["title"], it["field"]): it for it in proposals}
    assert offered[first.full_title, "authors"]["value"] == list(first.authors)
    assert offered[first.full_title, "authors"]["before"] == [f"{name.split(', ')[0]}, {name.split(', ')[1][0]}" for name in first.authors]
    assert (second.full_title, "authors") not in offered  # other people: not a fuller form of what stands
    assert offered[held.full_title, "doi"]["value"] == held.doi
    taken = lead.ask("POST", "gaps/take", json={"gaps": [it["id"] for it in proposals if it["title"] == first.full_title]})
    record = offered[first.full_title, "authors"]["record_id"]
    whole = lead.ask("GET", f"records/{record}/whole")
    assert whole["fields"]["authors"] == list(first.authors)
    assert whole["filled"] == {"abstract": "DOI registry", "authors": "DOI registry"}
    assert whole["copies"][0]["fields"]["authors"] != list(first.authors)
    lead.ask("POST", "gaps/leave", json={"gaps": [offered[held.full_title, "doi"]["id"]]})
    lead.ask("POST", "gaps/take-back", json=taken)
    assert lead.ask("GET", f"records/{record}/whole")["fields"]["abstract"] == ""
    assert len(lead.ask("GET", "gaps")["proposals"]) == len(proposals) - 1
    lead.ask("POST", "gaps/look-up", json={})
    run_jobs(lead.review)
    assert (held.full_title, "doi") not in {
        (it["title"], it["field"]) for it in lead.ask("GET", "gaps")["proposals"]
    }  # left once, not offered again


def test_abstracts_are_pasted_and_come_back_in_a_file_of_identifiers(lead: Client) -> None:
    taken_in(
        lead,
        bare("Wraps of felt in winter", DO="10.5555/own.2") + bare("Lids of straw in autumn", ID="L7") + bare("Cork on floors in spring"),
    )
    ids = {it["title"]: it["id"] for it in lead.ask("GET", "records?list=all&abstract=false")["records"]}
    said = "Felt kept the colonies warm over the winter. All of them lived."
    made = lead.ask("POST", f"records/{ids['Wraps of felt in winter']}/abstract", json={"text": said})
    assert lead.ask("GET", "records?list=all&abstract=false")["total"] == 2
    lead.ask("POST", f"records/{ids['Wraps of felt in winter']}/abstract", expect=422, json={"text": said})
    lead.ask("POST", "gaps/take-back", json=made)
    out = lead.ask(
        "POST", "records/export?list=all&abstract=false&to=csv", json={"columns": ["record", "accession", "doi", "title", "abstract"]}
    ).text
    assert "Lids of straw in autumn" in out
    lines = [line + ('"Straw kept the moisture out of the hives, mostly."' if "Lids" in line else "") for line in out.splitlines()]
    assert lines[0].lstrip("\ufeff").startswith("accession,doi,title,abstract") or "record" in lines[0]
    back = (
        "record;title;abstract\n"
        + f"{ids['Lids of straw in autumn']};Anything;Straw kept the moisture out of the hives.\n;Nowhere else;Some words of an abstract.\n"
    )
    assert lead.ask("POST", "gaps/abstracts", files={"file": ("back.csv", back.encode())}) == {"proposals": 1, "missed": 1}
    (offer,) = lead.ask("GET", "gaps")["proposals"]
    assert (offer["title"], offer["field"], offer["source"]) == ("Lids of straw in autumn", "abstract", "back.csv")
    lead.ask("POST", "gaps/take", json={"gaps": [offer["id"]]})
    assert lead.ask("GET", "records?list=all&abstract=false")["total"] == 2
    with session() as db:
        run(db, "DELETE FROM procrastinate_jobs")
