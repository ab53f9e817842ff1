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


def previewed(page: Page) -> Page:
    """A file of entries, looked at before it is taken over: some are new, one is changed, one cannot be."""
    file = {"name": "december.csv", "mimeType": "text/csv", "buffer": DECEMBER.encode()}
    page.locator("input[type=file]").set_input_files(cast(Any, file))
    page.get_by_role("button", name="Look at it first").click()
    page.wait_for_url("**/log/import/*")
    return page


DECEMBER = (
    "car,begun_at [ISO 8601],ended_at [ISO 8601],site,place,soc_start [%],soc_end [%],wall_kwh [kWh],cost [money]\n"
    "Dray,2026-12-27T11:10:00+01:00,2026-12-27T11:52:00+01:00,fast,Post at the ferry,22,70,38.9,22.95\n"
    "Dray,2026-12-28T12:00:00+01:00,2026-12-28T13:30:00+01:00,elsewhere,Market hall,48,61,10.6,\n"
    "Dray,2026-12-29T12:00:00+01:00,2026-12-29T11:30:00+01:00,elsewhere,Market hall,50,66,12.9,\n"
    "Otter,2026-12-30T12:00:00+01:00,2026-12-30T13:30:00+01:00,elsewhere,Market hall,50,66,12.9,\n"
)


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
        keep(visit(demo.address + "/day", (DESK[0], 1500)), "day")
        keep(visit(demo.address + "/day", (PHONE[0], 2000)), "day-phone")
        keep(visit(demo.address + "/day/tyres?car=2", DESK), "tyres")
        keep(visit(demo.address + "/warm-up?km=90", (DESK[0], 1280)), "warm-up")
        keep(visit(demo.address + "/warm-up?km=90", (PHONE[0], 2100)), "warm-up-phone")
        keep(visit(demo.address + "/basis", DESK), "basis")
        keep(visit(demo.address + "/garage", DESK), "garage")
        for name, path in (("outlets", "outlets?now=1"), ("tariff-week", "tariffs/2"), ("compare", "compare?now=1")):
            keep(visit(f"{demo.address}/garage/{path}", DESK), name)
        keep(visit(f"{demo.address}/garage/outlets?now=1", (PHONE[0], 1700)), "outlets-phone")
        keep(visit(demo.address + "/log", DESK), "log")
        keep(visit(demo.address + "/log/new", PHONE), "log-phone")
        keep(visit(demo.address + "/log/month?month=2026-12", DESK), "month")
        keep(previewed(visit(demo.address + "/log/import", DESK)), "import")
        keep(visit(empty.address + "/setup/car?preset=compact_hatch", DESK), "setup-car")
        browser.close()
    demo.stop()
    empty.stop()


if __name__ == "__main__":
    main()
