"""Connected catalogues: setting them up, and counting in them what a query finds."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from typing import NamedTuple, cast

from sqlmodel import Session, col, select

from kettlesort.core.catalogue import SCHEMAS, Understood, Version
from kettlesort.core.query import Group, Node, Text, Value, log_likelihood_ratio, syntax, without_branch
from kettlesort.core.query.words import words_of
from kettlesort.core.record import Record
from kettlesort.outside.catalogue import Catalogue as Client
from kettlesort.outside.catalogue import CatalogueError
from kettlesort.outside.polite import Manners
from kettlesort.settings import settings
from kettlesort.store import query as store
from kettlesort.store.base import snapshot
from kettlesort.store.catalogue import Catalogue, records_with
from kettlesort.work.change import changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.query import node_of
from kettlesort.work.syntax import syntax_of

MOST = 20
SEEDS_AT_ONCE = 100


class NotCounted(Invalid):
    """A catalogue that is away, or has something against a query."""


@contextmanager
def _told() -> Iterator[None]:
    """What a catalogue has against a question is for the person who asked."""
    try:
        yield
    except CatalogueError as error:
        raise NotCounted(str(error)) from None


def manners() -> Manners:
    """How catalogues and registries are asked."""
    return Manners(private=settings().private_addresses)


def add(review: int, account: int, name: str, address: str, version: Version, form: str) -> int:
    """Connect a catalogue; it is asked first what it is. Its number."""
    address = address.strip()
    if form not in SCHEMAS:
        raise Invalid(f"Records come as {', '.join(SCHEMAS)}.", field="form")
    try:
        explained = Client(address, version, form, manners()).explain()
    except CatalogueError as error:
        raise Invalid(str(error), field="address") from None
    name = " ".join(name.split())[:200] or explained.name or address
    with changing(review, account, "catalogues") as change:
        present = _in_use(change.db, review)
        if len(present) >= MOST:
            raise Invalid(f"A review asks at most {MOST} catalogues.", field="address")
        if any(other.address == address for other in present):
            raise Conflict("This catalogue is connected already.", field="address")
        made = Catalogue(review_id=review, name=name, address=address[:1000], version=version, form=form)
        change.db.add(made)
        change.db.flush()
        change.event("plan.catalogue_connected", name, None, {"address": address, "version": version, "form": form})
        assert made.id is not None
        return made.id


def use(review: int, account: int, number: int, used: bool) -> None:
    """Disconnect a catalogue, or connect it again."""
    with changing(review, account, "catalogues") as change:
        found = change.db.get(Catalogue, number)
        if found is None or found.review_id != review or (found.removed_at is None) == used:
            raise NotFound("There is no such catalogue; another member may have disconnected it.")
        found.removed_at = None if used else datetime.now(UTC)
        change.event("plan.catalogue_connected" if used else "plan.catalogue_disconnected", found.name)


def catalogues(review: int) -> Sequence[Catalogue]:
    """The catalogues of a review."""
    with snapshot() as db:
        found = _in_use(db, review)
        db.expunge_all()
        return found


def _in_use(db: Session, review: int) -> Sequence[Catalogue]:
    return db.exec(
        select(Catalogue).where(Catalogue.review_id == review, col(Catalogue.removed_at).is_(None)).order_by(col(Catalogue.id))
    ).all()


def client(review: int, number: int) -> Client:
    """A catalogue of a review, ready to be asked."""
    for catalogue in catalogues(review):
        if catalogue.id == number:
            return Client(catalogue.address, cast(Version, catalogue.version), catalogue.form, manners())
    raise NotFound("There is no such catalogue; another member may have disconnected it.")


class Counted(NamedTuple):
    """What a catalogue says to a query: how many records it finds, which of the seeds (their records), how it took the terms, and how it was asked."""

    hits: int
    seeds: list[int]
    understood: list[Understood]
    asked: str
    losses: tuple[syntax.Loss, ...]


def count(review: int, number: int, text: str, *, without: Sequence[int] | None = None, seeds: bool = True) -> Counted:
    """Count in a catalogue what a query, perhaps without one of its branches, finds, and which of the seeds with a DOI are among it.

    Raises NotCounted, and Invalid for a branch that is not there.
    """
    asking, profile, node = client(review, number), syntax_of(review, "cql"), node_of(text)
    if without is not None:
        node = _without(node, tuple(without))
    said = syntax.translate(node, profile)
    if not said.text:
        raise NotCounted("Nothing of this can be asked of the catalogue.")
    found: list[int] = []
    with _told():
        answer = asking.search(said.text, 1, 1)
        if seeds and answer.total:
            with snapshot() as db:
                wanted = {str(seed["doi"]): int(seed["id"]) for seed in store.seeds(db, review) if seed["doi"]}
            found = [wanted[doi] for doi in _among(asking, profile, node, list(wanted)) if doi in wanted]
    return Counted(answer.total, found, answer.understood, said.text, said.losses)


def _without(node: Node, path: tuple[int, ...]) -> Node:
    try:
        rest = without_branch(node, path)
    except IndexError:
        raise Invalid("The query has no such branch.", field="without") from None
    if rest is None:
        raise NotCounted("Without this nothing is left to search for.")
    return rest


def _among(asking: Client, profile: syntax.Profile, node: Node, dois: Sequence[str]) -> list[str]:
    """Those of the DOIs that a query finds."""
    out: list[str] = []
    for k in range(0, len(dois), SEEDS_AT_ONCE):
        some = dois[k : k + SEEDS_AT_ONCE]
        either: Node = Group("any", tuple(Value("doi", doi) for doi in some)) if len(some) > 1 else Value("doi", some[0])
        query = syntax.translate(Group("all", (node, either)), profile).text
        out += [record.doi for page in asking.pages(query, size=len(some)) for record, _ in page.records]
    return list(dict.fromkeys(out))


class Page(NamedTuple):
    """Some of the records that a catalogue finds, from place ``start``; ``here`` are the records of the review with the same DOI."""

    total: int
    start: int
    records: list[Record]
    here: dict[str, int]


PAGE = 20


def look(review: int, number: int, text: str, start: int) -> Page:
    """A page of what a catalogue finds, to read. Raises NotCounted."""
    said = syntax.translate(node_of(text), syntax_of(review, "cql"))
    if not said.text:
        raise NotCounted("Nothing of this can be asked of the catalogue.")
    with _told():
        answer = client(review, number).search(said.text, start, PAGE)
    records = [record for record, _ in answer.records]
    with snapshot() as db:
        here = records_with(db, review, [one.doi for one in records if one.doi])
    return Page(answer.total, start, records, here)


def find_in(review: int, number: int, node: Node, most: int = 5) -> list[tuple[Record, str]]:
    """The first few records of a catalogue for a query, with their text. Raises NotCounted."""
    with _told():
        return client(review, number).search(syntax.translate(node, syntax_of(review, "cql")).text, 1, most).records[:most]


def compare(review: int, number: int, forms: Sequence[str], having: int) -> tuple[int, float]:
    """A term of the seeds beside a catalogue: in how many of its records it is, and how special to the seeds, ``having`` of which have it.

    Raises NotCounted.
    """
    with snapshot() as db:
        seeds = len(store.seeds(db, review))
    terms = tuple(Text(tuple(words_of(form))) for form in forms if words_of(form))
    if not terms or not 0 <= having <= seeds:
        raise Invalid("This is no term of the seeds.", field="forms")
    node: Node = Group("any", terms) if len(terms) > 1 else terms[0]
    asking, profile = client(review, number), syntax_of(review, "cql")
    with _told():
        records = asking.search(syntax.translate(node, profile).text, 1, 1).total
    size = count_all(review, number)
    return records, log_likelihood_ratio(having, seeds, min(records, size), size)


def count_all(review: int, number: int) -> int:
    """How many records a catalogue has. Raises NotCounted."""
    with _told():
        return client(review, number).search("cql.allRecords = 1", 1, 1).total
