"""Tariffs, the bench and a year against calendars, clocks, the trade and the solver."""

import unittest
from dataclasses import replace
from datetime import date, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from frost_tally.core.battery.cold import Chemistry
from frost_tally.core.car import Body, Car, OnboardCharger, Pack, preset
from frost_tally.core.charge.outlet_comparison import Need, Offer, OnBench, outlet_comparison
from frost_tally.core.charge.supply import Code, Limit, Supply, charge_rate
from frost_tally.core.charge.tariff import Tariff, two_band, year_days
from frost_tally.core.charge.week import SHAPES
from frost_tally.core.charge.year import Nights, charger, plan_year
from frost_tally.core.drive.day import Drive, Park, Road, Trip
from frost_tally.core.drive.usual import day_table
from frost_tally.core.errors import OutOfRange, Refusal
from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.core.units import KM_PER_MILE
from frost_tally.household.calendar import holidays_of
from frost_tally.standins.price_feed import SeededFeed
from tests.reference.test_night import EFFICIENCY, OVERHEAD_KW, WALL_KW, by_highs

OSLO = ZoneInfo("Europe/Oslo")


class Calendars(unittest.TestCase):
    def test_public_holidays_are_those_of_the_almanac(self) -> None:
        """Norway 2027, from memory of the law of 1947 on 1 and 17 May and of Easter on 28 March 2027."""
        fixed = {date(2027, 1, 1), date(2027, 5, 1), date(2027, 5, 17), date(2027, 12, 25), date(2027, 12, 26)}
        easter = date(2027, 3, 28)
        moving = {easter + timedelta(days=shift) for shift in (-3, -2, 0, 1, 39, 49, 50)}
        self.assertEqual({day for day in holidays_of("NO") if day.year == 2027}, fixed | moving)
        self.assertEqual([date(2027, 1, 6) in holidays_of(region) for region in ("DE-BY", "DE-BE")], [True, False])
        for wrong in ("ZZ", "DE-XX", ""):
            with self.assertRaisesRegex(Refusal, "“ZZ” is not a region|“DE-XX” is not a region|“” is not a region"):
                holidays_of(wrong)

    def test_a_year_of_cells_has_every_hour_once(self) -> None:
        """IANA zone rules: a year has 8760 hours whatever the clocks do; the days of the change 23 and 25."""
        tariff = two_band("t", "Europe/Oslo", 0.1, dear=0.3, start=SHAPES["two"].bands[0].start, end=SHAPES["two"].bands[0].end)
        cells = tariff.cells(datetime(2027, 1, 1, tzinfo=OSLO), datetime(2028, 1, 1, tzinfo=OSLO))
        self.assertEqual(len(cells.price_per_kwh), 8760 * 4)
        lengths = np.unique(cells.local_day, return_counts=True)[1] / 4
        self.assertEqual(sorted(set(lengths.tolist())), [23.0, 24.0, 25.0])
        changed = [date(1970, 1, 1) + timedelta(days=int(d)) for d in np.unique(cells.local_day)[lengths != 24]]
        self.assertEqual(changed, [date(2027, 3, 28), date(2027, 10, 31)])

    def test_a_season_over_the_new_year_and_a_leap_day(self) -> None:
        winter = SHAPES["winter"].seasons[0]
        self.assertEqual(len(winter.days()), 30 + 31 + 31 + 29 + 31)
        self.assertIn((2, 29), year_days())
        tariff = Tariff(name="w", zone="Europe/Oslo", bands=SHAPES["winter"].bands, seasons=(winter,))
        for day, dear in (
            (date(2028, 2, 29), True),
            (date(2027, 3, 31), True),
            (date(2027, 4, 1), False),
            (date(2027, 10, 29), False),
            (date(2027, 11, 1), True),
        ):
            seven = datetime(day.year, day.month, day.day, 7, tzinfo=OSLO)
            price = tariff.prices(seven, seven + timedelta(minutes=15))[0].price_per_kwh
            self.assertEqual(price > 0.4, dear, day)


class Chain(unittest.TestCase):
    """Which link holds it: NEC 210.20(A) for the code rule, IEC 61851-1 for the least current."""

    CAR = Car(
        name="x", pack=Pack(chemistry=Chemistry.NMC, usable_kwh_new=60), body=Body(1850, 0.6), charger=OnboardCharger(48, 1, 11.5)
    )

    def test_each_link_can_be_the_narrowest_and_all_are_shown(self) -> None:
        wide = Supply(
            name="w", voltage_v=240, phases=1, breaker_a=100, code=Code.NORTH_AMERICA, cable_a=80, selector_a=70, car_setting_a=60
        )
        self.assertEqual(
            [name for name, _ in charge_rate(wide, self.CAR).limits][:5],
            [Limit.BREAKER, Limit.CODE_RULE, Limit.LEAD, Limit.SELECTOR, Limit.CAR_SETTING],
        )
        for change, held, amps in (
            ({}, Limit.CAR_POWER, 11.5 / 0.24), ({"breaker_a": 50}, Limit.CODE_RULE, 40), ({"shared_a": 50}, Limit.SHARED, 30), ({"cable_a": 40, "selector_a": 40}, Limit.LEAD, 40),
            ({"selector_a": 24}, Limit.SELECTOR, 24), ({"car_setting_a": 16}, Limit.CAR_SETTING, 16), ({"code": Code.IEC, "breaker_a": 20}, Limit.BREAKER, 20),
        ):  # fmt: skip
            rate = charge_rate(replace(wide, **change), self.CAR)
            with self.subTest(held=held):
                self.assertEqual(rate.limited_by, held)
                self.assertAlmostEqual(rate.amps, amps)

    def test_a_shared_circuit_with_nothing_left_is_refused(self) -> None:
        with self.assertRaisesRegex(OutOfRange, "Only 5.0 A are left by the shared"):
            charge_rate(Supply(name="w", voltage_v=230, phases=1, breaker_a=16, shared_a=11), self.CAR)
        with self.assertRaisesRegex(OutOfRange, "What shares the circuit must"):
            Supply(name="w", voltage_v=230, phases=1, breaker_a=16, shared_a=17).checked()


class BenchOfTheTrade(unittest.TestCase):
    """Common practice, through the whole simulation: hours from 0 to 100 % and miles per hour."""

    def entry(self, car: Car, supply: Supply, kwh_per_km: float) -> OnBench:
        need = Need(
            day_km=60,
            mild_kwh=60 * kwh_per_km,
            cold_kwh=80 * kwh_per_km,
            cold_pack_c=10,
            now_kwh_per_km=kwh_per_km,
            now_c=20,
            now_pack_c=20,
            limit_soc=0.8,
            floor_soc=0.2,
            cheap_h=7.5,
            window_h=12.0,
        )
        start = datetime(2027, 1, 10, 18, tzinfo=OSLO).timestamp() + 86_400.0 * np.arange(3, dtype=np.float64)
        nights = Nights(
            plug_in_s=start,
            departure_s=start + 12 * 3600.0,
            use_kwh=np.full(3, 10.0),
            pack_c=np.full(3, 20.0),
            air_c=np.full(3, 20.0),
            morning_c=np.full(3, 20.0),
        )
        cells = Tariff(name="t", zone="Europe/Oslo", bands=SHAPES["two"].bands).cells(
            datetime(2027, 1, 9, tzinfo=OSLO), datetime(2027, 1, 20, tzinfo=OSLO)
        )
        return outlet_comparison([Offer(supply)], car, need, nights=nights, prices=cells).entries[0]

    def test_large_van(self) -> None:
        van = preset("large_van")
        van = replace(van, charger=replace(van.charger, ac_limit_kw=19.2), pack=replace(van.pack, usable_kwh_new=68.0))
        for volts, amps, hours, miles, tolerance in (
            (120, 10, 96, 1.4, 0.15),
            (240, 30, 10.75, 12.5, 0.10),
            (240, 48, 7.5, 18, 0.20),
        ):
            entry = self.entry(
                van, Supply(name="o", voltage_v=volts, phases=1, breaker_a=100, code=Code.NORTH_AMERICA, cable_a=amps), 68 / 217
            )
            with self.subTest(amps=amps):
                if hours < 90:  # the simulation stops looking after five days; so slow an outlet is checked by its rate alone
                    self.assertAlmostEqual(entry.full_h / hours, 1, delta=tolerance)
                self.assertAlmostEqual(entry.km_per_hour / KM_PER_MILE / miles, 1, delta=tolerance)

    def test_small_packs(self) -> None:
        """28 kWh at 240 V × 40 A, car limit 10 kW: about 3.5 h and 60 miles in under 2 h; 24 kWh at 120 V × 12 A 20 h ± 25 %."""
        small = Car(
            name="s",
            pack=Pack(chemistry=Chemistry.NMC, usable_kwh_new=28),
            body=Body(1400, 0.6),
            charger=OnboardCharger(48, 1, 10),
        )
        entry = self.entry(
            small, Supply(name="o", voltage_v=240, phases=1, breaker_a=50, code=Code.NORTH_AMERICA, cable_a=40), 0.145
        )
        self.assertAlmostEqual(entry.full_h, 3.5, delta=0.4)
        self.assertLess(60 * KM_PER_MILE / entry.km_per_hour, 2.0)
        old = replace(small, pack=Pack(chemistry=Chemistry.NMC, usable_kwh_new=24), charger=OnboardCharger(30, 1, 6.6))
        slow = self.entry(old, Supply(name="o", voltage_v=120, phases=1, breaker_a=15, code=Code.NORTH_AMERICA, cable_a=12), 0.15)
        self.assertAlmostEqual(24 / (slow.km_per_hour * 0.15), 20, delta=5)
        self.assertTrue(1.02 < slow.full_h / (24 / (slow.km_per_hour * 0.15)) < 1.06, "the taper above 97 % adds 2 to 6 %")
        self.assertAlmostEqual(
            self.entry(old, Supply(name="o", voltage_v=240, phases=1, breaker_a=40, code=Code.NORTH_AMERICA), 0.15).full_h,
            4.25,
            delta=0.4,
        )


class Years(unittest.TestCase):
    def test_nights_of_half_hourly_prices_cost_what_the_solver_says(self) -> None:
        """Reference: HiGHS (mixed-integer) on the same night, 6 A or more or nothing, overhead while it draws."""
        car = replace(preset("compact_hatch"), charger=OnboardCharger(32, 1, 7.4))
        hung = charger(car, charge_rate(Supply(name="w", voltage_v=230, phases=1, breaker_a=32), car), 0.8, WarmUpChoice.NOTHING)
        begin = datetime(2027, 3, 22, tzinfo=OSLO)
        tariff = replace(
            Tariff(name="h", zone="Europe/Oslo", bands=SHAPES["flat"].bands),
            series=SeededFeed().prices(begin, begin + timedelta(days=12)),
        )
        cells = tariff.cells(begin, begin + timedelta(days=12))
        plugs = [datetime(2027, 3, day, 18, 40, tzinfo=OSLO) for day in range(23, 31)]
        leaves = [(each + timedelta(days=1)).replace(hour=6, minute=50) for each in plugs]
        plug_in, depart = (np.array([each.timestamp() for each in times]) for times in (plugs, leaves))
        use, air = np.full(8, 20.0), np.full(8, 12.0)
        nights = Nights(plug_in_s=plug_in, departure_s=depart, use_kwh=use, pack_c=air + 3.0, air_c=air, morning_c=air)
        done = plan_year(hung, nights, cells)
        for i in range(8):
            first = int((nights.plug_in_s[i] - cells.start_s) // 900)
            edges = cells.start_s + 900 * (first + np.arange(60))
            room = (
                np.clip(np.minimum(edges + 900, nights.departure_s[i] - 1800) - np.maximum(edges, nights.plug_in_s[i]), 0, 900)
                / 3600
            )
            price = cells.price_per_kwh[first : first + 60]
            need = float(done.wall_kwh[i]) / WALL_KW * EFFICIENCY * (WALL_KW - OVERHEAD_KW)
            self.assertAlmostEqual(
                float(done.cost[i]), by_highs(price[room > 0].tolist(), room[room > 0].tolist(), need), delta=1e-6
            )

    def test_cheap_can_be_a_quarter_of_dear_and_the_house_decides(self) -> None:
        """Common practice: with much use by day a flat price beats cheap nights; with a car alone it does not."""
        begin, end = datetime(2027, 1, 1, tzinfo=OSLO), datetime(2027, 2, 1, tzinfo=OSLO)
        night, flat = (
            Tariff(name="t", zone="Europe/Oslo", bands=SHAPES[key].bands).cells(begin, end).price_per_kwh
            for key in ("two", "flat")
        )
        by_day = np.tile(np.repeat([0.0, 1.0, 0.0], [32, 40, 24]), 31)
        by_night = np.tile(np.repeat([1.0, 0.0], [20, 76]), 31)
        self.assertGreater(by_day @ night, by_day @ flat)
        self.assertLess(by_night @ night, by_night @ flat)

    def test_a_day_table_agrees_with_the_days_it_was_made_from_and_between_them(self) -> None:
        car, trip = preset("compact_hatch"), Trip((Drive(Road.COUNTRY, 30), Park(8), Drive(Road.COUNTRY, 30)))
        table = day_table(car, trip, 90.0, WarmUpChoice.CABIN)
        km, air = np.array([60.0, 60.0, 45.0, 0.0]), np.array([0.0, -15.0, -4.0, -9.0])
        kwh, end_c = table.ask(km, air)
        exact = day_table(car, trip.scaled_to(45.0), 45.0, WarmUpChoice.CABIN).ask(km[2:3], np.array([-8.0, 0.0])[:1])[0]
        self.assertLess(kwh[0], kwh[1])
        self.assertEqual((kwh[3], end_c[3]), (0.0, -9.0))
        self.assertLess(kwh[2], exact[0])


class Feed(unittest.TestCase):
    def test_tomorrow_is_known_from_one_in_the_afternoon(self) -> None:
        feed = SeededFeed()
        for hour, day in ((12, 15), (13, 16), (18, 16)):
            self.assertEqual(feed.known_until(datetime(2027, 1, 14, hour, tzinfo=OSLO)), datetime(2027, 1, day, tzinfo=OSLO))

    def test_the_same_seed_gives_the_same_prices_in_any_piece(self) -> None:
        feed, start = SeededFeed(), datetime(2027, 3, 27, tzinfo=OSLO)
        whole = feed.prices(start, start + timedelta(days=3)).checked()
        part = feed.prices(start + timedelta(days=1), start + timedelta(days=2))
        at = np.searchsorted(whole.start_s, part.start_s)
        np.testing.assert_array_equal(whole.price_per_kwh[at], part.price_per_kwh)
        self.assertEqual(len(whole.start_s), 2 * (24 + 23 + 24))
        self.assertGreater(whole.price_per_kwh.max(), 1.5 * whole.price_per_kwh.min())
