"""The screening desk."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from typing import NamedTuple

from sqlmodel import Session

from kettlesort.core.ranking.reasons import marked
from kettlesort.core.record import Record
from kettlesort.core.screening.naming import named_in
from kettlesort.core.screening.underline import Underlined, parts, underlined
from kettlesort.settings import settings
from kettlesort.store import orders, ranking
from kettlesort.store import screen as store
from kettlesort.store.base import Row, seen_by, session, snapshot
from kettlesort.store.chart import ensure_study
from kettlesort.store.fulltexts import full_texts_of
from kettlesort.store.passes import has_share, latest_settlement, modes
from kettlesort.store.plan import Criterion, members
from kettlesort.store.records import Wanted, record_of
from kettlesort.store.screen import Note, NoteTo, Taking, Verdict
from kettlesort.store.standing import lock_state, state_in
from kettlesort.store.stopping import latest_sample
from kettlesort.work.change import Change, changing
from kettlesort.work.errors import Conflict, Invalid, NotFound
from kettlesort.work.records import found_by
from kettlesort.work.underline import words_in

VERDICTS = ("include", "exclude", "unsure")
PASSES = {1: "open", 2: "second_open"}
_WORDS = {"open": "open again", "unsure": "unsure", "differs": "read differently", "include": "included", "exclude": "excluded"}


class Sheet(NamedTuple):
    """All that the desk shows of a record, as whoever looks may see it. ``row`` has its state, whether it is read blind, the viewer's own
    verdict, its place in the order, an open pair, and who else has it; ``others`` are the records that ``why`` names.
    """

    id: int
    record: Record
    row: Row
    order: Row | None
    why: ranking.Why | None
    others: dict[int, Row]
    title_marks: list[Underlined]
    abstract_marks: list[Underlined]
    abstract_parts: list[tuple[int, int]]
    own_words: list[tuple[str, bool]]
    origins: Sequence[Row]
    history: Sequence[Row]
    notes: Sequence[Row]
    full_text: Row | None
    spoken: Row | None = None


def sheet(review: int, account: int, record: int, pass_number: int = 1, order: int = 0) -> Sheet:
    """A record as the desk shows it, in another ``order`` with its place there."""
    found = sheets(review, account, [record], pass_number, order)
    if not found:
        raise NotFound("There is no such record in this review; it may have been joined with another.")
    return found[0]


def sheets(review: int, account: int, records: Sequence[int], pass_number: int, order: int = 0) -> list[Sheet]:
    """Records as the desk shows them, those that are there, in the given sequence: by a few statements for all of them.

    ``spoken`` is a record's place in another ``order``, its score and its sentence there.
    """
    if not records:
        return []
    with seen_by(account), snapshot() as db:
        found = store.sheets(db, review, account, pass_number, records)
        ranked = ranking.order_of(db, review)
        spoken = orders.spoken_in(db, order, records) if order and orders.order_here(db, review, order) else {}
        words = words_in(db, review)
        whys = {row["id"]: ranking.Why(**row["why"]) for row in found if row["why"]}
        others = ranking.titles_of(db, review, [number for why in whys.values() for number, _ in (*why.alike, *why.nearest)])
        origins, histories, notes, texts = (
            _by_record(read(db, records)) for read in (store.origins, store.histories, store.notes_on, full_texts_of)
        )
    own = [*((word, True) for word in words.supports), *((word, False) for word in words.opposes)]
    out = []
    for row in found:
        record = record_of(row)
        number = row["id"]
        why = whys.get(number)
        signs = {form: share > 0 for _, share, forms in why.words for form in forms} if why else {}
        out.append(
            Sheet(
                number, record, row, ranked, why, others, underlined(record.title, own, marked(record.title, signs)),
                underlined(record.abstract, own, marked(record.abstract, signs)), parts(record.abstract), own, origins.get(number, []),
                histories.get(number, []), notes.get(number, []), next(iter(texts.get(number, [])), None), spoken.get(number),
            )
        )  # fmt: skip
    return out


def _by_record(found: Sequence[Row]) -> dict[int, list[Row]]:
    out: dict[int, list[Row]] = {}
    for row in found:
        out.setdefault(row["record_id"], []).append(row)
    return out


def hand_out(review: int, account: int, wanted: Wanted, skip: list[int], limit: int) -> list[Sheet]:
    """Put the next undecided records on somebody's desk; nobody else is handed them for some minutes."""
    wanted = found_by(review, wanted)
    if wanted.of_copies:
        raise NotFound(f"There is no list of records named “{wanted.list}”.")
    with session() as db:
        try:
            held = store.take_next(
                db, _taking(db, review, account, wanted.pass_number), wanted, skip, min(limit, 10), settings().hold_minutes
            )
        except (KeyError, ValueError) as error:
            raise NotFound(f"There is no list named “{wanted.list}”.") from error
    return sheets(review, account, held, wanted.pass_number, wanted.order)


def _taking(db: Session, review: int, account: int, pass_number: int) -> Taking:
    sample = latest_sample(db, review) if pass_number == 1 else None
    return Taking(
        review,
        account,
        modes(db, review)[pass_number].readers,
        has_share(db, review, account, pass_number),
        sample["id"] if sample else None,
    )


def leave_desk(review: int, account: int) -> None:
    """Give up everything on one's desk."""
    with session() as db:
        store.clear_desk(db, review, account)


class Said(NamedTuple):
    """A decision as made; ``seen`` is the state in which the person saw the record, where that is known. ``again`` if it may have arrived before."""

    record: int
    pass_number: int
    verdict: str
    criterion: int | None
    seen: str | None = None
    again: bool = False


def decide(review: int, account: int, said: Said) -> None:
    """One person's verdict on one record."""
    if said.verdict not in VERDICTS or said.pass_number not in PASSES:
        raise Invalid("A verdict is include, exclude or unsure, in pass 1 or 2.")
    with changing(review, account, "screen", alone=said.pass_number == 2) as change:  # an inclusion may make a study
        standing = lock_state(change.db, review, said.record)
        if standing is None:
            raise NotFound("This record is gone; it was joined with another meanwhile.")
        if said.again and _has_arrived(change, said):
            change.unseen = True
            return
        _may_be_decided(change, standing, said)
        give_verdict(change, standing, said)


def _has_arrived(change: Change, said: Said) -> bool:
    held = store.latest_own(change.db, change.review, change.account, said.pass_number, said.record)
    return held is not None and (held["verdict"], held["criterion_id"] or None) == (said.verdict, said.criterion or None)


STATES = {1: "first", 2: "second"}


def give_verdict(change: Change, standing: Row, said: Said, *, settles: bool = False) -> None:
    """Write a verdict down on a record whose standing is locked, and all that follows from it. While others are still to read it, nobody is told."""
    criterion = _criterion(change, said)
    change.db.add(
        Verdict(
            review_id=change.review,
            copy_id=said.record,
            pass_number=said.pass_number,
            account_id=change.account,
            verdict=said.verdict,
            criterion_id=criterion.id if criterion else None,
            settles=settles,
        )
    )
    store.clear_desk(change.db, change.review, change.account, said.pass_number, said.record)
    change.stands([said.record], locked=True)
    column = STATES[said.pass_number]
    now = state_in(change.db, change.review, said.record)
    assert now is not None
    if said.pass_number == 2 and now["second"] == "include":
        ensure_study(change.db, change.review, said.record)
    after = said.verdict + (f": {criterion.name}" if criterion else "")
    change.event(
        f"screen.{'settled' if settles else 'decided'}_pass_{said.pass_number}", standing["title"], standing[column], after,
        about=said.record, pass_number=said.pass_number,
    )  # fmt: skip
    change.unseen = now[f"{column}_blind"]
    if not change.unseen:
        change.rank_again()


def readers_of(db: Session, review: int, record: int, pass_number: int, account: int) -> tuple[int, store.Reading]:
    """How many are to read a record in a pass, and who does, seen by an account."""
    reading = store.reading_of(db, review, record, pass_number, account)
    return max(modes(db, review)[pass_number].readers, reading.allotted), reading


def _may_be_decided(change: Change, standing: Row, said: Said) -> None:
    state = standing[STATES[said.pass_number]]
    if standing["first"] == "aside":
        raise Conflict("This record was set aside by narrowing; let it in first.")
    if said.pass_number == 2 and (standing["first"] != "include" or standing["fulltext"] != "obtained"):
        raise Conflict("The second pass needs the full text: mark it as obtained first.")
    readers, reading = readers_of(change.db, change.review, said.record, said.pass_number, change.account)
    if readers > 1:
        if not standing[f"{STATES[said.pass_number]}_blind"]:
            raise Conflict(
                "Everybody who should has read this record. What differs, and what seems wrong, is settled under Differences.", state=state
            )
        if not reading.mine and reading.others >= readers:
            raise Conflict("This record is on the shares of others; it needs no further reader.")
        return
    rivals = store.rivals_of(change.db, change.review, said.record, said.pass_number, change.account)
    if rivals["holder"] and state in ("open", "unsure"):
        raise Conflict(f"{rivals['holder']} has this record on the desk.", holder=rivals["holder"])
    if said.seen and said.seen != state and rivals["decided_by"]:
        raise Conflict(
            f"{rivals['decided_by']} has decided on this record meanwhile: {_WORDS[state]}. Look at it again; your verdict counts if you give it then.",
            by=rivals["decided_by"],
            state=state,
        )


def _criterion(change: Change, said: Said) -> Criterion | None:
    if said.verdict != "exclude":
        return None
    found = change.db.get(Criterion, said.criterion) if said.criterion else None
    if found is None or found.review_id != change.review or found.removed_at:
        raise Invalid("Excluding names the criterion that failed.", field="criterion")
    if not (found.first if said.pass_number == 1 else found.second):
        raise Invalid(f"“{found.name}” does not apply to this pass.", field="criterion")
    return found


def take_back(review: int, account: int, pass_number: int, record: int | None = None) -> int:
    """Withdraw one's own latest verdict in a pass, on a record or on any; the record that it was on.

    Once all readers have decided on a record, a slip can be taken back for some minutes, and only before somebody settles it.
    """
    with changing(review, account, "screen", alone=False) as change:
        found = store.latest_own(change.db, review, account, pass_number, record)
        if found is None:
            raise NotFound("There is no decision of yours to take back.")
        record = int(found["record_id"])
        standing = lock_state(change.db, review, record)
        if standing is None:
            raise NotFound("There is no decision of yours to take back.")
        taking = _taking(change.db, review, account, pass_number)
        column = STATES[pass_number]
        if readers_of(change.db, review, record, pass_number, account)[0] > 1 and not standing[f"{column}_blind"]:
            late = datetime.now(UTC) - found["at"] > timedelta(minutes=settings().hold_minutes)
            if late or latest_settlement(change.db, review, record, pass_number):
                raise Conflict(
                    "Everybody who should has read your last record, and others may have seen what was said. Settle it under Differences."
                )
        made = change.db.get(Verdict, found["id"])
        assert made is not None
        made.withdrawn_at, made.withdrawn_by = datetime.now(UTC), account
        change.stands([record], locked=True)
        store.put_on_desk(change.db, taking, pass_number, [record], settings().hold_minutes)
        change.event(
            f"screen.taken_back_pass_{pass_number}", standing["title"], found["verdict"], None, about=record, pass_number=pass_number
        )
        change.unseen = standing[f"{column}_blind"]
        if not change.unseen:
            change.rank_again()
        return record


def history(review: int, account: int, pass_number: int, limit: int = 50) -> Sequence[Row]:
    """One's own decisions, newest first."""
    with snapshot() as db:
        return store.own_history(db, review, account, pass_number, limit)


def note(review: int, account: int, record: int, text: str) -> None:
    """Note something about a record; an empty note clears one's own. Colleagues whom it names (``@`` and what they sign in with) find it among those to them."""
    with changing(review, account, "screen", alone=False) as change:
        standing = lock_state(change.db, review, record)
        if standing is None:
            raise NotFound("There is no such record in this review.")
        before = next((n["text"] for n in store.notes_on(change.db, [record]) if n["account_id"] == account), "")
        change.unseen = standing["first_blind"] or standing["second_blind"]
        if before != text.strip():
            noted = Note(review_id=review, copy_id=record, account_id=account, text=text.strip()[:10000])
            change.db.add(noted)
            change.db.flush()
            team = {one["name"]: one["id"] for one in members(change.db, review) if one["removed_at"] is None and one["id"] != account}
            for name in named_in(noted.text, team):
                change.db.add(NoteTo(note_id=noted.id or 0, account_id=team[name], review_id=review))
            change.event("screen.noted", standing["title"], before, text.strip()[:10000], about=record)


def notes_to(review: int, account: int) -> Sequence[Row]:
    """The notes that name somebody: of a record that is read blind, once they and the others have read it."""
    with snapshot() as db:
        return store.notes_to(db, review, account)


def be_done(review: int, account: int, number: int, *, done: bool) -> None:
    """Say that one is done with a note to oneself, or not yet."""
    with changing(review, account, "", alone=False) as change:
        found = change.db.get(NoteTo, (number, account))
        if found is None or found.review_id != review:
            raise NotFound("There is no such note to you.")
        found.done_at = datetime.now(UTC) if done else None
