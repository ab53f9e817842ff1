"""`make bench`: print the ratios. Times are of this machine; only the ratios are claims."""

import json
import statistics
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

import numpy as np

from frost_tally.core.drive.cycles import schedule
from frost_tally.core.drive.road import Conditions, cycle_energy_kwh
from frost_tally.core.drive.tally import fair_tally
from frost_tally.services import clock
from frost_tally.services.tonight import tonight
from tests.browser.page import CHROMIUM, FLAGS, Server
from tests.core.test_tally import AGED, DAY, FROST, START
from tests.reference.test_driving import WARM, simulators_car
from tests.reference.test_night import by_highs, instance, ours

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
    instances = []
    for seed in range(60):
        prices, hours, need = instance(seed)
        instances.append(([max(p, 0.001) for p in prices], hours, need))
    mine = milliseconds(lambda: [ours(*each) for each in instances], 5)
    theirs = milliseconds(lambda: [by_highs(*each) for each in instances], 3)
    times = f"ours {mine / 60:8.3f} ms   HiGHS     {theirs / 60:6.1f} ms"
    print(f"hours of a night, 60 instances   {times}   {theirs / mine:6.0f} times faster (aim 20)")


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
    few = Conditions(-12.0, cabin_set_c=20.0)
    for conditions, words in ((few, "exact"), (FROST, "sampled above ten causes")):
        count = len(fair_tally(AGED, DAY, conditions, START).steps)
        spent = milliseconds(lambda conditions=conditions: fair_tally(AGED, DAY, conditions, START))  # type: ignore[misc]
        print(f"a day with its tally, {count:2} causes   {spent:8.1f} ms   {words}")


def page(years: float) -> None:
    server = Server(True, years)
    try:
        spent = []
        for _ in range(20):
            with urllib.request.urlopen(server.address + "/tonight", timeout=30) as answer:
                spent.append(float(answer.headers["server-timing"].split("dur=")[1]))
        core = milliseconds(lambda: tonight(server.home, clock.now(server.home)))
        whole = statistics.median(spent)
        print(f"Tonight, log of {years:4.0f} years        {whole:8.1f} ms on the server, of it {core:.1f} ms computing (aim 50)")
    finally:
        server.stop()


def repaint() -> None:
    from playwright.sync_api import sync_playwright

    server = Server(True, 2)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        for words, size in (("desk", (1280, 800)), ("phone", (390, 844))):
            view = browser.new_page(viewport={"width": size[0], "height": size[1]})
            view.goto(server.address + "/tonight")
            spent = []
            for limit in range(70, 100, 2):
                view.evaluate("() => { delete document.getElementById('live').dataset.ms; }")
                view.get_by_label("Limit slider").fill(str(limit))
                view.wait_for_function("() => document.getElementById('live').dataset.ms")
                spent.append(float(view.evaluate("() => document.getElementById('live').dataset.ms")))
            print(
                f"lever to new picture, {words:5}       {statistics.median(spent):8.1f} ms median, {np.max(spent):.1f} at most (aim 150)"
            )
        browser.close()
    server.stop()


if __name__ == "__main__":
    plan_against_highs()
    cycle_against_simulator()
    day_and_tally()
    page(2)
    page(10)
    repaint()
