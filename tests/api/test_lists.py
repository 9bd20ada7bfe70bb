"""Lists through the wire: what each is called and holds, and where its records stand in words."""

from __future__ import annotations

import os

import pytest

from kettlesort.work import people
from tests.api.test_thread import Client
from tests.conftest import make_room
from tests.furnished import furnish


@pytest.fixture(scope="module")
def lead(database: str) -> Client:
    """The lead of a review that has something of everything."""
    from kettlesort.api import app

    room = make_room()
    furnish(room)
    name = f"lists-{os.getpid()}"
    people.make_account(name, "Tamsin Lorn", "long enough")
    from kettlesort.work import plan

    plan.add_member(room.review, room.lead, name, "lead")
    client = Client(app, name)
    client.review = room.review
    return client


def test_each_offered_list_opens_and_holds_what_it_says(lead: Client) -> None:
    offered = lead.ask("GET", "lists?list=all")["offered"]
    assert {"value": "all", "title": "All records"} in offered
    assert [it["title"] for it in offered if it["value"].startswith("label:")] == ["Labelled “Hand search”"]
    for it in offered:
        named = lead.ask("GET", "lists", params={"list": it["value"]})
        page = lead.ask("GET", "records", params={"list": it["value"]})
        assert named["heading"] == it["title"]
        assert named["of_copies"] == page["of_copies"]
        if named["second"]:
            reasons = lead.ask("GET", "records", params={"list": it["value"], "pass_number": 2})
            assert [row["reason"] for row in page["records"]] == [row["reason"] for row in reasons["records"]]


def test_records_say_where_they_stand_and_a_record_says_the_same_of_itself(lead: Client) -> None:
    listed = lead.ask("GET", "records?list=all")["records"]
    assert {it["state"] for it in listed} >= {"included", "set aside", "not decided"}
    for it in listed:
        whole = lead.ask("GET", f"records/{it['id']}/whole")
        assert (whole["state"], whole["mark"]) == (it["state"].partition(":")[0], it["mark"])


def test_a_list_is_named_by_what_its_key_stands_for(lead: Client) -> None:
    narrowing = lead.ask("GET", "narrowings")[0]
    named = lead.ask("GET", "lists", params={"list": f"narrowed:{narrowing['id']}"})
    assert (named["heading"], named["aside"]) == ("Set aside: Not hives", True)
    assert named["offered"][0]["title"] == "Set aside: Not hives"
    assert lead.ask("GET", "lists", params={"list": "source:A/B: two:other"})["heading"] == "Copies from A/B: two from other methods"
    for unknown in ("nowhere", "label:999999", "narrowed:999999", "label:x", "narrowed:99999999999999999999"):
        assert lead.ask("GET", "lists", params={"list": unknown}, expect=404)["message"]


def test_a_query_is_limited_by_the_terms_that_its_hits_divide_into(lead: Client) -> None:
    trial = lead.ask("POST", "query/trial", json={"text": "hives OR mites OR queens"})
    year = next(it for it in trial["breakdown"]["year"] if it["value"])
    narrowed = lead.ask("POST", "query/limited", json={"text": "hives OR mites OR queens", "term": year["term"]})["text"]
    assert lead.ask("POST", "query/trial", json={"text": narrowed})["branches"][0]["hits"] == year["count"]
    rest = lead.ask("POST", "query/limited", json={"text": "hives OR mites OR queens", "term": year["term"], "left_out": True})["text"]
    hits = trial["branches"][0]["hits"]
    assert lead.ask("POST", "query/trial", json={"text": rest})["branches"][0]["hits"] == hits - year["count"]


def test_terms_are_read_as_they_were_typed_into_a_concept(lead: Client) -> None:
    concepts = [{"label": "", "joint": "any", "terms": ["hard winter", "foam*", "not"], "left_out": False, "fields": []}]
    read = lead.ask("POST", "query/read", json={"concepts": concepts})
    assert read["typed"] == [['"hard winter"', "foam*", '"not"']]
    assert read["concepts"][0]["terms"] == read["typed"][0]
    assert read["text"] == '"hard winter" OR foam* OR "not"'


def test_a_rule_of_narrowing_is_shown_as_the_query_that_it_is(lead: Client) -> None:
    rule = {"name": "Old", "query": "hives OR mites", "before": 1990, "language": "ger"}
    assert lead.ask("POST", "narrowings/preview", json=rule)["query"] == "year:-1989 AND language:ger AND (hives OR mites)"
