"""The supply model against codes, standards and the trade's rules of thumb."""

import unittest
from dataclasses import replace

from scipy.integrate import quad

from frost_tally.core.battery.cold import Chemistry
from frost_tally.core.car import PRESETS, Body, Car, OnboardCharger, Pack, preset
from frost_tally.core.charge.session import Session, fill_up, simulate
from frost_tally.core.charge.supply import HOUSE_PHASES, Code, Limit, Supply, charge_rate, pilot_amps
from frost_tally.core.charge.usual_supplies import USUAL_SUPPLIES
from frost_tally.core.errors import OutOfRange
from frost_tally.core.units import KM_PER_MILE

WIDE_OPEN = Car(
    name="x", pack=Pack(chemistry=Chemistry.NMC, usable_kwh_new=60), body=Body(1850, 0.6), charger=OnboardCharger(80, 1, 19.2)
)


def american(volts: float, amps: float) -> Supply:
    return Supply(name="outlet", voltage_v=volts, phases=1, breaker_a=100, code=Code.NORTH_AMERICA, cable_a=amps)


def pack_kw(volts: float, amps: float, car: Car = WIDE_OPEN) -> float:
    return charge_rate(american(volts, amps), car).pack_kw


class Codes(unittest.TestCase):
    def test_continuous_load_is_four_fifths_of_the_breaker(self) -> None:
        """NEC 210.20(A), 625.41/42: 50 A gives 40, 60 gives 48."""
        for breaker, amps in ((50, 40), (60, 48)):
            rate = charge_rate(Supply(name="w", voltage_v=240, phases=1, breaker_a=breaker, code=Code.NORTH_AMERICA), WIDE_OPEN)
            self.assertEqual((rate.amps, rate.limited_by), (amps, Limit.CODE_RULE))

    def test_iec_circuit_is_used_as_rated(self) -> None:
        """IEC 60364-7-722: a dedicated circuit rated for the load. 3 × 16 A × 230 V = 11.04 kW."""
        car = replace(WIDE_OPEN, charger=OnboardCharger(32, 3, 22))
        self.assertAlmostEqual(charge_rate(Supply(name="w", voltage_v=230, phases=3, breaker_a=16), car).wall_kw, 11.04)

    def test_pilot_duty_cycle(self) -> None:
        """SAE J1772: 16 % is 9.6 A, 53.3 % is 32 A, 90 % is 65 A."""
        for duty, amps in ((16, 9.6), (53.3, 32.0), (90, 65.0)):
            self.assertAlmostEqual(pilot_amps(duty), amps, delta=0.05)

    def test_under_six_amperes_there_is_no_charging(self) -> None:
        """IEC 61851-1."""
        with self.assertRaisesRegex(OutOfRange, "Only 5.6 A are left by the code rule"):
            charge_rate(Supply(name="w", voltage_v=120, phases=1, breaker_a=7, code=Code.NORTH_AMERICA), WIDE_OPEN)


class AsSold(unittest.TestCase):
    def test_a_class_charges_with_what_the_mains_of_its_country_give(self) -> None:
        """Common practice: 11 kW on three phases of 16 A, 7.4 kW on one of 32 A; 11.5 kW on 48 A of a 60 A circuit (NEC 210.20(A))."""
        for key in PRESETS:
            small = PRESETS[key].charger.ac_limit_kw < 8
            iec, american = (preset(key, phases=HOUSE_PHASES[code]) for code in (Code.IEC, Code.NORTH_AMERICA))
            three = charge_rate(USUAL_SUPPLIES[Code.IEC]["wall_three"], iec)
            one = charge_rate(USUAL_SUPPLIES[Code.IEC]["wall_one"], iec)
            wall = charge_rate(USUAL_SUPPLIES[Code.NORTH_AMERICA]["wall_one"], american)
            self.assertAlmostEqual(three.wall_kw, 3.68 if small else 11.0, delta=0.1, msg=key)
            self.assertAlmostEqual(one.wall_kw, 7.36, delta=0.1, msg=key)
            self.assertAlmostEqual(wall.wall_kw, 7.4 if small else 11.25, delta=0.26, msg=key)


class RulesOfThumb(unittest.TestCase):
    """All common practice, with the handbook's tolerances."""

    def test_large_van(self) -> None:
        """68 kWh, about 217 km; a large van's own overhead."""
        van, per_km = preset("large_van"), 68 / 217
        van = replace(van, charger=replace(van.charger, ac_limit_a=80, ac_limit_kw=19.2))
        for volts, amps, hours, km_per_hour, tolerance in (
            (120, 10, 96, 2.25, 0.15),
            (240, 30, 10.75, 20, 0.10),
            (240, 48, 7.5, 29, 0.20),
        ):
            with self.subTest(volts=volts, amps=amps):
                power = pack_kw(volts, amps, van)
                self.assertAlmostEqual(68 / power / hours, 1, delta=tolerance)
                self.assertAlmostEqual(power / per_km / km_per_hour, 1, delta=tolerance)

    def test_family_car_miles_per_hour(self) -> None:
        """155 Wh/km: about 3–4, 27–30 and 40–44 miles per hour.

        The field's 80–86 % at 120 V (below) make the first 4.6 to 5.0: there the two rows of the trade disagree by half a mile.
        """
        for volts, amps, low, high in ((120, 12, 3, 4.7), (240, 32, 27, 30), (240, 48, 40, 44)):
            miles = pack_kw(volts, amps) / 0.155 / KM_PER_MILE
            self.assertTrue(low <= miles <= high, miles)

    def test_small_packs_filled_with_their_taper(self) -> None:
        """28 kWh at 240 V × 40 A (car limit 10 kW) ≈ 3.5 h; 24 kWh: 20 h ± 25 % and ≈ 4–4.5 h; whole sessions."""
        for kwh, volts, amps, limit_kw, low, high in (
            (28, 240, 40, 10, 3.15, 3.85),
            (24, 120, 12, 19.2, 15, 25),
            (24, 240, 27.5, 19.2, 4, 4.5),
        ):
            car = replace(
                WIDE_OPEN, pack=Pack(chemistry=Chemistry.NMC, usable_kwh_new=kwh), charger=OnboardCharger(80, 1, limit_kw)
            )
            hours = fill_up(car, charge_rate(american(volts, amps), car), 0.0, 1.0, 20.0, air_c=20.0).hours_to_limit
            self.assertTrue(low <= hours <= high, (kwh, amps, hours))

    def test_what_reaches_the_pack_of_a_whole_session(self) -> None:
        """Sears et al., 2014 (from memory): 80–86 % at 120 V × 12 A, 86–91 % at 240 V × 3.3 kW; mild, 20 to 80 %."""
        for volts, amps, low, high in ((120, 12, 0.80, 0.86), (240, 13.75, 0.86, 0.91)):
            done = fill_up(WIDE_OPEN, charge_rate(american(volts, amps), WIDE_OPEN), 0.2, 0.8, 20.0, air_c=20.0)
            self.assertTrue(low <= done.pack_kwh / done.wall_kwh <= high, (amps, done.pack_kwh / done.wall_kwh))

    def test_the_taper_takes_the_time_of_its_integral(self) -> None:
        """Arithmetic: ∫ capacity ÷ power from 97 to 100 %, the power falling linearly to a tenth; within 1 % (scipy's quad)."""
        for volts, amps in ((120, 12), (240, 32), (240, 48)):
            rate = charge_rate(american(volts, amps), WIDE_OPEN)
            by_hand = quad(lambda soc, kw=rate.pack_kw: 60 / (kw * (1 - 0.9 * (soc - 0.97) / 0.03)), 0.97, 1.0)[0]
            self.assertAlmostEqual(
                fill_up(WIDE_OPEN, rate, 0.97, 1.0, 20.0, air_c=20.0).hours_to_limit / by_hand, 1.0, delta=0.01
            )


class Sessions(unittest.TestCase):
    def setUp(self) -> None:
        self.rate = charge_rate(american(240, 32), WIDE_OPEN)

    def run_for(
        self,
        hours: float,
        pack_c: float = 20.0,
        ambient_c: float = 20.0,
        car: Car = WIDE_OPEN,
        soc: float = 0.2,
        limit: float = 1.0,
    ) -> Session:
        rate = charge_rate(american(240, 32), car)
        return simulate(car, rate, soc, limit, pack_c, [(0, 3600 * hours)], 3600 * hours, lambda _: ambient_c)

    def test_the_wall_energy_is_pack_heating_and_loss(self) -> None:
        car = replace(WIDE_OPEN, pack=replace(WIDE_OPEN.pack, heater_kw=4))
        done = self.run_for(5, -8, -8, car)
        self.assertAlmostEqual(done.wall_kwh, done.pack_kwh + done.heating_kwh + done.lost_kwh, delta=1e-9)
        self.assertAlmostEqual(done.pack_kwh / 60, max(s.soc for s in done.steps) - 0.2, delta=1e-6)
        self.assertGreater(done.heating_kwh, 0.5)

    def test_power_is_flat_to_97_per_cent_and_tapers_after(self) -> None:
        """Common practice: flat up to about 97 %, a tenth of it at 100 %."""
        steps = self.run_for(12, soc=0.9).steps
        flat = [s.pack_kw for s in steps if 0 < s.soc < 0.97 and s.pack_kw > 0]
        self.assertAlmostEqual(min(flat), max(flat), delta=1e-6)
        late = [s.pack_kw for s in steps if s.soc > 0.995 and s.pack_kw > 0]
        self.assertLess(max(late), 0.35 * flat[0])

    def test_hard_frost_on_a_weak_socket_gains_nothing_for_hours(self) -> None:
        """Common practice: the heater takes it all."""
        car = replace(WIDE_OPEN, pack=replace(WIDE_OPEN.pack, heater_kw=3))
        rate = charge_rate(american(120, 10), car)
        done = simulate(car, rate, 0.5, 0.8, -20, [(0, 9000)], 9000, lambda _: -20.0)
        self.assertLessEqual(done.steps[-1].soc, 0.5)
        self.assertGreater(done.heating_kwh, 1.5)

    def test_the_limit_stops_it_exactly(self) -> None:
        done = self.run_for(10, limit=0.8)
        self.assertAlmostEqual(max(s.soc for s in done.steps), 0.8, delta=1e-6)
        self.assertGreater(done.unused_s, 0)
