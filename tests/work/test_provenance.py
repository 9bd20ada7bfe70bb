"""Where each record came from, how its file was read, what it was called, and what was set aside: said, kept, and taken back."""

from __future__ import annotations

import io
import zipfile
from datetime import date

import pytest

from kettlesort.core import formats
from kettlesort.store.base import session
from kettlesort.store.records import Wanted
from kettlesort.store.sql import rows
from kettlesort.work import gather, labels, narrow, recipes, records, report, screen, searches, seeds
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room


def ris(*titles: str, year: int = 2001, **tags: str) -> str:
    more = "".join(f"{tag}  - {value}\n" for tag, value in tags.items())
    return "".join(f"TY  - JOUR\nTI  - {title}\nPY  - {year}\nAB  - On {title}.\n{more}ER  - \n\n" for title in titles)


def read_all(room: Room) -> None:
    with session() as db:
        waiting = [
            it["id"]
            for it in rows(
                db, "SELECT id FROM job WHERE review_id = :v AND kind = 'read_file' AND state = 'waiting' ORDER BY id", v=room.review
            )
        ]
    for job in waiting:
        gather.read_file(job)


def entry(room: Room, source: str = "Agrarica", announced: int | None = None) -> int:
    return searches.write_search(
        room.review, room.lead, searches.SearchEntry(source, "database", "wrap*\nAND bees", date(2026, 2, 4), "TL", "", announced)
    )


def upload(room: Room, search: int, data: str | bytes, name: str = "one.ris", **more: object) -> list[int]:
    found = gather.upload(
        room.review, room.lead, search, name, io.BytesIO(data.encode() if isinstance(data, str) else data), **more
    ).batches  # type: ignore[arg-type]
    read_all(room)
    return found


def test_a_search_done_again_is_a_run_that_says_what_it_brought_that_was_new(room: Room) -> None:
    search = entry(room, announced=3)
    straw = ris("Lids of straw in wet winters", DO="10.5555/straw.1", AU="Orsel, Tamsin", VL="3", SP="9")
    (batch,) = upload(room, search, ris("Wraps of felt in cold winters") + straw)
    gather.take_in(room.review, room.lead, batch)
    run = searches.write_run(room.review, room.lead, search, searches.RunEntry("wrap*\nAND bees", date(2026, 8, 4), "OM", "", 2))
    (batch,) = upload(room, search, straw + ris("Foam under roofs in spring"), "two.ris")
    gather.take_in(room.review, room.lead, batch)
    room.match()
    (logged,) = searches.search_log(room.review)
    assert [(it["number"], it["announced"], it["imported"], it["new"], it["files"]) for it in logged.runs] == [
        (1, 3, 2, 2, 1),
        (2, 2, 2, 1, 1),
    ]
    assert (logged.announced, logged.imported, logged.difference) == (5, 4, -1)
    with pytest.raises(Conflict, match="has files"):
        searches.remove_run(room.review, room.lead, search, run)
    head, *lines = searches.log_table(room.review)
    assert [dict(zip(head, line, strict=True))["difference"] for line in lines] == [-1, 0]
    text = str(searches.appendix(room.review, "Hives"))
    assert "wrap*\\nAND bees" in text
    assert "search 1 announced 5 and brought 4" in text
    assert records.ids_of(room.review, Wanted(f"new:{run}")) == [
        it["id"] for it in records.page_of(room.review, Wanted("all", words="Foam"), 0, 9)[1]
    ]


def test_an_archive_becomes_files_of_its_own_with_a_label_that_goes_everywhere(room: Room) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("exports/one.ris", ris("Wraps of felt"))
        archive.writestr("exports/two.csv", "Title,Year\nLids of straw,2001\n")
    one, two = upload(room, entry(room), out.getvalue(), "all.zip", label="hand search, autumn")
    assert [(it["filename"], it["format"], it["labels"]) for it in gather.files(room.review)] == [
        ("all.zip/one.ris", "ris", ["hand search, autumn"]), ("all.zip/two.csv", "csv", ["hand search, autumn"]),
    ]  # fmt: skip
    for batch in (one, two):
        gather.take_in(room.review, room.lead, batch)
    (label,) = labels.labels(room.review)
    assert label["records"] == 2
    assert records.page_of(room.review, Wanted("all", label=label["id"]), 0, 9)[0] == 2
    first = records.ids_of(room.review, Wanted(f"label:{label['id']}"))[0]
    assert screen.sheet(room.review, room.lead, first).origins[0]["labels"] == ["hand search, autumn"]
    for format in formats.WRITABLE:
        data = records.export(room.review, Wanted("all"), format).file.read()
        text = (
            data.decode()
            if format != "xlsx"
            else " ".join(value for entry in formats.open_reading(io.BytesIO(data)) for _, value in entry.record.extra)
        )
        assert "hand search, autumn" in text, format
        assert "all.zip/two.csv, line 2" in text, format
    labels.take(room.review, room.lead, label["id"], [first])
    assert labels.labels(room.review)[0]["records"] == 1
    label_id, copies = labels.put(room.review, room.lead, "Hand search, AUTUMN", [first])
    assert (label_id, copies) == (label["id"], [first])
    labels.remove(room.review, room.lead, label_id)
    assert labels.labels(room.review) == []
    labels.remove(room.review, room.lead, label_id, back=True)
    assert labels.labels(room.review)[0]["records"] == 2


def test_a_file_is_said_to_have_a_label_only_if_all_its_records_have(room: Room) -> None:
    room.gather(ris("Wraps of felt", "Lids of straw"))
    first, second = room.records()
    labels.put(room.review, room.lead, "core", [first])
    assert [it["labels"] for it in gather.files(room.review)] == [[]]
    labels.put(room.review, room.lead, "core", [second])
    assert [it["labels"] for it in gather.files(room.review)] == [["core"]]


MISLABELLED = "TY  - JOUR\nTI  - Hive Letters\nT2  - Wraps of felt in winter\nM9  - Orsel, T\nER  - \n"


def test_tags_are_reassigned_and_the_choice_is_remembered_for_the_source(room: Room) -> None:
    search = entry(room)
    (batch,) = upload(room, search, MISLABELLED)
    how = {"fields": {"TI": "journal", "T2": "title", "M9": "authors"}}
    assert gather.read_again(room.review, room.lead, batch, how) == batch
    read_all(room)
    it = gather.entry_of(room.review, batch, 1)
    assert (it.record.title, it.record.journal, it.record.authors) == ("Wraps of felt in winter", "Hive Letters", ("Orsel, T",))
    assert {line.text[:2]: line.field for line in it.lines} == {"TY": "Kind", "TI": "Journal", "T2": "Title", "M9": "Authors", "ER": ""}
    gather.take_in(room.review, room.lead, batch)
    with pytest.raises(Conflict, match="Set the file aside first"):
        gather.read_again(room.review, room.lead, batch, {})
    (later,) = upload(room, search, MISLABELLED.replace("felt", "straw"), "two.ris")
    look = gather.look_at(room.review, later)
    assert look.batch.how["habit"]
    assert gather.entry_of(room.review, later, 1).record.title == "Wraps of straw in winter"
    (other,) = upload(room, entry(room, "Vitalis"), MISLABELLED.replace("felt", "moss"), "three.ris")
    assert gather.entry_of(room.review, other, 1).record.title == "Hive Letters"


def test_a_file_on_whose_records_something_was_decided_is_read_again_beside_it(room: Room) -> None:
    (batch,) = upload(room, entry(room), ris("Wraps of felt"))
    gather.take_in(room.review, room.lead, batch)
    room.decide(room.records()[0], "include")
    gather.set_aside(room.review, room.lead, batch)
    again = gather.read_again(room.review, room.lead, batch, {"fields": {"AB": "note"}})
    assert again != batch
    read_all(room)
    assert gather.entry_of(room.review, again, 1).record.note == "On Wraps of felt."
    assert gather.entry_of(room.review, batch, 1).record.abstract == "On Wraps of felt."


UNKNOWN = "".join(f"Rec No: {k}\nHeadline: {title}\nWriters: Orsel, T; Ames, B\nWhen: 20{k}\nPlace in: Hive Letters\n\n" for k, title in ((10, "Wraps of felt in winter"), (11, "Lids of straw in autumn")))  # fmt: skip


def test_a_file_nobody_has_a_reader_for_is_read_by_a_recipe_that_is_kept(room: Room) -> None:
    (batch,) = upload(room, entry(room), UNKNOWN, "odd.txt")
    assert gather.look_at(room.review, batch).batch.certainty == "guess"
    look = recipes.propose_for(room.review, batch, None)
    assert look.proposal is not None
    assert [it.tag for it in look.proposal.labels] == ["Rec No", "Headline", "Writers", "When", "Place in"]
    assert {(it.begin, it.start, it.records) for it in look.proposal.beginnings} >= {("tag", "Rec No", 2), ("blank", "", 2)}
    recipe = look.recipe.reassigned(
        {"Headline": "title", "Writers": "authors", "When": "year", "Place in": "journal", "Rec No": "accession"}
    )
    recipe = recipe.model_copy(update={"name": "Hive House"})
    tried = recipes.try_on(room.review, batch, recipe.text())
    assert [(it.record.title, it.record.year, it.record.accession) for it in tried.tried.entries] == [("Wraps of felt in winter", 2010, "10"), ("Lids of straw in autumn", 2011, "11")]  # fmt: skip
    assert recipes.keep(room.review, room.lead, recipe.text()).version == 1
    assert recipes.keep(room.review, room.lead, recipe.text()).version == 1
    assert recipes.keep(room.review, room.lead, recipe.model_copy(update={"about": "Of the hive house"}).text()).version == 2
    (later,) = upload(room, entry(room, "Hive House"), UNKNOWN.replace("felt", "moss"), "odd2.txt")
    found = gather.look_at(room.review, later).batch
    assert (found.format, found.certainty) == ("recipe", "sure")
    assert "Hive House" in found.reading["recipe"]
    recipes.remove(room.review, room.lead, "Hive House")
    assert [it.recipe.name for it in recipes.recipes(room.review)] == ["NBIB", "Refer", "RIS"]
    recipes.remove(room.review, room.lead, "Hive House", back=True)
    assert len(recipes.recipes(room.review)[0].versions) == 2
    with pytest.raises(Invalid, match="begin"):
        recipes.keep(room.review, room.lead, 'name = "x"\nshape = "colon"\n[fields]\n')
    with pytest.raises(Invalid, match="comes with the program"):
        recipes.keep(room.review, room.lead, recipe.model_copy(update={"name": "ris"}).text())


def narrowed(room: Room) -> tuple[int, int, int, int]:
    total = room.total()
    assert report.standing(room.review).figures.adds_up
    return total.found, total.copies, total.aside, total.records


OLD = narrow.Rule("Before 1990", "year:-1989", "", False, True, False)


@pytest.fixture
def aged(room: Room) -> Room:
    """Four old records, of which one is a seed, one included and one excluded; two newer ones."""
    room.gather(ris("Wraps of felt", "Lids of straw", "Foam on roofs", "Moss in walls", year=1980) + ris("Cork on floors", "Wool on lids"))
    room.match()
    first, second, third, *_ = room.records()
    seeds.mark_seed(room.review, room.lead, first, True)
    room.decide(second, "include")
    room.decide(third, "exclude")
    return room


def test_narrowing_is_seen_beforehand_counted_under_its_name_and_taken_back(aged: Room) -> None:
    before = narrowed(aged)
    seen = narrow.preview(aged.review, OLD)
    assert ([it["title"] for it in seen.seeds], [it["title"] for it in seen.included], seen.decided) == (
        ["Wraps of felt"],
        ["Lids of straw"],
        1,
    )
    assert [it["title"] for it in seen.examples] == ["Moss in walls"]
    made, n = narrow.apply(aged.review, aged.lead, OLD)
    assert n == 1
    assert narrowed(aged) == (6, 0, 1, 5)
    figures, diagram = report.diagram(aged.review, "ours", False)
    assert [(it.name, it.main) for it in figures.narrowed] == [("Before 1990", 1)]
    assert [(line.label, line.n) for box in diagram.boxes for line in box.lines if line.list == f"narrowed:{made}"] == [("Before 1990", 1)]
    standard = report.diagram(aged.review, "standard", False)[1]
    assert any(
        line.label == "Records marked as ineligible by automation tools" and line.n == 1 for box in standard.boxes for line in box.lines
    )
    (moss,) = records.ids_of(aged.review, Wanted(f"narrowed:{made}"))
    with pytest.raises(Conflict, match="set aside"):
        aged.decide(moss, "include")
    assert moss not in records.ids_of(aged.review, Wanted("open"))
    released = narrow.let_in(aged.review, aged.lead, [moss])
    assert narrowed(aged) == before
    aged.decide(moss, "include")
    with pytest.raises(NotFound, match="read meanwhile"):
        narrow.hold_again(aged.review, aged.lead, released)
    screen.take_back(aged.review, aged.reviewer, 1, moss)
    assert narrow.hold_again(aged.review, aged.lead, released) == 1
    assert narrow.withdraw(aged.review, aged.lead, made) == 1
    assert narrowed(aged) == before
    assert narrow.withdraw(aged.review, aged.lead, made, back=True) == 1
    assert narrowed(aged) == (6, 0, 1, 5)
    picked, n = narrow.set_aside(aged.review, aged.lead, "Not about hives", aged.records()[-2:])
    assert n == 2
    standard = report.diagram(aged.review, "standard", False)[1]
    said = {line.label: (line.n, line.list) for box in standard.boxes for line in box.lines}
    assert said["Records removed for other reasons"] == (2, "removed:main")
    assert said["Records marked as ineligible by automation tools"] == (1, "automated:main")
    assert {key: records.page_of(aged.review, Wanted(key), 0, 1)[0] for key in ("removed:main", "automated:main", "aside")} == {
        "removed:main": 2,
        "automated:main": 1,
        "aside": 3,
    }
    narrow.withdraw(aged.review, aged.lead, picked)
    with pytest.raises(NotFound):
        narrow.withdraw(aged.review + 1, aged.lead, made)


def test_narrowing_that_spares_nobody_takes_seeds_and_included_ones_too_and_verdicts_outlive_it(aged: Room) -> None:
    made, n = narrow.apply(aged.review, aged.lead, OLD._replace(spare=False))
    assert n == 3
    assert narrowed(aged)[2:] == (3, 3)
    narrow.withdraw(aged.review, aged.lead, made)
    assert (aged.total().sought, aged.total().excluded) == (1, 1)


def test_narrowing_can_keep_what_a_query_finds_and_is_repeated_on_what_comes_later(room: Room) -> None:
    room.gather(ris("Wraps of felt", "Lids of straw"))
    made, n = narrow.apply(room.review, room.lead, narrow.Rule("Only wraps", "title:wrap*", "", True, True, True))
    assert n == 1
    room.gather(ris("Wraps of moss", "Cork on floors"), source="Vitalis")
    assert narrow.repeat(room.review, room.lead) == 1
    assert narrowed(room) == (4, 0, 2, 2)
    cork = records.ids_of(room.review, Wanted(f"narrowed:{made}", words="Cork"))[0]
    narrow.let_in(room.review, room.lead, [cork])
    assert narrow.repeat(room.review, room.lead) == 0  # who was let in stays in
    made, n = narrow.apply(room.review, room.lead, narrow.Rule("No abstract", "", "no", False, True, False))
    assert n == 0
    with pytest.raises(Invalid, match="name"):
        narrow.apply(room.review, room.lead, OLD._replace(name=" "))
    with pytest.raises(Invalid, match="cannot be read"):
        narrow.preview(room.review, OLD._replace(query="wrap AND ("))


def test_records_are_found_as_one_types_and_divide_with_counts(room: Room) -> None:
    room.gather(ris("Wraps of felt", "Wrapped lids", AU="Orsel, T", LA="eng", DO="10.5555/a.1") + ris("Roofs", year=1999, AB="", LA="ger"))
    typed = lambda text: [it["title"] for it in records.page_of(room.review, Wanted("all", typed=text), 0, 9)[1]]  # noqa: E731
    assert sorted(typed("wrap")) == ["Wrapped lids", "Wraps of felt"]
    assert typed("wrap -felt") == ["Wrapped lids"]
    assert len(typed("ors")) == 2
    assert typed("10.5555/A.1")
    assert typed("nowhere") == []
    divided = records.divided(room.review, Wanted("all"))
    assert divided["years"] == [("1999", 1), ("2001", 2)]
    assert divided["languages"] == [("English", 2), ("German", 1)]
    assert divided["sources"] == [("Agrarica", 3)]
    assert records.divided(room.review, Wanted("all", typed="wrap"))["kinds"] == [("article", 2)]


def test_a_records_page_says_whose_each_value_is_and_all_that_happened(room: Room) -> None:
    room.gather(ris("Wraps of felt in cold winters", DO="10.5555/a.1", ID="A1"))
    room.gather(ris("Wraps of felt in cold winters", DO="10.5555/a.1", JF="Hive Letters"), source="Vitalis")
    room.match()
    (record,) = room.records()
    room.decide(record, "include")
    labels.put(room.review, room.lead, "core", [record])
    it = records.whole(room.review, record)
    assert [copy.origin["source"] for copy in it.copies] == ["Agrarica", "Vitalis"]
    assert it.whose["journal"] == it.copies[1].id
    assert it.copies[0].raw.startswith("TY  - JOUR\nTI  - Wraps of felt")
    assert [one.what for one in it.history] == ["uploaded", "uploaded", "joined", "decided"]
    assert [label["name"] for label in it.labels] == ["core"]
    with pytest.raises(NotFound):
        records.whole(room.review, record + 10**6)
