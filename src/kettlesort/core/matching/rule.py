"""A team's own rule of what is joined: passes of conditions, what is done with look-alikes, and from where the weights decide."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from functools import partial
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError, field_validator, model_validator

from kettlesort.core.matching.columns import Array, Columns
from kettlesort.core.matching.compare import Compared
from kettlesort.core.matching.lookalikes import ALIKE
from kettlesort.core.record import KINDS
from kettlesort.core.toml import quoted

LONGEST = 40_000
FIELDS = (
    "title",
    "authors",
    "first_author",
    "year",
    "journal",
    "volume",
    "issue",
    "pages",
    "doi",
    "accession",
    "abstract",
    "kind",
    "language",
)
FINDING = frozenset(("title", "authors", "doi", "accession", "abstract", "pages"))
"""A pass needs one of these: pairs that agree in none of them are never compared."""
CLOSELY = ("title", "authors", "first_author", "journal", "doi", "abstract")

How = Literal["exactly", "closely"] | Annotated[int, Field(ge=0, le=50)]
Then = Literal["apart", "ask", "weigh"]
Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]


class NotARule(ValueError):
    """Text that is no rule; the message says where and what was expected."""


class Pass(BaseModel):
    """Conditions on a pair, all of which must hold, and what is done then.

    Fields in ``agree`` must be there on both sides and agree; those in ``not_differ`` may be missing. A field agrees
    ``exactly``, ``closely``, or, the year, within so many. With ``kinds`` or ``sources`` both records must be of these.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: Name
    then: Literal["join", "ask", "apart"] = "join"
    agree: dict[str, How] = Field(min_length=1, max_length=13)
    not_differ: dict[str, How] = Field({}, max_length=13)
    kinds: tuple[str, ...] = Field((), max_length=20)
    sources: tuple[Name, ...] = Field((), max_length=50)

    @field_validator("agree", "not_differ")
    @classmethod
    def are_conditions(cls, said: dict[str, How]) -> dict[str, How]:
        """Every condition is on a field that there is, in a way that it can agree."""
        for field, how in said.items():
            if field not in FIELDS:
                raise ValueError(f"there is no field “{field}”; a field is one of {', '.join(FIELDS)}")
            if isinstance(how, int) and field != "year":
                raise ValueError(f"“{field}” can agree exactly or closely; only the year can agree within {how}")
            if how == "closely" and field not in CLOSELY:
                raise ValueError(f"“{field}” can only agree exactly; closely can {', '.join(CLOSELY)}")
        return said

    @field_validator("kinds")
    @classmethod
    def are_kinds(cls, said: tuple[str, ...]) -> tuple[str, ...]:
        """Every kind is one of records."""
        for kind in said:
            if kind not in KINDS:
                raise ValueError(f"there is no kind “{kind}”; a kind is one of {', '.join(KINDS)}")
        return said

    @model_validator(mode="after")
    def finds(self) -> Pass:
        """Pairs can be found by it."""
        if not FINDING.intersection(self.agree):
            raise ValueError(
                f"must agree in one of {', '.join(sorted(FINDING))}; everything would have to be compared with everything otherwise"
            )
        return self


class Rule(BaseModel):
    """What a team has agreed on.

    Passes are tried one after the other; the first that holds for a pair decides on it. With ``weights``, pairs that no
    pass decides on are weighed: joined from ``join_from``, asked from ``ask_from``; ``None`` takes these from the
    errors to be expected. ``alike`` says what is done with kinds of look-alikes. ``trust`` names sources, the most
    trusted first: the kept record takes a value from them before others.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: Name = "Weights alone"
    about: str = Field("", max_length=500)
    version: int = Field(1, ge=1, le=10_000)
    weights: bool = True
    join_from: float | None = Field(None, ge=-50, le=100, allow_inf_nan=False)
    ask_from: float | None = Field(None, ge=-50, le=100, allow_inf_nan=False)
    alike: dict[str, Then] = {}
    trust: tuple[Name, ...] = Field((), max_length=100)
    passes: tuple[Pass, ...] = Field((), max_length=20)

    @field_validator("alike")
    @classmethod
    def are_alike(cls, said: dict[str, Then]) -> dict[str, Then]:
        """Every kind of look-alikes is known."""
        known = [alike.name for alike in ALIKE]
        for name in said:
            if name not in known:
                raise ValueError(f"there is no kind of look-alikes “{name}”; a kind is one of {', '.join(known)}")
        return said

    @model_validator(mode="after")
    def in_order(self) -> Rule:
        """Nothing is joined that would not even be asked, and something decides."""
        if self.join_from is not None and self.ask_from is not None and self.ask_from > self.join_from:
            raise ValueError("ask_from must not be above join_from")
        if not self.weights and not self.passes:
            raise ValueError("needs a pass, or the weights; nothing would ever be joined")
        names = [pass_.name for pass_ in self.passes]
        if len(set(names)) != len(names):
            raise ValueError("two passes have the same name")
        return self

    def then(self, kind: int) -> Then:
        """What is done with pairs of a kind of look-alikes (its number in `ALIKE`, from 1)."""
        alike = ALIKE[kind - 1]
        found: Any = self.alike.get(alike.name, alike.then)
        return found  # type: ignore[no-any-return]

    def text(self) -> str:
        """The rule as the small file that it is."""
        lines = [f"name = {quoted(self.name)}"]
        lines += [f"about = {quoted(self.about)}"] if self.about else []
        lines += [f"version = {self.version}", f"weights = {str(self.weights).lower()}"]
        lines += [f"{name} = {getattr(self, name)!r}" for name in ("join_from", "ask_from") if getattr(self, name) is not None]
        lines += [f"trust = {_listed(self.trust)}"] if self.trust else []
        if self.alike:
            lines += ["", "[alike]", *(f"{name} = {quoted(then)}" for name, then in self.alike.items())]
        for pass_ in self.passes:
            lines += ["", "[[passes]]", f"name = {quoted(pass_.name)}", f"then = {quoted(pass_.then)}", f"agree = {_table(pass_.agree)}"]
            lines += [f"not_differ = {_table(pass_.not_differ)}"] if pass_.not_differ else []
            lines += [f"kinds = {_listed(pass_.kinds)}"] if pass_.kinds else []
            lines += [f"sources = {_listed(pass_.sources)}"] if pass_.sources else []
        return "\n".join(lines) + "\n"


def _listed(values: tuple[str, ...]) -> str:
    return f"[{', '.join(map(quoted, values))}]"


def _table(said: Mapping[str, How]) -> str:
    return "{ " + ", ".join(f"{field} = {quoted(how) if isinstance(how, str) else how}" for field, how in said.items()) + " }"


def rule_of(text: str) -> Rule:
    """A rule from its file. Raises NotARule."""
    if len(text) > LONGEST:
        raise NotARule(f"A rule has at most {LONGEST:,} characters; this has {len(text):,}.")
    try:
        return Rule.model_validate(tomllib.loads(text))
    except tomllib.TOMLDecodeError as error:
        raise NotARule(f"It is not TOML: {error}.") from None
    except ValidationError as error:
        raise NotARule(told(error)) from None
    except RecursionError:
        raise NotARule("It is nested too deeply.") from None


def told(error: ValidationError) -> str:
    """What is wrong with a rule, and where in it."""
    first = error.errors()[0]
    place = [
        f"pass {part + 1}" if isinstance(part, int) else str(part) for part in first["loc"] if part not in ("passes", "constrained-int")
    ]
    said = first["msg"].removeprefix("Value error, ")
    return f"{', '.join(place) or 'the rule'}: {said}."


YES, UNKNOWN, NO = 1, 0, -1


def agreement(columns: Columns, compared: Compared, field: str, how: How) -> Array:
    """Whether each pair agrees in a field: 1, -1 if it differs, 0 if one of the two does not say."""
    i, j = compared.left, compared.right
    if field == "year":
        a, b = columns.year[i], columns.year[j]
        within = how if isinstance(how, int) else 0
        return _three((a != 0) & (b != 0), np.abs(a - b) <= within)
    if field in ("volume", "issue", "accession", "kind", "language"):
        return _equal(columns.numbers[field], i, j)
    if field == "pages":
        return _equal(columns.page, i, j)
    if field == "first_author":
        a, b = columns.families[i, 0], columns.families[j, 0]
        close = compared.is_at("authors", "close") if how == "closely" else np.zeros(len(i), bool)
        return _three((a != 0) & (b != 0), (a == b) | close)
    exact, close_too = _LEVELS[field]
    at = partial(compared.is_at, field)
    if field == "journal" and how == "exactly":
        a, b = columns.venue[i], columns.venue[j]
        return _three((a != 0) & (b != 0), a == b)
    holds = at(*exact) if how == "exactly" else at(*exact, *close_too)
    return _three(compared.level(field) != 0, holds)


_LEVELS = {
    "title": (("same rare", "same", "same common", "same untitled"), ("cut rare", "close")),
    "authors": (("all", "one"), ("most", "close")),
    "journal": (("same",), ()),
    "doi": (("same", "shared"), ("version", "near")),
    "abstract": (("same", "same, title not"), ("alike", "alike, title not")),
}


def _three(said: Array, holds: Array) -> Array:
    return np.where(said, np.where(holds, YES, NO), UNKNOWN).astype(np.int8)


def _equal(values: Array, i: Array, j: Array) -> Array:
    a, b = values[i], values[j]
    return _three((a != 0) & (b != 0), a == b)


def failures(columns: Columns, compared: Compared, rule_pass: Pass, sources: Array | None) -> Array:
    """How many conditions of a pass each pair fails."""
    out = np.zeros(len(compared), np.int16)
    for field, how in rule_pass.agree.items():
        out += agreement(columns, compared, field, how) != YES
    for field, how in rule_pass.not_differ.items():
        out += agreement(columns, compared, field, how) == NO
    if rule_pass.kinds:
        kinds = [k + 1 if kind != "other" else 0 for k, kind in enumerate(KINDS) if kind in rule_pass.kinds]
        out += ~(np.isin(columns.kind[compared.left], kinds) & np.isin(columns.kind[compared.right], kinds))
    if rule_pass.sources:
        if sources is None:
            out += 1
        else:
            among = np.isin(sources, list(rule_pass.sources))
            out += ~(among[compared.left] & among[compared.right])
    return out


def failed(columns: Columns, compared: Compared, rule_pass: Pass, at: int) -> list[str]:
    """Which conditions of a pass the pair at a position fails, by field."""
    pair = compared.of(np.array([at]))
    out = [field for field, how in rule_pass.agree.items() if agreement(columns, pair, field, how)[0] != YES]
    return out + [field for field, how in rule_pass.not_differ.items() if agreement(columns, pair, field, how)[0] == NO]
