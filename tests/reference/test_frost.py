"""The night plan in frost against a start on every quarter hour, simulated in the same core (brute force)."""

import unittest
from dataclasses import dataclass
from datetime import UTC, datetime, time, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from frost_tally.core.car import preset
from frost_tally.core.charge.night import NightRequest, plan
from frost_tally.core.charge.night_clock import NightClock
from frost_tally.core.charge.session import simulate
from frost_tally.core.charge.supply import Supply, charge_rate
from frost_tally.core.charge.tariff import EVERY_DAY, Band, Tariff, two_band

OSLO = "Europe/Oslo"
SUPPLIES = (
    Supply(name="wall", voltage_v=230, phases=3, breaker_a=16),
    Supply(name="single", voltage_v=230, phases=1, breaker_a=16),
    Supply(name="socket", voltage_v=230, phases=1, breaker_a=16, cable_a=8),
    Supply(name="lead", voltage_v=230, phases=1, breaker_a=10),
)
FLAT = Tariff(name="flat", zone=OSLO, bands=(Band("all", 0.25, time(0), time(0), EVERY_DAY),))


@dataclass(frozen=True)
class Started:
    """A single start by brute force: bill, the highest level it comes to and the level at departure."""

    bill: float
    highest_soc: float
    left_soc: float


def night(seed: int) -> NightRequest:
    """A random night of −25 to −8 °C: any supply and chemistry, flat or two prices, pack warm from the day or soaked."""
    draw = np.random.default_rng(7000 + seed)
    car = preset(str(draw.choice(["compact_hatch", "family_saloon", "small_van", "tall_family"])))
    air_c, swing = float(draw.uniform(-25, -8)), float(draw.uniform(0, 5))
    now = datetime(
        2027, 1, int(draw.integers(2, 28)), int(draw.integers(16, 23)), int(draw.integers(0, 60)), tzinfo=ZoneInfo(OSLO)
    )
    prices = FLAT if draw.random() < 0.4 else two_band("two", OSLO, 0.12, dear=0.30, start=time(22, 30), end=time(6))
    soc = float(draw.uniform(0.15, 0.7))
    return NightRequest(
        now=now,
        plug_in=now,
        departure=(now + timedelta(days=1)).replace(hour=int(draw.integers(5, 10)), minute=0),
        soc=soc,
        target_soc=min(1.0, soc + float(draw.uniform(0.05, 0.35))),
        car=car,
        rate=charge_rate(SUPPLIES[int(draw.integers(0, 4))], car),
        tariff=prices,
        ambient_c=lambda at: air_c + swing * float(np.sin(at.timestamp() / 9000.0)),
        pack_c=air_c if draw.random() < 0.5 else air_c + float(draw.uniform(5, 30)),
    )


def every_quarter_hour(request: NightRequest, margin_s: float) -> list[Started]:
    """Plug-in and each quarter hour of the clock, drawing until the target or so long before departure."""
    start, departs = request.now.astimezone(UTC), request.departure.astimezone(UTC)
    end_s = (departs - start).total_seconds()
    clock = NightClock(start, end_s, tuple(request.tariff.prices(start, departs)))
    first = -start.timestamp() % 900
    found = []
    for begin in (0.0, *np.arange(first, end_s - margin_s, 900.0)):
        done = simulate(
            request.car, request.rate, request.soc, request.target_soc, request.pack_c, [(begin, end_s - margin_s)], end_s,
            lambda s: request.ambient_c(start + timedelta(seconds=s)),
        )  # fmt: skip
        found.append(Started(clock.bill(done), max(step.soc for step in done.steps), done.steps[-1].soc))
    return found


class Frost(unittest.TestCase):
    def test_a_hundred_nights_are_never_dearer_than_the_best_single_start(self) -> None:
        """Never by more than 0.3 %, what stands in the pack at departure counted, and as full as can be; "at once" is the start at plug-in."""
        feasible = 0
        for seed in range(0, 200, 2):
            request = night(seed)
            made, every = plan(request), every_quarter_hour(request, 1800.0)
            able = [each for each in every if each.highest_soc > request.target_soc - 0.0005]
            if not able:
                every = every_quarter_hour(request, 0.0)
            with self.subTest(seed=seed):
                if able:
                    feasible += 1
                    kwh = made.price_in_pack * request.car.pack.usable_kwh
                    self.assertLessEqual(made.short_soc, 0.0006)
                    self.assertLessEqual(
                        made.cost - kwh * made.soc_departure,
                        min(each.bill - kwh * each.left_soc for each in able) + 0.003 * min(each.bill for each in able),
                    )
                else:
                    self.assertGreaterEqual(made.session.steps[-1].soc, max(each.left_soc for each in every) - 0.0006)
                self.assertAlmostEqual(made.cost_at_once / every[0].bill, 1.0, delta=2e-4)
        self.assertGreater(feasible, 50)
