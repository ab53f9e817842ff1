"""Said and true: each number is that of the room that works it out, the page comes at once and whole, and one tap does what it advises."""

import re
from collections.abc import Mapping
from dataclasses import replace

from sqlalchemy import update

from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.core.sayings import SAYINGS
from frost_tally.core.sayings.said import Said, Side, Verdict
from frost_tally.household.models import HabitRow, TariffRow
from frost_tally.services.another_car import another_car
from frost_tally.services.battery.room import health
from frost_tally.services.compare import comparison
from frost_tally.services.day.room import day
from frost_tally.services.habits import effects
from frost_tally.services.limit_policies import policies_room
from frost_tally.services.long_day.room import side_by_side
from frost_tally.services.outlets import outlets_bench
from frost_tally.services.parked import parked_room
from frost_tally.services.sayings.room import sayings
from frost_tally.services.timer import timer_room
from frost_tally.services.tonight.room import tonight
from frost_tally.services.warmup.room import warm_up_room
from frost_tally.services.week import week
from frost_tally.services.weekly import weekly_room
from frost_tally.services.winter.room import season
from frost_tally.web.rooms.sayings import words
from frost_tally.web.units import Units
from tests.web.client import WebCase


def numbers(sides: tuple[Side, ...], name: str) -> dict[str, float]:
    """One number of all sides, by side."""
    return {each.key.removeprefix("="): each.numbers[name] for each in sides}


class Equal(WebCase):
    def test_the_page_comes_at_once_then_whole_and_each_number_is_the_rooms_own(self) -> None:
        self.assertIn("more are being worked out", self.client.get("/basis/sayings").text)
        self.assertEqual(self.client.get("/basis/sayings/ready?car=1").status_code, 204)
        whole, only = (self.client.get(f"/basis/sayings?now=1{more}").text for more in ("", "&of=turns"))
        self.assertEqual(set(re.findall(r'<details class="saying" id="(\w+)"', whole)), set(SAYINGS))
        self.assertNotIn("being worked out", whole)
        self.assertGreater(only.count("said-turns"), 2)
        self.assertEqual(only.count("said-turns"), only.count('<details class="saying"'))

        snapshot = self.read()
        room = sayings(snapshot, 1)
        told = room.told
        self.assertEqual((set(told), room.waiting, room.lacking), (set(SAYINGS), (), ()))
        self.in_words(told)
        self.of_the_day(told)
        self.of_the_battery(told)
        self.of_the_year(told)

        long = side_by_side(snapshot, 1, lambda inputs: inputs, None, ())
        low = long.room.low_and_warm
        assert low is not None
        self.assertEqual(numbers(told["low_and_warm"].sides, "minutes"), {"low_warm": low.low_min, "half_cold": low.half_min})
        quickest = min((each, n) for n, each in enumerate(long.frost) if each is not None)[1]
        self.assertEqual(told["fewer_longer"].numbers["cold"], quickest)
        stood = parked_room(
            snapshot, 1, lambda inputs: replace(inputs, days=14, cameras="away", polls="often", at_home=True)
        ).stood  # fmt: skip
        for key, part in (("watching_cameras", "cameras"), ("app_looks", "polling")):
            self.assertAlmostEqual(told[key].numbers["a_day"], stood.parts[part] / 14)
        self.assertEqual(told["washer"].numbers["coldest_c"], season(snapshot, 1).coldest_c)

    def in_words(self, told: Mapping[str, Said]) -> None:
        self.assertEqual(set(words.SAYINGS), set(SAYINGS))
        self.assertEqual(len({title for title, _ in words.SAYINGS.values()}), len(SAYINGS))
        for units in (Units(), Units(distance="mi", temperature="F", pressure="psi", weight="lb")):
            for key, said in told.items():
                text = words.sentence(key, said, units)
                self.assertTrue(text.endswith("."), (key, text))
                self.assertGreater(len(text), 20, key)
                if units.distance == "mi":
                    self.assertNotRegex(text, r"\bkm\b|°C|\bkPa\b", key)

    def of_the_day(self, told: Mapping[str, Said]) -> None:
        snapshot = self.read()
        made, matters, warm = day(snapshot, 1), effects(snapshot, 1), warm_up_room(snapshot, 1)
        remedies = {each.key: each for each in made.remedies}
        self.assertEqual(told["slower"].numbers["km"], remedies["slower_10"].gain_km)
        self.assertEqual(told["slower"].sides[0].numbers["km"], remedies["slower_5"].gain_km)
        self.assertEqual(told["tyres_in_cold"].numbers["km"], remedies["tyres"].gain_km)
        self.assertEqual(told["warm_seats"].numbers["km"], remedies["cooler"].gain_km)
        for key, change in (("roof_box", "box"), ("wheel_covers", "covers"), ("brush_snow", "snow")):
            self.assertEqual(told[key].numbers["town_wh"], matters.town_wh[change])
            self.assertEqual(told[key].numbers["motorway_wh"], matters.motorway_wh[change])
        self.assertEqual(told["gentle_mode"].sides[0].numbers["km"], matters.habits.gentle_km)
        small = {each.key: each.km for each in matters.habits.small}
        self.assertEqual(told["phone"].numbers["km"], small["phone"])
        self.assertEqual(told["lights_and_wipers"].numbers["km"], small["lights"] + small["wipers"])
        self.assertEqual(told["strong_braking"].numbers["put_in_wh"], matters.habits.put_in_wh_per_km)
        self.assertEqual(told["dashboard"].numbers["label_km"], made.rated.label_km)
        assert made.tally is not None
        self.assertEqual(told["frost_halves"].numbers["tomorrow"], made.tally.expected_km / made.tally.mild_km)
        self.assertEqual(told["preheat_from"].numbers["from_km"], warm.advice.pack_from_km)
        self.assertEqual(told["seats_for_short"].numbers["to_km"], warm.advice.seats_to_km)
        worth = {each.choice.value: -each.total for each in warm.advice.options}
        self.assertEqual(numbers(told["always_preheat"].sides, "worth"), worth)
        for option in warm.advice.options:
            self.assertAlmostEqual(option.money, option.plan.cost - warm.advice.options[0].plan.cost + option.parts["level"])
        self.assertEqual(told["always_preheat"].best, warm.advice.best.choice.value)

    def test_the_heating_off_gives_what_the_day_without_it_gives(self) -> None:
        with self.household.recording() as session:  # nothing warmed before: nothing is left of it in the day without
            session.execute(update(HabitRow).values(warm_up=WarmUpChoice.NOTHING.value))
        snapshot = self.read()
        made, off = day(snapshot, 1), day(snapshot, 1, override=lambda inputs: replace(inputs, climate=False, seats=0.0))
        driving = sayings(snapshot, 1, only="heat_or_speed").told["heat_or_speed"]
        assert driving.turn is not None
        at = driving.turn.xs.index(made.conditions.ambient_c)
        gained = (off.arrival.likely - made.arrival.likely) * made.night.car.pack.usable_kwh / made.trip.distance_km * 100
        self.assertAlmostEqual(driving.turn.lines["heat_off"][at], gained, places=4)

    def of_the_battery(self, told: Mapping[str, Said]) -> None:
        snapshot = self.read()
        room = policies_room(snapshot, 1, lambda inputs: inputs)
        early = policies_room(snapshot, 1, lambda inputs: replace(inputs, late=False))
        by_limit = {each.limit: each for each in room.policies}
        self.assertEqual(told["eighty"].numbers["points"], by_limit[0.8].kept[0])
        self.assertEqual(told["eighty"].numbers["best"], room.best.limit)
        self.assertEqual(numbers(told["eighty"].sides, "money")["limit_90"], by_limit[0.9].net)
        self.assertEqual(told["fifty"].numbers["money"], by_limit[0.5].net - by_limit[0.8].net)
        self.assertEqual(told["full_before_leaving"].numbers["points"], room.own.left[0] - early.own.left[0])
        self.assertEqual(told["stored_half"].numbers["half"], room.stored[1, 2])
        self.assertEqual(told["cool_pack"].numbers["warm"], room.stored[2, 4])
        self.assertEqual(told["calibrate"].verdict is Verdict.HOLDS, health(snapshot, 1).drifts is not None)

    def of_the_year(self, told: Mapping[str, Said]) -> None:
        snapshot = self.read()
        tariffs, bench, timer = comparison(snapshot), outlets_bench(snapshot, 1), timer_room(snapshot, 1, lambda inputs: inputs)
        names = dict(tariffs.on_offer)
        totals = {names[number]: year.total for number, year in zip(tariffs.numbers, tariffs.years, strict=True)}
        self.assertEqual(numbers(told["best_tariff"].sides, "money"), totals)
        costs = {outlet.name: each.year_cost for outlet, each in zip(bench.chosen, bench.bench.entries, strict=True)}
        self.assertEqual(numbers(told["wall_unit"].sides, "money"), costs)
        own = next(each for outlet, each in zip(bench.chosen, bench.bench.entries, strict=True) if outlet == bench.owned.outlet)
        by_control = {f"by_{how.value}": cost for how, cost in own.by_control.items()}
        self.assertEqual(numbers(told["cheap_hours"].sides, "money"), by_control)
        night = tonight(snapshot, 1)
        latest = told["cool_hours"].sides[1].numbers
        self.assertEqual((latest["money"], latest["wear"]), (night.plan.cost, night.plan.wear))
        self.assertEqual(told["timer_once"].numbers["more"], timer.made.more)
        weekly = weekly_room(snapshot, 1, lambda inputs: inputs).made
        self.assertEqual(numbers(told["weekly_post"].sides, "money"), {"post": weekly.post_cost, "at_home": weekly.home_cost})
        self.assertAlmostEqual(told["early_or_late"].sides[0].numbers["money"], weekly.home_cost or 0.0)
        outdoors = another_car(snapshot, 1, lambda inputs: replace(inputs, garage="outdoor")).own
        self.assertEqual(numbers(told["garage"].sides, "money")["outdoor"], outdoors.cost)
        larger = told["pack_size"].sides[2].numbers
        there = another_car(snapshot, 1, lambda inputs: replace(inputs, usable_kwh=72.5)).own
        self.assertEqual((larger["money"], larger["cold_km"]), (there.cost, there.cold_km))
        nights = week(snapshot, 1)
        self.assertEqual(told["stay_plugged"].numbers["in"], sum(each.choice.cable.value == "in" for each in nights.nights))


class Page(WebCase):
    def test_one_tap_does_what_it_advises_and_is_undone(self) -> None:
        advised = sayings(self.read(), 1, only="eighty").told["eighty"].act
        assert advised is not None
        before = self.home.car(1).habit.limit
        self.assertNotEqual(before, advised[1])
        done = self.post("/basis/sayings/follow", car="1", saying="eighty")
        self.assertIn("Everyday limit 70 %, for Marten", done.text.replace("\u00a0", " "))
        self.assertEqual(self.home.car(1).habit.limit, advised[1])
        self.undo(done)
        self.assertEqual(self.home.car(1).habit.limit, before)
        for key in ("slower", "stay_plugged", "warm_seats"):
            act = sayings(self.read(), 1, only=key).told[key].act
            assert act is not None
            done = self.post("/basis/sayings/follow", car="1", saying=key)
            self.assertEqual(getattr(self.home.car(1).habit, act[0]), act[1])
            self.undo(done)
            self.assertNotEqual(getattr(self.home.car(1).habit, act[0]), act[1])
        for saying, refusal in (("phone", "There is nothing to set"), ("nothing", "There is no such saying")):
            refused = self.post("/basis/sayings/follow", car="1", saying=saying)
            self.assertEqual((refused.status_code, refusal in refused.text), (422, True))

    def test_a_car_without_a_socket_is_told_what_the_roads_and_the_pack_say_and_what_it_lacks(self) -> None:
        with self.household.recording() as session:
            session.execute(update(HabitRow).where(HabitRow.car_id == 1).values(outlet_id=None, tariff_id=None))
        made = sayings(self.read(), 1)
        self.assertGreater(len(made.told), 30)
        self.assertTrue({"slower", "roof_box", "eighty", "watching_cameras", "weekly_post"} <= set(made.told))
        self.assertTrue({"timer_once", "cheap_hours", "stay_plugged"} <= set(made.lacking))
        self.assertIn("Not told here", self.client.get("/basis/sayings?now=1&car=1").text)
        self.assertEqual(self.client.get("/parked?car=1").status_code, 200)

    def test_every_room_that_is_named_is_there(self) -> None:
        for path, name in words.ROOMS.values():
            self.assertEqual(self.client.get(path).status_code, 200, name)


class Empty(WebCase):
    demo = False

    def test_before_there_is_a_car_it_leads_to_setting_up(self) -> None:
        self.assertIn("/setup", str(self.client.get("/basis/sayings").url))


class OneName(WebCase):
    def test_tariffs_of_one_name_stay_apart(self) -> None:
        with self.household.recording() as session:
            session.execute(update(TariffRow).values(name="Night"))
        told = sayings(self.read(), 1, only="best_tariff").told["best_tariff"]
        self.assertEqual(len(told.sides), len(self.home.contracts))
        self.assertEqual(len({each.key for each in told.sides}), len(self.home.contracts))
