"""On a phone without a network: the last plan with its age, and a quick entry that is kept and sent once."""

from playwright.sync_api import Page
from sqlalchemy import select

from frost_tally.access.door import Access, Right
from frost_tally.household.models import ReadingRow
from frost_tally.web.app import create_app
from tests.browser.page import PHONE, BrowserCase, _served
from tests.homes import tables

READY = "() => navigator.serviceWorker.ready.then(() => new Promise(done => navigator.serviceWorker.controller ? done() : navigator.serviceWorker.addEventListener('controllerchange', done)))"


class Offline(BrowserCase):
    def phone(self) -> Page:
        page = self.open("/tonight", PHONE, touch=True, hinted=True)
        page.locator("#install").get_by_role("button", name="Close").or_(page.get_by_role("button", name="Add it")).tap()
        page.evaluate(READY)
        for path in ("/log/new", "/tonight"):
            page.goto(self.server.address + path)
            page.wait_for_load_state("networkidle")
        return page

    def levels(self) -> list[tuple[float, str]]:
        with tables(self.server.household) as session:
            return [(row.value, row.kind) for row in session.scalars(select(ReadingRow).where(ReadingRow.kind == "level"))]

    def test_the_last_plan_and_an_entry_that_is_kept_and_sent_once(self) -> None:
        page = self.phone()
        verdict, before = page.locator("#verdict").inner_text(), self.levels()
        page.context.set_offline(True)
        page.goto(self.server.address + "/tonight")
        self.assertEqual(page.locator("#verdict").inner_text(), verdict)
        self.assertEqual(page.locator("#install").count(), 0)  # it is said once
        self.assertIn("No network", page.locator("#offline").inner_text())
        self.assert_accessible(page)
        page.goto(self.server.address + "/battery")
        self.assertIn("the plan as it was", page.locator("#offline").inner_text())
        page.goto(self.server.address + "/log/new")
        page.locator("input[name=soc]").fill("37")
        page.get_by_role("button", name="Done").tap()
        page.get_by_text("Your entry is kept on this phone").wait_for()
        self.assertEqual(self.levels(), before)
        self.said.clear()
        page.context.set_offline(False)
        page.locator("#sent").wait_for()
        self.assertIn((0.37, "level"), self.levels())
        self.assertEqual(len(self.levels()), len(before) + 1)
        page.goto(self.server.address + "/tonight")
        page.wait_for_load_state("networkidle")
        self.assertEqual((len(self.levels()), page.locator("#install").count()), (len(before) + 1, 0))


class PutOut(BrowserCase):
    def test_a_phone_is_paired_by_words_and_forgets_the_plan_when_it_is_put_out(self) -> None:
        access = Access(self.server.settings.access)
        access.add("Ida", "copper kettle under snow", Right.OWNER)
        self.server.address = _served(create_app(self.server.settings, self.server.household, access))
        desk = self.open("/garage/people")
        desk.get_by_label("Name", exact=True).fill("Ida")
        desk.get_by_label("Pass phrase").fill("copper kettle under snow")
        desk.get_by_role("button", name="Sign in").click()
        desk.get_by_role("button", name="Pair a phone").click()
        words = desk.locator("b.fs-4").inner_text()
        self.assert_accessible(desk)
        phone = self.open("/pair", PHONE, touch=True)
        self.assert_accessible(phone)
        phone.get_by_label("The five words").fill(words)
        phone.get_by_label("What you call this device").fill("garage phone")
        phone.get_by_role("button", name="Pair").tap()
        phone.wait_for_url("**/tonight")
        phone.evaluate(READY)
        phone.reload()
        phone.wait_for_load_state("networkidle")
        kept = "() => caches.open('plan').then(each => each.keys()).then(keys => keys.length)"
        self.assertEqual(phone.evaluate(kept), 1)
        desk.goto(self.server.address + "/garage/people")
        desk.locator("li", has_text="garage phone").get_by_role("button", name="Put it out").click()
        desk.locator("li", has_text="garage phone").wait_for(state="detached")
        phone.reload()
        phone.wait_for_url("**/sign-in**")
        self.assertEqual(phone.evaluate(kept), 0)
