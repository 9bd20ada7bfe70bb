"""Two read blind, a third settles: from sharing out to agreement, in three browsers."""

from __future__ import annotations

import io
import re
from collections.abc import Callable

import pytest
import python_calamine
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Person
from tests.conftest import ris

pytestmark = pytest.mark.xdist_group("more")
Sit = Callable[..., Person]


def decide(it: Person, *keys: str) -> None:
    """Decide on one record after the other; the next is on the screen before the key after."""
    for key in keys:
        before = it.record()
        it.press(key)
        it.until(lambda before=before: it.record() not in ("", before), "another record")


def test_two_read_blind_and_a_third_settles_what_differs(person: Sit) -> None:
    lead = person()
    lead.sign_in("odile")
    lead.click("New review")
    lead.type("Title", "Two readers")
    lead.click("Make the review")
    lead.reads("Elements of the question")
    lead.click("Add a criterion")
    lead.type("Criterion 1", "Not honeybees")
    lead.click("Save as version 2")
    lead.reads("The protocol is saved as version 2")
    lead.click("Team")
    for name, full in (("rudd", "Rudd Brask"), ("tamsin", "Tamsin Lorn")):
        lead.type("Account name", name)
        lead.click("Add to the team")
        lead.reads(full)
    lead.click("Gather")
    lead.click("New search")
    lead.type("Source", "Vitalis Index")
    lead.click("Write into the log")
    lead.reads("The search is in the log")
    path = lead.downloads / "eight.ris"
    path.write_text(ris(*[f"Wrapped hives of valley {word}" for word in ("one", "two", "three", "four", "five", "six", "seven", "eight")]))
    lead.upload(path)
    lead.reads("8 records")
    lead.click("eight.ris")
    lead.click("Take in 8 records")
    lead.reads("8 in")

    # the pass, and who reads what
    lead.click("Screen")
    lead.view("Passes", "/screen/passes")
    lead.pick("Each record is read by", "Two people")
    lead.reads("All decisions stay")
    lead.click("Screen so from now on")
    lead.reads("First pass is screened in another way from now on")
    lead.pick("In the order of", "a shuffle")
    lead.type("Seed", "7")
    lead.type("Share of Odile Marsh", "0")
    lead.reads("Share out 8 records")
    lead.click("Share out 8 records")
    lead.reads("8 records shared out")
    address = lead.browser.current_url.rpartition("/passes")[0]

    # two read, and see nothing of each other
    one, other = person(), person()
    for it, name in ((one, "rudd"), (other, "tamsin")):
        it.sign_in(name)
        it.browser.get(address)
        it.reads("Read blind", "you read 0, 8 left for you")
    first = one.heading()
    assert other.heading() == first, "one seed, one sequence"
    one.press("n")
    one.press("A wrap around a shed", Keys.ENTER)
    decide(one, Keys.ENTER, Keys.ENTER, Keys.ENTER)
    other.browser.refresh()
    other.reads("you read 0, 8 left for you")
    other.until(lambda: other.heading() == first, "the same record again")
    assert not other.browser.find_elements(By.CSS_SELECTOR, "svg[aria-label=Included]"), "not in the queue, nor in a history"
    assert len(one.browser.find_elements(By.CSS_SELECTOR, "svg[aria-label=Included]")) >= 3, "one's own are seen"
    assert "A wrap around a shed" not in other.text()
    decide(one, *"1111")
    one.press("1")
    one.reads("You have read everything that was for you")
    decide(other, Keys.ENTER, *"111111")
    other.press("1")
    other.reads("2 records on which verdicts differ")

    # somebody who read none of them settles it by key
    lead.view("Differences", "/screen/differences")
    lead.reads("Verdicts differ", "2 readers", "Rudd Brask", "Tamsin Lorn", "Not honeybees")
    decide(lead, Keys.ENTER)
    lead.reads("Settled: included")
    lead.press("1")
    lead.reads("Settled: excluded", "Nothing differs in this pass now")
    lead.press(Keys.BACKSPACE)
    lead.reads("2 readers")
    lead.press("1")
    lead.reads("Nothing differs in this pass now")
    one.view("Differences", "/screen/differences")
    one.click("Settled ones")
    one.reads("settled: included")

    lead.view("Agreement", "/screen/agreement")
    lead.reads("8 records read by two or more", "2 differently", "Rudd Brask and Tamsin Lorn", "75.0 %", "0.38", "Cohen")
    lead.view("What is left", "/screen/left")
    lead.reads("Every record is settled")
    for it in (lead, one, other):
        assert not it.complaints()


def test_a_list_goes_out_as_a_spreadsheet_and_comes_back_in(person: Sit) -> None:
    it = person()
    it.sign_in("odile")
    it.go("/reviews/1/screen/passes")
    it.click("Decide on a list in a spreadsheet")
    it.reads("Nothing came back yet")
    it.click("Download")
    rows = python_calamine.CalamineWorkbook.from_filelike(io.BytesIO(it.downloaded("to-decide.xlsx"))).get_sheet_by_index(0).to_python()
    assert rows[0] == ["Record", "Title", "Authors", "Year", "Journal", "DOI", "Abstract", "Decision", "Reason", "Note"]
    one, two = [int(row[0]) for row in rows[1:] if not row[7]][:2]
    path = it.downloads / "back.csv"
    path.write_text(f"Record,Decision,Reason,Note\n{one},exclude,not honeybees,\n{two},include,,worth a look\n{one},maybe,,\n7,surely,,\n")
    it.upload(path)
    it.reads(
        "2 changes", "2 not understood", "Row 5: “surely” is no decision", "Note: worth a look", "nothing →", "Excluded: Not honeybees"
    )
    it.click("Take in 2 rows")
    it.reads("2 rows of the sheet taken in")
    it.go(f"/reviews/1/screen?record={one}")
    it.reads("You said", "Excluded")
    it.go("/reviews/1/screen/sheet")
    it.upload(path)
    it.reads("0 changes, 2 rows as they were")
    assert not it.complaints()


def test_a_far_group_is_set_aside_and_let_in(person: Sit) -> None:
    it = person()
    it.sign_in()
    it.go("/reviews/1/screen/groups")
    it.reads("into 12 groups")
    it.holds("Groups", "12")
    it.type("Groups", "9")
    it.press(Keys.ENTER)
    it.reads("undecided records with an abstract were grouped")
    before = re.search(r"([\d,]+) to go", it.text())
    assert before
    it.until(lambda: len(it.browser.find_elements(By.CSS_SELECTOR, ".strip .line")) == 9, "nine groups")
    it.browser.find_elements(By.CSS_SELECTOR, ".strip .line")[-1].click()
    it.reads("undecided members nearest to what is known", "I looked at them")
    it.press("a")
    it.reads("set aside as a far group", "Set aside as a whole")
    it.until(lambda: f"{before[0]}" not in it.text(), "fewer to go")
    it.click("Bring it back")
    it.until(lambda: f"{before[0]}" in it.text(), "as many to go as before")
    assert not it.complaints()


def test_decisions_wait_while_the_network_is_gone_and_are_sent_when_it_is_back(person: Sit) -> None:
    it = person()
    it.sign_in("rudd")
    it.go("/reviews/1/screen")
    it.until(it.record, "a record at the desk")

    def network(*, there: bool) -> None:
        it.browser.execute_cdp_cmd("Network.enable", {})
        it.browser.execute_cdp_cmd(
            "Network.emulateNetworkConditions", {"offline": not there, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
        )

    decide(it, "2")
    gone = [it.record()]
    network(there=False)
    decide(it, "2")
    gone.append(it.record())
    decide(it, "2")
    it.reads("The server cannot be reached", "2 decisions wait here")
    it.press(Keys.BACKSPACE)
    it.until(lambda: it.record() == gone[1], "the last of them taken back without the network")
    it.reads("1 decision wait")
    decide(it, "3")
    network(there=True)
    it.until(lambda: "cannot be reached" not in it.text(), "sent")
    for record, reason in zip(gone, ("No insulation compared", "No winter survival reported"), strict=True):
        it.go(f"/reviews/1/screen?record={record}")
        it.reads(f"Excluded: {reason}, Rudd Brask")
