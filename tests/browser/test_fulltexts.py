"""A heap of ten PDFs, dropped at once: matched, asked, placed by key, taken off; and read in place in the second pass."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable

import pytest
from fpdf import FPDF
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import FILES, Person
from tests.conftest import ris

pytestmark = pytest.mark.xdist_group("more")
Sit = Callable[..., Person]
TITLES = [f"Wrapped hives in the {word} valley of the north" for word in ("first", "second", "third", "fourth", "fifth", "sixth")]


def pdf(title: str, *lines: str) -> bytes:
    made = FPDF(format="A4")
    made.add_page()
    made.set_font("Helvetica", "B", 16)
    made.multi_cell(0, 8, title, new_x="LMARGIN", new_y="NEXT")
    made.set_font("Helvetica", "", 11)
    for line in lines:
        made.multi_cell(0, 6, line, new_x="LMARGIN", new_y="NEXT")
    made.add_page()
    made.multi_cell(0, 6, "On the second page the wintering colonies are counted.", new_x="LMARGIN", new_y="NEXT")
    return bytes(made.output())


def test_a_heap_of_ten_pdfs_is_placed_and_read(person: Sit) -> None:
    it = person()
    it.sign_in("odile")
    it.click("New review")
    it.type("Title", "A heap")
    it.click("Make the review")
    it.reads("Elements of the question")
    it.click("Add a criterion")
    it.type("Criterion 1", "Not honeybees")
    it.click("Save as version 2")
    it.reads("The protocol is saved as version 2")
    it.click("Gather")
    it.click("New search")
    it.type("Source", "Vitalis Index")
    it.click("Write into the log")
    it.reads("The search is in the log")
    records = it.downloads / "six.ris"
    records.write_text(ris(*TITLES, doi="10.5555/heap."))
    it.upload(records)
    it.reads("6 records")
    it.click("six.ris")
    it.click("Take in 6 records")
    it.reads("6 in")
    it.click("Screen")
    it.reads("0 of 6 decided")
    it.until(it.heading)
    for k in range(6):
        it.press(Keys.ENTER)
        it.reads(f"{k + 1} of 6 decided")

    # ten files at once: four of them in a ZIP
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for k, title in enumerate(TITLES[:4]):
            archive.writestr(f"{k}.pdf", pdf(title, f"doi:10.5555/heap.{k + 1}", "Orsel A"))
    heap = {
        "four.zip": packed.getvalue(), "fifth.pdf": pdf(TITLES[4], "doi:10.5555/heap.5"), "again.pdf": pdf(TITLES[4], "doi:10.5555/heap.5"),
        "correction.pdf": pdf(f"Correction to: {TITLES[5]}", "doi:10.5555/heap.66"), "leaflet.pdf": pdf("Ten hints for the beginner with bees"), "broken.pdf": b"%PDF-1.4 broken", "notes.pdf": b"no pdf at all",
    }  # fmt: skip
    for name, data in heap.items():
        (it.downloads / name).write_bytes(data)
    it.click("Full texts")
    it.reads("Still sought 6")
    it.upload(*(it.downloads / name for name in heap))
    it.reads("notes.pdf: neither a PDF nor a ZIP of PDFs", "Obtained 5", "2 PDFs to place by hand")

    # what is not sure, side by side, by key, with undo
    it.click("2 PDFs to place by hand")
    it.reads("whose is it?", "no record found", "came twice", "cannot be read", "but a longer title")
    it.until(lambda: "Correction to" in (it.browser.find_element(By.CSS_SELECTOR, ".pdf-text").text or it.text()), "the PDF beside it")
    it.press("1")
    it.reads("correction.pdf is attached to", "1 PDF to place")
    it.click("Undo")
    it.reads("2 PDFs to place")
    it.press("d")
    it.reads("leaflet.pdf is dropped", "1 PDF to place")

    # in the second pass: the PDF in place, its words underlined, found, paged, and the decision beside it
    it.click("Second pass")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".pdf-text span"), "the PDF in place")
    it.press("w")
    it.type("Words that speak for a record", "winter*")
    it.click("Underline them")
    it.reads("1 word is underlined")
    it.press("/")
    it.press("wintering colonies", Keys.ENTER)
    it.reads("1 of 1")
    it.until(
        lambda: [m.text for m in it.browser.find_elements(By.CSS_SELECTOR, "mark.for.own")] == ["wintering"], "the team's word underlined"
    )
    it.press(Keys.ESCAPE)
    it.press("t")
    it.until(it.heading, "the abstract, one key away")
    it.press("t")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".pdf-text span"))
    it.press(Keys.ENTER)
    it.reads("1 of 5 decided")

    # what is wrong is taken off again
    it.click("Full texts")
    it.reads("Obtained 5")
    it.click("Obtained 5")
    it.hit("button.entry")
    it.click("Take the PDF off")
    it.reads("is taken off", "Obtained 4")
    it.click("Undo")
    it.reads("Obtained 5")
    assert it.complaints() == []
    assert FILES.exists()
