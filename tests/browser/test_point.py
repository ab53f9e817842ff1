"""Tonight beside its charge point: what the point tells comes by itself, and by reload where there are no scripts."""

from datetime import timedelta

from frost_tally.standins.charge_point.garage import Act
from tests.browser.page import chromium
from tests.live.garage import LiveCase


class Live(LiveCase):
    """A page that is open while a point speaks."""

    def test_a_page_follows_its_point(self) -> None:
        page = chromium().new_context(timezone_id="Europe/Oslo", viewport={"width": 1280, "height": 800}).new_page()
        self.addCleanup(page.context.close)
        said: list[str] = []
        page.on("pageerror", lambda error: said.append(str(error)))
        page.on("console", lambda message: said.append(message.text) if message.type == "error" else None)
        wire = self.wire()
        self.look(wire)
        plain = chromium().new_context(java_script_enabled=False).new_page()
        self.addCleanup(plain.context.close)
        address = f"http://127.0.0.1:{self.port}/tonight"
        page.goto(address)
        stands = page.locator("#point-stands")
        self.assertIn("no cable is in", stands.inner_text())
        self.do(wire, Act.PLUG, self.guest(limit=0.8))
        page.locator("#point-stands", has_text="it waits").wait_for()
        page.locator("#course summary").click()
        self.clock.at += timedelta(hours=8)
        self.pass_until("04:00", wire)
        page.locator("#point-stands", has_text="it draws").wait_for()
        self.assertTrue(page.locator("#course").evaluate("each => each.open"))  # what was opened stays open
        plain.goto(address)
        self.assertIn("it draws", plain.locator("#point-stands").inner_text())
        self.assertEqual(said, [])
