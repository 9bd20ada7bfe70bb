"""Deciding pairs, trying a rule, splitting a group and putting it back, late copies, two people at once: as people do it."""

from __future__ import annotations

import json
import re
from collections.abc import Callable
from typing import Any

import pytest
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Person

pytestmark = pytest.mark.xdist_group("browser")
Sit = Callable[..., Person]

PLACES = ["marsh", "heath", "upland", "coast", "island", "forest", "orchard", "moor", "valley", "steppe", "delta", "canyon"]
THINGS = ["skeps", "lids", "wraps"]


def paper(k: int, *, talk: bool = False, title: str = "") -> str:
    """One invented record; its conference abstract looks the same and is printed elsewhere."""
    title = title or f"Survival of colonies under {THINGS[k % 3]} in winters of the {PLACES[k % 12]} district number {k}"
    place = (
        ["JF  - Proceedings of the Hive Meeting", f"VL  - {k + 50}", f"SP  - S{k}"]
        if talk
        else ["JF  - Annals of Made-up Apiculture", f"VL  - {k + 1}", f"SP  - {10 * k + 1}"]
    )
    lines = [
        f"TY  - {'CPAPER' if talk else 'JOUR'}",
        f"ID  - {'T' if talk else 'P'}{1000000 + k}",
        f"TI  - {title}",
        f"AU  - Orsel{chr(97 + k % 26)}, Tamsin",
        f"AU  - Quill{chr(97 + k // 3)}, Rudd",
        f"PY  - {1990 + k % 25}",
    ]
    return "\n".join([*lines, *place, "ER  - ", "", ""])


def call(it: Person, method: str, path: str, body: Any = None, text: str | None = None) -> Any:
    """What a script of the page would ask of the server."""
    script = """
    const [method, path, body, text, done] = arguments;
    const headers = {'x-kettle-sort': '1'};
    let sent;
    if (text !== null) { sent = new FormData(); sent.append('file', new Blob([text]), 'records.ris'); }
    else if (body !== null) { headers['content-type'] = 'application/json'; sent = body; }
    fetch(path, {method, headers, body: sent}).then(async (r) => done([r.status, await r.text()]));
    """
    status, said = it.browser.execute_async_script(script, method, path, None if body is None else json.dumps(body), text)
    assert status < 300, said
    return json.loads(said) if said else None


def gather(it: Person, review: int, source: str, text: str) -> None:
    """A file is taken in and matched."""
    where = f"/api/reviews/{review}"
    entry = {"source": source, "kind": "database", "query": "", "limits": "", "run_on": None, "run_by": "", "announced": None, "notes": ""}
    search = call(it, "POST", f"{where}/searches", entry)["id"]
    call(it, "POST", f"{where}/searches/{search}/files", text=text)
    batch = it.until(lambda: next((f["id"] for f in call(it, "GET", f"{where}/files") if f["state"] == "read"), None), "the file read", 60)
    call(it, "POST", f"{where}/files/{batch}/take-in")
    it.until(lambda: not [j for j in call(it, "GET", f"{where}/jobs") if j["state"] in ("waiting", "working")], "matched", 60)


def review_of(it: Person, title: str, **sources: str) -> int:
    review = int(call(it, "POST", "/api/reviews", {"title": title, "question": "Do wraps help?"})["id"])
    for source, text in sources.items():
        gather(it, review, source, text)
    return review


def figure(it: Person) -> str:
    return str(it.browser.find_element(By.CSS_SELECTOR, ".lost a").text)


def left(it: Person) -> int:
    found = re.search(r"([\d,]+) left", it.text())
    return int(found[1].replace(",", "")) if found else -1


def test_thirty_pairs_by_keyboard_and_two_people_at_once(person: Sit) -> None:
    it = person()
    it.sign_in()
    review = review_of(
        it, "Thirty pairs", Agrarica="".join(paper(k) for k in range(34)), Meetings="".join(paper(k, talk=True) for k in range(34))
    )
    it.go(f"/reviews/{review}/match")
    it.reads("Are these the same report?", "one may be a conference abstract", "34 left")
    assert it.browser.find_elements(By.CSS_SELECTOR, "u.differs")
    for k in range(30):
        at = left(it)
        it.press("sdo"[k % 3])
        it.until(lambda at=at: left(it) == at - 1, f"pair {k + 1} answered")
    it.reads("4 left", "10 copies")
    it.press("r")
    it.reads("In the file")
    it.press(Keys.BACKSPACE)
    it.reads("Your last answer is taken back", "5 left")
    it.press("l")
    it.reads("put off")

    call(it, "POST", f"/api/reviews/{review}/members", {"name": "odile", "role": "reviewer"})
    other = person()
    other.sign_in("odile")
    it.go(f"/reviews/{review}/match")
    it.reads("Are these the same report?")
    it.until(lambda: "pair" not in it.browser.current_url and it.browser.find_elements(By.CSS_SELECTOR, "tr.on"))
    mine = it.browser.find_element(By.CSS_SELECTOR, "tr.on a").text
    other.go(f"/reviews/{review}/match")
    other.reads("Are these the same report?", "Tamsin Lorn")
    other.until(lambda: other.browser.find_elements(By.CSS_SELECTOR, "tr.on"))
    assert other.browser.find_element(By.CSS_SELECTOR, "tr.on a").text != mine
    other.click(mine)
    other.reads("Tamsin Lorn is looking at this pair")
    other.press("s")
    other.click("Go to the next free pair")
    other.until(lambda: "is looking at this pair" not in other.text())
    at = left(other)
    other.press("d")
    other.until(lambda: left(other) == at - 1, "answered")
    it.until(lambda: left(it) == at - 1, "the other sees it")
    it.click("Answers")
    it.reads("Different", "Other reports of the same study", "Odile Marsh")
    assert it.complaints() == []


def test_a_rule_is_tried_applied_and_undone(person: Sit) -> None:
    it = person()
    it.sign_in()
    spelled = paper(3).replace("P1000003", "V1000003").replace("Survival of", "Survivals of")
    review = review_of(
        it, "A rule on trial", Agrarica="".join(paper(k) for k in range(12)), Vitalis=spelled + paper(4).replace("P1000004", "V1000004")
    )
    it.go(f"/reviews/{review}/match/rule")
    it.reads("At this setting", "links are joined", "Look-alikes", "In force: as the program comes")
    it.type("Name", "Exact titles")
    it.field("Weigh the evidence where no pass decides").click()
    it.reads("Only the passes decide")
    it.click("Try it")
    it.reads("nothing would ever be joined")
    it.click("Add a pass")
    it.pick("Add a condition", "Year")
    it.pick("How year agrees", "± 1")
    it.click("Try it")
    it.reads("instead of 12", "13 records", "Parted 1", "Alone it would remove")
    it.click("Parted")
    it.reads("Survivals of", "Agrarica", "Vitalis")
    copies = figure(it)
    it.click("Apply all of it")
    it.reads("Applied in one stroke", "Undo this dry run")
    it.until(lambda: figure(it) == "1 copy" or figure(it).startswith("1 "), "one copy left")
    it.click("Rule")
    it.reads("Version 1 in force")
    it.holds("Name", "Exact titles")
    it.click("Export")
    assert b"year = 1" in it.downloaded("matching-rule.toml")
    it.click("Dry runs")
    it.click("Undo this dry run")
    it.reads("Undone: all is as it was")
    it.until(lambda: figure(it) == copies, "as before")
    it.click("Checks")
    it.reads("Nothing was checked by hand yet")
    it.click("Draw from the joined")
    it.reads("are these the same report?")
    it.press("s")
    it.reads("0 of 1 wrong", "95 % interval")
    assert it.complaints() == []


def test_a_group_is_split_and_put_back_a_value_chosen_and_a_late_copy_seen(person: Sit) -> None:
    it = person()
    it.sign_in()
    longer = paper(5).replace("P1000005", "V1000005").replace("number 5", "number 5: a trial on farms")
    review = review_of(it, "Groups", Agrarica=paper(5) + paper(6), Vitalis=longer)
    it.go(f"/reviews/{review}/match/groups")
    it.reads("1 group", "weights", "a trial on farms", "Removed: 1 by weights", "0 within a source, 1 between")
    copies = figure(it)
    it.click("Keep this title, of copy 1")
    it.reads("it stays so when other copies come", "chosen by Tamsin Lorn")
    it.click("Undo")
    it.until(lambda: "chosen by" not in it.text(), "the choice undone")
    it.click("Take out the copy from Vitalis")
    it.reads("it is a record of its own now")
    it.until(lambda: not it.browser.find_elements(By.CSS_SELECTOR, ".lost a") or figure(it) != copies, "one record more")
    it.click("Undo")
    it.until(lambda: it.browser.find_elements(By.CSS_SELECTOR, ".lost a") and figure(it) == copies, "put back")
    it.pick("Joined by", "by a person")
    it.reads("No group is like that")
    it.click("clear")
    it.reads("1 group")
    it.click("Late copies")
    it.reads("No copy came late")
    record = call(it, "GET", f"/api/reviews/{review}/groups")["groups"][0]["id"]
    call(it, "POST", f"/api/reviews/{review}/decisions", {"record": record, "pass_number": 1, "verdict": "include", "criterion": None})
    gather(it, review, "Letters", paper(5).replace("P1000005", "L1000005"))
    it.go(f"/reviews/{review}/match/late")
    it.reads("1 copy came after a decision", "full text sought", "Letters")
    it.go(f"/reviews/{review}/match/groups")
    it.click("Take all apart")
    it.reads("they are 3 records now")
    it.click("Answers")
    it.reads("one of 3 pairs among 3 copies")
    it.click("Take all back")
    it.reads("Nobody has told copies apart")
    it.go(f"/reviews/{review}/match/groups")
    it.reads("1 group", "3 copies")
    assert it.complaints() == []
