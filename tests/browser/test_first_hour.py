"""A newcomer's first hour: an account, a review, all exports dropped at once, completed in a sheet, taken in, matched, the first ten decided."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import FILES, Person

pytestmark = pytest.mark.xdist_group("first")
Sit = Callable[..., Person]
SIX = ("agrarica-2026-02-part-1.txt", "agrarica-2026-02-part-2.txt", "apicultural-abstracts.csv", "hive-house-list.txt", "hive-trials-register.xlsx", "northern-theses.bib", "vitalis-index.nbib")  # fmt: skip
"""Six exports of six kinds, one of them in two parts."""


def cell(it: Person, name: str) -> str:
    return str(it.field(name).get_attribute("value"))


def test_a_newcomers_hour(person: Sit) -> None:
    it = person()
    it.go("/")
    it.make_account("linnet", "Linnet Voss", "a long winter")
    it.reads("You are in no review yet")
    it.click("New review")
    it.type("Title", "The first hour")
    it.click("Make the review")
    it.reads("Elements of the question")
    it.click("Gather")
    it.reads("The search log is empty", "drop the files here, all at once", "In the made-up review")
    it.press("?")
    it.reads("Drop exported files anywhere on this page", "A new search")
    it.press(Keys.ESCAPE)
    it.until(lambda: "Drop exported files anywhere" not in it.text(), "the guide is closed")

    # all files at once, with one that is none
    broken = it.downloads / "notes.ris"
    broken.write_bytes(b"%PDF-1.7 no export")
    it.browser.find_element(By.CSS_SELECTOR, "input[aria-label='Files of any searches']").send_keys(
        "\n".join(str(path) for path in [*(FILES / name for name in SIX), broken])
    )
    it.reads("7 files of 6 searches", "notes.ris: this is a PDF")
    assert cell(it, "Source of agrarica-2026-02-part-1.txt") == "Agrarica"
    kind = it.browser.find_element(By.CSS_SELECTOR, "select[aria-label='Kind of hive-trials-register.xlsx']")
    assert kind.get_attribute("value") == "register"
    assert cell(it, "Source of vitalis-index.nbib") == "Vitalis Index"
    it.reads("418", "Reading recipe, a guess")

    # completed as in a spreadsheet: typed, moved by arrows and Enter, what is wrong is told
    it.type("Announced for agrarica-2026-02-part-1.txt", "419")
    it.reads("1 fewer")
    it.press(Keys.ENTER)
    assert it.browser.switch_to.active_element.get_attribute("aria-label") == "Announced for apicultural-abstracts.csv"
    it.press("many")
    it.reads("The announced count is a whole number")
    it.press(Keys.BACKSPACE * 4, "302", Keys.ARROW_UP)
    assert it.browser.switch_to.active_element.get_attribute("aria-label") == "Announced for agrarica-2026-02-part-1.txt"
    it.type("Query of vitalis-index.nbib", "hive AND winter")
    it.type("Date of vitalis-index.nbib", "2026-02-04")
    it.click("Close")
    ActionChains(it.browser).key_down(Keys.CONTROL).send_keys(Keys.ENTER).key_up(Keys.CONTROL).perform()
    it.reads("1,290 records of 7 files are in", "6 searches", "4 February 2026")
    it.until(lambda: "7 files of" not in it.text(), "the sheet is gone")
    it.click("Vitalis Index")
    it.holds("Query, exactly", "hive AND winter")

    # matched by itself, and the first ten decided
    it.until(lambda: "copies" in it.text() and "to go" in it.text(), "matched")
    it.click("Screen")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "article h1"), "a record at the desk")
    for _ in range(10):
        before = it.record()
        it.press(Keys.ENTER)
        it.until(lambda before=before: it.record() not in ("", before), "the next record")
    it.until(lambda: re.search(r"\b10 of \d", it.text()), "ten decided")
    assert it.complaints() == []


def test_a_colleague_joins_by_a_link_and_looks_after_the_account(person: Sit) -> None:
    it, other = person(), person()
    it.sign_in()
    it.go("/reviews/1/plan/team")
    it.reads("Invite by a link")
    it.click("Make a link")
    link = it.until(lambda: it.field("The link").get_attribute("value"))
    other.browser.get(link)
    other.reads("Tamsin Lorn invites you to the review Hive insulation and winter survival, as reviewer")
    other.click("Sign in, or make an account")
    other.make_account("fieldfare", "Fenn Carrow", "the first frost")
    other.click("Join as Fenn Carrow")
    other.reads("Hive insulation and winter survival", "Elements of the question")
    it.reads("Fenn Carrow", "1 invitation used, the last by Fenn Carrow")

    other.go("/account")
    other.type("Your name", "Fenn Marlow")
    other.click("Keep the name")
    other.reads("You are known as Fenn Marlow now")
    other.type("Password now", "the first frost")
    other.type("New password", "the second frost")
    other.click("Change the password")
    other.reads("The password is changed")
    other.type("Password, to agree", "the second frost")
    other.click("Delete my account")
    other.type("Account name", "fieldfare")
    other.type("Password", "the second frost")
    other.press(Keys.ENTER)
    other.reads("do not go together")
    it.go("/reviews/1/plan/team")
    it.reads("Fenn Marlow", "was reviewer, removed")
    assert it.complaints() == []
    assert other.complaints() == []


def test_the_demo_is_filled_into_a_review_of_ones_own_and_thrown_away(person: Sit) -> None:
    it = person()
    it.go("/")
    it.make_account("marl", "Marl Tennick", "a long winter")
    it.reads("You are in no review yet", "try everything with made-up data")
    it.click("Try it with made-up data")
    it.reads("Filling with made-up data")
    it.reads("7 of 36", "11 pairs open", "flow adds up", seconds=300)
    it.click("Screen")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "article h1"), "a record at the desk")
    it.reads("Here because", "Nearest decided")
    before = it.heading()
    it.press("1")
    it.until(lambda: it.heading() != before, "the next record")
    it.go("/")
    it.click("Throw away Hive insulation")
    it.reads("can be brought back for two days", "All your reviews are archived")
    it.click("Undo")
    it.reads("made up", "pairs to compare")
    assert it.complaints() == []
