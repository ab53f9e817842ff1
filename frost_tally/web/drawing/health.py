"""The battery drawn: health over the years as a fan with its tests, cars side by side on one scale, and what wears it."""

from collections.abc import Callable
from datetime import date, timedelta

import numpy as np

from ...core.battery.life import CAUSES, MONTH_DAYS
from ...core.battery.trend import DAYS_PER_YEAR, Z90
from ...services.battery.life import Battery
from ...services.battery.room import Health
from ..units import Units
from ..words.battery import CAUSE_WORDS, band, points
from .plot import NARROW, WIDE, Plot, Scale, kind
from .svg import box, element, hatches, line, picture, text

LEAST_TOP, STEP = 1.02, 0.05


def trend(health: Health, units: Units, phone: bool = False) -> str:
    """Health from new until some years ahead: tests with their bands, everyday months as dots, the fan, 80 % and the warranty as rules."""
    own = health.battery
    width, high = (NARROW, 300.0) if phone else (WIDE, 330.0)
    left, right, top, foot = 44.0, width - (8 if phone else 92), 12.0, high - 30
    last = health.last_days
    ages = np.linspace(0.0, last, 80)
    mean, sigma = own.trend.at(ages)
    low_end, high_end = mean - Z90 * sigma, mean + Z90 * sigma
    new_kwh = own.car.pack.usable_kwh_new
    tests = [
        (own.age_at(each.test.at), each.capacity.kwh / new_kwh, each.capacity.sigma_kwh / new_kwh, each) for each in own.tests
    ]
    small = [
        ((each.month + 0.5) * MONTH_DAYS - _epoch(own), each.kwh / new_kwh) for found in own.everyday.values() for each in found
    ]
    most = max([LEAST_TOP, *(min(1.1, value + Z90 * doubt) for _, value, doubt, _ in tests)])
    promised = [health.warranty.soh - 0.02] if health.warranty else []
    least = min([0.78, float(mean.min()), *promised, *(value for _, value, _, _ in tests)])
    least = max(0.3, float(np.floor(least / STEP)) * STEP)

    plot = Plot(x := Scale(0.0, last, left, right, held=True), y := Scale(least, most, foot, top, held=True))
    parts = plot.rows((STEP * np.arange(np.ceil(least / STEP), most / STEP)).tolist(), lambda level: f"{100 * level:.0f}")
    parts += [plot.band(ages, low_end, high_end), *plot.ticks(*_years(own, last), every=2 if phone else 1, long=6)]
    parts += _rules(health, plot)
    past = ages <= own.age_days
    parts.append(plot.curve(ages[past], mean[past]))
    parts.append(plot.curve(ages[~past], mean[~past], "level ahead") if (~past).sum() > 1 else "")
    dots = "".join(f"M{x(age):.0f},{y(value):.0f}h0" for age, value in small if age >= 0)
    parts.append(element("path", d=dots, class_="dots"))
    for age in own.trend.steps:
        parts += [plot.post(age, "limit"), text(x(age) + 4, top + 12, "step", "dim")]
    for age, value, doubt, each in tests:
        parts.append(line(x(age), y(value - 2 * doubt), x(age), y(value + 2 * doubt), "rule"))
        parts.append(_mark(x(age), y(value), each.test.how, each.weight < 0.5))
    parts += [
        plot.post(own.age_days),
        text(x(own.age_days) + 7, foot - 8, "today", "b"),
        plot.dot(own.age_days, own.trend.health),
    ]
    if not phone:
        parts.append(text(right + 8, y(float(mean[-1])) + 5, f"{100 * mean[-1]:.0f} %", "b"))
        parts.append(text(right + 8, y(float(mean[-1])) + 23, band(float(low_end[-1]), float(high_end[-1])), "dim"))
    parts.append(plot.base())
    return picture(width, high, _trend_words(health, units), "".join(parts), kind(phone))


def _epoch(own: Battery) -> float:
    return float((own.new_on - date(1970, 1, 1)).days)


def _years(own: Battery, last: float) -> tuple[list[float], Callable[[float], str]]:
    """The turns of the years, as ages, and what they are called."""
    years = range(own.new_on.year + 1, (own.new_on + timedelta(days=last)).year + 1)
    ages = [float((date(year, 1, 1) - own.new_on).days) for year in years]
    return ages, lambda age: str((own.new_on + timedelta(days=age)).year)


def _rules(health: Health, plot: Plot) -> list[str]:
    """80 %, and what the warranty promises until it ends."""
    parts, x, y = [plot.rule(0.8)], plot.across, plot.up
    if health.warranty is not None:
        end = x(health.warranty.ends_days)
        parts += [
            line(44.0, y(health.warranty.soh), end, y(health.warranty.soh), "warm"),
            line(end, y(health.warranty.soh) - 7, end, y(health.warranty.soh) + 7, "warm"),
            text(50.0, y(health.warranty.soh) - 5, f"promised {100 * health.warranty.soh:.0f} %", "ember"),
        ]
    parts.append(text(x.last - 4, y(0.8) - 5, "80 %", "end dim"))
    return parts


def _mark(x: float, y: float, how: str, aside: bool) -> str:
    """A test by its way: driven down a full dot, charged up a square, the car's own figure a ring; one that was set aside is crossed."""
    if how == "discharge":
        shape = element("circle", cx=x, cy=y, r=5, class_="ink")
    elif how == "car":
        shape = element("circle", cx=x, cy=y, r=4.5, class_="now")
    else:
        shape = box(x - 4.5, y - 4.5, 9, 9, "charge")
    return shape + (line(x - 8, y - 8, x + 8, y + 8, "warm") if aside else "")


def _trend_words(health: Health, units: Units) -> str:
    own = health.battery
    ahead = own.age_days + 5 * DAYS_PER_YEAR
    mean, sigma = (float(each[0]) for each in own.trend.at(ahead))
    tests = "; ".join(f"{each.test.at:%B %Y} {units.text(each.capacity.kwh, 'energy')}" for each in own.tests)
    return (
        f"Health since {own.new_on:%B %Y}: now {100 * own.trend.health:.0f} per cent, in five years {100 * mean:.0f} "
        f"({100 * (mean - Z90 * sigma):.0f} to {100 * (mean + Z90 * sigma):.0f}). Tests: {tests or 'none'}."
    )


def together(health: Health, phone: bool = False) -> str:
    """The home's cars on one scale of health: a bar for the band, a stroke for the likely."""
    width = NARROW if phone else WIDE
    them = [health.battery, *(each for each, _ in health.others)]
    least = min(0.9, *(each.trend.band[0] for each in them)) - 0.01
    most = max(1.0, *(each.trend.band[1] for each in them)) + 0.01
    left, right = 120.0 if not phone else 74.0, width - 60

    x = Scale(least, most, left, right)
    parts: list[str] = []
    foot = 14 + 36.0 * len(them)
    for step in np.arange(np.ceil(least / 0.02), most / 0.02):
        at = x(float(step) * 0.02)
        parts += [line(at, 6, at, foot, "faint"), text(at, foot + 16, f"{2 * step:.0f}", "mid dim")]
    for i, each in enumerate(them):
        y, (low, high) = 14 + 36.0 * i, each.trend.band
        parts += [
            text(0, y + 19, each.owned.name, "b"),
            box(x(low), y + 6, x(high) - x(low), 18, "fan"),
            line(x(each.trend.health), y + 1, x(each.trend.health), y + 29, "post"),
            text(width, y + 20, f"{100 * each.trend.health:.0f} %", "b end"),
        ]
    words = "; ".join(f"{each.owned.name} {100 * each.trend.health:.0f} per cent ({band(*each.trend.band)})" for each in them)
    return picture(width, foot + 22, f"Health side by side: {words}.", "".join(parts), kind(phone))


def causes(health: Health, units: Units, phone: bool = False) -> str:
    """What each cause took, solid, and takes in the years to come, hatched; points beside."""
    width, row = (NARROW, 50.0) if phone else (WIDE, 34.0)
    name = "slimwear" if phone else "wear"
    bar_x, room = (0.0, width - 96) if phone else (250.0, 640.0)
    most = max(0.001, *(max(0.0, each.so_far) + max(0.0, each.to_come) for each in health.causes.values()))
    parts = [hatches(name)]
    for i, key in enumerate(CAUSES):
        cause, top = health.causes[key], i * row
        past, more = (max(0.0, each) / most * room for each in (cause.so_far, cause.to_come))
        y = top + (22 if phone else 7)
        said = f"{points(cause.so_far, units)} + {points(cause.to_come, units)}"
        hatch = f"{name}-{'cold' if key == 'cold' else 'heat' if key == 'heat' else 'dear'}"
        parts += [
            text(0, top + (15 if phone else 21), CAUSE_WORDS[key][0], "b"),
            box(bar_x, y, max(past, 1.0), 18, "charge"),
            box(bar_x + max(past, 1.0), y, max(more, 1.0), 18, "edge", hatch),
            text(bar_x + past + more + 10, y + 14, said, "b"),
        ]
    words = "; ".join(
        f"{CAUSE_WORDS[key][0]} {points(each.so_far, units)} so far, {points(each.to_come, units)} to come"
        for key, each in health.causes.items()
    )
    return picture(width, row * len(CAUSES), f"Points of capacity: {words}.", "".join(parts), kind(phone))
