"""Parked in Chromium: the airport with cameras, a month at home plugged in, the evening before frost by phone, an empty household."""

import re

from tests.browser.page import PHONE, BrowserCase


class Parked(BrowserCase):
    def test_two_weeks_at_the_airport_with_cameras(self) -> None:
        page = self.open("/tonight")
        page.keyboard.press("6")
        page.wait_for_url("**/parked")
        self.settled(page, lambda: page.get_by_label("Left at", exact=True).first.fill("80"))
        self.settled(page, lambda: page.get_by_label("Next charger", exact=True).first.fill("14"))
        said = self.settled(page, lambda: page.get_by_label("Watch cameras", exact=True).select_option("day"))
        self.assertIn("Switch off watch cameras", said)
        self.assertIn("14\xa0km away", said)
        dashed = page.locator(".ribbon-wide .ahead")
        self.assertEqual(dashed.count(), 1)
        said = self.settled(page, lambda: page.get_by_label("Watch cameras", exact=True).select_option("off"))
        self.assertIn("enough", said)

    def test_a_month_at_home_plugged_in_by_phone(self) -> None:
        page = self.open("/parked", PHONE, touch=True)
        self.settled(page, lambda: page.get_by_label("Plugged in").select_option("yes"))
        said = self.settled(page, lambda: page.get_by_label("Days", exact=True).first.fill("30"))
        self.assertIn("it is held at 50", said)
        self.assert_accessible(page)

    def test_the_first_frost_evening_by_phone(self) -> None:
        page = self.open("/tonight", PHONE, touch=True)
        page.get_by_role("link", name=re.compile("Frost tonight.*4 things to do")).tap()
        page.wait_for_url("**/parked/season?car=1")
        page.get_by_role("button", name="Done: Wipers up").tap()
        page.get_by_text("Done: wipers up").wait_for()
        page.get_by_role("button", name="All of it is done").tap()
        page.get_by_role("heading", name=re.compile("all is done")).wait_for()
        page.get_by_role("button", name="Undo").tap()
        page.get_by_role("heading", name=re.compile("3 things, 5 minutes")).wait_for()


class Nobody(BrowserCase):
    demo = False

    def test_an_empty_household_is_led_to_its_first_step(self) -> None:
        page = self.open("/parked/season", PHONE)
        page.wait_for_url("**/setup/car*")
