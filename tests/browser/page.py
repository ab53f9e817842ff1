"""A real server on a free port and Debian's Chromium in front of it."""

import atexit
import socket
import tempfile
import threading
import time
import unittest
from collections.abc import Callable, Sequence
from functools import cache
from pathlib import Path
from shutil import which
from typing import Any, cast

import structlog
import uvicorn
from fastapi import FastAPI
from playwright.sync_api import Browser, Page, sync_playwright

from frost_tally.settings import Settings
from tests.homes import app_on, home_in

structlog.configure(wrapper_class=structlog.make_filtering_bound_logger(50))
CHROMIUM = which("chromium-headless-shell") or "/usr/bin/chromium"
"""Debian's, without a window of its own where that is installed: it opens pages a third faster."""
FLAGS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]
AXE = (Path(__file__).parent / "vendor" / "axe.min.js").read_text()
DESK, PHONE = (1280, 800), (390, 844)
PATIENCE_MS = 30_000
"""How long a page is waited for: no test measures time, and a busy machine stands still for seconds."""
WCAG = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


class Server:
    """The app of this process served on a household of its own; one at a time."""

    def __init__(self, demo: bool, years: float = 0.05) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.settings = Settings(data_dir=Path(self.folder.name), demo=demo)
        self.household = home_in(self.settings, years)
        self.address = _served(app_on(self.settings, self.household))

    def stop(self) -> None:
        self.household.engine.dispose()
        self.folder.cleanup()


@cache
def _served(app: FastAPI) -> str:
    """The address at which an app answers, as long as the process lives."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(app, port=port, log_level="critical"))
    threading.Thread(target=server.run, daemon=True).start()
    while not server.started:
        time.sleep(0.02)
    return f"http://127.0.0.1:{port}"


@cache
def chromium() -> Browser:
    """One Chromium for all tests of a process."""
    playwright = sync_playwright().start()
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
    atexit.register(playwright.stop)
    atexit.register(browser.close)
    return browser


NO_HINT = "try { localStorage.setItem('install-hint', 'shown') } catch {}"
"""As on a phone that was told already that it can keep the page among its programs."""


class BrowserCase(unittest.TestCase):
    """A fresh household and page for each test; no error may reach the console."""

    demo = True

    def setUp(self) -> None:
        self.browser = chromium()
        self.server = Server(self.demo)
        self.addCleanup(self.server.stop)
        self.said: list[str] = []

    def afresh(self) -> None:
        """Another household behind another server; pages of the one before are closed."""
        for context in self.browser.contexts:
            context.close()
        self.server.stop()
        self.setUp()

    def open(
        self,
        path: str = "/tonight",
        size: tuple[int, int] = DESK,
        scheme: str = "light",
        touch: bool = False,
        locale: str = "en-IE",
        hinted: bool = False,
    ) -> Page:
        context = self.browser.new_context(
            viewport={"width": size[0], "height": size[1]},
            color_scheme=cast(Any, scheme),
            has_touch=touch,
            timezone_id="America/New_York" if locale == "en-US" else "Europe/Oslo",
            locale=locale,
            reduced_motion="reduce",
        )
        self.addCleanup(context.close)
        if not hinted:
            context.add_init_script(NO_HINT)
        page = context.new_page()
        page.set_default_timeout(PATIENCE_MS)
        page.on("pageerror", lambda error: self.said.append(str(error)))
        page.on(
            "console",
            lambda message: self.said.append(message.text) if message.type == "error" and "422" not in message.text else None,
        )
        page.goto(self.server.address + path)
        return page

    def three_steps(self, page: Page) -> None:
        """Set a household up with what is proposed, from its first step to Tonight."""
        page.wait_for_url("**/setup/car")
        page.get_by_label("What do you call it?").fill("Birch")
        for step in ("outlet", "place"):
            page.get_by_role("button", name="Keep and go on").click()
            page.wait_for_url(f"**/setup/{step}**")
        page.get_by_role("button", name="Keep and see tonight").click()
        page.wait_for_url("**/tonight?undo=3.*")

    def settled(self, page: Page, act: Callable[..., object]) -> str:
        """Do something that asks for a new plan, wait for it, and return the verdict with its outcome."""
        live = "document.getElementById('live')"
        before = page.evaluate(f"() => {live}.dataset.asked || ''")
        act()
        page.wait_for_function(f"old => {live}.dataset.asked !== old && {live}.ariaBusy === 'false'", arg=before)
        return page.locator("#verdict").inner_text() + " " + page.locator("#outcome").inner_text()

    def violations(self, page: Page, rules: Sequence[str] = ()) -> list[str]:
        """What axe finds: by the rules of WCAG 2.2 A and AA, or by some rules only."""
        if not page.evaluate("() => Boolean(window.axe)"):
            page.evaluate(AXE)
        only = {"type": "rule", "values": list(rules)} if rules else {"type": "tag", "values": WCAG}
        found = page.evaluate(
            "only => axe.run(document, {runOnly: only, resultTypes: ['violations']})"
            ".then(r => r.violations.map(v => v.id + ': ' + v.nodes[0].html))",
            only,
        )
        return list(found)

    def assert_nothing_sideways(self, page: Page) -> None:
        """The page is no wider than its window."""
        wider = page.evaluate("() => document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertLessEqual(wider, 0, page.viewport_size)

    def assert_accessible(self, page: Page) -> None:
        """No violation of WCAG 2.2 A or AA, and nothing scrolls sideways."""
        self.assertEqual(self.violations(page), [])
        self.assert_nothing_sideways(page)

    def tearDown(self) -> None:
        self.assertEqual(self.said, [])
