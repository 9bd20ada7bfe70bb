"""Charting as a person does it: the table by its keys, blocks in and out, words marked in a PDF, proposals answered one by one, a codebook in use changed."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from fpdf import FPDF
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.conftest import Person

pytestmark = pytest.mark.xdist_group("more")
Sit = Callable[..., Person]
PASTE = """
const data = new DataTransfer(); data.setData('text/plain', arguments[0]);
document.querySelector('[role=grid]').dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true}));
"""
COPY = """
const data = new DataTransfer();
document.querySelector('[role=grid]').dispatchEvent(new ClipboardEvent('copy', {clipboardData: data, bubbles: true, cancelable: true}));
return data.getData('text/plain');
"""
MARK = """
const spans = [...document.querySelectorAll('.pdf-text span')].filter((it) => it.textContent.trim());
const at = spans.findIndex((it) => it.textContent.includes(arguments[0]));
if (at < 1) return false;
const range = document.createRange(); range.setStart(spans[at - 1].firstChild, 0); range.setEndAfter(spans[at].lastChild);
getSelection().removeAllRanges(); getSelection().addRange(range);
document.querySelector('.pages').focus();
document.querySelector('.pages').dispatchEvent(new MouseEvent('mouseup', {bubbles: true}));
return true;
"""


def grid(it: Person) -> WebElement:
    found: WebElement = it.until(lambda: it.browser.find_element(By.CSS_SELECTOR, "[role=grid]"), "the table")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=gridcell]"), "its cells")
    return found


def cell(it: Person, study: str, column: str) -> WebElement:
    """The cell of a study and a column; the table is brought to it."""
    script = """
    const [study, column] = arguments;
    const grid = document.querySelector('[role=grid]');
    const head = [...grid.querySelectorAll('[role=columnheader]')].find((it) => it.innerText.trim().startsWith(column));
    const row = [...grid.querySelectorAll('[role=row]')].find((it) => it.querySelector('[role=rowheader]')?.innerText.trim() === study);
    if (!row) return null;
    if (!head) { grid.scrollLeft += 120; return null; }
    return [...row.querySelectorAll('[role=gridcell]')].find((it) => it.ariaColIndex === head.ariaColIndex) || null;
    """
    found: WebElement = it.until(lambda: it.browser.execute_script(script, study, column), f"{column} of {study}")
    return found


def studies(it: Person) -> list[str]:
    return [row.text.strip() for row in it.browser.find_elements(By.CSS_SELECTOR, "[role=rowheader]")]


def test_the_table_by_its_keys_with_undo_and_blocks_in_and_out(person: Sit) -> None:
    it = person()
    it.sign_in()
    it.go("/reviews/1/chart")
    grid(it)
    first, second = studies(it)[:2]
    cell(it, first, "Site").click()
    it.press(Keys.SHIFT + Keys.ARROW_RIGHT, Keys.SHIFT + Keys.ARROW_RIGHT, Keys.SHIFT + Keys.ARROW_DOWN)
    before = it.browser.execute_script(COPY)
    assert [line.count("\t") for line in before.split("\n")] == [2, 2]
    it.browser.execute_script(PASTE, '"A ""wide""\nvalley"\t2011-10\t12\nBoreal\tlate\tmany')
    it.reads("4 of 6 pasted values can be taken", "“many” is not a number", "“late” is not a date")
    it.click("Paste the 4")
    it.until(lambda: 'A ""wide""' in it.browser.execute_script(COPY), "the block in the table")
    grid(it).send_keys(Keys.CONTROL, "z")
    it.until(lambda: it.browser.execute_script(COPY) == before, "the block as it was")
    it.reads("4 values as they were")
    grid(it).send_keys(Keys.CONTROL, "y")
    it.until(lambda: 'A ""wide""' in it.browser.execute_script(COPY), "the block again")
    grid(it).send_keys(Keys.CONTROL, "z")
    it.until(lambda: it.browser.execute_script(COPY) == before)

    # what is cleared and taken back has its words again
    known = next(one for one in studies(it) if cell(it, one, "Thickness").text.endswith("”"))
    cell(it, known, "Thickness").click()
    it.click("Quote and history")
    stood, quote = cell(it, known, "Thickness").text, it.until(lambda: it.field("Quote").get_attribute("value"))
    grid(it).send_keys(Keys.DELETE)
    it.until(lambda: cell(it, known, "Thickness").text == "", "an empty cell")
    it.holds("Quote", "")
    grid(it).send_keys(Keys.CONTROL, "z")
    it.until(lambda: cell(it, known, "Thickness").text == stood, "the value again, with its mark")
    it.holds("Quote", quote)

    cell(it, second, "Colonies").click()
    it.press("9")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=gridcell] input"))
    it.press("9" + Keys.ENTER)
    it.until(lambda: cell(it, second, "Colonies").text == "99")
    it.reads("typed by Tamsin Lorn")
    cell(it, first, "Thickness").click()
    it.press("3")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=gridcell] input"))
    it.press(" cm" + Keys.ENTER)
    it.until(lambda: cell(it, first, "Thickness").text == "30 (3 cm)", "both units")
    cell(it, first, "Thickness").click()
    it.press("9")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=gridcell] input"))
    it.press("00" + Keys.ENTER)
    it.reads("900 mm lies outside the allowed range from 1 to 500 mm")
    grid(it).send_keys(Keys.CONTROL, "z")
    grid(it).send_keys(Keys.CONTROL, "z")

    # numbers that do not go together are told, and what is worked out is taken back like anything else
    stood = cell(it, first, "Food used").text
    cell(it, first, "Food used").click()
    it.click("Work it out")
    for label, number in (("n", "50"), ("Mean", "12.4"), ("SE", "0.4"), ("Interval from", "11"), ("to", "14")):
        it.type(label, number)
    it.reads("SE and interval do not go together")
    it.click("Take it into the cell")
    it.until(lambda: cell(it, first, "Food used").text.startswith("12.4 ± 2.82"))
    it.click("Undo")
    it.until(lambda: cell(it, first, "Food used").text == stood, "what stood there")

    grid(it).send_keys(Keys.HOME)
    cell(it, first, "Site").click()
    it.press(Keys.ARROW_RIGHT)
    grid(it).send_keys(Keys.ALT, Keys.ARROW_DOWN)
    it.click("Pin at the left")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=columnheader].pin"), "a pinned column")
    it.browser.refresh()
    grid(it)
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=columnheader].pin"), "the pin is kept")
    assert it.complaints() == []


def test_a_column_is_filtered_by_its_values_with_their_counts(person: Sit) -> None:
    it = person()
    it.sign_in("odile")
    it.go("/reviews/1/chart")
    grid(it)
    it.click("Design")
    it.reads("Only studies with", "Cohort (")
    named = it.until(
        lambda: next((one for one in it.browser.find_elements(By.CSS_SELECTOR, ".values label") if one.text.startswith("Cohort")), None),
        "the value with its count",
    )
    many = int(named.text.split("(")[1].rstrip(")"))
    named.click()
    it.until(lambda: "only=" in it.browser.current_url)
    it.press(Keys.ESCAPE)
    it.until(lambda: len(studies(it)) == many, f"{many} studies")
    it.reads(f"{many} shown")
    it.click("Columns")
    it.click("Arms as rows below their study")
    it.until(lambda: {"Wrapped", "Plain"} <= set(studies(it)), "arms as rows")
    it.click("Arms as rows below their study")


def test_what_a_colleague_writes_appears_and_a_value_opens_its_quote(person: Sit) -> None:
    one, two = person(), person()
    one.sign_in("tamsin")
    two.sign_in("odile")
    for it in (one, two):
        it.go("/reviews/1/chart")
        grid(it)
    study = studies(one)[2]
    cell(one, study, "Site").click()
    one.press("F")
    one.until(lambda: one.browser.find_elements(By.CSS_SELECTOR, "[role=gridcell] input"))
    one.press("en" + Keys.ENTER)
    two.until(lambda: cell(two, study, "Site").text == "Fen", "what the colleague wrote", 10)
    two.until(lambda: two.browser.find_elements(By.CSS_SELECTOR, "[role=gridcell] sup"))
    two.browser.execute_script("document.querySelector('[role=gridcell] sup').scrollIntoView({block: 'center', inline: 'center'})")
    two.hit("[role=gridcell] sup")
    two.reads("accepted as proposed")
    value = two.browser.find_element(By.CSS_SELECTOR, "[role=gridcell].now").text.rstrip("”")
    lit = two.until(lambda: "".join(it.text for it in two.browser.find_elements(By.CSS_SELECTOR, "mark.quoted")), "the quote is lit")
    assert value.split(" ")[0].split("/")[0].strip() in lit
    assert two.complaints() == []


def test_words_marked_in_the_report_go_into_the_cell(person: Sit) -> None:
    it = person()
    it.sign_in("odile")
    it.go("/reviews/1/chart")
    grid(it)
    study = studies(it)[0]
    cell(it, study, "Food weighed").click()
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "aside[aria-label^='Food weighed']"), "the cell beside the table")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".pdf-text span"), "the report")
    before = cell(it, study, "Food weighed").text
    it.until(lambda: it.browser.execute_script(MARK, "weighed"), "the words in the report")
    it.until(lambda: it.field("Food weighed, from these words").get_attribute("value") in ("yes", "no"), "what the words say")
    it.press("m")
    it.reads("marked in the report by Odile Marsh")
    it.click("Quote and history")
    it.until(lambda: "weighed" in (it.field("Quote that it comes from").get_attribute("value") or ""), "the quote is kept")
    it.holds("Page", "1")
    assert before in ("yes", "no", "")

    # another file takes the place of the report: its words are gone, and that is said
    it.click("Study", nth=-1)  # the first is the table's head
    it.hit("aside a[href*='/screen/second']")
    other = FPDF()
    other.add_page()
    other.set_font("Times", size=12)
    other.cell(text="A correction. Nothing else stands here.")
    other.output(str(it.downloads / "correction.pdf"))
    it.upload(it.downloads / "correction.pdf", into="PDF of the full text")
    it.reads("correction.pdf is attached")
    it.go("/reviews/1/chart")
    grid(it)
    cell(it, study, "Food weighed").click()
    it.reads("The quote is no longer found in this file. It was: “")


def test_ten_proposals_by_keyboard(person: Sit) -> None:
    it = person()
    it.sign_in("rudd")
    it.go("/reviews/1/chart/proposals")
    it.reads("wait", "By item")

    def waiting() -> int:
        found = it.browser.find_elements(By.XPATH, "//*[contains(@class, 'sorts')]//*[contains(text(), 'wait')]")
        return int(found[0].text.split()[0].replace(",", "")) if found else -1

    it.until(lambda: waiting() > 15, "proposals")
    start = waiting()
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "mark.quoted"), "the quote is lit")
    for n, key in enumerate([Keys.ENTER] * 6 + ["r", "r", Keys.ENTER], 1):
        it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".values li"), "what is proposed")
        it.press(key)
        it.until(lambda n=n: waiting() == start - n, f"{start - n} wait")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".values li"))
    it.press("c")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".changing input"))
    it.type("The value as it should be", "1999")
    it.press(Keys.ENTER)
    it.until(lambda: waiting() == start - 10, "ten answered")
    it.reads("1 corrected", "2 refused")
    it.press(Keys.BACKSPACE)
    it.until(lambda: waiting() == start - 9, "the last is taken back")
    it.click("By study")
    it.until(lambda: "by=study" in it.browser.current_url)
    entry = (
        "const one = [...document.querySelectorAll('button.entry')].find((e) => e.innerText.includes('Design')); one?.click(); return !!one"
    )
    it.until(lambda: it.browser.execute_script(entry), "a proposal of a design")
    it.click("Accept the")
    it.reads("taken as proposed")
    it.click("Undo")
    it.until(lambda: waiting() == start - 9, "all of them wait again")
    it.click("Read ")
    it.reads("read in the background")
    it.until(lambda: waiting() > start, "more was read")
    it.click("Evidence table")
    it.reads("proposals to look at")
    assert it.complaints() == []


def test_an_item_in_use_is_changed_only_with_open_eyes(person: Sit) -> None:
    it = person()
    it.sign_in()
    it.go("/reviews/1/chart/codebook")
    it.click("Thickness quantity")
    it.holds("Item", "Thickness")
    it.type("Unit", "kg")
    it.click("Save the codebook")
    it.reads("This touches values that are charted", "in kg, was in mm", "not fit", "“mm” cannot be converted to kg")
    it.click("Go on editing")
    it.type("Unit", "cm")
    it.type("Allowed from", "0.1")
    it.type("to", "50")
    it.click("Save the codebook")
    it.reads("The codebook is saved")
    it.click("Version")
    it.reads("Thickness: in cm, was in mm", "Thickness: allows 0.1 to 50, was 1 to 500")
    it.click("Back to the codebook")
    it.click("Add an item")
    it.type("Item", "Beekeepers")
    it.pick("Kind", "Mean with SD")
    it.until(
        lambda: [one for one in it.browser.find_elements(By.CSS_SELECTOR, "fieldset input") if one.is_selected()], "asked for each arm"
    )
    it.click("Add …")
    it.click("Arm")
    it.type("Arm", "Half wrapped")
    it.click("Save the codebook")
    it.reads("The codebook is saved")
    it.click("File")
    it.click("Save as a file (TOML)")
    text = it.downloaded("codebook.toml").decode()
    assert 'name = "Beekeepers"' in text
    assert 'name = "Half wrapped"' in text
    it.go("/reviews/1/chart/concepts")
    it.until(lambda: it.browser.find_element(By.CSS_SELECTOR, "g[aria-label^=Survival]"), "the picture").click()
    it.reads("Items: Survived", "Found by")
    it.go("/reviews/1/chart/codebook")
    for name in ("Beekeepers", "Half wrapped"):
        it.click(name)
        it.click("Remove")
    it.click("Thickness quantity")
    it.type("Unit", "mm")
    it.type("Allowed from", "1")
    it.type("to", "500")
    it.click("Save the codebook")
    it.reads("The codebook is saved")
    assert it.complaints() == []


def test_two_read_blind_and_a_third_settles_what_differs(person: Sit) -> None:
    one, two, third = person(), person(), person()
    for it, name in ((one, "tamsin"), (two, "odile"), (third, "rudd")):
        it.sign_in(name)
    for it in (one, two):
        it.go("/reviews/1/chart?words=Nethersole 1999")
        grid(it)

    def design(it: Person) -> WebElement:
        return cell(it, "Nethersole 1999", "Design")

    def sign(it: Person) -> str:
        return str(it.browser.execute_script("return getComputedStyle(arguments[0], '::after').content", design(it)))

    one.until(lambda: "½" in sign(one), "a reading that waits for the second one")
    said = one.until(lambda: design(one).text.split("”")[0], "the first reading")
    two.until(lambda: design(two).click() is None)
    two.reads("each without seeing the other’s")
    two.until(lambda: not design(two).text, "an empty cell")
    assert said not in two.browser.find_element(By.CSS_SELECTOR, "aside.cell").text
    other = "Cohort" if said != "Cohort" else "Randomised"
    two.press(Keys.ENTER)
    two.until(lambda: two.browser.find_elements(By.CSS_SELECTOR, "[role=gridcell] input"))
    two.press(other + Keys.ENTER)
    two.until(lambda: design(two).text.startswith(other), "her reading")
    two.until(lambda: design(two).click() is None)
    two.reads("Read by two, differently", f"Tamsin Lorn read {said}")
    two.click("Side by side")
    two.reads("You read this yourself; a third person settles it")

    third.go("/reviews/1/chart/extractors")
    third.click("Settle 5 differences")
    third.reads("To be settled 5")
    third.click("Design Nethersole 1999")
    third.reads("This stands", said, other)
    third.press("1")
    third.reads(f"Design of Nethersole 1999: {said}", "To be settled 4", "Settled 2")
    one.until(lambda: sign(one) == "none", "it stands for all")
    third.click("Undo")
    third.reads("To be settled 5", "Design Nethersole 1999")
    third.press("e")
    third.type("What stands instead", "Quasi-random")
    third.press(Keys.ENTER)
    third.reads("Design of Nethersole 1999: Quasi-random", "To be settled 4")
    third.click("Two extractors")
    third.reads("Agreement by item", "Survived")
    for it in (one, two, third):
        assert it.complaints() == []
