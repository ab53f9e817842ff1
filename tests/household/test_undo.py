"""Undo: rows go back to what they were, with what belongs to them; what was made goes again."""

from frost_tally.core.errors import Refusal
from frost_tally.household.home import cars, household, outlets, tariffs
from frost_tally.household.models import OutletRow, TariffRow, UndoRow
from frost_tally.household.undo import KEPT, put_back, remember
from frost_tally.services import clock
from frost_tally.services import garage as parts
from frost_tally.services import tariffs as service
from frost_tally.services.car_year import car_year
from frost_tally.services.compare import climate_words
from tests.household.test_store import InFolder


class Undo(InFolder):
    def test_a_tariff_comes_back_with_its_bands_and_seasons(self) -> None:
        home = self.home()
        with home.reading() as session:
            before = [(b.name, b.price_per_kwh, b.start, b.days) for b in session.get_one(TariffRow, 2).bands]
        with home.changing() as session:
            undo = remember(session, "test", [("tariff", 2)])
            row = session.get_one(TariffRow, 2)
            row.name, row.bands, row.seasons, row.withdrawn = "gone", [], [], True
        with home.changing() as session:
            self.assertEqual(put_back(session, undo), "test")
        with home.reading() as session:
            row = session.get_one(TariffRow, 2)
            self.assertEqual([(b.name, b.price_per_kwh, b.start, b.days) for b in row.bands], before)
            self.assertEqual([s.name for s in row.seasons], ["Winter"])
            self.assertEqual((row.name, row.withdrawn), ("Hollow Tarn Three-Step", False))
        with self.assertRaises(Refusal), home.changing() as session:
            put_back(session, undo)

    def test_what_was_made_goes_and_a_deleted_row_comes_back(self) -> None:
        home = self.home()
        with home.changing() as session:
            made = OutletRow(
                name="Lamp post",
                voltage_v=230,
                phases=1,
                breaker_a=16,
                code="iec",
                cable_a=None,
                selector_a=None,
                car_setting_a=None,
            )
            session.add(made)
            session.flush()
            added = remember(session, "added", [], [("outlet", made.id)])
            socket = remember(session, "deleted", [("outlet", 2)])
            session.delete(session.get_one(OutletRow, 2))
        with home.changing() as session:
            put_back(session, socket)
            put_back(session, added)
            self.assertEqual([each.name for each in outlets(session)][:2], ["Wall unit", "Barn socket"])
            self.assertNotIn("Lamp post", [each.name for each in outlets(session)])

    def test_the_revision_never_goes_back_and_old_steps_are_forgotten(self) -> None:
        home = self.home()
        with home.changing() as session:
            undo = remember(session, "shift", [("household", 1)])
            household(session).shift = 0.3
        with home.reading() as session:
            revision = household(session).revision
        parts.undo(home, undo)
        with home.reading() as session:
            self.assertEqual((household(session).shift, household(session).revision), (0.0, revision + 1))
        with home.changing() as session:
            for _ in range(KEPT + 20):
                remember(session, "again", [("place", 1)])
            self.assertLessEqual(session.query(UndoRow).count(), KEPT)


class Tariffs(InFolder):
    def test_a_follower_is_kept_in_use_and_the_list_says_who_is_on_what(self) -> None:
        home = self.home()
        found = service.listed(home, clock.now(home))
        self.assertEqual([each.users for each in found], [("Dray",), ("Marten",), ()])
        self.assertGreater(found[2].dated, 500)
        with self.assertRaises(Refusal):
            service.fetch(home, clock.now(home), 1)
        with self.assertRaises(Refusal):
            service.started("nothing")
        with self.assertRaises(Refusal):
            service.stored(home, 99)

    def test_moving_the_clock_on_fetches_the_prices_known_then(self) -> None:
        home = self.home()
        before = service.listed(home, clock.now(home))[2].dated_to
        clock.move_on(home)
        service.fetch_all(home, clock.move_on(home))
        after = service.listed(home, clock.now(home))[2].dated_to
        self.assertEqual((after - before).days, 1)  # type: ignore[operator]
        with home.reading() as session:
            self.assertEqual(len(tariffs(session)), 3)


class CarYears(InFolder):
    def test_a_long_log_is_used_and_a_short_one_gives_the_usual_day(self) -> None:
        home = self.home()
        with home.reading() as session:
            row = cars(session)[0]
            row.days_a_week = 5
            house, now = household(session), clock.now(home)
            year = car_year(session, row, house, now)
            self.assertEqual(year.source, "the usual day, 5 days a week")
            self.assertAlmostEqual(year.total_km, 112 * 261, delta=2 * 112)
            self.assertEqual(float(year.nights.use_kwh[year.km == 0].max(initial=0)), 0.0)
            winter, summer = year.nights.use_kwh[:14], year.nights.use_kwh[170:184]
            self.assertGreater(winter.max(), 1.2 * summer.max())
            self.assertIn("Skarfell", climate_words(house, year.place))
            house.weather = "typed"
            self.assertIn("January (-4 °C)", climate_words(house, year.place))
            cold = car_year(session, row, house, now)
            self.assertNotEqual(float(cold.nights.use_kwh.sum()), float(year.nights.use_kwh.sum()))
