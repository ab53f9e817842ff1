"""One coming week: the same departure has one answer in every room, whoever is asked first and with everything forgotten between."""

import gc
import random
from collections.abc import Callable
from dataclasses import replace
from datetime import UTC, date, datetime, time, timedelta
from functools import _lru_cache_wrapper, cache
from typing import Any, cast
from zoneinfo import ZoneInfo

from sqlalchemy import delete, update

from frost_tally.core.home import NotSetUp
from frost_tally.household.models import (
    CarRow,
    ChargeRow,
    DepartureRow,
    DriveRow,
    HabitRow,
    LearntRow,
    OutletRow,
    PlaceRow,
    PresentRow,
)
from frost_tally.services.day.room import day
from frost_tally.services.departures.feed import week_ahead
from frost_tally.services.shared.coming import ahead_of
from frost_tally.services.shared.derived import forget
from frost_tally.services.tonight import keeping as nights
from frost_tally.services.tonight.room import tonight
from frost_tally.services.warmup.room import warm_up_room
from frost_tally.services.week import week
from frost_tally.web.api.rooms import DayAnswer, WarmUpAnswer, day_answer, warm_up_answer
from frost_tally.web.api.tonight import TonightAnswer, tonight_answer
from frost_tally.web.rooms.departures.words import entries
from frost_tally.web.units import Units
from tests.drilled import count, seed_of
from tests.web.client import WebCase

OSLO = ZoneInfo("Europe/Oslo")
SLOW = {"_year", "day_table", "_ended", "schedule", "condensed", "motorway"}
DATES = (date(2027, 1, 14), date(2027, 1, 16), date(2027, 2, 9), date(2027, 3, 27), date(2026, 10, 24), date(2026, 12, 24))
"""Among them the nights on which the clocks change, and holidays."""
Answer = dict[str, object]


@cache
def keeping() -> tuple[Any, ...]:
    """What remembers by value, but for tables of the physics, which hang on nothing of the home."""
    found = (
        each for each in gc.get_objects() if type(each) is _lru_cache_wrapper
    )  # no isinstance: a dead weak reference answers it with an error
    return tuple(each for each in found if each.__module__.startswith("frost_tally") and each.__name__ not in SLOW)


def clear() -> None:
    """Forget everything else."""
    forget()
    for each in keeping():
        each.cache_clear()


class OneWeek(WebCase):
    def make(self, draw: random.Random) -> tuple[datetime, int]:
        """A home of its own: cars, cables, habits, departures, weather, what is kept, and a clock."""
        clock = time(*draw.choice(((18, 12), (20, 47), (17, 3), (6, 5), (23, 31), (2, 30), (12, 0))), draw.randrange(60))
        now = datetime.combine(draw.choice(DATES) + timedelta(days=draw.randrange(4)), clock, OSLO)
        self.household.world.clock.set(now)  # type: ignore[attr-defined]
        with self.household.recording() as session:
            for row in session.query(HabitRow):
                row.control, row.charges = (
                    draw.choice(("hand", "timer", "linked")),
                    draw.choice(("shallow", "shallow", "as_needed")),
                )
                row.plugs, row.limit = draw.choice(("every", "every", "pays", "must")), draw.choice((0.6, 0.7, 0.8, 0.9))
                row.warm_up, row.school = (
                    draw.choice(("nothing", "cabin", "cabin_and_pack")),
                    draw.choice(("late", "early", "cool")),
                )
            if draw.random() < 0.5:
                unit = session.get_one(OutletRow, 1)
                own = {each.name: getattr(unit, each.name) for each in OutletRow.__table__.columns if each.name != "id"}
                session.get_one(HabitRow, 2).outlet = OutletRow(**own)
            if draw.random() < 0.2:
                session.execute(update(CarRow).where(CarRow.id == 2).values(withdrawn=True))
            warm = draw.choice(("advised", "advised", "habit", "cabin", "seats"))
            session.execute(update(DepartureRow).values(warm_up=warm, km=DepartureRow.km * draw.choice((0.4, 1.0, 1.4))))
            if draw.random() < 0.25:
                session.execute(update(DepartureRow).values(withdrawn=True))
            if draw.random() < 0.3:  # nights at a cabin, with an outlet or without
                place = PlaceRow(name="Hut", zone="Europe/Oslo", january_c=-8.0, july_c=12.0)
                session.add(place)
                session.flush()
                own = {each.name: getattr(session.get_one(OutletRow, 2), each.name) for each in OutletRow.__table__.columns}
                session.add(OutletRow(**{**own, "id": None, "name": "Hut", "place_id": place.id}))
                away = {"nights": draw.choice((1, 2)), "place_id": draw.choice((None, place.id)), "on_date": now.date() + timedelta(days=draw.randrange(-1, 5))}  # fmt: skip
                for number in draw.sample((1, 2), draw.choice((1, 2))):
                    leaves = {"at": time(draw.randrange(6, 20), 10), "km": draw.choice((40.0, 90.0)), "since": now.date()}
                    session.add(DepartureRow(car_id=number, uid=f"hut {number}", name="Hut", **away, **leaves))
            if draw.random() < 0.4:
                session.execute(delete(LearntRow))
                session.execute(delete(DriveRow))
            if draw.random() < 0.3:
                session.execute(update(CarRow).where(CarRow.id == 1).values(chemistry="LFP"))
                at = now - timedelta(days=draw.randrange(12))
                session.add(ChargeRow(car_id=1, begun_at=at, ended_at=at + timedelta(hours=3), soc_start=0.5, soc_end=1.0))
        if draw.random() < 0.4:
            with self.household.recording() as session:
                typed = {"out_now_c": draw.uniform(-15, 5), "out_low_c": draw.uniform(-22, 0)}
                session.execute(update(PresentRow).values(typed_at=now - timedelta(hours=draw.choice((1, 30, 80))), **typed))
            self.household.world.__dict__["weather"] = None
        car = draw.choice([each.id for each in self.home.cars])
        if draw.random() < 0.3:
            night = tonight(self.read(now), car, lambda usual: replace(usual, limit=0.85) if draw.random() < 0.5 else usual)
            if night.plan.request.departure > now:
                nights.keep(self.household, night, night.revision, night.plan.request.departure)
        return now, car

    def answers(self, now: datetime, car: int) -> dict[str, Callable[[], Answer]]:
        """What each room says of the next drive and of the night that Tonight speaks of."""

        def of_tonight() -> Answer:
            made = tonight(self.read(now), car)
            drive = made.before_drive
            return {
                "leaves": drive.stay.leaves, "with": made.start.soc, "home": made.arrival, "warm": made.plan.request.choice if made.number == made.ahead.shown else None,
                "blocks": made.plan.blocks, "cost": made.plan.cost, "in": made.night.plugged, "limit": drive.inputs.limit, "soc": made.inputs.soc_now, "api": tonight_answer(made, Units()),
            }  # fmt: skip

        def of_day() -> Answer:
            made = day(self.read(now), car)
            return {"home": made.arrival, "with": made.inputs.leave_soc, "tally": made.tally, "api": day_answer(made, Units())}

        def of_warm_up() -> Answer:
            made = warm_up_room(self.read(now), car)
            if made.idle:
                return {}
            best = made.planned
            return {
                "leaves": made.request.departure,
                "home_likely": best.arrival_soc,
                "with": best.start.soc,
                "warm_": best.choice,
                "api": warm_up_answer(made, Units()),
            }

        def of_week() -> Answer:
            made = week(self.read(now), car)
            told = made.nights[made.ahead.next_charge].night, made.nights[made.ahead.shown].night
            first = next(iter(week_ahead(self.read(now), car)), None)
            calendar = {} if first is None else {"leaves": first.at, "home": first.night.arrival, "with": first.night.leaves_soc}
            return {
                "calendar": calendar,
                "blocks": told[0].plan.blocks, "cost": told[0].plan.cost, "in": told[0].plugged, "home": told[1].arrival, "with": told[1].leaves_soc,
                "leaves": told[1].stay.leaves, "limit": told[1].inputs.limit,
            }  # fmt: skip

        return {"tonight": of_tonight, "day": of_day, "warm-up": of_warm_up, "week": of_week}

    def test_every_room_says_the_same(self) -> None:
        """Levels to 1e-6, times to a tenth of a second, money to 1e-6, the same order of blocks."""
        seed = seed_of("one week")
        for i in range(count(200)):
            with self.subTest(seed=seed + i):
                self.setUp()
                draw = random.Random(seed + i)
                now, car = self.make(draw)
                rooms = self.answers(now, car)
                order = list(rooms)
                draw.shuffle(order)
                told: dict[str, Answer] = {}
                try:
                    for name in order:
                        clear()
                        told[name] = rooms[name]()
                except NotSetUp:
                    continue
                self.agree(told)

    def agree(self, told: dict[str, Answer]) -> None:
        tonight_, day_, warm, week_ = (told[each] for each in ("tonight", "day", "warm-up", "week"))
        calendar, scripts = cast(Answer, week_["calendar"]), cast(TonightAnswer, tonight_["api"])
        for name in ("leaves", "with", "home", "blocks", "cost", "in", "limit"):
            self.same(week_[name], tonight_[name], name)
        self.same(day_["home"], tonight_["home"], "day home")
        self.same(day_["with"], tonight_["with"], "day with")
        if warm:
            self.same(warm["with"], tonight_["with"], "warm-up with")
            self.same(warm["home_likely"], tonight_["home"].likely, "warm-up home")  # type: ignore[attr-defined]
            self.same(warm["leaves"], tonight_["leaves"], "warm-up leaves")
        if calendar:
            for name in ("leaves", "with", "home"):
                self.same(calendar[name], tonight_[name], f"calendar {name}")
        self.assertEqual(
            (scripts.cost, scripts.limit_soc, scripts.soc_now), (tonight_["cost"], tonight_["limit"], tonight_["soc"])
        )
        begins = [[each.start.astimezone(UTC) for each in cast(Any, some)] for some in (scripts.charging, tonight_["blocks"])]
        self.assertEqual(*begins)
        by_day = cast(DayAnswer, day_["api"])
        self.same(by_day.arrival_soc, scripts.arrival_soc, "scripts, day home")
        for cause, km in (scripts.tally_km or {}).items():
            self.assertAlmostEqual((by_day.tally_km or {})[cause], km, places=4, msg=cause)
        if warm:
            self.assertEqual(cast(WarmUpAnswer, warm["api"]).choice, cast(Any, warm["warm_"]).value)

    def same(self, one: object, other: object, what: str) -> None:
        if isinstance(one, float) and isinstance(other, float):
            self.assertAlmostEqual(one, other, places=6, msg=what)
        elif isinstance(one, datetime) and isinstance(other, datetime):
            self.assertLess(abs((one - other).total_seconds()), 0.1, what)
        elif hasattr(one, "likely"):
            for name in ("low", "likely", "high"):
                self.assertAlmostEqual(getattr(one, name), getattr(other, name), places=6, msg=what)
        elif isinstance(one, tuple) and isinstance(other, tuple):
            self.assertEqual(len(one), len(other), what)
            for a, b in zip(one, other, strict=True):
                self.assertLess(abs((a.start - b.start).total_seconds()) + abs((a.end - b.end).total_seconds()), 0.2, what)
        else:
            self.assertEqual(one, other, what)

    def test_the_calendar_has_the_nights_of_a_car_without_a_list(self) -> None:
        with self.household.recording() as session:
            session.execute(update(DepartureRow).values(withdrawn=True))
        found = week_ahead(self.read(), 1)
        self.assertEqual(len(found), 7)
        self.assertTrue(entries)
        self.assertEqual(found[0].at, ahead_of(self.read(), 1).tonight.stay.leaves)
        self.assertIn("plug in", self.client.get("/week/departures.ics?car=1").text)
