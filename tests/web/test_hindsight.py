"""The nights that are over against their cheapest hours: by arithmetic on a two-step tariff, and what the page says of them."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from itertools import pairwise
from zoneinfo import ZoneInfo

from sqlalchemy import delete, select, update

from frost_tally.core.live.hindsight import bill
from frost_tally.household.models import ChargeRow, DriveRow, HabitRow
from frost_tally.services.hindsight import HindsightRoom, hindsight_room
from tests.web.client import ApartCase
from tests.web.test_api import seen

OSLO = ZoneInfo("Europe/Oslo")


class Nights(ApartCase):
    def room(self, days: int = 30) -> HindsightRoom:
        return hindsight_room(self.read(), 1, lambda usual: replace(usual, days=days), 60.0)

    def charge(
        self, begin: datetime, hours: float, soc: tuple[float, float] = (0.45, 0.75), control: str = "linked"
    ) -> HindsightRoom:
        """The log of the van's other car with one night in it: home at five in the afternoon, away at seven."""
        evening, morning = begin.replace(hour=17, minute=0), (begin + timedelta(days=1)).replace(hour=7, minute=0)
        with self.household.recording() as session:
            session.execute(delete(ChargeRow).where(ChargeRow.car_id == 1))
            session.execute(delete(DriveRow).where(DriveRow.car_id == 1))
            for left, home in ((evening - timedelta(hours=9), evening), (morning, morning + timedelta(hours=9))):
                session.add(DriveRow(car_id=1, left_at=left, home_at=home, noted_at=home, km=80.0, soc_start=0.75, soc_end=0.45))
            ended = begin + timedelta(hours=hours)
            session.add(
                ChargeRow(car_id=1, begun_at=begin, ended_at=ended, site="home", outlet_id=1, soc_start=soc[0], soc_end=soc[1])
            )
            session.execute(update(HabitRow).where(HabitRow.car_id == 1).values(control=control))
        return self.room()

    def test_a_night_in_dear_hours_is_held_against_its_cheap_ones(self) -> None:
        """Common arithmetic: as many kWh, each at the lowest price of the night, is the least that they can cost."""
        room = self.charge(datetime(2027, 1, 11, 17, 5, tzinfo=OSLO), 3.0)
        (night,) = room.nights
        prices = [each.price_per_kwh for each in night.linked.prices]
        spent = night.linked.session.wall_kwh
        self.assertGreater(max(prices), 2 * min(prices))
        self.assertAlmostEqual(bill(night.linked), spent * min(prices), delta=0.02)
        self.assertEqual(night.because, "hours")
        self.assertGreater(night.hours, 0.3 * night.was)
        self.assertAlmostEqual(night.was, night.hours + night.control + night.best, places=9)
        page = seen(self.client.get("/log/hindsight?car=1&now=1").text)
        self.assertIn("other hours", page)
        self.assertIn("The last one began at 17:05", page)

    def test_by_hand_the_hours_that_somebody_is_awake_count_and_a_link_beside_them(self) -> None:
        by_hand = self.charge(datetime(2027, 1, 11, 17, 5, tzinfo=OSLO), 3.0, control="hand").nights[0]
        linked = self.charge(datetime(2027, 1, 11, 17, 5, tzinfo=OSLO), 3.0).nights[0]
        self.assertGreaterEqual(by_hand.best_own, linked.best_own - 1e-6)
        self.assertAlmostEqual(by_hand.best, linked.best, delta=0.01)
        start = by_hand.own.blocks[0].start.astimezone(OSLO)
        self.assertTrue(start.hour >= 17 and start.hour <= 22, start)

    def test_a_night_in_its_cheapest_hours_is_as_good_as_any(self) -> None:
        night = self.charge(datetime(2027, 1, 12, 0, 30, tzinfo=OSLO), 3.0).nights[0]
        self.assertEqual(night.because, "")
        self.assertIn("as good as its cheapest", seen(self.client.get("/log/hindsight?car=1&now=1").text))

    def test_of_a_night_without_levels_or_not_over_yet_nothing_is_said(self) -> None:
        self.charge(datetime(2027, 1, 11, 17, 5, tzinfo=OSLO), 3.0)
        with self.household.recording() as session:
            session.execute(update(ChargeRow).where(ChargeRow.car_id == 1).values(soc_end=None))
        self.assertEqual(self.room().nights, ())
        page = seen(self.client.get("/log/hindsight?car=1&now=1").text)
        self.assertIn("was noted with its levels", page)
        self.charge(self.read().now.replace(hour=17, minute=2), 0.4)
        with self.household.recording() as session:
            session.execute(delete(DriveRow).where(DriveRow.car_id == 1, DriveRow.left_at > datetime(2027, 1, 15, tzinfo=UTC)))
        self.assertEqual(self.room().nights, ())

    def test_the_demos_nights_come_latest_first_and_none_is_below_its_best(self) -> None:
        room = self.room(14)
        self.assertGreater(len(room.nights), 5)
        for later, earlier in pairwise(room.nights):
            self.assertGreater(later.departure, earlier.departure)
        for each in room.nights:
            self.assertLessEqual(each.best, each.best_own + 1e-9)
            self.assertLessEqual(each.best_own, each.was + 1e-9)
        with self.tables() as session:
            logged = session.scalars(select(ChargeRow.cost).where(ChargeRow.car_id == 1, ChargeRow.site == "home")).all()
        self.assertAlmostEqual(room.was / len(room.nights), sum(filter(None, logged)) / len(logged), delta=0.5)

    def test_days_out_of_range_say_so(self) -> None:
        for wrong in ("0", "9999", "x"):
            self.assertEqual(self.client.get("/log/hindsight/live", params={"days": wrong}).status_code, 422)
