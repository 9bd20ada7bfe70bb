"""Reading recipes of a team: proposed from a file, tried on it, kept in versions, taken along."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core.formats import NotReadable
from kettlesort.core.formats.infer import Proposal, Tried, propose, try_recipe
from kettlesort.core.formats.recipe import NotARecipe, Recipe, recipe_of, shipped
from kettlesort.core.formats.source import TextSource
from kettlesort.store import gather
from kettlesort.store import recipes as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.gather import Batch
from kettlesort.store.recipes import StoredRecipe
from kettlesort.work.change import changing
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.late import Both, conflict

MOST = 100
LOOKED_AT = 400_000
"""Characters of a file that recipes are worked out from and tried on."""


def recipes_of(db: Session, review: int) -> list[Recipe]:
    """The recipes of a review's team that take part in detection."""
    return [recipe_of(recipe["text"]) for recipe in store.recipes(db, review)]


class Known(NamedTuple):
    """A recipe, its file, and who wrote its newest version when; ``shipped`` ones came with the program."""

    recipe: Recipe
    text: str
    shipped: bool
    versions: Sequence[Row]


def recipes(review: int) -> list[Known]:
    """The team's recipes, then the shipped ones."""
    with snapshot() as db:
        found = store.recipes(db, review, all_versions=True)
    by_name: dict[str, list[Row]] = {}
    for row in found:
        by_name.setdefault(row["name"], []).append(row)
    own = [Known(recipe_of(versions[0]["text"]), versions[0]["text"], False, versions) for versions in by_name.values()]
    return own + [Known(recipe, recipe.text(), True, ()) for _, recipe in sorted(shipped().items())]


def understood(text: str) -> Recipe:
    """A recipe from its file. Raises Invalid."""
    try:
        return recipe_of(text)
    except NotARecipe as error:
        raise Invalid(f"This recipe cannot be used. {error}", field="recipe") from None


def keep(review: int, account: int, text: str, seen: str | None = None) -> Recipe:
    """Keep a recipe under its name, as its next version. What is the same as before is not kept again.

    ``seen`` is the version on which the change was made, "" for none: who is later than another is told, and chooses.
    """
    recipe = understood(text)
    if recipe.name.casefold() in {one.name.casefold() for one in shipped().values()}:
        raise Invalid(f"“{recipe.name}” is the name of a recipe that comes with the program; choose another.", field="name")
    with changing(review, account, "gather") as change:
        before, version = store.newest(change.db, review, recipe.name), store.next_version(change.db, review, recipe.name)
        recipe = recipe.model_copy(update={"version": version})
        if before and recipe.model_copy(update={"version": before["version"]}).text() == before["text"]:
            return recipe_of(before["text"])
        if before and seen is not None and before["text"] != seen:
            both = [Both(f"Version {before['version']}", before["text"], recipe.text())]
            raise conflict(change.db, review, "gather.recipe_kept", f"the recipe “{recipe.name}”", both, before["text"], recipe.text())
        if store.count(change.db, review) >= MOST:
            raise Invalid(f"A review keeps at most {MOST} recipes.", field="name")
        change.db.add(StoredRecipe(review_id=review, name=recipe.name, version=version, text=recipe.text(), account_id=account))
        change.event("gather.recipe_kept", recipe.name, before["text"] if before else None, recipe.text())
        return recipe


def remove(review: int, account: int, name: str, back: bool = False) -> None:
    """Remove a recipe with all its versions, or bring it back."""
    with changing(review, account, "gather") as change:
        if not (store.bring_back if back else store.remove)(change.db, review, name):
            raise NotFound("There is no such recipe.")
        change.event("gather.recipe_brought_back" if back else "gather.recipe_removed", name)


class _Text(NamedTuple):
    """The beginning of a file, and as much of it as any file is judged by."""

    beginning: str
    sample: str


def _text_of(review: int, batch: int) -> _Text:
    with session() as db:
        found = db.get(Batch, batch)
        if found is None or found.review_id != review:
            raise NotFound("There is no such file in this review.")
        file = gather.open_blob(db, found.sha256)
        if file.read(2) == b"PK":
            raise Invalid("A workbook has no labels; say what its columns are instead.", field="file")
        file.seek(0)
        try:
            source = TextSource(file, str(found.how.get("encoding", "")))
        except NotReadable as error:
            raise Invalid(str(error), field="file") from None
        sample, out = source.sample, ""
        for piece in source:
            out += piece
            if len(out) > LOOKED_AT:
                return _Text(out[:LOOKED_AT].rpartition("\n")[0], sample)
        return _Text(out, sample)


class Looked(NamedTuple):
    """A file as a recipe reads its beginning, beside its lines; ``whole`` if that is all of it."""

    recipe: Recipe
    proposal: Proposal | None
    tried: Tried
    lines: list[str]


def propose_for(review: int, batch: int, shape: str | None) -> Looked:
    """What a file may be read as: the recipe thought best, of all or of one shape."""
    text, sample = _text_of(review, batch)
    found = propose(sample, shape)
    if found is None:
        recipe = Recipe(name="New recipe", shape=shape or "colon", begin="blank", fields={})
        return Looked(recipe, None, try_recipe(recipe, text), text.split("\n")[:600])
    return Looked(found.recipe, found, try_recipe(found.recipe, text), text.split("\n")[:600])


def try_on(review: int, batch: int, text: str) -> Looked:
    """What a recipe makes of a file, with the labels of its shape."""
    recipe, (said, sample) = understood(text), _text_of(review, batch)
    return Looked(recipe, propose(sample, recipe.shape), try_recipe(recipe, said), said.split("\n")[:600])
