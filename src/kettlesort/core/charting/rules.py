"""A team's own rules for a judgement: conditions over answers, of which some may not be given yet."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

Truth = bool | None
"""Whether a condition holds; None while that depends on answers that are not given yet."""
Holds = Callable[[Mapping[str, str]], Truth]
_WORD = re.compile(r"\s*(?:([(),])|(\"[^\"]*\")|([^\s(),\"]+))")


class NotARule(ValueError):
    """A condition that cannot be read; the message says what was expected, and where."""


class Rule(NamedTuple):
    """Where ``when`` holds, the judgement is this. The first rule that holds counts."""

    when: str
    judgement: str


class Proposed(NamedTuple):
    """A judgement and the condition that led to it, "" where none of them did; or no judgement ("") while it waits for answers to ``missing``."""

    judgement: str
    because: str
    missing: tuple[str, ...] = ()


def condition(text: str, names: Sequence[str], values: Sequence[str]) -> Holds:
    """A condition as a function of what is said of each of ``names``.

    ``all yes`` · ``any no, partly`` · ``none no`` · ``lots is yes`` · ``lots is not yes, partly`` · ``… and …`` · ``… or …`` · ``not …`` · ``( … )``.
    Names and values are told from each other by where they stand; case does not matter; a value of several words may be quoted. Raises NotARule.

    >>> holds = condition("any no and lots is yes", ["lots", "hidden"], ["yes", "no"])
    >>> holds({"lots": "yes", "hidden": "no"}), holds({"lots": "no"}), holds({"lots": "yes"})
    (True, False, None)
    """
    return _Reader(text, names, values).whole()


def proposed(rules: Sequence[Rule], otherwise: str, names: Sequence[str], values: Sequence[str], given: Mapping[str, str]) -> Proposed:
    """The judgement that a team's rules lead to, from the answers that are ``given``. Nothing is proposed while it depends on one that is not."""
    missing = tuple(name for name in names if not given.get(name))
    for rule in rules:
        holds = condition(rule.when, names, values)(given)
        if holds:
            return Proposed(rule.judgement, rule.when)
        if holds is None:
            return Proposed("", "", missing)
    return Proposed(otherwise, "") if otherwise and not missing else Proposed("", "", missing)


class _Reader:
    """Reads a condition from left to right: or, and, not, and what can be said of answers."""

    def __init__(self, text: str, names: Sequence[str], values: Sequence[str]) -> None:
        self._text = text
        self._words = [next(part for part in found if part) for found in _WORD.findall(text)]
        self._at = 0
        self._names = {name.casefold(): name for name in names}
        self._all = list(names)
        self._values = sorted(((value.casefold().split(), value) for value in values), key=lambda pair: -len(pair[0]))

    def whole(self) -> Holds:
        if not self._words:
            raise NotARule("a condition is missing")
        out = self._or()
        if self._at < len(self._words):
            raise NotARule(f"“{self._words[self._at]}” is not expected in “{self._text}”")
        return out

    def _peek(self) -> str:
        return self._words[self._at].casefold() if self._at < len(self._words) else ""

    def _next(self) -> str:
        word = self._peek()
        self._at += 1
        return word

    def _or(self) -> Holds:
        some = [self._and()]
        while self._peek() == "or":
            self._next()
            some.append(self._and())
        return some[0] if len(some) == 1 else lambda given: _any([one(given) for one in some])

    def _and(self) -> Holds:
        some = [self._not()]
        while self._peek() == "and":
            self._next()
            some.append(self._not())
        return some[0] if len(some) == 1 else lambda given: _all([one(given) for one in some])

    def _not(self) -> Holds:
        if self._peek() == "not":
            self._next()
            inner = self._not()
            return lambda given: _no(inner(given))
        if self._peek() == "(":
            self._next()
            inner = self._or()
            if self._next() != ")":
                raise NotARule(f"a bracket is not closed in “{self._text}”")
            return inner
        return self._said()

    def _said(self) -> Holds:
        word = self._next()
        if word in ("all", "any", "none"):
            wanted, names = self._some_values(), self._all
            each: Callable[[Mapping[str, str]], list[Truth]] = lambda given: [_is(given, name, wanted) for name in names]  # noqa: E731
            if word == "all":
                return lambda given: _all(each(given))
            return (lambda given: _any(each(given))) if word == "any" else (lambda given: _no(_any(each(given))))
        name = self._names.get(word.strip('"'))
        if name is None:
            known = ", ".join(self._all)
            raise NotARule(f"“{word or 'the end'}” in “{self._text}” is neither all, any, none nor one of: {known}")
        if self._next() != "is":
            raise NotARule(f"after “{name}” comes “is” in “{self._text}”")
        turned = self._peek() == "not" and not self._ahead()[0]  # "is not stated" may be said of an answer, too
        if turned:
            self._next()
        wanted = self._some_values()
        return (lambda given: _no(_is(given, name, wanted))) if turned else (lambda given: _is(given, name, wanted))

    def _some_values(self) -> frozenset[str]:
        out = {self._value()}
        while self._peek() == ",":
            self._next()
            out.add(self._value())
        return frozenset(out)

    def _value(self) -> str:
        if self._peek().startswith('"'):
            wanted = self._next().strip('"').split()
            found = next((value for words, value in self._values if words == wanted), None)
        else:
            words, found = self._ahead()
            self._at += len(words)
        if found is None:
            known = ", ".join(value for _, value in self._values)
            raise NotARule(
                f"in “{self._text}” one of these was expected{f' before “{self._peek()}”' if self._peek() else ' at the end'}: {known}"
            )
        return found

    def _ahead(self) -> tuple[list[str], str | None]:
        """The value that stands next, the longest that does."""
        ahead = [word.casefold() for word in self._words[self._at :]]
        return next(((words, value) for words, value in self._values if ahead[: len(words)] == words), ([], None))


def _is(given: Mapping[str, str], name: str, wanted: frozenset[str]) -> Truth:
    said = given.get(name)
    return said in wanted if said else None


def _no(truth: Truth) -> Truth:
    return None if truth is None else not truth


def _all(some: Sequence[Truth]) -> Truth:
    return False if False in some else None if None in some else True


def _any(some: Sequence[Truth]) -> Truth:
    return True if True in some else None if None in some else False
