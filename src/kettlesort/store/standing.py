"""Where each record stands, worked out from verdicts, shares, seeds, full texts and narrowings in the transaction that changes them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from typing import Any, NamedTuple

from sqlalchemy import BigInteger, Column, Index, text
from sqlmodel import Field, Session

from kettlesort.core.screening.passes import Mode, Outcome, Said, outcome
from kettlesort.store.base import Row, Table, one_of, reference
from kettlesort.store.passes import modes, places_of_criteria
from kettlesort.store.sql import row, rows, run


class Standing(Table, table=True):
    """Where a record stands in every step; follows from the rows that it is worked out from.

    A record that a narrowing holds aside has the first state "aside", whatever was decided on it before. It is ``blind``
    in a pass while some of its several readers have not decided: until then nobody sees what another said.
    """

    __table_args__ = (
        one_of("first", "open", "unsure", "include", "exclude", "aside", "differs"),
        one_of("fulltext", "sought", "obtained", "missing"),
        one_of("second", "open", "unsure", "include", "exclude", "differs"),
        Index("ix_standing_review", "review_id", "first", "fulltext", "second", "main", "seed", "second_criterion"),
        Index("ix_standing_narrowing", "review_id", "narrowing_id", "main", postgresql_where=text("narrowing_id IS NOT NULL")),
    )

    record_id: int = Field(sa_column=Column(BigInteger, primary_key=True, autoincrement=False))
    review_id: int = reference("review.id")
    main: bool
    seed: bool
    first: str = "open"
    first_criterion: int | None = reference("criterion.id", null=True)
    fulltext: str = "sought"
    second: str = "open"
    second_criterion: int | None = reference("criterion.id", null=True)
    narrowing_id: int | None = reference("narrowing.id", null=True)
    first_blind: bool = False
    second_blind: bool = False


class Outcomes(NamedTuple):
    """What the verdicts on a record come to in both passes."""

    first: Outcome
    second: Outcome


def outcomes(db: Session, review: int, records: list[int] | None = None, others: Mapping[int, Mode] | None = None) -> dict[int, Outcomes]:
    """What verdicts come to, of some records or all that have a verdict or wait for more people than the mode says; as if under ``others`` where these modes are given."""
    which, values = _which(review, records)
    by_pass = {**modes(db, review), **(others or {})}
    said: dict[tuple[int, int], list[Said]] = defaultdict(list)
    for entry in rows(
        db,
        f"""SELECT p.record_id, v.pass_number, v.id, v.account_id, v.verdict, v.criterion_id, v.settles FROM verdict v JOIN placement p ON p.copy_id = v.copy_id
        WHERE v.review_id = :review AND v.withdrawn_at IS NULL AND {which.format("p.record_id")}""",
        **values,
    ):
        said[entry["record_id"], entry["pass_number"]].append(
            Said(entry["id"], entry["account_id"], entry["verdict"], entry["criterion_id"], entry["settles"])
        )
    allotted = {
        (one["record_id"], one["pass_number"]): one["n"]
        for one in rows(
            db,
            f"""SELECT p.record_id, h.pass_number, count(DISTINCT a.account_id) AS n FROM allotment a JOIN sharing h ON h.id = a.sharing_id JOIN placement p ON p.copy_id = a.copy_id
            WHERE a.review_id = :review AND a.given_back_at IS NULL AND {which.format("p.record_id")} GROUP BY 1, 2 HAVING bool_or(a.beyond)""",
            **values,
        )
    }
    order = places_of_criteria(db, review) if any(mode.readers > 1 for mode in by_pass.values()) or allotted else {}

    def of(record: int, number: int) -> Outcome:
        return outcome(by_pass[number], said.get((record, number), ()), allotted.get((record, number), 0), order)

    return {record: Outcomes(of(record, 1), of(record, 2)) for record in {record for record, _ in (*said, *allotted)}}


_REFRESH = """
INSERT INTO standing (record_id, review_id, main, seed, first, first_criterion, fulltext, second, second_criterion, narrowing_id, first_blind, second_blind)
SELECT r.id, r.review_id,
    EXISTS (SELECT 1 FROM placement p JOIN batch b ON b.id = p.batch_id JOIN search q ON q.id = b.search_id
            WHERE p.record_id = r.id AND q.kind IN ('database', 'register')),
    EXISTS (SELECT 1 FROM placement p JOIN seed_mark m ON m.copy_id = p.copy_id WHERE p.record_id = r.id AND m.withdrawn_at IS NULL)
    OR EXISTS (SELECT 1 FROM placement p JOIN copy c ON c.id = p.copy_id JOIN seed_key k ON k.review_id = p.review_id
               AND k.removed_at IS NULL AND k.key IN (c.doi, lower(c.accession)) WHERE p.record_id = r.id),
    CASE WHEN n.narrowing_id IS NULL THEN coalesce(x.first, 'open') ELSE 'aside' END, x.first_criterion, coalesce(f.state, 'sought'),
    coalesce(x.second, 'open'), x.second_criterion, n.narrowing_id, coalesce(x.first_blind, :blind), coalesce(x.second_blind, FALSE)
FROM record r
LEFT JOIN unnest(CAST(:ids AS bigint[]), CAST(:firsts AS text[]), CAST(:first_criteria AS bigint[]), CAST(:first_blinds AS boolean[]),
    CAST(:seconds AS text[]), CAST(:second_criteria AS bigint[]), CAST(:second_blinds AS boolean[]))
    x(id, first, first_criterion, first_blind, second, second_criterion, second_blind) ON x.id = r.id
LEFT JOIN LATERAL (SELECT t.state FROM placement p JOIN full_text t ON t.copy_id = p.copy_id
    WHERE p.record_id = r.id ORDER BY t.id DESC LIMIT 1) f ON TRUE
LEFT JOIN LATERAL (SELECT d.narrowing_id FROM placement p JOIN narrowed d ON d.copy_id = p.copy_id
    WHERE p.record_id = r.id AND d.released_at IS NULL ORDER BY d.narrowing_id LIMIT 1) n ON TRUE
WHERE r.review_id = :review AND {which}
ON CONFLICT (record_id) DO UPDATE SET main = excluded.main, seed = excluded.seed, first = excluded.first,
    first_criterion = excluded.first_criterion, fulltext = excluded.fulltext, second = excluded.second,
    second_criterion = excluded.second_criterion, narrowing_id = excluded.narrowing_id,
    first_blind = excluded.first_blind, second_blind = excluded.second_blind
"""


def _which(review: int, records: list[int] | None) -> tuple[str, dict[str, Any]]:
    """A condition that picks some records by a column, or all, and its values."""
    if records is None:
        return "TRUE", {"review": review}
    if len(records) == 1:  # PostgreSQL plans this once, and once more for each list of several
        return "{} = :id", {"review": review, "id": records[0]}
    return "{} = ANY(CAST(:ids_wanted AS bigint[]))", {"review": review, "ids_wanted": records}


def refresh_standing(db: Session, review: int, records: list[int] | None = None, *, locked: bool = False) -> None:
    """Work out anew where some records, or all, stand.

    Their rows are locked first, unless they are ``locked``: a decision that is under way on one of them is waited for, and seen.
    """
    if records is not None and not records:
        return
    which, values = _which(review, records)
    found = (
        []
        if locked
        else rows(
            db,
            f"""SELECT s.record_id, r.id IS NULL AS gone FROM standing s LEFT JOIN record r ON r.id = s.record_id
        WHERE s.review_id = :review AND {which.format("s.record_id")} ORDER BY s.record_id FOR UPDATE OF s""",
            **values,
        )
    )
    gone = [row["record_id"] for row in found if row["gone"]]
    if gone:
        run(db, "DELETE FROM standing WHERE record_id = ANY(CAST(:gone AS bigint[]))", gone=gone)
    held = outcomes(db, review, records)
    many = {number: mode.readers > 1 for number, mode in modes(db, review).items()}
    run(
        db, _REFRESH.format(which=which.format("r.id")), **values, blind=many[1], ids=list(held),
        firsts=[one.first.state for one in held.values()], first_criteria=[one.first.criterion for one in held.values()],
        first_blinds=[one.first.blind for one in held.values()], seconds=[one.second.state for one in held.values()],
        second_criteria=[one.second.criterion for one in held.values()],
        second_blinds=[one.second.blind and one.first.state == "include" for one in held.values()],
    )  # fmt: skip


def state_in(db: Session, review: int, record: int) -> Row | None:
    """Where one record stands; ``None`` when this review has no such record."""
    return row(db, "SELECT * FROM standing WHERE review_id = :review AND record_id = :record", review=review, record=record)


def lock_state(db: Session, review: int, record: int) -> Row | None:
    """Where one record stands, and its title.

    Nobody else decides on it or joins it with another until this transaction ends. It is read when it is locked: a statement that
    waits for a lock sees, of all other rows, what was there before.
    """
    run(db, "SELECT FROM standing WHERE review_id = :review AND record_id = :record FOR UPDATE", review=review, record=record)
    return row(
        db,
        "SELECT s.*, r.title FROM standing s JOIN record r ON r.id = s.record_id WHERE s.review_id = :review AND s.record_id = :record",
        review=review, record=record,
    )  # fmt: skip
