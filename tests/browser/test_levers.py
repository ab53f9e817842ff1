"""Levers in Chromium: Enter shows, leaving says what is not kept, the verdict stays in sight, what is kept stays kept."""

from playwright.sync_api import Page

from tests.browser.page import DESK, PHONE, BrowserCase


class Levers(BrowserCase):
    def test_enter_shows_and_does_not_keep(self) -> None:
        page = self.open("/tonight")
        limit = page.get_by_label("Limit", exact=True)
        self.settled(page, lambda: limit.fill("90"))
        limit.press("Enter")
        page.evaluate("() => new Promise((go) => requestIdleCallback(go))")
        self.assertEqual(page.get_by_text("Kept for this night").count(), 0)
        self.assertIn("limit=90", page.url)
        self.assertNotIn("token", page.url)
        page.reload()
        self.assertEqual(limit.input_value(), "90")

    def test_the_window_that_turns_shows_the_pulled_levers_too(self) -> None:
        page = self.open("/tonight")
        self.settled(page, lambda: page.get_by_label("Limit", exact=True).fill("67"))
        self.assertIn("limit 67", page.locator("svg.ribbon-wide").get_attribute("aria-label") or "")
        page.set_viewport_size({"width": PHONE[0], "height": PHONE[1]})
        page.locator("svg.ribbon-upright").wait_for()
        self.assertIn("limit 67", page.locator("svg.ribbon-upright").get_attribute("aria-label") or "")

    def test_leaving_says_what_is_not_kept_and_leads_back(self) -> None:
        page = self.open("/tonight")
        self.settled(page, lambda: page.get_by_label("Tomorrow", exact=True).fill("150"))
        page.get_by_role("link", name="Garage").click()
        page.get_by_text("Tonight: levers pulled and not kept (Tomorrow 150)").wait_for()
        self.assert_accessible(page)
        page.get_by_role("link", name="Back to them").click()
        self.assertEqual(page.get_by_label("Tomorrow", exact=True).input_value(), "150")
        page.get_by_role("button", name="Keep for tonight").click()
        page.get_by_text("Kept for this night").wait_for()
        page.goto(self.server.address + "/garage")
        self.assertEqual(page.get_by_text("not kept").count(), 0)
        page.goto(self.server.address + "/tonight")
        self.assertEqual(page.get_by_label("Tomorrow", exact=True).input_value(), "150")
        page.get_by_role("button", name="Put it back").click()
        page.get_by_text("Back to the usual evening").wait_for()
        self.assertEqual(page.get_by_label("Tomorrow", exact=True).input_value(), "112")

    def test_the_verdict_stays_in_sight_on_a_phone_while_a_lever_moves(self) -> None:
        for path, field in (("/tonight", "Limit"), ("/day", "Leaving with"), ("/warm-up", "One way")):
            page = self.open(path, PHONE)
            slider = page.get_by_label(f"{field} slider")
            slider.scroll_into_view_if_needed()
            before = page.locator(".in-sight").inner_text()
            self.settled(page, lambda slider=slider, path=path: slider.fill("4" if path == "/warm-up" else "62"))
            self.assertNotEqual(page.locator(".in-sight").inner_text(), before)
            box = page.locator(".in-sight").bounding_box()
            assert box
            self.assertTrue(box["y"] >= 0 and box["y"] + box["height"] < PHONE[1], path)
            page.context.close()
        self.assertFalse(self.open("/tonight", DESK).locator(".in-sight").is_visible())

    def test_a_fault_is_dropped_on_the_night_and_moved_by_hand(self) -> None:
        for size, ribbon in ((DESK, "svg.ribbon-wide"), (PHONE, "svg.ribbon-upright")):
            with self.subTest(ribbon):
                self.drop_and_move(self.open("/tonight/replay", size), ribbon)

    def drop_and_move(self, page: Page, ribbon: str) -> None:
        sky = page.locator(f"{ribbon} [data-drop]")
        sky.scroll_into_view_if_needed()
        place = sky.bounding_box()
        assert place
        middle = place["x"] + place["width"] / 2
        self.settled(page, lambda: page.mouse.click(middle, place["y"] + place["height"] / 2))
        self.assertEqual(page.get_by_label("First fault").input_value(), "power_cut")
        at = page.get_by_label("at", exact=True).first
        dropped = at.input_value()
        grip = page.locator(f"{ribbon} [data-handle=at_1]").bounding_box()
        assert grip
        x, y = grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2
        self.assertLess(abs(x - middle), 4)
        page.mouse.move(x, y)
        page.mouse.down()
        self.settled(page, lambda: page.mouse.move(x + place["width"] / 4, y, steps=4))
        page.mouse.up()
        self.assertNotEqual(at.input_value(), dropped)
        page.context.close()

    def test_a_bad_lever_is_named_and_the_good_ones_move_the_picture(self) -> None:
        page = self.open("/tonight")
        outcome = page.locator("#outcome").inner_text()
        with page.expect_response(lambda answer: answer.status == 422):
            page.get_by_label("Tyres", exact=True).fill("soft")
        page.locator("#l-tyre_kpa-error").get_by_text("100 to 550 kPa").wait_for()
        with page.expect_response(lambda answer: answer.status == 422):
            page.get_by_label("Tomorrow", exact=True).fill("60")
        page.wait_for_function("before => document.getElementById('outcome').innerText !== before", arg=outcome)
        self.assertIn("60", page.locator("#outcome").inner_text())
        self.said.clear()

    def test_a_page_that_nobody_touched_for_an_hour_is_fetched_anew_unless_something_was_typed(self) -> None:
        page = self.open("/log")
        page.clock.install()
        for typed in (False, True):
            page.goto(self.server.address + "/day/tyres")
            page.evaluate("document.body.dataset.old = 'yes'")
            old = "() => document.body.dataset.old === undefined"
            if typed:
                page.locator("[name=FL]").fill("240")
            page.clock.fast_forward("59:00")
            self.assertFalse(page.evaluate(old))
            if typed:
                page.clock.fast_forward("01:03:00")
                self.assertEqual((page.evaluate(old), page.locator("[name=FL]").input_value()), (False, "240"))
            else:
                with page.expect_navigation():
                    page.clock.fast_forward("03:00")
                page.wait_for_function(old)


class SetUpUndone(BrowserCase):
    demo = False

    def test_a_step_of_setting_up_is_taken_back(self) -> None:
        page = self.open("/")
        page.get_by_label("What do you call it?").fill("Birch")
        page.get_by_role("button", name="Keep and go on").click()
        page.get_by_text("The car kept.").wait_for()
        page.get_by_role("button", name="Undo").click()
        page.get_by_text("Taken back: The car kept.").wait_for()
        self.assertIn("/setup/car", page.url)
        self.assertEqual(page.get_by_label("What do you call it?").input_value(), "Compact hatch")
