"""The whole story in Chromium: by mouse and by keyboard, on a desk and on a phone, light and dark."""

import re
import time
from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

from playwright.sync_api import Page

from tests.browser.page import DESK, PHONE, BrowserCase


def arrival(said: str) -> int:
    """The likely arrival level in a verdict."""
    found = re.search(r"leave you (\d+)", said)
    assert found, said
    return int(found[1])


class Demo(BrowserCase):
    def test_by_mouse_on_a_desk_and_on_a_phone(self) -> None:
        for size, scheme, kind in ((DESK, "light", "wide"), (PHONE, "dark", "upright")):
            with self.subTest(size=size):
                self.afresh()
                self.walk_by_mouse(self.open(size=size, scheme=scheme), f".ribbon-{kind}", f".stair-{kind}")

    def walk_by_mouse(self, page: Page, ribbon_at: str, stair_at: str) -> None:
        first = page.locator("#verdict").inner_text()
        self.assertRegex(first, r"Plug in before bed\. Charging \d\d:\d\d–\d\d:\d\d to 80.%, warm-up at \d\d:\d\d\.")
        start = arrival(page.locator("#outcome").inner_text())
        ribbon = page.locator(ribbon_at).inner_html()
        at_90 = self.settled(page, lambda: page.get_by_label("Limit slider").fill("90"))
        self.assertIn("90", at_90)
        self.assertGreater(arrival(at_90), start)
        self.assertNotEqual(page.locator(ribbon_at).inner_html(), ribbon)
        farther = self.settled(page, lambda: page.get_by_label("Tomorrow", exact=True).fill("152"))
        self.assertLess(arrival(farther), arrival(at_90))
        stair = page.locator(stair_at).get_attribute("aria-label")
        self.settled(page, lambda: page.get_by_label("Tyres", exact=True).fill("220"))
        self.assertNotEqual(page.locator(stair_at).get_attribute("aria-label"), stair)
        slower = self.settled(page, lambda: page.get_by_label("Motorway", exact=True).fill("100"))
        self.assertGreaterEqual(arrival(slower), arrival(farther))
        sooner = self.settled(page, lambda: page.get_by_label("Departs").fill("06:30"))
        self.assertIn("06:30", page.locator(ribbon_at).inner_html())
        self.assertNotEqual(sooner, slower)
        page.get_by_role("button", name="Keep for tonight").click()
        self.assertIn("Kept for tonight", page.get_by_role("status").inner_text())
        page.get_by_role("button", name="Move on to the morning").click()
        page.get_by_label("Level when you left").fill("90")
        page.get_by_label("Level when you came home").fill("22")
        page.get_by_role("button", name="Note it").click()
        row = page.locator("#facts tbody tr").first
        row.get_by_text("22").wait_for()
        self.assertIn("the band", row.inner_text())

    def test_by_keyboard_on_a_desk_and_on_a_phone(self) -> None:
        for size, scheme in ((DESK, "dark"), (PHONE, "light")):
            with self.subTest(size=size):
                self.afresh()
                self.walk_by_keyboard(self.open(size=size, scheme=scheme))

    def walk_by_keyboard(self, page: Page) -> None:
        page.keyboard.press("8")
        page.wait_for_url("**/garage")
        page.keyboard.press("1")
        page.wait_for_url("**/tonight")
        slider = page.get_by_label("Limit slider")
        slider.focus()
        for _ in range(9):
            page.keyboard.press("ArrowRight")
        said = self.settled(page, lambda: page.keyboard.press("ArrowRight"))
        self.assertIn("90", said)
        page.get_by_role("button", name="Keep for tonight").focus()
        page.keyboard.press("Enter")
        page.get_by_text("Kept for this night").wait_for()
        page.get_by_role("button", name="Undo").focus()
        page.keyboard.press("Enter")
        page.get_by_text("Kept for this night").wait_for(state="detached")
        page.get_by_text("Taken back: Kept for tonight").wait_for()
        page.keyboard.press("c")
        page.wait_for_url("**car=2")
        self.assertIn("Dray", page.locator(".cars .active").inner_text())

    def test_the_handles_on_the_ribbon_move_what_they_stand_for_lying_and_standing(self) -> None:
        held = "/tonight?limit=85&held_from=21:00&held_until=01:30"
        for size, shape, across, down in ((DESK, "wide", 1, 0), (PHONE, "upright", 0, 1)):
            page = self.open(held, size)
            for handle, way in (
                ("limit", (12 * down, -12 * across)),
                ("depart", (-60 * across, -20 * down)),
                ("plug_in", (90 * across, 30 * down)),
                ("held_from", (-40 * across, -20 * down)),
                ("held_until", (-40 * across, -20 * down)),
            ):
                grip = page.locator(f".ribbon-{shape} [data-handle={handle}]")
                grip.evaluate("each => each.scrollIntoView({block: 'center'})")
                box = grip.bounding_box()
                assert box
                x, y = box["x"] + min(box["width"] / 2, 13), box["y"] + min(box["height"] / 2, 12)
                field = page.locator(f"#l-{handle}")
                before = field.input_value()
                page.mouse.move(x, y)
                page.mouse.down()
                self.settled(page, lambda x=x, y=y, way=way, page=page: page.mouse.move(x + way[0], y + way[1], steps=4))
                page.mouse.up()
                self.assertNotEqual(field.input_value(), before, (shape, handle))
            page.context.close()

    def test_every_evening_is_kept_by_itself_once_and_undone_it_stays_so(self) -> None:
        page = self.open(size=PHONE, touch=True)
        page.get_by_role("button", name="and every evening’s").tap()
        page.get_by_text("Kept for this night").wait_for()
        page.get_by_role("button", name="Put it back").tap()  # the next visit keeps it again
        page.get_by_text("Kept for this night").wait_for()
        page.get_by_role("button", name="Undo").tap()
        page.get_by_role("button", name="Keep this plan").wait_for()
        page.reload()
        self.assertTrue(page.get_by_role("button", name="Keep this plan").is_visible())

    def test_on_a_phone_by_touch(self) -> None:
        page = self.open(size=PHONE, scheme="dark", touch=True)
        self.assertTrue(page.locator(".ribbon-upright").is_visible())
        self.assertFalse(page.locator(".ribbon-wide").is_visible())
        before = arrival(page.locator("#outcome").inner_text())
        self.assertGreater(arrival(self.settled(page, lambda: page.get_by_label("Limit", exact=True).fill("95"))), before)
        page.get_by_role("button", name="Keep for tonight").tap()
        page.get_by_text("Kept for this night").wait_for()

    def test_a_wrong_lever_is_said_beside_it_and_the_picture_stays(self) -> None:
        page = self.open()
        ribbon = page.locator(".ribbon-wide").inner_html()
        with page.expect_response(lambda answer: answer.status == 422):
            page.get_by_label("Tomorrow", exact=True).fill("0")
        said = page.locator("#l-km-error")
        said.get_by_text("1 to 1500 km").wait_for()
        self.assertEqual(page.get_by_label("Tomorrow", exact=True).input_value(), "0")
        self.assertEqual(page.locator(".ribbon-wide").inner_html(), ribbon)
        self.settled(page, lambda: page.get_by_label("Tomorrow", exact=True).fill("112"))
        self.assertEqual(said.inner_text(), "")

    def test_without_scripts_the_levers_still_work(self) -> None:
        context = self.browser.new_context(java_script_enabled=False)
        self.addCleanup(context.close)
        page = context.new_page()
        page.goto(self.server.address + "/tonight")
        page.locator("#l-limit").fill("90")
        page.get_by_role("button", name="Show it for these levers").last.click()
        self.assertIn("90", page.locator("#verdict").inner_text())


class Empty(BrowserCase):
    demo = False

    def test_three_short_steps_and_tonight_works(self) -> None:
        for size, scheme in ((DESK, "light"), (PHONE, "dark")):
            self.afresh()
            page = self.open("/", size, scheme)
            page.get_by_role("button", name="Family saloon").click()
            page.get_by_label("What do you call it?").fill("Birch")
            page.get_by_label("Usable capacity when new").fill("sixty")
            page.get_by_label("AC charging power").fill("900 kW")
            page.get_by_role("button", name="Keep and go on").click()
            page.get_by_text("“sixty” will not do").wait_for()
            self.assertIn(
                "2 fields below will not do: Usable capacity when new, AC charging power.", page.get_by_role("alert").inner_text()
            )
            self.assertEqual(page.get_by_label("What do you call it?").input_value(), "Birch")
            page.get_by_label("Usable capacity when new").fill("60")
            page.get_by_label("AC charging power").fill("11 kW")
            page.get_by_role("button", name="Keep and go on").click()
            page.get_by_label("Breaker").fill("5")
            page.get_by_label("Cheap until").fill("06:10")
            page.get_by_role("button", name="Keep and go on").click()
            page.get_by_text("6 to 125 A").wait_for()
            page.get_by_text("quarter hours").wait_for()
            page.get_by_label("Breaker").fill("32")
            page.get_by_label("Cheap until").fill("06:00")
            page.get_by_role("button", name="Keep and go on").click()
            page.get_by_text("Place, motorway").click()
            self.assertEqual(page.get_by_label("Time zone").input_value(), "Europe/Oslo")
            page.get_by_label("Low by morning").fill("-60")
            page.get_by_role("button", name="Keep and see tonight").click()
            page.get_by_text("−45 to 45 °C").first.wait_for()
            page.get_by_label("Low by morning").fill("-12")
            now = datetime.now(ZoneInfo("Europe/Oslo"))
            page.get_by_text("Place, motorway").click()
            page.locator("[name=plug_in]").fill(f"{now:%H:%M}")
            page.locator("[name=depart]").fill(f"{now + timedelta(hours=12):%H:%M}")
            page.get_by_role("button", name="Keep and see tonight").click()
            page.wait_for_url("**/tonight?undo=3.*")
            self.assertRegex(page.locator("#verdict").inner_text(), r"Charging .* to 80.%")
            self.assert_accessible(page)
            self.assertEqual(page.locator(".cars .active").inner_text(), "Birch")

    def test_in_miles_on_a_phone_the_first_verdict_takes_fifteen_fields_at_most(self) -> None:
        """Units come from the language; one tap changes them with everything that was typed; a class keeps what was typed."""
        page = self.open("/", PHONE, touch=True, locale="en-US")
        begun, touched = time.monotonic(), 0

        def fill(label: str, text: str) -> None:
            nonlocal touched
            touched += 1
            page.get_by_label(re.compile(f"^{label}")).fill(text)

        def tap(name: str) -> None:
            page.get_by_role("button", name=name, exact=True).tap()
            page.wait_for_function("() => !Number(document.querySelector('form.setup').dataset.waiting || 0)")

        fill("Usable capacity when new", "61")
        tap("Tall family car")
        self.assertEqual(
            (page.locator("#f-usable_kwh_new").input_value(), page.locator("#f-ac_limit_kw").input_value()), ("61", "11")
        )
        page.get_by_text("Own numbers for the rest").tap()
        for tapped, mass, placard in (
            ("Miles, °F", "4960.4 lb", "39.2 psi"),
            ("Kilometres, °C", "2250 kg", "270 kPa"),
            ("Miles, °F", "4960.4 lb", "39.2 psi"),
        ):
            tap(tapped)
            shown = [
                f"{page.locator(f'#f-{each}').input_value()} {page.locator(f'label[for=f-{each}] span').inner_text()}"
                for each in ("mass_kg", "placard_kpa")
            ]
            self.assertEqual(shown, [mass, placard])
        page.get_by_role("button", name="Keep and go on").tap()
        tap("Dryer outlet")
        self.assertIn("24 A, held by the code rule", page.locator("[data-part=result]").inner_text())
        fill("Breaker", "25 amps")
        page.locator("[data-part=result]").get_by_text("20 A, held by the code rule").wait_for()
        self.assertIn("4.8\u00a0kW at the wall", page.locator("[data-part=result]").inner_text())
        for label, text in (
            ("Cheap price", "$0.11"),
            ("Cheap from", "10 pm"),
            ("Cheap until", "6:00 am"),
            ("Dear price", "29 c"),
        ):
            fill(label, text)
        page.get_by_role("button", name="Keep and go on").tap()
        leaves = datetime.now(ZoneInfo("America/New_York")) + timedelta(hours=12)
        for label, text in (("You leave at", f"{leaves:%I:%M %p}"), ("Town", "28 miles"), ("Country road", "0"), ("Motorway", "1,150"),
                            ("Level now", "62 %"), ("Outside now", "18"), ("Low by morning", "3 °F")):  # fmt: skip
            fill(label, text)
        page.get_by_role("button", name="Keep and see tonight").tap()
        page.get_by_text("enter a number from 0 to 620 mi, such as 12 mi.").wait_for()
        page.get_by_label(re.compile("^Motorway")).fill("12")
        page.get_by_role("button", name="Keep and see tonight").tap()
        page.wait_for_url("**/tonight?undo=3.*")
        self.assertRegex(page.locator("#verdict").inner_text(), r"\d\s(am|pm)")
        self.assertLessEqual(touched, 15)
        self.assertLess(time.monotonic() - begun, 120)
        page.goto(self.server.address + "/setup/place")
        self.assertEqual(
            [page.locator(f"#f-{each}").input_value() for each in ("town_km", "motorway_km", "out_now_c", "out_low_c")],
            ["28", "12", "18", "3"],
        )
        self.assert_accessible(page)

    def test_in_norwegian_decimals_have_a_comma_and_money_is_kroner(self) -> None:
        page = self.open("/", locale="nb-NO")
        page.get_by_role("button", name="Keep and go on").click()
        self.assertEqual(page.locator("#f-cheap_price").input_value(), "1,4")
        self.assertIn("11,0 kW at the wall", page.locator("[data-part=result]").inner_text().replace("\u00a0", " "))
        page.get_by_label("Cheap price").fill("kr 0,95")
        page.get_by_label("Dear price").fill("1.150,5 kr")
        page.get_by_role("button", name="Keep and go on").click()
        page.get_by_text("enter a number from 0 to 20 NOK/kWh, such as NOK 0,21.").wait_for()
        page.get_by_label("Dear price").fill("€2")
        page.get_by_role("button", name="Keep and go on").click()
        page.get_by_text("“€2” will not do").wait_for()
        page.get_by_label("Dear price").fill("190 øre")
        page.get_by_role("button", name="Keep and go on").click()
        page.get_by_role("heading", name="Your usual day").wait_for()
