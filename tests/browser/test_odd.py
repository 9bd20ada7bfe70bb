"""Days on which something is wrong: odd files, a filter that finds nothing, an address that is not there, a colleague without rights."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import FILES, Person

pytestmark = pytest.mark.xdist_group("browser")
Sit = Callable[..., Person]


def new_search(it: Person, source: str) -> None:
    it.click("Searches")
    it.click("New search")
    it.type("Source", source)
    it.click("Write into the log")
    it.reads("The search is in the log")


def test_odd_files_say_what_is_odd_and_nothing_is_lost(person: Sit) -> None:
    it = person()
    it.sign_in("odile")
    it.click("New review")
    it.type("Title", "Odd files")
    it.click("Make the review")
    it.reads("Elements of the question")
    it.click("Gather")
    it.reads("New search")

    new_search(it, "Apicultural Abstracts")
    it.upload(FILES / "apicultural-abstracts.csv")
    it.reads("302 records")
    it.click("apicultural-abstracts.csv")
    it.reads("CSV", "How full each field is", "Record 1 of 302", "What was understood")
    it.press("l")
    it.until(lambda: "record=" in it.browser.current_url, "the next record to look at")

    new_search(it, "Hive Trials Register")
    it.upload(FILES / "hive-trials-register.xlsx")
    it.reads("24 records")
    it.click("hive-trials-register.xlsx")
    it.reads("XLSX", "a heading before the first record", "Take in 24 records")

    for name, data, said in (
        ("picture.ris", b"\x89PNG\r\n\x1a\n" + bytes(60), "picture"),
        ("empty.nbib", b"  \n", "blanks"),
        ("letters.ris", "TY  - JOUR\nTI  - Wachs und Wärme\nER  - \n".encode("cp1252") + b"\x81", "Wachs und Wärme"),
    ):
        path = Path(it.downloads) / name
        path.write_bytes(data)
        it.click("Searches")
        it.click("Hive Trials Register")
        it.upload(path)
        it.click(name)
        it.reads(said)
    assert it.complaints() == []


def test_a_filter_on_any_list_and_the_way_out_of_an_empty_one(person: Sit) -> None:
    it = person()
    it.sign_in()
    it.go("/reviews/1/records?list=copies")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=listitem]"), "copies")
    it.click("Filter")
    it.field("Contains words")
    assert "Decided by" not in it.text()  # a copy was never decided on
    it.type("Contains words", "zebra -zebra")
    it.reads("No record fits")
    it.click("Clear")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=listitem]"), "copies again")
    it.go("/reviews/1/records?list=all&words=winter&year_from=2000")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=listitem]"), "records")
    before = it.browser.find_element(By.CSS_SELECTOR, "[role=listitem]").text
    it.browser.refresh()
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=listitem]")[0].text == before, "the same after loading again")


def test_wrong_addresses_and_missing_rights_are_told_in_words(person: Sit) -> None:
    it = person()
    it.go("/reviews/1/screen")
    it.reads("Account name")  # not signed in
    it.type("Account name", "tamsin")
    it.type("Password", "not this one")
    it.press(Keys.ENTER)
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "p[role=alert]"), "why not")
    it.type("Password", "winter-cluster")
    it.press(Keys.ENTER)
    it.until(it.heading, "a record at the desk, where one wanted to go")
    for path, said in (
        ("/reviews/9999/plan", "There is no such review, or you are not a member of it"),
        ("/reviews/1/gather/files/9999", "no such file"),
        ("/nowhere", "There is nothing at this address"),
        ("/reviews/1/match?pair=99999", "This pair is not open any more"),
        ("/reviews/1/screen?record=99999", "no such"),
    ):
        it.go(path)
        it.reads(said)
