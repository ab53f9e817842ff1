"""What one room says holds in all others: the departures list, the day, the band, the weather, the reason that binds."""

import io
import json
import re
from contextlib import redirect_stdout
from dataclasses import replace
from datetime import datetime, timedelta
from unittest import mock
from zoneinfo import ZoneInfo

from sqlalchemy import update

from frost_tally import cli, cli_tonight
from frost_tally.core.charge.outlet_comparison import Reason
from frost_tally.core.drive.certainty import OwnDays, arrival
from frost_tally.household.models import CarRow, DepartureRow, DriveRow, LeavingRow, OutletRow, PresentRow
from frost_tally.household.parts import in_order
from frost_tally.services.day.room import day
from frost_tally.services.departures.room import departures
from frost_tally.services.outlets import outlets_bench
from frost_tally.services.tonight.room import Tonight, tonight
from frost_tally.services.warmup.room import warm_up_room
from frost_tally.web.api.tonight import tonight_answer
from frost_tally.web.units import Units
from frost_tally.web.words.night import verdict
from tests.web.client import ApartCase

OSLO = ZoneInfo("Europe/Oslo")


class Agreement(ApartCase):
    def at(self, *moment: int) -> datetime:
        now = datetime(*moment, tzinfo=OSLO)  # type: ignore[arg-type, misc]
        self.household.world.clock.set(now)  # type: ignore[attr-defined]
        return now

    def said(self, night: Tonight) -> str:
        spoken = verdict(night, Units())
        return " ".join([spoken.plain, *spoken.notes]).replace("\u00a0", " ")

    def enter(self, **typed: str) -> None:
        fields = {"name": "New", "at": "09:00", "km": "10", "day_id": "0", "warm_up": "advised", "car": "1", **typed}
        self.post("/week/departures", page="/week?car=1", **fields)

    def put_away(self, car: int) -> None:
        with self.household.recording() as session:
            session.execute(update(DepartureRow).where(DepartureRow.car_id == car).values(withdrawn=True))


class List(Agreement):
    def test_its_distances_lead_in_every_room(self) -> None:
        """An errand of 4 km on Saturday was planned with 112 km, and a day of 4 km had a band to 104 %."""
        now = self.at(2027, 1, 15, 18, 0)
        night, driven, warm = tonight(self.read(now)), day(self.read(now)), warm_up_room(self.read(now))
        self.assertEqual((night.inputs.km, driven.trip.distance_km, 2 * warm.inputs.km), (8.0, 8.0, 8.0))
        self.assertEqual(night.plan.request.departure, warm.request.departure)
        full = tonight(self.read(now), override=lambda usual: replace(usual, limit=1.0))
        self.assertLessEqual(full.arrival.high, full.plan.soc_departure)
        self.assertLess(full.arrival.high - full.arrival.low, 0.02)
        wild = OwnDays(day_sigma=5.0)
        self.assertEqual(arrival(full.car, full.trip, full.conditions, full.start, wild).high, full.start.soc)
        self.assertIn("Errand", self.client.get("/tonight").text)

    def test_two_departures_before_the_cable_is_in_again_are_one_day(self) -> None:
        self.enter(name="Swim", at="12:00", km="6", day_5="yes")
        now = self.at(2027, 1, 15, 18, 0)
        night, warm = tonight(self.read(now)), warm_up_room(self.read(now))
        self.assertEqual((night.inputs.km, warm.inputs.trips, warm.inputs.km), (20.0, 4, 5.0))
        self.assertIn("Errand and Swim", self.client.get("/tonight").text)
        between = self.at(2027, 1, 16, 10, 30)
        self.assertEqual(f"{tonight(self.read(between)).plan.request.departure.astimezone(OSLO):%a %H:%M}", "Sat 12:00")

    def test_a_holiday_and_an_empty_week_mean_no_departure(self) -> None:
        now = self.at(2027, 3, 24, 18, 0)  # Maundy Thursday and Good Friday follow, then Easter Monday
        self.assertEqual(f"{tonight(self.read(now)).before_drive.stay.leaves:%a %d %H:%M}", "Sat 27 10:00")
        self.put_away(1)
        self.enter(on_date="2027-04-20")
        self.assertEqual(tonight(self.read(now)).before_drive.stay.leaves.day, 25, "one trip leaves the usual days as they are")
        self.enter(day_4="yes", region="NO")
        night = tonight(self.read(now))
        self.assertTrue(night.idle)
        self.assertEqual(night.plan.blocks, ())
        self.assertIn("No departure is listed in the coming week, so nothing has to be ready", self.said(night))
        self.assertIn("No departure is listed", self.client.get("/warm-up").text)
        self.assertIn(
            "Charging", self.said(tonight(self.read(now), override=lambda usual: replace(usual, depart=datetime.min.time())))
        )
        self.assertIn("Charging", self.said(tonight(self.read(now), day="usual")))

    def test_a_new_departure_does_not_ask_about_the_past(self) -> None:
        now = self.at(2027, 1, 14, 18, 12)
        self.put_away(1)
        self.enter(at="09:00", **{f"day_{i}": "yes" for i in range(7)})
        self.assertIsNone(departures(self.read(now)).open)
        later = now + timedelta(hours=16)
        self.assertIsNotNone(departures(self.read(later)).open)

    def test_a_kept_day_by_weekday_and_by_choice(self) -> None:
        """The van: near, far and market; its Saturdays are the far market, in Tonight, Day and Warm-up."""
        now = self.at(2027, 1, 15, 18, 0)
        night, driven = tonight(self.read(now), 2), day(self.read(now), 2)
        self.assertEqual((night.inputs.km, driven.inputs.luggage_kg, driven.inputs.trips[0].country), (138.0, 320.0, 61.0))
        self.assertEqual(night.arrival, driven.arrival)
        near = next(key for key, (name, _) in night.days.items() if name == "Near round")
        chosen, shown = tonight(self.read(now), 2, day=near), day(self.read(now), 2, near)
        self.assertEqual((chosen.inputs.km, shown.trip.distance_km), (24.0, 24.0))
        self.assertEqual(chosen.arrival, shown.arrival)
        self.post("/tonight/keep", page=f"/tonight?car=2&day={near}")
        self.assertEqual(tonight(self.read(now), 2).inputs.km, 24.0)
        self.assertEqual(day(self.read(now), 2).trip.distance_km, 24.0)

    def test_kept_for_good_what_is_listed_changes_on_the_list(self) -> None:
        self.at(2027, 1, 15, 18, 0)
        self.post("/tonight/keep-for-good", page="/tonight?km=20&depart=11:00", km="20", depart="11:00")
        errand = next(each for each in self.home.car(1).departures if each.name == "Errand")
        self.assertEqual((errand.km, f"{errand.schedule.at:%H:%M}"), (10.0, "11:00"))
        with self.tables() as session:
            self.assertEqual(in_order(session, CarRow)[0].habit.km, 112.0)

    def test_in_the_demo_a_day_that_stayed_is_not_driven(self) -> None:
        with self.tables() as session:
            stayed = {
                (each.car_id, each.due_at.astimezone(OSLO).date())
                for each in session.query(LeavingRow).filter_by(outcome="missed")
            }
            driven = {(each.car_id, each.left_at.astimezone(OSLO).date()) for each in session.query(DriveRow)}
        self.assertTrue(stayed)
        self.assertEqual(stayed & driven, set())


class Bands(Agreement):
    def test_tonight_and_day_have_one_band(self) -> None:
        for car, query in (
            (1, {}),
            (2, {}),
            (1, {"soc_now": 0.3}),
            (1, {"out_now_c": -20.0, "out_low_c": -28.0}),
            (2, {"people": 1}),
        ):
            with self.subTest(car=car, **query):
                night = tonight(self.read(), car, lambda usual, query=query: replace(usual, **query))  # type: ignore[misc]
                with mock.patch("frost_tally.services.day.room.tonight", lambda *args, night=night, **more: night):
                    self.assertEqual(day(self.read(self.read().now + timedelta(minutes=len(query))), car).arrival, night.arrival)

    def test_json_says_what_the_page_says(self) -> None:
        night = tonight(self.read(), override=lambda usual: replace(usual, km=900.0))
        told = tonight_answer(night, Units()).model_dump(mode="json")
        self.assertIn("too far", self.said(night))
        self.assertEqual(told["arrival_soc"], {"low": 0.0, "likely": 0.0, "high": 0.0})
        self.assertIn(f"{100 * float(told['missing_soc']):.0f} % are missing", self.said(night))
        out = io.StringIO()
        with (
            redirect_stdout(out),
            mock.patch.object(cli_tonight, "open_home", return_value=self.household),
            self.assertRaises(SystemExit),
        ):
            cli.app(["tonight", "--demo", "--car", "9"])
        self.assertIn("There is no car 9. There are: 1 Marten, 2 Dray.", re.sub(r"\s+", " ", out.getvalue()))
        out = io.StringIO()
        with (
            redirect_stdout(out),
            mock.patch.object(cli_tonight, "open_home", return_value=self.household),
            self.assertRaises(SystemExit),
        ):
            cli.app(["tonight", "--demo", "--json"])
        spoken = json.loads(out.getvalue())
        page = re.sub(r"<[^>]+>", "", self.client.get("/tonight").text).replace("\u00a0", " ").replace("\u2060", "")
        self.assertIn(spoken["sentence"].split(". ")[1], page)

    def test_no_fall_by_nothing_and_no_latest_plug_in_that_does_not_reach(self) -> None:
        for query in ("", "car=2", "plug_in=06:00&soc_now=10", "soc_now=79", "km=700", "car=2&plug_in=04:00"):
            text = self.client.get(f"/tonight?{query}").text.replace("\u00a0", " ")
            self.assertNotRegex(text, r"falls by 0 %|[−-]0 %|<b>[−-]\d+ %", query)
            self.assertFalse("short of the limit" in text and "still reaches the limit" in text, query)


class Cold(Agreement):
    def freeze(self, heater_kw: float, air_c: float = -18.0, outlet: int = 2) -> None:
        self.at(2027, 1, 15, 18, 12)  # the evening before its market
        with self.household.recording() as session:
            session.execute(update(CarRow).where(CarRow.id == 2).values(pack_heater_kw=heater_kw, preheats="no"))
            session.execute(update(PresentRow).values(out_now_c=air_c, out_low_c=air_c, typed_at=self.read().now))
            car = session.get_one(CarRow, 2)
            car.habit.outlet = session.get_one(OutletRow, outlet)
        self.household.world.__dict__["weather"] = None

    def test_a_pack_that_is_too_cold_draws_nothing_and_says_so(self) -> None:
        """An LFP pack without a heater drew for 13 hours for nothing, and the outlet was blamed."""
        self.freeze(0.0)
        now = self.read().now
        night = tonight(self.read(now), 2, lambda usual: replace(usual, plug_in=datetime(2027, 1, 1, 23, 0).time()))
        self.assertEqual((night.plan.reason.code, night.plan.session.wall_kwh, night.plan.blocks), ("pack_too_cold", 0.0, ()))
        said = self.said(night)
        self.assertIn("too cold to take charge", said)
        self.assertIn("plug in as soon as you are home", said)
        self.assertNotIn("outlet is too weak", said)
        bench = outlets_bench(self.read(now), 2, lambda usual: replace(usual, outlet=(1, 2)))
        self.assertTrue(all(entry.fill_h == float("inf") for entry in bench.bench.entries if entry.rate))
        self.assertIs(bench.bench.reason, Reason.STRONGEST)
        self.assertNotIn(">enough<", self.client.get("/garage/outlets?car=2&now=1&outlet=1&outlet=2").text)
        self.assertIn(">enough<", self.client.get("/garage/outlets?car=1&now=1&outlet=1&outlet=2").text)

    def test_the_reason_named_is_the_one_that_binds(self) -> None:
        self.freeze(3.0, -25.0)
        cases = (({"soc_now": 0.78, "limit": 0.9}, "cold_takes_hours"), ({"soc_now": 0.1, "limit": 1.0}, "weak_outlet"))
        for levers, code in cases:
            night = tonight(self.read(), 2, lambda usual, levers=levers: replace(
                usual, plug_in=datetime(2027, 1, 1, 23, 30).time(), **levers))  # type: ignore[misc]  # fmt: skip
            self.assertEqual(night.plan.reason.code, code, night.plan.short_soc)

    def test_bench_and_tonight_agree_in_the_same_weather(self) -> None:
        """The bench said 10.6 h where Tonight said "no gain in 13 h": it had another weather."""
        for heater, air_c in ((0.0, -20.0), (6.0, -20.0), (6.0, 5.0)):
            self.freeze(heater, air_c)
            now = self.read().now
            night = tonight(self.read(now), 2, lambda usual: replace(usual, soc_now=0.2))
            bench = outlets_bench(self.read(now), 2, lambda usual: replace(usual, outlet=(2,)))
            self.assertAlmostEqual(bench.need.now_pack_c, night.plan.request.pack_c, delta=0.01)
            entry = next(each for each, outlet in zip(bench.bench.entries, bench.chosen, strict=True) if outlet.id == 2)
            hours = (night.plan.request.departure - night.plan.request.plug_in).total_seconds() / 3600 - 0.5
            reached = night.plan.short_soc < 0.005
            self.assertEqual(reached, entry.fill_h <= hours, (heater, air_c, entry.fill_h, hours, night.plan.short_soc))
            self.assertIn(f"{air_c:.0f}".replace("-", "−"), self.client.get("/garage/outlets?car=2&outlet=2").text)
            self.household.engine.dispose()
