"""Reading recipes."""

from __future__ import annotations

from datetime import datetime

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.gather import Problem
from kettlesort.core.formats.infer import Proposal
from kettlesort.core.formats.recipe import FIELDS, SHAPES, Recipe, recipe_of
from kettlesort.core.record import Record
from kettlesort.work import recipes

router = APIRouter(prefix="/api/reviews/{review}", tags=["gather"])


class Version(BaseModel):
    version: int
    at: datetime
    by: str
    text: str


class RecipeListed(BaseModel):
    name: str
    about: str
    version: int
    shape: str
    text: str
    shipped: bool
    versions: list[Version]


class RecipeText(BaseModel):
    text: str = Field(max_length=40_000)


class Kept(BaseModel):
    name: str
    version: int
    text: str


class RecipeLabel(BaseModel):
    tag: str
    times: int
    line: int
    samples: list[str]
    field: str


class Beginning(BaseModel):
    begin: str
    start: str
    end: str
    records: int
    evenness: float


class RecipeParts(BaseModel):
    """A recipe, taken apart."""

    name: str
    about: str
    version: int
    shape: str
    begin: str
    start: str
    end: str
    fields: dict[str, str]
    lines: list[str]
    split: dict[str, str]
    text: str


class RecordUnderstood(BaseModel):
    """A record as a recipe understands it: where it stands, and its fields that have a value."""

    line: int
    end_line: int
    fields: dict[str, str]


class RecipeLook(BaseModel):
    recipe: RecipeParts
    labels: list[RecipeLabel]
    beginnings: list[Beginning]
    records: int
    entries: list[RecordUnderstood]
    problems: list[Problem]
    lines: list[str]
    shapes: list[str]
    known_fields: list[str]


def _parts(recipe: Recipe) -> RecipeParts:
    return RecipeParts(**recipe.model_dump(), text=recipe.text())


def _fields(record: Record) -> dict[str, str]:
    out: dict[str, str] = {}
    for name, value in record._asdict().items():
        if name == "extra":
            out |= {f"{tag} (kept)": said for tag, said in record.extra}
        elif value:
            out[name] = "; ".join(value) if isinstance(value, tuple) else str(value)
    return out


def _look(looked: recipes.Looked) -> RecipeLook:
    found: Proposal | None = looked.proposal
    return RecipeLook(
        recipe=_parts(looked.recipe),
        labels=[RecipeLabel(**{**one._asdict(), "samples": [said[:200] for said in one.samples], "field": looked.recipe.fields.get(one.tag, "")}) for one in (found.labels if found else ())],
        beginnings=[Beginning(**one._asdict()) for one in (found.beginnings if found else ())],
        records=looked.tried.records,
        entries=[RecordUnderstood(line=one.line, end_line=one.end_line, fields=_fields(one.record)) for one in looked.tried.entries],
        problems=[Problem(line=one.line, message=one.message) for one in looked.tried.problems],
        lines=[line[:500] for line in looked.lines],
        shapes=list(SHAPES),
        known_fields=list(FIELDS),
    )  # fmt: skip


@router.get("/recipes")
def listed(member: AsMember) -> list[RecipeListed]:
    """The team's recipes, then those that came with the program."""
    return [
        RecipeListed(
            name=recipe.recipe.name, about=recipe.recipe.about, version=recipe.recipe.version, shape=recipe.recipe.shape, text=recipe.text, shipped=recipe.shipped,
            versions=[Version(version=v["version"], at=v["at"], by=v["by"], text=v["text"]) for v in recipe.versions],
        )
        for recipe in recipes.recipes(member.review)
    ]  # fmt: skip


class RecipeToKeep(RecipeText):
    """A recipe; ``seen`` is the version on which the change was made."""

    seen: str | None = Field(None, max_length=40_000)


@router.post("/recipes", status_code=201)
def keep(said: RecipeToKeep, member: AsReviewer) -> Kept:
    """Keep a recipe, as its name's next version."""
    recipe = recipes.keep(member.review, member.account, said.text, said.seen)
    return Kept(name=recipe.name, version=recipe.version, text=recipe.text())


@router.post("/recipes/compose")
def compose(said: RecipeParts, member: AsMember) -> RecipeText:
    """A recipe's file, from its parts."""
    text = Recipe.model_construct(**said.model_dump(exclude={"text"})).text()
    recipes.understood(text)
    return RecipeText(text=recipe_of(text).text())


@router.delete("/recipes/{name}", status_code=204)
def remove_recipe(name: str, member: AsReviewer) -> None:
    """Remove a recipe."""
    recipes.remove(member.review, member.account, name)


@router.post("/recipes/{name}/back", status_code=204)
def bring_recipe_back(name: str, member: AsReviewer) -> None:
    """Undo removing a recipe."""
    recipes.remove(member.review, member.account, name, back=True)


@router.get("/files/{batch}/recipe")
def propose(batch: int, member: AsMember, shape: str | None = Query(None, max_length=20)) -> RecipeLook:
    """What a file may be read as, worked out from it."""
    return _look(recipes.propose_for(member.review, batch, shape if shape in SHAPES else None))


@router.post("/files/{batch}/recipe")
def try_on(batch: int, said: RecipeText, member: AsMember) -> RecipeLook:
    """What a recipe makes of a file."""
    return _look(recipes.try_on(member.review, batch, said.text))
