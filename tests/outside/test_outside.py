"""Asking catalogues and the DOI registry, over real HTTP, on good days and bad ones."""

from __future__ import annotations

import socket
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import Any

import pytest
from starlette.responses import Response, StreamingResponse
from starlette.routing import Mount, Route
from tests.serving import serving

from kettlesort.core.catalogue import NotAnAnswer, read_answer
from kettlesort.core.query import parse
from kettlesort.core.query.syntax import profile_of, shipped, translate
from kettlesort.core.record import Record
from kettlesort.demo.invent import documents
from kettlesort.outside.catalogue import Catalogue, CatalogueError
from kettlesort.outside.polite import Manners, Refused, Unreachable, ask, check_address
from kettlesort.outside.registry import Registry, RegistryError
from kettlesort.standins.catalogue import Quirks, catalogue_app
from kettlesort.standins.registry import registry_app

SIZE = 1200
GOOD = Quirks(slow_every=0, fail_every=0)
BAD = Quirks(slow_every=3, slow=0.3, fail_every=2)


def _trickle() -> Iterator[bytes]:
    for _ in range(1000):
        yield b"<a>" * 1000


def _other(text: str, status: int = 200, headers: dict[str, str] | None = None) -> Route:
    name = f"/{status}-{sum(map(ord, text))}"
    return Route(name, lambda _: Response(text, status, headers=headers))


ODD = {
    "page": _other("<html><body>Welcome</body></html>"),
    "words": _other("not XML at all"),
    "gone": _other("gone", 404),
    "elsewhere": _other("", 302, {"Location": "ftp://kettle.example/"}),
    "bomb": _other('<!DOCTYPE a [<!ENTITY x "xx"><!ENTITY y "&x;&x;">]><searchRetrieveResponse><numberOfRecords>&y;</numberOfRecords></searchRetrieveResponse>'),
    "json": _other("[1]"),
}  # fmt: skip


@pytest.fixture(scope="module")
def address() -> Iterator[str]:
    """All stand-ins, and some that send something else, on a port of loopback."""
    routes = [
        Mount("/good", catalogue_app(SIZE, GOOD)), Mount("/bad", catalogue_app(SIZE, BAD)), Mount("/huge", catalogue_app(10, Quirks(huge=True))), Mount("/doi", registry_app()),
        Route("/host", lambda asked: Response(asked.headers["host"])), Route("/trickle", lambda _: StreamingResponse(_trickle())), *ODD.values(),
    ]  # fmt: skip
    with serving(routes) as at:
        yield at


def manners(**more: float) -> Manners:
    return replace(Manners(private=True, sleep=lambda _: None, a_second=1000), **more)  # type: ignore[arg-type]


def cql(ours: str) -> str:
    return translate(parse(ours).node, profile_of(shipped()["cql"])).text


@pytest.mark.parametrize("version", ["1.2", "2.0"])
@pytest.mark.parametrize("schema", ["marcxml", "mods", "dc"])
def test_a_record_comes_whole_in_every_version_and_form(address: str, version: str, schema: str) -> None:
    it = Catalogue(f"{address}/good", version, schema, manners())  # type: ignore[arg-type]
    assert it.explain().name == "Hive Union Catalogue"
    assert it.explain().most == 200
    first = documents()[0]
    answer = it.search(f'dc.identifier = "{first.doi}"', 1, 10)
    assert answer.total == 1
    record, raw = answer.records[0]
    assert record._replace(extra=(), date="") == Record(
        kind="article", title=first.full_title, authors=first.authors, year=first.year, journal=first.venue.name, volume=str(first.volume),
        issue=str(first.issue), pages=f"{first.page}–{first.page + first.length}", doi=first.doi, accession="HU0000001", abstract=first.abstract, language="eng",
        keywords=first.descriptors,
    )  # fmt: skip
    assert first.doi in raw


def test_a_query_counts_as_many_as_it_does_by_hand_and_is_fetched_page_by_page(address: str) -> None:
    it = Catalogue(f"{address}/good", manners=manners())
    query = cql("title:(insulat* OR wrap*) AND year:1990-")
    pages = list(it.pages(query, size=500))
    found = [record for page in pages for record, _ in page.records]
    assert len(pages[0].records) == min(200, pages[0].total), "a catalogue gives at most 200, whatever it is asked for"
    assert len(found) == pages[0].total == len({record.accession for record in found}) > 40
    assert all((record.year or 0) >= 1990 and ("insulat" in record.title.lower() or "wrap" in record.title.lower()) for record in found)
    assert it.search("cql.allRecords = 1").total == SIZE
    assert it.search(cql("title:zebra")).total == 0


def test_it_says_how_terms_were_understood(address: str) -> None:
    it = Catalogue(f"{address}/good", manners=manners())
    answer = it.search(cql('"honey bees" AND wrap*'))
    assert [(u.said, "subject" in u.taken and "Bees" in u.taken) for u in answer.understood] == [("honey bees", True)]
    assert answer.total > it.search(cql('title,abstract,keyword:"honey bees" AND wrap*')).total - 1


def test_a_catalogue_with_moods_is_asked_again(address: str) -> None:
    it = Catalogue(f"{address}/bad", manners=manners())
    assert [it.search(cql("hive*")).total for _ in range(6)] == [
        Catalogue(f"{address}/good", manners=manners()).search(cql("hive*")).total
    ] * 6
    with pytest.raises(CatalogueError, match=r"away.*it answered 503, 1 times"):
        [replace(it, manners=manners(tries=1)).search("hive") for _ in range(2)]


@pytest.mark.parametrize(
    ("query", "says"),
    [
        ("hive and (", "cannot read the query"),
        ("local.colour = red", "no index of this name"),
        ("", "no catalogue|cannot read|says nothing"),
    ],
)
def test_what_a_catalogue_has_against_a_query_is_said_in_plain_words(address: str, query: str, says: str) -> None:
    with pytest.raises(CatalogueError, match=says):
        Catalogue(f"{address}/good", "1.2", manners=manners()).search(query)
    with pytest.raises(CatalogueError, match="no record at that place"):
        Catalogue(f"{address}/good", manners=manners()).search("hive", 5000, 10)
    with pytest.raises(CatalogueError, match="does not give records in this form"):
        Catalogue(f"{address}/good", schema="colour", manners=manners()).search("hive", 1, 10)


@pytest.mark.parametrize(
    ("path", "says"),
    [
        ("/huge", "sent more than 20 MB"),
        ("/trickle", "sent more than 0 MB|sent more than"),
        (ODD["page"].path, "instead of the answer|how many"),
        (ODD["words"].path, "did not send XML but “not XML at all”"),
        (ODD["gone"].path, "it answered 404"),
        (ODD["elsewhere"].path, "begins with http"),
        (ODD["bomb"].path, "did not say how many"),
    ],
)
def test_what_is_no_catalogue_gets_a_message(address: str, path: str, says: str) -> None:
    limited = manners(largest=1_000_000) if path == "/trickle" else manners()
    with pytest.raises(CatalogueError, match=says):
        Catalogue(address + path, manners=limited).search("hive")


def test_pauses_grow_and_a_server_that_is_away_is_given_up(address: str) -> None:
    pauses: list[float] = []
    with pytest.raises(Unreachable, match=r"127\.0\.0\.1:9 could not be asked: the connection failed.*3 times"):
        ask("http://127.0.0.1:9/", {}, "", Manners(tries=3, private=True, sleep=pauses.append, a_second=1000))
    assert pauses == [0.5, 1.0]
    turns: list[float] = []
    for _ in range(4):
        ask(f"{address}/good/", {}, "", Manners(private=True, sleep=turns.append, a_second=2))
    assert sum(turns) > 1, "no more than two a second"


@pytest.mark.parametrize(
    ("odd", "says"),
    [
        ("ftp://kettle.example/", "begins with http"), ("http://", "names a server"), ("http://a:b@kettle.example/", "name and password"), ("http://kettle.example/?a=1", "question mark"),
        ("http://127.0.0.1/", "within the network"), ("http://[::1]/", "within the network"), ("http://10.0.0.1/", "within the network"), ("http://no-such-host.invalid/", "no server named"),
        ("http://[::ffff:10.0.0.1]/", "within the network"), ("http://[64:ff9b::a00:1]/", "within the network"), ("http://[2002:a00:1::1]/", "within the network"), ("http://[2001:0:a00:1::1]/", "within the network"),
        ("http://[fe80::1]/", "within the network"), ("http://169.254.169.254/", "within the network"), ("http://0/", "within the network"),
    ],
)  # fmt: skip
def test_addresses_that_must_not_be_asked_are_refused(odd: str, says: str) -> None:
    with pytest.raises(ValueError, match=says):
        check_address(odd, private=False)


def test_a_name_is_looked_up_once_and_what_was_looked_at_is_asked(address: str, monkeypatch: pytest.MonkeyPatch) -> None:
    port, looked_up, real = address.rpartition(":")[2], [], socket.getaddrinfo
    numbers = {"turning.example": ["127.0.0.1", "10.0.0.1"], "both.example": ["10.0.0.1", "93.184.215.14"]}

    def names(host: Any, *more: Any, **named: Any) -> Any:
        if host not in numbers:
            return real(host, *more, **named)
        looked_up.append(host)
        if host == "turning.example":  # says something else each time
            return real(numbers[host][len(looked_up) - 1], *more, **named)
        return [answer for number in numbers[host] for answer in real(number, *more, **named)]

    monkeypatch.setattr(socket, "getaddrinfo", names)
    assert ask(f"http://turning.example:{port}/host", {}, "", manners()) == f"turning.example:{port}".encode()
    assert looked_up == ["turning.example"]
    with pytest.raises(ValueError, match="within the network"):
        check_address("http://both.example/", private=False)


@pytest.mark.parametrize(
    "data", [b"", b"<a/>", b"<searchRetrieveResponse><records/></searchRetrieveResponse>", b"\xff\xfe", b"<a>" * 100_000]
)
def test_whatever_comes_is_an_answer_or_says_why_not(data: bytes) -> None:
    with pytest.raises(NotAnAnswer):
        read_answer(data)


def test_the_registry_fills_what_it_knows_and_owns_up_to_the_rest(address: str) -> None:
    it = Registry(f"{address}/doi", manners())
    known = next(d for d in documents() if d.doi and d.number % 9 and d.number % 7)
    found = it.record(known.doi)
    assert found is not None
    assert (found.title, found.authors, found.year, found.abstract, found.doi) == (
        known.full_title,
        known.authors,
        known.year,
        known.abstract,
        known.doi,
    )
    assert it.record("10.5555/no-such") is None
    for path, says in ((ODD["json"].path, "is none"), (ODD["words"].path, "cannot be read")):
        with pytest.raises(RegistryError, match=says):
            Registry(address, manners()).record(path.strip("/"))


def test_refusals_carry_their_status(address: str) -> None:
    asked: Callable[[], bytes] = lambda: ask(address + ODD["gone"].path, {}, "", manners())  # noqa: E731
    with pytest.raises(Refused) as caught:
        asked()
    assert caught.value.status == 404
