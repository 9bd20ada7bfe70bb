"""Values proposed from reports: reading them in the background, and what people say of each proposal. Nothing enters the table without a person."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from datetime import UTC, datetime
from typing import Any, NamedTuple

from sqlmodel import Session

from kettlesort import apart
from kettlesort.core.charting import asking, marked
from kettlesort.core.charting import proposals as core
from kettlesort.core.charting.asking import Passage
from kettlesort.core.charting.proposals import Asked, Rated
from kettlesort.core.charting.proposals.weights import Answer, Family, chance, learnt
from kettlesort.core.charting.values import NotAValue, worded
from kettlesort.core.fulltext.article import Article, of_pdf, of_record
from kettlesort.core.fulltext.pages import NotAPdf
from kettlesort.store import asking as texts
from kettlesort.store import chart as charts
from kettlesort.store import codebook as codebooks
from kettlesort.store import gather
from kettlesort.store import proposals as store
from kettlesort.store.base import Row, session, snapshot
from kettlesort.store.jobs import under_way
from kettlesort.store.match import record_of_copy
from kettlesort.store.proposals import Proposal, ProposalAnswer, ReportReading
from kettlesort.work import jobs
from kettlesort.work.change import Change, changing, tell
from kettlesort.work.chart import NotTaken, Table, Typed, known_cell
from kettlesort.work.codebook import ItemWording, book_in, core_item
from kettlesort.work.double import Levels, cell_of, levels_of, mode_in
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.language_model import ask_about, share_taken
from kettlesort.work.questions_of_reports import Questions, questions_of
from kettlesort.work.studies import label_of


class ReportState(NamedTuple):
    """What became of reading a report: nothing yet (``""``), waiting, read, failed; ``late`` if its file or the codebook changed since."""

    record: int
    study: int
    state: str
    whole: bool
    pages: int | None
    problem: str
    late: bool


def reports(review: int) -> list[ReportState]:
    """Every included report, and what became of reading it."""
    with snapshot() as db:
        return _reports(db, review)


def _reports(db: Session, review: int) -> list[ReportState]:
    version = codebooks.latest_version(db, review)
    read = {reading["record_id"]: reading for reading in store.readings(db, review)}
    out = []
    for report in charts.reports(db, review):
        done = read.get(report["record_id"])
        late = done is not None and done["state"] != "waiting" and (done["version"] != version or done["sha256"] != report["sha256"])
        out.append(
            ReportState(
                report["record_id"], report["study_id"], done["state"] if done else "", report["sha256"] is not None,
                done["pages"] if done else None, done["problem"] if done else "", late,
            )
        )  # fmt: skip
    return out


def ask(review: int, account: int, studies: Set[int] | None = None, *, again: bool = False) -> int:
    """Have the reports of some studies, or of all, read for values in the background: those that were not read yet, or not since their file or the codebook
    changed, or all of them ``again``. How many wait now."""
    with changing(review, account, "chart") as change:
        known = _reports(change.db, review)
        if studies is not None and not studies <= {one.study for one in known}:
            raise NotFound("One of these studies is not among the included ones.")
        chosen = [
            one for one in known
            if (studies is None or one.study in studies) and one.state != "waiting" and (again or one.late or not one.state)
        ]  # fmt: skip
        for one in chosen:
            change.db.add(ReportReading(review_id=review, copy_id=one.record, account_id=account))
        if chosen:
            change.db.flush()
            change.event("chart.reading_asked", "", None, len(chosen))
        waiting = len(store.waiting(change.db, review))
        if waiting and not under_way(change.db, review, "propose_values"):  # also for those that a cancelled job left
            jobs.begin(change, "propose_values", "Reading reports for values")
        return waiting


def propose_values(job_id: int) -> None:
    """The job behind it: each report is read in a process of its own; its proposals are written in one transaction."""
    jobs.one_by_one(job_id, store.waiting, _read, "chart")


def _read(review: int, account: int, number: int) -> None:
    with snapshot() as db:
        held = db.get(ReportReading, number)
        if held is None or held.state != "waiting":
            return
        record = record_of_copy(db, review, held.copy_id)  # another one than when it was asked, if records were joined meanwhile
        report = next((one for one in charts.reports(db, review) if one["record_id"] == record), None)
        items, version = book_in(db, review).items, codebooks.latest_version(db, review)
        questions = questions_of(items, codebooks.levels(db, review), report["study_id"]) if report else Questions([], {})
        weights = _weights(db, review)
        text = charts.text_of(db, report["record_id"]) if report else None
        db.expunge_all()
    if report is None or text is None:
        _say(review, account, number, "failed", "It is no longer among the included reports.", version, None)
        return
    try:
        found = _of_file(report["sha256"], questions.asked, weights) if report["sha256"] else _of_text(*text, questions.asked, weights)
    except (NotAPdf, apart.Broken) as error:
        _say(review, account, number, "failed", f"{report['filename']}: {error}", version, report)
        return
    _say(review, account, number, "read", found.problem, version, report, _worded(found.rated, questions, items), found)


THESIS = apart.Limits(seconds=300)
"""What reading a document of hundreds of pages for dozens of items may take."""


class _Found(NamedTuple):
    rated: list[Rated]
    passages: list[Passage]
    pages: int | None
    problem: str


def _of_file(sha256: str, asked: list[Asked], weights: dict[str, Family]) -> _Found:
    with session() as db, apart.on_disk(gather.open_blob(db, sha256)) as path:
        db.rollback()  # nobody waits for what a stranger's file takes
        rated, passages, pages, textless = apart.call(_in_child, path, asked, weights, limits=THESIS)
    problem = "It holds no text, only pictures of pages; have its text recognised, and attach it again." if textless else ""
    return _Found(rated, passages, pages, problem)


def _in_child(path: str, asked: list[Asked], weights: dict[str, Family]) -> tuple[list[Rated], list[Passage], int, bool]:
    with open(path, "rb") as file:
        article: Article = of_pdf(file)
    textless = not any(text.strip() for text in article.pages.values())
    rated = [] if textless or not asked else core.rated(article, asked, weights)
    return rated, asking.passages(article), len(article.pages), textless


def _of_text(title: str, abstract: str, asked: list[Asked], weights: dict[str, Family]) -> _Found:
    article = of_record(title, abstract)
    problem = "" if abstract else "There is neither a PDF nor an abstract to read."
    return _Found(core.rated(article, asked, weights) if asked else [], asking.passages(article), None, problem)


def _weights(db: Session, review: int) -> dict[str, Family]:
    """How sure is a matter of signs, as the team's answers have moved their weights."""
    return learnt([Answer(sign["kind"], sign["signs"], sign["right"]) for sign in store.answers_with_signs(db, review)])


RATE_AFTER = 3.0
"""Seconds after an answer until the proposals that wait are rated anew, with all answers up to then."""


def _rate_again(change: Change) -> None:
    change.enqueue("rate", once=f"rate-{change.review}", after=RATE_AFTER, review=change.review)


def rate(review: int) -> None:
    """Rate the proposals that wait for a person by what the team has said of others meanwhile."""
    with snapshot() as db:
        weights, of_model = _weights(db, review), share_taken(db, review)
        waiting = store.open_signs(db, review)
    chances = {one["id"]: of_model if one["model"] else round(chance(one["kind"], one["signs"], weights), 4) for one in waiting}
    moved = {one["id"]: chances[one["id"]] for one in waiting if chances[one["id"]] != one["confidence"]}
    if moved:
        with session() as db:
            store.rate_anew(db, moved)
            tell(db, review, "rating")


def _worded(rated: Sequence[Rated], questions: Questions, items: Sequence[ItemWording]) -> list[dict[str, Any]]:
    by_id = {one.id: core_item(one) for one in items}
    out = []
    for proposal, signs in rated:
        item, levels = questions.about[proposal.item, proposal.arm]
        try:
            text = worded(by_id[item], proposal.value)
        except NotAValue:  # outside the allowed range, or in a unit that measures something else
            continue
        arm, outcome, time = levels
        out.append({
            "item_id": item, "arm_id": arm, "outcome_id": outcome, "time_id": time, "text": text, "quote": proposal.quote, "page": proposal.page,
            "confidence": proposal.confidence, "signs": signs,
        })  # fmt: skip
    return out


def _say(
    review: int, account: int, number: int, state: str, problem: str, version: int, report: Row | None,
    proposed: Sequence[Mapping[str, Any]] = (), found: _Found | None = None,
) -> None:  # fmt: skip
    """Write down what became of a reading, with its proposals; those from the same report that nobody has answered are replaced."""
    with changing(review, account, "chart") as change:
        held = change.db.get(ReportReading, number)
        if held is None or held.state != "waiting":
            return
        held.state, held.problem, held.version, held.pages = state, problem, version, found.pages if found else None
        held.sha256 = report["sha256"] if report else None
        if report is None or found is None:
            return
        texts.keep_text(change.db, review, report["record_id"], report["sha256"], found.passages)
        store.drop_unanswered(change.db, review, report["record_id"])
        for one in proposed:
            change.db.add(Proposal(review_id=review, study_id=report["study_id"], copy_id=report["record_id"], **one))
        change.db.flush()
        if mode_in(change.db, review).second == "proposals":  # what a person has read meanwhile has its second one
            table = Table(change, {report["study_id"]})
            for cell in table.double.cells():
                table.compare(cell)
        ask_about(change, report["record_id"])


class OpenCell(NamedTuple):
    """A cell that waits for a person: the surest proposal for it, and how many there are."""

    proposal: int
    study: int
    item: int
    levels: Levels
    text: str
    confidence: float
    n: int
    model: str


def open_cells(review: int) -> list[OpenCell]:
    """Every cell that waits for a person."""
    with snapshot() as db:
        mode = mode_in(db, review)  # of what two read, they read each for themselves
        return [
            OpenCell(cell["id"], cell["study_id"], cell["item_id"], levels_of(cell), cell["text"], cell["confidence"], cell["n"], cell["model"])
            for cell in store.open_cells(db, review) if not mode.covers(cell["study_id"], cell["item_id"])
        ]  # fmt: skip


def counts(review: int) -> dict[str, Any]:
    """What was said of proposals, how many reports wait to be read, and whether that is under way."""
    with snapshot() as db:
        return {**store.counts(db, review), "reading": under_way(db, review, "propose_values")}


def of_cell(review: int, study: int, item: int, levels: Levels) -> Sequence[Row]:
    """The proposals for a cell, the surest first."""
    with snapshot() as db:
        known_cell(db, review, study, item)
        return store.of_cell(db, review, study, item, levels)


class Accepted(NamedTuple):
    """Proposals that were taken in one stroke, by its number, and what could not be taken."""

    stroke: int
    taken: int
    refused: list[NotTaken]


def accept(review: int, account: int, numbers: Sequence[int], text: str | None = None) -> Accepted:
    """Take proposals into the table as they are, or one with another ``text``. A cell that got a value meanwhile is told and left."""
    if text is not None and len(numbers) != 1:
        raise Invalid("One proposal is corrected at a time.")
    with changing(review, account, "chart") as change:
        chosen = [_open(change.db, review, number) for number in dict.fromkeys(numbers)]
        if not chosen:
            raise Invalid("No proposal was chosen.")
        stroke = chosen[0].id or 0
        table = Table(change, {one.study_id for one in chosen})
        refused: list[NotTaken] = []
        for one in chosen:
            changed = text is not None and text.strip() != one.text
            told = table.write([
                Typed(
                    one.study_id, one.item_id, text if changed and text is not None else one.text, one.quote, "" if one.page is None else str(one.page), "",
                    _levels(one), "changed" if changed else "accepted", one.copy_id, model=one.model,
                )
            ])  # fmt: skip
            refused += told
            if not told:
                change.db.add(
                    ProposalAnswer(
                        review_id=review,
                        proposal_id=one.id or 0,
                        stroke=stroke,
                        verdict="changed" if changed else "accepted",
                        account_id=account,
                    )
                )
        if refused and len(chosen) == 1 and refused[0].theirs is None:
            raise Invalid(f"{refused[0].message}.", field="text")
        _rate_again(change)
        return Accepted(stroke, len(chosen) - len(refused), refused)


def _levels(proposal: Proposal) -> Levels:
    return proposal.arm_id, proposal.outcome_id, proposal.time_id


def _open(db: Session, review: int, number: int) -> Proposal:
    found = db.get(Proposal, number)
    if found is None or found.review_id != review:
        raise NotFound("There is no such proposal in this review.")
    if found.gone_at is not None:
        raise Conflict("This report was read again meanwhile; look at what is proposed now.")
    if any(row["id"] == number and row["verdict"] for row in store.of_cell(db, review, found.study_id, found.item_id, _levels(found))):
        raise Conflict("Somebody has answered this proposal meanwhile.")
    return found


def refuse(review: int, account: int, study: int, item: int, levels: Levels) -> int:
    """Say of a cell that none of its proposals is right; the number of the stroke."""
    with changing(review, account, "chart") as change:
        found = [one for one in store.of_cell(change.db, review, study, item, levels) if not one["verdict"]]
        if not found:
            raise Conflict("Nothing is proposed for this cell any more.")
        stroke = int(found[0]["id"])
        for one in found:
            change.db.add(ProposalAnswer(review_id=review, proposal_id=one["id"], stroke=stroke, verdict="refused", account_id=account))
        asked = change.db.get(codebooks.Item, item)
        change.event("chart.proposal_refused", f"{label_of(change.db, study)}: {asked.name if asked else ''}", found[0]["text"], None)
        _rate_again(change)
        return stroke


def take_back(review: int, account: int, stroke: int) -> int:
    """Take back what was said in one stroke: cells that got a value by it are empty again, unless somebody changed them since. How many were taken back."""
    with changing(review, account, "chart") as change:
        found = store.answered_in(change.db, review, stroke)
        if not found:
            raise NotFound("There is nothing to take back.")
        table = Table(change, {one["study_id"] for one in found})
        for one in found:
            answer = change.db.get(ProposalAnswer, one["answer"])
            assert answer is not None
            answer.withdrawn_at = datetime.now(UTC)
            held, _ = table.over(cell_of(one))
            if one["verdict"] != "refused" and held and held["how"] in ("accepted", "changed"):
                table.write([Typed(one["study_id"], one["item_id"], "", "", "", levels=levels_of(one))])
        change.event("chart.answer_taken_back", "", len(found), None)
        _rate_again(change)
        return len(found)


def value_in(review: int, item: int, words: str) -> str:
    """The value of an item that marked words of a report state, in its normal form; "" where they state none."""
    with snapshot() as db:
        asked = next((one for one in book_in(db, review).items if one.id == item), None)
    if asked is None:
        raise NotFound("There is no such item in this review.")
    return marked.value_in(core_item(asked), words)
