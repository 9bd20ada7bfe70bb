"""A language model asked for values, beside the reader: where a lead lets it, about reports that were read, and never believed without its quote."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any, NamedTuple
from urllib.parse import urlsplit

from sqlmodel import Session

from kettlesort.core.charting import language_model as core
from kettlesort.core.charting.asking import Passage
from kettlesort.core.charting.proposals import Asked
from kettlesort.outside.language_model import LanguageModel, ModelError
from kettlesort.outside.polite import Manners
from kettlesort.settings import settings
from kettlesort.store import asking as texts
from kettlesort.store import chart as charts
from kettlesort.store import codebook as codebooks
from kettlesort.store import language_model as store
from kettlesort.store.base import snapshot
from kettlesort.store.jobs import under_way
from kettlesort.store.language_model import ModelAsking
from kettlesort.store.match import record_of_copy
from kettlesort.store.plan import Review
from kettlesort.store.proposals import Proposal, drop_unanswered
from kettlesort.work import jobs
from kettlesort.work.change import Change, changing
from kettlesort.work.codebook import book_in, core_item
from kettlesort.work.double import Levels, levels_of
from kettlesort.work.errors import Conflict, Invalid
from kettlesort.work.questions_of_reports import Questions, questions_of

MANNERS = Manners(seconds=60, tries=3, largest=1_000_000, private=True)
"""How it is asked: whoever runs the server has chosen its address."""


def name() -> str:
    """What people read for the model, "" where there is none."""
    said = settings()
    return said.language_model and (said.language_model_name or urlsplit(said.language_model).hostname or said.language_model)


class Model(NamedTuple):
    """The language model of this server (``name`` "" for none), where it is, whether this review's texts may be sent to it and who said so; how many reports
    may be asked about, wait, were asked about or could not be, by the latest asking of each; what it proposed then, what was refused of its answers by reason, and what
    people said of all that it proposed."""

    name: str
    host: str
    allowed: bool
    by: str
    at: datetime | None
    unasked: int
    waiting: int
    asking: bool
    asked: int
    failed: int
    problem: str
    proposed: int
    refused: dict[str, int]
    accepted: int
    changed: int
    passed_over: int


def model(review: int) -> Model:
    """Where the review stands with the language model."""
    with snapshot() as db:
        consent, said, latest = store.consented(db, review), store.said_of_it(db, review), store.askings(db, review)
        states = Counter(one["state"] for one in latest)
        problem = max(((one["at"], one["problem"]) for one in latest if one["problem"]), default=(None, ""))[1]
        refused = sum((Counter(one["refused"]) for one in latest), Counter[str]())
        return Model(
            name(), urlsplit(settings().language_model).netloc, _allowed(db, review), consent["by"] if consent else "", consent["at"] if consent else None,
            len(store.to_ask(db, review)), states["waiting"], under_way(db, review, "ask_model"), states["asked"], states["failed"], problem,
            sum(one["proposed"] for one in latest), dict(refused.most_common()), said["accepted"], said["changed"], said["refused"],
        )  # fmt: skip


def _allowed(db: Session, review: int) -> bool:
    return bool(settings().language_model) and db.get_one(Review, review).language_model


def allow(review: int, account: int, yes: bool) -> None:
    """Let the model be sent what this review's reports say, or forbid it; what waits to be asked is then not."""
    if yes and not settings().language_model:
        raise Invalid("This server knows no language model; whoever runs it can name one.")
    with changing(review, account, "chart") as change:
        found = change.db.get_one(Review, review)
        if found.language_model != yes:
            found.language_model = yes
            change.event("chart.model_allowed" if yes else "chart.model_forbidden", name())
        if not yes:
            store.forget_waiting(change.db, review)


def ask(review: int, account: int, *, again: bool = False) -> int:
    """Ask the model about the reports that were read and that it was not asked about, or about all of them ``again``, in the background. How many wait."""
    with changing(review, account, "chart") as change:
        if not _allowed(change.db, review):
            raise Conflict("The lead has not allowed that texts of this review are sent to the language model.")
        return _queue(change, store.to_ask(change.db, review, again=again))


def ask_about(change: Change, record: int) -> None:
    """A report was read: the model is asked about it as well, if it may be."""
    if _allowed(change.db, change.review):
        _queue(change, [record])


def _queue(change: Change, records: list[int]) -> int:
    for record in records:
        change.db.add(ModelAsking(review_id=change.review, copy_id=record, account_id=change.account))
    change.db.flush()
    waiting = len(store.waiting(change.db, change.review))
    if waiting and not under_way(change.db, change.review, "ask_model"):
        jobs.begin(change, "ask_model", f"Asking {name()} for values")
    return waiting


def ask_model(job_id: int) -> None:
    """The job behind it: report by report, question by question; what comes of a report is written in one transaction."""
    jobs.one_by_one(job_id, store.waiting, _ask, "chart")


class _Report(NamedTuple):
    """A report that the model is asked about: its study, its passages, the questions, and the quotes of what the reader proposed by cell."""

    record: int
    study: int
    passages: list[Passage]
    questions: Questions
    quotes: dict[tuple[int, Levels], list[str]]


def _ask(review: int, account: int, number: int) -> None:
    with snapshot() as db:
        held = db.get(ModelAsking, number)
        if held is None or held.state != "waiting":
            return
        record = record_of_copy(db, review, held.copy_id)
        report = None if record is None else _report(db, review, record)
        items = {one.id: core_item(one) for one in book_in(db, review).items}
    if report is None:
        _say(review, account, number, "failed", "It is no longer among the included reports, or was not read.")
        return
    found: list[tuple[Asked, core.Said]] = []
    refused, problem = Counter[str](), ""
    try:
        for asked in report.questions.asked:
            sent = core.passages_for(asked, report.passages, _quotes(report, asked))
            if not sent:
                continue
            with snapshot() as db:
                if not _allowed(db, review):  # a lead has forbidden it a moment ago, or the server knows it no more
                    raise ModelError("The language model may not be asked any more.")
            item = items[report.questions.of(asked, None)[0]]
            answer = core.answered(_client().ask(core.question(asked, sent)), asked, item, sent)
            refused += answer.refused
            found += [(asked, said) for said in answer.said]
    except ModelError as error:
        problem = str(error)
    _say(review, account, number, "failed" if problem else "asked", problem, report, found, refused)


def _client() -> LanguageModel:
    return LanguageModel(settings().language_model, settings().language_model_key, MANNERS)


def share_taken(db: Session, review: int) -> float:
    """How sure what it proposes is: the share that this team has taken of it, with one taken and one not taken before any (the rule of succession)."""
    told = store.said_of_it(db, review)
    return round((told["accepted"] + 1) / (sum(told.values()) + 2), 4)


def _report(db: Session, review: int, record: int) -> _Report | None:
    report = next((one for one in charts.reports(db, review) if one["record_id"] == record), None)
    text = next((one for one in texts.texts(db, review) if one["record_id"] == record), None)
    if report is None or text is None or text["sha256"] != report["sha256"]:
        return None
    questions = questions_of(book_in(db, review).items, codebooks.levels(db, review), report["study_id"])
    quotes: dict[tuple[int, Levels], list[str]] = {}
    for one in store.quotes_of(db, review, record):
        quotes.setdefault((one["item_id"], levels_of(one)), []).append(one["quote"])
    return _Report(record, report["study_id"], [Passage(*one) for one in text["passages"]], questions, quotes)


def _quotes(report: _Report, asked: Asked) -> list[str]:
    """The quotes of the surest values that the reader proposed for a question."""
    arms: list[str | None] = [one.id for one in asked.arms] or [None]
    cells = [report.questions.of(asked, arm) for arm in arms]
    return [quote for cell in cells for quote in report.quotes.get(cell, [])[:2]]


def _say(
    review: int, account: int, number: int, state: str, problem: str, report: _Report | None = None, found: Sequence[tuple[Asked, core.Said]] = (),
    refused: Mapping[str, int] | None = None,
) -> None:  # fmt: skip
    """Write down what came of asking about a report, with what was proposed until then."""
    with changing(review, account, "chart") as change:
        held = change.db.get(ModelAsking, number)
        if held is None or held.state != "waiting":
            return
        held.state, held.problem, held.proposed, held.refused = state, problem, len(found), dict(refused or {})
        if report is None:
            return
        if state == "asked" or found:
            drop_unanswered(change.db, review, report.record, of_model=True)
        sure = share_taken(change.db, review)
        for asked, said in found:
            item, (arm, outcome, time) = report.questions.of(asked, said.arm)
            values: dict[str, Any] = {"item_id": item, "arm_id": arm, "outcome_id": outcome, "time_id": time}
            change.db.add(
                Proposal(
                    review_id=review, study_id=report.study, copy_id=report.record, text=said.text, quote=said.quote, page=said.page, confidence=sure,
                    model=name(), **values,
                )
            )  # fmt: skip
