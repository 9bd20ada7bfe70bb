"""The query through the wire: three views, trials, steps and versions, and the records behind every count."""

from __future__ import annotations

import os
from typing import Any

import pytest

from kettlesort.work import people, seeds
from tests.api.test_thread import Client, run_jobs
from tests.conftest import ris

TITLES = [
    "Wraps keep colonies warm",
    "Foam hives in hard winters",
    "Lids of straw and moisture",
    "Packing of southern honey",
    "Packing crates",
]
HIVES = b"""@prefix skos: <http://www.w3.org/2004/02/skos/core#> . @prefix h: <https://kettle.example/> .
    h:care skos:prefLabel "Care of hives" ; skos:altLabel "Packing" ; skos:scopeNote "All of it." .
    h:wraps skos:prefLabel "Wraps" ; skos:broader h:care . h:foam skos:prefLabel "Foam wraps" ; skos:broader h:wraps ; skos:related h:care . h:care skos:broader h:foam ."""
QUERY = "[Care] (wrap* OR foam OR packing) AND year:1980-"


@pytest.fixture(scope="module")
def lead(database: str) -> Client:
    """The lead of a review of five records, the first two of them seeds."""
    from kettlesort.api import app

    name = f"query-{os.getpid()}"
    account = people.make_account(name, "Query Lead", "long enough").id or 0
    it = Client(app, name)
    it.review = it.ask("POST", "/api/reviews", json={"title": "Queries"})["id"]
    entry = {"source": "Agrarica", "kind": "database", "query": "", "run_on": None, "run_by": "", "notes": "", "announced": None}
    search = it.ask("POST", "searches", json=entry)["id"]
    batch = it.ask("POST", f"searches/{search}/files", files={"file": ("one.ris", ris(*TITLES).encode())})["batches"][0]
    run_jobs(it.review)
    it.ask("POST", f"files/{batch}/take-in")
    run_jobs(it.review)
    for record in it.ask("GET", "records?list=all&offset=0&limit=10")["records"]:
        if record["title"] in TITLES[:2]:
            seeds.mark_seed(it.review, account, record["id"], True)
    return it


def read(lead: Client, **said: Any) -> Any:
    return lead.ask("POST", "query/read", json=said)


def test_each_view_gives_the_other_two(lead: Client) -> None:
    by_text = read(lead, text="“wrap*” or foam and hive")
    assert by_text["concepts"] == [
        {"label": "", "joint": "any", "terms": ["wrap*", "(foam AND hive)"], "left_out": False, "fields": []},
    ]
    assert by_text["lines"] == ["foam AND hive", "wrap* OR #1"]
    assert len(by_text["notes"]) == 4
    assert read(lead, lines=by_text["lines"])["text"] == by_text["text"] == "wrap* OR (foam AND hive)"
    assert read(lead, concepts=by_text["concepts"])["text"] == by_text["text"]
    concepts = [
        {"label": "Care [x]", "terms": ["foam", "wrap*"], "fields": ["title"]},
        {"terms": ["zebra"], "left_out": True},
        {"terms": []},
    ]
    assert read(lead, concepts=concepts)["text"] == "[Care x] (title:(foam OR wrap*)) NOT zebra"


@pytest.mark.parametrize(
    ("said", "where"),
    [
        ({"text": "wrap* AND"}, {"begin": 6, "end": 9, "line": None, "concept": None}),
        ({"lines": ["wrap*", "#1 AND (foam"]}, {"begin": 7, "end": 8, "line": 1, "concept": None}),
        ({"concepts": [{"terms": ["foam"]}, {"terms": ["hard winter", "wrap* AND"]}]}, {"begin": 6, "end": 9, "concept": 1, "term": 1}),
        ({"concepts": []}, {"begin": 0, "concept": None}),
        ({"text": ""}, {"begin": 0, "end": 0}),
    ],
)
def test_what_cannot_be_read_is_told_with_its_place(lead: Client, said: dict[str, Any], where: dict[str, Any]) -> None:
    it = read(lead, **said)
    assert {key: it["problem"][key] for key in where} == where
    assert it["problem"]["message"]
    assert it["problem"]["mend"]


def test_a_trial_counts_every_branch_and_every_count_opens_its_records(lead: Client) -> None:
    it = lead.ask("POST", "query/trial", json={"text": QUERY})
    counted = {
        branch["text"]: (branch["hits"], len(branch["seeds"]), branch["without_hits"], branch["remark"]) for branch in it["branches"]
    }
    assert counted == {
        QUERY: (4, 2, None, ""), "[Care] (wrap* OR foam OR packing)": (4, 2, 5, ""), "wrap*": (1, 1, 3, "alone brings a seed"),
        "foam": (1, 1, 3, "alone brings a seed"), "packing": (2, 0, 2, "many hits, no seed"), "year:1980-": (5, 2, 4, ""),
    }  # fmt: skip
    assert (it["records"], [seed["found"] for seed in it["seeds"]]) == (5, [True, True])
    assert it["recall"]["high"] == 1.0
    assert {part["value"]: part["count"] for part in it["breakdown"]["type"]} == {"article": 4}
    for branch in it["branches"]:
        listed = lead.http.get(
            f"/api/reviews/{lead.review}/records", params={"list": "all", "query": branch["query"], "offset": 0, "limit": 10}
        )
        assert listed.json()["total"] == branch["hits"]
    copies = lead.http.get(f"/api/reviews/{lead.review}/records", params={"list": "found", "query": "packing", "offset": 0, "limit": 10})
    assert copies.json()["total"] == 2


def test_steps_and_versions_can_be_returned_to_and_compared(lead: Client) -> None:
    lead.ask("POST", "query/steps", json={"text": "wrap*", "note": "Begin", "keep": True})
    lead.ask("POST", "query/steps", json={"text": "wrap*"})  # the same again is no step
    lead.ask("POST", "query/steps", json={"text": "foam OR packing"})
    it = lead.ask("POST", "query/steps", json={"text": "foam OR packing", "keep": True})
    assert [(step["text"], step["version"], step["hits"], step["seeds"]) for step in it["steps"]] == [
        ("foam OR packing", 2, 3, 1),
        ("wrap*", 1, 1, 1),
    ]
    two = lead.ask("POST", "query/compare", json={"one": "foam OR packing", "other": "wrap*"})
    assert (two["both"], two["only_one"], two["only_other"]) == (0, 3, 1)
    assert ([seed["title"] for seed in two["seeds_one"]], [seed["title"] for seed in two["seeds_other"]]) == ([TITLES[1]], [TITLES[0]])
    kinds = [event["kind"] for event in lead.ask("GET", "history?limit=20")["events"]]
    assert (kinds.count("plan.query_tried"), kinds.count("plan.query_kept")) == (2, 2)


def test_counts_follow_the_records(lead: Client) -> None:
    before = lead.ask("POST", "query/trial", json={"text": "lids OR wrap*"})["branches"][0]["hits"]
    batch = lead.ask("GET", "files")[0]["id"]
    lead.ask("POST", f"files/{batch}/set-aside")
    gone = lead.ask("POST", "query/trial", json={"text": "lids OR wrap*"})
    lead.ask("POST", f"files/{batch}/take-in")
    run_jobs(lead.review)
    assert (before, gone["branches"][0]["hits"], gone["records"]) == (2, 0, 0)
    assert lead.ask("POST", "query/trial", json={"text": "lids OR wrap*"})["branches"][0]["hits"] == 2


def test_words_of_the_seeds_are_counted_and_each_count_opens_its_records(lead: Client) -> None:
    it = lead.ask("GET", "query/words?least=1&longest=2")
    assert (it["seeds"], it["others"]) == (2, 3)
    words = {word["term"]: word for word in it["words"]}
    assert (words["told"]["seeds"], words["told"]["records"]) == (2, 3)  # of every invented abstract
    assert (words["hard winters"]["title"], words["hard winters"]["abstract"], words["hard winters"]["records"]) == (1, 1, 0)
    for word in it["words"]:
        shown = {"list": "not_seeds", "query": f'"{word["term"]}"', "offset": 0, "limit": 1}
        assert lead.http.get(f"/api/reviews/{lead.review}/records", params=shown).json()["total"] == word["records"], word["term"]
    table = lead.ask("GET", "query/words.csv?least=1&longest=2").text.splitlines()
    assert table[0].lstrip("\ufeff").startswith('term,forms,"seeds, of 2"')
    assert len(table) == len(it["words"]) + 1
    assert lead.ask("GET", "query/words?least=1&stems=true")["words"]
    lead.ask("GET", "query/words?longest=7", expect=422)


def test_a_review_is_archived_and_brought_back_and_says_where_it_stands(lead: Client) -> None:
    def mine() -> Any:
        return next(it for it in lead.ask("GET", "/api/reviews") if it["id"] == lead.review)

    assert (mine()["archived"], mine()["found"], mine()["open"], mine()["included"]) == (False, 5, 5, 0)
    for archived in (True, True, False):
        lead.ask("PUT", "archived", json={"archived": archived})
        assert mine()["archived"] is archived
    kinds = [event["kind"] for event in lead.ask("GET", "history?limit=50")["events"]]
    assert (kinds.count("plan.archived"), kinds.count("plan.brought_back")) == (1, 1)


@pytest.mark.parametrize("path", ["query/trial", "query/steps"])
def test_a_query_that_cannot_be_read_is_refused_in_words(lead: Client, path: str) -> None:
    said = lead.ask("POST", path, expect=422, json={"text": "wrap* AND"})
    assert "AND needs something on its right" in said["message"]
    if path == "query/trial":
        assert "at most 1,500 branches" in lead.ask("POST", path, expect=422, json={"text": " OR ".join(["bee"] * 2000)})["message"]
    assert "characters" in lead.ask("POST", path, expect=422, json={"text": "bee " * 60_000})["message"]


def test_a_query_in_another_syntax_with_the_codes_of_the_team(lead: Client) -> None:
    listed = {it["key"]: it for it in lead.ask("GET", "syntaxes")}
    assert list(listed) == ["cql", "ccl", "lucene", "brackets", "dots", "equals", "function"]
    assert {"ours": "title:wax", "said": "wax[title]", "done": ""} in listed["brackets"]["guide"]
    written = lead.ask("POST", "syntaxes/brackets/write", json={"text": "title:(wrap* OR wom?n)"})
    assert written["text"] == "wrap*[title] OR wom*[title]"
    assert written["losses"] == [{"part": "wom?n", "done": "written as wom*, which finds more"}]
    assert lead.ask("POST", "syntaxes/brackets/read", json={"text": written["text"]})["text"] == "title:wrap* OR title:wom*"
    problem = lead.ask("POST", "syntaxes/brackets/read", json={"text": "wax[colour]"})["problem"]
    assert (problem["message"], problem["begin"]) == ("There is no code “colour” in this syntax.", 3)

    ours = listed["brackets"]["text"].replace('title = "title"', 'title = "ti"')
    lead.ask("PUT", "syntaxes/brackets", json={"text": ours})
    assert lead.ask("POST", "syntaxes/brackets/write", json={"text": "title:wax"})["text"] == "wax[ti]"
    lead.ask("PUT", "syntaxes/hive-index", json={"text": ours.replace("Code behind the term, in brackets", "Hive Index")})
    assert [(it["name"], it["own"], it["shipped"]) for it in lead.ask("GET", "syntaxes")][-1] == ("Hive Index", True, False)
    lead.ask("DELETE", "syntaxes/brackets")
    assert lead.ask("POST", "syntaxes/brackets/write", json={"text": "title:wax"})["text"] == "wax[title]"
    assert lead.ask("DELETE", "syntaxes/brackets", expect=404)["message"]
    assert "needs {n}" in lead.ask("PUT", "syntaxes/dots", json={"text": ours + '\n[near]\noperator = "n"'}, expect=422)["message"]
    assert "small letters" in lead.ask("PUT", "syntaxes/Dots!", json={"text": ours}, expect=422)["message"]


def test_headings_are_looked_up_explode_and_are_pointed_out(lead: Client) -> None:
    lead.ask("POST", "vocabularies", files={"file": ("hives.ttl", HIVES)})
    lead.ask("POST", "vocabularies", files={"file": ("none.ttl", b"only words")})
    assert "empty" in lead.ask("POST", "vocabularies", files={"file": ("empty.ttl", b"")}, expect=422)["message"]
    run_jobs(lead.review)
    hives, none = sorted(lead.ask("GET", "vocabularies"), key=lambda it: it["filename"])
    assert (hives["state"], hives["headings"], none["state"]) == ("read", 3, "failed")
    assert "looks like Turtle" in none["failure"]

    assert [(it["label"], it["name"], it["kind"]) for it in lead.ask("GET", "headings?words=PACK")] == [
        ("Care of hives", "Packing", "alternative")
    ]
    assert [it["label"] for it in lead.ask("GET", "headings?words=wraps")] == ["Wraps", "Foam wraps"]
    care = lead.ask("GET", f"headings/{lead.ask('GET', 'headings?words=packing')[0]['id']}")
    assert (care["below"], care["scope_note"], care["records"]) == (2, "All of it.", 0)
    assert [[it["label"] for it in care[kind]] for kind in ("broader", "narrower", "related")] == [
        ["Foam wraps"],
        ["Wraps"],
        ["Foam wraps"],
    ]
    pointed = lead.ask("POST", "headings/pointed-out", json={"text": 'packing OR "foam  wraps" OR descriptor:"Foam wraps" OR wrap*'})
    assert [(it["term"], it["label"], it["used"]) for it in pointed] == [
        ("foam wraps", "Foam wraps", True),
        ("packing", "Care of hives", False),
    ]

    lead.ask("DELETE", f"vocabularies/{hives['id']}")
    assert lead.ask("GET", "headings?words=wraps") == []
    assert lead.ask("GET", f"headings/{care['id']}", expect=404)
    lead.ask("POST", f"vocabularies/{hives['id']}/back")
    assert lead.ask("POST", f"vocabularies/{hives['id']}/back", expect=404)


def test_other_forms_and_terms_for_a_concept_are_offered_with_what_they_bring(lead: Client) -> None:
    if not [it for it in lead.ask("GET", "vocabularies") if it["state"] == "read"]:
        lead.ask("POST", "vocabularies", files={"file": ("hives.ttl", HIVES)})
        run_jobs(lead.review)
    forms = lead.ask("POST", "query/variants", json={"text": "colony"})
    assert [(it["term"], it["why"], it["records"]) for it in forms] == [("colonies", "singular or plural", 1)]
    assert lead.ask("POST", "query/variants", json={"text": "colony AND wax"}) == []
    concepts = [{"label": "Care", "terms": ["wraps"]}, {"terms": ["winters OR colonies OR packing"]}]
    offered = {it["term"]: it for it in lead.ask("POST", "query/suggestions", json={"concepts": concepts, "concept": 0})}
    assert "wraps" not in offered
    # a name of the heading that the term names, with the records that only it would bring
    packing = lead.ask(
        "POST", "query/suggestions", json={"concepts": [{"terms": ["packing"]}, {"terms": ["warm OR honey OR crates"]}], "concept": 0}
    )
    assert [(it["term"], it["origin"], it["records"], it["brings"], it["seeds"]) for it in packing] == [("wraps", "vocabulary", 1, 1, 1)]
    assert "no such concept" in lead.ask("POST", "query/suggestions", json={"concepts": concepts, "concept": 2}, expect=422)["message"]
