"""From studies that are known to a search in the log."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from kettlesort.demo.invent import documents
from tests.browser.conftest import FILES, Person

pytestmark = pytest.mark.xdist_group("first")
Sit = Callable[..., Person]


def test_from_pasted_seeds_through_words_trial_and_another_syntax_to_the_log(person: Sit) -> None:
    known = [it for it in documents()[:40] if it.doi]
    it = person()
    it.sign_in("odile")
    it.click("New review")
    it.type("Title", "From seeds to a search")
    it.click("Make the review")
    it.reads("Elements of the question")
    catalogue = str(it.browser.execute_script("return fetch('/api/reviews/1/catalogues').then((answer) => answer.json())")[0]["address"])

    # a catalogue is connected by its address, after a mistake
    it.click("Query")
    it.reads("No query yet")
    it.click("Add a concept")
    it.press("Bees", Keys.TAB)
    it.type("Add a term to Bees", "honeybee; wax")
    it.press(Keys.ENTER)
    it.reads("Counted in")
    it.hit("select[aria-label='Counted in'] option[value=connect]")
    it.type("Address", "http://127.0.0.1:9/")
    it.click("Connect")
    it.reads("is away")
    it.type("Address", catalogue)
    it.click("Connect")
    it.reads("Hive Union Catalogue")
    it.until(
        lambda: (
            "…" not in it.browser.find_element(By.CSS_SELECTOR, ".trial").text
            and "asked" not in it.browser.find_element(By.CSS_SELECTOR, ".counting").text
        ),
        "all counts",
        60,
    )
    assert int(it.browser.find_elements(By.CSS_SELECTOR, ".trial tbody td.there")[0].text.replace(",", "")) > 10

    # studies pasted in any mixture: each line is answered, then added
    it.click("Seeds")
    it.type("Studies, one a line", "")
    box = it.field("Studies, one a line")
    box.send_keys(f"{known[0].doi}\n2. {known[1].full_title}.\n10.5555/nowhere.1\nNo such study was ever written by anybody")
    it.click("Look them up")
    it.reads("4 lines looked up", "in the catalogue: will be brought in", "not found: waited for")
    it.click("Add 3 as seeds")
    it.reads("brought in from the catalogue", known[0].full_title, "10.5555/nowhere.1", "not here yet")
    it.click("Write one down by hand")
    it.type("Title", "Straw skeps through the winter")
    it.reads("Missing for screening: abstract, authors, year")
    it.click("Add as a seed")
    it.reads("It is a seed", "Straw skeps through the winter")
    it.upload(FILES / "citation-chasing.ris")
    it.reads("1 copy", "44 seeds")  # one of them was brought in from the catalogue before

    # what they lack, asked of the registry and shown before it is applied
    it.click("Fill what they lack")
    it.until(lambda: "asked" not in it.text(), "all asked", 90)
    it.reads("It has no DOI", "Field, empty now")
    it.reads("all settled")  # what is matched meanwhile draws the page anew
    it.until(lambda: it.browser.find_element(By.XPATH, "//button[contains(., 'Fill') and contains(., 'field')]").click() is None)
    it.reads("filled; what the sources delivered stays")
    it.click("Undo")

    # their words become terms, other forms are offered, and terms from the vocabulary, the seeds and the hits
    it.click("Words")
    it.reads("Special", "Into the query")
    it.type("Contains", "insul")
    it.until(lambda: len(it.browser.find_elements(By.CSS_SELECTOR, "tbody tr")) < 40)
    it.browser.find_element(By.CSS_SELECTOR, "section[aria-label='Words and phrases']").send_keys("0")
    it.reads("1 term in a new concept")
    it.click("To the query")
    it.until(lambda: len(it.browser.find_elements(By.CSS_SELECTOR, ".card")) == 3)
    it.hit(".term input")
    it.reads("Also of honeybee", "honeybees")
    it.click("Add honeybees")
    it.click("Suggest terms for Bees")
    it.reads("Terms for Bees", "Nothing to suggest")
    it.click("Close")

    # written in another syntax, exactly so into the log
    it.click("Syntaxes")
    it.click("CCL")
    it.reads("honeybees", "AND")
    it.click("Write into the log")
    it.until(lambda: "honeybees" in it.field("Query, exactly").get_attribute("value"), "the query in the new entry")
    it.type("Source", "Agrarica")
    it.click("Write into the log")
    it.reads("The search is in the log", "Known studies")
    assert it.complaints() == []
