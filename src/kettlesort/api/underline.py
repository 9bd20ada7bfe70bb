"""The team's own words to underline."""

from __future__ import annotations

from fastapi import APIRouter
from pydantic import BaseModel, Field

from kettlesort.api.access import AsMember, AsReviewer
from kettlesort.work import underline

router = APIRouter(prefix="/api/reviews/{review}", tags=["screen"])
_MOST = 60_000


class WordsToUnderline(BaseModel):
    """Words and phrases for and against; ``number`` is the version."""

    number: int
    supports: list[str]
    opposes: list[str]


class NewWordsToUnderline(BaseModel):
    """One word or phrase a line; ``seen`` is the version that was changed."""

    supports: str = Field("", max_length=_MOST)
    opposes: str = Field("", max_length=_MOST)
    seen: int = Field(0, ge=0, lt=2**63)


@router.get("/underlining")
def words_to_underline(member: AsMember) -> WordsToUnderline:
    """The team's words to underline."""
    return WordsToUnderline.model_validate(underline.words(member.review)._asdict())


@router.put("/underlining")
def set_words_to_underline(said: NewWordsToUnderline, member: AsReviewer) -> WordsToUnderline:
    """Change the team's words to underline."""
    return WordsToUnderline.model_validate(
        underline.set_words(member.review, member.account, said.supports, said.opposes, said.seen)._asdict()
    )
