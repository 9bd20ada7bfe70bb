"""The codebook: data items under concepts, levels that they are asked for, versions; no value is lost when an item changes."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import UTC, datetime
from typing import Any, NamedTuple, TypeVar

from sqlmodel import Session

from kettlesort.core.charting import codebook as core
from kettlesort.core.charting.codebook import NotACodebook
from kettlesort.core.charting.items import FACTORS, Factor, Level
from kettlesort.core.charting.items import Concept as CoreConcept
from kettlesort.core.charting.items import Item as CoreItem
from kettlesort.store import chart as values
from kettlesort.store import codebook as store
from kettlesort.store.base import Row, snapshot
from kettlesort.store.codebook import CodebookVersion, Concept, Item
from kettlesort.work.change import Change, change
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.late import Both, conflict, merged
from kettlesort.work.studies import labels_of


class ItemWording(NamedTuple):
    """A data item as typed; ``id`` of one that exists. ``concept`` is the name of the one that it belongs to."""

    id: int | None
    name: str
    kind: str
    unit: str = ""
    choices: list[str] = []
    instructions: str = ""
    low: float | None = None
    high: float | None = None
    per: list[str] = []
    concept: str = ""
    examples: str = ""


class ConceptWording(NamedTuple):
    """A concept as typed; ``within`` is the name of the broader one."""

    id: int | None
    name: str
    within: str = ""


class LevelWording(NamedTuple):
    """An arm, outcome or time point of all studies, as typed."""

    id: int | None
    factor: str
    name: str
    words: list[str] = []


class Book(NamedTuple):
    """A codebook as typed, in its order."""

    items: Sequence[ItemWording] = ()
    concepts: Sequence[ConceptWording] = ()
    levels: Sequence[LevelWording] = ()


class Unfit(NamedTuple):
    """A value that does not fit its changed item."""

    study: int
    label: str
    text: str
    why: str


class Consequence(NamedTuple):
    """What a change does to the values of an item or a level that is in use: how many stay as they are, are worded anew, go out of sight, or do not fit."""

    name: str
    kept: int
    reworded: int
    hidden: int
    unfit: list[Unfit]

    @property
    def touches(self) -> bool:
        """Whether anything that was charted is seen in another way."""
        return bool(self.reworded or self.hidden or self.unfit)


class Preview(NamedTuple):
    """What would change, as sentences, and what that does to values."""

    changes: list[str]
    consequences: list[Consequence]


Worded = TypeVar("Worded", ItemWording, ConceptWording, LevelWording)


def codebook(review: int) -> tuple[Book, dict[int, int], int]:
    """The codebook, how many values stand for each item in use, and the number of its version."""
    with snapshot() as db:
        return book_in(db, review), store.in_use(db, review), store.latest_version(db, review)


def book_in(db: Session, review: int) -> Book:
    """The codebook as it stands within a transaction."""
    concepts = store.concepts(db, review)
    names = {it.id: it.name for it in concepts}
    return Book(
        [
            ItemWording(
                it.id, it.name, it.kind, it.unit, list(it.choices), it.instructions, it.low, it.high, list(it.per),
                names.get(it.concept_id, ""), it.examples,
            )
            for it in store.items(db, review)
        ],
        [ConceptWording(it.id, it.name, names.get(it.within_id, "")) for it in concepts],
        [LevelWording(it.id, it.factor, it.name, list(it.words)) for it in store.levels(db, review) if it.study_id is None],
    )  # fmt: skip


def core_item(it: ItemWording) -> CoreItem:
    """An item as the core knows it."""
    return CoreItem(
        it.name, it.kind, it.unit, tuple(it.choices), it.low, it.high, tuple(f for f in FACTORS if f in it.per),  # type: ignore[arg-type]
        it.concept, it.instructions, it.examples,
    )  # fmt: skip


def _core(book: Book) -> core.Codebook:
    return core.Codebook(
        tuple(core_item(it)._replace(per=tuple(it.per)) for it in book.items),  # type: ignore[arg-type]
        tuple(CoreConcept(it.name, it.within) for it in book.concepts),
        tuple(Level(it.factor, it.name, tuple(it.words)) for it in book.levels),  # type: ignore[arg-type]
    )


def _typed(book: core.Codebook, like: Book | None = None) -> Book:
    """A codebook of the core as typed, with the ids of one that has the same parts in the same order."""

    def numbers(some: Sequence[Worded], n: int) -> list[int | None]:
        return [it.id for it in some] if some else [None] * n

    like = like or Book()
    return Book(
        [
            ItemWording(number, it.name, it.kind, it.unit, list(it.choices), it.instructions, it.low, it.high, list(it.per), it.concept, it.examples)
            for number, it in zip(numbers(like.items, len(book.items)), book.items, strict=True)
        ],
        [ConceptWording(number, *it) for number, it in zip(numbers(like.concepts, len(book.concepts)), book.concepts, strict=True)],
        [LevelWording(number, it.factor, it.name, list(it.words)) for number, it in zip(numbers(like.levels, len(book.levels)), book.levels, strict=True)],
    )  # fmt: skip


def tidied(book: Book) -> Book:
    """A codebook as it is kept. Raises Invalid where it makes no sense."""
    if any(it.factor not in FACTORS for it in book.levels):
        raise Invalid("A level is an arm, an outcome or a time point.", field="factor")
    try:
        return _typed(core.tidied(_core(book)), book)
    except NotACodebook as error:
        raise Invalid(str(error), field=error.field) from error


def _with_theirs(it: Change, said: Book, seen: Book, now: Book) -> Book:
    """The codebook as said, with what others made of it since it was ``seen``. Raises Conflict for what both changed."""
    items, both = _joined(said.items, seen.items, now.items)
    concepts, more = _joined(said.concepts, seen.concepts, now.concepts)
    levels, most = _joined(said.levels, seen.levels, now.levels)
    mine = Book(items, concepts, levels)
    if both + more + most:
        raise conflict(it.db, it.review, "chart.codebook_changed", "the codebook", both + more + most, as_data(now), as_data(mine))
    return mine


def _joined(mine: Sequence[Worded], then: Sequence[Worded], theirs: Sequence[Worded]) -> tuple[list[Worded], list[Both]]:
    """Parts of one sort as one person and others made them, in the person's order, and those that both changed."""
    seen, now, said = ({one.id: one for one in some if one.id} for some in (then, theirs, mine))
    kept, clash = merged(seen, now, said)
    order = [one.id for one in mine if one.id in kept] + [number for number in kept if number not in said]
    both = [Both((now.get(number) or said[number]).name, _shown(now.get(number)), _shown(said.get(number))) for number in clash]
    return [kept[number] for number in order] + [one for one in mine if not one.id], both


def as_data(book: Book) -> dict[str, Any]:
    """A codebook as JSON takes it."""
    return {"items": [one._asdict() for one in book.items], "concepts": [one._asdict() for one in book.concepts], "levels": [one._asdict() for one in book.levels]}  # fmt: skip


def _shown(one: NamedTuple | None) -> str:
    if one is None:
        return "removed"
    return "; ".join(", ".join(map(str, it)) if isinstance(it, list) else f"{it}" for it in one[1:] if it not in (None, "", []))


def preview(review: int, book: Book) -> Preview:
    """What a codebook would change, and what that does to the values that stand."""
    book = tidied(book)
    with snapshot() as db:
        return _preview(db, review, book)


def _preview(db: Session, review: int, book: Book) -> Preview:
    now = book_in(db, review)
    before, after = ({one.id: core_item(one) for one in some.items if one.id} for some in (now, book))
    said = core.changes(before, after) + [f"{it.name} was added" for it in book.items if not it.id]
    return Preview([*said, *_other_changes(now, book)], [it for it in _consequences(db, review, now, book) if it.touches])


def _other_changes(was: Book, now: Book) -> list[str]:
    out = []
    for before, after in ((was.levels, now.levels), (was.concepts, now.concepts)):
        old, new = ({(one.id, one.name): one for one in some} for some in (before, after))
        out += [f"{one.name} was added" for at, one in new.items() if at not in old]
        out += [f"{one.name} was removed" for at, one in old.items() if at not in new]
        out += [f"{one.name} has other words" for at, one in new.items() if at in old and old[at] != one]
    return out


def _consequences(db: Session, review: int, now: Book, book: Book) -> list[Consequence]:
    standing = [it for it in values.values(db, review, read=True) if it["text"]]
    labels = labels_of(db, review)
    after: dict[int | None, ItemWording] = {one.id: one for one in book.items if one.id}
    out = []
    for was in now.items:
        mine = [it for it in standing if it["item_id"] == was.id]
        new = after.get(was.id)
        if not mine or (new and core_item(was)._replace(**_WORDS) == core_item(new)._replace(**_WORDS)):
            continue
        if new is None:
            out.append(Consequence(was.name, 0, 0, len(mine), []))
            continue
        became = [(it, *core.why_unfit(core_item(new), it["text"], factors_of(it))) for it in mine]
        unfit = [
            Unfit(it["study_id"], labels.get(it["study_id"], ""), "what an extractor read" if it["reader_id"] else text, why)
            for it, text, why in became
            if why
        ]
        unfit.sort(key=lambda one: one.label.casefold())
        reworded = sum(not why and text != it["text"] for it, text, why in became)
        out.append(Consequence(new.name, len(mine) - len(unfit) - reworded, reworded, 0, unfit))
    here = {one.id for one in book.levels}
    for gone in (one for one in now.levels if one.id not in here):
        hidden = sum(gone.id in (it["arm_id"], it["outcome_id"], it["time_id"]) for it in standing)
        out.append(Consequence(gone.name, 0, 0, hidden, []))
    return out


_WORDS: dict[str, Any] = {"name": "", "instructions": "", "examples": "", "concept": ""}
"""What may change of an item without touching a value."""


def factors_of(value: Row) -> list[Factor]:
    """The factors of which a value names a level."""
    return [factor for factor in FACTORS if value[f"{factor}_id"] is not None]


def set_codebook(review: int, account: int, book: Book, seen: Book | None = None, *, agreed: bool = False) -> None:
    """Replace the codebook. Values of what is removed stay, and come back with it; those of a changed item are carried over, or marked as unfit.

    ``seen`` is the codebook on which the change was made: what others changed since then stays. Where values are touched, it has to be ``agreed`` to.
    """
    book = tidied(book)
    with change(review, account, "chart") as it:
        now = book_in(it.db, review)
        if seen is not None:
            book = tidied(_with_theirs(it, book, tidied(seen), now))
        told = _preview(it.db, review, book)
        if told.consequences and not agreed:
            raise Conflict("This change touches values that are charted. Look at what becomes of them, and save again.", look=True)
        if book == now:
            return
        _write(it, book)
        it.db.flush()
        _carry_over(it, now)
        stands = book_in(it.db, review)
        it.db.add(
            CodebookVersion(review_id=review, number=store.latest_version(it.db, review) + 1, content=as_data(stands), account_id=account)
        )
        it.event("chart.codebook_changed", "; ".join(told.changes)[:500], [one.name for one in now.items], [one.name for one in book.items])


def _write(it: Change, book: Book) -> None:
    concepts = {one.id: one for one in store.concepts(it.db, it.review)}
    by_name: dict[str, Concept] = {}
    for position, said in enumerate(book.concepts):
        concept = _present(concepts, said.id) or Concept(review_id=it.review, position=position, name="")
        concept.position, concept.name, concept.within_id = position, said.name, None
        it.db.add(concept)
        by_name[said.name] = concept
    it.db.flush()
    for said in book.concepts:
        by_name[said.name].within_id = by_name[said.within].id if said.within else None
    items = {one.id: one for one in store.items(it.db, it.review)}
    for position, wanted in enumerate(book.items):
        item = _present(items, wanted.id) or Item(review_id=it.review, position=position, name="", kind=wanted.kind)
        item.position, item.concept_id = position, by_name[wanted.concept].id if wanted.concept else None
        for name in ("name", "kind", "unit", "choices", "instructions", "low", "high", "per", "examples"):
            setattr(item, name, getattr(wanted, name))
        it.db.add(item)
    levels = {one.id: one for one in store.levels(it.db, it.review) if one.study_id is None}
    for position, level in enumerate(book.levels):
        held = _present(levels, level.id) or store.Level(review_id=it.review, factor=level.factor, name="")
        if level.id and held.factor != level.factor:
            raise Invalid(f"“{level.name}” stays {held.factor}; add another one instead.", field="factor")
        held.position, held.name, held.words = position, level.name, level.words
        it.db.add(held)
    gone: Iterable[Concept | Item | store.Level] = (*concepts.values(), *items.values(), *levels.values())
    for one in gone:
        one.removed_at = datetime.now(UTC)


T = TypeVar("T", Concept, Item, store.Level)


def _present(some: dict[int | None, T], number: int | None) -> T | None:
    """One that is there, taken out of those that are; None for a new one."""
    if number is None:
        return None
    if number not in some:
        raise NotFound("A part of this codebook was removed meanwhile; load the page again.")
    return some.pop(number)


def _carry_over(it: Change, was: Book) -> None:
    """Values of changed items get their form under the changed item, or are marked as unfit."""
    before = {one.id: core_item(one) for one in was.items}
    changed = {one.id: core_item(one) for one in book_in(it.db, it.review).items if one.id in before and core_item(one) != before[one.id]}
    for value in values.values(it.db, it.review, read=True):
        if value["item_id"] not in changed or not value["text"]:
            continue
        text, why = core.why_unfit(changed[value["item_id"]], value["text"], factors_of(value))
        if (text, why) != (value["text"], value["unfit"]):
            values.append_value(it.db, it.review, it.account, {**value, "text": text, "unfit": why, "how": "carried"})


class Version(NamedTuple):
    """A version of the codebook, and what it changed."""

    number: int
    at: datetime
    by: str
    changes: list[str]


def versions(review: int) -> list[Version]:
    """Every version with what it changed, the newest first."""
    with snapshot() as db:
        found = list(store.versions(db, review))
    books = [_from_data(it["content"]) for it in found] + [Book()]
    out = []
    for it, book, before in zip(found, books, books[1:], strict=False):
        then, now = ({one.id: core_item(one) for one in some.items} for some in (before, book))
        out.append(Version(it["number"], it["at"], it["by"], [*core.changes(then, now), *_other_changes(before, book)]))
    return out


def _from_data(content: dict[str, Any]) -> Book:
    return Book(
        [ItemWording(**one) for one in content.get("items", [])],
        [ConceptWording(**one) for one in content.get("concepts", [])],
        [LevelWording(**one) for one in content.get("levels", [])],
    )


def as_toml(review: int) -> str:
    """The codebook as a file."""
    with snapshot() as db:
        return core.write_toml(_core(book_in(db, review)))


def added(review: int, more: core.Codebook) -> Book:
    """The codebook with what another one has more: parts of the same name stay as they are here."""
    with snapshot() as db:
        now = book_in(db, review)
    theirs = _typed(more)
    items, concepts = ({one.name.casefold() for one in some} for some in (now.items, now.concepts))
    levels = {(one.factor, one.name.casefold()) for one in now.levels}
    return Book(
        [*now.items, *(one for one in theirs.items if one.name.casefold() not in items)],
        [*now.concepts, *(one for one in theirs.concepts if one.name.casefold() not in concepts)],
        [*now.levels, *(one for one in theirs.levels if (one.factor, one.name.casefold()) not in levels)],
    )


def from_toml(review: int, text: str) -> Book:
    """This review's codebook with what a file has more, to be looked at before it is saved."""
    try:
        return added(review, core.read_toml(text))
    except NotACodebook as error:
        raise Invalid(str(error), field=error.field or "file") from error
