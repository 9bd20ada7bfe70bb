"""The protocol and its amendments, as a lead sees them and as a member does."""

from __future__ import annotations

import io
from collections.abc import Callable

import docx
import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Person

pytestmark = pytest.mark.xdist_group("browser")
Sit = Callable[..., Person]


def test_a_protocol_in_use_is_amended_with_a_reason_and_its_versions_stay(person: Sit) -> None:
    it = person()
    it.sign_in()
    it.go("/reviews/1/plan")
    it.reads("4 versions", "in use: rewording it is an amendment")
    it.type("The review that this one updates", "Wraps through the winter, 2019")
    it.browser.execute_script(
        "arguments[0].value = '2019-06-01'; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))", it.field("Its last search")
    )
    one, two = (it.browser.find_elements(By.CSS_SELECTOR, "kbd.handle")[k] for k in (0, 1))
    it.browser.execute_script(  # as a hand drags the second criterion to the first place
        """const data = new DataTransfer(), tell = (e, kind) => e.dispatchEvent(new DragEvent(kind, {bubbles: true, cancelable: true, dataTransfer: data}))
        tell(arguments[1], 'dragstart'); tell(arguments[0], 'dragover'); tell(arguments[0], 'drop'); tell(arguments[1], 'dragend')""",
        one,
        two,
    )
    it.holds("Criterion 1", "No insulation compared")
    assert not it.browser.find_element(By.XPATH, "//button[contains(., 'Save as version 5')]").is_enabled()
    it.type("Why it changes; needed", "It goes on from the review of 2019")
    it.press(Keys.ENTER)
    it.reads("The protocol is saved as version 5", "Carried into every new search: added since 2019-06-01")

    it.click("5 versions")
    it.reads("It goes on from the review of 2019", "Tamsin Lorn", "Criteria, Limits, Earlier review")
    marked = it.until(lambda: [e.text for e in it.browser.find_elements(By.CSS_SELECTOR, "ins")])
    assert "Wraps through the winter, 2019" in marked
    it.press(Keys.ARROW_DOWN)
    it.reads("Version 3", "Citation chasing (citation)")
    it.click("put beside version 1 beside version 4")
    it.reads("Open Protocol Shelf OPS-2026-0114")

    it.click("To the protocol")
    it.click("DOCX")
    file = docx.Document(io.BytesIO(it.downloaded("protocol.docx")))
    assert [p.text for p in file.paragraphs][:2] == [
        "Hive insulation and winter survival",
        f"Version 5, {file.tables[-1].rows[-1].cells[1].text}",
    ]
    it.click("Markdown")
    assert "It goes on from the review of 2019" in it.downloaded("protocol.md").decode()

    # back to what it was, which is an amendment too
    it.click("Move criterion 1 down")
    it.type("The review that this one updates", " ")
    it.browser.execute_script(
        "arguments[0].value = ''; arguments[0].dispatchEvent(new Event('input', {bubbles: true}))", it.field("Its last search")
    )
    it.type("Why it changes; needed", "The review of 2019 is none of ours")
    it.press(Keys.ENTER)
    it.reads("The protocol is saved as version 6")
    assert it.complaints() == []

    member = person()
    member.sign_in("odile")
    member.go("/reviews/1/plan")
    member.reads("Only a lead changes the protocol", "6 versions")
