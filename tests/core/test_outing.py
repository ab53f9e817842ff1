"""A day of equal trips: its roads, its cases, warm seats, and a cabin warmed from the pack before the way home."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.car import CABIN_J_PER_K, CABIN_PARKED, preset
from frost_tally.core.drive.day import Drive, Park, Road, Start
from frost_tally.core.drive.outing import Outing
from frost_tally.core.drive.road import Conditions
from frost_tally.core.drive.trip import cases, run, simulate
from frost_tally.core.heat.climate import SEAT_W
from frost_tally.core.heat.lumped import heated_by, lead_to, relax

CAR = preset("compact_hatch")
FROST = Conditions(ambient_c=-12.0, cabin_set_c=20.0)
SOAKED = Start(0.8, -12.0, -12.0)
DAY = Outing(km=30.0, town_km=4.0, country_km=12.0, motorway_kmh=110.0)


class Roads(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(km=st.floats(0.5, 500), town=st.floats(0, 30), country=st.floats(0, 80), motorway=st.booleans())
    def test_every_kilometre_is_on_one_road(self, km: float, town: float, country: float, motorway: bool) -> None:
        outing = Outing(km=km, town_km=town, country_km=country, motorway_kmh=110.0 if motorway else None)
        roads = outing.roads(np.array([km]))
        self.assertAlmostEqual(sum(float(each[0]) for each in roads.values()), km, delta=1e-9)
        self.assertTrue(all(float(each[0]) >= -1e-12 for each in roads.values()))
        self.assertEqual(Road.MOTORWAY in roads, motorway)
        self.assertAlmostEqual(outing.trip().distance_km, 2 * km, delta=1e-6)

    def test_the_way_back_is_the_way_out_turned_round(self) -> None:
        legs = [leg for leg in DAY.trip().legs if isinstance(leg, Drive)]
        self.assertEqual([leg.road for leg in legs[:3]], [leg.road for leg in reversed(legs[3:])])
        four = replace(DAY, trips=4, parked_h=0.5).trip()
        self.assertEqual(sum(leg.hours for leg in four.legs if isinstance(leg, Park)), 1.5)

    def test_stretched_lanes_are_the_days_themselves(self) -> None:
        km = np.array([2.0, 9.0, 30.0])
        stretch = {f"{road.value}_stretch": each for road, each in DAY.roads(km).items()}
        together = run(CAR, DAY.unit_trip(), FROST, replace(cases(CAR, FROST, SOAKED), **stretch))
        for i, one in enumerate(km.tolist()):
            alone = simulate(CAR, replace(DAY, km=one).trip(), FROST, SOAKED)
            self.assertAlmostEqual(float(together.soc_used[i]), float(alone.soc_used[0]), delta=0.002)
            self.assertAlmostEqual(float(together.hours[i]), float(alone.hours[0]), delta=1e-6)


class Warmth(unittest.TestCase):
    def test_the_cabin_warmed_from_the_pack_before_the_way_home(self) -> None:
        """By hand: superposition of the lumped equation; the energy is the heater's for that lead."""
        cold, warm = (simulate(CAR, replace(DAY, warm_home_c=c).trip(), FROST, SOAKED) for c in (None, 20.0))
        stood, ready = (next(e for e in each.ends if isinstance(e.leg, Park)) for each in (cold, warm))
        self.assertAlmostEqual(float(ready.cabin_c[0]), 20.0, delta=1e-6)
        lead = float(lead_to(20.0 - float(stood.cabin_c[0]), 5500.0, CABIN_PARKED, CABIN_J_PER_K))
        self.assertAlmostEqual(
            float(heated_by(5500.0, CABIN_PARKED, CABIN_J_PER_K, lead)), 20.0 - float(stood.cabin_c[0]), delta=1e-6
        )
        longer = float(
            relax(float(stood.cabin_c[0]), -12.0, 5500.0, conductance=CABIN_PARKED, capacity=CABIN_J_PER_K, seconds=lead)
        )
        self.assertAlmostEqual(longer, 20.0, delta=0.5)
        self.assertGreater(float(warm.energy_kwh[0]), float(cold.energy_kwh[0]))
        self.assertLess(float(warm.energy_kwh[0]) - float(cold.energy_kwh[0]), 0.5)

    def test_warm_seats_take_their_watts_and_leave_cabin_and_pack_cold(self) -> None:
        heated, seats = (simulate(CAR, DAY.trip(), at, SOAKED) for at in (FROST, FROST.seats_only()))
        self.assertAlmostEqual(float(seats.parts_kwh["cabin"][0]), 1.5 * SEAT_W * float(seats.hours[0]) / 1000, delta=1e-6)
        self.assertEqual(float(seats.parts_kwh["pack_heat"][0]), 0.0)
        self.assertGreater(float(heated.parts_kwh["pack_heat"][0]), 0.5)
        self.assertLess(float(seats.end_cabin_c[0]), -11.0)
        self.assertAlmostEqual(
            float(seats.worn_kwh[0]), float(seats.energy_kwh[0]), delta=1e-9
        )  # a pack so cold takes nothing back
        self.assertGreater(float(heated.worn_kwh[0]), float(heated.energy_kwh[0]))

    def test_both_books_of_the_pack_close(self) -> None:
        """Conservation, to 1e-6: heat in less heat leaked is heat stored, with a warm-up on the way."""
        for at in (FROST, FROST.seats_only()):
            done = simulate(CAR, replace(DAY, warm_home_c=20.0).trip(), at, SOAKED)
            gap = float(done.heat_in_j[0] - done.leaked_j[0] - done.stored_j[0])
            self.assertLess(abs(gap) / 3.6e6, 1e-6)
