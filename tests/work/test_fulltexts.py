"""A heap of PDFs: what is sure is attached, what is not is asked, what is wrong is taken off again."""

from __future__ import annotations

import csv
import io
import zipfile

import pytest
from fpdf import FPDF

from kettlesort.settings import settings
from kettlesort.store.base import session
from kettlesort.store.sql import scalar
from kettlesort.work import fulltexts
from kettlesort.work.errors import Conflict, Invalid, NotFound
from tests.conftest import Room, make_room, ris

TITLES = ["Wrapped hives in a cold northern winter", "Foam lids and their moisture in spring", "Feeding of colonies before the first frost"]


def pdf(title: str, *lines: str) -> bytes:
    made = FPDF(format="A4")
    made.add_page()
    made.set_font("Helvetica", "B", 16)
    made.multi_cell(0, 8, title, new_x="LMARGIN", new_y="NEXT")
    made.set_font("Helvetica", "", 10)
    for line in lines:
        made.multi_cell(0, 6, line, new_x="LMARGIN", new_y="NEXT")
    return bytes(made.output())


@pytest.fixture
def seeking(room: Room) -> Room:
    room.gather(ris(*TITLES, doi="10.5555/f."))
    for record in room.records():
        room.decide(record, "include")
    return room


def deliver(room: Room, **files: bytes) -> None:
    for name, data in files.items():
        fulltexts.deliver(room.review, room.lead, name.replace("_", "."), io.BytesIO(data))
    with session() as db:
        job = scalar(db, "SELECT max(id) FROM job WHERE review_id = :v AND kind = 'match_full_texts'", v=room.review)
    fulltexts.match_full_texts(job)


def states(room: Room) -> dict[str, str]:
    return {it["filename"]: it["state"] for it in fulltexts.delivered(room.review)}


def of(room: Room, title: str) -> int:
    return int(next(it["id"] for it in fulltexts.full_texts(room.review) if it["title"] == title))


def test_a_heap_is_matched_and_the_rest_is_asked(seeking: Room) -> None:
    doi = next(it["doi"] for it in fulltexts.full_texts(seeking.review) if it["title"] == TITLES[0])
    sure = pdf(TITLES[0], f"doi:{doi}", "Orsel A")
    deliver(
        seeking, sure_pdf=sure, again_pdf=sure, letter_pdf=pdf(f"Correction to: {TITLES[1]}", "doi:10.5555/other"), menu_pdf=pdf("Soup, bread and cheese for all of us"), broken_pdf=b"%PDF-1.4 broken",
    )  # fmt: skip
    assert states(seeking) == {
        "sure.pdf": "placed",
        "again.pdf": "twice",
        "letter.pdf": "asked",
        "menu.pdf": "unplaced",
        "broken.pdf": "refused",
    }
    told = {it["filename"]: it for it in fulltexts.delivered(seeking.review)}
    assert told["again.pdf"]["record_title"] == TITLES[0]
    assert told["letter.pdf"]["proposals"][0]["id"] == of(seeking, TITLES[1])
    assert "but a longer title" in told["letter.pdf"]["proposals"][0]["why"]
    assert "no PDF that can be read" in told["broken.pdf"]["problem"]
    with pytest.raises(Invalid, match=r"broken.pdf cannot be read"):
        fulltexts.place(seeking.review, seeking.lead, told["broken.pdf"]["id"], of(seeking, TITLES[1]))
    for name, state in (("broken.pdf", "refused"), ("again.pdf", "twice"), ("letter.pdf", "asked")):
        fulltexts.place(seeking.review, seeking.lead, told[name]["id"], None)
        fulltexts.put_back(seeking.review, seeking.lead, told[name]["id"])
        assert states(seeking)[name] == state
    assert {it["title"]: it["fulltext"] for it in fulltexts.full_texts(seeking.review)} == {
        TITLES[0]: "obtained",
        TITLES[1]: "sought",
        TITLES[2]: "sought",
    }


def test_an_archive_is_unpacked_and_what_is_in_it_matched(seeking: Room) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for k, title in enumerate(TITLES):
            archive.writestr(f"texts/{k}.pdf", pdf(title, f"Orsel A. {2000 + k}", "10.5555/f." + str(k + 1)))
        archive.writestr("__MACOSX/texts/._0.pdf", b"nothing")
        archive.writestr("read me.txt", b"nothing")
    deliver(seeking, all_zip=out.getvalue())
    assert set(states(seeking)) == {"0.pdf", "1.pdf", "2.pdf"}
    assert "refused" not in states(seeking).values()
    for name, data in (("x.zip", b"PK\x03\x04cut"), ("x.docx", b"\xd0\xcf\x11\xe0"), ("none.zip", _zip_of_nothing())):
        with pytest.raises(Invalid, match=name):
            fulltexts.deliver(seeking.review, seeking.lead, name, io.BytesIO(data))


def _zip_of_nothing() -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("notes.txt", b"x")
    return out.getvalue()


def test_what_was_asked_is_placed_by_hand_and_what_is_wrong_taken_off(seeking: Room) -> None:
    deliver(seeking, scan_pdf=pdf("Soup, bread and cheese for all of us"))
    number = fulltexts.delivered(seeking.review)[0]["id"]
    record = of(seeking, TITLES[2])
    fulltexts.place(seeking.review, seeking.reviewer, number, record)
    assert states(seeking) == {"scan.pdf": "placed"}
    with pytest.raises(Conflict, match="attached already"):
        fulltexts.place(seeking.review, seeking.reviewer, number, None)
    fulltexts.take_off(seeking.review, seeking.reviewer, record)
    held = next(it for it in fulltexts.full_texts(seeking.review) if it["id"] == record)
    assert (held["fulltext"], held["file_id"]) == ("sought", None)
    assert states(seeking) == {"scan.pdf": "unplaced"}
    fulltexts.place(seeking.review, seeking.reviewer, number, None)
    assert states(seeking) == {}
    with pytest.raises(NotFound):
        fulltexts.take_off(seeking.review, seeking.reviewer, record)


def test_an_earlier_file_is_there_again_when_the_later_is_taken_off(seeking: Room) -> None:
    record = of(seeking, TITLES[0])
    for name in ("first.pdf", "second.pdf"):
        fulltexts.set_full_text(seeking.review, seeking.lead, record, "obtained", "", name, io.BytesIO(pdf(name)))
    fulltexts.take_off(seeking.review, seeking.lead, record)
    held = next(it for it in fulltexts.full_texts(seeking.review) if it["id"] == record)
    assert (held["fulltext"], held["filename"]) == ("obtained", "first.pdf")
    fulltexts.take_off(seeking.review, seeking.lead, record)
    held = next(it for it in fulltexts.full_texts(seeking.review) if it["id"] == record)
    assert (held["fulltext"], held["filename"]) == ("sought", None), "what was taken off twice is not there a third time"


def test_a_second_file_for_a_record_is_asked(seeking: Room) -> None:
    doi = next(it["doi"] for it in fulltexts.full_texts(seeking.review) if it["title"] == TITLES[0])
    deliver(seeking, one_pdf=pdf(TITLES[0], f"doi:{doi}", "Orsel A"), other_pdf=pdf(TITLES[0], f"doi:{doi}", "Orsel A", "Author's copy"))
    assert states(seeking) == {"one.pdf": "placed", "other.pdf": "asked"}
    assert "another PDF already" in next(it["problem"] for it in fulltexts.delivered(seeking.review) if it["filename"] == "other.pdf")


def test_what_is_too_large_or_damaged_is_told(seeking: Room, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(settings(), "max_pdf", 3_000)
    big = pdf(TITLES[0], *(f"Line {k} of a long text about hives {k * 7919}" for k in range(400)))
    with pytest.raises(Invalid, match=r"big.pdf: larger"):
        fulltexts.deliver(seeking.review, seeking.lead, "big.pdf", io.BytesIO(big))
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("big.pdf", big)
        archive.writestr("small.pdf", pdf(TITLES[1], "Orsel A"))
    deliver(seeking, some_zip=out.getvalue())
    told = {it["filename"]: (it["state"], it["problem"]) for it in fulltexts.delivered(seeking.review)}
    assert told["some.zip"] == ("refused", "big.pdf is larger than 0 MB.")
    assert told["small.pdf"][0] in ("placed", "asked")
    cut = bytearray(out.getvalue())
    inside = out.getvalue().index(b"small.pdf") + 60
    cut[inside : inside + 140] = bytes(140)
    deliver(seeking, cut_zip=bytes(cut))
    assert "damaged" in next(it["problem"] for it in fulltexts.delivered(seeking.review) if it["filename"] == "cut.zip")


def test_a_list_to_hand_to_a_library(seeking: Room) -> None:
    fulltexts.set_full_text(seeking.review, seeking.lead, of(seeking, TITLES[1]), "missing", "Burnt in a fire")
    listed = list(csv.DictReader(io.StringIO(fulltexts.to_fetch(seeking.review).removeprefix("\ufeff"))))
    assert {it["title"] for it in listed} == {TITLES[0], TITLES[2]}
    assert all(it["link"] == f"https://doi.org/{it['doi']}" for it in listed)
    assert fulltexts.reasons(seeking.review)[0] == "Burnt in a fire"


def test_a_file_of_another_review_is_not_there(seeking: Room) -> None:
    deliver(seeking, scan_pdf=pdf("Soup, bread and cheese for all of us"))
    number = fulltexts.delivered(seeking.review)[0]["id"]
    other = make_room()
    for deed in (
        lambda: fulltexts.place(other.review, other.lead, number, None),
        lambda: fulltexts.delivered_file(other.review, number),
        lambda: fulltexts.put_back(other.review, other.lead, number),
    ):
        with pytest.raises(NotFound):
            deed()
