"""The long day in Chromium: winter and summer at a desk, out of reach, a post that does not work on the phone, a way from nothing."""

import re

from playwright.sync_api import Page

from tests.browser.page import DESK, PHONE, BrowserCase


def minutes(page: Page) -> int:
    """Door to door, as the verdict says."""
    found = re.search(r"(\d+).h.(\d+).min door to door", page.locator("#verdict").inner_text())
    assert found
    return 60 * int(found[1]) + int(found[2])


class LongDay(BrowserCase):
    def test_in_july_the_advice_turns_round_and_what_is_too_far_says_so(self) -> None:
        page = self.open("/day/long?way=1", DESK)
        frost = minutes(page)
        self.assertIn("arrive low and warm", page.locator("#live").inner_text())
        self.settled(page, lambda: page.get_by_label("Outside", exact=True).fill("22"))
        self.assertLess(minutes(page), frost)
        self.assertNotIn("arrive low and warm", page.locator("#live").inner_text())
        self.settled(page, lambda: page.get_by_label("Outside", exact=True).fill("-12"))
        self.settled(page, lambda: page.get_by_label("Leaving with", exact=True).fill("20"))
        self.assertIn("It does not get there", page.locator("#verdict").inner_text())
        self.assertIn("What would help", page.locator("#outcome").inner_text())
        self.assert_accessible(page)

    def test_a_post_that_does_not_work_on_the_phone(self) -> None:
        page = self.open("/day/long?way=1", PHONE)
        stops = page.get_by_role("region", name="The stops")
        self.assertLessEqual(stops.evaluate("of => of.scrollWidth - of.clientWidth"), 0, "the stops fit the phone")
        page.get_by_text("On the way: a post that does not work").click()
        name = page.locator("#here b").first.inner_text()
        page.get_by_role("link", name="it does not work").first.click()
        page.get_by_text("planned as if it were not there").wait_for()
        self.assertNotIn(name.split(",")[0], page.locator("#outcome").inner_text())
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE[0])
        page.get_by_text("Note what a stop gave").click()
        page.get_by_role("button", name="Note ").first.click()
        page.get_by_text("Stop noted").wait_for()

    def test_a_way_is_listed_from_nothing_with_its_wrong_line_named(self) -> None:
        page = self.open("/day/long", PHONE)
        page.get_by_role("link", name="List the posts of a way").click()
        page.get_by_label("Name of the way").fill("To the lake")
        page.get_by_label("Its length").fill("260")
        page.get_by_label("Posts, one a line").fill("120; 150; 0.62; Hill\n200; strong")
        page.get_by_role("button", name="Keep the way").click()
        page.get_by_text("Line 2: kW is no number").wait_for()
        page.get_by_label("Posts, one a line").fill("120; 150; 0.62; Hill\n200; 50")
        page.get_by_role("button", name="Keep the way").click()
        page.get_by_role("link", name="To the lake").wait_for()
        self.assertRegex(page.locator("#verdict").inner_text(), r"door to door")
