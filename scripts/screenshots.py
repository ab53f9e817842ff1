"""`make screenshots`: renew docs/screenshots from the demo household."""

from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path
from typing import Any, cast

from playwright.sync_api import Page, sync_playwright

from frost_tally.standins.charge_point.garage import Act
from tests.browser.page import CHROMIUM, DESK, FLAGS, NO_HINT, PHONE, Server
from tests.live.garage import LiveCase

FOLDER = Path(__file__).resolve().parents[1] / "docs" / "screenshots"


def keep(page: Page, name: str, whole: bool = False) -> None:
    """Wait for fonts and keep the picture."""
    page.evaluate("() => document.fonts.ready")
    page.wait_for_timeout(300)
    page.screenshot(path=FOLDER / f"{name}.png", full_page=whole)
    print(f"docs/screenshots/{name}.png")


def main() -> None:
    FOLDER.mkdir(parents=True, exist_ok=True)
    demo = Server(True, 2)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)

        def visit(address: str, size: tuple[int, int], scheme: str = "light") -> Page:
            context = browser.new_context(
                viewport={"width": size[0], "height": size[1]}, color_scheme=cast(Any, scheme), timezone_id="Europe/Oslo"
            )
            context.add_init_script(NO_HINT)
            page = context.new_page()
            page.goto(address)
            return page

        keep(visit(demo.address + "/tonight", DESK), "tonight")
        keep(visit(demo.address + "/tonight?control=timer&held_from=22:00&held_until=02:30", DESK, "dark"), "tonight-dark")
        keep(visit(demo.address + "/week", (DESK[0], 1340)), "week")
        keep(visit(demo.address + "/tonight", (PHONE[0], 1880)), "tonight-phone")
        fails = "kind_1=asleep&at_1=02:00&minutes_1=300&kind_2=less_current&at_2=04:40&minutes_2=200"
        keep(visit(f"{demo.address}/tonight/replay?{fails}", (DESK[0], 1140)), "replay")
        keep(visit(demo.address + "/day", (DESK[0], 1500)), "day")
        keep(visit(demo.address + "/day/long?way=1", (DESK[0], 1090)), "long-day")
        keep(visit(demo.address + "/warm-up?km=90", (DESK[0], 1280)), "warm-up")
        keep(visit(demo.address + "/battery", DESK), "battery")
        keep(visit(demo.address + "/battery/schools", DESK), "schools")
        keep(visit(demo.address + "/parked?cameras=day&charger_km=14&soc=80", DESK), "parked")
        keep(visit(demo.address + "/parked/season", PHONE), "season-phone")
        for name, path in (("outlets", "outlets?now=1"), ("tariff-week", "tariffs/2")):
            keep(visit(f"{demo.address}/garage/{path}", DESK), name)
        sayings = visit(demo.address + "/basis/sayings?now=1", (DESK[0], 1640))
        sayings.locator("#heat_or_speed summary").click()
        keep(sayings, "sayings")
        demo.household.world.clock.set(demo.household.world.clock.now() + timedelta(hours=12, minutes=28))  # type: ignore[attr-defined]
        keep(visit(demo.address + "/tonight", PHONE), "morning-phone")
        keep(visit(demo.address + "/log/new", PHONE), "log-phone")
        keep(visit(demo.address + "/log/month?month=2026-12", DESK), "month")
        with under_way() as address:
            keep(visit(f"{address}/tonight", DESK), "live")
        browser.close()
    demo.stop()


@contextmanager
def under_way() -> Iterator[str]:
    """The demo in the middle of a night at its charge point: the car does not take what it is offered."""
    case = LiveCase()
    case.setUp()
    try:
        wire = case.wire()
        case.pass_until("19:10", wire)
        case.do(wire, Act.PLUG, case.guest(limit=0.8))
        case.pass_until("04:35", wire)
        case.do(wire, Act.REFUSE)
        case.pass_until("05:10", wire)
        yield f"http://127.0.0.1:{case.port}"
    finally:
        case.doCleanups()


if __name__ == "__main__":
    main()
