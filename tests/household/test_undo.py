"""Undo: rows go back to what they were, with what belongs to them; what was made goes again."""

from dataclasses import replace
from datetime import time

from frost_tally.core.errors import Refusal
from frost_tally.demo.skarfell import EVENING
from frost_tally.household.models import CarRow, OutletRow, PresentRow, TariffRow, UndoRow
from frost_tally.household.parts import household_row, in_order
from frost_tally.household.undo import KEPT
from frost_tally.household.unit_of_work import undoable
from frost_tally.services import tariffs as service
from frost_tally.services.departures.left import settle
from frost_tally.services.shared import clock
from frost_tally.services.shared.car_year import car_year
from frost_tally.web.units import Units
from frost_tally.web.words.garage import climate_words, year_words
from frost_tally.world import World
from tests.homes import read, tables
from tests.household.test_store import InFolder


class Undo(InFolder):
    def test_a_tariff_comes_back_with_its_bands_and_seasons_and_can_be_gone_again(self) -> None:
        home = self.household()

        def shape() -> tuple[object, ...]:
            with tables(home) as session:
                row = session.get_one(TariffRow, 2)
                bands = [(b.name, b.price_per_kwh, b.start, b.days) for b in row.bands]
                return row.name, row.withdrawn, bands, [s.name for s in row.seasons]

        before = shape()
        with home.deciding("gone") as session:
            row = session.get_one(TariffRow, 2)
            row.name, row.bands, row.seasons, row.withdrawn = "gone", [], [], True
        after = shape()
        again = home.undo(session.number)
        self.assertEqual(shape(), before)
        self.assertEqual(undoable(read(home), again), "Taken back: gone")
        third = home.undo(again)
        self.assertEqual((shape(), undoable(read(home), third)), (after, "gone"))
        with self.assertRaisesRegex(Refusal, "There is nothing left to"):
            home.undo(session.number)

    def test_what_was_made_goes_and_a_deleted_row_comes_back(self) -> None:
        home = self.household()
        with home.deciding("outlets") as session:
            lamp = OutletRow(name="Lamp post", voltage_v=230, phases=1, breaker_a=16, code="iec")
            session.add(lamp)
            session.flush()
            lamp.breaker_a = 20
            session.delete(session.get_one(OutletRow, 2))
        home.undo(session.number)
        with home.reading() as reading:
            self.assertEqual([each.name for each in reading.home.outlets][:2], ["Wall unit", "Barn socket"])
            self.assertNotIn("Lamp post", [each.name for each in reading.home.outlets])

    def test_a_decision_that_was_built_upon_is_not_pulled_from_under_it(self) -> None:
        home = self.household()
        numbers = []
        for name in ("first", "second"):
            with home.deciding(name) as session:
                session.get_one(TariffRow, 2).name = name
            numbers.append(session.number)
        with self.assertRaisesRegex(Refusal, "changed again since"):
            home.undo(numbers[0])
        home.undo(numbers[1])
        home.undo(numbers[0])
        with home.reading() as reading:
            self.assertEqual(reading.log.get_one(TariffRow, 2).name, "Hollow Tarn Three-Step")

    def test_times_and_lists_go_back_as_they_were(self) -> None:
        home = self.household()
        with home.deciding("clock") as session:
            row = in_order(session, CarRow)[0]
            row.habit.depart, household_row(session).house_kwh = time(4, 4), [1.0] * 12
            session.get_one(PresentRow, 1).clock = None
        home.undo(session.number)
        with home.reading() as reading:
            self.assertEqual((reading.home.car().habit.depart, reading.home.house.kwh), (time(7, 10), ()))
            self.assertEqual(reading.log.get_one(PresentRow, 1).clock, EVENING)

    def test_the_revision_never_goes_back_and_old_steps_are_forgotten(self) -> None:
        home = self.household()
        with home.deciding("shift") as session:
            household_row(session).shift = 0.3
        with home.reading() as reading:
            revision = reading.revision
        home.undo(session.number)
        with home.reading() as reading:
            self.assertEqual((reading.home.house.shift, reading.revision), (0.0, revision + 1))
        for i in range(KEPT + 5):
            with home.deciding("again") as session:
                household_row(session).shift = i / 1000
        with home.reading() as reading:
            self.assertLessEqual(reading.log.query(UndoRow).count(), KEPT)

    def test_what_is_recorded_makes_no_page_stale(self) -> None:
        """A click of the demo's clock cost 13 revisions."""
        home = self.household()
        with tables(home) as session:
            before = read(home).revision
        now = clock.move_on(home)
        service.fetch_all(home, now)
        self.assertGreater(settle(home, now), 0)
        with tables(home) as session:
            self.assertEqual((read(home).revision, session.query(UndoRow).count()), (before, 0))


class Tariffs(InFolder):
    def test_a_follower_is_kept_in_use_and_the_list_says_who_is_on_what(self) -> None:
        home = self.household()
        found = service.listed(read(home))
        self.assertEqual([each.users for each in found], [("Dray",), ("Marten",), ()])
        self.assertGreater(found[2].dated, 500)
        with self.assertRaisesRegex(Refusal, "This tariff has no feed"):
            service.fetch(home, read(home), 1)
        with self.assertRaisesRegex(Refusal, "There is no such shape"):
            service.started("nothing")
        with self.assertRaisesRegex(Refusal, "There is no such tariff"):
            service.stored(read(home), 99)

    def test_moving_the_clock_on_fetches_the_prices_known_then(self) -> None:
        home = self.household()
        before = service.listed(read(home))[2].dated_to
        clock.move_on(home)
        service.fetch_all(home, clock.move_on(home))
        after = service.listed(read(home))[2].dated_to
        self.assertEqual((after - before).days, 1)  # type: ignore[operator]
        with tables(home) as session:
            self.assertEqual(len(in_order(session, TariffRow)), 3)


class CarYears(InFolder):
    def test_a_long_log_is_used_and_a_short_one_gives_the_usual_day(self) -> None:
        home = self.household()
        with home.recording() as session:
            in_order(session, CarRow)[0].habit.days_a_week = 5
        now = read(home)
        year = car_year(now, now.home.car())
        self.assertEqual(year_words(year), "the usual day, 5 days a week")
        self.assertAlmostEqual(year.total_km, 112 * 261, delta=2 * 112)
        self.assertEqual(float(year.nights.use_kwh[year.km == 0].max(initial=0)), 0.0)
        winter, summer = year.nights.use_kwh[:14], year.nights.use_kwh[170:184]
        self.assertGreater(winter.max(), 1.2 * summer.max())
        self.assertIn("Skarfell", climate_words(year, Units()))
        cold = car_year(replace(now, world=World()), now.home.car())
        self.assertIn("January (−4\u00a0°C)", climate_words(cold, Units()))
        self.assertNotEqual(float(cold.nights.use_kwh.sum()), float(year.nights.use_kwh.sum()))
