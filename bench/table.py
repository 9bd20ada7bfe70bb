"""The evidence table with 500 studies and 100 items, all charted: `./kettle run python bench/table.py`

In a database of its own, with a server and a browser: seconds until its cells are on the screen, and milliseconds from a key to the frame that shows it.
"""

from __future__ import annotations

import os
import statistics
import sys
import tempfile
import time
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psycopg

ROOT = Path(__file__).parents[1]
sys.path += [str(ROOT / "tests" / "browser"), str(ROOT / "docs" / "screenshots"), str(ROOT)]

from chromium import chromium  # noqa: E402
from make import sign_in  # noqa: E402
from selenium.webdriver.common.by import By  # noqa: E402
from selenium.webdriver.common.keys import Keys  # noqa: E402
from selenium.webdriver.support.wait import WebDriverWait  # noqa: E402

from conftest import served  # noqa: E402
from measure import tell  # noqa: E402

STUDIES, ITEMS, TYPED = 500, 100, 20
WATCH = """
window.delays = []
let pressed = 0
addEventListener('keydown', () => (pressed = performance.now()), true)
new MutationObserver(() => {
  if (!pressed) return
  const since = pressed
  pressed = 0
  requestAnimationFrame(() => window.delays.push(performance.now() - since))
}).observe(document.querySelector('[role=grid]'), { subtree: true, childList: true, attributes: true })
"""


def filled() -> int:
    """A review with so many studies and items, every value typed; its number."""
    from tests.conftest import Room, ris

    from kettlesort.store.base import count_anew, session
    from kettlesort.store.sql import copying, run
    from kettlesort.work import codebook, people, plan
    from kettlesort.work.codebook import Book, ItemWording

    lead = people.make_account("tamsin", "Tamsin Lorn", "winter-cluster").id or 0
    review = plan.make_review(lead, "Table", "")
    room = Room(review, lead, lead)
    room.gather(ris(*[f"Hives of farm {k} under wraps" for k in range(STUDIES)]))
    kinds = ("number", "text", "quantity", "counts", "yesno")
    codebook.set_codebook(
        review, lead, Book([ItemWording(None, f"Item {k}", kinds[k % 5], "mg" if k % 5 == 2 else "") for k in range(ITEMS)])
    )
    with session() as db:
        run(db, "UPDATE standing SET first = 'include', fulltext = 'obtained', second = 'include' WHERE review_id = :v", v=review)
        run(db, "INSERT INTO study (review_id, label) SELECT :v, 'Farm ' || record_id FROM standing WHERE review_id = :v", v=review)
        run(
            db,
            """INSERT INTO study_report (copy_id, review_id, study_id) SELECT s.record_id, :v, t.id FROM standing s
            JOIN study t ON t.label = 'Farm ' || s.record_id AND t.review_id = :v WHERE s.review_id = :v""",
            v=review,
        )
    book = codebook.codebook(review)[0]
    texts = ("12.5", "a wrapped hive", "30 mg", "12 / 40", "yes")
    with session() as db:
        studies = [it[0] for it in db.connection().exec_driver_sql(f"SELECT id FROM study WHERE review_id = {review}")]
        with copying(
            db, "value", ("review_id", "study_id", "item_id", "text", "quote", "page", "how", "unfit", "model", "account_id")
        ) as out:
            for study in studies:
                for k, item in enumerate(book.items):
                    out.write_row((review, study, item.id, texts[k % 5], "It says so there.", "4", "typed", "", "", lead))
    count_anew()
    return review


OPEN = """
const begun = performance.now()
window.opened = 0
const look = () => (document.querySelector('[role=gridcell]') ? (window.opened = performance.now() - begun) : requestAnimationFrame(look))
look();
[...document.querySelectorAll('a')].find((it) => it.innerText.trim() === 'Evidence table').click()
"""


def opened(browser: Any, address: str, review: int) -> float:
    """Seconds from the click that asks for the page to the frame with cells, as the page itself measures it, with the application's own files at hand."""
    browser.get(f"{address}/reviews/{review}/chart/codebook")
    time.sleep(2)
    browser.execute_script(OPEN)
    WebDriverWait(browser, 60, 0.2).until(lambda b: b.execute_script("return window.opened"))
    return float(browser.execute_script("return window.opened")) / 1000


def delays(browser: Any, keys: list[str]) -> list[float]:
    """Milliseconds from each key to the frame that shows what it did."""
    browser.execute_script(WATCH)
    for k, key in enumerate(keys, 1):
        browser.switch_to.active_element.send_keys(key)
        WebDriverWait(browser, 30, 0.01).until(lambda b, k=k: b.execute_script("return window.delays.length") >= k)
        time.sleep(0.05)
    return sorted(float(it) for it in browser.execute_script("return window.delays"))


def main() -> None:
    name = f"table_{os.getpid()}"
    with psycopg.connect(f"{os.environ['KETTLE_PG']}/postgres", autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE {name}".encode())
        os.environ["KETTLE_DATABASE"] = f"{os.environ['KETTLE_PG']}/{name}"
        from kettlesort.store.base import engine
        from kettlesort.store.migrate import migrate
        from kettlesort.work import chart

        try:
            migrate()
            review = filled()
            begun = time.perf_counter()
            assert len(chart.evidence_table(review).values) == STUDIES * ITEMS
            print(f"         read from the database in {time.perf_counter() - begun:.2f} s")
            with contextmanager(served)(dict(os.environ), Path(tempfile.mkdtemp())) as address:
                browser = chromium()
                try:
                    sign_in(browser, address)
                    opened(browser, address, review)
                    tell(
                        f"the table of {STUDIES} × {ITEMS} opens, seconds",
                        min(opened(browser, address, review) for _ in range(3)),
                        1,
                        at_most=True,
                    )
                    browser.find_element(By.CSS_SELECTOR, "[role=gridcell]").click()
                    time.sleep(1)
                    moves = delays(browser, [Keys.ARROW_DOWN, Keys.ARROW_RIGHT] * TYPED)
                    tell(
                        "an arrow moves, ms to the frame (95 of 100)",
                        moves[int(len(moves) * 0.95)],
                        50,
                        at_most=True,
                        detail=f"median {statistics.median(moves):.0f} ms",
                    )
                    begins = delays(browser, ["7", Keys.ESCAPE] * TYPED)
                    tell(
                        "a letter is on the screen, ms (95 of 100)",
                        begins[int(len(begins) * 0.95)],
                        50,
                        at_most=True,
                        detail=f"median {statistics.median(begins):.0f} ms",
                    )
                finally:
                    browser.quit()
        finally:
            engine().dispose()
            admin.execute(f"DROP DATABASE {name} WITH (FORCE)".encode())


if __name__ == "__main__":
    main()
