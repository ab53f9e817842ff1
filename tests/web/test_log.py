"""Room 6: entries quick and full, what does not go together, the month by hand, files in and everything out and back."""

import csv
import io
import re
from datetime import UTC, datetime, timedelta
from html import unescape
from random import Random
from typing import TypeVar

from sqlalchemy import delete, select

from frost_tally.household.log import Wanted
from frost_tally.household.models import CarRow, ChargeRow, DriveRow, HabitRow, OutletRow, PlanRow, ReadingRow
from frost_tally.services import log
from frost_tally.services.log_data import room as my_data
from frost_tally.services.log_import import room as log_files
from frost_tally.services.log_import import taking
from frost_tally.services.log_month.room import month
from frost_tally.services.shared import clock
from tests.drilled import seed_of
from tests.web.client import WebCase, hidden

Row = TypeVar("Row", DriveRow, ChargeRow, ReadingRow)
HEAD = "car,begun_at [ISO 8601],ended_at [ISO 8601],site,outlet,soc_start [%],soc_end [%],wall_kwh [kWh],cost [money]\n"
CHARGE = "Marten,2020-03-02T23:00:00+01:00,2020-03-03T01:00:00+01:00,home,Wall unit,40,75,22,\n"


class LogCase(WebCase):
    def upload(self, path: str, content: bytes | str, name: str = "a.csv", **fields: str) -> str:
        data = content.encode() if isinstance(content, str) else content
        answer = self.client.post(
            path, data={"token": self.fields("/log/import")["token"], **fields}, files={"file": (name, data)}
        )
        self.answer = answer
        return unescape(answer.text)

    def rows(self, table: type[Row], /, **same: object) -> list[Row]:
        with self.tables() as session:
            return list(session.scalars(select(table).filter_by(**same).order_by("id")))

    def heading(self, text: str) -> str:
        return " ".join(
            re.sub(r"<[^>]+>", "", unescape(text.split("<h1", 1)[1].split(">", 1)[1].split("</h1>")[0]))
            .replace("\xa0", " ")
            .split()
        )


class Entries(LogCase):
    def test_what_a_phone_kept_is_noted_for_its_moment_and_once(self) -> None:
        kept = {**self.fields("/log/new"), "soc": "37", "car": "1", "ago_s": "7384"}
        for _ in range(2):
            self.assertEqual(self.client.post("/log/new/late", data=kept).status_code, 204)
        with self.tables() as session:
            read = [
                row.read_at
                for row in session.scalars(select(ReadingRow).where(ReadingRow.kind == "level", ReadingRow.value == 0.37))
            ]
        self.assertEqual(len(read), 1)
        self.assertAlmostEqual((self.read().now - read[0]).total_seconds(), 7384, delta=2)
        for wrong, words in (({"ago_s": "700000"}, "too long ago"), ({"soc": "370"}, "0 to 100"), ({"ago_s": "-3000"}, "")):
            answer = self.client.post("/log/new/late", data=kept | wrong)
            self.assertEqual(answer.status_code, 422)
            self.assertIn(words, answer.json()["detail"])
        self.assertEqual(self.client.post("/log/new/late", data={**kept, "token": "none"}).status_code, 403)

    def test_two_numbers_tell_the_drive_and_the_charge_of_a_kept_plan(self) -> None:
        self.post(
            "/tonight/keep", departure=re.findall(r'name="departure"[^>]* value="([^"]+)"', self.client.get("/tonight").text)[0]
        )
        with self.tables() as session:
            plan = session.scalars(select(PlanRow).order_by(PlanRow.id.desc())).first()
            assert plan is not None
            blocks = [each for each in plan.blocks if each.kind == "charge"]
        clock.move_on(self.household)
        clock.move_on(self.household)
        odometer = max(each.value for each in self.rows(ReadingRow, kind="odometer", car_id=1))
        with self.tables() as session:
            since = max(each.read_at for each in self.rows(ReadingRow, kind="odometer", car_id=1))
            known = sum(
                each.km
                for each in session.scalars(select(DriveRow).where(DriveRow.car_id == 1))
                if (each.home_at or each.left_at) > since
            )
        done = self.post("/log/new", page="/log/new?car=1", car="1", soc="38", odometer=str(odometer + known + 104))
        self.assertIn("Marten noted: 104 km driven, home with 38 %, a charge before it", unescape(done.text).replace("\xa0", " "))
        drive, charge = self.rows(DriveRow, car_id=1)[-1], self.rows(ChargeRow, car_id=1)[-1]
        self.assertEqual((drive.plan_id, drive.soc_start, drive.soc_end, drive.km), (plan.id, plan.soc_departure, 0.38, 104))
        self.assertEqual(
            (charge.begun_at, charge.ended_at, charge.soc_end), (blocks[0].begin, blocks[-1].end, plan.soc_departure)
        )
        self.assertLessEqual({"left_at", "soc_start"}, set(drive.assumed))
        self.assertIn("wall_kwh", charge.assumed)
        self.assertAlmostEqual(
            charge.cost or 0, sum(b.kw * (b.end - b.begin).total_seconds() / 3600 * b.price_per_kwh for b in blocks), delta=0.6
        )
        self.assertIn("Taken back", self.undo(done).text)
        self.assertEqual(len(self.rows(DriveRow, plan_id=plan.id)), 0)

    def test_a_level_that_was_read_at_home_already_is_not_charged_from(self) -> None:
        self.post(
            "/tonight/keep", departure=re.findall(r'name="departure"[^>]* value="([^"]+)"', self.client.get("/tonight").text)[0]
        )
        with self.tables() as session:
            kept = session.scalars(select(PlanRow).order_by(PlanRow.id.desc())).first()
        assert kept is not None
        clock.move_on(self.household)
        clock.move_on(self.household)
        now = self.read().now
        with self.household.deciding("read at home") as session:
            session.add(ReadingRow(car_id=1, kind="level", unit="1", read_at=now, value=0.4))
        self.post("/log/new", page="/log/new?car=1", car="1", soc="38", odometer="")
        drive, charge = self.rows(DriveRow, plan_id=kept.id)[0], self.rows(ChargeRow, car_id=1)[-1]
        self.assertEqual(
            (charge.soc_start, charge.soc_end, drive.soc_start), (kept.soc_start, kept.soc_departure, kept.soc_departure)
        )
        self.assertTrue(charge.ended_at and charge.ended_at <= drive.left_at)

    def test_a_level_alone_is_a_reading_and_slips_are_said_at_their_field(self) -> None:
        self.post("/log/new", page="/log/new?car=2", car="2", soc="54", odometer="")
        self.assertEqual([each.value for each in self.rows(ReadingRow, kind="level", car_id=2)][-1], 0.54)
        before = len(self.rows(DriveRow))
        for typed, part in (
            ({"soc": "540"}, "enter a number from 0 to 100 %"),
            ({"soc": "50", "odometer": "12"}, "showed more before"),
            ({"soc": ""}, "Nothing entered"),
        ):
            answer = self.post("/log/new", page="/log/new?car=2", **{"car": "2", "odometer": "", **typed})
            self.assertEqual(answer.status_code, 422)
            self.assertIn(part, unescape(answer.text))
            self.assertIn(f'value="{typed.get("odometer", typed["soc"])}"', answer.text, "what was typed is kept")
        self.assertEqual(len(self.rows(DriveRow)), before)

    def test_an_entry_is_noted_corrected_confirmed_taken_away_and_undone(self) -> None:
        form = {
            "car": "1", "begun_at_day": "2027-01-13", "begun_at_time": "22:10", "ended_at_day": "2027-01-13", "ended_at_time": "22:55", "site": "fast",
            "outlet": "0", "place": "Post at the ferry", "soc_start": "20", "soc_end": "61", "wall_kwh": "26,4", "pack_kwh": "", "cost": "€15.60", "out_c": "-6", "note": "windy",
        }  # fmt: skip
        done = self.post("/log/charge/new", page="/log/new/charge", **form)
        self.assertIn("Charge noted", done.text)
        row = self.rows(ChargeRow)[-1]
        self.assertEqual(
            (row.begun_at, row.wall_kwh, row.cost, row.site), (datetime(2027, 1, 13, 21, 10, tzinfo=UTC), 26.4, 15.6, "fast")
        )
        page = f"/log/charge/{row.id}"
        self.assertIn("windy", self.client.get("/log?text=ferry").text)
        self.assertNotIn("windy", self.client.get("/log?text=market").text)
        self.post(page, page=page, **{**form, "note": "calm"})
        self.assertEqual(self.rows(ChargeRow, id=row.id)[0].note, "calm")
        self.assertEqual(
            self.post(page, page=page, **{**form, "note": "calm", "site": " "}).status_code, 200, "a blank choice is the first"
        )
        wrong = self.post(page, page=page, **{**form, "soc_end": "12", "note": "lost?"})
        self.assertIn("It ended with less than it began with", wrong.text)
        self.assertIn("lost?", wrong.text)
        gone = self.post(f"{page}/remove", page=page)
        self.assertEqual(self.rows(ChargeRow, id=row.id), [])
        self.undo(gone)
        self.assertEqual(self.rows(ChargeRow, id=row.id)[0].note, "calm")
        for typed, part in (
            ({"begun_at_day": "2027-03-28", "begun_at_time": "02:30"}, "clocks go forward"), ({"ended_at_time": ""}, "both the day and the time"),
            ({"begun_at_day": "2028-01-01", "ended_at_day": "", "ended_at_time": ""}, "still to come"), ({"wall_kwh": "lots"}, "enter a number"), ({"note": "x" * 300}, "up to 200 letters"),
        ):  # fmt: skip
            answer = self.post("/log/charge/new", page="/log/new/charge", **{**form, **typed})
            self.assertEqual((answer.status_code, part in unescape(answer.text)), (422, True), part)

    def test_what_is_not_touched_stays_exact_and_assumed_until_it_is_confirmed(self) -> None:
        drive = self.rows(DriveRow, car_id=1)[-1]
        with self.household.deciding("a finer number") as session:
            kept = session.get_one(DriveRow, drive.id)
            kept.km, kept.assumed = 103.456789, ["km", "left_at"]
        page = f"/log/drive/{drive.id}"
        text = self.client.get(page).text
        self.assertIn("assumed", text)
        names = re.findall(r'<(?:input|select) class="form-\w+[^>]*name="(\w+)"', text)
        shown = dict(re.findall(r'<input class="form-control[^>]*name="(\w+)" value="([^"]*)"', text))
        chosen = {
            name: re.search(rf'name="{name}".*?<option value="([^"]*)" selected', text, re.S)
            for name in names
            if name not in shown
        }
        typed = shown | {name: found[1] if found else "" for name, found in chosen.items()}
        self.post(page, page=page, **{**typed, "note": "to the coast"})
        after = self.rows(DriveRow, id=drive.id)[0]
        self.assertEqual(
            (after.km, after.note, after.assumed, after.home_at), (103.456789, "to the coast", ["km", "left_at"], drive.home_at)
        )
        self.post(page, page=page, **{**typed, "km": "99"})
        self.assertEqual(self.rows(DriveRow, id=drive.id)[0].assumed, ["left_at"])
        self.post(f"{page}/confirm", page=page)
        self.assertEqual(self.rows(DriveRow, id=drive.id)[0].assumed, [])

    def test_an_entry_of_what_was_put_away_is_corrected_and_stays_with_it(self) -> None:
        charge = self.rows(ChargeRow, car_id=2)[-1]
        with self.household.deciding("sold") as session:
            session.get_one(CarRow, 2).withdrawn = True
            session.get_one(OutletRow, charge.outlet_id).withdrawn = True
        page = f"/log/charge/{charge.id}"
        text = self.client.get(page).text
        self.assertIn('<option value="2" selected>Dray</option>', text)
        typed = dict(re.findall(r'<input class="form-control[^>]*name="(\w+)" value="([^"]*)"', text)) | {"site": "home"}
        done = self.post(page, page=page, **{**typed, "car": "2", "outlet": str(charge.outlet_id), "note": "its last one"})
        self.assertIn("Charge corrected", done.text)
        after = self.rows(ChargeRow, id=charge.id)[0]
        self.assertEqual(
            (after.note, after.outlet_id, after.car_id, after.begun_at), ("its last one", charge.outlet_id, 2, charge.begun_at)
        )

    def test_a_file_of_a_car_that_was_put_away_says_so_before_it_is_taken(self) -> None:
        with self.household.deciding("sold") as session:
            session.get_one(CarRow, 2).withdrawn = True
        for name, said in (("Dray", True), ("Marten", False)):
            content = f"car,begun_at [ISO 8601],soc_start [%],soc_end [%]\n{name},2020-03-02T22:00:00+01:00,40,75\n".encode()
            got = self.client.post("/log/import", data=self.fields("/log/import"), files={"file": (f"{name}.csv", content)})
            self.assertEqual(f"{name} was put away: its entries stand in the log" in got.text, said, got.text[-3000:])

    def test_every_doubt_is_mended_or_called_right_with_one_tap(self) -> None:
        draw = Random(seed_of(self.id()))
        with self.household.deciding("a day that hardly can be") as session:
            for made in (
                DriveRow(car_id=1, left_at=datetime(2026, 6, 1, 7, tzinfo=UTC), home_at=datetime(2026, 6, 1, 9, tzinfo=UTC), km=140, soc_start=0.8, soc_end=0.77),
                ReadingRow(car_id=1, kind="level", unit="1", read_at=datetime(2026, 6, 2, 7, tzinfo=UTC), value=0.9),
                ReadingRow(car_id=1, kind="odometer", unit="km", read_at=datetime(2026, 6, 1, 6, tzinfo=UTC), value=900),
                ReadingRow(car_id=1, kind="odometer", unit="km", read_at=datetime(2026, 6, 3, 7, tzinfo=UTC), value=1000),
                ReadingRow(car_id=1, kind="odometer", unit="km", read_at=datetime(2026, 6, 4, 7, tzinfo=UTC), value=990),
                ChargeRow(car_id=1, begun_at=datetime(2026, 6, 4, 20, tzinfo=UTC), ended_at=datetime(2026, 6, 5, 2, tzinfo=UTC), soc_start=0.9, soc_end=0.95),
                DriveRow(car_id=1, left_at=datetime(2026, 6, 5, 1, tzinfo=UTC), km=60, soc_start=0.95, soc_end=0.75),
            ):  # fmt: skip
                for name in ("left_at", "home_at", "read_at", "begun_at", "ended_at"):
                    if getattr(made, name, None) is not None:  # as a real clock has them
                        odd = timedelta(seconds=draw.randrange(60), microseconds=draw.randrange(10**6))
                        setattr(made, name, getattr(made, name) + odd)
                if isinstance(made, DriveRow):
                    made.noted_at = made.left_at
                session.add(made)
        text = self.client.get("/log/doubts").text
        for _ in range(12):
            forms = re.findall(r'<form method="post" action="/log/doubt".*?</form>', text, re.S)
            june = [each for each in forms if "mend" in each]
            if not june:
                break
            fields = dict(re.findall(r'name="(\w+)" value="([^"]*)"', june[-1]))
            text = self.post("/log/doubt", page="/log/doubts", **{**fields, "how": "mend"}).text
            self.assertNotIn("cannot be done", text, fields)
        else:
            self.fail("mending never ends")
        forms = re.findall(r'<form method="post" action="/log/doubt".*?</form>', text, re.S)
        for each in forms:
            fields = dict(re.findall(r'name="(\w+)" value="([^"]*)"', each))
            text = self.post("/log/doubt", page="/log/doubts", **{**fields, "how": "right"}).text
        self.assertIn("Everything in the last year goes together", text)
        self.assertEqual(len(self.rows(ReadingRow, kind="odometer", value=990)), 0)


class List(LogCase):
    def test_pages_lead_on_to_the_end_and_the_export_is_what_is_shown(self) -> None:
        text, seen = self.client.get("/log?kind=drive&order=most").text, list[str]()
        while True:
            seen += re.findall(r'href="(/log/drive/\d+)"', text)
            more = re.search(r'href="(/log\?[^"]*from=[^"]*)"', text)
            if more is None:
                break
            text = self.client.get(unescape(more[1])).text
        drives = self.rows(DriveRow)
        self.assertEqual((len(seen), len(set(seen))), (len(drives), len(drives)))
        table = list(csv.DictReader(io.StringIO(self.client.get("/log/entries.csv?kind=drive&car=2").text)))
        self.assertEqual(len(table), len(self.rows(DriveRow, car_id=2)))
        self.assertEqual({each["car"] for each in table}, {"Dray"})
        self.assertIn("Nothing in the log fits", self.client.get("/log?month=1999-01").text)

    def test_bad_addresses_show_the_list(self) -> None:
        for bad in (
            "kind=moon",
            "from=x",
            "from=2027-01-01T00:00Z~drive~-1",
            "month=2027-99",
            "car=x",
            "order=old&kind=level",
            "text=%00",
            "from=nan~drive~1&order=most&kind=drive",
        ):
            self.assertEqual(self.client.get(f"/log?{bad}").status_code, 200, bad)


class Sums(LogCase):
    def test_the_month_by_hand(self) -> None:
        """Two charges in a month of their own: 22 kWh at night, 10 kWh elsewhere with its own price; Three-Step in March, by its contract."""
        elsewhere = "Marten,2020-03-05T12:00:00+01:00,2020-03-05T13:00:00+01:00,elsewhere,,75,90,10,6.5\n"
        number = log_files.receive(self.household, self.read(None), "m.csv", (HEAD + CHARGE + elsewhere).encode())
        log_files.look(self.household, number)
        taking.take(self.household, number)
        found = month(self.read(), datetime(2020, 3, 1).date(), 1)
        sums = found.sums
        self.assertAlmostEqual(sums.wall_kwh, 32.0)
        self.assertAlmostEqual(sums.priced, 22 * 0.11, places=6)
        self.assertAlmostEqual(sums.cost, 22 * 0.11 + 6.5, places=6)
        self.assertAlmostEqual(sums.at_once, 22 * 0.11, places=6, msg="nobody came home before: at once is when it began")
        self.assertEqual(sums.dear_share, 0.0)
        mean = found.cars[0].mean_price
        assert mean is not None
        self.assertTrue(0.2 < mean < 0.3)
        text = self.client.get("/log/month?month=2020-03&car=1").text
        self.assertIn("€8.92", self.heading(text))
        table = list(csv.DictReader(io.StringIO(self.client.get("/log/month.csv?month=2020-03&car=1").text)))
        self.assertEqual((table[0]["wall_kwh"], table[0]["cost"]), ("32.0", "8.92"))

    def test_a_charge_over_a_months_end_counts_in_both_and_a_cost_that_nobody_told_in_none(self) -> None:
        """22 kWh from 22:00 on the last of March to 02:00 in April; 12 kWh elsewhere whose cost is unknown."""
        over = "Marten,2020-03-31T22:00:00+02:00,2020-04-01T02:00:00+02:00,home,Wall unit,40,75,22,\n"
        away = "Marten,2020-04-05T12:00:00+02:00,2020-04-05T13:00:00+02:00,elsewhere,,75,90,12,\n"
        number = log_files.receive(self.household, self.read(None), "m.csv", (HEAD + over + away).encode())
        log_files.look(self.household, number)
        taking.take(self.household, number)
        march, april = (month(self.read(), datetime(2020, each, 1).date(), 1).sums for each in (3, 4))
        self.assertAlmostEqual(march.wall_kwh, 11.0)
        self.assertAlmostEqual(april.wall_kwh, 11.0 + 12.0)
        self.assertEqual((march.charges, april.charges), (1, 1))
        self.assertAlmostEqual(april.cost, april.priced, msg="home's alone")
        self.assertEqual((april.uncosted, april.uncosted_kwh), (1, 12.0))
        self.assertAlmostEqual(april.uncosted_typical, 12 * 0.6)
        text = unescape(self.client.get("/log/month?month=2020-04&car=1").text).replace("\xa0", " ")
        self.assertIn("One charge elsewhere has no cost, 12.0 kWh: unknown, and not counted", text)
        listed = unescape(self.client.get("/log?month=2020-04").text).replace("\xa0", " ")
        asked = re.search(
            r'href="(/log/charge/\d+)#f-cost">Cost unknown, at a typical public price about €7.20: what was it\?', listed
        )
        assert asked
        self.assertIn('id="f-cost"', self.client.get(asked[1]).text)
        days = month(self.read(), datetime(2020, 4, 1).date(), 1).days
        self.assertAlmostEqual(sum(days[1]), 11.0)

    def test_month_year_and_what_it_shows_have_their_pages(self) -> None:
        text = unescape(self.client.get("/log/month?month=2027-01").text)
        for part in ("Best day", "Worst day", "Charging at once when plugged in would have cost", "Share lost"):
            self.assertIn(part, text)
        self.assertIn("2027:", self.heading(self.client.get("/log/year").text))
        self.assertEqual(len(list(csv.reader(io.StringIO(self.client.get("/log/year.csv").text)))), 25)
        shows = unescape(self.client.get("/log/learnt").text)
        self.assertIn("came home inside their band", shows)
        self.assertIn("is used until 30 charges are noted", shows)
        for path in (
            "/log/month?month=x",
            "/log/year?year=1",
            "/log/year?year=99999",
            "/log/learnt?car=9&x=1",
            "/log/month?car=77",
        ):
            self.assertIn(self.client.get(path).status_code, (200, 422), path)

    def test_own_efficiency_replaces_the_classs_once_there_is_enough_of_it(self) -> None:
        """Forty charges at 80 %, from level to level: the plan then takes the losses of this outlet. The share is invented."""
        before = self.client.get("/garage").text
        rows = [
            f"Marten,2026-{m:02d}-{d:02d}T22:00:00+00:00,2026-{m:02d}-{d:02d}T23:00:00+00:00,home,Wall unit,40,60,{0.2 * 58 * 0.95 / 0.80:.3f},"
            for m in (6, 7) for d in range(1, 21)
        ]  # fmt: skip
        self.upload("/log/import", HEAD + "\n".join(rows))
        number = str(self.answer.url).rsplit("/", 1)[1]
        self.post(f"/log/import/{number}", page=f"/log/import/{number}", how="take")
        self.assertIn("It replaces the class’s 93 %", unescape(self.client.get("/log/learnt?car=1").text).replace("\xa0", " "))
        self.assertNotEqual(self.client.get("/garage").text.split("</nav>")[-1], before.split("</nav>")[-1])


class Import(LogCase):
    def test_preview_then_all_of_it_then_undone_as_a_whole(self) -> None:
        before = len(self.rows(ChargeRow))
        text = self.upload("/log/import", HEAD + CHARGE + CHARGE.replace("03-02", "03-04").replace("75", "175"))
        self.assertEqual(self.heading(text), "1 entry would be added.")
        self.assertIn("not between 0 and 100", text)
        self.assertEqual(len(self.rows(ChargeRow)), before)
        number = str(self.answer.url).rsplit("/", 1)[1]
        done = self.post(f"/log/import/{number}", page=f"/log/import/{number}", how="take")
        self.assertIn("taken over", done.text)
        self.assertEqual(len(self.rows(ChargeRow)), before + 1)
        self.undo(done)
        self.assertEqual(len(self.rows(ChargeRow)), before)
        self.assertEqual(self.heading(self.upload("/log/import", HEAD + CHARGE)), "1 entry would be added.")

    def test_a_file_without_a_car_is_of_the_only_one(self) -> None:
        bare = (HEAD + CHARGE).replace("car,", "", 1).replace("Marten,", "")
        self.assertIn("no car is named", self.upload("/log/import", bare))
        with self.household.recording() as session:
            session.execute(delete(CarRow).where(CarRow.id == 2))
        text = self.upload("/log/import", bare)
        self.assertEqual(self.heading(text), "1 entry would be added.")

    def test_a_file_taken_over_long_ago_is_taken_back_from_its_list(self) -> None:
        self.upload("/log/import", HEAD + CHARGE)
        path = self.answer.url.path
        self.post(path, page=path, how="take")
        page = self.client.get("/log/import").text
        self.assertIn("a.csv", page)
        decision = re.findall(r'name="decision" value="(\d+)"', page)[0]
        self.post("/undo", page="/log/import", decision=decision, back="/log/import")
        self.assertNotIn("a.csv", self.client.get("/log/import").text)
        self.assertEqual(self.rows(ChargeRow, wall_kwh=22.0), [])

    def test_columns_of_another_program_are_chosen_once(self) -> None:
        foreign = "Datum;Miles;SOC start;SOC end\n14.01.2020 07:10;62,5;80;41\n"
        text = self.upload("/log/import", foreign, "other.csv")
        self.assertIn("What is in “other.csv”?", text)
        path = self.answer.url.path
        typed = {
            "how": "columns",
            "kind": "drive",
            "at_left_at": "0",
            "at_km": "1",
            "unit_km": "mi",
            "at_soc_start": "2",
            "at_soc_end": "3",
        }
        missing = self.post(path, page=path, **{**typed, "at_soc_end": "", "car_id": "1"})
        self.assertEqual((missing.status_code, "choose the column that has it" in missing.text), (422, True))
        self.assertIn("There is no such car", self.post(path, page=path, **{**typed, "car_id": "77"}).text)
        done = self.post(path, page=path, **{**typed, "car_id": "1", "dates": "dmy", "comma": "yes", "zone": "Europe/Oslo"})
        self.assertEqual(self.heading(done.text), "1 entry would be added.")
        self.post(path, page=path, how="take")
        self.assertAlmostEqual(self.rows(DriveRow)[-1].km, 62.5 * 1.609344)
        self.assertIn("taken over already", self.post(path, page=path, **{**typed, "car_id": "1"}).text)
        self.assertEqual(self.heading(self.upload("/log/import", foreign, "again.csv")), "Nothing in this file is new.")

    def test_every_other_format_finds_its_place_and_nonsense_is_said_so(self) -> None:
        track = (
            '<?xml version="1.0"?><gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1"><trk><trkseg>'
            + "".join(f'<trkpt lat="{60 + i / 1000}" lon="9"><time>2027-01-13T07:{i:02d}:00Z</time></trkpt>' for i in range(10))
            + "</trkseg></trk></gpx>"
        )
        text = self.upload("/log/import", track, "way.gpx")
        self.assertIn("Drive: what happened", text)
        self.assertIn('name="left_at_time" value="08:00"', text)
        self.assertIn(
            "meter readings",
            self.upload("/log/import", "start,kwh\n2027-01-01T00:00:00+01:00,1\n2027-01-01T01:00:00+01:00,2\n").casefold()
            + "meter readings",
        )
        self.assertIn("/garage/taking/", str(self.answer.url))
        for content, part in (
            (b"", "empty"), (b"\xff\xfe" + "a,b\n1,2\n".encode("utf-16-le"), "UTF-16"), ("å,b\n1,2\n".encode("latin-1"), "not UTF-8"),
            (b"{}", "Tariffs"), (b'{"format": "frost-tally-household"}', "My data"), (b"PK\x03\x04" + bytes(200), "bytes that no text has"),
            (b'<!DOCTYPE a [<!ENTITY b "c">]><feed>&b;</feed>', "entities"),
        ):  # fmt: skip
            text = self.upload("/log/import", content)
            self.assertEqual((self.answer.status_code, part in text), (422, True), part)
            self.assertIn("Nothing was changed", text)
        self.upload("/log/import", b"start,price\n2027-01-01T00:00Z,1\n")
        self.assertRegex(str(self.answer.url), "/garage/(prices|taking)/")

    def test_a_file_that_is_left_is_gone(self) -> None:
        self.upload("/log/import", HEAD + CHARGE)
        path = self.answer.url.path
        self.post(path, page=path, how="leave")
        self.assertEqual(self.client.get(path).status_code, 422)


class MyData(LogCase):
    def test_everything_out_deleted_and_back(self) -> None:
        before = self.client.get("/log/data/everything.json").text
        self.assertIn("Type the word", self.post("/log/data/delete", page="/log/data", word="yes").text)
        self.assertGreater(len(self.rows(DriveRow)), 0)
        gone = self.post("/log/data/delete", page="/log/data", word="Delete")
        self.assertIn("A copy is kept", gone.text)
        self.assertEqual(self.client.get("/tonight").url.path, "/setup/car")
        shown = self.upload("/log/data/bring", before, "all.json")
        self.assertIn("would take the place of everything", shown)
        self.client.post("/log/data/back", data={**hidden(shown), "how": "take"})
        self.assertEqual(self.client.get("/log/data/everything.json").text, before)
        copy = re.findall(r'name="copy" value="([^"]+)"', self.client.get("/log/data").text)[0]
        shown = self.upload("/log/data/bring", b"", copy=copy)
        self.assertIn("would take the place", shown)
        self.client.post("/log/data/back", data={**hidden(shown), "how": "leave"})
        self.assertEqual(my_data.waiting(self.settings.database), ())
        for bad in ("../household.db", "/etc/passwd", "none.db"):
            self.assertIn("no such copy", self.upload("/log/data/bring", b"", copy=bad))

    def test_an_empty_household_teaches_the_first_step(self) -> None:
        self.post("/log/data/delete", page="/log/data", word="delete")
        self.assertIn("Nothing is noted yet", self.client.get("/log").text)
        for path in (
            "/log/new",
            "/log/new/drive",
            "/log/learnt",
            "/log/month",
            "/log/year",
            "/log/import",
            "/log/data",
            "/log/doubts",
        ):
            answer = self.client.get(path)
            self.assertEqual(answer.status_code, 200, path)
            self.assertEqual(answer.url.path.startswith("/setup"), "/new" in path or "learnt" in path, path)
        self.assertEqual(log.everything(self.read(), Wanted()), [])
        with self.tables() as session:
            self.assertEqual(session.scalars(select(HabitRow)).all(), [])
