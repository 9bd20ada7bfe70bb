"""Asking the reports: a question, and the passages that speak to it, each with its place."""

from __future__ import annotations

from collections.abc import Sequence, Set
from datetime import UTC, datetime
from typing import NamedTuple

from kettlesort.core.charting import asking as core
from kettlesort.core.charting.asking import Passage
from kettlesort.core.fulltext.article import of_record
from kettlesort.store import asking as store
from kettlesort.store import chart as charts
from kettlesort.store.asking import KeptQuestion
from kettlesort.store.base import Row, snapshot
from kettlesort.work.change import changing
from kettlesort.work.errors import Invalid, NotFound
from kettlesort.work.studies import by_study, labels


class Answer(NamedTuple):
    """A passage that speaks to a question, where it stands, and how much it speaks; ``whole`` if it is from a full text."""

    study: int
    label: str
    record: int
    text: str
    page: int | None
    heading: str
    score: float
    whole: bool


class Answers(NamedTuple):
    """What a question found, the best first; how many reports were asked, how many of them by their abstract alone, and which were never read."""

    answers: list[Answer]
    reports: int
    abstracts: int
    unread: int


def ask(review: int, question: str, studies: Set[int] | None = None) -> Answers:
    """Ask the reports of all included studies, or of some. A report whose PDF was not read yet is asked by its abstract."""
    if not question.strip():
        raise Invalid("What is the question?", field="question")
    with snapshot() as db:
        reports = [row for row in charts.reports(db, review) if studies is None or row["study_id"] in studies]
        known = {text["record_id"]: text for text in store.texts(db, review)}
    named = labels(by_study(reports))
    passages: list[Passage] = []
    owner: list[tuple[Row, bool]] = []
    abstracts = unread = 0
    for report in reports:
        read = known.get(report["record_id"])
        whole = bool(read and read["sha256"] and read["sha256"] == report["sha256"])
        unread += not whole and report["sha256"] is not None
        abstracts += not whole
        found = (
            [Passage(*one) for one in read["passages"]] if read and whole else core.passages(of_record(report["title"], report["abstract"]))
        )
        passages += found
        owner += [(report, whole)] * len(found)
    answers = []
    for place, score in core.ask(question, passages):
        report, whole = owner[place]
        answers.append(Answer(report["study_id"], named[report["study_id"]], report["record_id"], *passages[place], score, whole))
    return Answers(answers, len(reports), abstracts, unread)


def kept(review: int) -> Sequence[Row]:
    """The questions that were kept, the newest first."""
    with snapshot() as db:
        return store.kept_questions(db, review)


def keep(review: int, account: int, text: str) -> int:
    """Keep a question; its number."""
    text = " ".join(text.split())[:500]
    if not text:
        raise Invalid("What is the question?", field="text")
    with changing(review, account, "chart") as change:
        there = next((one for one in store.kept_questions(change.db, review) if one["text"].casefold() == text.casefold()), None)
        if there is not None:
            return int(there["id"])
        made = KeptQuestion(review_id=review, text=text, account_id=account)
        change.db.add(made)
        change.db.flush()
        change.event("chart.question_kept", text)
        assert made.id is not None
        return made.id


def drop(review: int, account: int, question: int, *, back: bool = False) -> None:
    """Keep a question no longer, or bring it ``back``."""
    with changing(review, account, "chart") as change:
        found = change.db.get(KeptQuestion, question)
        if found is None or found.review_id != review:
            raise NotFound("There is no such question in this review.")
        found.removed_at = None if back else datetime.now(UTC)
        change.event("chart.question_kept" if back else "chart.question_dropped", found.text)
