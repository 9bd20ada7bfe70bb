"""Vocabularies: the same from Turtle, RDF/XML and JSON-LD; nothing is fetched; what is none says so."""

from __future__ import annotations

import pytest
import rdflib
from hypothesis import given
from hypothesis import strategies as st

from kettlesort.core.vocabulary import NotAVocabulary, read_skos
from kettlesort.demo.thesaurus import turtle

SMALL = """
@prefix skos: <http://www.w3.org/2004/02/skos/core#> .
@prefix dct: <http://purl.org/dc/terms/> .
@prefix h: <https://kettle.example/> .
h: a skos:ConceptScheme ; dct:title "Hives" .
h:bees a skos:Concept ; skos:prefLabel "Bees"@en , "Bienen"@de ; skos:altLabel "Honey  bees"@en ; skos:hiddenLabel "bee" ;
  skos:scopeNote "Kept in hives." ; skos:historyNote "1978" ; skos:related h:hives ; skos:narrower h:drones .
h:drones a skos:Concept ; skos:prefLabel "Drones"@en ; skos:broader h:nowhere .
h:hives a skos:Concept ; skos:prefLabel "Ruche"@fr .
h:unnamed a skos:Concept .
"""


def other(form: str) -> bytes:
    return bytes(rdflib.Graph().parse(data=SMALL, format="turtle").serialize(format=form, encoding="utf-8", auto_compact=False))


@pytest.mark.parametrize("data", [SMALL.encode(), other("xml"), other("json-ld")], ids=["Turtle", "RDF/XML", "JSON-LD"])
def test_each_form_gives_the_same_vocabulary(data: bytes) -> None:
    it = read_skos(data)
    assert it.name == "Hives"
    assert [c.label for c in it.concepts] == ["Bees", "Drones", "Ruche"]
    bees, drones, hives = it.concepts
    assert (bees.alternative, bees.hidden) == (["Bienen", "Honey bees"], ["bee"])
    assert (bees.scope_note, bees.history_note) == ("Kept in hives.", "1978")
    assert (drones.broader, bees.related, hives.related) == ([bees.uri], [hives.uri], [bees.uri])
    assert it.problems == ["1 concepts without a preferred label were left out"]


def test_the_demo_has_some_1500_headings_under_eleven() -> None:
    it = read_skos(turtle().encode())
    assert 1400 < len(it.concepts) < 1600
    assert len([c for c in it.concepts if not c.broader]) == 11
    assert it.problems == []


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "empty"),
        (b"\x89PNG\x00\x00", "not a text file"),
        (b"Just some words about bees.", "looks like Turtle, but cannot be read"),
        (b"<?xml version='1.0'?><rss></rss>", "no SKOS concept"),
        (b"<?xml version='1.0'?><rdf:RDF", "looks like RDF/XML, but cannot be read"),
        (b'{"@context": "https://kettle.example/context", "a": 1}', "is an address, which is not fetched"),
        (b'{"@context": {"@import": "https://kettle.example/context"}}', "is an address, which is not fetched"),
        (b'{"a": ', "no JSON"),
        (b"[" * 100_000, "no JSON"),
        (b'<!DOCTYPE a [<!ENTITY x SYSTEM "file:///etc/passwd">]><rdf:RDF/>', "document type or entities"),
        (
            '<?xml version="1.0" encoding="utf-16"?><!DOCTYPE a [<!ENTITY x "xx">]><a/>'.encode("utf-16-le"),
            "document type or entities|not a text file",
        ),
        (b'{"@context": [["https://kettle.example/context"]], "a": 1}', "is an address, which is not fetched"),
        (b'{"@context": {"a": {"@id": "x:a", "@context": "file:///etc/passwd"}}, "a": {"b": 1}}', "is an address, which is not fetched"),
        (b"@prefix skos: <http://www.w3.org/2004/02/skos/core#> . <a:b> a skos:Concept .", "None of its concepts has a preferred label"),
        (b" " * 30_000_001, "larger than 30 MB"),
    ],
)
def test_what_is_no_vocabulary_says_why(data: bytes, says: str) -> None:
    with pytest.raises(NotAVocabulary, match=says):
        read_skos(data)


@given(st.binary(max_size=200))
def test_whatever_is_loaded_is_a_vocabulary_or_says_why_not(data: bytes) -> None:
    with pytest.raises(NotAVocabulary):
        read_skos(data)
