"""Every page: axe once, the colours of both lights, and nothing sideways at any width. Source: WCAG 2.2, levels A and AA."""

from frost_tally.web.app import PAGES as ROOM_PAGES
from tests.browser.page import PHONE, BrowserCase

WIDTHS = ((360, 780), PHONE, (1280, 800), (1600, 1000))
LISTED = (
    "/tonight",
    "/tonight?limit=999",
    "/week",
    "/day?day=long",
    "/day?day=errand&out_c=-90",
    "/day/tyres",
    "/day/long?way=1",
    "/day/long?km=x",
    "/day/long/way?way=1",
    "/day/long/side?now=1",
    "/day/long/weekly?now=1",
    "/tonight/timer?now=1",
    "/day/matters",
    "/warm-up",
    "/warm-up?km=2&show=late",
    "/warm-up?km=90&plugged=no",
    "/battery",
    "/battery/guide",
    "/battery/schools?limit=0",
    "/battery/report",
    "/battery/used?figure=88&soc_from=92&soc_to=38&kwh=27",
    "/parked?days=0&plugged=yes",
    "/parked/season",
    "/parked/twelve-volt",
    "/parked/washer?strength=x",
    "/parked/frozen",
    "/garage",
    "/garage/outlets?now=1&outlet=1&outlet=2",
    "/garage/tariffs",
    "/garage/tariffs/2",
    "/garage/tariffs/new?shape=winter",
    "/garage/compare?now=1",
    "/garage/house",
    "/garage/papers/electrician?run_m=20",
    "/garage/papers/utility",
    "/garage/papers/reach?other=nose",
    "/garage/edit/car/1",
    "/garage/edit/day/1",
    "/garage/edit/outlet/new?offer=household",
    "/garage/edit/place/1",
    "/garage/edit/person/new",
    "/log",
    "/log?kind=charge&order=most",
    "/log/new",
    "/log/new/charge",
    "/log/drive/1",
    "/log/doubts",
    "/log/month?month=2027-01",
    "/log/year",
    "/log/learnt",
    "/log/import",
    "/log/data",
    "/setup/car",
    "/setup/outlet",
    "/setup/place",
    "/basis",
    "/basis?find=tyre",
    "/nowhere",
)
PAGES = (*LISTED, *(path for path in ROOM_PAGES if path not in {each.partition("?")[0] for each in (*LISTED, "/setup")}))

OPENED = "() => document.querySelectorAll('details').forEach(each => { each.removeAttribute('name'); each.open = true; })"
"""All that is folded is opened, also what is shown one at a time."""


class EveryPage(BrowserCase):
    def test_no_violations_in_either_light_and_nothing_sideways(self) -> None:
        page = self.open("/tonight", PHONE)
        for path in PAGES:
            with self.subTest(path=path):
                page.set_viewport_size({"width": PHONE[0], "height": PHONE[1]})
                page.emulate_media(color_scheme="light", reduced_motion="reduce")
                page.goto(self.server.address + path, timeout=40_000)  # a year is planned on its first look
                page.locator("[data-go]").wait_for(state="detached", timeout=40_000)  # what takes a moment goes on by itself
                page.evaluate(OPENED)
                self.assert_accessible(page)
                for width, height in WIDTHS:
                    page.set_viewport_size({"width": width, "height": height})
                    self.assert_nothing_sideways(page)
                page.emulate_media(color_scheme="dark", reduced_motion="reduce")
                self.assertEqual(self.violations(page, ["color-contrast"]), [])
        self.said.clear()
