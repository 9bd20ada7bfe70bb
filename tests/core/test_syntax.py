"""Other families of syntax: what is written is what was meant, what cannot be is said, and what is read is what stands there."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kettlesort.core.query import Descriptor, Group, In, Index, Node, NotAQuery, Searched, Text, find, parse, walk, write
from kettlesort.core.query.syntax import Loss, NotAProfile, Profile, profile_of, read, shipped, translate
from tests.core.queries import QUERIES, RECORDS

PROFILES = {key: profile_of(text) for key, text in shipped().items()}
BELOW = {"bees": ("wax moth",)}
ANY_PROFILE = pytest.mark.parametrize("profile", PROFILES.values(), ids=PROFILES)
QUERY = '[Bees] (honeybee* OR descriptor:"Bees/growth+") AND title,abstract:(wom?n OR "hive wrap*") AND (wax NEAR/3 moth) AND year:1980-'


def narrower(heading: str) -> tuple[str, ...]:
    return BELOW.get(heading.lower(), ())


@pytest.mark.parametrize(
    ("key", "text"),
    [
        ("cql", '(honeybee* or kettle.tree = "Bees/growth") and (dc.title = wom?n or dc.description = wom?n or dc.title = "hive wrap*" or dc.description = "hive wrap*") and (wax prox/unit=word/distance<=4/unordered moth) and dc.date >= 1980'),
        ("ccl", '(honeybee? OR su="Bees") AND (ti=(wom#n OR "hive wrap?") OR ab=(wom#n OR "hive wrap?")) AND (wax %3 moth) AND py=1980-'),
        ("lucene", '(honeybee* OR descriptor_tree:"Bees/growth") AND (title:wom?n OR abstract:wom?n OR ((title:hive OR abstract:hive) AND (title:wrap* OR abstract:wrap*))) AND ("wax moth"~3 OR "moth wax"~3) AND year:[1980 TO *]'),
        ("brackets", '(honeybee* OR "Bees/growth"[heading-tree]) AND (wom*[title-abstract] OR "hive wrap*"[title-abstract]) AND wax AND moth AND 1980:3000[year]'),
        ("dots", '(honeybee*.title,abstract,keyword. or "Bees/growth".tree.) and (wom#n or "hive wrap*").title,abstract. and (wax near3 moth).title,abstract,keyword. and 1980-3000.year.'),
        ("equals", '(topic=honeybee* OR keyword=Bees) AND (title=(wom?n OR "hive wrap*") OR abstract=(wom?n OR "hive wrap*")) AND topic=(wax NEAR/3 moth) AND year=1980-3000'),
        ("function", '(topic(honeybee*) OR heading("Bees/growth+")) AND text(wom?n OR "hive wrap*") AND topic(wax within/3 moth) AND years(1980-)'),
    ],
)  # fmt: skip
def test_one_query_in_every_syntax(key: str, text: str) -> None:
    assert translate(parse(QUERY).node, PROFILES[key]).text == text


def test_what_has_no_equal_is_listed_with_what_was_done() -> None:
    said = translate(parse(QUERY).node, PROFILES["brackets"])
    assert said.losses == (
        Loss("wom?n", "written as wom*, which finds more"),
        Loss("wax NEAR/3 moth", "joined by AND, which finds more: this proximity cannot be said here"),
        Loss("[Bees]", "names of concepts are left out"),
    )
    assert [it.part for it in said.checks] == ["descriptor:Bees/growth+"]
    bare = profile_of('name = "Bare"\n[fields]\nform = "{code}:{term}"\n[words]\nmany = ""\none = ""')
    said = translate(parse('(bee* OR b?e OR descriptor:"Bees/growth+" OR title:wax) AND year:1980 AND language:eng').node, bare)
    assert said.text == "bee OR bee OR Bees OR wax".replace("bee OR bee", "bee OR be")
    assert [it.part for it in said.losses] == ["bee*", "b?e", "descriptor:Bees/growth+", "title:wax", "year:1980", "language:eng"]
    assert translate(parse("year:1980").node, bare).text == ""


@ANY_PROFILE
@settings(deadline=None)
@given(node=QUERIES, records=st.lists(RECORDS, min_size=1, max_size=8))
def test_what_is_written_is_read_back_as_the_same_query(profile: Profile, node: Node, records: list[Searched]) -> None:
    said = translate(node, profile)
    if not said.text:
        assert said.losses
        return
    back = read(said.text, profile).node
    again = translate(back, profile)
    assert again.text == said.text
    assert not again.losses
    index = Index(records)
    meant, found = find(node, index, narrower), find(back, index, narrower)
    if not [loss for loss in said.losses if not loss.part.startswith("[")]:
        assert np.array_equal(meant, found)
    elif all("finds more" in loss.done or loss.part.startswith("[") for loss in said.losses) and " NOT " not in write(node):
        assert np.all(found[meant])


@pytest.mark.parametrize(
    ("key", "typed", "ours"),
    [
        ("cql", 'title any "a1 b1"', None),
        ("cql", 'dc.title any "a1 b1" and dc.creator all "orsel tamm"', "title:(a1 OR b1) AND author:(orsel AND tamm)"),
        ("cql", "a1 or b1 and c1", "(a1 OR b1) AND c1"),
        ("cql", "a1 prox/unit=word/distance<=1/unordered b1", "a1 NEAR/0 b1"),
        ("cql", "(a1 or b1 and c1) or d1 not e1", "(((a1 OR b1) AND c1) OR d1) NOT e1"),
        ("cql", "dc.date>=1980 AND dc.date<=1990", "year:1980-1990"),
        ("lucene", 'title:(wax OR "wax moth"~4) && bee || hive', "title:(wax OR (wax NEAR/4 moth)) AND bee OR hive"),
        ("brackets", "honey bee[title] wax", "honey AND title:bee AND wax"),
        ("brackets", '("Wax moth" OR Bees)[heading-tree]', 'descriptor:("Wax moth+" OR Bees+)'),
        ("dots", "honey bee losses.title.", 'title:"honey bee losses"'),
        ("dots", "wom#n.title,abstract. AND 1980-1990.year.", "title,abstract:wom?n AND year:1980-1990"),
        ("equals", "TITLE=(a1 near/3 b1)", "title:(a1 NEAR/3 b1)"),
        ("function", 'heading("Bees+") and not title(a1 or b1)', "descriptor:Bees+ NOT title:(a1 OR b1)"),
        ("ccl", "ti=honey? and su=bees", "title:honey* AND descriptor:bees"),
    ],
)  # fmt: skip
def test_what_people_write_in_it_is_read(key: str, typed: str, ours: str | None) -> None:
    if ours is None:
        with pytest.raises(NotAQuery, match="no code “title”"):
            read(typed, PROFILES[key])
    else:
        assert read(typed, PROFILES[key]).node == parse(ours).node


@pytest.mark.parametrize(
    ("key", "typed", "at", "says"),
    [
        ("lucene", "bee AND colour^2", "^", "no equal"),
        ("lucene", "+bee", "+", "no equal"),
        ("brackets", "bee[colour]", "[colour]", "no code “colour”"),
        ("brackets", "[title]", "[title]", "behind nothing"),
        ("brackets", "bee[title][abstract]", "[abstract]", "two codes"),
        ("dots", "(bee or wax", "(", "never closed"),
        ("equals", "bee AND title=", "title=", "nothing to search for"),
        ("cql", "a1 and b1 prox/unit=word/distance<=3/unordered c1", "prox/unit=word/distance<=3/unordered", "NEAR joins"),
    ],
)
def test_mistakes_are_said_where_they_are(key: str, typed: str, at: str, says: str) -> None:
    with pytest.raises(NotAQuery) as caught:
        read(typed, PROFILES[key])
    assert says in caught.value.message
    assert typed[caught.value.begin : caught.value.end] == at


@ANY_PROFILE
@given(typed=st.text('ab()"*?#:/[]=.,~+- ANDORdcTitle%3<>', max_size=50))
def test_whatever_is_typed_is_read_or_says_why_not(profile: Profile, typed: str) -> None:
    try:
        node = read(typed, profile).node
    except NotAQuery as error:
        caught = error
    else:
        assert parse(write(node)).node == node
        return
    assert caught.message
    assert 0 <= caught.begin <= caught.end <= len(typed)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("name = ", "not a TOML file"),
        ('name = "A"', "fields"),
        ('name = "A"\n[fields]\nform = "{term}"', "needs {code} and {term}"),
        ('name = "A"\n[fields]\nform = "{code}={term}"\ncolour = "c"', "fields.colour"),
        ('name = "A"\n[fields]\nform = "{code}={term}"\n[near]\noperator = "NEAR"', "needs {n}"),
        ('name = "A"\n[fields]\nform = "{code}={term}"\n[years]\nbetween = "y={first}"', "{last}"),
        ('name = "A"\n[fields]\nform = "{code}={term}"\ntogether = { "title,colour" = "x" }', "title,colour"),
        ("a" * 30_000, "at most 20,000"),
        ("a = " + "[" * 9_000, "nested too deep"),
    ],
)
def test_a_profile_that_is_none_says_what_is_wrong(text: str, says: str) -> None:
    with pytest.raises(NotAProfile, match=says.replace("{", r"\{").replace("}", r"\}")):
        profile_of(text)


def test_a_profile_can_use_any_codes() -> None:
    profile = profile_of(shipped()["brackets"].replace('title = "title"', 'title = "ti.1"').replace('code = "heading"', 'code = "h"'))
    node = Group("all", (In(("title",), Text(("wax",))), Descriptor("Bees")))
    assert translate(node, profile).text == 'wax[ti.1] AND "Bees"[h]'
    assert read('wax[ti.1] AND "Bees"[h]', profile).node == node
    assert len(list(walk(node))) == 4
