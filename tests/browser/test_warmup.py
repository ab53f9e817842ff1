"""Warm-up in Chromium: the verdict over distance, keys, touch, departures, accessibility."""

from tests.browser.page import DESK, PHONE, BrowserCase


class WarmUp(BrowserCase):
    def test_the_verdict_goes_from_seats_to_cabin_and_pack(self) -> None:
        for size, kind in ((DESK, "wide"), (PHONE, "upright")):
            page = self.open("/tonight", size)
            page.keyboard.press("4")
            page.wait_for_url("**/warm-up")
            seen = []
            for km in ("2", "5", "12", "30", "60", "100"):
                self.settled(page, lambda page=page, km=km: page.get_by_label("One way", exact=True).first.fill(km))
                seen.append(page.locator("#verdict b").first.inner_text())
            self.assertEqual((seen[0], seen[-1]), ("seats only", "cabin and pack"))
            self.assertEqual(
                [a for a, b in zip(seen, ["", *seen], strict=False) if a != b], ["seats only", "cabin", "cabin and pack"]
            )
            self.assertIn("this trip, 100", page.locator(f".ribbon-{kind}").last.inner_html())
            self.assertGreater(float(page.locator("#live").get_attribute("data-ms") or 0), 0)
            with page.expect_response(lambda answer: answer.status == 422):
                page.get_by_label("Outside", exact=True).first.fill("-90")
            page.locator("#l-out_c-error").get_by_text("−45 to 35").wait_for()

    def test_the_bold_course_can_be_chosen_and_kept(self) -> None:
        page = self.open("/warm-up")
        page.locator("#rest summary").click()
        self.settled(page, lambda: page.get_by_label("Draw bold").select_option("cabin_and_pack"))
        self.assertIn("bold: cabin and pack", page.locator("#live").inner_text())
        page.get_by_role("button", name="Warm up like the bold course").click()
        page.get_by_text("kept; Tonight plans for it").wait_for()
        page.get_by_role("button", name="Undo").click()
        page.wait_for_url("**/warm-up?car=1&undo=2.*")

    def test_a_departure_is_entered_by_touch(self) -> None:
        page = self.open("/warm-up", PHONE, touch=True)
        page.get_by_role("link", name="Departures that repeat").tap()
        page.get_by_label("Name", exact=True).fill("Choir")
        page.get_by_label("Leaves at").fill("18:45")
        page.get_by_label("One way").fill("7")
        page.get_by_role("button", name="Enter it").tap()
        page.get_by_text("Choose the weekdays it repeats on").wait_for()
        self.assertEqual(page.get_by_label("Name", exact=True).input_value(), "Choir")
        page.get_by_role("checkbox", name="Tuesday").tap()
        page.get_by_role("button", name="Enter it").tap()
        page.get_by_role("heading", name="Choir").wait_for()
        page.get_by_role("button", name="Undo").tap()
        page.wait_for_url("**/week?car=1&undo=2.*")
        self.assertEqual(page.get_by_role("heading", name="Choir").count(), 0)

    def test_a_flag_of_the_week_leads_to_its_departure_and_the_rest_of_the_rooms_is_one_tap_away(self) -> None:
        page = self.open("/week", PHONE, touch=True)
        self.assertEqual(page.evaluate("scrollY"), 0)
        page.locator("svg:visible [data-flag]").first.tap()
        page.wait_for_url("**/week?car=1&edit=*")
        self.assertEqual(page.get_by_label("Name", exact=True).input_value(), "Work")
        page.get_by_text("More", exact=True).tap()
        page.get_by_role("navigation").get_by_role("link", name="Garage").last.tap()
        page.wait_for_url("**/garage")

    def test_a_flag_that_is_dragged_brings_the_new_time_to_the_form(self) -> None:
        page = self.open("/week")
        flag = page.locator("svg:visible [data-flag]").first
        flag.scroll_into_view_if_needed()
        at, box = int(flag.get_attribute("data-at") or 0), flag.bounding_box()
        assert box is not None
        x, y = box["x"] + 10, box["y"] + 10
        page.mouse.move(x, y)
        page.mouse.down()
        page.mouse.move(x - 30, y + 2, steps=5)
        told = flag.locator("text").text_content()
        page.mouse.up()
        page.wait_for_url("**/week?car=1&edit=*&at=*")
        self.assertEqual(page.get_by_label("Leaves at").input_value(), told)
        hours, minutes = map(int, (told or "0:0").split(":"))
        self.assertLess(hours * 60 + minutes, at - 20)
        page.get_by_role("button", name="Change it").click()
        page.wait_for_url("**/week?car=1&undo=*")
        self.assertEqual(page.locator("svg:visible [data-flag] text").first.text_content(), told)
