"""The query in other families of syntax."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.api.query import MOST, Asked, QueryNote, QueryProblem, problem_of
from kettlesort.core import query as core
from kettlesort.core.query import syntax as core_syntax
from kettlesort.work import syntax
from kettlesort.work.query import node_of

router = APIRouter(prefix="/api/reviews/{review}/syntaxes", tags=["syntax"])


class Example(BaseModel):
    """How something is said: as we write it, as the syntax does ("" where it cannot), and what is done instead of it."""

    ours: str
    said: str
    done: str


class Syntax(BaseModel):
    key: str
    name: str
    about: str
    text: str
    own: bool
    shipped: bool
    guide: list[Example]


class Loss(BaseModel):
    part: str
    done: str


class Written(BaseModel):
    """The query in the other syntax, what could not be carried over with what was done instead, and what to look at."""

    text: str
    losses: list[Loss]
    checks: list[Loss]


class ReadIn(BaseModel):
    """A query read from another syntax, as we write it, or what is wrong with it."""

    text: str
    notes: list[QueryNote]
    problem: QueryProblem | None


class Declared(BaseModel):
    """A profile; ``seen`` is the one on which the change was made."""

    text: str = Field(max_length=core_syntax.LONGEST_PROFILE)
    seen: str | None = Field(None, max_length=core_syntax.LONGEST_PROFILE)


@router.get("")
def syntaxes(member: AsMember) -> list[Syntax]:
    """The syntaxes that a query can be written in, each with a short guide."""
    return [
        Syntax(
            key=known.key,
            name=known.profile.name,
            about=known.profile.about,
            text=known.text,
            own=known.own,
            shipped=known.shipped,
            guide=_guide(known.profile),
        )
        for known in syntax.syntaxes(member.review)
    ]


def _guide(profile: core_syntax.Profile) -> list[Example]:
    said = [(ours, core_syntax.translate(core.parse(ours).node, profile)) for ours in syntax.EXAMPLES]
    return [
        Example(ours=ours, said=translation.text, done="; ".join(loss.done for loss in translation.losses)) for ours, translation in said
    ]


@router.post("/{key}/write")
def write(key: str, said: Asked, member: AsMember) -> Written:
    """Write a query in another syntax."""
    translation = core_syntax.translate(node_of(said.text), syntax.syntax_of(member.review, key))
    return Written(
        text=translation.text,
        losses=[Loss(**loss._asdict()) for loss in translation.losses],
        checks=[Loss(**check._asdict()) for check in translation.checks],
    )


class Foreign(BaseModel):
    text: str = Field(max_length=MOST)


@router.post("/{key}/read")
def read(key: str, said: Foreign, member: AsMember) -> ReadIn:
    """Read a query in another syntax. What cannot be read is said, not refused."""
    profile = syntax.syntax_of(member.review, key)
    try:
        parsed = core_syntax.read(said.text, profile)
    except core.NotAQuery as error:
        return ReadIn(text="", notes=[], problem=problem_of(error))
    return ReadIn(text=core.write(parsed.node), notes=[QueryNote.model_validate(note._asdict()) for note in parsed.notes], problem=None)


@router.put("/{key}", status_code=204)
def declare(key: str, said: Declared, member: AsReviewer) -> None:
    """Keep a profile with the codes of the team's database."""
    syntax.declare(member.review, member.account, key, said.text, said.seen)


@router.delete("/{key}", status_code=204)
def forget(key: str, member: AsReviewer) -> None:
    """Remove a profile of the team's own; a shipped one is again as it was."""
    syntax.forget(member.review, member.account, key)
