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
    "left": "screen/left",
    "chart": "chart",
    "proposals": "chart/proposals?by=study",
    "extracted": "chart/differences",
    "appraisal": "chart/appraisal?study=10&domain=wrapping",
    "concepts": "chart/concepts",
    "pool": "pool/1",
    "closer-dark": "pool/1?view=closer",
    "network": "pool/3",
    "flow": "report",
}

CLICKED = {"chart": "[role=gridcell] sup"}
"""What is clicked on before the picture is taken."""


def of_a_new_review(browser: WebDriver, address: str) -> None:
    """The empty search log of a review that is made for it; the review is archived afterwards."""
    browser.get(address)
    press(browser, "New review")
    browser.switch_to.active_element.send_keys("Lids and damp")
    press(browser, "Make the review")
    WebDriverWait(browser, 20).until(lambda b: "/plan" in b.current_url)
    browser.get(browser.current_url.replace("/plan", "/gather"))
    time.sleep(2)
    browser.save_screenshot(str(Path(__file__).parent / "empty.png"))
    browser.get(address)
    press(browser, "Archive Lids and damp")
    time.sleep(1)


def press(browser: WebDriver, name: str) -> None:
    """Click what has a name."""
    script = "return [...document.querySelectorAll('button')].find((e) => (e.getAttribute('aria-label') || e.innerText).trim().startsWith(arguments[0]))"
    WebDriverWait(browser, 20).until(lambda b: b.execute_script(script, name)).click()
    time.sleep(0.5)


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
        wanted = sys.argv[1:] or [*VIEWS, "empty"]
        if "empty" in wanted:
            of_a_new_review(browser, address)
        for name in (view for view in wanted if view != "empty"):
            browser.get(f"{address}/reviews/1/{VIEWS.get(name, name)}")
            time.sleep(2.5)
            if name in CLICKED:
                browser.find_element(By.CSS_SELECTOR, CLICKED[name]).click()
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
