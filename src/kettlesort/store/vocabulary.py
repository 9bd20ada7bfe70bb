"""Controlled vocabularies: their headings, the names of these, and how they hang together."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Index
from sqlmodel import Field, Session

from kettlesort.core.query.words import words_of
from kettlesort.core.vocabulary import Concept
from kettlesort.store.base import Moment, Row, Table, json_field, key, moment, one_of, reference
from kettlesort.store.sql import row, rows, run


class Vocabulary(Table, table=True):
    """A vocabulary that a team has loaded. State: waiting, read or failed; a removed one is only out of use."""

    __table_args__ = (one_of("state", "waiting", "read", "failed"),)

    id: int | None = key()
    review_id: int = reference("review.id", index=True)
    name: str
    filename: str
    sha256: str = Field(foreign_key="blob.sha256")
    state: str = "waiting"
    failure: str = ""
    problems: list[str] = json_field([])
    removed_at: Moment | None = moment(null=True)


class Heading(Table, table=True):
    """A heading, by its preferred name."""

    id: int | None = key()
    vocabulary_id: int = reference("vocabulary.id", index=True)
    uri: str
    label: str
    scope_note: str = ""
    history_note: str = ""


class HeadingName(Table, table=True):
    """A name of a heading: preferred, alternative or hidden; ``words`` are its words as the index of records has them."""

    __tablename__ = "heading_name"

    id: int | None = key()
    heading_id: int = reference("heading.id", index=True)
    name: str
    words: str = Field(index=True)
    kind: str


class HeadingLink(Table, table=True):
    """From a heading to a broader one, or to one that is related."""

    __tablename__ = "heading_link"
    __table_args__ = (Index("ix_heading_link_to_id", "to_id"),)

    from_id: int = reference("heading.id", primary=True)
    to_id: int = reference("heading.id", primary=True)
    kind: str = Field(primary_key=True)


def words_in(name: str) -> str:
    """A name as it is looked up: its words, folded."""
    return " ".join(words_of(name))


def write_headings(db: Session, vocabulary: int, concepts: Sequence[Concept]) -> None:
    """Write the headings of a vocabulary."""
    plain = [(concept.uri, concept.label, concept.scope_note, concept.history_note) for concept in concepts]
    run(
        db,
        """INSERT INTO heading (vocabulary_id, uri, label, scope_note, history_note)
        SELECT :v, * FROM unnest(CAST(:uris AS text[]), CAST(:labels AS text[]), CAST(:scopes AS text[]), CAST(:histories AS text[]))""",
        v=vocabulary, **{name: [one[k] for one in plain] for k, name in enumerate(("uris", "labels", "scopes", "histories"))},
    )  # fmt: skip
    number = {row["uri"]: row["id"] for row in rows(db, "SELECT id, uri FROM heading WHERE vocabulary_id = :v", v=vocabulary)}
    names = [
        (number[concept.uri], name, words_in(name), kind)
        for concept in concepts
        for kind, said in (("preferred", [concept.label]), ("alternative", concept.alternative), ("hidden", concept.hidden))
        for name in said
    ]
    run(
        db,
        """INSERT INTO heading_name (heading_id, name, words, kind)
        SELECT * FROM unnest(CAST(:ids AS bigint[]), CAST(:names AS text[]), CAST(:words AS text[]), CAST(:kinds AS text[]))""",
        ids=[one[0] for one in names], names=[one[1] for one in names], words=[one[2] for one in names], kinds=[one[3] for one in names],
    )  # fmt: skip
    links = [
        (number[concept.uri], number[uri], kind)
        for concept in concepts
        for kind, uris in (("broader", concept.broader), ("related", concept.related))
        for uri in uris
        if uri in number
    ]
    run(
        db,
        "INSERT INTO heading_link (from_id, to_id, kind) SELECT * FROM unnest(CAST(:a AS bigint[]), CAST(:b AS bigint[]), CAST(:k AS text[])) ON CONFLICT DO NOTHING",
        a=[link[0] for link in links], b=[link[1] for link in links], k=[link[2] for link in links],
    )  # fmt: skip


_IN_USE = "JOIN vocabulary v ON v.id = h.vocabulary_id AND v.review_id = :review AND v.removed_at IS NULL"


def look_up(db: Session, review: int, words: str, limit: int) -> Sequence[Row]:
    """Headings with a name in which these words stand, those first whose name is or begins with them; the highest ones for no words."""
    if not words:
        return rows(
            db,
            f"""SELECT h.id, h.label, 'preferred' AS kind, h.label AS name, v.name AS vocabulary,
            (SELECT count(*) FROM heading_link k WHERE k.to_id = h.id AND k.kind = 'broader') AS narrower
            FROM heading h {_IN_USE} WHERE NOT EXISTS (SELECT 1 FROM heading_link k WHERE k.from_id = h.id AND k.kind = 'broader')
            ORDER BY lower(h.label), h.id LIMIT :limit""",
            review=review, limit=limit,
        )  # fmt: skip
    escaped = words.replace("\\", "").replace("%", "").replace("_", "")
    return rows(
        db,
        f"""SELECT * FROM (SELECT DISTINCT ON (h.id) h.id, h.label, n.kind, n.name, v.name AS vocabulary,
            (SELECT count(*) FROM heading_link k WHERE k.to_id = h.id AND k.kind = 'broader') AS narrower,
            CASE WHEN n.words = :words THEN 0 WHEN n.words LIKE :begin THEN 1 WHEN n.words LIKE :inside THEN 2 ELSE 3 END AS place
            FROM heading_name n JOIN heading h ON h.id = n.heading_id {_IN_USE} WHERE n.words LIKE :anywhere
            ORDER BY h.id, place, n.kind = 'hidden', n.kind = 'alternative') found ORDER BY place, length(label), lower(label), id LIMIT :limit""",
        review=review, words=words, begin=f"{escaped}%", inside=f"% {escaped}%", anywhere=f"%{escaped}%", limit=limit,
    )  # fmt: skip


def heading(db: Session, review: int, number: int) -> Row | None:
    """One heading."""
    return row(db, f"SELECT h.*, v.name AS vocabulary FROM heading h {_IN_USE} WHERE h.id = :id", review=review, id=number)


def names(db: Session, number: int) -> Sequence[Row]:
    """The names of a heading."""
    return rows(db, "SELECT name, kind FROM heading_name WHERE heading_id = :id ORDER BY lower(name)", id=number)


def neighbours(db: Session, number: int) -> Sequence[Row]:
    """Headings that are broader, narrower or related, with how many are right below each."""
    return rows(
        db,
        """SELECT h.id, h.label, found.kind, (SELECT count(*) FROM heading_link k WHERE k.to_id = h.id AND k.kind = 'broader') AS narrower
        FROM (SELECT to_id AS id, kind FROM heading_link WHERE from_id = :id
            UNION ALL SELECT from_id, 'narrower' FROM heading_link WHERE to_id = :id AND kind = 'broader') found
        JOIN heading h USING (id) ORDER BY lower(h.label), h.id""",
        id=number,
    )


def named(db: Session, review: int, words: Sequence[str]) -> Sequence[Row]:
    """Headings that have one of these as a name."""
    return rows(
        db,
        f"""SELECT DISTINCT ON (n.words, h.id) n.words, n.kind, h.id, h.label, v.name AS vocabulary
        FROM heading_name n JOIN heading h ON h.id = n.heading_id {_IN_USE} WHERE n.words = ANY(CAST(:words AS text[]))
        ORDER BY n.words, h.id, n.kind DESC""",
        review=review, words=list(words),
    )  # fmt: skip


def below(db: Session, review: int, words: str) -> list[str]:
    """The preferred name of the headings that have a name, and of every one below them."""
    found = rows(
        db,
        f"""WITH RECURSIVE below AS (
            SELECT h.id FROM heading_name n JOIN heading h ON h.id = n.heading_id {_IN_USE} WHERE n.words = :words AND n.kind <> 'hidden'
            UNION SELECT k.from_id FROM heading_link k JOIN below b ON k.to_id = b.id WHERE k.kind = 'broader')
        SELECT DISTINCT h.label FROM below JOIN heading h USING (id)""",
        review=review, words=words,
    )  # fmt: skip
    return [row["label"] for row in found]


def vocabularies(db: Session, review: int) -> Sequence[Row]:
    """The vocabularies in use, with how many headings each has."""
    return rows(
        db,
        """SELECT v.id, v.name, v.filename, v.state, v.failure, v.problems, (SELECT count(*) FROM heading h WHERE h.vocabulary_id = v.id) AS headings
        FROM vocabulary v WHERE v.review_id = :review AND v.removed_at IS NULL ORDER BY lower(v.name), v.id""",
        review=review,
    )
