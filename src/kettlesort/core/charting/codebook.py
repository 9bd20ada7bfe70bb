"""The codebook: data items under concepts, and the arms, outcomes and time points that they are asked for; as a file, and what changed in it."""

from __future__ import annotations

import tomllib
from collections.abc import Hashable, Iterable, Iterator, Mapping, Sequence
from math import isfinite
from typing import Any, NamedTuple, TypeVar

from kettlesort.core.charting.items import BY_ARM, FACTORS, IN_WORDS, KINDS, PLURAL, Concept, Factor, Item, Level
from kettlesort.core.charting.values import NotAValue, understood

K = TypeVar("K", bound=Hashable)
_LONGEST = {"name": 120, "concept": 120, "unit": 40, "instructions": 4000, "examples": 4000}
MOST_ITEMS, MOST_LEVELS, MOST_CONCEPTS = 1000, 200, 500


class Codebook(NamedTuple):
    """All that a codebook holds, in its order."""

    items: tuple[Item, ...] = ()
    concepts: tuple[Concept, ...] = ()
    levels: tuple[Level, ...] = ()


class NotACodebook(ValueError):
    """A codebook that makes no sense; the message says where and why, ``field`` what it is about."""

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.field = field


def tidied(book: Codebook) -> Codebook:
    """The codebook as it is kept: trimmed, without what an item's kind does not use. Raises NotACodebook where it makes no sense."""
    concepts = tuple(Concept(_name(concept.name), _name(concept.within)) for concept in book.concepts)
    levels = tuple(
        Level(level.factor, _name(level.name), tuple(dict.fromkeys(_name(word) for word in level.words if word.strip())))
        for level in book.levels
    )
    known = {concept.name for concept in concepts}
    items = tuple(_tidied(item, known) for item in book.items)
    _each_once("data items", [item.name for item in items], MOST_ITEMS)
    _each_once("concepts", [concept.name for concept in concepts], MOST_CONCEPTS)
    for factor in FACTORS:
        _each_once(PLURAL[factor], [level.name for level in levels if level.factor == factor], MOST_LEVELS)
    if not all([*(concept.name for concept in concepts), *(level.name for level in levels)]):
        raise NotACodebook("Every concept, arm, outcome and time point needs a name.", "name")
    _no_circles(concepts)
    return Codebook(items, concepts, levels)


def _each_once(what: str, names: Sequence[str], most: int) -> None:
    if len(names) > most:
        raise NotACodebook(f"{len(names)} {what} are more than {most}.", "name")
    seen: set[str] = set()
    for name in names:
        if name.casefold() in seen:
            raise NotACodebook(f"Two {what} have the same name, “{name}”.", "name")
        seen.add(name.casefold())


def _name(text: str) -> str:
    return " ".join(text.split())[: _LONGEST["name"]]


def _tidied(said: Item, concepts: set[str]) -> Item:
    name = _name(said.name)
    if not name:
        raise NotACodebook("Every data item needs a name.", "name")
    if said.kind not in KINDS:
        raise NotACodebook(f"A data item is one of {', '.join(KINDS)}.", "kind")
    choices = (
        tuple(dict.fromkeys(choice.strip() for choice in said.choices if choice.strip())) if said.kind in ("choice", "choices") else ()
    )
    if said.kind in ("choice", "choices") and len({choice.casefold() for choice in choices}) < max(2, len(choices)):
        raise NotACodebook(f"“{name}” needs at least two choices, each once.", "choices")
    if said.kind == "choices" and any(";" in choice for choice in choices):
        raise NotACodebook(f"“{name}”: a choice of several cannot hold a semicolon.", "choices")
    low, high = (said.low, said.high) if said.kind in ("number", "quantity") else (None, None)
    if any(end is not None and not isfinite(end) for end in (low, high)) or (low is not None and high is not None and low > high):
        raise NotACodebook(f"“{name}”: the allowed range begins at its lower end.", "low")
    concept = _name(said.concept)
    if concept and concept not in concepts:
        raise NotACodebook(f"“{name}” belongs to the concept “{concept}”, which is not there.", "concept")
    if any(factor not in FACTORS for factor in said.per):
        raise NotACodebook(f"“{name}” is asked for each {', '.join(FACTORS)}, or once.", "per")
    return Item(
        name, said.kind, " ".join(said.unit.split())[: _LONGEST["unit"]] if said.kind == "quantity" else "", choices, low, high,
        tuple(factor for factor in FACTORS if factor in said.per), concept,
        said.instructions.strip()[: _LONGEST["instructions"]], said.examples.strip()[: _LONGEST["examples"]],
    )  # fmt: skip


def _no_circles(concepts: Sequence[Concept]) -> None:
    within = {concept.name: concept.within for concept in concepts}
    for name in within:
        above, at = {name}, within[name]
        while at:
            if at not in within:
                raise NotACodebook(f"“{name}” is a kind of “{at}”, which is not there.", "within")
            if at in above:
                raise NotACodebook(f"“{name}” cannot be a kind of itself.", "within")
            above.add(at)
            at = within[at]


def studies_under(concepts: Sequence[Concept], items: Mapping[K, Item], charted: Iterable[tuple[int, K]]) -> dict[str, set[int]]:
    """The studies for which something under each concept is charted: for an item of its own, or of a narrower concept.

    ``charted`` are studies with items for which they state a value.
    """
    within = {concept.name: concept.within for concept in concepts}
    out: dict[str, set[int]] = {concept.name: set() for concept in concepts}
    for study, item in charted:
        at = items[item].concept if item in items else ""
        while at in within:
            out[at].add(study)
            at = within[at]
    return out


def why_unfit(item: Item, text: str, levels: Sequence[Factor]) -> tuple[str, str]:
    """What becomes of a value when its item is now ``item``: its form then, and why it does not fit, if it does not.

    ``levels`` are the factors of which the value names a level.
    """
    missing = [factor for factor in item.per if factor not in levels]
    beyond = [factor for factor in levels if factor not in item.per]
    if text and missing:
        return text, f"it is asked for each {missing[0]} now, and this value names none"
    if text and beyond:
        return text, f"it is no longer asked for each {beyond[0]}"
    try:
        return understood(item, text), ""
    except NotAValue as error:
        return text, str(error)


def changes(before: Mapping[K, Item], after: Mapping[K, Item]) -> list[str]:
    """What changed from one version to another, item by item, as sentences."""
    said = [f"{item.name} was added" for key, item in after.items() if key not in before]
    said += [f"{item.name} was removed" for key, item in before.items() if key not in after]
    for key, now in after.items():
        if key in before and before[key] != now:
            said += [f"{before[key].name}: {part}" for part in _differences(before[key], now)]
    return said


def _differences(was: Item, now: Item) -> Iterator[str]:
    if was.name != now.name:
        yield f"is called {now.name}"
    if was.kind != now.kind:
        yield f"is {IN_WORDS[now.kind]}, was {IN_WORDS[was.kind]}"
    if was.unit != now.unit:
        yield f"in {now.unit or 'no unit'}, was in {was.unit or 'no unit'}"
    for gone in (choice for choice in was.choices if choice not in now.choices):
        yield f"no longer offers {gone}"
    for new in (choice for choice in now.choices if choice not in was.choices):
        yield f"offers {new}"
    if (was.low, was.high) != (now.low, now.high):
        yield f"allows {_range(now)}, was {_range(was)}"
    if was.per != now.per:
        yield f"is asked {_per(now)}, was {_per(was)}"
    if was.concept != now.concept:
        yield f"belongs to {now.concept or 'no concept'}"
    if (was.instructions, was.examples) != (now.instructions, now.examples):
        yield "has other instructions"


def _range(item: Item) -> str:
    if item.low is not None and item.high is not None:
        return f"{item.low:g} to {item.high:g}"
    return (
        "any number"
        if item.low is None and item.high is None
        else f"at most {item.high:g}"
        if item.low is None
        else f"at least {item.low:g}"
    )


def _per(item: Item) -> str:
    return "for each " + " and ".join(item.per) if item.per else "once"


def write_toml(book: Codebook) -> str:
    """The codebook as TOML."""
    import tomli_w

    said: dict[str, list[dict[str, Any]]] = {
        "concept": [_full(concept._asdict()) for concept in book.concepts],
        **{factor: [_full({**level._asdict(), "factor": ""}) for level in book.levels if level.factor == factor] for factor in FACTORS},
        "item": [_full(item._asdict()) for item in book.items],
    }
    return tomli_w.dumps({name: some for name, some in said.items() if some}, multiline_strings=True)


def _full(fields: dict[str, Any]) -> dict[str, Any]:
    by_arm = fields.get("kind") in BY_ARM  # read without "per", such an item is asked for each arm
    kept = {name: value for name, value in fields.items() if value not in ("", None, ()) or (by_arm and name == "per")}
    return {name: list(value) if isinstance(value, tuple) else value for name, value in kept.items()}


def read_toml(text: str) -> Codebook:
    """A codebook from TOML. Raises NotACodebook, with the line where the file itself says no."""
    try:
        found = tomllib.loads(text)
    except (tomllib.TOMLDecodeError, RecursionError) as error:
        raise NotACodebook(f"This is no TOML that can be read: {error}") from error
    unknown = next((name for name in found if name not in ("concept", "item", *FACTORS)), None)
    if unknown is not None:
        raise NotACodebook(f"“{unknown}” is unknown here; a codebook holds [[item]], [[concept]], [[arm]], [[outcome]] and [[time]].")
    concepts = [Concept(**_fields(table, Concept, f"concept {k}")) for k, table in _tables(found, "concept")]
    levels = [Level(factor, **_fields(table, Level, f"{factor} {k}")) for factor in FACTORS for k, table in _tables(found, factor)]
    items = [Item(**_fields(table, Item, f"item {k}")) for k, table in _tables(found, "item")]
    if not items:
        raise NotACodebook("This file holds no data item; each begins with [[item]].")
    return tidied(Codebook(tuple(items), tuple(concepts), tuple(levels)))


def _tables(found: dict[str, Any], name: str) -> Iterator[tuple[int, dict[str, Any]]]:
    some = found.get(name, [])
    if not isinstance(some, list) or not all(isinstance(one, dict) for one in some):
        raise NotACodebook(f"“{name}” is written as [[{name}]].")
    yield from enumerate(some, 1)


_SHAPES: dict[str, type | tuple[type, ...]] = {"choices": list, "per": list, "words": list, "low": (int, float), "high": (int, float)}


def _fields(row: dict[str, Any], of: type[Concept] | type[Level] | type[Item], where: str) -> dict[str, Any]:
    known = [name for name in of._fields if name != "factor"]
    for name, value in row.items():
        if name not in known:
            raise NotACodebook(f"{where}: “{name}” is unknown; it has {', '.join(known)}.")
        shape = _SHAPES.get(name, str)
        if (
            not isinstance(value, shape)
            or isinstance(value, bool)
            or (isinstance(value, list) and not all(isinstance(part, str) for part in value))
        ):
            raise NotACodebook(f"{where}: {name} is {'a list of texts' if shape is list else 'a text' if shape is str else 'a number'}.")
    missing = next((name for name in known if name not in of._field_defaults and name not in row), None)
    if missing is not None:
        raise NotACodebook(f"{where}: {missing} is missing.")
    if of is Item and row["kind"] not in KINDS:
        raise NotACodebook(f"{where}: the kind is one of {', '.join(KINDS)}.")
    if of is Item and "per" not in row and row["kind"] in BY_ARM:
        row = {**row, "per": ["arm"]}
    return {name: tuple(value) if isinstance(value, list) else value for name, value in row.items()}
