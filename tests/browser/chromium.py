"""Starting Debian's Chromium for tests and pictures."""

from __future__ import annotations

import tempfile
from pathlib import Path

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


def chromium(width: int = 1280, height: int = 800, downloads: Path | None = None) -> webdriver.Chrome:
    """A headless browser with a fresh profile folder and a window whose inside has this size."""
    options = webdriver.ChromeOptions()
    options.binary_location = "/usr/bin/chromium"
    for flag in (*FLAGS, f"--user-data-dir={tempfile.mkdtemp(prefix='kettle-profile-')}", f"--window-size={width},{height}"):
        options.add_argument(flag)
    if downloads:
        options.add_experimental_option("prefs", {"download.default_directory": str(downloads), "download.prompt_for_download": False})
    options.set_capability("goog:loggingPrefs", {"browser": "ALL"})
    browser = webdriver.Chrome(options=options, service=Service("/usr/bin/chromedriver"))
    browser.execute_cdp_cmd(
        "Emulation.setDeviceMetricsOverride", {"width": width, "height": height, "deviceScaleFactor": 1, "mobile": False}
    )
    return browser
