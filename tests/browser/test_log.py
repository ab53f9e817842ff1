"""Room 6 as a person uses it: two numbers in the garage, a slip that is mended, a file that is looked at first."""

import re
import time

from tests.browser.page import PHONE, BrowserCase

FILE = (
    "Charge start;Charge end;Start SOC;End SOC;Energy (kWh)\n"
    "14.01.2020 22:30;15.01.2020 01:10;38;80;28,4\n"
    "16.01.2020 22:30;17.01.2020 01:00;41;80;lots\n"
)


class Log(BrowserCase):
    def test_in_the_garage_two_numbers_and_a_button_take_less_than_fifteen_seconds(self) -> None:
        page = self.open("/tonight", PHONE, touch=True)
        page.keyboard.press("n")
        page.wait_for_url("**/log/new")
        form = page.locator("form.quick")
        self.assertEqual((form.locator("input:visible").count(), form.locator("button:visible").count()), (2, 1))
        button = form.get_by_role("button", name="Done").bounding_box()
        assert button is not None
        self.assertLess(button["y"] + button["height"], PHONE[1] - 54, "all of it on one screen, over the rooms")
        begun = time.monotonic()
        form.get_by_label("Level now").fill("55")
        form.get_by_label("Odometer").fill("")
        form.get_by_role("button", name="Done").tap()
        page.get_by_text("noted: 55 %").wait_for()
        self.assertLess(time.monotonic() - begun, 15.0, "the two numbers are read off in the rest of it")
        page.get_by_role("button", name="Undo").tap()
        page.get_by_text("Taken back").wait_for()
        self.assertEqual(self.said, [])

    def test_what_does_not_go_together_is_mended_with_one_tap(self) -> None:
        page = self.open("/log/doubts")
        mend = page.get_by_role("button", name=re.compile("Add a drive of about"))
        self.assertEqual(mend.count(), 1)
        mend.click()
        page.get_by_text("Mended.").wait_for()
        self.assertEqual(page.get_by_role("button", name=re.compile("Add a drive of about")).count(), 0)
        page.goto(self.server.address + "/log")
        line = page.locator(".entries a", has=page.locator(".assumed")).first
        line.click()
        page.get_by_role("button", name="all of it is right").click()
        page.get_by_text("Confirmed").wait_for()

    def test_another_programs_file_by_its_columns_then_its_bad_row_then_all_of_it(self) -> None:
        page = self.open("/log/import")
        page.locator("input[type=file]").set_input_files({"name": "theirs.csv", "mimeType": "text/csv", "buffer": FILE.encode()})
        page.get_by_role("button", name="Look at it first").click()
        page.get_by_role("heading", name="What is in “theirs.csv”?").wait_for()
        chosen = page.locator("#f-at_begun_at").evaluate("each => each.selectedOptions[0].textContent")
        self.assertEqual(chosen, "Charge start", "guessed from the header")
        self.assert_accessible(page)
        page.locator("#f-at_site").select_option("")
        page.locator("#c-dates").select_option("dmy")
        page.locator("#c-comma").select_option("yes")
        page.locator("#c-car").select_option("1")
        page.get_by_role("button", name="Look at it", exact=True).click()
        page.get_by_text("“lots” is not a number").wait_for()
        self.assert_accessible(page)
        page.get_by_role("button", name="Leave the bad rows out").click()
        page.get_by_text("was taken over").wait_for()
        page.goto(self.server.address + "/log?month=2020-01")
        self.assertEqual(page.locator(".entries > li").count(), 1)
        page.goto(self.server.address + "/log/data")
        page.get_by_role("button", name="Copy it now").click()
        page.get_by_role("button", name="Bring it back").click()
        page.get_by_role("heading", name=re.compile("would take the place of everything")).wait_for()
        self.assert_accessible(page)
        page.get_by_role("button", name="Put it in place").click()
        page.get_by_text("A copy is kept").wait_for()
        self.assertEqual(self.said, [])
