"""The day in Chromium: levers by mouse and keys, learning, without scripts, printed; desk and phone."""

import re

from playwright.sync_api import Page

from tests.browser.page import DESK, PHONE, BrowserCase


def home_with(page: Page) -> int:
    """The likely arrival level of the verdict."""
    found = re.search(r"come home with (\d+)", page.locator("#verdict").inner_text())
    assert found
    return int(found[1])


class Day(BrowserCase):
    def test_levers_on_a_desk_and_on_a_phone(self) -> None:
        for size, scheme, kind in ((DESK, "light", "wide"), (PHONE, "dark", "upright")):
            with self.subTest(size=size):
                self.afresh()
                page = self.open("/tonight", size, scheme)
                page.keyboard.press("3")
                page.wait_for_url("**/day")
                first, picture = home_with(page), page.locator(f".ribbon-{kind}").first.inner_html()
                self.settled(page, lambda page=page: page.get_by_label("Motorway", exact=True).first.fill("130"))
                faster = home_with(page)
                self.assertLess(faster, first)
                self.assertNotEqual(page.locator(f".ribbon-{kind}").first.inner_html(), picture)
                page.locator("#trips summary").click()
                self.settled(page, lambda page=page: page.get_by_label("Roof box").select_option("yes"))
                boxed = home_with(page)
                self.assertLess(boxed, faster)
                self.assertIn("roof box off", page.locator("#why").inner_html())
                self.settled(page, lambda page=page: page.get_by_label("Leaving with", exact=True).fill("30"))
                self.assertRegex(page.locator("#verdict").inner_text(), "too far|not surely enough")
                with page.expect_response(lambda answer: answer.status == 422):
                    page.get_by_label("Outside", exact=True).fill("-80")
                page.locator("#l-out_c-error").get_by_text("−45 to 45").wait_for()
                self.assertTrue(page.locator("#trips").get_attribute("open") is not None)

    def test_it_learns_from_the_log_and_takes_it_back(self) -> None:
        page = self.open("/day")
        page.get_by_role("button", name=re.compile("Learn from")).click()
        page.get_by_text("Learnt from what Marten did, and used from now on.").wait_for()
        self.assertRegex(page.get_by_label("What its log taught").inner_text(), r"Learnt from \d+ days")
        page.get_by_role("button", name="Undo").click()
        page.get_by_text("Nothing learnt yet").wait_for()

    def test_it_works_without_scripts(self) -> None:
        context = self.browser.new_context(java_script_enabled=False)
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(self.server.address + "/day")
        before = home_with(page)
        page.locator("#l-leave_soc").fill("90")
        page.get_by_role("button", name="Show it for these levers").last.click()
        self.assertGreater(home_with(page), before)

    def test_a_day_is_kept_and_the_wheels_are_read(self) -> None:
        page = self.open("/day", PHONE, touch=True)
        page.locator("#trips summary").tap()
        self.settled(page, lambda: page.locator("#l-motorway_1").fill("90"))
        page.get_by_label("Keep this day as").fill("Market")
        page.get_by_role("button", name="Keep it").tap()
        page.get_by_role("link", name="Market").wait_for()
        self.assertEqual(page.locator("#l-motorway_1").input_value(), "90")
        page.get_by_role("link", name="by wheel, and a slow leak").tap()
        page.locator("#f-FL").fill("flat")
        page.get_by_role("button", name="Note it").tap()
        page.get_by_text("50 to 600 kPa").first.wait_for()
        page.get_by_role("button", name="Read the simulated wheel sensors").tap()
        page.get_by_text("Noted; a cold reading").wait_for()

    def test_paper_has_every_why_and_the_why_page_finds(self) -> None:
        page = self.open("/day")
        folded = "() => document.querySelectorAll('details:not([open])').length"
        before = page.evaluate(folded)
        self.assertGreater(before, 2)
        page.evaluate("() => dispatchEvent(new Event('beforeprint'))")
        self.assertEqual(page.evaluate(folded), 0)
        page.evaluate("() => dispatchEvent(new Event('afterprint'))")
        self.assertEqual(page.evaluate(folded), before)
        page.goto(self.server.address + "/basis#pack.regen_half_at")
        page.locator("[id='pack.regen_half_at']").wait_for()
        page.get_by_label("Find a number").fill("wheel covers")
        self.assertEqual(page.locator("details.room-figures tbody tr:visible").count(), 1)
        self.assertLess(page.evaluate("() => document.documentElement.scrollHeight"), 2000)

    def test_the_tally_prints_without_levers(self) -> None:
        page = self.open("/day")
        page.emulate_media(media="print")
        self.assertFalse(page.locator("#levers").is_visible())
        self.assertFalse(page.locator(".rail").is_visible())
        self.assertTrue(page.locator(".stair-wide").is_visible())
