"""The garage in Chromium: painting by mouse, keys and touch, the bench, the comparison, a file taken over; desk and phone."""

import re
import tempfile
from collections.abc import Callable
from pathlib import Path

from playwright.sync_api import Page, Route

from tests.browser.page import PHONE, BrowserCase
from tests.web.test_garage_rooms import csv_of


class Garage(BrowserCase):
    def painted(self, page: Page, act: Callable[..., object]) -> str:
        """Do something to the painter, wait for its answer, and return the week's words."""
        page.wait_for_load_state()
        page.evaluate("() => { if (/INPUT|SELECT/.test(document.activeElement.tagName)) document.activeElement.blur(); }")
        page.wait_for_function("() => !Number(document.querySelector('.painter').dataset.waiting)")
        page.evaluate("() => { delete document.querySelector('.painter').dataset.ms; }")
        act()
        page.wait_for_function("() => (d => d.ms && d.waiting === '0')(document.querySelector('.painter').dataset)")
        return page.locator("svg.week:visible").get_attribute("aria-label") or ""

    def cell(self, page: Page, row: int, cell: float) -> tuple[float, float]:
        """The middle of a cell of the visible week, in the window."""
        week = page.locator("svg.week:visible")
        week.scroll_into_view_if_needed()
        left, top, per, high, _ = (float(each) for each in (week.get_attribute("data-week") or "").split())
        box = week.bounding_box()
        assert box
        scale = box["width"] / float((week.get_attribute("viewBox") or "").split()[2])
        return box["x"] + (left + (cell + 0.5) * per) * scale, box["y"] + (top + (row + 0.5) * high) * scale

    def drag(self, page: Page, start: tuple[int, int], end: tuple[int, int]) -> None:
        page.mouse.move(*self.cell(page, *start))
        page.mouse.down()
        page.mouse.move(*self.cell(page, *end), steps=6)
        page.mouse.up()

    def test_a_week_is_painted_by_mouse_kept_and_tonight_follows(self) -> None:
        page = self.open("/tonight?car=2")
        before = page.locator("#verdict").inner_text()
        page.goto(self.server.address + "/garage/tariffs/1")
        page.locator('input[name="colour"][value="1"]').check()
        words = self.painted(page, lambda: self.drag(page, (4, 90), (5, 95)))
        self.assertRegex(words, r"Friday, Saturday: 00:00 to 06:00 night 0\.120.EUR/kWh, 06:00 to 24:00 day")
        self.painted(page, lambda: self.drag(page, (5, 0), (5, 23)))
        page.locator('input[name="colour"][value="0"]').check()
        self.painted(page, lambda: self.drag(page, (4, 78), (4, 88)))
        self.assertIn("Friday 19:30–22:15", page.locator(".stroke-said").inner_text())
        page.get_by_role("button", name="Keep", exact=True).click()
        page.get_by_role("status").get_by_text("“Hollow Tarn Two-Step” kept.").wait_for()
        page.goto(self.server.address + "/tonight?car=2")
        after = page.locator("#verdict").inner_text()
        self.assertNotEqual(after, before)
        page.goto(self.server.address + "/garage/tariffs")
        self.assertNotIn("Undo", page.locator("main").inner_text())

    def test_a_gap_is_pointed_at_by_keys_and_mended(self) -> None:
        page = self.open("/garage/tariffs/1")
        page.locator(".grid-of-week").focus()
        for key in ("ArrowDown", "ArrowDown", "ArrowRight", "ArrowRight", "Shift+ArrowRight", "Shift+ArrowDown"):
            page.keyboard.press(key)
        self.assertEqual(page.locator(".stroke-said").inner_text(), "Wednesday to Thursday 00:30–01:45")
        words = self.painted(page, lambda: page.keyboard.press("Delete"))
        self.assertIn("00:30 to 01:45 no price", words)
        self.assertIn("Wednesday 00:30–01:45 has no price", page.locator(".faults").inner_text())
        page.get_by_role("button", name="Keep", exact=True).click()
        page.get_by_role("alert").get_by_text("Nothing was saved yet").wait_for()
        page.wait_for_load_state()  # keys before the scripts are there would be lost
        page.locator(".grid-of-week").focus()
        page.keyboard.press("1")
        for _ in range(2):
            page.keyboard.press("ArrowDown")
        for key in ("ArrowRight", "ArrowRight", "Shift+ArrowRight", "Shift+ArrowDown"):
            page.keyboard.press(key)
        self.painted(page, lambda: page.keyboard.press("Enter"))
        self.assertEqual(page.locator(".faults").count(), 0)
        self.assertTrue(page.evaluate("() => document.activeElement.classList.contains('grid-of-week')"))

    def test_an_answer_that_comes_late_leaves_the_field_in_hand_to_whoever_types(self) -> None:
        page = self.open("/garage/tariffs/1")
        held = list[Route]()
        page.route("**/garage/tariffs/draft", lambda route: held.append(route))
        page.get_by_label("Price 1").fill("0.13")
        page.get_by_label("From", exact=True).last.click()
        page.wait_for_function("() => document.querySelector('.painter').dataset.waiting === '1'")
        to = page.get_by_label("To", exact=True).last
        to.click()
        to.press("ControlOrMeta+a")
        page.wait_for_timeout(50)
        held[0].continue_()
        page.wait_for_function("() => document.querySelector('.painter').dataset.waiting === '0'")
        page.keyboard.type("09:15")
        self.assertEqual((to.input_value(), page.get_by_label("From", exact=True).last.input_value()), ("09:15", "22:00"))

    def test_on_a_phone_a_season_is_painted_by_days_and_times(self) -> None:
        page = self.open("/garage/tariffs/new?shape=flat", PHONE, "dark", touch=True)
        page.get_by_label("Name", exact=True).fill("Fjell")
        self.painted(page, lambda: page.get_by_role("button", name="Another season").tap())
        page.get_by_label("Season", exact=True).fill("Frost")
        self.painted(page, lambda: page.get_by_role("button", name="Another band").tap())
        page.get_by_label("Price 2").fill("0,55")
        page.get_by_label("Days", exact=True).select_option("week")
        page.get_by_label("From", exact=True).last.fill("06:00")
        page.get_by_label("To", exact=True).last.fill("09:00")
        words = self.painted(page, lambda: page.get_by_role("button", name="Paint", exact=True).tap())
        self.assertIn("06:00 to 09:00 band 2 0.550", words)
        x, y = self.cell(page, 5, 40)
        self.painted(page, lambda: page.touchscreen.tap(x, y))
        self.assertIn("Saturday 10:00–10:15", page.locator(".stroke-said").inner_text())
        page.get_by_role("button", name="Keep", exact=True).tap()
        page.get_by_role("heading", name="Fjell").wait_for()
        self.assertIn("Frost", page.locator("main").inner_text())

    def test_the_bench_and_the_comparison_follow_their_levers(self) -> None:
        page = self.open("/garage")
        page.get_by_role("link", name="Outlets bench").click()
        page.locator("#verdict").wait_for()
        self.assertIn("Wall unit is enough", page.locator("#verdict").inner_text())
        page.get_by_label("Wall unit", exact=True).uncheck()
        page.locator("#verdict").get_by_text("Three-phase 16 A").wait_for()
        self.settled(page, lambda: page.get_by_label("Day to cover", exact=True).fill("420"))
        self.assertRegex(page.locator("#outcome").inner_text(), "420.km")
        with page.expect_response(lambda answer: answer.status == 422):
            page.get_by_label("Day to cover", exact=True).fill("0")
        page.locator("#l-day_km-error").get_by_text("1 to 1500 km").wait_for()
        page.get_by_role("link", name="Compare").click()
        page.locator("#verdict").get_by_text("Stay with").or_(
            page.locator("#verdict").get_by_text("would have cost")
        ).first.wait_for()
        first = page.locator("#outcome").inner_text()
        moved = self.settled(page, lambda: page.get_by_label("Moved into cheap hours", exact=True).fill("30"))
        self.assertNotEqual(first, moved)

    def test_a_meter_file_is_looked_at_taken_over_and_given_back(self) -> None:
        page = self.open("/garage/house", PHONE)
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "meter.csv"
            file.write_text(csv_of(500).replace("0.15", "?", 1))
            page.get_by_label(re.compile("A CSV with")).set_input_files(file)
            page.get_by_role("button", name="Look at it first").click()
        page.get_by_role("heading", name="499 readings would be added").wait_for()
        self.assertIn("“?” is not a number", page.get_by_role("region", name="Bad rows").inner_text())
        self.assert_accessible(page)
        page.get_by_role("button", name="Leave the bad rows out and take the others over").click()
        page.get_by_role("heading", name="499 readings were taken over").wait_for()
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("heading", name="499 readings would be added").wait_for()


class FromNothing(BrowserCase):
    demo = False

    def test_a_new_household_sets_up_adds_an_outlet_and_gets_a_verdict(self) -> None:
        page = self.open("/garage", PHONE)
        self.three_steps(page)
        page.goto(self.server.address + "/garage")
        page.get_by_role("link", name="household socket").click()
        page.get_by_label("Breaker").fill("five")
        page.get_by_role("button", name="Keep").click()
        page.get_by_text("“five” will not do").wait_for()
        page.get_by_label("Breaker").fill("16")
        page.get_by_role("button", name="Keep").click()
        page.get_by_role("heading", name="Household socket", exact=True).wait_for()
        page.get_by_role("link", name="Outlets bench").click()
        page.locator("#verdict").wait_for()
        self.assertIn("is enough", page.locator("#verdict").inner_text())
        page.get_by_role("link", name="Compare").click()
        page.locator("#verdict").get_by_text("Stay with").wait_for()
        page.get_by_text("All numbers, and where they come from").click()
        self.assertIn("typical monthly figures", page.locator("main").inner_text())
        page.get_by_role("link", name="Cars and parts").click()
        page.get_by_role("link", name="Add a car").click()
        page.get_by_role("button", name="Small van").click()
        page.get_by_label("What do you call it?").fill("Sled")
        page.get_by_role("button", name="Keep", exact=True).click()
        page.get_by_role("heading", name="Sled", exact=True).wait_for()
        self.assertIn("It has no outlet yet.", page.locator("main").inner_text())
        page.get_by_role("link", name="Its outlet and usual day").last.click()
        page.get_by_label("Plugged into").select_option(label="Household socket")
        page.get_by_role("button", name="Keep", exact=True).click()
        page.get_by_text("On “Household socket”: 10 A, held by the lead.").wait_for()
