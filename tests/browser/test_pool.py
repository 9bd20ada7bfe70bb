"""Pooling as a person does it: an analysis from nothing, a study left out and the figure moves, a value changed in Chart, a number followed to its sentence."""

from __future__ import annotations

import io
from collections.abc import Callable

import docx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Person
from tests.browser.test_chart import cell, grid

pytestmark = pytest.mark.xdist_group("more")
Sit = Callable[..., Person]


def figure(it: Person) -> str:
    return str(it.until(lambda: it.browser.find_element(By.CSS_SELECTOR, ".heading .figure"), "the figure").text)


def test_an_analysis_from_nothing_to_the_picture_and_back_to_the_sentence(person: Sit) -> None:
    it = person()
    it.sign_in("tamsin")
    it.go("/reviews/1/pool")
    it.reads("Survival of winter", "Stored food used")
    it.click("New analysis")
    it.reads("Survived: Wrapped against Plain", "risk ratio")
    it.pick("Measure", "odds ratio")
    it.reads("odds ratio")
    it.pick("Variance between studies", "DerSimonian")
    it.click("Keep the analysis")
    it.reads("Survived: Wrapped against Plain is kept.")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".drawing svg"), "the forest plot")
    whole = figure(it)
    pooled = it.browser.find_element(By.CSS_SELECTOR, "aside .head .push").text

    # a study is left out for a look, by key, and the figure moves
    it.press(Keys.ARROW_DOWN, Keys.SPACE)
    it.reads("Without 1 study, for a look")
    it.until(lambda: figure(it) != whole, "another figure")
    it.click("Put back")
    it.until(lambda: figure(it) == whole, "the figure of all")
    it.click("A closer look")
    it.reads("By every model", "Random effects, PM, Hartung-Knapp", "Without each study", "Egger’s test")
    it.click("A closer look")
    it.click("Download")
    it.click("Forest plot, SVG")
    assert "Wrapped" in it.downloaded("forest.svg").decode()

    # from the figure to the cell, and a value that changes there changes it
    it.hit(".drawing a text")
    grid(it)
    it.until(lambda: "cell=" in it.browser.current_url)
    study = it.browser.find_element(By.CSS_SELECTOR, "aside.cell .head .soft").text
    before = cell(it, study, "Survived, Plain").text.split("”")[0].strip()
    events, total = (int(part) for part in before.split(" / "))
    cell(it, study, "Survived, Plain").click()
    it.press(f"{events - 5} / {total}" if events > 10 else f"{events + 1} / {total}")
    it.press(Keys.ENTER)
    it.until(lambda: cell(it, study, "Survived, Plain").text.split("”")[0].strip() != before, "another value")
    it.click("Pool")
    it.click("Survived: Wrapped against Plain")
    it.until(lambda: figure(it) != whole, "the figure follows the value")
    assert it.browser.find_element(By.CSS_SELECTOR, "aside .head .push").text == pooled
    it.click("Analyses")
    it.click("Remove Survived: Wrapped against Plain")
    it.reads("is out of sight")
    it.click("Undo")
    it.until(lambda: it._named("Survived: Wrapped against Plain"), "the analysis again")
    assert it.complaints() == []


def test_three_ways_at_once_and_what_it_all_means(person: Sit) -> None:
    it = person()
    it.sign_in("odile")
    it.go("/reviews/1/pool")
    it.click("Three ways to winter")
    it.reads("3 treatments by odds ratio", "Ranking", "Direct against indirect", "Indoors", "3 treatments were compared at once")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".drawing svg circle"), "the picture of comparisons")
    against = it.until(lambda: it.browser.find_element(By.CSS_SELECTOR, ".league tbody tr:nth-child(2) td"), "wrapped against plain").text
    it.press(Keys.ARROW_DOWN, Keys.SPACE)
    it.reads("Without 1 study, for a look")
    it.until(lambda: it.browser.find_element(By.CSS_SELECTOR, ".league tbody tr:nth-child(2) td").text != against, "another figure")
    it.click("Put back")

    # what each outcome means, how sure it is, and why
    it.click("Summary table")
    it.reads("Survival of winter", "What may be missing", "The doubts lead to “unsure”")
    it.type("Baseline", "650")
    it.press(Keys.TAB)
    it.reads("The baseline is 650 of 1,000", "650 →")
    it.click("Stored food used")
    it.pick("How exact", "serious doubt")
    it.type("Why", "Few hives were weighed.")
    it.press(Keys.TAB)
    it.reads("How exact: serious doubt.", "The doubts lead to “unsure”")
    it.click("rather sure")
    it.reads("Stored food used: rather sure.")
    it.click("DOCX")
    table = docx.Document(io.BytesIO(it.downloaded("summary.docx"))).tables[0]
    assert [cell.text for cell in table.rows[2].cells][0::7] == ["Stored food used", "rather sure"]
    it.click("Undo")
    it.until(lambda: "not judged" in it.browser.find_element(By.CSS_SELECTOR, "tbody tr:nth-child(2)").text, "no certainty again")
    assert it.complaints() == []
