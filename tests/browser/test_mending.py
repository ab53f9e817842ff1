"""An owner mends a slip of the log, two tabs bring back two documents, prices fall below nothing: by the real clock, in a browser."""

import json
import re
from datetime import UTC, datetime, timedelta

from playwright.sync_api import Page

from tests.browser.page import PHONE, BrowserCase


class Mending(BrowserCase):
    demo = False

    def household(self) -> Page:
        """A new one, set up on a phone with what is proposed."""
        page = self.open("/tonight", PHONE)
        self.three_steps(page)
        return page

    def quick(self, page: Page, level: str) -> None:
        page.goto(self.server.address + "/log/new")
        page.get_by_label("Level now").fill(level)
        page.get_by_role("button", name="Done").click()
        page.wait_for_url("**/log?undo=*")

    def test_a_slip_of_a_quick_entry_is_mended_by_each_tap_and_undone(self) -> None:
        page = self.household()
        self.quick(page, "80")
        self.quick(page, "41")
        page.goto(self.server.address + "/log/doubts")
        before = page.locator("h1").inner_text()
        self.assertNotIn("goes together", before)
        for tap in (re.compile("Add a drive of about"), re.compile("It is right")):
            page.get_by_role("button", name=tap).last.click()
            page.get_by_role("button", name="Undo").wait_for()
            self.assertNotEqual(page.locator("h1").inner_text(), before)
            page.get_by_role("button", name="Undo").click()
            page.get_by_text("Taken back").wait_for()
            self.assertEqual(page.locator("h1").inner_text(), before)
        self.assert_accessible(page)

    def test_two_tabs_bring_back_two_documents(self) -> None:
        page = self.household()
        page.goto(self.server.address + "/log/data")
        everything = page.request.get(self.server.address + "/log/data/everything.json").text()
        tabs = []
        for name in ("Otter", "Stoat"):
            tab = page.context.new_page()
            tab.goto(self.server.address + "/log/data")
            content = json.dumps(json.loads(everything)).replace('"Birch"', f'"{name}"').encode()
            file = {"name": f"{name}.json", "mimeType": "application/json", "buffer": content}
            tab.get_by_label("A JSON document of Frost Tally").set_input_files(file)  # type: ignore[arg-type]
            tab.get_by_role("button", name="Look at it first").click()
            tab.get_by_role("heading", name=f"“{name}.json” would take the place of everything.").wait_for()
            tabs.append(tab)
        tabs[0].get_by_role("button", name="Put it in place").click()
        tabs[0].get_by_text("A copy is kept").wait_for()
        page.goto(self.server.address + "/garage")
        page.get_by_role("heading", name="Otter", exact=True).wait_for()
        tabs[1].get_by_role("button", name="Put it in place").click()
        tabs[1].get_by_text("All of the data was replaced since this page was opened.").wait_for()
        self.said.clear()  # the 409 of that page
        self.assert_accessible(tabs[1])
        tabs[1].get_by_role("button", name="Put it in place").click()
        tabs[1].get_by_text("A copy is kept").wait_for()
        page.goto(self.server.address + "/garage")
        page.get_by_role("heading", name="Stoat", exact=True).wait_for()

    def test_hours_that_earn(self) -> None:
        page, first = self.household(), datetime.now(UTC).replace(minute=0, second=0, microsecond=0)
        rows = [f"{(first + timedelta(hours=h)).isoformat()},60,{-0.2 + 0.02 * (h * 7 % 11):.3f}" for h in range(72)]
        page.goto(self.server.address + "/garage/tariffs")
        page.get_by_role("link", name="Paint").click()
        content = "\n".join(["start,minutes,price_per_kwh", *rows]).encode()
        page.get_by_role("link", name="Take them from a file").click()
        page.locator("#prices-file").set_input_files({"name": "p.csv", "mimeType": "text/csv", "buffer": content})
        page.get_by_role("button", name="Look at it").click()
        page.get_by_role("button", name="Take all of it over").click()
        page.get_by_role("link", name="Go on").wait_for()
        page.goto(self.server.address + "/tonight")
        self.assertIn("−", page.locator("#verdict").inner_text() + page.locator("#outcome").inner_text())
