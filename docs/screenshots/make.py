"""Takes one picture of each main view, from the demo review, into this folder: `./kettle screenshots`.

Expects the application to be running (`./kettle start`). Given names, takes only those.
"""

from __future__ import annotations

import sys
import time
from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.remote.webdriver import WebDriver
from selenium.webdriver.support.wait import WebDriverWait

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT / "tests" / "browser"))

from chromium import chromium  # noqa: E402

VIEWS = {
    "plan": "plan",
    "query": "plan/query",
    "gather": "gather?search=1",
    "reading": "gather/files/9?record=3",
    "match": "match",
    "screen": "screen",
    "second-dark": "screen/second",
    "differences": "screen/differences?settled=yes",
    "groups": "screen/groups",
    "left": "screen/left",
    "standing": "screen/standing",
    "chart": "chart",
    "proposals": "chart/proposals?by=study",
    "extracted": "chart/differences",
    "appraisal": "chart/appraisal?study=10&domain=wrapping",
    "concepts": "chart/concepts",
    "pool": "pool/1",
    "network": "pool/3",
    "flow": "report",
}

CLICKED = {"chart": ["[role=gridcell] sup"], "groups": ["form button[type=submit]", ".strip:last-child .line"]}
"""What is clicked on before the picture is taken, one after the other, as soon as it is there."""


def sign_in(browser: WebDriver, address: str) -> None:
    browser.get(address + "/sign-in")
    WebDriverWait(browser, 20).until(lambda b: b.find_elements(By.CSS_SELECTOR, "input[type=password]"))
    name, password = browser.find_elements(By.CSS_SELECTOR, "input")[:2]
    name.send_keys("tamsin")
    password.send_keys("winter-cluster\n")
    WebDriverWait(browser, 20).until(lambda b: "sign-in" not in b.current_url)


def main() -> None:
    port = (ROOT / ".kettle" / "port").read_text().strip()
    address = f"http://127.0.0.1:{port}"
    browser = chromium()
    try:
        sign_in(browser, address)
        for name in sys.argv[1:] or VIEWS:
            browser.get(f"{address}/reviews/1/{VIEWS.get(name, name)}")
            time.sleep(2.5)
            for wanted in CLICKED.get(name, ()):
                WebDriverWait(browser, 60).until(lambda b, wanted=wanted: b.find_elements(By.CSS_SELECTOR, wanted))[0].click()
                time.sleep(2)
            browser.execute_script("document.documentElement.classList.toggle('dark', arguments[0])", name.endswith("dark"))
            time.sleep(0.2)
            out = Path(__file__).parent if name in VIEWS else Path("/tmp")
            browser.save_screenshot(str(out / f"{name.replace('/', '-').replace('?', '-')}.png"))
            for entry in browser.get_log("browser"):
                if entry["level"] == "SEVERE":
                    print(name, entry["message"])
    finally:
        browser.quit()


if __name__ == "__main__":
    main()
