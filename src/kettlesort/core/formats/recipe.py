"""A reading recipe: how a kind of tagged text is read, declared in a small file that a team can keep and pass on.

RIS and NBIB are recipes too; they are shipped in ``recipes/``.
"""

from __future__ import annotations

import re
import tomllib
from collections.abc import Iterator, Mapping, Sequence
from functools import cache
from importlib.resources import files
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError, field_validator, model_validator

from kettlesort.core.record import Record
from kettlesort.core.toml import quoted

LONGEST = 40_000
SPECIAL = (
    "first_page",
    "last_page",
    "short_authors",
    "group_authors",
    "identifiers",
    "kinds",
    "place",
    "article_number",
    "family_name",
    "given_name",
)
"""What a tag can hold that is a part of a field, or several fields in one."""
FIELDS = (*(name for name in Record._fields if name != "extra"), *SPECIAL)
MANY = ("authors", "keywords", "references", "short_authors", "group_authors", "identifiers", "kinds")

_LABEL = r"[^\W_][\w /().&’'-]{0,38}?"
SHAPES: dict[str, re.Pattern[str]] = {
    "dash": re.compile(r"[ \t]*([A-Z][A-Z0-9]{0,4}) {0,4}[-–—](?: (.*)|$)"),
    "sign": re.compile(r"[ \t]*([%*#~.@$!+][A-Za-z0-9@?<>(&^]{1,20}[*:]?)(?:[ \t](.*)|$)"),
    "brackets": re.compile(r"[ \t]*[<\[{(]([A-Za-z][\w ./-]{0,38})[>\]})]:?[ \t]*(.*)$"),
    "space": re.compile(r"[ \t]*([A-Z][A-Z0-9]{1,4})(?:[ \t]+(.*)|$)"),
    "colon": re.compile(rf"[ \t]*({_LABEL})[ \t]*:{{1,2}}(?!//)(?:[ \t]*(.*)|$)"),
    "equals": re.compile(rf"[ \t]*({_LABEL})[ \t]*=[ \t]*(.*)$"),
    "tab": re.compile(rf"[ ]*({_LABEL})\t+(.*)$"),
    "bar": re.compile(rf"[ \t]*({_LABEL})[ \t]*\|[ \t]*(.*)$"),
    "arrow": re.compile(rf"[ \t]*({_LABEL})[ \t]*[-=]*[>→»][ \t]*(.*)$"),
    "hyphen": re.compile(rf"[ \t]*({_LABEL})[ \t]+[-–—][ \t]+(.*)$"),
    "wide": re.compile(rf"[ \t]*({_LABEL})(?:\.{{3,}}|[ \t]{{2,}})[ \t]*(\S.*)$"),
    "heading": re.compile(r"[ \t]*([^\W\d_][^\W\d_ /&()-]*(?:[ /&()-]+[^\W\d_()]+){0,4}[)]?:?)()[ \t]*$"),
}
"""What a line with a label looks like: the label, then its value."""
LOOSE = ("colon", "equals", "tab", "bar", "arrow", "hyphen", "wide", "heading")
"""Shapes that running text may have too: only labels that the recipe lists are labels."""
NUMBERED = re.compile(
    r"(?:(?:record|item|citation|reference|document|result)\s*:?\s*#?\d+(?:\s*(?:of|/)\s*\d+)?|[<\[(#]?\d{1,7}[>\])]?\.?|\d{1,7}\s*/\s*\d{1,7})\s*:?\s*$",
    re.I,
)
RULE = re.compile(r"\s*([^\w\s])\1+\s*$")
"""A line that is one sign again and again."""
NUMBER = "{number}"
"""What stands for the number in the line that begins a record, where the recipe says what that line looks like."""


Tag = Annotated[str, StringConstraints(min_length=1, max_length=40)]


class NotARecipe(ValueError):
    """Text that is no recipe; the message says where and what was expected."""


class Recipe(BaseModel):
    """How tagged text is read.

    ``shape`` is what a line with a label looks like (one of `SHAPES`). A record begins at the
    label ``start``, after an empty line, at a line that is a number (``start`` says what such a line looks like, with
    `NUMBER` for the number), or after a ruled line, as ``begin`` says; ``end`` is a label that ends it, if there is one. ``fields`` says which
    field each label fills: of several for one field the first that has a value is used, and
    "" keeps the value under its label. Each line of a field in ``lines`` is a value of its
    own; ``split`` says what separates values within a line.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: str = Field(min_length=1, max_length=80)
    about: str = Field("", max_length=500)
    version: int = Field(1, ge=1, le=10_000)
    shape: Literal["dash", "sign", "brackets", "space", "colon", "equals", "tab", "bar", "arrow", "hyphen", "wide", "heading"]
    begin: Literal["tag", "blank", "number", "rule"]
    start: str = Field("", max_length=40)
    end: str = Field("", max_length=40)
    fields: dict[Tag, str] = Field(max_length=300)
    lines: tuple[str, ...] = ()
    split: dict[str, Annotated[str, StringConstraints(min_length=1, max_length=10)]] = {}

    @field_validator("fields")
    @classmethod
    def are_fields(cls, fields: dict[str, str]) -> dict[str, str]:
        """Every label fills a field that there is, or none."""
        for tag, field in fields.items():
            if field and field not in FIELDS:
                raise ValueError(f"“{tag}” cannot fill “{field}”; a field is one of {', '.join(FIELDS)}, or empty")
        return fields

    @model_validator(mode="after")
    def begins(self) -> Recipe:
        """A record begins somewhere."""
        if self.begin == "tag" and not self.start:
            raise ValueError("start is missing: the label at which a record begins")
        return self

    def tags_of(self, field: str) -> tuple[str, ...]:
        """The labels that fill a field, the best first."""
        return tuple(tag for tag, filled in self.fields.items() if filled == field)

    def reassigned(self, fields: Mapping[str, str]) -> Recipe:
        """The same recipe, but that these labels fill other fields, before any other label of theirs."""
        said = {tag: field for tag, field in fields.items() if field == "" or field in FIELDS}
        kept = {tag: field for tag, field in self.fields.items() if tag not in said}
        return self.model_copy(update={"fields": {**said, **kept}}) if said else self

    def text(self) -> str:
        """The recipe as the small file that it is."""
        lines = [f"{name} = {quoted(getattr(self, name))}" for name in ("name", "about") if getattr(self, name)]
        lines += [f"version = {self.version}"]
        lines += [f"{name} = {quoted(getattr(self, name))}" for name in ("shape", "begin", "start", "end") if getattr(self, name)]
        if self.lines:
            lines.append(f"lines = [{', '.join(map(quoted, self.lines))}]")
        lines += ["", "[fields]", *(f"{quoted(tag)} = {quoted(field)}" for tag, field in self.fields.items())]
        if self.split:
            lines += ["", "[split]", *(f"{quoted(field)} = {quoted(sign)}" for field, sign in self.split.items())]
        return "\n".join(lines) + "\n"


def recipe_of(text: str) -> Recipe:
    """A recipe from its file. Raises NotARecipe."""
    if len(text) > LONGEST:
        raise NotARecipe(f"A recipe has at most {LONGEST:,} characters; this has {len(text):,}.")
    try:
        return Recipe.model_validate(tomllib.loads(text))
    except tomllib.TOMLDecodeError as error:
        raise NotARecipe(f"It is not TOML: {error}.") from None
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"]) or "the recipe"
        raise NotARecipe(f"{place}: {first['msg'].removeprefix('Value error, ')}.") from None
    except RecursionError:
        raise NotARecipe("It is nested too deeply.") from None


@cache
def shipped() -> dict[str, Recipe]:
    """The recipes that come with the program, by their key."""
    folder = files("kettlesort.core.formats") / "recipes"
    return {
        one.name.removesuffix(".toml"): recipe_of(one.read_text(encoding="utf-8")) for one in folder.iterdir() if one.name.endswith(".toml")
    }


Labelled = tuple[int, str, str]
"""A line's number, its label ("" where it goes on with the value above), and what it says."""


def labelled(recipe: Recipe, lines: Iterator[tuple[int, str]] | Sequence[tuple[int, str]]) -> Iterator[Labelled]:
    """Each line with its label as the recipe sees it."""
    pattern, listed = SHAPES[recipe.shape], {tag.casefold(): tag for tag in recipe.fields}
    loose = recipe.shape in LOOSE
    for tag in (recipe.start if recipe.begin == "tag" else "", recipe.end):
        if tag:
            listed.setdefault(tag.casefold(), tag)
    for number, text in lines:
        if recipe.end and text.strip() == recipe.end:
            yield number, recipe.end, ""
            continue
        found = pattern.match(text)
        tag = found[1].strip().rstrip(":") if found else ""
        if found and loose:
            tag = listed.get(tag.casefold(), "")
        if found and tag:
            yield number, tag, (found[2] or "").strip()
        else:
            yield number, "", "" if RULE.match(text) else text


def unquoted(value: str) -> str:
    """A value without the quotes that enclose it."""
    return value[1:-1].strip() if len(value) > 1 and value[0] + value[-1] in ('""', "“”", "''") and value[0] not in value[1:-1] else value


def begins_record(recipe: Recipe) -> re.Pattern[str]:
    """What the line with a number looks like at which a record begins."""
    if not recipe.start:
        return NUMBERED
    return re.compile(r"\s*" + r"\d{1,7}".join(map(re.escape, recipe.start.split(NUMBER))) + r"\s*$")


def fields_from(said: Any) -> dict[str, str]:
    """A mapping of labels to fields as it was kept, without what is none."""
    return {str(tag): str(field) for tag, field in said.items() if field == "" or field in FIELDS} if isinstance(said, dict) else {}
