"""How long after the key the next record is on the screen: `./kettle run python bench/desk.py`

The demo review in a database of its own, a server, a worker and a browser; decisions by key,
timed inside the page from the key to the frame that shows the next title.
"""

from __future__ import annotations

import os
import statistics
import sys
import tempfile
import time
from contextlib import contextmanager
from pathlib import Path

import psycopg

ROOT = Path(__file__).parents[1]
sys.path += [str(ROOT / "tests" / "browser"), str(ROOT / "docs" / "screenshots")]

from chromium import chromium  # noqa: E402
from make import sign_in  # noqa: E402
from selenium.webdriver.common.by import By  # noqa: E402
from selenium.webdriver.support.wait import WebDriverWait  # noqa: E402

from conftest import served  # noqa: E402
from measure import tell  # noqa: E402

DECISIONS = 40
WATCH = """
window.delays = []
let pressed = 0, title = document.querySelector('h1.read').textContent
addEventListener('keydown', () => (pressed = performance.now()), true)
new MutationObserver(() => {
  const now = document.querySelector('h1.read')?.textContent
  if (!now || now === title) return
  title = now
  requestAnimationFrame(() => window.delays.push(performance.now() - pressed))
}).observe(document.body, { subtree: true, childList: true, characterData: true })
"""


def delays(address: str) -> list[float]:
    """Milliseconds from key to record, for each decision."""
    browser = chromium()
    try:
        sign_in(browser, address)
        browser.get(f"{address}/reviews/1/screen")
        WebDriverWait(browser, 30).until(lambda b: b.find_elements(By.CSS_SELECTOR, "h1.read"))
        time.sleep(2)
        browser.execute_script(WATCH)
        for k in range(1, DECISIONS + 1):
            browser.find_element(By.TAG_NAME, "body").send_keys("1")
            WebDriverWait(browser, 30, 0.02).until(lambda b, k=k: b.execute_script("return window.delays.length") >= k)
            time.sleep(0.5)
        return [float(it) for it in browser.execute_script("return window.delays")]
    finally:
        browser.quit()


def main() -> None:
    name = f"desk_{os.getpid()}"
    with psycopg.connect(f"{os.environ['KETTLE_PG']}/postgres", autocommit=True) as admin:
        admin.execute(f"CREATE DATABASE {name}".encode())
        environment = {**os.environ, "KETTLE_DATABASE": f"{os.environ['KETTLE_PG']}/{name}"}
        with contextmanager(served)(environment, Path(tempfile.mkdtemp())) as address:
            found = sorted(delays(address))
        admin.execute(f"DROP DATABASE {name} WITH (FORCE)".encode())
    worst = found[int(len(found) * 0.95)]
    tell("next record on screen, ms after the key (95 of 100)", worst, 50, at_most=True, detail=f"median {statistics.median(found):.0f} ms")


if __name__ == "__main__":
    main()
