"""Battery in Chromium: two cars compared, a test guided over two days by phone, a school changed and Tonight following."""

import re
from datetime import timedelta

from sqlalchemy import update

from frost_tally.household.models import PresentRow
from tests.browser.page import PHONE, BrowserCase
from tests.homes import read


class Battery(BrowserCase):
    def test_two_cars_are_compared_on_one_scale(self) -> None:
        page = self.open("/tonight")
        page.keyboard.press("5")
        page.wait_for_url("**/battery")
        self.assertRegex(page.locator("#verdict").inner_text(), r"Marten: \d\d\.\d\skWh of 58\skWh")
        self.assertIn("Side by side", page.get_by_role("region", name="Side by side").inner_text())
        picture = page.locator("svg[aria-label^='Health side by side']:visible")
        self.assertEqual(picture.locator("rect.fan").count(), 2)
        page.get_by_role("link", name="Dray").first.click()
        page.wait_for_url("**/battery?car=2")
        self.assertIn("Dray", page.locator("#verdict").inner_text())

    def test_a_test_is_guided_over_two_days_by_phone(self) -> None:
        page = self.open("/battery/guide", PHONE, touch=True)
        page.locator("#drive_down").get_by_role("button", name="Begin").tap()
        page.get_by_label("To", exact=False).last.fill("10")
        page.get_by_role("button", name="Done, go on").tap()
        page.get_by_text("it will tell the capacity to").wait_for()
        page.get_by_role("button", name="Done, go on").tap()
        page.get_by_text("reset the trip meter").wait_for()
        self.assert_accessible(page)
        page.context.close()
        with self.server.household.recording() as session:
            session.execute(update(PresentRow).values(clock=read(self.server.household).now + timedelta(hours=18)))
        page = self.open("/battery", PHONE, touch=True)
        page.get_by_role("link", name="A guide is under way").tap()
        page.get_by_label("Level now").fill("100")
        page.get_by_role("button", name="Done, go on").tap()
        page.get_by_text("Stop at the lower level").wait_for()
        page.get_by_role("button", name="Done, go on").tap()
        page.get_by_label("Level now").fill("9")
        page.get_by_label("Energy since the reset").fill("a lot")
        page.get_by_role("button", name="File it").tap()
        page.get_by_text("“a lot” will not do").wait_for()
        self.assertEqual(page.get_by_label("Level now").input_value(), "9", "what was typed stays")
        page.get_by_label("Energy since the reset").fill("50.3")
        page.get_by_role("button", name="File it").tap()
        page.get_by_text(re.compile(r"Filed: 5\d\.\d.kWh")).wait_for()
        self.assertIn("100 → 9", page.get_by_role("region", name="Tests", exact=True).inner_text())

    def test_the_school_is_changed_and_tonight_follows(self) -> None:
        page = self.open("/battery/schools", PHONE, touch=True)
        self.settled(page, lambda: page.get_by_label("Everyday limit", exact=True).first.fill("66"))
        self.assertIn(
            "Yours is 66 %", (page.locator(".ribbon-upright").first.get_attribute("aria-label") or "").replace("\xa0", " ")
        )
        page.get_by_role("button", name="Keep this limit").tap()
        page.get_by_text("66 % is Marten’s everyday limit").wait_for()
        page.goto(self.server.address + "/tonight")
        self.assertEqual(page.locator("#l-limit").input_value(), "66")

    def test_the_schools_work_without_scripts(self) -> None:
        context = self.browser.new_context(java_script_enabled=False, viewport={"width": 390, "height": 844})
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(self.server.address + "/battery/schools?limit=60&climate=hot")
        self.assertIn("60", page.locator("#verdict").inner_text())
        self.assertTrue(page.locator(".ribbon-upright").first.is_visible())
