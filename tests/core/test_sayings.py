"""The sayings on made homes: each turns where its own lines cross, and follows what it says it depends on."""

import random
import unittest
from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from frost_tally.core.advice.remedies import Situation, helping
from frost_tally.core.advice.weekly import Weekly
from frost_tally.core.basis import Basis, figures
from frost_tally.core.battery.limit_policies import LimitPolicy
from frost_tally.core.car import PRESETS, preset
from frost_tally.core.charge.fast import LowAndWarm
from frost_tally.core.drive.batch import alone
from frost_tally.core.drive.day import Start
from frost_tally.core.drive.extras import Extras
from frost_tally.core.drive.habits import habits
from frost_tally.core.drive.rating import dashboard_km
from frost_tally.core.drive.road import Conditions
from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.core.home import OwnedCar
from frost_tally.core.parts import Habit, Place
from frost_tally.core.sayings import SAYINGS, needs, told
from frost_tally.core.sayings.known import (
    Driving,
    Here,
    Hours,
    Limits,
    LongWay,
    Post,
    Standing,
    Starts,
    Tariffs,
    Warming,
    Week,
    Winter,
)
from frost_tally.core.sayings.over_air import over_air
from frost_tally.core.sayings.said import Said, Verdict, turn_of
from frost_tally.services.habits import on_roads
from frost_tally.services.sayings.sources import OF_THE_DAY, OF_THE_YEAR
from tests.drilled import count, seed_of

WASTES = ("roof_box", "wheel_covers", "empty_boot", "phone", "lights_and_wipers", "watching_cameras", "app_looks", "warm_seats")
"""What follows the price of energy, and the kilometres."""


def made_home(draw: random.Random) -> dict[str, object]:
    """What is known of a made home: a car, its days, the air, a week, a way."""
    key = draw.choice(sorted(PRESETS))
    car, days = preset(key), 365
    trip_km = draw.uniform(8, 140)
    motorway = draw.choice((0.0, 0.5)) * trip_km
    habit = Habit(
        town_km=0.3 * trip_km,
        country_km=0.7 * trip_km - motorway,
        motorway_km=motorway,
        motorway_kmh=draw.choice((90.0, 110.0, 130.0)),
    )
    owned = OwnedCar(id=1, name="Birch", preset=key, car=car, habit=habit, place=Place())
    mean_c, swing_k = draw.uniform(-5, 20), draw.uniform(4, 16)
    air_c = mean_c - swing_k * np.cos(2 * np.pi * np.arange(days) / days) + np.array([draw.gauss(0, 3) for _ in range(days)])
    km = np.array([trip_km if draw.random() < 0.8 else 0.0 for _ in range(days)])
    price = draw.uniform(0.05, 0.6)
    here = Here(
        owned=owned, car=car, km=km, air_c=air_c, use_kwh=0.2 * km, logged=draw.choice((0, days)), price=price, pack_price=120.0, per_euro=1.0
    )  # fmt: skip
    now_c = draw.choice((-18.0, -6.0, 3.0, 12.0, 28.0))
    conditions = Conditions(ambient_c=now_c, cabin_set_c=20.0, tyre_gauge_kpa=car.tyres.placard_kpa - draw.choice((0.0, 25.0)))
    situation = Situation(
        car=car, trip=habit.trip, conditions=conditions, start=Start(0.8, now_c, now_c), extras=Extras(), warmed=WarmUpChoice.NOTHING,
        wall_kw=7.0, price_in_pack=price, morning_price=price, later_c=now_c + draw.choice((0.0, 3.0)), limit_soc=0.8,
    )  # fmt: skip
    over, (town, fast, _) = over_air(situation), on_roads(situation)
    driving = Driving(
        situation=situation, remedies={each.key: each for each in alone(helping(situation))}, tally=None, airs_c=over.airs_c,
        used_kwh=over.used_kwh, gains_kwh=over.gains_kwh, town_wh=town, motorway_wh=fast, 
        habits=habits(car, habit.trip, conditions, situation.start), rated=dashboard_km(car, 0.8), range_km=200.0,
    )  # fmt: skip
    frost = tuple(None if n < 1 else 300.0 + (n - draw.choice((1, 2, 3))) ** 2 * 9 for n in range(6))
    nights = {"plugged": 4, "either": 1, "out": 2}
    return {
        "here": here,
        "driving": driving,
        "warming": Warming(
            pack_from_km=draw.choice((None, 40.0)), seats_to_km=5.0, km=trip_km / 2, air_c=now_c, best="cabin",
            options={"nothing": (0.0, 0.0, 0.0), "cabin": (0.3, 2.0, -0.4), "cabin_and_pack": (0.6, 5.0, draw.uniform(-1, 1))},
        ),
        "hours": Hours(late=(3.0, 0.4), cool=(3.0, draw.uniform(0.3, 0.5)), air_c=now_c),
        "week": Week(nights=7, other_costs=(0.2, draw.uniform(0, 1)), **nights),
        "starts": Starts(planned=(500.0, 50.0, 0.0), at_once=(draw.uniform(400, 900), 55.0, 0.0)),
        "standing": Standing(parts={"cameras": 5.0 / car.pack.usable_kwh, "polling": 2.4 / car.pack.usable_kwh}, idle=0.01, measured=False),
        "winter": Winter(
            tyres_on=None, coldest_c=draw.uniform(-30, 5), twelve_volt="", small_age=None, fast_kwh=0.0, all_kwh=0.0, drifts=""
        ),
        "long": LongWay(
            km=420.0, frost=frost, summer=frost, low=None, beyond_min=(10.0, 30.0), days=draw.choice((0, 5)),
            speeds=tuple((kmh, 300.0 + abs(kmh - 115), 280.0 + abs(kmh - draw.choice((100, 130)))) for kmh in (90.0, 110.0, 130.0)),
        ),
    }  # fmt: skip


class MadeHomes(unittest.TestCase):
    def test_each_turns_where_its_lines_cross_and_follows_what_it_depends_on(self) -> None:
        draw, tried, turned = random.Random(seed_of(self.id())), 0, 0
        for _ in range(count(200)):
            known = made_home(draw)
            found = told(known)
            self.assertGreater(len(found), 30)
            for key, said in found.items():
                turned += self.turns(key, said)
                tried += 1
            self.follows(known, found)
        self.assertGreater(tried, 30 * count(200))
        self.assertGreater(turned, count(200) // 2)

    def turns(self, key: str, said: Said) -> bool:
        """Whether it turns within its axis: there its first and last line change places; nowhere else to the end."""
        turn = said.turn
        if turn is None or len(turn.lines) < 2 or turn.axis == "count" or turn.axis == "speed":
            return False
        first, *_, last = (np.array(each) for each in turn.lines.values())
        gap = np.sign(np.interp(np.linspace(turn.xs[0], turn.xs[-1], 4001), turn.xs, first - last))
        changes = np.flatnonzero(gap[1:] * gap[:-1] < 0)
        if turn.at is None:
            self.assertEqual(len(changes), 0 if key != "washer" else len(changes), key)
            return False
        at = np.linspace(turn.xs[0], turn.xs[-1], 4001)[changes[-1]] if len(changes) else turn.xs[-1]
        self.assertAlmostEqual(turn.at, float(at), delta=0.05 * (turn.xs[-1] - turn.xs[0]) / 10, msg=key)
        if key in ("heat_or_speed", "frost_halves"):
            self.assertEqual(said.verdict, Verdict.TURNS, key)
        return True

    def follows(self, known: Mapping[str, object], found: Mapping[str, Said]) -> None:
        """Dearer energy, or more kilometres, never make a waste smaller; colder air never gives more range; fuller storage never less loss."""
        here, driving = known["here"], known["driving"]
        assert isinstance(here, Here)
        assert isinstance(driving, Driving)
        dearer = told({**known, "here": replace(here, price=2 * here.price)})
        longer = told({**known, "here": replace(here, km=1.5 * here.km, use_kwh=1.5 * here.use_kwh)})
        for key in WASTES:
            if not found[key].yearly:
                continue
            money = found[key].yearly[0].likely
            self.assertAlmostEqual(dearer[key].yearly[0].likely, 2 * money, delta=1e-6 + abs(money) * 1e-9, msg=key)
            if key not in ("watching_cameras", "app_looks"):
                self.assertGreaterEqual(longer[key].yearly[0].likely + 1e-9, money, key)
            self.assertLessEqual(found[key].yearly[0].low, money)
            self.assertGreaterEqual(found[key].yearly[0].high, money)
        turn = found["frost_halves"].turn
        assert turn is not None
        line = np.array(turn.lines["range"])
        self.assertTrue((np.diff(line) > -0.03).all(), line)
        mild = (driving.airs_c >= -13) & (driving.airs_c <= 14)  # colder, a pack that nobody heats takes back some of it
        off = driving.gains_kwh["heat_off"][mild]
        self.assertTrue((np.diff(off) <= 0.02 * driving.used_kwh.max()).all(), off)
        worth = [here.weight(each.yearly) + each.at_stake for each in found.values()]
        self.assertEqual(worth, sorted(worth, reverse=True))


class Table(unittest.TestCase):
    def test_each_names_what_it_asks_for_rests_on_figures_that_are_and_says_where_it_is_worked_out(self) -> None:
        sources = {name for key in SAYINGS for name in needs(key)}
        self.assertEqual(sources - {"here"}, set(OF_THE_YEAR) | set(OF_THE_DAY))
        found = told(made_home(random.Random(1)))
        known = {each.key for each in figures()}
        for key, said in found.items():
            for start in said.rests_on:
                self.assertTrue(any(each.startswith(start) for each in known), (key, start))
            for side in said.sides:
                self.assertTrue(side.numbers, key)

    def test_two_lines_cross_between_two_places(self) -> None:
        self.assertEqual(turn_of("temperature", (0, 10), {"a": (0, 10), "b": (5, 5)}).at, 5.0)
        self.assertIsNone(turn_of("temperature", (0, 10), {"a": (6, 10), "b": (5, 5)}).at)

    def test_a_phone_is_not_worth_a_thought_and_a_tyre_that_nobody_read_is_known_to_nobody(self) -> None:
        known = made_home(random.Random(2))
        driving = known["driving"]
        assert isinstance(driving, Driving)
        situation = replace(driving.situation, conditions=replace(driving.situation.conditions, tyre_gauge_kpa=None))
        found = told({**known, "driving": replace(driving, situation=situation)})
        self.assertEqual(found["phone"].verdict, Verdict.LITTLE)
        self.assertEqual(found["tyres_in_cold"].verdict, Verdict.NOBODY_KNOWS)
        self.assertNotIn(Verdict.LITTLE, [found["roof_box"].verdict])

    def test_a_saying_that_lacks_what_it_asks_for_is_not_told(self) -> None:
        known = made_home(random.Random(3))
        without = told({name: each for name, each in known.items() if name != "driving"})
        self.assertEqual({key for key in SAYINGS if "driving" in needs(key)} & set(without), set())
        self.assertIn("stay_plugged", without)


class ByHand(unittest.TestCase):
    """What is known is written down, and each number is worked out beside it."""

    def say(self, key: str, **known: object) -> Said:
        base = made_home(random.Random(7))
        return told({**base, **known})[key]

    def year(self, said: Said, of: str = "money") -> float:
        return next(each.likely for each in said.yearly if each.of == of)

    def test_late_and_at_once(self) -> None:
        late = self.say("early_or_late", starts=Starts(planned=(500.0, 50.0, 0.0), at_once=(700.0, 45.0, 0.0)))
        self.assertEqual((late.numbers, late.best, self.year(late)), ({"more": 195.0, "wear": -5.0}, "as_planned", 195.0))
        early = self.say("early_or_late", starts=Starts(planned=(500.0, 50.0, 0.0), at_once=(480.0, 45.0, 0.0)))
        self.assertEqual((early.best, self.year(early), early.verdict), ("at_once", 25.0, Verdict.HOLDS))

    def test_tariffs(self) -> None:
        for totals, now, best, verdict in (
            ({"One": 100.0, "Two": 60.0}, "One", "Two", Verdict.HOLDS), ({"One": 60.0, "Two": 100.0}, "One", "One", Verdict.NOT_HERE),
            ({"One": 60.0}, "One", "One", Verdict.NOBODY_KNOWS), ({"One": 100.0, "Two": 95.0}, "One", "Two", Verdict.NOT_HERE),
        ):  # fmt: skip
            said = self.say("best_tariff", tariffs=Tariffs(totals=totals, now=now, best=best))
            self.assertEqual((said.verdict, self.year(said)), (verdict, totals[now] - totals[best]))
            self.assertEqual([each.numbers["money"] for each in said.sides], sorted(totals.values()))

    def test_the_own_place_on_an_axis(self) -> None:
        warming = made_home(random.Random(7))["warming"]
        assert isinstance(warming, Warming)
        for km in (3.0, 40.0):
            near = replace(warming, km=km, pack_from_km=20.0, seats_to_km=5.0)
            for key, at in (("preheat_from", 20.0), ("seats_for_short", 5.0)):
                turn = self.say(key, warming=near).turn
                assert turn is not None
                self.assertEqual((turn.at, turn.own), (at, km))
        options = {"nothing": (0.0, 0.0, 0.0), "cabin": (0.3, 2.0, -0.4), "cabin_and_pack": (0.6, 5.0, 0.1)}
        said = self.say("always_preheat", warming=replace(warming, options=options, best="cabin", pack_from_km=20.0))
        here = made_home(random.Random(7))["here"]
        assert isinstance(here, Here)
        frosty = float(((here.km > 0) & (here.air_c < 0)).sum()) * 365.25 / 365
        self.assertAlmostEqual(self.year(said), 0.5 * frosty)
        self.assertEqual((said.best, said.act), ("cabin", None))

    def test_limits(self) -> None:
        def policy(limit: float, kept: float, raised: float, left: float) -> LimitPolicy:
            return LimitPolicy(
                limit=limit, left=(left, left - 0.02, left + 0.02), kept=(kept, kept - 0.001, kept + 0.001), money=12_000 * kept, raised=raised,
                raise_money=raised * 8 * 0.5, short_days=0.0, short_kwh=0.0, way_money=0.0, full_h=limit * 10, regen_kwh=0.0,
            )  # fmt: skip

        policies = tuple(policy(limit, kept, raised, 0.9 + kept) for limit, kept, raised in (
            (0.5, 0.020, 100.0), (0.6, 0.017, 20.0), (0.7, 0.014, 4.0), (0.8, 0.010, 0.0), (0.9, 0.005, 0.0), (1.0, 0.0, 0.0)))  # fmt: skip
        own, early = policies[3], tuple(replace(each, left=(each.left[0] - 0.004, 0.0, 1.0), full_h=20.0) for each in policies)
        best = max(policies, key=lambda each: each.net)
        stored = np.array([[1e-4, 2e-4, 3e-4, 4e-4, 5e-4], [2e-4] * 5, [3e-4] * 5, [4e-4] * 5, [6e-4] * 5])
        limits = Limits(
            years=8, own=own, best=best, policies=policies, early=early, other_weekly=early, seldom=early, apart=3, stored=stored,
            stored_soc=(0.3, 0.5, 0.7, 0.8, 1.0), stored_c=(-5.0, 5.0, 15.0, 25.0, 35.0), weeks=6.0,
        )  # fmt: skip
        found = {
            key: self.say(key, limits=limits)
            for key in ("eighty", "fifty", "full_before_leaving", "shallow", "stored_half", "cool_pack")
        }
        self.assertEqual(best.limit, 0.7)
        self.assertAlmostEqual(self.year(found["eighty"], "health"), 0.010 / 8)
        self.assertEqual(found["eighty"].act, ("limit", 0.7))
        self.assertIs(found["eighty"].verdict, Verdict.HOLDS)
        self.assertAlmostEqual(self.year(found["fifty"], "health"), 0.010 / 8)
        self.assertAlmostEqual(found["fifty"].numbers["money"], 240.0 - 400.0 - 120.0)
        self.assertIs(found["fifty"].verdict, Verdict.NOT_HERE)
        self.assertAlmostEqual(self.year(found["full_before_leaving"], "health"), 0.004 / 8)
        self.assertAlmostEqual(self.year(found["shallow"], "health"), 0.004 / 8)
        self.assertAlmostEqual(found["shallow"].sides[1].numbers["nights"], 365 / 3)
        self.assertAlmostEqual(self.year(found["stored_half"], "health"), 6e-4 - 2e-4)
        self.assertEqual((found["cool_pack"].numbers["cold"], found["cool_pack"].numbers["warm"]), (3e-4, 3e-4))

    def test_the_weekly_post_turns_at_the_price_at_which_both_cost_alike(self) -> None:
        made = Weekly(
            visits=60, coldest_min=50.0, mildest_min=40.0, hours=45.0, kwh=3000.0, post_cost=1500.0, home_cost=600.0, post_wear=150.0, home_wear=90.0,
            busy_weeks=4,
        )  # fmt: skip
        said = self.say("weekly_post", post=Post(made=made))
        self.assertEqual((self.year(said), self.year(said, "minutes")), (690.0 - 1650.0, -2700.0))
        assert said.turn is not None
        assert said.turn.at is not None
        self.assertAlmostEqual(said.turn.at, (690.0 - 150.0) / 3000.0)
        self.assertAlmostEqual(said.turn.own or 0.0, 0.5)
        self.assertEqual((said.turn.lines["at_home"][0], said.turn.lines["post"][2]), (690.0, 1650.0))
        nowhere = self.say("weekly_post", post=Post(made=replace(made, home_cost=None, home_wear=None)))
        self.assertEqual((nowhere.verdict, len(nowhere.sides), nowhere.turn), (Verdict.HOLDS, 1, None))

    def test_the_long_way(self) -> None:
        way = LongWay(
            km=420.0, frost=(None, 330.0, 310.0, 316.0), summer=(None, 280.0, 290.0, 300.0), beyond_min=(12.0, 30.0), days=4,
            speeds=((90.0, 330.0, 300.0), (110.0, 310.0, 280.0), (130.0, None, 285.0)),
            low=LowAndWarm(kwh=17.0, post_kw=150.0, low_min=10.0, half_min=25.0, cold_c=5.0),
        )  # fmt: skip
        stops = self.say("fewer_longer", long=way)
        self.assertEqual((stops.numbers["cold"], stops.numbers["warm"], stops.numbers["one_more"]), (2.0, 1.0, 6.0))
        self.assertEqual((self.year(stops, "minutes"), stops.verdict), (24.0, Verdict.HOLDS))
        lane = self.say("fast_lane", long=way)
        self.assertEqual((lane.verdict, lane.numbers["best_kmh"], lane.numbers["frost_kmh"]), (Verdict.TURNS, 110.0, 110.0))
        low = self.say("low_and_warm", long=way)
        self.assertEqual((low.numbers["spared"], self.year(low, "minutes")), (15.0, 60.0))
        self.assertEqual(self.say("beyond_eighty", long=way).numbers["times"], 2.5)

    def test_standing_and_the_week(self) -> None:
        here = made_home(random.Random(7))["here"]
        assert isinstance(here, Here)
        usable = here.car.pack.usable_kwh
        standing = Standing(parts={"cameras": 0.08, "polling": 0.04}, idle=0.01, measured=True)
        cameras = self.say("watching_cameras", standing=standing)
        self.assertAlmostEqual(self.year(cameras), 0.08 * usable * 365 * here.price)
        self.assertAlmostEqual(cameras.numbers["km"], 0.08 * usable / 0.2)
        plugged = self.say(
            "stay_plugged", standing=standing, week=Week(nights=7, plugged=4, either=1, out=2, other_costs=(0.5, 0.3, 0.0))
        )
        self.assertAlmostEqual(self.year(plugged), 0.8 * 365 / 7)
        self.assertAlmostEqual(plugged.numbers["a_day"], 0.01 * usable)
        self.assertEqual((plugged.best, plugged.basis), ("to_charge", Basis.MEASURED))
