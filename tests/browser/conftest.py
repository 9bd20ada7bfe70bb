"""A running application of one's own, and a person in front of a browser."""

from __future__ import annotations

import os
import re
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import psycopg
import pytest
from chromium import chromium, clear, resize
from selenium import webdriver
from selenium.common.exceptions import (
    ElementNotInteractableException,
    NoSuchElementException,
    StaleElementReferenceException,
    WebDriverException,
)
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement
from starlette.routing import Mount

from kettlesort.standins.catalogue import catalogue_app
from kettlesort.standins.registry import registry_app
from tests.browser.template import copy_of_demo
from tests.serving import serving

ROOT = Path(__file__).parents[2]
FILES = ROOT / "demo" / "files"


@pytest.fixture(scope="session")
def address(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The demo review in a database of its own, with a server, a worker and stand-ins."""
    logs = tmp_path_factory.mktemp("logs")
    server_address = os.environ["KETTLE_PG"]
    name = f"browser_{os.getpid()}"
    with serving([Mount("/union", catalogue_app(2000)), Mount("/doi", registry_app())]) as outside:
        services = {"KETTLE_PRIVATE_ADDRESSES": "1", "KETTLE_REGISTRY": f"{outside}/doi", "KETTLE_DEMO_CATALOGUE": f"{outside}/union/"}
        copy_of_demo(server_address, name, {**os.environ, **services})
        yield from served({**os.environ, **services, "KETTLE_DATABASE": f"{server_address}/{name}"}, logs)
    with psycopg.connect(f"{server_address}/postgres", autocommit=True) as admin:
        admin.execute(f"DROP DATABASE {name} WITH (FORCE)".encode())


def served(environment: dict[str, str], logs: Path) -> Iterator[str]:
    """The address of an application that runs until the tests are done."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = subprocess.Popen(
        [sys.executable, "-m", "kettlesort.api", "--port", str(port)], env=environment, cwd=ROOT, stderr=(logs / "server.log").open("wb")
    )
    worker = subprocess.Popen([sys.executable, "-m", "kettlesort.jobs"], env=environment, cwd=ROOT, stderr=(logs / "worker.log").open("wb"))
    url = f"http://127.0.0.1:{port}"
    for _ in range(600):  # a busy machine takes its time
        try:
            urllib.request.urlopen(url + "/api/health", timeout=5)
            break
        except OSError:
            assert server.poll() is None, (logs / "server.log").read_text()
            time.sleep(0.3)
    yield url
    for process in (server, worker):
        process.terminate()
        process.wait(15)
    assert "Traceback" not in (logs / "server.log").read_text()


class Person:
    """Somebody who clicks, types, presses keys, and reads what the screen says."""

    def __init__(self, address: str, downloads: Path, browser: webdriver.Chrome, width: int = 1280) -> None:
        self.address = address
        self.downloads = downloads
        self.browser = browser
        resize(browser, width, 800)
        browser.execute_cdp_cmd("Browser.setDownloadBehavior", {"behavior": "allow", "downloadPath": str(downloads)})

    def go(self, path: str) -> None:
        self.browser.get(self.address + path)

    def until(self, done: Callable[[], Any], what: str = "", seconds: float = 240) -> Any:
        """Look again and again, less and less often: looking takes time from what is waited for."""
        end, pause = time.monotonic() + seconds, 0.02
        while True:
            try:
                if found := done():
                    return found
            except (StaleElementReferenceException, NoSuchElementException, IndexError):
                pass
            if time.monotonic() > end:
                raise AssertionError(f"not seen within {seconds:.0f} s: {what}; the screen says:\n{self.text()[:1500]}")
            time.sleep(pause)
            pause = min(0.4, pause * 1.3)

    def text(self) -> str:
        return str(self.browser.execute_script("return document.body.innerText"))

    def reads(self, *said: str, seconds: float = 240) -> None:
        for words in said:
            self.until(
                lambda words=words: words.lower() in self.text().lower(),
                f"“{words}” on the screen",
                seconds,
            )

    def _named(self, name: str) -> list[WebElement]:
        script = """
        const wanted = arguments[0].toLowerCase();
        const seen = (e) => e.offsetParent !== null || e.closest('svg');
        const name = (e) => (e.getAttribute('aria-label') || e.innerText || e.textContent || '').replace(/\\s+/g, ' ').trim().toLowerCase();
        const all = [...document.querySelectorAll('button, a, [role=menuitem], [role=option], .v-list-item, input[type=checkbox]')].filter(seen);
        const whole = all.filter((e) => name(e) === wanted), begin = all.filter((e) => name(e).startsWith(wanted));
        return whole.length ? whole : begin;
        """
        return list(self.browser.execute_script(script, name))

    def click(self, name: str, nth: int = 0) -> None:
        def clicked() -> bool:
            try:
                found = self._named(name)[nth]
                to, here = found.get_attribute("href") or "", self.browser.current_url
                found.click()
            except WebDriverException as error:
                if "intercept" in str(error) or "not interactable" in str(error):
                    return False
                raise
            return to == here or not re.fullmatch(r"https?://[^/]+/reviews/\d+/[a-z/-]+", to) or self._left(here)

        self.until(clicked, f"a “{name}” to click on")

    def _left(self, here: str) -> bool:
        """Whether a click on a link to a view led away soon: one in some hundreds is lost on a busy machine, and a person clicks again."""
        end = time.monotonic() + 3
        while self.browser.current_url == here:
            if time.monotonic() > end:
                return False
            time.sleep(0.05)
        return True

    def hit(self, selector: str) -> None:
        """Click on the first that the selector finds, once it is there and stays."""
        self.until(lambda: self.browser.find_elements(By.CSS_SELECTOR, selector)[0].click() is None, f"{selector} to click on")

    def field(self, label: str, nth: int = 0) -> WebElement:
        script = """
        const wanted = arguments[0].toLowerCase();
        const text = (e) => (e.innerText || e.textContent || '').trim().toLowerCase();
        const out = [];
        for (const e of document.querySelectorAll('input, textarea')) {
          if (e.type === 'file' || e.getClientRects().length === 0) continue;
          const labels = [...(e.labels || [])].map(text).concat([(e.getAttribute('aria-label') || '').toLowerCase()]);
          if (labels.some((it) => it.startsWith(wanted))) out.push(e);
        }
        return out;
        """
        found: WebElement = self.until(lambda: self.browser.execute_script(script, label)[nth], f"a field “{label}”")
        return found

    def type(self, label: str, text: str, nth: int = 0) -> None:
        def typed() -> bool:
            it = self.field(label, nth)
            self.browser.execute_script("arguments[0].scrollIntoView({block: 'center'})", it)
            it.click()
            it.send_keys(Keys.CONTROL, "a")
            it.send_keys(Keys.DELETE)
            it.send_keys(text)
            return True

        self.until(typed, f"a field “{label}” that stays")

    def holds(self, label: str, text: str, nth: int = 0) -> None:
        self.until(lambda: self.field(label, nth).get_attribute("value") == text, f"“{text}” in the field “{label}”")

    def pick(self, label: str, option: str, nth: int = 0) -> None:
        """Choose one of several by the field's label."""
        script = """
        const [label, option, nth] = [arguments[0].toLowerCase(), arguments[1].toLowerCase(), arguments[2]];
        const name = (e) => (e.getAttribute('aria-label') || [...e.labels].map((l) => l.innerText).join(' ')).trim().toLowerCase();
        const select = [...document.querySelectorAll('select')].filter((e) => name(e).startsWith(label))[nth];
        const found = select && [...select.options].find((e) => e.text.trim().toLowerCase().startsWith(option));
        if (!found) return false;
        select.value = found.value;
        select.dispatchEvent(new Event('change', { bubbles: true }));
        return true;
        """
        self.until(lambda: self.browser.execute_script(script, label, option, nth), f"“{option}” in a choice “{label}”")

    def view(self, name: str, path: str) -> None:
        """Click on a view's name until its address is there: tabs move as figures come in beside them. A second click on it would take the focus back from the view."""

        def there() -> bool:
            self.click(name)
            late = time.monotonic() + 5
            while path not in self.browser.current_url and time.monotonic() < late:
                time.sleep(0.05)
            return path in self.browser.current_url

        if path not in self.browser.current_url:
            self.until(there, f"the view {name}")

    def press(self, *keys: str) -> None:
        """Keys, to whatever has the focus; to the page where that has just gone out of sight."""
        for key in keys:
            try:
                self.browser.switch_to.active_element.send_keys(key)
            except (ElementNotInteractableException, StaleElementReferenceException):
                ActionChains(self.browser).send_keys(key).perform()

    def upload(self, *paths: Path, into: str = "") -> None:
        """Into the box of that name, or the one that is meant for it, not into the sheet for files of any searches."""
        box = f"input[type=file][aria-label='{into}']" if into else "input[type=file]:not([aria-label='Files of any searches'])"
        self.until(lambda: self.browser.find_elements(By.CSS_SELECTOR, box), "a box for files")
        self.browser.find_elements(By.CSS_SELECTOR, box)[0].send_keys("\n".join(map(str, paths)))

    def heading(self) -> str:
        found = self.browser.find_elements(By.CSS_SELECTOR, "article h1")
        return str(found[0].text) if found else ""

    def record(self) -> str:
        """The number of the record that is shown, by its address: two may have one title."""
        found = re.search(r"[?&]record=(\d+)", self.browser.current_url)
        return found[1] if found else ""

    def downloaded(self, name: str) -> bytes:
        path = self.downloads / name
        self.until(lambda: path.exists() and path.stat().st_size > 0, f"{name} downloaded")
        return path.read_bytes()

    def sign_in(self, name: str = "tamsin", password: str = "winter-cluster") -> None:
        self.go("/sign-in")
        self.type("Account name", name)
        self.type("Password", password)
        self.press(Keys.ENTER)
        self.reads("Your reviews")

    def make_account(self, name: str, full_name: str, password: str) -> None:
        """On the page of signing in."""
        self.click("Make an account")
        self.type("Account name", name)
        self.type("Your name", full_name)
        self.type("Password", password)
        self.press(Keys.ENTER)

    def complaints(self) -> list[str]:
        """What the browser's console holds against the pages, but for answers that were meant."""
        return [it["message"] for it in self.browser.get_log("browser") if it["level"] == "SEVERE" and "/api/" not in it["message"]]


@pytest.fixture(scope="session")
def browsers() -> Iterator[list[webdriver.Chrome]]:
    """Those at which nobody sits."""
    free: list[webdriver.Chrome] = []
    yield free
    for browser in free:
        browser.quit()


@pytest.fixture
def person(address: str, tmp_path: Path, browsers: list[webdriver.Chrome]) -> Iterator[Callable[..., Person]]:
    """Sits somebody down in front of a browser that knows nobody."""
    there: list[Person] = []

    def sit_down(width: int = 1280) -> Person:
        there.append(Person(address, tmp_path, browsers.pop() if browsers else chromium(), width))
        return there[-1]

    yield sit_down
    for it in there:
        clear(it.browser, address)
        browsers.append(it.browser)
