"""A review with something of everything in it, and the numbers of these things by the names that routes give them."""

from __future__ import annotations

import io
from typing import Any

from fpdf import FPDF

from kettlesort.core.ranking.groups import Settings
from kettlesort.store.base import session
from kettlesort.store.records import Wanted
from kettlesort.store.sql import rows, run, scalar
from kettlesort.work import (
    asking,
    chart,
    checks,
    codebook,
    fulltexts,
    groups,
    labels,
    likeness,
    narrow,
    passes,
    pooling,
    proposals,
    recipes,
    rules,
    screen,
    seeds,
    stopping,
    studies,
    trials,
)
from kettlesort.work.codebook import Book, ConceptWording, ItemWording, LevelWording
from kettlesort.work.pool_wording import Wording
from tests.conftest import Room, ris

TITLES = [
    "Wrapped hives in a cold winter",
    "Foam lids and their moisture",
    "Feeding before frost",
    "Mites under snow",
    "Queens in late autumn",
]


def pdf() -> bytes:
    it = FPDF()
    it.add_page()
    it.set_font("helvetica", size=12)
    it.cell(text="Wrapped hives in a cold winter")
    return bytes(it.output())


def furnish(room: Room) -> dict[str, Any]:
    """Put something of everything into a review."""
    review, lead = room.review, room.lead
    batch = room.gather(ris(*TITLES))
    second = room.gather(ris(*TITLES[:3], doi="10.5555/f."), source="Vitalis Index")
    room.match()
    record, other, third = room.records()[:3]
    copies = [side.id for side in groups.copies_of(review, record).copies]
    choice = groups.choose_value(review, lead, copies[-1], "title")
    ruling = groups.take_apart(review, lead, other)[0]
    seeds.paste_seeds(review, lead, "10.5555/somewhere")
    label, _ = labels.put(review, lead, "Hand search", [third])
    narrowing, _ = narrow.set_aside(review, lead, "Not hives", [room.records()[-1]])
    room.decide(record, "include")
    screen.note(review, lead, record, "A note that is nobody else’s")
    with session() as db:
        note = scalar(db, "SELECT max(id) FROM note WHERE review_id = :v", v=review)
    fulltexts.set_full_text(review, lead, record, "obtained", "", "full.pdf", io.BytesIO(pdf()))
    delivered = fulltexts.deliver(review, lead, "whose.pdf", io.BytesIO(pdf() + b"\n"))
    with session() as db:
        fulltexts.match_full_texts(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'match_full_texts'", v=review))
    room.decide(record, "include", 2)
    codebook.set_codebook(
        review, lead, Book([ItemWording(None, "Colonies", "number")], [ConceptWording(None, "Place")], [LevelWording(None, "arm", "Plain")])
    )
    table = chart.evidence_table(review)
    study, item = table.studies[0].id, table.book.items[0].id or 0
    level = studies.add_level(review, lead, study, "arm", "Half wrapped")
    proposals.ask(review, lead)
    with session() as db:
        proposals.propose_values(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'propose_values'", v=review))
        proposal = scalar(
            db,
            "INSERT INTO proposal (review_id, study_id, item_id, copy_id, text, quote, confidence, signs, model) VALUES (:v, :s, :i, :c, '11', 'eleven', 0.9, '{}', '') RETURNING id",
            v=review, s=study, i=item, c=record,
        )  # fmt: skip
    asking.keep(review, lead, "Were wraps worth it?")
    stroke = proposals.refuse(review, lead, study, item, (None, None, None))
    chart.set_values(review, lead, [chart.Typed(study, item, "12", "twelve colonies")])
    analysis = pooling.keep(review, lead, Wording("As told", "GEN", item, se_item=item))
    pooling.keep(review, lead, Wording("As told again", "GEN", item, se_item=item))
    recipes.keep(review, lead, RECIPE)
    trial = trials.begin(review, lead, rules.current(review)[0].text())
    with session() as db:
        trials.try_rule(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v", v=review))
    sharing, _ = passes.share_out(review, lead, passes.Shares(1, "Share", {lead: 1.0}, most=1), Wanted("open"))
    grouping = likeness.begin(review, lead, Settings(2, 1))
    with session() as db:
        likeness.group_records(scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'group_records'", v=review))
        group = scalar(db, "SELECT min(id) FROM alike_group WHERE grouping_id = :g", g=grouping)
    drawn = stopping.draw_sample(review, lead, 1)
    sample = checks.draw(review, lead, "joined", 1, 1)
    with session() as db:
        run(
            db,
            "INSERT INTO question (review_id, left_copy, right_copy, score, later, kind, how) VALUES (:v, :l, :r, 1, 0, '', '')",
            v=review,
            l=record,
            r=third,
        )
        run(
            db,
            "INSERT INTO catalogue (review_id, name, address, version, schema) VALUES (:v, 'Union', 'http://127.0.0.1:9/', '2.0', 'marcxml')",
            v=review,
        )
        run(
            db,
            "INSERT INTO gap (review_id, copy_id, field, before, value, source, state) VALUES (:v, :c, 'abstract', '\"\"', '\"x\"', 'registry', 'proposed')",
            v=review,
            c=third,
        )
        run(
            db,
            """INSERT INTO schedule (review_id, search_id, catalogue_id, query, every, account_id) SELECT :v, min(s.id), min(c.id), 'bees', 'daily', :a
            FROM search s, catalogue c WHERE s.review_id = :v AND c.review_id = :v""",
            v=review, a=lead,
        )  # fmt: skip
        run(
            db,
            """INSERT INTO vocabulary (review_id, name, filename, sha256, state, failure, problems)
            SELECT :v, 'Bees', 'bees.ttl', sha256, 'read', '', '[]' FROM batch WHERE review_id = :v LIMIT 1""",
            v=review,
        )
        run(
            db,
            "INSERT INTO heading (vocabulary_id, uri, label, scope_note, history_note) SELECT id, 'x:bees', 'Bees', '', '' FROM vocabulary WHERE review_id = :v",
            v=review,
        )
        run(
            db,
            "INSERT INTO invitation (review_id, role, token_hash, invited_by, expires_at) VALUES (:v, 'reviewer', decode(md5(CAST(:v AS text)), 'hex'), :a, now() + interval '1 day')",
            v=review, a=lead,
        )  # fmt: skip
        of_review = {
            name: scalar(db, f"SELECT max(id) FROM {table} WHERE review_id = :v{more}", v=review)
            for name, table, more in (
                ("search", "search", ""), ("run", "search_run", ""), ("question", "question", ""), ("job", "job", ""), ("schedule", "schedule", ""), ("gap", "gap", ""),
                ("catalogue", "catalogue", ""), ("vocabulary", "vocabulary", ""), ("study", "study", ""), ("item", "item", ""), ("concept", "concept", ""), ("asked", "kept_question", ""), ("key", "seed_key", ""), ("supplement", "supplement", ""),
                ("file", "full_text", " AND sha256 IS NOT NULL"), ("criterion", "criterion", ""),
                ("invitation", "invitation", ""),
            )
        }  # fmt: skip
        pair = scalar(db, "SELECT max(id) FROM checked_pair WHERE sample_id = :s", s=sample)
        heading = scalar(db, "SELECT max(h.id) FROM heading h JOIN vocabulary v ON v.id = h.vocabulary_id WHERE v.review_id = :v", v=review)
    return {
        **of_review, "batch": batch, "second": second, "record": record, "other": third, "copy": copies[0], "choice": choice, "ruling": ruling, "label": label,
        "narrowing": narrowing, "trial": trial, "sample": sample, "sharing": sharing, "drawn": drawn, "delivered": delivered, "grouping": grouping, "group": group, "pair": pair, "level": level, "proposal": proposal, "stroke": stroke, "note": note, "heading": heading, "analysis": analysis, "plot": "forest", "person": room.reviewer, "name": "Our recipe", "position": 1,
    }  # fmt: skip


RECIPE = 'name = "Our recipe"\nabout = "Ours"\nversion = 1\nshape = "sign"\nbegin = "blank"\n\n[fields]\n"%T" = "title"\n"%A" = "authors"\n'


def state_of(review: int) -> dict[str, str]:
    """All that a review holds, table by table, as a sum that tells whether anything changed."""
    with session() as db:
        tables = [
            it["table_name"]
            for it in rows(
                db,
                "SELECT table_name FROM information_schema.columns WHERE column_name = 'review_id' AND table_schema = 'public' ORDER BY 1",
            )
        ]
        return {
            table: scalar(
                db,
                f"SELECT md5(coalesce(string_agg(t::text, chr(10) ORDER BY t::text), '')) FROM \"{table}\" t WHERE review_id = :v",
                v=review,
            )
            for table in tables
            if table != "presence"
        }
