"""What is asked of a report: data items, and the arms that some are asked for."""

from __future__ import annotations

from typing import Any, NamedTuple

from kettlesort.core.charting.items import KINDS, Kind

_MOST = 500


class Arm(NamedTuple):
    """A group of a study: its name, and other words for it."""

    id: str
    name: str
    words: tuple[str, ...] = ()

    @property
    def phrases(self) -> tuple[str, ...]:
        """All that it is called."""
        return (self.name, *self.words)


class Asked(NamedTuple):
    """A data item as a codebook words it."""

    id: str
    name: str
    kind: Kind
    instructions: str = ""
    unit: str = ""
    options: tuple[str, ...] = ()
    arms: tuple[Arm, ...] = ()


class NotAnItem(ValueError):
    """What was given is no list of data items; the message says where and why."""


def items_of(given: Any) -> list[Asked]:
    """Data items from JSON. Raises NotAnItem."""
    if isinstance(given, dict) and isinstance(given.get("items"), list):
        given = given["items"]
    if not isinstance(given, list) or not given:
        raise NotAnItem("a list of data items is expected, each with id, name and kind")
    if len(given) > _MOST:
        raise NotAnItem(f"{len(given)} data items are more than {_MOST}")
    found = [_item(one, f"item {k}") for k, one in enumerate(given, 1)]
    seen: set[str] = set()
    for k, item in enumerate(found, 1):
        if item.id in seen:
            raise NotAnItem(f"item {k}: the id “{item.id}” is there twice")
        seen.add(item.id)
    return found


def _item(said: Any, where: str) -> Asked:
    if not isinstance(said, dict):
        raise NotAnItem(f"{where}: an object with id, name and kind is expected")
    name = _text(said, "name", where)
    if not name:
        raise NotAnItem(f"{where}: it has no name")
    kind = said.get("kind")
    if kind not in KINDS:
        raise NotAnItem(f"{where}: the kind is one of {', '.join(KINDS)}")
    options = tuple(_texts(said.get("options"), f"{where}: options"))
    if kind in ("choice", "choices") and not options:
        raise NotAnItem(f"{where}: a {'choice' if kind == 'choice' else 'list of choices'} needs options")
    arms = said.get("arms") or []
    if not isinstance(arms, list):
        raise NotAnItem(f"{where}: arms are a list")
    return Asked(
        _id(said, where) or name, name, kind, _text(said, "instructions", where), _text(said, "unit", where), options,
        tuple(_arm(arm, f"{where}, arm {k}") for k, arm in enumerate(arms, 1)),
    )  # fmt: skip


def _arm(said: Any, where: str) -> Arm:
    if isinstance(said, str) and said.strip():
        return Arm(said.strip(), said.strip())
    if not isinstance(said, dict):
        raise NotAnItem(f"{where}: an object with id and name is expected")
    name = _text(said, "name", where) or _id(said, where)
    if not name:
        raise NotAnItem(f"{where}: it has no name")
    words = said.get("words")
    return Arm(_id(said, where) or name, name, tuple(_texts([words] if isinstance(words, str) else words, f"{where}: words")))


def _id(row: dict[str, Any], where: str) -> str:
    value = row.get("id", "")
    if isinstance(value, bool) or not isinstance(value, str | int):
        raise NotAnItem(f"{where}: an id is a text")
    return str(value).strip()


def _text(row: dict[str, Any], name: str, where: str) -> str:
    value = row.get(name) or ""
    if not isinstance(value, str):
        raise NotAnItem(f"{where}: {name} is a text")
    return value.strip()


def _texts(value: Any, where: str) -> list[str]:
    if value is None:
        return []
    if not isinstance(value, list) or not all(isinstance(one, str) for one in value):
        raise NotAnItem(f"{where} are a list of texts")
    return [one.strip() for one in value if one.strip()]
