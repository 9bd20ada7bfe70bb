"""A family of syntax, declared: its operators, its codes, and what it has no equal for."""

from __future__ import annotations

import re
import tomllib
from functools import cache
from importlib.resources import files
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError, field_validator, model_validator

from kettlesort.core.query.nodes import TEXT_FIELDS, VALUE_FIELDS

Name = Annotated[str, StringConstraints(min_length=1, max_length=120)]
Code = Annotated[str, StringConstraints(pattern=r"^([A-Za-z][\w.\-]*)?$", max_length=60)]
Operator = Annotated[str, StringConstraints(pattern=r"^[^\s()\"\[\]]+$", max_length=20)]
Sign = Annotated[str, StringConstraints(pattern=r"^[^\s\w()\"]?$")]
LONGEST_PROFILE = 20_000


class NotAProfile(Exception):
    """Text that is no profile; the message says where and what was expected."""


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Operators(_Part):
    """How parts are joined. The first of each list is written, all are read, whatever their case.

    ``first`` says what is read first where they stand mixed: AND and NOT before OR, or from
    the left; ``beside`` what two terms with nothing between mean, "" that it is a mistake.
    """

    and_: tuple[Operator, ...] = Field(("AND",), alias="and", min_length=1, max_length=9)
    or_: tuple[Operator, ...] = Field(("OR",), alias="or", min_length=1, max_length=9)
    not_: tuple[Operator, ...] = Field(("NOT",), alias="not", min_length=1, max_length=9)
    first: Literal["and", "left"] = "and"
    beside: Literal["", "and", "or", "phrase"] = ""


class Proximity(_Part):
    """Words near each other: an operator with ``{n}`` in it, or a mark ``{n}`` behind a phrase of two words.

    ``adds`` is what is added to the number of words between, 1 where neighbours are at
    distance 1. ``ordered`` means that the left side must come first.
    """

    operator: str = Field("", max_length=60)
    mark: str = Field("", max_length=20)
    adds: int = Field(0, ge=0, le=2)
    most: int = Field(50, ge=1, le=1000)
    ordered: bool = False

    @field_validator("operator", "mark")
    @classmethod
    def has_a_number(cls, text: str) -> str:
        """Both need a place for the number."""
        if text and text.count("{n}") != 1:
            raise ValueError("needs {n} where the number of words stands")
        return text


class Words(_Part):
    """Signs for any letters and for exactly one, where they may stand, and signs with a meaning that has no equal here."""

    many: Sign = "*"
    one: Sign = "?"
    within: bool = True
    in_phrases: bool = True
    refused: str = Field("", max_length=10)


class Fields(_Part):
    """Where the code of a field stands, and the codes. "" where there is none; ``together`` are codes for several fields at once."""

    form: str = Field(max_length=60)
    groups: bool = True
    joined: Sign = ""
    any: str = Field("", max_length=20)
    all: str = Field("", max_length=20)
    title: Code = ""
    abstract: Code = ""
    keyword: Code = ""
    author: Code = ""
    journal: Code = ""
    language: Code = ""
    type: Code = ""
    country: Code = ""
    doi: Code = ""
    together: dict[str, Code] = {}

    @field_validator("form")
    @classmethod
    def has_places(cls, form: str) -> str:
        """A code and a term, the code on one side."""
        if form.count("{code}") != 1 or form.count("{term}") != 1:
            raise ValueError("needs {code} and {term}, each once, such as {code}={term}")
        return form

    @field_validator("together")
    @classmethod
    def are_fields(cls, together: dict[str, str]) -> dict[str, str]:
        """Names of our fields, with commas between."""
        for names in together:
            if not set(names.split(",")) <= set(TEXT_FIELDS):
                raise ValueError(f"“{names}” is not made of {', '.join(TEXT_FIELDS)}")
        return together


class Descriptors(_Part):
    """The code of a descriptor, and that, or a sign behind the heading, for its narrower ones too; the sign before a qualifier."""

    code: Code = ""
    narrower: Code = ""
    mark: Sign = ""
    qualifier: Sign = ""


class YearForms(_Part):
    """A range of years, with ``{first}`` and ``{last}``: between both, from one on, up to one."""

    between: str = Field("", max_length=80)
    since: str = Field("", max_length=80)
    until: str = Field("", max_length=80)


class Profile(_Part):
    """A family of syntax."""

    name: Name
    about: str = Field("", max_length=500)
    operators: Operators = Operators.model_validate({})
    near: Proximity = Proximity()
    words: Words = Words()
    fields: Fields
    descriptor: Descriptors = Descriptors()
    years: YearForms = YearForms()

    @model_validator(mode="after")
    def years_have_places(self) -> Profile:
        """Each form of years names the years that it needs."""
        for form, places in (
            (self.years.between, ("{first}", "{last}")),
            (self.years.since, ("{first}",)),
            (self.years.until, ("{last}",)),
        ):
            if form and any(form.count(place) != 1 for place in places):
                raise ValueError(f"the years “{form}” need {' and '.join(places)}")
        return self

    @property
    def code_before(self) -> bool:
        """Whether the code stands before the term."""
        return self.fields.form.index("{code}") < self.fields.form.index("{term}")

    @property
    def code_around(self) -> bool:
        """Whether the term stands in parentheses behind its code."""
        return re.fullmatch(r"\{code\}\s*\(\{term\}\)", self.fields.form) is not None

    def code_of(self, names: tuple[str, ...]) -> str:
        """The code for these fields together, "" where there is none."""
        if len(names) == 1:
            return str(getattr(self.fields, names[0]))
        for said, code in self.fields.together.items():
            if set(said.split(",")) == set(names):
                return code
        codes = [self.code_of((name,)) for name in names]
        return self.fields.joined.join(codes) if self.fields.joined and all(codes) else ""

    def fields_of(self, code: str) -> tuple[str, ...] | None:
        """Our fields for a code as written, ``descriptor`` and ``narrower`` among them; ``None`` for one that is unknown."""
        known = {c.casefold(): tuple(said.split(",")) for said, c in self.fields.together.items()}
        for name in (*TEXT_FIELDS, *VALUE_FIELDS):
            known.setdefault(str(getattr(self.fields, name)).casefold(), (name,))
        known.setdefault(self.descriptor.narrower.casefold(), ("narrower",))
        known.setdefault(self.descriptor.code.casefold(), ("descriptor",))
        known.pop("", None)
        if code.casefold() in known:
            return known[code.casefold()]
        parts = code.casefold().split(self.fields.joined) if self.fields.joined else []
        if len(parts) > 1 and all(part in known for part in parts):
            return tuple(dict.fromkeys(name for part in parts for name in known[part]))
        return None

    @property
    def codes(self) -> list[str]:
        """All codes that it knows."""
        said = [str(getattr(self.fields, name)) for name in (*TEXT_FIELDS, *VALUE_FIELDS)]
        return [
            code for code in dict.fromkeys([*said, *self.fields.together.values(), self.descriptor.code, self.descriptor.narrower]) if code
        ]


def profile_of(text: str) -> Profile:
    """The profile that a TOML file declares. Raises NotAProfile."""
    if len(text) > LONGEST_PROFILE:
        raise NotAProfile(f"A profile has at most {LONGEST_PROFILE:,} characters; this one has {len(text):,}.")
    try:
        return Profile.model_validate(tomllib.loads(text))
    except tomllib.TOMLDecodeError as error:
        raise NotAProfile(f"This is not a TOML file: {error}.") from None
    except RecursionError:
        raise NotAProfile("This is not a profile: its values are nested too deep.") from None
    except ValidationError as error:
        said = error.errors()[0]
        place = ".".join(str(word) for word in said["loc"]) or "the profile"
        raise NotAProfile(f"{place}: {said['msg'].removeprefix('Value error, ')}.") from None


@cache
def shipped() -> dict[str, str]:
    """The profiles that come with the program: key and text, in the order in which they are offered."""
    folder = files("kettlesort.core.query.syntax") / "profiles"
    return {
        one.name[2:-5]: one.read_text("utf-8") for one in sorted(folder.iterdir(), key=lambda each: each.name) if one.name.endswith(".toml")
    }
