"""Appraisal as a person does it: answers by key with the words that support them, the rule's judgement, a difference settled, a form changed, a picture."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Person
from tests.browser.test_chart import MARK

pytestmark = pytest.mark.xdist_group("more")
Sit = Callable[..., Person]


def test_a_domain_is_judged_by_key_with_the_words_that_support_it(person: Sit) -> None:
    it = person()
    it.sign_in("tamsin")
    it.go("/reviews/1/chart/appraisal")
    it.reads("Soundness of wintering studies", "34 of 144 judgements stand", "8 wait for the other appraiser")
    it.click("Next to judge")
    it.reads("How hives came to be wrapped", "The rule waits for 2 answers")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".pdf-text span"), "the report")
    it.press("1")
    it.reads("Mark the words that support it")
    it.until(lambda: it.browser.execute_script(MARK, "improves survival"), "words to mark")
    it.press("m")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".questions .words"), "the words that support it")
    it.until(lambda: "alike" in it.browser.find_element(By.CSS_SELECTOR, ".questions li.on").text, "the next question")
    it.press("4")
    it.reads("Mark the words that support it")
    it.press("0")
    it.reads("The report has no words for it", "The team’s rule leads to sound")
    it.press(Keys.ENTER)
    it.reads("How hives came to be wrapped: sound.")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".choice[aria-pressed=true] svg"), "the judgement")
    it.click("serious doubt")
    it.reads("Say why it is “serious doubt”")
    it.click("Undo")
    it.until(lambda: not it.browser.find_elements(By.CSS_SELECTOR, ".choice[aria-pressed=true] svg"), "no judgement again")
    it.press(Keys.ARROW_RIGHT)
    it.reads("Hives lost from sight")
    it.click("All studies")
    it.reads("34 of 144 judgements stand")
    assert it.complaints() == []


def test_what_two_judge_differently_is_settled_by_a_third_and_the_picture_follows(person: Sit) -> None:
    it = person()
    it.sign_in("rudd")
    it.go("/reviews/1/chart/appraisal")
    it.click("2 differ")
    it.hit("table.signs td.one .odd")
    it.reads("Judged differently", "Was it left to chance which hives were wrapped?", "partly", "Odile Marsh")
    it.click("This stands", 1)
    it.reads("is settled", "Settled", "Take back")
    it.click("All studies")
    it.reads("35 of 144 judgements stand")
    it.click("Download")
    it.click("Studies and domains, SVG")
    drawn = it.downloaded("appraisal-table.svg").decode()
    assert "Grintham 1983, How hives came to be wrapped: serious doubt" in drawn
    it.go("/reviews/1/chart/appraisal/form")
    it.reads("Signalling questions")
    assert not it.browser.find_elements(By.XPATH, "//button[contains(., 'Save the form')]"), "that is for a lead"
    assert it.complaints() == []


def test_a_form_is_changed_with_open_eyes(person: Sit) -> None:
    it = person()
    it.sign_in("tamsin")
    it.go("/reviews/1/chart/appraisal/form")
    it.reads("Signalling questions")
    it.type("Rule 1: when", "chance is maybe")
    it.click("Save the form")
    it.reads("How hives came to be wrapped, rule 1: in “chance is maybe” one of these was expected")
    it.type("Rule 1: when", "chance is no")
    it.type("Judgements, the best first", "sound\nsome doubt\ngrave doubt")
    it.pick("Rule 1: then", "grave doubt")
    it.click("Hives lost from sight")
    it.holds("Domain", "Hives lost from sight")
    it.pick("Rule 2: then", "grave doubt")
    it.click("How survival was seen")
    it.holds("Domain", "How survival was seen")
    it.pick("Rule 1: then", "grave doubt")
    it.click("Save the form")
    it.reads("by a word that the form would not have any more", "Nothing is lost")
    it.click("Not yet")
    it.click("Leave it as it was")
    it.holds("Rule 1: when", "same is no")
    path = it.downloads / "form.toml"
    path.write_text('judgements = ["good", "bad"]\nanswers = ["yes", "no"]\n[[domain]]\nname = "Soundness of anything"\n')
    it.upload(path, into="A form file")
    it.reads("The file is read", "Soundness of anything")
    it.click("Leave it as it was")
    assert it.complaints() == []
