"""Pages under faults: locked, full and damaged stores, second tabs, double clicks, restarts, other sites; and what is no clock or money."""

import asyncio
import errno
import html
import json
import re
import sqlite3
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any
from unittest import mock

import httpx2 as httpx
from fastapi import FastAPI
from sqlalchemy import Connection, event, update
from sqlalchemy.exc import OperationalError

from frost_tally.access.door import Access, Purpose
from frost_tally.household import everything, whole_file
from frost_tally.household.log_import import Incoming
from frost_tally.household.models import ChargeRow, DepartureRow, HabitRow, OutletRow, PendingRow, PresentRow, ReadingRow, UndoRow
from frost_tally.services.log_import import room as log_files
from frost_tally.services.log_import import taking
from frost_tally.services.log_import.jobs import Stopped
from frost_tally.services.shared.derived import NotYet
from frost_tally.services.tonight import keeping as nights
from frost_tally.web import refusals
from frost_tally.web.app import create_app
from frost_tally.web.door import COOKIE as DEVICE
from frost_tally.web.guard import HEADERS
from frost_tally.web.levers import LeverRoom
from tests.guide import in_bold, of_the_code, says, without_a_word
from tests.homes import home_in
from tests.web.client import PREFERENCES

from .client import Patient, WebCase, aside, hidden

CHARGES = (
    "car,begun_at [ISO 8601],ended_at [ISO 8601],site,outlet,soc_start [%],soc_end [%],wall_kwh [kWh],cost [money]\n"
    "Marten,2020-03-02T22:00:00+01:00,2020-03-03T04:00:00+01:00,home,Wall unit,40,75,22,\n"
    "Marten,2020-03-04T22:00:00+01:00,2020-03-05T04:00:00+01:00,home,Wall unit,40,75,22,\n"
)
OURS = {"sec-fetch-site": "same-origin", "origin": "http://127.0.0.1:8642"}
PLACE = {
    "name": "Fjell",
    "zone": "Europe/Oslo",
    "altitude_m": "1",
    "garage": "outdoor",
    "garage_heated_c": "10",
    "january_c": "-4",
    "july_c": "16",
}
ENTRY = {"car": "1", "number": "", "name": "Choir", "at": "18:30", "km": "7", "warm_up": "advised", "day_2": "yes"}


class Pages(WebCase):
    """A demo that has little patience with locks."""

    def setUp(self) -> None:
        with mock.patch.object(whole_file, "PATIENCE_S", 0.1):
            super().setUp()
        self.again(create_app(self.settings, self.household))

    def again(self, app: FastAPI) -> None:
        """A start on the store; what goes wrong in it does not reach the test."""
        self.app = app
        self.client = Patient(
            app, base_url="http://127.0.0.1:8642", raise_server_exceptions=False, headers=OURS, cookies=self.client.cookies
        )

    def rows(self, kind: type) -> int:
        with self.tables() as session:
            return session.query(kind).count()

    def enter(self, **other: str) -> httpx.Response:
        return self.client.post("/week/departures", data={**self.fields("/week"), **ENTRY, **other})

    def sent_again(self, answer: httpx.Response) -> httpx.Response:
        """Press "Send it again" on a page that offers it."""
        form = re.search(r'<form method="post" action="([^"]+)">(.*?)</form>', answer.text, re.DOTALL)
        self.assertIsNotNone(form, answer.text)
        fields = dict(re.findall(r'name="(\w+)" value="([^"]*)"', form[2]))  # type: ignore[index]
        return self.client.post(form[1], data=fields)  # type: ignore[index]

    def assert_said(self, answer: httpx.Response, status: int, *words: str) -> None:
        """A page in the app's own look, sealed as all are."""
        self.assertEqual(answer.status_code, status)
        for each in ('class="rail', *words):
            self.assertIn(each, answer.text)
        self.assertEqual(answer.headers["content-security-policy"], HEADERS["content-security-policy"])

    def test_a_locked_store_is_said_keeps_the_entries_and_passes(self) -> None:
        before, fields = self.rows(DepartureRow), {**self.fields("/week"), **ENTRY}
        with closing(sqlite3.connect(self.settings.database)) as other:
            other.execute("BEGIN IMMEDIATE")
            answer = self.client.post("/week/departures", data=fields)
            self.assert_said(answer, 503, "Something else is writing", "Nothing was saved", "Choir")
            self.assertEqual((answer.headers["retry-after"], self.rows(DepartureRow)), ("5", before))
            other.rollback()
        self.assertIn("Choir", self.sent_again(answer).text)
        self.assertEqual(self.rows(DepartureRow), before + 1)

    def test_a_full_disk_is_said_and_nothing_of_it_is_kept(self) -> None:
        before = self.rows(ReadingRow)
        pages = closing(sqlite3.connect(self.settings.database))
        with pages as other:
            most = other.execute("PRAGMA page_count").fetchone()[0]
        event.listen(self.household.engine, "begin", lambda at: at.exec_driver_sql(f"PRAGMA max_page_count={most}"))
        self.household.engine.dispose()
        note = {"car": "1", "tyre_c": "4", "warm": "no", "FL": "240", "FR": "241", "RL": "240", "RR": "239"}
        answers = [self.client.post("/day/tyres", data={**self.fields("/day/tyres"), **note}) for _ in range(120)]
        full = next(each for each in answers if each.status_code != 200)
        self.assert_said(full, 503, "no room left on the disk", "Nothing was saved")
        self.assertEqual(self.rows(ReadingRow) - before, 4 * sum(each.status_code == 200 for each in answers))

    def test_damaged_pages_while_running_lead_to_the_copies(self) -> None:
        self.client.get("/tonight")
        self.household.engine.dispose()
        with closing(sqlite3.connect(self.settings.database)) as other:
            other.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        whole = self.settings.database.read_bytes()
        self.settings.database.write_bytes(whole[:8192] + bytes(len(whole) - 8192))
        self.household._homes.clear()
        self.assert_said(self.client.get("/tonight"), 500, "data file is damaged", "frost-tally restore")

    def test_what_nobody_foresaw_has_a_number_that_stands_in_the_log(self) -> None:
        with (
            mock.patch.object(nights, "leave", side_effect=RuntimeError("odd")),
            mock.patch("frost_tally.web.refusals.log") as log,
        ):
            answer = self.client.post("/tonight/put-back", data=self.fields("/tonight"))
        number = log.error.call_args.kwargs["number"]
        self.assert_said(answer, 500, f"Its number is {number}", "Send it again")
        self.assertNotIn("RuntimeError", answer.text)

    def test_a_take_that_fails_after_the_page_went_on_says_so_on_its_page_and_in_the_list(self) -> None:
        sent = {**self.fields("/log/import")}
        got = self.client.post("/log/import", data=sent, files={"file": ("winter.csv", CHARGES.encode())})
        path, before = got.url.path, self.rows(ChargeRow)
        locked = OperationalError("INSERT", {}, sqlite3.OperationalError("database is locked"))
        for problem, words in (
            (RuntimeError("odd"), "That was not foreseen. Its number is"),
            (locked, "Something else is writing."),
        ):
            with mock.patch.object(Incoming, "take", side_effect=problem), mock.patch("frost_tally.web.refusals.log") as log:
                answer = self.client.post(path, data={**self.fields(path), "how": "take"})
            self.assertTrue(log.error.called)
            self.assertIn(f"It was not taken over: {words}", answer.text)
            self.assertIn(words, self.client.get("/log/import").text)
            self.assertEqual(self.rows(ChargeRow), before)
        with self.household.recording() as session:
            row = session.query(PendingRow).one()
            row.about = {**row.about, "failed": ""}  # as a process leaves it that ends in the middle
        for where in (path, "/log/import"):
            self.assertIn("Frost Tally ended in the middle of it.", self.client.get(where).text)
        done = self.client.post(path, data={**self.fields(path), "how": "take"})
        self.assertIn("2</b> entries were taken over", done.text)
        self.assertNotIn("Not taken over", self.client.get("/log/import").text)

    def test_others_write_while_a_file_is_staged(self) -> None:
        number = log_files.receive(self.household, self.read(), "a.csv", CHARGES.encode())
        log_files.look(self.household, number)
        written = []

        def tell(share: float) -> None:
            if share < 1.0:
                with self.household.recording() as session:
                    session.execute(update(PresentRow).values(out_now_c=-7.0))
                written.append(share)

        before = self.rows(ChargeRow)
        taking.take(self.household, number, tell)
        self.assertTrue(written)
        self.assertEqual(self.rows(ChargeRow), before + 2)

    def test_words_of_the_owner_stay_out_of_the_log(self) -> None:
        for method, path in (
            ("GET", "/log/import/Grandma%20Ida"),
            ("HEAD", "/log/import/Grandma%20Ida"),
            ("GET", "/Grandma/Ida"),
        ):
            with mock.patch("frost_tally.web.guard.log") as log:
                self.client.request(method, path)
            self.assertNotIn("Grandma", str(log.info.call_args))
            self.assertIn(log.info.call_args.kwargs["path"], ("/log/import/{number}", "(no page)"))
        with self.assertRaises(OperationalError) as failed, self.tables() as session:
            session.connection().exec_driver_sql("INSERT INTO nowhere VALUES (?)", ("Grandma Ida",))
        self.assertNotIn("Grandma", str(failed.exception))

    def test_copy_bring_back_and_delete_say_what_the_folders_do_not_allow_and_leave_nothing_behind(self) -> None:
        page = "/log/data"
        whole = self.client.get("/log/data/everything.json").content
        kept = self.client.post(f"{page}/copy", data=self.fields(page)).url.params["kept"]

        def back(ready: dict[str, str]) -> httpx.Response:
            return self.client.post(f"{page}/back", data={**ready, "how": "take"})

        acts: dict[str, Callable[[dict[str, str]], httpx.Response]] = {
            "copy": lambda _: self.client.post(f"{page}/copy", data=self.fields(page)),
            "document": lambda _: self.bring(file=whole),
            "bring a copy": lambda _: self.bring(copy=kept),
            "back": back,
            "delete": lambda _: self.client.post(f"{page}/delete", data={**self.fields(page), "word": "delete"}),
        }
        full = OSError(errno.ENOSPC, "No space left on device")
        before = self.rows(DepartureRow)
        for name, act in acts.items():
            faults = [
                (mock.patch.object(whole_file, "sync", side_effect=full), "no room left on the disk"),
                (mock.patch("os.access", return_value=False), "cannot be written to"),
            ]
            if name == "document":  # made beside the data, not among the copies
                faults = [
                    (mock.patch.object(Path, "write_bytes", side_effect=full), "no room left on the disk"),
                    (mock.patch.object(everything, "tell", side_effect=sqlite3.OperationalError("disk is full")), "no room left"),
                ]
            for fault, words in faults:
                there = self.files()
                ready = hidden(self.bring(file=whole).text) if name == "back" else {}
                with fault, self.subTest(act=name, words=words):
                    answer = act(ready)
                    self.assertIn(answer.status_code, (422, 503), answer.text[:300])
                    self.assertIn(words, answer.text)
                    self.assertNotIn("not foreseen", answer.text)
                self.client.post(f"{page}/back", data={**self.fields(page), "how": "leave", "ready": self.waiting()})
                self.assertEqual(self.files(), there, (name, words))
        there = self.files()
        with closing(sqlite3.connect(self.settings.database)) as other, mock.patch.object(whole_file, "PATIENCE_S", 0.1):
            other.execute("BEGIN IMMEDIATE")
            self.assert_said(acts["delete"]({}), 503, "Something else is writing")
            other.rollback()
        self.assertEqual((self.files(), self.rows(DepartureRow)), (there, before))

    def bring(self, file: bytes = b"", copy: str = "") -> httpx.Response:
        sent = {**self.fields("/log/data"), "copy": copy}
        return self.client.post("/log/data/bring", data=sent, files={"file": ("a.json", file)} if file else None)

    def waiting(self) -> str:
        found = [each.name.rpartition("-")[2] for each in self.settings.database.parent.glob("*.coming-*")]
        return found[0] if found else ""

    def files(self) -> set[str]:
        """Every file of the data's folder but the store's own logs."""
        folder = self.settings.database.parent
        return {str(each.relative_to(folder)) for each in folder.rglob("*") if not each.name.endswith(("-wal", "-shm"))}

    def test_every_sentence_of_the_guide_is_said_by_a_page_and_every_one_that_is_said_stands_there(self) -> None:
        everything_here = self.client.get("/log/data/everything.json").content

        def fails(problem: Exception) -> httpx.Response:
            with mock.patch.object(nights, "leave", side_effect=problem):
                return self.client.post("/tonight/put-back", data=self.fields("/tonight"))

        def store(words: str) -> Callable[[], httpx.Response]:
            return lambda: fails(OperationalError("UPDATE", {}, sqlite3.OperationalError(words)))

        def locked() -> httpx.Response:
            with closing(sqlite3.connect(self.settings.database)) as other:
                fields = {**self.fields("/week"), **ENTRY}
                other.execute("BEGIN IMMEDIATE")
                return self.client.post("/week/departures", data=fields)

        def only_read() -> httpx.Response:
            fields = {**self.fields("/week"), **ENTRY}
            with closing(self.household.engine.raw_connection()) as at:
                at.execute("PRAGMA query_only = ON")
            event.listen(self.household.engine, "begin", query_only)
            try:
                return self.client.post("/week/departures", data=fields)
            finally:
                event.remove(self.household.engine, "begin", query_only)
                self.household.engine.dispose()

        def query_only(at: Connection) -> None:
            at.exec_driver_sql("PRAGMA query_only = ON")

        def gone() -> httpx.Response:
            self.household.engine.dispose()
            folder = self.settings.database.parent
            folder.rename(folder.with_name("away"))
            try:
                return self.client.get("/tonight")
            finally:
                folder.with_name("away").rename(folder)

        def no_right() -> httpx.Response:
            fields = self.fields("/log/data")
            with mock.patch("os.access", return_value=False):
                return self.client.post("/log/data/delete", data={**fields, "word": "delete"})

        def of_before() -> httpx.Response:
            fields = self.fields("/week")
            self.enter(name="Market hall")
            return self.client.post("/week/departures", data={**fields, **ENTRY})

        def of_other_data() -> httpx.Response:
            return self.enter(revision="1.deadbeef")

        def of_another_time() -> httpx.Response:
            return self.client.post("/tonight/level", data={**self.fields("/tonight"), "opened": "2026-11-02T07:00:13+01:00"})

        def too_long() -> httpx.Response:
            fields = self.fields("/tonight")
            with mock.patch.object(LeverRoom, "made", side_effect=NotYet):
                return self.client.post("/tonight/keep", data=fields)

        def multipart() -> httpx.Response:
            return self.client.post("/undo", content=b"x", headers={"content-type": "multipart/form-data"})

        def elsewhere() -> httpx.Response:
            return self.client.post("/undo", data=self.fields("/tonight"), headers={"origin": "http://elsewhere.example"})

        def taken(problem: Exception) -> httpx.Response:
            got = self.client.post("/log/import", data=self.fields("/log/import"), files={"file": ("w.csv", CHARGES.encode())})
            with mock.patch.object(Incoming, "take", side_effect=problem):
                return self.client.post(got.url.path, data={**self.fields(got.url.path), "how": "take"})

        def left_in_the_middle() -> httpx.Response:
            page = taken(Stopped()).url.path
            with self.household.recording() as session:
                row = session.get_one(PendingRow, page.rpartition("/")[2])
                row.about = {**row.about, "failed": ""}
            return self.client.get(page)

        def document(change: Callable[[dict[str, Any]], object]) -> Callable[[], httpx.Response]:
            def act() -> httpx.Response:
                change(whole := json.loads(everything_here))
                return self.bring(file=json.dumps(whole).encode())

            return act

        def cell(table: str, value: object, *columns: str) -> Callable[[dict[str, Any]], object]:
            def change(whole: dict[str, Any]) -> None:
                there = whole["tables"][table]
                for column in columns:
                    there["rows"][0][there["columns"].index(column)] = value

            return change

        def undo(number: object) -> httpx.Response:
            return self.client.post("/undo", data={**self.fields("/week"), "decision": str(number).partition(".")[0]})

        def nobody_home(whole: dict[str, Any]) -> None:
            for name, there in whole["tables"].items():
                if name != "household":
                    there["rows"].clear()

        def changed_since() -> httpx.Response:
            first = self.post("/garage/edit/place/1", page="/garage/edit/place/1", **PLACE).url.params["undo"]
            self.post("/garage/edit/place/1", page="/garage/edit/place/1", **PLACE | {"name": "Fjord"})
            return undo(first)

        def used_now() -> httpx.Response:
            with self.household.deciding("a socket") as session:
                unit = session.get_one(OutletRow, 1)
                own = {each.name: getattr(unit, each.name) for each in OutletRow.__table__.columns if each.name != "id"}
                session.add(made := OutletRow(**own | {"name": "Shed"}))
                session.flush()
            with self.household.deciding("moved there") as other:
                other.get_one(HabitRow, 2).outlet_id = made.id
            return undo(session.number)

        def of_older_tables() -> httpx.Response:
            number = self.enter(name="Fair").url.params["undo"]
            with self.household.recording() as session:
                row = session.get_one(UndoRow, int(number.partition(".")[0]))
                row.before = [{**each, "table": "nowhere"} for each in row.before]
            return undo(number)

        def from_outside(guest: bool) -> httpx.Response:
            access = Access(self.settings.access)
            client = Patient(create_app(self.settings, self.household, access), base_url="http://127.0.0.1:8642")
            if guest:
                client.cookies.set(DEVICE, access.make_token(Purpose.GUEST, "the sitter"))
            return client.post("/tonight/keep")

        with_headers = {"host": "elsewhere.example"}
        provoked: dict[str, Callable[[], httpx.Response]] = {
            "Something else is writing": locked,
            "There is no room left on the disk": lambda: fails(OSError(errno.ENOSPC, "No space left on device")),
            "The disk does not answer": store("disk I/O error"),
            "The data cannot be written to": only_read,
            "The folder cannot be written to": lambda: fails(OSError(errno.EACCES, "Permission denied")),
            "The data cannot be reached": gone,
            "The data file is damaged": store("database disk image is malformed"),
            "That could not be done with the data": no_right,
            "This page is out of date": of_before,
            "This page is of other data": of_other_data,
            "This page is of another time": of_another_time,
            "This page is older than the last start": lambda: self.enter(token="x"),
            "This change did not come from its page": elsewhere,
            "This is more than a page here can need": lambda: self.client.post("/undo", data={"back": "x" * 300_000}),
            "That cannot be done": lambda: self.client.get("/log/charge/999999"),
            "That could not be read": multipart,
            "Nobody is signed in here": lambda: from_outside(guest=False),
            "This is not for you to do": lambda: from_outside(guest=True),
            "There is no such page": lambda: self.client.get("/nowhere"),
            "That is not done here": lambda: self.client.get("/undo"),
            "This takes longer than usual": too_long,
            "Invalid host header": lambda: self.client.get("/tonight", headers=with_headers),
            "That was not foreseen": lambda: fails(RuntimeError("odd")),
            "It was not taken over: …": lambda: taken(OperationalError("", {}, sqlite3.OperationalError("disk I/O error"))),
            "It was stopped": lambda: taken(Stopped()),
            "Frost Tally ended in the middle of it": left_in_the_middle,
            "The document is of another version": document(lambda whole: whole.update(version="9999")),
            "… is no table of that version, or has other columns": document(
                lambda whole: whole["tables"].update(shed=whole["tables"]["car"])
            ),
            "… has other columns than its schema": document(lambda whole: whole["tables"]["car"]["columns"].reverse()),
            "row … of … has … as …, which cannot be": document(cell("car", "much", "usable_kwh_new")),
            "… has …, which cannot be": document(cell("car", "perhaps", "preheats")),
            "no household can be made of it": document(nobody_home),
            "there is no place": document(nobody_home),
            "… has no habits": document(lambda whole: whole["tables"]["habit"]["rows"].pop()),
            "… is on no day": document(cell("departure", "", "days")),
            "the usual day of … goes nowhere": document(cell("habit", 0.0, "town_km", "country_km", "motorway_km")),
            "… uses …, which was put away": document(cell("outlet", 1, "withdrawn")),
            "It cannot be brought back": document(lambda whole: whole["tables"]["place"]["rows"].clear()),
            "There is no such copy": lambda: self.bring(copy="none.db"),
            "Nothing is ready to be brought back": lambda: self.post("/log/data/back", "/log/data", ready="0" * 16, how="take"),
            "There is nothing left to undo": lambda: undo(99_999),
            "This was changed again since": changed_since,
            "… is used by … now": used_now,
            "This was done before the tables were changed": of_older_tables,
        }
        listed = [each for part in ("While it runs", "What is typed and what files bring", "Undo") for each in in_bold(part)]
        self.assertEqual(sorted(provoked), sorted(set(listed)))
        for sentence, act in provoked.items():
            with self.subTest(sentence), mock.patch("frost_tally.web.refusals.log"):
                answer = act()
                plain = re.sub(r"<[^>]+>", " ", answer.text.partition("<main")[2] or answer.text)
                self.assertTrue(says(html.unescape(plain), sentence), (answer.status_code, plain[:900]))
        code = [*of_the_code("web/refusals.py", "Fault", "_said"), *([title] for title, _ in refusals.PROBLEMS.values())]
        code += [
            each
            for file in ("everything", "sound", "undo")
            for each in of_the_code(f"household/{file}.py", "StoreError", "Refusal")
        ]
        self.assertGreater(len(code), 35)
        self.assertEqual(without_a_word(code, listed), [])

    def test_a_second_tab_gets_its_entries_back_and_may_send_them_again(self) -> None:
        fields = {**self.fields("/week"), **ENTRY}
        self.enter(name="Market hall")
        answer = self.client.post("/week/departures", data=fields)
        self.assert_said(answer, 409, "out of date", "Choir, 18:30, 7")
        self.assertNotIn("Choir", self.client.get("/week").text)
        self.assertIn("Choir", self.sent_again(answer).text)
        for page, more in (
            ("/day/tyres", {"car": "1", "tyre_c": "4", "warm": "no", "FL": "240"}),
            ("/day", {"day_name": "Fair"}),
        ):
            stale = {**self.fields(page), **more}
            self.enter(name=f"Before {page}")
            self.assertEqual(self.client.post("/day/keep" if page == "/day" else page, data=stale).status_code, 409)

    def test_a_double_click_is_one_entry_with_one_answer(self) -> None:
        before, fields = self.rows(DepartureRow), {**self.fields("/week"), **ENTRY}
        door = httpx.ASGITransport(self.app)

        async def clicked_twice() -> list[httpx.Response]:
            async with httpx.AsyncClient(
                transport=door, base_url="http://127.0.0.1:8642", cookies=self.client.cookies
            ) as browser:
                return await asyncio.gather(*[browser.post("/week/departures", data=fields) for _ in range(2)])

        answers = aside(clicked_twice())
        self.assertEqual([each.status_code for each in answers], [303, 303])
        self.assertEqual((self.rows(DepartureRow), answers[0].headers["location"]), (before + 1, answers[1].headers["location"]))
        self.enter(name="Choir")
        self.assertEqual(self.rows(DepartureRow), before + 2)

    def test_a_tab_open_over_a_restart_keeps_its_entries_and_gets_a_new_token(self) -> None:
        fields = {**self.fields("/week"), **ENTRY}
        self.again(create_app(self.settings, home_in(self.settings)))
        answer = self.client.post("/week/departures", data=fields)
        self.assert_said(answer, 403, "older than the last start", "Choir")
        self.assertIn("Choir", self.sent_again(answer).text)

    def test_another_site_changes_nothing_and_is_offered_nothing(self) -> None:
        fields = {**self.fields("/week"), **ENTRY}
        others = ("http://elsewhere.example", "null", "http://[", "http://127.0.0.1:8642:x", "")
        for headers in (*({"origin": each} for each in others), {"sec-fetch-site": "cross-site"}):
            answer = self.client.post("/week/departures", data=fields, headers=headers)
            self.assert_said(answer, 403, "did not come from its page")
            self.assertNotIn("Choir", answer.text)

    def test_private_answers_are_not_kept_by_anybody(self) -> None:
        for path in (
            "/tonight",
            "/nowhere",
            "/week/departures.ics",
            "/garage/tariffs/1/tariff.json",
            "/garage/compare/months.csv",
        ):
            answer = self.client.get(path)
            self.assertEqual(
                (answer.headers["cache-control"], answer.headers["cross-origin-resource-policy"]), ("no-store", "same-origin")
            )

    def test_a_machines_own_clock_is_no_places_and_test_money_no_money(self) -> None:
        for zone in ("Factory", "localtime", "posixrules", "right/Europe/Oslo", "EST5EDT"):
            fields = {**self.fields("/garage/edit/place/1"), **PLACE, "zone": zone}
            answer = self.client.post("/garage/edit/place/1", data=fields)
            self.assertEqual(answer.status_code, 422, zone)
            self.assertIn("zone", answer.text)
        for money in ("XXX", "XTS", "XAU", "DEM"):
            fields = {**self.fields("/garage/edit/person/1"), "name": "A", "distance_unit": "km", "temperature_unit": "C", **PREFERENCES,
                      "pressure_unit": "kPa", "currency": money, "per_contract": "1"}  # fmt: skip
            self.assertEqual(self.client.post("/garage/edit/person/1", data=fields).status_code, 422, money)

    def test_days_too_far_away_are_refused_at_their_field(self) -> None:
        for day in ("9999-12-31", "0001-01-01", "2100-01-01"):
            answer = self.enter(on_date=day, day_2="")
            self.assertEqual(answer.status_code, 422)
            self.assertRegex(answer.text, r'data-error="on_date">[^<]*2099')
        self.assertEqual(self.client.get("/week/departures.ics").status_code, 200)
