"""The manner in which a column, or a file, writes names, worked out from all of its values together.

Nothing says which of many manners a source follows, and one value rarely tells: "Ames W., Brask C." is two people, or one
with odd initials. So every manner is tried on all values, and the one that makes people of the most is taken; a single
person then follows the manner of the others.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Sequence
from functools import cache, lru_cache
from importlib import import_module
from itertools import compress
from pkgutil import iter_modules
from typing import NamedTuple

from kettlesort.core.names.one import GROUP, NO_CASE, PARTICLES, WORD, name_of, order_told, shorts, tokens_of
from kettlesort.core.names.several import JOINED, MANNERS, SIGNS, cleaned, pieces_of, worth_of

MOST = 240
"""Values that are looked at, at most."""
_CONTESTED = 0.03


class Manner(NamedTuple):
    """How names are written: what parts people (one of `MANNERS`), whether given names come first where nothing else tells,
    whether it is family names that stand in capitals, whether initials at the end are those of middle names
    ("Orsel Wilma K."), and whether persons have a comma after the family name, so that a longer name without is a group's.
    """

    parted: str = "one"
    given_first: bool = True
    capitals: bool = False
    middle: bool = False
    inverted: bool = False

    def key(self) -> str:
        """The manner as one word, which `manner_named` reads."""
        return " ".join([self.parted, *(name for name in self._fields[1:] if getattr(self, name))])


def manner_named(key: str) -> Manner | None:
    """The manner of a key, ``None`` for what is none."""
    parted, *flags = key.split(" ")
    if parted not in MANNERS or not set(flags) <= set(Manner._fields[1:]):
        return None
    return Manner(parted, *(name in flags for name in Manner._fields[1:]))


class Judgement(NamedTuple):
    """The manner that values follow, and another that is as likely, if there is one."""

    manner: Manner
    rival: Manner | None = None


def manner_of(values: Iterable[str], single: bool = False) -> Judgement:
    """How the values of a column write names, from all of them; of very many, from `MOST` that differ, spread evenly.

    ``single``: the values are lines of a file that gives a line to each person, as a rule.
    """
    given = list(dict.fromkeys(value for value in values if value and value.strip()))
    seen = dict.fromkeys(cleaned(value.strip()) for value in given[:: max(1, len(given) // (2 * MOST))])
    held = [value for value in seen if value]
    held = held[:: max(1, len(held) // MOST)][:MOST]
    if not held:
        return Judgement(Manner())
    if single:
        alone = [worth_of(value, "one") >= 0.5 for value in held]
        singles, heaps = list(compress(held, alone)), [value for value, one in zip(held, alone, strict=True) if not one]
        parted = manner_of(heaps).manner.parted if heaps else "one"
        judged = _turned(singles or held, "one" if singles else parted)
        return Judgement(judged.manner._replace(parted=parted), judged.rival and judged.rival._replace(parted=parted))
    least = 0.02 * len(held)
    tried = ["one", *(parted for parted, sign in SIGNS.items() if sum(bool(sign.search(value)) for value in held) > least)]
    if any("," in value for value in held):
        tried += ["comma", "pairs", "first"]
    if sum(bool(re.search(r"[,;|&\n]|\s{2}|\band\b", value)) for value in held) < 0.1 * len(held):
        tried.append("initials")
    worth = {parted: sum(worth_of(value, parted) for value in held) / len(held) for parted in tried}
    order = sorted(tried, key=lambda parted: (-round(worth[parted], 6), MANNERS.index(parted)))
    best = order[0]
    judged = _turned(held, best)
    for other in order[1:]:
        if worth[other] < worth[best] - _CONTESTED or worth[best] < 0.3:
            break
        rival = judged.manner._replace(parted=other)
        if sum(names_in(value, judged.manner) != names_in(value, rival) for value in held) > 0.2 * len(held):
            return Judgement(judged.manner, rival)
    return judged


def _turned(values: Sequence[str], parted: str) -> Judgement:
    """The manner of values that are parted so, as to the order of names; the other order as its rival where nothing tells."""
    given_first, sure = _order_of(values, parted)
    capitals = _in_capitals(values, parted)
    names = [piece for value in values for piece in pieces_of(value, parted)]
    inverted = len(names) > 4 and sum("," in name for name in names) > 0.8 * len(names)
    manner = Manner(parted, given_first, capitals, _with_middle_names(values, parted), inverted)
    return Judgement(manner, None if sure or capitals or inverted else manner._replace(given_first=not given_first))


def _in_capitals(values: Sequence[str], parted: str) -> bool:
    """Whether family names, and they alone, stand in capitals."""
    names = [tokens for value in values for piece in pieces_of(value, parted) if len(tokens := piece.split()) > 1 and "," not in piece]
    mixed = sum(
        any(token.isupper() and len(token) > 3 and "." not in token for token in tokens)
        and any(not token.isupper() and len(token) > 2 for token in tokens)
        for tokens in names
    )
    return mixed > 0.5 * len(names)


def _with_middle_names(values: Sequence[str], parted: str) -> bool:
    """Whether initials at the end are those of middle names: no name has one word before them, and the second word is a given name."""
    before = [
        tokens[: short.index(True)]
        for value in values
        for piece in pieces_of(value, parted)
        if "," not in piece and len(tokens := tokens_of(piece)) > 1 and (short := shorts(tokens))[-1] and not short[0]
    ]
    words = [[word for word in said if word.casefold() not in PARTICLES] for said in before]
    if not words or any(len(said) < 2 for said in words):
        return False
    return sum(said[-1].casefold() in _given_names() for said in words) > 0.3 * len(words)


def _order_of(values: Sequence[str], parted: str) -> tuple[bool, bool]:
    """Whether given names come first in names of full words, by what all others say; and whether anything says so (or need not)."""
    told = open_ = 0
    first: Counter[str] = Counter()
    last: Counter[str] = Counter()
    for value in values:
        for piece in pieces_of(value, parted):
            tokens = tokens_of(piece)
            if "," in piece or len(tokens) < 2 or GROUP.search(piece) or NO_CASE.search(piece):
                continue
            short = shorts(tokens)
            if not any(short):
                said = order_told(tokens)
                told += 2 * said
                open_ += not said
                if not said:
                    first[tokens[0].casefold()] += 1
                    last[tokens[-1].casefold()] += 1
            elif short[0] != short[-1]:
                told += 1 if short[0] else -1
            elif not short[0]:
                told += 1
    if not open_:
        return told >= 0, True
    if abs(told) >= max(2, 0.1 * open_):
        return told > 0, True
    known = _given_names()
    given = sum(n for word, n in first.items() if word in known), sum(n for word, n in last.items() if word in known)
    sure = max(given) >= 2 and max(given) > 1.5 * min(given) + 1
    return given[0] >= given[1], sure or open_ < 3


@cache
def _given_names() -> frozenset[str]:
    """Given names of many languages that are not family names too."""
    import faker.providers.person as held

    given: set[str] = set()
    family: set[str] = set()
    for found in iter_modules(held.__path__):
        provider = import_module(f"{held.__name__}.{found.name}").Provider
        for name in ("first_names", "first_names_male", "first_names_female", "first_romanized_names"):
            given.update(_said(provider, name))
        for name in ("last_names", "last_names_male", "last_names_female", "last_romanized_names"):
            family.update(_said(provider, name))
    return frozenset(given - family)


def _said(provider: type, name: str) -> list[str]:
    held = getattr(provider, name, ())
    return [str(one).casefold() for one in held] if isinstance(held, (tuple, list, dict)) else []


@lru_cache(maxsize=1 << 16)
def names_in(text: str, manner: Manner, single: bool = False) -> tuple[str, ...]:
    """The people in a value as "Family, Given", by the manner of the column; by another where that makes none of this value.

    ``single``: a value is one person's if it can be.
    """
    text = cleaned(text.strip())
    parted = "one" if single and worth_of(text, "one") >= 0.5 else manner.parted
    if (worth := worth_of(text, parted)) < 0.5:
        better = max(("one", ";", "comma", "pairs", "and", "|", "line"), key=lambda other: worth_of(text, other))
        if worth_of(text, better) >= max(0.7, worth + 0.2):
            parted = better
    pieces = (part for piece in pieces_of(text, parted) for part in _apart(piece))
    found = (name_of(piece, *manner[1:]).shown() for piece in pieces)
    return tuple(name for name in found if name)


def _apart(piece: str) -> tuple[str, ...]:
    """A piece that is still several people, as where two signs part them."""
    if "," in piece and name_of(piece).quality < 0.35:
        for parted in ("comma", "pairs"):
            if worth_of(piece, parted) > 0.9:
                return pieces_of(piece, parted)
    return (piece,)


def is_one_name(text: str) -> bool:
    """Whether a text is read as one name, and as it stands, whatever the manner of others."""
    if cleaned(text) != text or (JOINED.search(text) and not GROUP.search(text)):
        return False
    if " " not in text and "," not in text:
        return bool(WORD.match(text))
    found = name_of(text)
    return found.quality >= 0.5 and found.shown() == text
