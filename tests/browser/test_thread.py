"""The whole thread, from signing in to the downloaded diagram, as a person does it."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import FILES, ROOT, Person

pytestmark = pytest.mark.xdist_group("browser")
Sit = Callable[..., Person]


def test_from_files_to_flow_diagram(person: Sit) -> None:
    it = person()
    it.go("/reviews/1/plan")
    it.reads("Make an account")
    it.make_account("nova", "Nova Brill", "short")
    it.reads("at least 10 characters")
    it.type("Password", "long enough it is")
    it.press(Keys.ENTER)
    it.reads("There is no such review, or you are not a member of it")

    # a review of one's own
    it.go("/")
    it.reads("You are in no review yet")
    it.click("New review")
    it.type("Title", "Wraps and winter")
    it.type("Question", "Do wraps help colonies through the winter?")
    it.click("Make the review")
    it.reads("Elements of the question")
    it.pick("Framework", "SPIDER")
    it.holds("Element 2", "Phenomenon of interest")
    it.pick("Framework", "PICO")
    it.holds("Element 2", "Intervention")
    it.type("Terms", "honeybee; colony")
    it.click("Add a criterion")
    it.type("Criterion 1", "Not honeybees")
    it.click("Add a criterion")
    it.type("Criterion 2", "No comparison")
    it.click("Move criterion 2 up")
    it.click("Add a source")
    it.type("Source 1", "Vitalis Index")
    it.type("Published from", "1980")
    it.click("Save as version 2")
    it.reads("The protocol is saved as version 2")
    it.holds("Criterion 1", "No comparison")
    it.click("Team")
    it.type("Account name", "odile")
    it.click("Add to the team")
    it.reads("Odile Marsh", "odile is reviewer now")

    # a search, its files, and what they were read as
    it.click("Gather")
    it.click("New search")
    it.type("Source", "Vitalis Index")
    it.type("Query, exactly", "bee* AND wrap*\nAND winter*")
    it.type("Count that the source", "391")
    it.click("Write into the log")
    it.reads("The search is in the log")
    it.upload(FILES / "vitalis-index.nbib")
    it.reads("391 records")
    broken = it.downloads / "broken.ris"
    broken.write_bytes(b"lost words\nTY  - JOUR\nTI  - Half a record\nPY  - spring")
    it.upload(broken)
    it.reads("broken.ris")
    it.click("broken.ris")
    it.reads("the end of the record (ER) is missing", "“lost words”", "not a year", "line 1")
    it.click("Set aside")
    it.reads("Set aside.")
    it.click("Undo")
    it.until(lambda: "Take in 1 record" in it.text())
    it.click("Set aside")
    it.click("Searches")
    it.click("Vitalis Index")
    it.click("vitalis-index.nbib")
    it.reads("NBIB", "UTF-8", "all came", "How full each field is", "What was understood")
    it.press(Keys.ARROW_DOWN)
    it.reads("Record 2 of 391")
    it.click("Take in 391 records")
    it.reads("391 in")
    it.click("Searches")
    it.click("New search")
    it.type("Source", "Citation chasing")
    it.pick("Kind of source", "Citation searching")
    it.click("Write into the log")
    it.reads("Search 2")
    it.upload(FILES / "citation-chasing.ris")
    it.reads("42 records")
    it.click("citation-chasing.ris")
    it.click("Take in 42 records")
    it.reads("433 in", "copies")

    # seeds, then the desk by keyboard
    it.click("Plan")
    it.click("Seeds")
    first = re.search(r"LID - (10\.\S+) \[doi\]", (FILES / "vitalis-index.nbib").read_text())
    assert first
    it.type("Studies, one a line", first[1])
    it.click("Look them up")
    it.reads("found here")
    it.click("Add 1 as seeds")
    it.reads("1 seed named", "1 seed")
    it.click("Screen")
    it.reads("learned from")
    titles = []
    for key in (Keys.ENTER, Keys.ENTER, "1", "2", "0"):
        it.until(lambda: it.heading() and it.heading() not in titles, "the next record")
        titles.append(it.heading())
        it.press(key)
    it.until(lambda: it.heading() not in titles)
    it.reads("2 excluded")
    it.press("n")
    it.press("Count the survivors", Keys.ENTER)
    before = it.heading()
    it.press(Keys.BACKSPACE)
    it.until(lambda: it.heading() == titles[-1], "the last decision taken back")
    it.press("0")
    it.until(lambda: it.heading() == before)
    it.reads("Count the survivors" if "Count the survivors" in it.text() else "Your last decisions")
    it.press("?")
    it.reads("Take your last decision back")
    it.press(Keys.ESCAPE)
    it.click("Filter")
    it.type("Contains words", "zebra")
    it.reads("0 fit")

    # full texts and the second pass
    it.click("Full texts")
    pdf = next((FILES / "full-texts").glob("*.pdf"))
    for k in (0, 1):
        it.until(lambda: len(it.browser.find_elements(By.CSS_SELECTOR, "button.entry")) == 2)
        it.hit("button.entry")  # those still sought come first
        it.reads("Attach PDF")
        if k == 0:
            it.upload(pdf, into="PDF of the full text")
            it.reads("Open the PDF")
        else:
            chosen = it.until(lambda: it._named("Not obtained"))
            chosen[-1].click()
            it.type("Why could it not", "No holding")
            it.click("Write down")
        it.reads("Obtained 1" if k == 0 else "Not obtained 1")
        it.go(it.browser.current_url.split("?")[0].removeprefix(it.address))
    it.click("Second pass")
    it.until(it.heading)
    it.press(Keys.ENTER)
    it.reads("0 of 1")

    # codebook and evidence table
    it.click("Chart")
    it.click("Codebook")
    for name, kind in (("Colonies", "Number"), ("Survived", "Events of a total")):
        it.click("Add an item")
        it.type("Item", name)
        it.pick("Kind", kind)
    it.reads("No arm is named yet")
    it.field("each arm").click()
    it.click("Save the codebook")
    it.reads("The codebook is saved")
    it.click("Evidence table")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "[role=grid]"))
    it.hit("[role=gridcell]")
    it.press("9", "6", Keys.TAB)
    it.press("86 of 106", Keys.ENTER)
    it.reads("86 / 106")
    it.press(Keys.ENTER)
    it.press(Keys.CONTROL + "a", "nine", Keys.ENTER)
    it.reads("is not events of total")
    it.press(Keys.ENTER)
    it.press(Keys.ESCAPE)
    it.reads("1 of 1")
    it.click("Download")
    it.click("CSV")
    assert b"86 / 106" in it.downloaded("evidence.csv")

    # the flow diagram, and the way back from a figure to its records
    it.click("Report")
    it.reads("Every sum holds", "433")
    drawing = it.browser.find_element(By.CSS_SELECTOR, ".drawing").text
    assert "Not obtained" in drawing
    assert "Reports excluded" not in drawing
    it.click("As the standard draws it")
    it.reads("Identification of studies via other methods", "(n = 42)")
    for kind, begin in (("SVG", b"<svg"), ("PNG", b"\x89PNG"), ("PDF", b"%PDF"), ("CSV", b"\xef\xbb\xbfbox")):
        it.press("d")
        it.click(kind)
        assert it.downloaded(f"flow.{kind.lower()}").startswith(begin)
    it.click("Reports not retrieved: 1")
    it.reads("Full texts not obtained")
    it.click("Report")
    it.click("History")
    it.reads("decided, second pass", "Nova Brill", "took a file in")
    assert it.complaints() == []


def test_two_browsers_see_each_others_progress_and_never_the_same_record(person: Sit) -> None:
    one, two = person(), person()
    one.sign_in()
    two.sign_in("rudd")
    one.go("/reviews/1/screen/passes")
    one.pick("Each record is read by", "One person")
    one.reads("All decisions stay", "verdicts differ")
    one.click("Screen so from now on")
    one.reads("First pass is screened in another way from now on")
    for it in (one, two):
        it.go("/reviews/1/screen")
        it.until(it.record)
    assert one.record() != two.record()
    one.reads("to go")

    def to_go(it: Person) -> int:
        return int(re.search(r"([\d,]+) to go", it.text())[1].replace(",", ""))  # type: ignore[index]

    before = to_go(two)
    one.press("2")
    two.until(lambda: to_go(two) == before - 1, "progress of the other within two seconds", 2)
    seen = {one.record(), two.record()}
    for _ in range(4):
        for it in (one, two):
            last = it.record()
            it.press("2")
            it.until(lambda it=it, last=last: it.record() not in ("", last))
            assert it.record() not in seen
            seen.add(it.record())
    two.reads("Tamsin Lorn, here now")
    one.go("/reviews/1/screen/passes")
    one.pick("Each record is read by", "Two people")
    one.reads("All decisions stay", "verdicts differ")
    one.click("Screen so from now on")
    one.reads("First pass is screened in another way from now on")


def test_two_who_change_the_same_item_of_the_codebook_see_both_and_choose(person: Sit) -> None:
    one, two = person(), person()
    one.sign_in()
    two.sign_in("odile")
    for it in (one, two):
        it.go("/reviews/1/chart/codebook")
        it.holds("Item", "Site")
    one.type("Item", "Site in spring")
    two.type("Item", "Site at the start")
    two.click("Save the codebook")
    two.reads("The codebook is saved")
    one.click("Save the codebook")
    one.reads("Odile Marsh changed the codebook meanwhile", "Site at the start; text", "Site in spring; text")
    one.click("Write mine")
    one.reads("The codebook is saved")
    two.holds("Item", "Site in spring")
    two.type("Item", "Site")
    two.click("Save the codebook")
    two.reads("The codebook is saved")


def test_the_pair_desk_by_keyboard_and_undo(person: Sit) -> None:
    it = person()
    it.sign_in("odile")
    it.go("/reviews/1/match")
    it.reads("Are these the same report?", "joined from", "asked from")
    assert it.browser.find_elements(By.CSS_SELECTOR, "u.differs")
    left = len(it.browser.find_elements(By.CSS_SELECTOR, ".pane:first-child tr"))
    copies = it.browser.find_element(By.CSS_SELECTOR, ".lost a").text
    it.press("r")
    it.reads("In the file")
    it.press("s")
    it.reads("Joined as the same report")
    it.until(lambda: it.browser.find_element(By.CSS_SELECTOR, ".lost a").text != copies, "one copy more")
    it.press(Keys.BACKSPACE)
    it.reads("Your last answer is taken back")
    it.until(lambda: len(it.browser.find_elements(By.CSS_SELECTOR, ".pane:first-child tr")) == left)
    it.click("Groups")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, "button.group"))
    it.hit("button.group")
    it.reads("weights")
    it.click("Take out the copy")
    it.reads("it is a record of its own now")
    it.click("Undo")
    it.until(lambda: it.browser.find_element(By.CSS_SELECTOR, ".lost a").text == copies, "all copies back")


VIEWS = ["plan", "plan/versions", "plan/syntaxes", "plan/vocabulary", "plan/vocabulary?words=wrap", "plan/seeds", "plan/words", "plan/query", "plan/query?view=lines", "plan/query?view=text", "plan/team", "gather?search=1", "gather?fetch=new", "gather/files", "gather/files/1", "gather/files/9?record=3", "gather/files/8/recipe", "gather/recipes", "gather/narrowing", "gather/narrowing?new=1", "gather/gaps", "gather/one", "records/1", "records?list=all&source=Agrarica", "match", "match/groups", "match/rule", "match/dry-runs", "match/checks", "match/answers", "match/late", "screen", "screen/full-texts", "screen/delivered", "screen/second", "screen/differences?settled=yes", "screen/passes", "screen/passes?pass=2", "screen/agreement", "screen/left", "screen/groups", "screen/standing", "screen/sheet", "records", "records?list=found", "chart", "chart?show=unfit", "chart?show=together", "chart/ask?q=Was food weighed", "chart/proposals", "chart/proposals?show=reports", "chart/extractors", "chart/differences", "chart/differences?state=same", "chart/appraisal", "chart/appraisal?study=10&domain=wrapping", "chart/appraisal/form", "chart/codebook", "chart/codebook?show=versions", "chart/concepts", "pool", "pool/1", "pool/1?view=closer", "pool/1?edit=yes", "pool/3", "pool/summary", "pool/new", "report", "report?drawing=standard", "report/history"]  # fmt: skip


def test_no_view_has_anything_serious_against_accessibility_in_the_light_or_in_the_dark(person: Sit) -> None:
    it = person(1024)
    it.sign_in()
    axe = (ROOT / "frontend/node_modules/axe-core/axe.min.js").read_text()
    dark = "return document.documentElement.classList.contains('dark')"
    turned = """const [from, to] = document.documentElement.classList.toggle('dark') ? ['light', 'dark'] : ['dark', 'light'];
        document.head.insertAdjacentHTML('beforeend', '<style nonce="' + document.querySelector('[nonce]').nonce + '">* { transition: none !important }</style>');
        for (const e of document.querySelectorAll('.v-theme--' + from)) e.classList.replace('v-theme--' + from, 'v-theme--' + to);"""
    found = []

    def look(view: str, **only: object) -> None:
        result = it.browser.execute_async_script(
            "const [only, done] = arguments; axe.run(document, {resultTypes: ['violations'], ...only}).then(done)", only
        )
        theme = "dark" if it.browser.execute_script(dark) else "light"
        for broken in result["violations"]:
            if broken["impact"] in ("serious", "critical"):
                found.extend(
                    f"{view} ({theme}): {broken['id']}: {n['html'][:120]} {n['failureSummary'][:200]}" for n in broken["nodes"][:2]
                )

    turn_to = """const [view, done] = arguments, {$router} = document.getElementById('app').__vue_app__.config.globalProperties;
        $router.push(view).then(() => setTimeout(() => requestAnimationFrame(() => done($router.currentRoute.value.fullPath))))"""
    it.browser.execute_cdp_cmd("Runtime.evaluate", {"expression": axe})
    for view in ("/look", "/", "/convert", "/account", *(f"/reviews/1/{view}" for view in VIEWS)):
        assert it.browser.execute_async_script(turn_to, view).startswith(view.split("?")[0].replace(" ", "%20")), (
            view
        )  # the page is not read anew
        it.until(lambda: "Loading" not in it.text() and len(it.text()) > 100, view)
        look(view)
        wide = it.browser.execute_script("return document.documentElement.scrollWidth > window.innerWidth + 1")
        assert not wide, f"{view} scrolls sideways at 1024"
        it.browser.execute_script(turned)
        look(view, runOnly={"type": "rule", "values": ["color-contrast"]})  # the rest is the same in both
        it.browser.execute_script(turned)
    it.click("Account of Tamsin")
    it.click("Dark theme")
    it.until(lambda: it.browser.execute_script(dark), "the dark theme")
    assert not found, "\n".join(found)
    assert it.complaints() == []


def test_demo_files_are_the_ones_that_the_generator_makes() -> None:
    from kettlesort.demo.files import exports

    for export in exports():
        if not export.name.endswith(".xlsx"):
            assert (Path(FILES) / export.name).read_bytes() == export.data, export.name
