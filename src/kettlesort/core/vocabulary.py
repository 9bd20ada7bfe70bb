"""Controlled vocabularies, read from SKOS files (SKOS Reference, W3C Recommendation, 2009)."""

from __future__ import annotations

import json
import logging
from collections import defaultdict
from dataclasses import dataclass, field
from typing import Any

import rdflib
import rdflib.plugins.shared.jsonld.context as jsonld_context
from rdflib.namespace import DC, DCTERMS, RDF, RDFS, SKOS

LARGEST = 30_000_000
"""Bytes of a file."""


class NotAVocabulary(ValueError):
    """A file that is no SKOS vocabulary; the message says why, and what to do."""


@dataclass(slots=True)
class Concept:
    """A concept: its preferred label, its other names, its notes, and the addresses of its neighbours."""

    uri: str
    label: str
    alternative: list[str] = field(default_factory=list)
    hidden: list[str] = field(default_factory=list)
    scope_note: str = ""
    history_note: str = ""
    broader: list[str] = field(default_factory=list)
    related: list[str] = field(default_factory=list)


@dataclass(slots=True)
class Vocabulary:
    """A vocabulary: its name, its concepts in alphabetical order, and what was odd in the file."""

    name: str
    concepts: list[Concept]
    problems: list[str]


def read_skos(data: bytes) -> Vocabulary:
    """Read a SKOS file in Turtle, RDF/XML or JSON-LD; which of them it is, is seen from its content.

    English labels are preferred; labels of other languages become alternative ones. Nothing
    is fetched from the network. Raises NotAVocabulary.
    """
    if len(data) > LARGEST:
        raise NotAVocabulary(f"The file is larger than {LARGEST // 1_000_000} MB; load a part of the vocabulary.")
    form, name = _form_of(data)
    graph = rdflib.Graph()
    try:
        graph.parse(data=data, format=form)
    except RecursionError:
        raise NotAVocabulary(f"It looks like {name}, but is nested too deep to be read.") from None
    except Exception as error:  # the parsers raise errors of many kinds for text that is none of theirs
        said = " ".join(str(error).split())[:200]
        raise NotAVocabulary(f"It looks like {name}, but cannot be read as that: {said}") from None
    return _vocabulary(graph)


def _form_of(data: bytes) -> tuple[str, str]:
    begin = data[:4000].lstrip(b"\xef\xbb\xbf \t\r\n")
    if not begin:
        raise NotAVocabulary("The file is empty.")
    if begin[:1] in (b"{", b"["):
        try:
            said = json.loads(data)
        except (ValueError, RecursionError) as error:
            raise NotAVocabulary(f"It looks like JSON-LD, but is no JSON: {error}.") from None
        _refuse_remote(said)
        return "json-ld", "JSON-LD"
    if begin.startswith((b"<?xml", b"<!DOCTYPE")) or b"<rdf:RDF" in begin:
        if b"<!DOCTYPE" in data or b"<!ENTITY" in data or _declares(data):
            raise NotAVocabulary("It declares a document type or entities (<!DOCTYPE, <!ENTITY), which are not read; write them out.")
        return "xml", "RDF/XML"
    if b"\x00" in data[:4000]:
        raise NotAVocabulary("It is not a text file. A vocabulary is a SKOS file in Turtle, RDF/XML or JSON-LD.")
    return "turtle", "Turtle"


def _declares(data: bytes) -> bool:
    """The same in the other encodings that XML may have."""
    return any("<!DOCTYPE".encode(codec) in data or "<!ENTITY".encode(codec) in data for codec in ("utf-16-le", "utf-16-be"))


def _refuse_remote(value: Any) -> None:
    """A context that is an address would be fetched."""
    waiting = [value]
    while waiting:
        pop = waiting.pop()
        if isinstance(pop, dict):
            if "@import" in pop or ("@context" in pop and _is_remote(pop["@context"])):
                raise NotAVocabulary("Its context is an address, which is not fetched; write the context into the file.")
            waiting.extend(pop.values())
        elif isinstance(pop, list):
            waiting.extend(pop)


def _is_remote(context: Any) -> bool:
    """Whether a context is an address, or a list with one at any depth."""
    waiting = [context]
    while waiting:
        pop = waiting.pop()
        if isinstance(pop, str):
            return True
        if isinstance(pop, list):
            waiting.extend(pop)
    return False


def _no_loader(*_: Any, **__: Any) -> Any:
    raise NotAVocabulary("Something outside of it would have to be fetched, which is not done; write it into the file.")


setattr(jsonld_context, "source_to_json", _no_loader)  # noqa: B010 what fetches a context by its address


def _vocabulary(graph: rdflib.Graph) -> Vocabulary:
    problems: list[str] = []
    labelled = set(graph.subjects(SKOS.prefLabel))
    nodes = [each for each in {*graph.subjects(RDF.type, SKOS.Concept), *labelled} if (each, RDF.type, SKOS.ConceptScheme) not in graph]
    if not nodes:
        raise NotAVocabulary("It holds no SKOS concept (skos:Concept with skos:prefLabel).")
    broader: defaultdict[str, set[str]] = defaultdict(set)
    for upper in (SKOS.broader, SKOS.broaderTransitive, SKOS.broadMatch):
        for low, high in graph.subject_objects(upper):
            if upper == SKOS.broader or not list(graph.objects(low, SKOS.broader)):
                broader[str(low)].add(str(high))
    for high, low in graph.subject_objects(SKOS.narrower):
        broader[str(low)].add(str(high))
    related: defaultdict[str, set[str]] = defaultdict(set)
    for one, other in graph.subject_objects(SKOS.related):
        related[str(one)].add(str(other))
        related[str(other)].add(str(one))
    concepts = []
    unnamed = 0
    known = {str(each) for each in nodes}
    for node in nodes:
        labels = sorted(graph.objects(node, SKOS.prefLabel), key=_by_language)
        if not labels:
            unnamed += 1
            continue
        label, *rest = [" ".join(str(each).split()) for each in labels]
        alternative = rest + sorted(" ".join(str(each).split()) for each in graph.objects(node, SKOS.altLabel))
        uri = str(node)
        concepts.append(
            Concept(
                uri,
                label,
                [fromkey for fromkey in dict.fromkeys(alternative) if fromkey and fromkey != label],
                sorted({" ".join(str(each).split()) for each in graph.objects(node, SKOS.hiddenLabel)} - {label, ""}),
                _note(graph, node, SKOS.scopeNote) or _note(graph, node, SKOS.definition),
                _note(graph, node, SKOS.historyNote) or _note(graph, node, SKOS.changeNote),
                sorted((broader[uri] & known) - {uri}),
                sorted((related[uri] & known) - {uri}),
            )
        )
    if not concepts:
        raise NotAVocabulary("None of its concepts has a preferred label (skos:prefLabel).")
    if unnamed:
        problems.append(f"{unnamed:,} concepts without a preferred label were left out")
    doubles = len(concepts) - len({concept.label.casefold() for concept in concepts})
    if doubles:
        problems.append(f"{doubles:,} concepts share their preferred label with another")
    concepts.sort(key=lambda concept: (concept.label.casefold(), concept.uri))
    return Vocabulary(_name(graph), concepts, problems)


def _by_language(label: Any) -> tuple[int, str, str]:
    language = str(getattr(label, "language", None) or "")
    return (0 if language.startswith("en") or not language else 1, language, str(label))


def _note(graph: rdflib.Graph, node: Any, kind: Any) -> str:
    said = sorted((one for one in graph.objects(node, kind) if isinstance(one, rdflib.Literal)), key=_by_language)
    return " ".join(str(said[0]).split()) if said else ""


def _name(graph: rdflib.Graph) -> str:
    for scheme in sorted(graph.subjects(RDF.type, SKOS.ConceptScheme), key=str):
        for kind in (DCTERMS.title, DC.title, SKOS.prefLabel, RDFS.label):
            for said in sorted(graph.objects(scheme, kind), key=_by_language):
                return " ".join(str(said).split())[:200]
    return ""


logging.getLogger("rdflib").setLevel(logging.CRITICAL)  # what it warns of is told to the person by us
