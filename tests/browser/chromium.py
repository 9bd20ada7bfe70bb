"""Starting Debian's Chromium for tests and pictures."""

from __future__ import annotations

import atexit
import shutil
import tempfile

from selenium import webdriver
from selenium.webdriver.chrome.service import Service

FLAGS = [
    "--headless=new",
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--force-color-profile=srgb",
    "--lang=en",
    "--force-prefers-reduced-motion",  # nobody looks on while things slide
    "--disable-features=PreloadTopChromeWebUI,WebUITabStrip,Translate,OptimizationHints,MediaRouter",  # parts of a window that nobody sees
]


def chromium(width: int = 1280, height: int = 800) -> webdriver.Chrome:
    """A headless browser with a fresh profile folder and a window whose inside has this size."""
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    profile = tempfile.mkdtemp(prefix="kettle-profile-")
    atexit.register(shutil.rmtree, profile, ignore_errors=True)
    for flag in (*FLAGS, f"--user-data-dir={profile}", f"--window-size={width},{height}"):
        options.add_argument(flag)
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    browser = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    resize(browser, width, height)
    return browser


def resize(browser: webdriver.Chrome, width: int, height: int) -> None:
    """Give the inside of the window this size."""
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    )


def clear(browser: webdriver.Chrome, address: str) -> None:
    """Make it a browser in which nobody has been: one empty tab, and nothing that ``address`` left there. A new one takes seconds to start."""
    browser.switch_to.new_window("tab")
    for target in browser.execute_cdp_cmd("Target.getTargets", {})["targetInfos"]:
        if target["type"] == "page" and target["targetId"] != browser.current_window_handle:
            browser.execute_cdp_cmd("Target.closeTarget", {"targetId": target["targetId"]})
    browser.execute_cdp_cmd("Storage.clearDataForOrigin", {"origin": address, "storageTypes": "all"})
    browser.execute_cdp_cmd("Network.clearBrowserCookies", {})
    browser.execute_cdp_cmd("Page.bringToFront", {})  # where the focus is shown
    browser.get_log("browser")
