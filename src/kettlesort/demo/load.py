"""Loads the demo review into an empty database, through the same functions that people's clicks call."""

from __future__ import annotations

import io
import random
from collections.abc import Callable
from datetime import date

from sqlmodel import col, select

from kettlesort.core.ranking.groups import Settings
from kettlesort.core.screening.passes import Mode
from kettlesort.demo import QUESTION, TITLE
from kettlesort.demo.appraisal import appraise
from kettlesort.demo.charting import chart_studies
from kettlesort.demo.document import Document
from kettlesort.demo.files import Export, exports
from kettlesort.demo.invent import THEMES, documents
from kettlesort.demo.papers import correction, leaflet, paper
from kettlesort.demo.pooling import pool
from kettlesort.demo.team import Team, last_job
from kettlesort.demo.thesaurus import THESAURUS, turtle
from kettlesort.settings import settings
from kettlesort.store.base import count_anew, session
from kettlesort.store.gather import Copy
from kettlesort.store.jobs import ended_before
from kettlesort.store.match import Placement
from kettlesort.store.people import any_account
from kettlesort.store.records import Wanted, order
from kettlesort.work import (
    catalogue,
    fulltexts,
    gather,
    jobs,
    likeness,
    match,
    passes,
    plan,
    protocol,
    query,
    ranking,
    screen,
    searches,
    seeds,
    trials,
    underline,
    vocabulary,
)
from kettlesort.work.change import worked_here
from kettlesort.work.errors import Invalid
from kettlesort.work.people import make_account

PASSWORD = "winter-cluster"
PEOPLE = (
    ("tamsin", "Tamsin Lorn", "lead"),
    ("odile", "Odile Marsh", "reviewer"),
    ("rudd", "Rudd Brask", "reviewer"),
    ("wynn", "Wynn Hale", "observer"),
)
CRITERIA = (
    ("Not honeybees", "The colonies are not honeybees: bumblebees, solitary bees, wasps."),
    ("No insulation compared", "Insulation of the hive (wrap, cover, lid, material) is not part of what is studied."),
    ("No winter survival reported", "Survival or loss of colonies over winter is not reported."),
    ("No comparison group", "There are no colonies without insulation to compare with."),
    ("Not a primary study", "A review, editorial, guide or comment without data of its own."),
)
RULE = """
name = "DOI first, then title, author and year"

[alike]
protocol = "ask"

[[passes]]
name = "DOI and title"
agree = { doi = "exactly", title = "closely" }
not_differ = { volume = "exactly" }

[[passes]]
name = "Title, author, year"
agree = { title = "exactly", first_author = "exactly", year = 1 }
kinds = ["article"]
"""
_DAYS = {"Agrarica": date(2026, 2, 4), "Vitalis Index": date(2026, 2, 4), "Northern Theses": date(2026, 2, 5), "Apicultural Abstracts": date(2026, 2, 5), "Hive Trials Register": date(2026, 2, 6), "Citation chasing": date(2026, 3, 2)}  # fmt: skip


def is_empty() -> bool:
    """Whether the database has no account yet."""
    with session() as db:
        return not any_account(db)


def load() -> int:
    """Make the demo's people and its review in progress; its number."""
    accounts = {name: make_account(name, full_name, PASSWORD).id or 0 for name, full_name, _ in PEOPLE}
    team = Team(accounts["tamsin"], accounts["odile"], accounts["rudd"])
    review = plan.make_review(team.lead, TITLE, QUESTION)
    for name, _, role in PEOPLE[1:]:
        plan.add_member(review, team.lead, name, role)
    fill(review, team)
    count_anew()
    return review


def make_up(job_id: int) -> None:
    """Fill a review that somebody wants to play in; everything in it is done by that person."""
    with jobs.working(job_id) as begun:
        if begun is None:
            return
        job, progress = begun
        fill(job.review_id, Team(job.account_id, job.account_id, job.account_id), progress.tick)
        jobs.finish(job, "done", "Filled with made-up data. Play as you like; nothing here is anybody else's.")


def fill(review: int, team: Team, tick: Callable[[float], None] = lambda share: None) -> None:
    """Do all that is done in the demo, in its order; ``tick`` is told the share done, and may raise to end it."""
    lead, second, _ = team
    truth: dict[int, Document] = {}
    steps: list[Callable[[], object]] = [
        lambda: _plan(review, lead), lambda: _thesaurus(review, lead), lambda: _catalogue(review, lead), lambda: _gather(review, lead, second),
        lambda: _seeds(review, lead), lambda: match.match_copies(last_job(review)), lambda: _waiting(review, lead),
        lambda: _query(review, lead, second), lambda: ranking.rank_review(review), lambda: truth.update(_truth(review)),
        lambda: _screen(review, team, truth, tick), lambda: _amend(review, lead), lambda: _full_texts(review, (lead, second), truth),
        lambda: chart_studies(review, team, truth), lambda: appraise(review, team, truth), lambda: pool(review, team), lambda: _dry_run(review, lead), lambda: ranking.rank_review(review),
        lambda: _alike(review, lead),
    ]  # fmt: skip
    with worked_here():
        for done, step in enumerate(steps):
            tick(done / len(steps))
            step()
    with session() as db:
        ended_before(db, review)


def _thesaurus(review: int, lead: int) -> None:
    vocabulary.load(review, lead, THESAURUS, io.BytesIO(turtle().encode()))
    vocabulary.read_vocabulary(last_job(review))


def _catalogue(review: int, lead: int) -> None:
    if not settings().demo_catalogue:
        return
    try:
        catalogue.add(review, lead, "", settings().demo_catalogue, "2.0", "marcxml")
    except Invalid as away:
        print(f"The demo goes without its catalogue. {away}", flush=True)


def _alike(review: int, lead: int) -> None:
    likeness.begin(review, lead, Settings(12, 3, 0.4))
    likeness.group_records(last_job(review))


def _dry_run(review: int, lead: int) -> None:
    trials.begin(review, lead, RULE)
    trials.try_rule(last_job(review))


def _plan(review: int, lead: int) -> None:
    protocol.amend(
        review,
        lead,
        {
            "framework": "pico",
            "elements": [
                ("Population", ["honeybee", "honey bee", "colony", "apiary"]),
                ("Intervention", ["insulation", "wrap", "hive cover", "polystyrene hive"]),
                ("Comparator", ["no insulation", "plain hive"]),
                ("Outcome", ["winter survival", "winter loss", "overwintering"]),
            ],
            "criteria": [protocol.Wording(None, name, wording) for name, wording in CRITERIA],
            "year_from": 1970,
            "year_to": 2026,
            "languages": "any",
            "sources": [(name, "register" if "Register" in name else "database") for name in _DAYS if "chasing" not in name],
        },
        "Drafted with the team",
    )
    protocol.amend(
        review,
        lead,
        {"registered_in": "Open Protocol Shelf", "registration_number": "OPS-2026-0114", "registered_on": date(2026, 1, 19)},
        "Registered before the searches were run",
    )


def _amend(review: int, lead: int) -> None:
    """What the team learnt in the first pass."""
    kept = [protocol.Wording(criterion.id, criterion.name, criterion.wording) for criterion in protocol.protocol(review).criteria]
    kept[1] = kept[1]._replace(
        wording="Insulation of the hive (wrap, cover, lid, material, wintering indoors excepted) is not part of what is studied."
    )
    protocol.amend(
        review,
        lead,
        {
            "criteria": kept,
            "year_from": 1975,
            "sources": [(name, "register" if "Register" in name else "citation" if "chasing" in name else "database") for name in _DAYS],
        },
        "After the first fifty records: wintering indoors is another question; citation chasing added; nothing older than 1975 can be had",
    )


def _gather(review: int, lead: int, second: int) -> None:
    entries: dict[str, int] = {}
    for export in (one for one in exports() if one.taken_in):
        if export.source not in entries:
            note = "Part 1 and part 2; the source announced 424" if export.source == "Agrarica" else ""
            said = searches.SearchEntry(
                export.source, export.kind, export.query, _DAYS[export.source], "Tamsin Lorn", note, export.announced
            )
            entries[export.source] = searches.write_search(review, lead, said)
        _upload(review, lead if export.kind == "database" else second, entries[export.source], export)


def _upload(review: int, account: int, search: int, export: Export) -> None:
    (batch,) = gather.upload(review, account, search, export.name, io.BytesIO(export.data)).batches
    gather.read_file(last_job(review))
    gather.take_in(review, account, batch)


def _waiting(review: int, lead: int) -> None:
    """Files that wait to be looked at: one of a kind that nobody has a reader for, one with its fields in the wrong tags."""
    for export in (one for one in exports() if not one.taken_in):
        said = searches.SearchEntry(export.source, export.kind, export.query, date(2026, 2, 7), "Odile Marsh", "", export.announced)
        search = searches.write_search(review, lead, said)
        gather.upload(review, lead, search, export.name, io.BytesIO(export.data))
        gather.read_file(last_job(review))


def _seeds(review: int, lead: int) -> None:
    known = [document.doi for document in documents()[:40]][:6]
    with session() as db:  # the first six whose DOI some source kept
        kept = set(db.exec(select(Copy.doi).where(Copy.review_id == review).distinct()))
    seeds.paste_seeds(
        review,
        lead,
        "\n".join(
            [doi for doi in known if doi in kept]
            + [document.doi for document in documents()[6:40] if document.doi in kept][: 6 - sum(doi in kept for doi in known)]
        ),
    )


_BEES = '[Honeybees] (honeybee* OR "honey bees"'
QUERIES = (
    (f"{_BEES}) AND [Insulation] (title:insulat*) AND [Winter] (winter*)", "The words of the question", True),
    (
        f"{_BEES} OR hive* OR colon*) AND [Insulation] (title:(insulat* OR wrap*)) AND [Winter] (winter* OR overwinter*)",
        "Hives and colonies; wraps, which two seeds are about",
        True,
    ),
    (
        f'{_BEES} OR hive* OR colon* OR descriptor:Bees) AND [Insulation] (title:(insulat* OR wrap* OR polystyrene) OR descriptor:"Thermal insulation")'
        " AND [Winter] (winter* OR overwinter* OR spring)",
        "Polystyrene, and the descriptors",
        True,
    ),
    (
        f"{_BEES} OR hive* OR colon* OR descriptor:Bees)"
        ' AND [Insulation] (title:(insulat* OR wrap* OR polystyrene OR temperature*) OR descriptor:"Thermal insulation")'
        " AND [Winter] (winter* OR overwinter* OR spring)",
        "Temperature in the title",
        False,
    ),
    (
        f"{_BEES} OR hive* OR colon* OR descriptor:Bees)"
        " AND [Insulation] (title:(insulat* OR wrap* OR polystyrene OR temperature*)) AND [Winter] (winter* OR overwinter* OR spring) AND year:1980-",
        "From 1980; the descriptor brought nothing",
        True,
    ),
)


def _query(review: int, lead: int, second: int) -> None:
    for k, (said, note, keep) in enumerate(QUERIES):
        query.take_step(review, second if k == 2 else lead, said, note, keep=keep)


def _truth(review: int) -> dict[int, Document]:
    """The document behind each record, by the number in its copies' accessions."""
    by_number = {document.number: document for document in documents()}
    with session() as db:
        found = db.exec(
            select(Placement.record_id, Copy.accession)
            .where(Placement.copy_id == Copy.id, Placement.review_id == review)
            .order_by(col(Copy.id).desc())
        ).all()
    truth = {}
    for record, accession in found:
        digits = "".join(c for c in accession if c.isdigit())
        number = int(digits) - 7300000 if len(digits) == 7 else int(digits)
        truth[record] = by_number[number]
    return truth


PILOT, READ, BY_ONE = 30, 550, 24
"""So many of the closest records all three read as a pilot; so many are read by two; so many of the next by one so far."""
NOTES = (
    "Is a wrapped shed an insulated hive? I would ask for the full text.",
    "Losses are given for the whole apiary only.",
    "The comparison is with last year, not with plain hives.",
)


def _screen(review: int, team: Team, truth: dict[int, Document], tick: Callable[[float], None]) -> None:
    rng, others = random.Random(3), random.Random(11)
    criteria = [criterion.id for criterion in protocol.protocol(review).criteria]
    with session() as db:
        records, _ = order(db, review)
    alone = len(set(team)) == 1
    if not alone:
        passes.set_mode(review, team.lead, 1, Mode(2, settling="talk"))
        passes.share_out(review, team.lead, passes.Shares(1, "Pilot", dict.fromkeys(team, 1.0), most=PILOT, pilot=True), Wanted("open"))
    wanted = [record for record in records if truth[record].theme == "belongs"]
    for k, record in enumerate(records):
        if k >= READ and not wanted:
            break
        if record in wanted:
            wanted.remove(record)
        elif k >= READ:
            continue
        fails = THEMES[truth[record].theme].fails
        unsure = bool(fails) and rng.random() < 0.015
        verdict = "unsure" if unsure else "exclude" if fails else "include"
        if fails == 4 and rng.random() < 0.5:
            verdict = "include"  # kind on titles and abstracts; the full text will tell
        said = screen.Said(record, 1, verdict, criteria[fails - 1] if verdict == "exclude" else None)
        first = rng.choices((0, 1, 2), (5, 4, 3))[0]
        screen.decide(review, team[first], said)
        if not alone:
            readers = [team[(first + turn) % 3] for turn in ((1, 2) if k < PILOT else (1,))]
            _read_too(review, readers, team[(first + 2) % 3] if k >= PILOT else team.lead, said, criteria[max(fails, 1) - 1], others)
        if k == PILOT and not alone:
            passes.set_mode(review, team.lead, 1, Mode(2))
        if k == 40:
            ranking.rank_review(review)
        if k % 25 == 0:
            tick(0.62 + 0.2 * min(1.0, k / READ))
    if not alone:
        for record in records[READ : READ + BY_ONE]:
            if truth[record].theme != "belongs":
                screen.decide(
                    review, team.second, screen.Said(record, 1, "exclude", criteria[max(THEMES[truth[record].theme].fails, 1) - 1])
                )


def _read_too(review: int, readers: list[int], settler: int, said: screen.Said, criterion: int | None, rng: random.Random) -> None:
    """The other readers of a record: mostly of one mind with the first; where they are not, somebody settles it, unless the first was unsure."""
    differ = said.verdict != "unsure" and rng.random() < 0.035
    contrary = "include" if said.verdict == "exclude" else "exclude"
    for turn, reader in enumerate(readers):
        verdict = contrary if differ and turn == 0 else "exclude" if said.verdict == "unsure" else said.verdict
        screen.decide(review, reader, said._replace(verdict=verdict, criterion=criterion if verdict == "exclude" else None))
        if said.verdict == "unsure" and turn == 0:
            screen.note(review, reader, said.record, rng.choice(NOTES))
    if differ:
        passes.settle(review, settler, said)


def _full_texts(review: int, team: tuple[int, int], truth: dict[int, Document]) -> None:
    criteria = [criterion.id for criterion in protocol.protocol(review).criteria]
    underline.set_words(review, team[1], "insulat*\nwrap*\nwinter*\ncontrol*\nsurviv*", "bumble bee*\npollinat*\nsummer", 0)
    for k, text in enumerate(fulltexts.full_texts(review)):
        document = truth[text["id"]]
        if k in (5, 17, 29):
            fulltexts.set_full_text(
                review,
                team[1],
                text["id"],
                "missing",
                ("Library has no holding", "Author did not answer", "Only in print, out of reach")[k // 12],
            )
            continue
        if k in (2, 30):
            names = ("scan_0031.pdf", "for-the-review.pdf")
            for name, pdf in zip(names, (correction(document), leaflet()), strict=True) if k == 2 else ():
                fulltexts.deliver(
                    review, team[1], name, io.BytesIO(pdf)
                )  # one job matches both: a correction is asked, a leaflet is nobody's
            continue
        name = document.doi.rpartition("/")[2] or f"{document.authors[0].partition(',')[0].lower()}-{document.year}"
        fulltexts.set_full_text(review, team[k % 2], text["id"], "obtained", "", f"{name}.pdf", io.BytesIO(paper(document)))
        if k % 11 == 7:
            continue
        fails = THEMES[document.theme].fails or (3 if k in (9, 21) else 0)
        screen.decide(
            review, team[k % 2], screen.Said(text["id"], 2, "exclude" if fails else "include", criteria[fails - 1] if fails else None)
        )
    fulltexts.match_full_texts(last_job(review))


if __name__ == "__main__":
    if is_empty():
        print("Loading the demo review …", flush=True)
        load()
