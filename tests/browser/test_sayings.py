"""Said and true in Chromium: it becomes whole by itself, a line unfolds by keys, and nothing is wrong with it on a phone."""

from frost_tally.core.sayings import SAYINGS
from tests.browser.page import PHONE, BrowserCase


class Sayings(BrowserCase):
    def test_it_becomes_whole_unfolds_by_keys_and_fits_a_phone(self) -> None:
        page = self.open("/basis/sayings", PHONE)
        page.set_default_timeout(60_000)
        page.wait_for_url("**/basis/sayings?now=1")
        page.wait_for_load_state()
        self.assertEqual(page.locator("details.saying").count(), len(SAYINGS))
        first = page.locator("#heat_or_speed summary")
        first.focus()
        page.keyboard.press("Enter")
        self.assertIn("the heating takes more than", page.locator("#heat_or_speed").inner_text())
        self.assertTrue(page.locator("#heat_or_speed svg.ribbon-upright").is_visible())
        page.evaluate("() => { for (const each of document.querySelectorAll('details.saying')) each.open = true; }")
        self.assert_accessible(page)
        page.locator("#eighty button").click()
        page.get_by_role("status").get_by_text("Everyday limit").wait_for()
        page.set_viewport_size({"width": 360, "height": 780})
        self.assert_nothing_sideways(page)
