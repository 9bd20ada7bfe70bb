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
from kettlesort.work.change import Change, changing
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
    names = {concept.id: concept.name for concept in concepts}
    return Book(
        [
            ItemWording(
                item.id, item.name, item.kind, item.unit, list(item.choices), item.instructions, item.low, item.high, list(item.per),
                names.get(item.concept_id, ""), item.examples,
            )
            for item in store.items(db, review)
        ],
        [ConceptWording(concept.id, concept.name, names.get(concept.within_id, "")) for concept in concepts],
        [LevelWording(level.id, level.factor, level.name, list(level.words)) for level in store.levels(db, review) if level.study_id is None],
    )  # fmt: skip


def core_item(wording: ItemWording) -> CoreItem:
    """An item as the core knows it."""
    return CoreItem(
        wording.name, wording.kind, wording.unit, tuple(wording.choices), wording.low, wording.high, tuple(f for f in FACTORS if f in wording.per),  # type: ignore[arg-type]
        wording.concept, wording.instructions, wording.examples,
    )  # fmt: skip


def _core(book: Book) -> core.Codebook:
    return core.Codebook(
        tuple(core_item(item)._replace(per=tuple(item.per)) for item in book.items),  # type: ignore[arg-type]
        tuple(CoreConcept(concept.name, concept.within) for concept in book.concepts),
        tuple(Level(level.factor, level.name, tuple(level.words)) for level in book.levels),  # type: ignore[arg-type]
    )


def _typed(book: core.Codebook, like: Book | None = None) -> Book:
    """A codebook of the core as typed, with the ids of one that has the same parts in the same order."""

    def numbers(some: Sequence[Worded], n: int) -> list[int | None]:
        return [wording.id for wording in some] if some else [None] * n

    like = like or Book()
    return Book(
        [
            ItemWording(number, one.name, one.kind, one.unit, list(one.choices), one.instructions, one.low, one.high, list(one.per), one.concept, one.examples)
            for number, one in zip(numbers(like.items, len(book.items)), book.items, strict=True)
        ],
        [ConceptWording(number, *one) for number, one in zip(numbers(like.concepts, len(book.concepts)), book.concepts, strict=True)],
        [LevelWording(number, one.factor, one.name, list(one.words)) for number, one in zip(numbers(like.levels, len(book.levels)), book.levels, strict=True)],
    )  # fmt: skip


def tidied(book: Book) -> Book:
    """A codebook as it is kept. Raises Invalid where it makes no sense."""
    if any(level.factor not in FACTORS for level in book.levels):
        raise Invalid("A level is an arm, an outcome or a time point.", field="factor")
    try:
        return _typed(core.tidied(_core(book)), book)
    except NotACodebook as error:
        raise Invalid(str(error), field=error.field) from error


def _with_theirs(change: Change, said: Book, seen: Book, now: Book) -> Book:
    """The codebook as said, with what others made of it since it was ``seen``. Raises Conflict for what both changed."""
    items, both = _joined(said.items, seen.items, now.items)
    concepts, more = _joined(said.concepts, seen.concepts, now.concepts)
    levels, most = _joined(said.levels, seen.levels, now.levels)
    mine = Book(items, concepts, levels)
    if both + more + most:
        raise conflict(change.db, change.review, "chart.codebook_changed", "the codebook", both + more + most, as_data(now), as_data(mine))
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


def _shown(wording: NamedTuple | None) -> str:
    if wording is None:
        return "removed"
    return "; ".join(
        ", ".join(map(str, each)) if isinstance(each, list) else f"{each}" for each in wording[1:] if each not in (None, "", [])
    )


def preview(review: int, book: Book) -> Preview:
    """What a codebook would change, and what that does to the values that stand."""
    book = tidied(book)
    with snapshot() as db:
        return _preview(db, review, book)


def _preview(db: Session, review: int, book: Book) -> Preview:
    now = book_in(db, review)
    before, after = ({one.id: core_item(one) for one in some.items if one.id} for some in (now, book))
    said = core.changes(before, after) + [f"{item.name} was added" for item in book.items if not item.id]
    return Preview(
        [*said, *_other_changes(now, book)], [consequence for consequence in _consequences(db, review, now, book) if consequence.touches]
    )


def _other_changes(was: Book, now: Book) -> list[str]:
    out = []
    for before, after in ((was.levels, now.levels), (was.concepts, now.concepts)):
        old, new = ({(one.id, one.name): one for one in some} for some in (before, after))
        out += [f"{one.name} was added" for at, one in new.items() if at not in old]
        out += [f"{one.name} was removed" for at, one in old.items() if at not in new]
        out += [f"{one.name} has other words" for at, one in new.items() if at in old and old[at] != one]
    return out


def _consequences(db: Session, review: int, now: Book, book: Book) -> list[Consequence]:
    standing = [value for value in values.values(db, review, read=True) if value["text"]]
    labels = labels_of(db, review)
    after: dict[int | None, ItemWording] = {one.id: one for one in book.items if one.id}
    out = []
    for was in now.items:
        mine = [row for row in standing if row["item_id"] == was.id]
        new = after.get(was.id)
        if not mine or (new and core_item(was)._replace(**_WORDS) == core_item(new)._replace(**_WORDS)):
            continue
        if new is None:
            out.append(Consequence(was.name, 0, 0, len(mine), []))
            continue
        became = [(row, *core.why_unfit(core_item(new), row["text"], factors_of(row))) for row in mine]
        unfit = [
            Unfit(row["study_id"], labels.get(row["study_id"], ""), "what an extractor read" if row["reader_id"] else text, why)
            for row, text, why in became
            if why
        ]
        unfit.sort(key=lambda one: one.label.casefold())
        reworded = sum(not why and text != row["text"] for row, text, why in became)
        out.append(Consequence(new.name, len(mine) - len(unfit) - reworded, reworded, 0, unfit))
    here = {one.id for one in book.levels}
    for gone in (one for one in now.levels if one.id not in here):
        hidden = sum(gone.id in (row["arm_id"], row["outcome_id"], row["time_id"]) for row in standing)
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
    with changing(review, account, "chart") as change:
        now = book_in(change.db, review)
        if seen is not None:
            book = tidied(_with_theirs(change, book, tidied(seen), now))
        told = _preview(change.db, review, book)
        if told.consequences and not agreed:
            raise Conflict("This change touches values that are charted. Look at what becomes of them, and save again.", look=True)
        if book == now:
            return
        _write(change, book)
        change.db.flush()
        _carry_over(change, now)
        stands = book_in(change.db, review)
        change.db.add(
            CodebookVersion(
                review_id=review, number=store.latest_version(change.db, review) + 1, content=as_data(stands), account_id=account
            )
        )
        change.event(
            "chart.codebook_changed", "; ".join(told.changes)[:500], [one.name for one in now.items], [one.name for one in book.items]
        )


def _write(change: Change, book: Book) -> None:
    concepts = {one.id: one for one in store.concepts(change.db, change.review)}
    by_name: dict[str, Concept] = {}
    for position, said in enumerate(book.concepts):
        concept = _present(concepts, said.id) or Concept(review_id=change.review, position=position, name="")
        concept.position, concept.name, concept.within_id = position, said.name, None
        change.db.add(concept)
        by_name[said.name] = concept
    change.db.flush()
    for said in book.concepts:
        by_name[said.name].within_id = by_name[said.within].id if said.within else None
    items = {one.id: one for one in store.items(change.db, change.review)}
    for position, wanted in enumerate(book.items):
        item = _present(items, wanted.id) or Item(review_id=change.review, position=position, name="", kind=wanted.kind)
        item.position, item.concept_id = position, by_name[wanted.concept].id if wanted.concept else None
        for name in ("name", "kind", "unit", "choices", "instructions", "low", "high", "per", "examples"):
            setattr(item, name, getattr(wanted, name))
        change.db.add(item)
    levels = {one.id: one for one in store.levels(change.db, change.review) if one.study_id is None}
    for position, level in enumerate(book.levels):
        held = _present(levels, level.id) or store.Level(review_id=change.review, factor=level.factor, name="")
        if level.id and held.factor != level.factor:
            raise Invalid(f"“{level.name}” stays {held.factor}; add another one instead.", field="factor")
        held.position, held.name, held.words = position, level.name, level.words
        change.db.add(held)
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


def _carry_over(change: Change, was: Book) -> None:
    """Values of changed items get their form under the changed item, or are marked as unfit."""
    before = {one.id: core_item(one) for one in was.items}
    changed = {
        one.id: core_item(one) for one in book_in(change.db, change.review).items if one.id in before and core_item(one) != before[one.id]
    }
    for value in values.values(change.db, change.review, read=True):
        if value["item_id"] not in changed or not value["text"]:
            continue
        text, why = core.why_unfit(changed[value["item_id"]], value["text"], factors_of(value))
        if (text, why) != (value["text"], value["unfit"]):
            values.append_value(change.db, change.review, change.account, {**value, "text": text, "unfit": why, "how": "carried"})


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
    books = [_from_data(row["content"]) for row in found] + [Book()]
    out = []
    for each, book, before in zip(found, books, books[1:], strict=False):
        then, now = ({one.id: core_item(one) for one in some.items} for some in (before, book))
        out.append(Version(each["number"], each["at"], each["by"], [*core.changes(then, now), *_other_changes(before, book)]))
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
