"""`make bench`: print the ratios. Times are of this machine; only the ratios are claims."""

import json
import statistics
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime, timedelta
from functools import partial
from pathlib import Path
from zoneinfo import ZoneInfo

import httpx2 as httpx
import numpy as np

from bench.battery_reference import TABLE as CELLS
from bench.battery_reference import cells as public_cells
from bench.battery_reference import day
from bench.battery_reference import left as capacity_left
from bench.coverage import SEED, SEEDS, coverage, demo_cars
from bench.load import load, served
from bench.log_import import import_against_sqlite
from bench.pages import pages
from bench.starting import starting
from frost_tally.core.advice.long_day import plan as plan_long
from frost_tally.core.advice.long_way import LongDayRequest
from frost_tally.core.battery.cold import Chemistry
from frost_tally.core.battery.life import lived
from frost_tally.core.battery.limit_policies import side_by_side
from frost_tally.core.car import preset
from frost_tally.core.charge.control import Control, How
from frost_tally.core.charge.night import NightRequest, _plans, plan
from frost_tally.core.charge.prices import CELL_S
from frost_tally.core.charge.schedules import schedules
from frost_tally.core.charge.stop_table import Post
from frost_tally.core.charge.supply import Supply, charge_rate
from frost_tally.core.charge.year import YearPlan, charger, plan_year
from frost_tally.core.coming.ahead import _kept
from frost_tally.core.coming.ahead import ahead as ahead_of_cars
from frost_tally.core.coming.asked import Asked
from frost_tally.core.coming.costs import costs_by_value
from frost_tally.core.drive import batch
from frost_tally.core.drive.cycles import schedule
from frost_tally.core.drive.day import Drive, Road, Start, Trip
from frost_tally.core.drive.road import Conditions, cycle_energy_kwh
from frost_tally.core.drive.tally import fair_tally
from frost_tally.core.drive.usual import soaked_c
from frost_tally.core.heat.around import _of_day, parked_between
from frost_tally.core.heat.warm import WarmUpChoice
from frost_tally.formats.intervals import read_readings
from frost_tally.services.log_import import intervals as imports
from frost_tally.services.shared.now import now_of
from frost_tally.services.week import week
from scripts.verdict_map import PANELS, advice_at
from tests.browser.page import CHROMIUM, FLAGS, Server
from tests.core.test_battery import own_year
from tests.core.test_control import hourly
from tests.core.test_tally import AGED, DAY, FROST, START
from tests.core.test_year import tariff, year_of
from tests.homes import read
from tests.reference.test_driving import WARM, simulators_car
from tests.reference.test_night import by_highs, instance, ours
from tests.web.test_garage_rooms import csv_of

TABLE = Path(__file__).resolve().parents[1] / "tests" / "reference" / "data" / "simulator.json"


def milliseconds(act: Callable[[], object], repeats: int = 15) -> float:
    """Median time of an action."""
    spent = []
    for _ in range(repeats):
        begun = time.perf_counter()
        act()
        spent.append(1000 * (time.perf_counter() - begun))
    return statistics.median(spent)


def plan_against_highs() -> None:
    """The hours of nights without heat and wear, beside the solver."""
    instances = [linear_night(seed) for seed in range(60)]
    mine = milliseconds(lambda: [ours(*each) for each in instances], 5)
    theirs = milliseconds(lambda: [by_highs(*each) for each in instances], 3)
    times = f"ours {mine / 60:8.3f} ms   HiGHS     {theirs / 60:6.1f} ms"
    print(f"hours of a night, 60 instances   {times}   {theirs / mine:6.0f} times faster (aim 20)")


def linear_night(seed: int) -> tuple[list[float], list[float], float]:
    """Prices, hours and need of a night without heat and wear, no price below nothing."""
    prices, hours, need = instance(seed)
    return [max(p, 0.001) for p in prices], hours, need


def night_and_week() -> None:
    """A night of hourly prices in frost with its wear, from nothing remembered, by turns with one of the solver, so that a slow moment of
    the machine falls on both alike; and seven nights of two cars as the room asks for them.
    """
    nights = [(hourly(seed), linear_night(seed)) for seed in range(40)]

    def anew(ask: NightRequest) -> None:
        schedules.cache_clear()
        _plans.cache_clear()
        plan(ask)

    turns = [
        [(milliseconds(partial(anew, ask), 1), milliseconds(partial(by_highs, *linear), 1)) for ask, linear in nights]
        for _ in range(5)
    ]
    mine, theirs = (np.median([[each[kind] for each in turn] for turn in turns], axis=0) for kind in (0, 1))
    words = f"{np.median(mine):8.1f} ms median, {mine.max():.1f} at most of 40"
    solver, ratio = theirs.mean(), np.median(mine) / theirs.mean()
    print(
        f"a night with frost and wear      {words}   HiGHS a night {solver:6.1f} ms   {ratio:4.2f} of it (aim 1.5), every start weighed"
    )
    server = Server(True, 2)
    try:
        now, ahead = read(server.household).now, iter(range(1, 99))
        decided_beside_a_plain_page(server)
        long_day_beside_a_plain_page(server)

        def both() -> None:
            at = now + timedelta(minutes=next(ahead))
            with server.household.reading(at) as snapshot:
                for car in (1, 2):
                    week(snapshot, car)

        print(f"seven nights of two cars         {milliseconds(both, 5):8.1f} ms (aim 400)")
    finally:
        server.stop()


def decided_beside_a_plain_page(server: Server) -> None:
    """The week of two cars on one cable decided, from what is true of them, nothing of it kept; and a plain page on the same home."""
    snapshot = read(server.household)
    nows = [now_of(snapshot, each.id) for each in snapshot.home.cars]
    tables = (parked_between, _of_day, soaked_c, costs_by_value, _kept)

    def anew() -> None:
        batch.forget()
        for each in tables:
            each.cache_clear()
        _ = ahead_of_cars([Asked(now=each) for each in nows]).decided

    print(f"the week of two cars decided     {by_turns(server, anew)} (aim 10)")


def by_turns(server: Server, work: Callable[[], object]) -> str:
    """Some work beside a plain page, by turns, so that a slow moment of the machine falls on both alike."""
    with httpx.Client(base_url=server.address) as client:
        turns = [
            (milliseconds(lambda: client.get("/garage/house").raise_for_status(), 3), milliseconds(work, 1)) for _ in range(25)
        ]
    page, spent = (statistics.median(each) for each in zip(*turns, strict=True))
    ratio = statistics.median(each / plain for plain, each in turns)
    return f"{spent:8.1f} ms   a plain page {page:6.1f} ms   {ratio:4.1f} of them"


def long_day_beside_a_plain_page(server: Server) -> None:
    """800 km with 16 posts in whole per cents and 4 K, from nothing remembered, beside a plain page."""
    way = Trip((Drive(Road.MOTORWAY, 800.0, 110.0),))
    posts = tuple(Post(km=45.0 * (i + 1), kw=(50.0, 100.0, 150.0)[i % 3], price_per_kwh=0.6) for i in range(16))
    car, air = preset("compact_hatch"), iter(np.linspace(-8.0, 8.0, 99))

    def anew() -> None:
        outside = Conditions(ambient_c=float(next(air)), cabin_set_c=20.0)
        plan_long(LongDayRequest(car=car, way=way, conditions=outside, start=Start(1.0, 12.0, 20.0), posts=posts))

    print(f"800 km, 16 posts                 {by_turns(server, anew)} (aim 30)")


def schools_of_two_cars() -> None:
    """Eight years, six schools, two cars; and one such life against the public battery-life library's, as `make reference` runs it."""
    at, level = day(8 * 365)
    edges, years = np.linspace(at[0], at[-1], 97), [own_year(seed) for seed in (3, 4)]
    cells = list(zip(Chemistry, years, strict=True))
    both = milliseconds(lambda: [side_by_side(cell, 58.0, year) for cell, year in cells])
    print(f"8 years x 6 schools x 2 cars {both:15.1f} ms (aim 100)")
    mine = milliseconds(lambda: lived(Chemistry.NMC, at, level, lambda times: np.full(len(times), 20.0), edges, c_rate=0.1))
    table, origin = json.loads(CELLS.read_text()), "as measured when the table was made; `make reference` runs it beside ours"
    theirs = 1000 * statistics.median(each["seconds"] for each in table["cells"])
    try:
        chosen = [model for _, model in public_cells()][3]
        theirs, origin = 1000 * capacity_left(chosen, 20.0)[1], "run beside ours"
    except ImportError:
        pass
    print(
        f"8 years, day by day      ours {mine:8.1f} ms   library {theirs:7.0f} ms   {theirs / mine:6.0f} times faster (aim 100), {origin}"
    )


def cycle_against_simulator() -> None:
    table = json.loads(TABLE.read_text())
    try:
        import fastsim

        from bench.reference import electric_cars, run

        cars = electric_cars()
        origin = f"{table['simulator']} run beside ours"
    except ImportError:
        cars, origin = (
            [],
            f"{table['simulator']} as measured when the table was made; run `make reference` first to run it beside ours",
        )
    for name in ("udds", "hwfet"):
        row, speeds = table["cars"][0], schedule(name)
        car = simulators_car(row, row["results"][name], speeds)
        mine = milliseconds(lambda car=car, speeds=speeds: cycle_energy_kwh(car, speeds, WARM), 50)  # type: ignore[misc]
        theirs = 1000 * row["results"][name]["seconds"]
        if cars:
            theirs = 1000 * min(run(cars[0].copy(), fastsim.Cycle.from_resource(f"{name}.csv"))["seconds"] for _ in range(5))
        times = f"ours {mine:8.3f} ms   simulator {theirs:6.1f} ms"
        print(f"cycle energy, {name:5}              {times}   {theirs / mine:6.0f} times faster (aim 10)")
    print(f"  ({origin})")


def day_and_tally() -> None:
    few = Conditions(ambient_c=-12.0, cabin_set_c=20.0)
    for conditions, words in ((few, "exact"), (FROST, "sampled above ten causes")):
        made = fair_tally(AGED, DAY, conditions, START)
        count = len(made.steps)
        words += f", largest standard error of a step {made.error_km:.2f} km" if made.error_km else ""

        def anew(conditions: Conditions = conditions) -> None:
            batch.forget()
            fair_tally(AGED, DAY, conditions, START)

        spent = milliseconds(anew)
        print(f"a day with its tally, {count:2} causes   {spent:8.1f} ms   {words}")


def year_of_nights() -> None:
    """365 nights × 4 tariffs × 2 cars, by turns with a plain loop that asks the general solver for each night's hours."""
    begin = datetime(2026, 1, 13, tzinfo=ZoneInfo("Europe/Oslo"))
    cells = [tariff(shape).cells(begin, begin + timedelta(days=369)) for shape in ("two", "three", "winter", "weekend")]
    supply = Supply(name="wall", voltage_v=230, phases=3, breaker_a=32)
    pairs = [(preset(key), charge_rate(supply, preset(key))) for key in ("compact_hatch", "small_van")]

    def all_of_it(how: How = How.LINKED) -> list[YearPlan]:
        hung = [charger(car, rate, 0.8, WarmUpChoice.CABIN_AND_PACK) for car, rate in pairs]
        return [plan_year(replace(each, control=Control(how=how)), year_of(None), grid) for each in hung for grid in cells]

    nights = year_of(12.0, count=40)

    def night_by_night(turn: int) -> None:
        for i in range(8 * turn, 8 * turn + 8):
            first = int((nights.plug_in_s[i] - cells[1].start_s) // CELL_S)
            by_highs(cells[1].price_per_kwh[first : first + 48].tolist(), [0.25] * 48, 20.0)

    turns = [(milliseconds(all_of_it, 1), milliseconds(partial(night_by_night, turn), 1) / 8 * 365 * 8) for turn in range(5)]
    mine, loop = (statistics.median(each) for each in zip(*turns, strict=True))
    ratio = statistics.median(solver / ours for ours, solver in turns)
    times = f"{mine:8.0f} ms   HiGHS night by night {loop:8.0f} ms (from 40)"
    print(f"365 nights × 4 tariffs × 2 cars  {times}   {ratio:6.0f} times faster (aim 50)")
    by_hand = milliseconds(lambda: all_of_it(How.HAND), 3)
    print(f"the same started by hand         {by_hand:8.0f} ms")


def warm_up_by_distance() -> None:
    """The best of five choices at 33 distances as cases of one pass, beside advice asked for one distance at a time."""
    car_class, _, supply = PANELS[0]
    together = milliseconds(lambda: advice_at(car_class, supply, -10.0), 8)
    places = advice_at(car_class, supply, -10.0).by_km
    begun = time.perf_counter()
    for km, _ in places[::4]:
        advice_at(car_class, supply, -10.0, km)
    single = 1000 * (time.perf_counter() - begun) / len(places[::4]) * len(places)
    ratio, count = single / together, len(places)
    print(f"warm-up at {count} distances        {together:8.0f} ms   one by one {single:8.0f} ms   {ratio:6.0f} times faster")


def import_of_a_year() -> None:
    """35 040 quarter hours from CSV: the preview, and taking it over."""
    server = Server(True, 0.05)
    try:
        content = csv_of(35_040).encode()
        reading = milliseconds(lambda: read_readings(content, "Europe/Oslo"), 3)
        begun = time.perf_counter()
        number = imports.prepare(server.household, read(server.household), "readings", name="year.csv", content=content)
        shown = time.perf_counter()
        imports.take(server.household, number)
        taken = time.perf_counter()
        first, second = 1000 * (shown - begun), 1000 * (taken - shown)
        print(
            f"35 040 meter readings   {first:8.0f} ms to the preview (reading {reading:.0f}), {second:.0f} ms to take over (aim 3 s)"
        )
    finally:
        server.stop()


def band_coverage() -> None:
    """How many held-back days lie inside their 10–90 % band (aim 75–85 %), before and after learning."""
    server = Server(True, 0.05)
    try:
        for seed in SEEDS:
            found = [coverage(owned, seed + offset) for offset, owned in enumerate(demo_cars(server.household), 1)]
            days = sum(each.days for each in found)
            before, after = (sum(getattr(each, name) * each.days for each in found) / days for name in ("before", "after"))
            wide = sum(each.wide_before for each in found), sum(each.wide_after for each in found)
            words = f"{100 * before:.0f} % before learning, {100 * after:.0f} % after, {100 * (wide[1] / wide[0] - 1):+.0f} % in width"
            print(f"inside the band, seed {seed:4}, {days} days   {words}{' (the demo)' if seed == SEED else ''}")
    finally:
        server.stop()


def repaint() -> None:
    """How long a pulled lever takes to be a new picture in Chromium."""
    from playwright.sync_api import sync_playwright

    with served(2) as (address, _), sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        for first, words, size in ((70, "desk", (1280, 800)), (71, "phone", (390, 844))):
            view = browser.new_page(viewport={"width": size[0], "height": size[1]})
            view.goto(address + "/tonight")
            spent = []
            for limit in range(first, 100, 2):
                view.evaluate("() => { delete document.getElementById('live').dataset.ms; }")
                view.get_by_label("Limit slider").fill(str(limit))
                view.wait_for_function("() => document.getElementById('live').dataset.ms")
                spent.append(float(view.evaluate("() => document.getElementById('live').dataset.ms")))
            print(
                f"lever to new picture, {words:5}       {statistics.median(spent):8.1f} ms median, {np.max(spent):.1f} at most (aim 150)"
            )
        browser.close()


if __name__ == "__main__":
    plan_against_highs()
    night_and_week()
    cycle_against_simulator()
    schools_of_two_cars()
    day_and_tally()
    year_of_nights()
    warm_up_by_distance()
    import_of_a_year()
    band_coverage()
    import_against_sqlite()
    starting()
    pages(10)
    load(10)
    repaint()
