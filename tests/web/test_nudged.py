"""What a nudged number in the rooms would change without anybody seeing it: each against the value that it is said from."""

import re
from datetime import UTC, datetime, timedelta
from unittest.mock import patch

from sqlalchemy import delete, select, update

from frost_tally.core.charge.plan import LOWER_SOC
from frost_tally.core.charge.week import SHAPES
from frost_tally.core.errors import Refusal
from frost_tally.formats import table
from frost_tally.formats.gpx import Track
from frost_tally.formats.intervals import read_readings
from frost_tally.household.models import ChargeRow, DriveRow, HabitRow, OutletRow
from frost_tally.services.battery.life import battery_of
from frost_tally.services.log_entry.quick import note_track
from frost_tally.services.log_month.room import year
from frost_tally.services.shared.past import model_use
from frost_tally.services.tariffs import FEED, started
from frost_tally.services.tonight.room import tonight
from frost_tally.services.week import week
from frost_tally.web.units import Units
from tests.web.client import WebCase
from tests.web.test_long_day import Rooms

FIRST = datetime(2026, 10, 1, 12, tzinfo=UTC)


class Said(WebCase):
    def test_a_week_is_short_by_what_its_need_is_above_its_departure_and_says_so(self) -> None:
        with self.household.recording() as session:
            session.execute(update(HabitRow).where(HabitRow.car_id == 1).values(motorway_km=330.0, limit=0.7))
            session.execute(update(OutletRow).values(breaker_a=10.0, phases=1))
        made = week(self.read(), 1)
        short = made.short
        self.assertTrue(short)
        for row in made.rows:
            for night in row:
                missing = max(0.0, night.needs_soc - night.night.leaves_soc)
                self.assertAlmostEqual(night.short_soc, missing)
                self.assertEqual(night in short, missing > LOWER_SOC)
        page = re.sub(r"<[^>]+>|\s+", " ", self.client.get("/week?car=1").text).replace("\u00a0", " ")
        for each in short:
            self.assertIn(f"{round(100 * each.short_soc)} % short on its cautious side", page)

    def test_the_air_of_a_night_is_drawn_from_an_hour_before_it_to_an_hour_after_departure(self) -> None:
        night = tonight(self.read(), 1)
        hours = [at for at, _ in night.outside]
        departs = night.plan.request.departure.astimezone(UTC)
        self.assertTrue(timedelta() <= night.plan.start.astimezone(UTC) - hours[0] - timedelta(hours=1) < timedelta(hours=1))
        self.assertTrue(timedelta(hours=1) <= hours[-1] - departs <= timedelta(hours=2))
        self.assertEqual({later - sooner for sooner, later in zip(hours, hours[1:], strict=False)}, {timedelta(hours=1)})
        self.assertTrue(all(celsius == night.weather.temperature_c(at) for at, celsius in night.outside))

    def test_a_shape_with_dated_prices_is_fetched_and_the_others_are_not(self) -> None:
        self.assertEqual(
            {key for key in SHAPES if started(key).feed == FEED}, {key for key, each in SHAPES.items() if each.dated}
        )
        self.assertEqual({started(key).feed for key, each in SHAPES.items() if not each.dated}, {""})

    def test_a_file_of_too_many_lines_is_refused_and_one_line_fewer_taken(self) -> None:
        lines = ["start,minutes,kwh", *(f"2026-01-0{1 + i // 24}T{i % 24:02d}:00:00+00:00,60,0.5" for i in range(40))]
        with patch.object(table, "MOST_ROWS", len(lines)):
            self.assertEqual(len(read_readings("\n".join(lines).encode(), "UTC").value), 40)
        with patch.object(table, "MOST_ROWS", len(lines) - 1), self.assertRaisesRegex(Refusal, "Split it by years"):
            read_readings("\n".join(lines).encode(), "UTC")


class Logged(WebCase):
    def test_a_track_proposes_levels_to_the_per_cent_by_the_model(self) -> None:
        begin = self.read().now - timedelta(hours=6)
        track = Track(
            town_km=3.0, country_km=20.0, motorway_km=40.0, motorway_kmh=100.0, town_kmh=30.0, climb_m=0.0, hours=1.0, parked_h=0.0, notes=(),
            begun_s=begin.timestamp(), ended_s=(begin + timedelta(hours=1)).timestamp(),
        )  # fmt: skip
        note_track(self.household, self.read().now, 1, track, "Track noted")
        with self.tables() as rows:
            drive = rows.scalars(select(DriveRow).where(DriveRow.km == 63.0)).one()
        state = self.read()
        owned = state.home.car(1)
        self.assertEqual(drive.soc_start, owned.habit.limit)
        self.assertEqual(drive.soc_end, round(owned.habit.limit - model_use(state, owned, 63.0, begin), 2))
        self.assertEqual(set(drive.assumed), {"soc_start", "soc_end"})

    def test_charges_with_an_assumed_value_measure_no_capacity(self) -> None:
        def note(assumed: list[str]) -> None:
            with self.household.recording() as session:
                session.execute(delete(ChargeRow))
                session.execute(delete(DriveRow))
                for i in range(12):
                    at = FIRST + timedelta(days=i)
                    session.add(
                        ChargeRow(
                            car_id=1, begun_at=at, ended_at=at + timedelta(hours=3), soc_start=0.3, soc_end=0.8, wall_kwh=31.0, pack_kwh=28.0,
                            site="home", assumed=assumed,
                        )
                    )  # fmt: skip

        counted = []
        for assumed in ([], ["wall_kwh"]):
            note(assumed)
            found = battery_of(self.read(), self.home.car(1)).everyday
            counted.append(sum(each.count for month in found.values() for each in month))
        self.assertGreater(counted[0], 0)
        self.assertEqual(counted[1], 0)

    def test_a_month_charged_elsewhere_counts_in_its_year_and_what_nobody_wrote_down_apart(self) -> None:
        with self.household.recording() as session:
            session.execute(delete(ChargeRow))
            for i, cost in enumerate((10.0, 12.5, None)):
                at = FIRST + timedelta(days=3 * i)
                session.add(
                    ChargeRow(car_id=1, begun_at=at, ended_at=at + timedelta(hours=1), site="fast", wall_kwh=20.0, cost=cost)
                )
        made = year(self.read(), 2026, 1)
        october = made.months[9]
        self.assertEqual((october.wall_kwh, october.home_kwh, october.charges), (60.0, 0.0, 3))
        self.assertEqual((october.cost, october.uncosted, october.uncosted_kwh), (22.5, 1, 20.0))
        self.assertTrue(all(each.charges == 0 for i, each in enumerate(made.months) if i != 9))


class OnTheWay(Rooms):
    def test_where_to_warm_the_pack_from_and_what_that_saves_are_the_plans_own(self) -> None:
        made = self.room(out_c=-12.0)
        warmed = next(each for each in made.made.stops if each.warmed)
        assert made.without_warming is not None
        gain = made.without_warming.total_min - made.made.total_min
        self.assertGreater(gain, 1.0)
        begin = Units().text(max(0.0, warmed.post.km - made.inputs.motorway_kmh / 2), "distance").replace("\u00a0", " ")
        hours, minutes = divmod(round(gain), 60)
        self.assertIn(f"Warm the pack from {begin} on", self.said("way=1&out_c=-12"))
        self.assertIn(
            f"the day is {f'{hours} h ' if hours else ''}{minutes:02d} min" if hours else f"the day is {minutes} min",
            self.said("way=1&out_c=-12"),
        )
        self.assertGreater(warmed.arrive_c, made.without_warming.stops[0].arrive_c)
