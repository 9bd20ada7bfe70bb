"""How each pass is screened, records that are shared out, and what differs."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

from sqlalchemy import Index, text
from sqlmodel import Session

from kettlesort.core.screening.allocation import Allotted
from kettlesort.core.screening.passes import PASSES, Mode
from kettlesort.store.base import Moment, Row, Table, key, moment, one_of, reference
from kettlesort.store.ranking import PLACED
from kettlesort.store.records import Wanted, where
from kettlesort.store.sql import column, copying, row, rows, run, scalar


class PassMode(Table, table=True):
    """How a pass is screened from then on. Appended; the latest holds."""

    __tablename__ = "pass_mode"
    __table_args__ = (
        one_of("pass_number", 1, 2),
        one_of("differ", "verdict", "reason"),
        one_of("unsure", "stays", "goes_on"),
        one_of("settling", "third", "talk"),
        Index("ix_pass_mode_review", "review_id", "pass_number", "id"),
    )

    id: int | None = key()
    review_id: int = reference("review.id")
    pass_number: int
    readers: int
    differ: str
    unsure: str
    settling: str
    account_id: int = reference("account.id")
    at: Moment | None = moment()


class Sharing(Table, table=True):
    """Records shared out among people in one stroke; a pilot goes to all of them. ``seed`` shuffled them, without one they come by closeness."""

    __table_args__ = (one_of("pass_number", 1, 2),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    pass_number: int
    name: str
    pilot: bool = False
    seed: int | None = None
    account_id: int = reference("account.id")
    at: Moment | None = moment()
    removed_at: Moment | None = moment(null=True)


class Allotment(Table, table=True):
    """A record on somebody's share, at its ``place`` there. It hangs on a copy like a verdict; given back, others may read it."""

    __table_args__ = (
        Index("ix_allotment_copy", "copy_id", postgresql_where=text("given_back_at IS NULL")),
        Index("ix_allotment_share", "sharing_id", "account_id", "place"),
    )

    id: int | None = key()
    review_id: int = reference("review.id")
    sharing_id: int = reference("sharing.id")
    copy_id: int = reference("copy.id")
    account_id: int = reference("account.id")
    place: int
    beyond: bool = False
    """The record goes to more people than the pass has readers, as in a pilot or an overlap: it waits for all of them."""
    given_back_at: Moment | None = moment(null=True)


def set_mode(db: Session, review: int, pass_number: int, account: int, mode: Mode) -> None:
    """Screen a pass in another mode from now on."""
    db.add(PassMode(review_id=review, pass_number=pass_number, account_id=account, **mode._asdict()))
    db.flush()
    db.info.pop(("modes", review), None)


def modes(db: Session, review: int) -> dict[int, Mode]:
    """How each pass is screened; asked for once in a transaction."""
    held: dict[int, Mode] | None = db.info.get(("modes", review))
    if held is not None:
        return held
    found = rows(
        db,
        "SELECT DISTINCT ON (pass_number) pass_number, readers, differ, unsure, settling FROM pass_mode WHERE review_id = :review ORDER BY pass_number, id DESC",
        review=review,
    )
    said = {row["pass_number"]: Mode(row["readers"], row["differ"], row["unsure"], row["settling"]) for row in found}
    db.info["modes", review] = made = {number: said.get(number, Mode()) for number in PASSES}
    return made


def mode_since(db: Session, review: int, pass_number: int) -> Row | None:
    """Who set the mode of a pass, and when."""
    return row(
        db,
        """SELECT m.at, a.full_name AS by FROM pass_mode m JOIN account a ON a.id = m.account_id
        WHERE m.review_id = :review AND m.pass_number = :pass ORDER BY m.id DESC LIMIT 1""",
        review=review, **{"pass": pass_number},
    )  # fmt: skip


def places_of_criteria(db: Session, review: int) -> dict[int, int]:
    """The place of each criterion in the protocol."""
    return {row["id"]: row["position"] for row in rows(db, "SELECT id, position FROM criterion WHERE review_id = :review", review=review)}


OF_PASS = {1: "s.first", 2: "s.second"}
_TO_READ = {1: "s.first = 'open'", 2: "s.first = 'include' AND s.fulltext = 'obtained' AND s.second = 'open'"}


def to_share(db: Session, review: int, wanted: Wanted) -> list[int]:
    """The open records of a list that a pass can share out, the closest first."""
    values: dict[str, object] = {"review": review}
    return column(
        db,
        f"""SELECT s.record_id FROM standing s JOIN record r ON r.id = s.record_id {PLACED} WHERE {where(wanted, values)} AND {_TO_READ[wanted.pass_number]} ORDER BY k.rank NULLS LAST, s.record_id""",
        **values,
    )


def readers_of(db: Session, review: int, pass_number: int) -> dict[int, set[int]]:
    """Who has decided on each record in a pass, or has it on a share."""
    found = rows(
        db,
        """SELECT p.record_id, v.account_id FROM verdict v JOIN placement p ON p.copy_id = v.copy_id
        WHERE v.review_id = :review AND v.pass_number = :pass AND v.withdrawn_at IS NULL
        UNION SELECT p.record_id, a.account_id FROM allotment a JOIN sharing h ON h.id = a.sharing_id JOIN placement p ON p.copy_id = a.copy_id
        WHERE a.review_id = :review AND h.pass_number = :pass AND a.given_back_at IS NULL""",
        review=review, **{"pass": pass_number},
    )  # fmt: skip
    out: dict[int, set[int]] = {}
    for entry in found:
        out.setdefault(entry["record_id"], set()).add(entry["account_id"])
    return out


class OwnReading(NamedTuple):
    """The records that somebody has decided on in a pass, and those on their share."""

    read: set[int]
    allotted: set[int]


def own_reading(db: Session, review: int, account: int, pass_number: int) -> OwnReading:
    """What somebody has read in a pass, and is to read."""
    values = {"review": review, "account": account, "pass": pass_number}
    read = column(
        db,
        """SELECT DISTINCT p.record_id FROM verdict v JOIN placement p ON p.copy_id = v.copy_id
        WHERE v.review_id = :review AND v.account_id = :account AND v.pass_number = :pass AND v.withdrawn_at IS NULL""",
        **values,
    )
    allotted = column(
        db,
        """SELECT DISTINCT p.record_id FROM sharing h JOIN allotment a ON a.sharing_id = h.id JOIN placement p ON p.copy_id = a.copy_id
        WHERE h.review_id = :review AND a.account_id = :account AND h.pass_number = :pass AND a.given_back_at IS NULL""",
        **values,
    )
    return OwnReading(set(read), set(allotted))


def has_read(db: Session, review: int, account: int, record: int, pass_number: int) -> bool:
    """Whether somebody decided on a record in a pass, not to settle it."""
    return bool(
        scalar(
            db,
            """SELECT EXISTS (SELECT 1 FROM placement p JOIN verdict v ON v.copy_id = p.copy_id WHERE p.record_id = :record AND v.review_id = :review
            AND v.pass_number = :pass AND v.account_id = :account AND v.withdrawn_at IS NULL AND NOT v.settles)""",
            review=review, record=record, account=account, **{"pass": pass_number},
        )
    )  # fmt: skip


def add_allotments(
    db: Session, review: int, sharing: int, allotted: Sequence[Allotted], places: Mapping[int, int], beyond: Collection[int]
) -> None:
    """Write down who is to read what; ``beyond`` are records that go to more people than the pass has readers."""
    with copying(db, "allotment", ("review_id", "sharing_id", "copy_id", "account_id", "place", "beyond")) as out:
        for one in allotted:
            out.write_row((review, sharing, one.record, one.person, places[one.record], one.record in beyond))


_UNREAD = """NOT EXISTS (SELECT 1 FROM placement p JOIN placement o ON o.record_id = p.record_id JOIN verdict v ON v.copy_id = o.copy_id
    WHERE p.copy_id = a.copy_id AND v.pass_number = h.pass_number AND v.account_id = a.account_id AND v.withdrawn_at IS NULL)"""


def give_back(db: Session, review: int, sharing: int, account: int | None, at: Moment) -> list[int]:
    """Take what they have not read yet off a person's share, or off everybody's; the records."""
    return column(
        db,
        f"""UPDATE allotment a SET given_back_at = :at FROM sharing h, placement q WHERE h.id = a.sharing_id AND h.review_id = :review AND h.id = :sharing
        AND q.copy_id = a.copy_id AND a.given_back_at IS NULL AND (CAST(:account AS bigint) IS NULL OR a.account_id = :account) AND {_UNREAD} RETURNING q.record_id""",
        review=review, sharing=sharing, account=account, at=at,
    )  # fmt: skip


def bring_back(db: Session, review: int, sharing: int, account: int | None) -> list[int]:
    """Put back on a person's share, or on everybody's, what was given back last and is still to be read; the records."""
    return column(
        db,
        """UPDATE allotment a SET given_back_at = NULL FROM sharing h, placement q, standing s WHERE h.id = a.sharing_id AND h.review_id = :review AND h.id = :sharing
        AND q.copy_id = a.copy_id AND s.record_id = q.record_id AND CASE h.pass_number WHEN 1 THEN s.first ELSE s.second END = 'open'
        AND (CAST(:account AS bigint) IS NULL OR a.account_id = :account) AND a.given_back_at = (SELECT max(b.given_back_at) FROM allotment b WHERE b.sharing_id = :sharing
            AND (CAST(:account AS bigint) IS NULL OR b.account_id = :account)) RETURNING q.record_id""",
        review=review, sharing=sharing, account=account,
    )  # fmt: skip


def shares(db: Session, review: int, pass_number: int) -> Sequence[Row]:
    """Each person's part of each sharing: how many records, how many of them read, how many given back."""
    return rows(
        db,
        f"""SELECT h.id, h.name, h.pilot, h.seed, h.at, h.removed_at, b.full_name AS by, c.id AS account_id, c.full_name AS person,
        count(*) FILTER (WHERE a.given_back_at IS NULL) AS records, count(*) FILTER (WHERE NOT {_UNREAD}) AS read, count(*) FILTER (WHERE a.given_back_at IS NOT NULL) AS given_back
        FROM sharing h JOIN account b ON b.id = h.account_id JOIN allotment a ON a.sharing_id = h.id JOIN account c ON c.id = a.account_id
        WHERE h.review_id = :review AND h.pass_number = :pass GROUP BY h.id, b.id, c.id ORDER BY h.id DESC, c.full_name""",
        review=review, **{"pass": pass_number},
    )  # fmt: skip


def has_share(db: Session, review: int, account: int, pass_number: int) -> Row | None:
    """Whether somebody has a share that is not read to its end, and whether it is shuffled: the oldest such."""
    return row(
        db,
        f"""SELECT h.id, h.seed IS NOT NULL AS shuffled, h.name FROM sharing h WHERE h.review_id = :review AND h.pass_number = :pass AND EXISTS (
            SELECT 1 FROM allotment a JOIN placement q ON q.copy_id = a.copy_id JOIN standing s ON s.record_id = q.record_id
            WHERE a.sharing_id = h.id AND a.account_id = :account AND a.given_back_at IS NULL AND {_TO_READ[pass_number]} AND {_UNREAD})
        ORDER BY h.id LIMIT 1""",
        review=review, account=account, **{"pass": pass_number},
    )  # fmt: skip


def differing(db: Session, review: int, pass_number: int, settled: bool) -> Sequence[Row]:
    """Records on which verdicts differ, or differed until somebody settled them, the closest first; at most 2,000."""
    which = (
        """EXISTS (SELECT 1 FROM placement p JOIN verdict v ON v.copy_id = p.copy_id WHERE p.record_id = s.record_id AND v.pass_number = :pass AND v.settles AND v.withdrawn_at IS NULL)"""
        if settled
        else f"{OF_PASS[pass_number]} = 'differs'"
    )
    passed = "s.first <> 'aside'" if pass_number == 1 else "s.first = 'include' AND s.fulltext = 'obtained'"
    return rows(
        db,
        f"""SELECT r.id, r.title, r.authors, r.year, r.journal, {OF_PASS[pass_number]} AS state FROM standing s JOIN record r ON r.id = s.record_id {PLACED}
        WHERE s.review_id = :review AND {which} AND {passed} ORDER BY k.rank NULLS LAST, r.id LIMIT 2000""",
        review=review, **{"pass": pass_number},
    )  # fmt: skip


def said_on(db: Session, records: Sequence[int], pass_number: int) -> Sequence[Row]:
    """The verdicts in force on some records in a pass, as far as the viewer may see them, with who gave each, and their note."""
    return rows(
        db,
        """SELECT p.record_id, v.id, v.account_id, a.full_name AS by, v.verdict, v.criterion_id, coalesce(c.name, '') AS criterion, v.at, v.settles,
        coalesce((SELECT n.text FROM placement q JOIN seen_note n ON n.copy_id = q.copy_id WHERE q.record_id = p.record_id AND n.account_id = v.account_id
            ORDER BY n.id DESC LIMIT 1), '') AS note
        FROM placement p JOIN seen_verdict v ON v.copy_id = p.copy_id JOIN account a ON a.id = v.account_id LEFT JOIN criterion c ON c.id = v.criterion_id
        WHERE p.record_id = ANY(CAST(:records AS bigint[])) AND v.pass_number = :pass AND v.withdrawn_at IS NULL ORDER BY p.record_id, v.id""",
        records=list(records), **{"pass": pass_number},
    )  # fmt: skip


def independent(db: Session, review: int, pass_number: int, sharing: int | None = None) -> Sequence[Row]:
    """Each person's latest verdict on the records that several people decided on independently, those of one sharing or all.

    Only records that all their readers have decided on; what was settled afterwards is no independent verdict.
    """
    return rows(
        db,
        """SELECT DISTINCT ON (p.record_id, v.account_id) p.record_id, v.account_id, a.full_name AS by, v.verdict, v.criterion_id, coalesce(c.name, '') AS criterion, v.at
        FROM seen_verdict v JOIN placement p ON p.copy_id = v.copy_id JOIN standing s ON s.record_id = p.record_id JOIN account a ON a.id = v.account_id
        LEFT JOIN criterion c ON c.id = v.criterion_id
        WHERE v.review_id = :review AND v.pass_number = :pass AND v.withdrawn_at IS NULL AND NOT v.settles AND NOT (CASE :pass WHEN 1 THEN s.first_blind ELSE s.second_blind END)
        AND (CAST(:sharing AS bigint) IS NULL OR EXISTS (SELECT 1 FROM placement o JOIN allotment t ON t.copy_id = o.copy_id WHERE o.record_id = p.record_id AND t.sharing_id = :sharing))
        ORDER BY p.record_id, v.account_id, v.id DESC""",
        review=review, sharing=sharing, **{"pass": pass_number},
    )  # fmt: skip


def names_of_readers(db: Session, review: int, accounts: Sequence[int]) -> dict[int, str]:
    """Names of some accounts, of those that have decided on a record of the review."""
    found = rows(
        db,
        """SELECT DISTINCT a.id, a.full_name FROM verdict v JOIN account a ON a.id = v.account_id
        WHERE v.review_id = :review AND a.id = ANY(CAST(:accounts AS bigint[]))""",
        review=review, accounts=list(accounts),
    )  # fmt: skip
    return {row["id"]: row["full_name"] for row in found}


def latest_settlement(db: Session, review: int, record: int, pass_number: int) -> Row | None:
    """The verdict that settles a record, if one does."""
    return row(
        db,
        """SELECT v.id, v.verdict, v.account_id FROM placement p JOIN verdict v ON v.copy_id = p.copy_id
        WHERE p.record_id = :record AND v.review_id = :review AND v.pass_number = :pass AND v.settles AND v.withdrawn_at IS NULL ORDER BY v.id DESC LIMIT 1""",
        review=review, record=record, **{"pass": pass_number},
    )  # fmt: skip


def people_of(db: Session, review: int) -> dict[int, str]:
    """Who may decide: members that are leads or reviewers, by their numbers."""
    found = rows(
        db,
        """SELECT a.id, a.full_name FROM member m JOIN account a ON a.id = m.account_id
        WHERE m.review_id = :review AND m.removed_at IS NULL AND m.role IN ('lead', 'reviewer') ORDER BY m.joined_at, a.id""",
        review=review,
    )
    return {row["id"]: row["full_name"] for row in found}


def forget_holds(db: Session, review: int, pass_number: int) -> None:
    """Nobody has a record of this pass on the desk any more, as after a change of how it is screened."""
    run(db, "DELETE FROM hold WHERE review_id = :review AND pass_number = :pass", review=review, **{"pass": pass_number})


def decisions(db: Session, review: int, account: int | None) -> Sequence[Row]:
    """When each decision in force was made, by whom, in which pass; of one account or of all."""
    return rows(
        db,
        """SELECT v.account_id, a.full_name AS person, v.pass_number, v.at FROM verdict v JOIN account a ON a.id = v.account_id
        WHERE v.review_id = :review AND v.withdrawn_at IS NULL AND (CAST(:account AS bigint) IS NULL OR v.account_id = :account) ORDER BY v.id""",
        review=review, account=account,
    )  # fmt: skip


def own_said(db: Session, review: int, account: int, pass_number: int) -> dict[int, Row]:
    """By record, what somebody said in a pass, and their note, of records of which they said or noted something."""
    found = rows(
        db,
        """SELECT coalesce(v.record_id, n.record_id) AS record_id, coalesce(v.verdict, '') AS verdict, v.criterion_id, coalesce(c.name, '') AS criterion, coalesce(n.text, '') AS note FROM
        (SELECT DISTINCT ON (p.record_id) p.record_id, v.verdict, v.criterion_id FROM verdict v JOIN placement p ON p.copy_id = v.copy_id WHERE v.review_id = :review
            AND v.account_id = :account AND v.pass_number = :pass AND v.withdrawn_at IS NULL AND NOT v.settles ORDER BY p.record_id, v.id DESC) v
        FULL JOIN (SELECT DISTINCT ON (p.record_id) p.record_id, n.text FROM note n JOIN placement p ON p.copy_id = n.copy_id WHERE n.review_id = :review AND n.account_id = :account
            ORDER BY p.record_id, n.id DESC) n ON n.record_id = v.record_id LEFT JOIN criterion c ON c.id = v.criterion_id""",
        review=review, account=account, **{"pass": pass_number},
    )  # fmt: skip
    return {row["record_id"]: row for row in found}
