"""`make screenshots`: renew docs/screenshots from the demo household and from an empty one."""

from pathlib import Path
from typing import Any, cast

from playwright.sync_api import Page, sync_playwright

from tests.browser.page import CHROMIUM, DESK, FLAGS, PHONE, Server

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


def keep(page: Page, name: str, whole: bool = False) -> None:
    """Wait for fonts and keep the picture."""
    page.evaluate("() => document.fonts.ready")
    page.wait_for_timeout(300)
    page.screenshot(path=FOLDER / f"{name}.png", full_page=whole)
    print(f"docs/screenshots/{name}.png")


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    demo, empty = Server(True, 2), Server(False)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)

        def visit(address: str, size: tuple[int, int], scheme: str = "light") -> Page:
            page = browser.new_context(
                viewport={"width": size[0], "height": size[1]}, color_scheme=cast(Any, scheme), timezone_id="Europe/Oslo"
            ).new_page()
            page.goto(address)
            return page

        keep(visit(demo.address + "/tonight", DESK), "tonight")
        keep(visit(demo.address + "/tonight?car=2", DESK, "dark"), "tonight-dark")
        keep(visit(demo.address + "/tonight", (PHONE[0], 1880)), "tonight-phone")
        why = visit(demo.address + "/tonight", DESK)
        for summary in why.locator("#why summary").all():
            summary.click()
        keep(why, "tonight-why", whole=True)
        keep(visit(demo.address + "/day", (DESK[0], 1500)), "day")
        keep(visit(demo.address + "/day", (PHONE[0], 2000)), "day-phone")
        keep(visit(demo.address + "/day/tyres?car=2", DESK), "tyres")
        printed = visit(demo.address + "/day", (1000, 700))
        printed.emulate_media(media="print")
        keep(printed, "day-printed")
        keep(visit(demo.address + "/warm-up?km=90", (DESK[0], 1280)), "warm-up")
        keep(visit(demo.address + "/warm-up?km=90", (PHONE[0], 2100)), "warm-up-phone")
        keep(visit(demo.address + "/basis", DESK), "basis")
        keep(visit(demo.address + "/garage", DESK), "garage")
        for name, path in (("outlets", "outlets?now=1"), ("tariff-week", "tariffs/2"), ("compare", "compare?now=1")):
            keep(visit(f"{demo.address}/garage/{path}", DESK), name)
            keep(visit(f"{demo.address}/garage/{path}", (PHONE[0], 1700)), f"{name}-phone")
        keep(visit(empty.address + "/setup/car?preset=compact_hatch", DESK), "setup-car")
        browser.close()
    demo.stop()
    empty.stop()


if __name__ == "__main__":
    main()
