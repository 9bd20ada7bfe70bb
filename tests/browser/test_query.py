"""From the first word of a search to its entry in the log."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import FILES, Person

pytestmark = pytest.mark.xdist_group("browser")
Sit = Callable[..., Person]


def test_a_query_is_built_tried_kept_and_logged(person: Sit) -> None:
    it = person()
    it.sign_in()
    it.go("/reviews/1/plan/query")
    it.reads("Version 4", "6 of 6", "alone brings a seed", "exact binomial")

    # a new query, concept by concept
    it.press("t")
    it.type("Query", "title:winter*")
    it.reads("title:winter*")
    it.press(Keys.TAB)
    it.click("Concepts")
    it.click("Add a concept")
    it.press("Care of the hive", Keys.TAB)
    it.type("Add a term to Care of the hive", "foam wraps; wrap*; zebra")
    it.press(Keys.ENTER)
    it.reads('"foam wraps"', "finds nothing", "any of Care of the hive")
    it.click("Remove zebra")
    it.until(lambda: "finds nothing" not in it.text(), "zebra gone from the counts")

    # words of the seeds, by keyboard, into the same concept
    it.click("Words")
    it.reads("Into the query", "Care of the hive")
    it.until(lambda: re.search(r"records of the review\.\s+[\d,]+ rows", it.text()), "the words of the seeds")
    it.type("Contains", "straw insulated")
    terms = "return [...document.querySelectorAll('tbody .term')].map((e) => e.textContent)"
    it.until(lambda: {"straw insulated" in one for one in it.browser.execute_script(terms)} == {True}, "only what holds these words")
    it.hit("tbody td.pick input")
    it.reads("1 row chosen")
    it.browser.find_element("css selector", "section[aria-label='Words and phrases']").send_keys("2")
    it.reads("1 term in Care of the hive", "in the query")
    it.click("To the query")
    it.reads("Care of the hive", '"straw insulated"')

    # the same as text, with a mistake
    it.click("Text")
    it.until(lambda: "[Care of the hive]" in it.field("Query").get_attribute("value"))
    it.field("Query").send_keys(Keys.END, " AND (straw OR")
    it.reads("never closed", "Cannot be read yet", "To mend it")
    it.click("Lines")
    it.reads("It stands in the view Text")
    it.click("Text")
    it.field("Query").send_keys(" lid*)")
    it.until(lambda: "never closed" not in it.text(), "the query to be read")

    # every count opens its records
    it.click("Lines")
    it.until(lambda: it.field("Line 1"))
    read_and_clicked = "const count = document.querySelector('.trial tbody tr:first-child a'); count?.click(); return count?.textContent"
    total = it.until(
        lambda: it.browser.execute_script(read_and_clicked), "a count"
    )  # at once: counts of the query as it is now may come between
    it.reads("found by", f"{total}")
    it.browser.back()

    # a version, one step back, and into the log
    it.reads("Keep as version 5")
    it.type("What this step changed", "Only what is about wraps")
    it.click("Keep as version 5")
    it.reads("Kept as version 5", "Only what is about wraps")
    it.click("Compare with version 1")
    it.reads("Now beside version 1", "Both find")

    # the same in another syntax, and back from it
    it.click("Syntaxes")
    it.click("Code behind the term, in brackets")
    it.reads("winter*[title]", "names of concepts are left out", "joined by AND, which finds more")
    it.type("A query in Code behind", "hive*[titel]")
    it.reads("There is no code “titel”")
    it.type("A query in Code behind", "hive*[title] AND wax")
    it.reads("title:hive* AND wax")
    it.click("Make it the query")
    it.reads("It is the query now")
    it.click("Undo")
    it.reads("winter*[title]")
    it.click("Edit its codes")
    codes = it.field("Operators and codes")
    text = str(codes.get_attribute("value"))
    it.type("Short name", "hive-index")
    it.browser.execute_script(
        "arguments[0].value = arguments[1]; arguments[0].dispatchEvent(new Event('input'))",
        codes,
        text.replace('title = "title"', 'title = "t1"').replace("Code behind the term, in brackets", "Hive Index"),
    )
    it.click("Keep for the team")
    it.reads("Hive Index · your own", "winter*[t1]")
    it.click("Remove")
    it.reads("Hive Index is removed")
    it.click("CQL")
    it.reads("dc.title = winter*")
    it.click("Write into the log")
    it.until(lambda: "dc.title = winter*" in it.field("Query, exactly").get_attribute("value"), "the query as written in CQL")
    it.holds("Limits", "published 1975 to 2026; languages: any")
    it.browser.back()
    it.click("Query")
    it.click("Write into the log")
    it.until(lambda: "Care of the hive" in it.field("Query, exactly").get_attribute("value"), "the query in the new entry")
    assert it.complaints() == []


def test_a_heading_is_found_by_an_old_name_and_goes_into_the_query(person: Sit) -> None:
    it = person()
    it.sign_in("odile")
    it.click("New review")
    it.type("Title", "Headings")
    it.click("Make the review")
    it.reads("Elements of the question")
    it.click("Vocabulary")
    it.reads("No vocabulary yet")
    it.upload(FILES / "vitalis-index.nbib")
    it.reads("looks like Turtle, but cannot be read as that")
    it.upload(FILES.parent / "vocabularies" / "hive-thesaurus.ttl")
    it.reads("1,489 headings", "Study designs")
    it.press("/")
    it.press("overwint")
    it.reads("named Overwintering", "A colony's way through the cold season", "Life of the colony")
    it.hit("main, #main, .frame")
    it.press("0")
    it.reads("Wintering in a new concept", "descriptor:Wintering")
    it.click("Life of the colony")
    it.reads("with its narrower headings", 'descriptor:"Life of the colony+"')
    it.press("n")
    it.reads('descriptor:"Life of the colony"\n')
    it.press("1")
    it.reads("Life of the colony in concept 1")

    # a free word that is another name of a heading is pointed out
    it.click("To the query")
    it.reads("Wintering")
    it.type("Add a term to concept 1", "colony losses")
    it.press(Keys.ENTER)
    it.click("Vocabulary")
    it.click("Add Mortality beside colony losses")
    it.reads("Mortality in concept 1", "in the query")
    it.click("Remove Hive Thesaurus")
    it.reads("Hive Thesaurus is out of use")
    it.click("Undo")
    it.reads("1,489 headings")
    assert it.complaints() == []
