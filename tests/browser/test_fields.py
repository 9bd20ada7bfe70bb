"""Fields, buttons and tables in all states: as high as each other, labels beside nothing else, one ring, in both themes. Pictures go to `.kettle/pictures`."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from selenium.webdriver.common.by import By

from tests.browser.conftest import ROOT, Person

pytestmark = pytest.mark.xdist_group("browser")
PICTURES = ROOT / ".kettle" / "pictures"
MEASURED = """
const box = (e) => { const r = e.getBoundingClientRect(); return [r.left, r.top, r.right, r.bottom]; };
return {
  boxes: [...document.querySelectorAll('input.box, select.box')].map((e) => e.getBoundingClientRect().height),
  buttons: [...document.querySelectorAll('.v-btn')].map((e) => e.getBoundingClientRect().height),
  labels: [...document.querySelectorAll('.field-frame > label')].map((e) => [...box(e), ...box(document.getElementById(e.htmlFor))]),
  fonts: [...new Set([...document.querySelectorAll('.field-frame > label')].map((e) => getComputedStyle(e).fontFamily.split(',')[0]))],
  scrolled: [...document.querySelectorAll('textarea.box')].filter((e) => e.scrollHeight > e.clientHeight + 1).length,
};
"""
RING = """
const style = getComputedStyle(document.activeElement);
return [style.outlineStyle, style.outlineWidth, style.outlineColor === style.borderTopColor, style.boxShadow];
"""


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_fields_are_of_one_manner_in_every_state(person: Callable[..., Person], theme: str) -> None:
    it = person()
    it.go("/look")
    it.reads("Fields, buttons, tables")
    it.browser.execute_script("document.documentElement.classList.toggle('dark', arguments[0])", theme == "dark")
    told = it.until(lambda: it.browser.execute_script(MEASURED))
    assert set(told["boxes"]) == set(told["buttons"]) == {28}
    assert told["scrolled"] == 0
    assert len(told["fonts"]) == 1
    for left, top, right, bottom, box_left, box_top, box_right, _ in told["labels"]:
        assert 0 <= box_top - bottom <= 4, "a label stands right above its field"
        assert (left, top < bottom, right <= box_right + 1) == (box_left, True, True)
    for field in it.browser.find_elements(By.CSS_SELECTOR, ".box:not(:disabled)"):
        it.browser.execute_script("arguments[0].focus({focusVisible: true})", field)
        assert it.browser.execute_script(RING) == ["solid", "2px", True, "none"], "one ring, where the border is"
    PICTURES.mkdir(parents=True, exist_ok=True)
    assert it.browser.save_screenshot(str(PICTURES / f"fields-{theme}.png"))
