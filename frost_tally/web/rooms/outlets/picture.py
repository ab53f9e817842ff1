"""The outlets bench drawn: each supply as a channel through its limits, its night beside it, and how the level climbs."""

from collections.abc import Sequence
from dataclasses import dataclass

from ....core.charge.outlet_comparison import Need, OnBench, OutletComparison, Reason
from ....core.charge.supply import ChargeRate
from ...drawing.plot import Plot, Scale, kind
from ...drawing.svg import box, element, ground, hatches, line, path, picture, polygon, text
from ...units import Units
from ...words.reasons import LIMITS, LINKS

ENOUGH = (Reason.CHEAP_HOURS, Reason.WINDOW)
"""Reasons for which the outlet that is named is enough."""
WIDE, ROW, NARROW, NARROW_ROW = 1120.0, 124.0, 356.0, 212.0
SLOWER = 1.15
"""A tenth that takes so much longer than the middle one is slow."""
DEEP, FULL = 62.0, 48.0
DASHES = ("", "9 4", "2 4", "12 3 2 3")


@dataclass(frozen=True, kw_only=True)
class _Place:
    """Where a row's parts lie."""

    channel_x: float
    channel_w: float
    channel_y: float
    night_x: float
    night_w: float
    night_y: float
    short: bool


def describe(bench: OutletComparison, need: Need, units: Units) -> str:
    """The bench in words."""
    rows = []
    for entry in bench.entries:
        if entry.rate is None:
            rows.append(f"{entry.offer.supply.name}: {entry.refusal}")
            continue
        links = ", ".join(f"{name} {amps:.0f} A" for name, amps in entry.rate.limits)
        rows.append(
            f"{entry.offer.supply.name}: {units.text(entry.rate.wall_kw, 'power')}, limits {links}, held by the "
            f"{LIMITS[entry.rate.limited_by]}; a day of {units.text(need.day_km, 'distance')} in frost is back in "
            f"{units.plain(entry.cold_h, 1)} of {units.plain(need.cheap_h, 1)} cheap hours"
        )
    return "Outlets on the bench. " + ". ".join(rows)


def channels(bench: OutletComparison, need: Need, units: Units, phone: bool = False) -> str:
    """All rows one under the other; on a phone each with name, channel and night under each other."""
    width, row, prefix = (NARROW, NARROW_ROW, "slim") if phone else (WIDE, ROW, "bench")
    parts = [hatches(prefix)]
    for i, entry in enumerate(bench.entries):
        top = i * row
        place = (
            _Place(channel_x=0, channel_w=NARROW, channel_y=top + 62, night_x=0, night_w=NARROW, night_y=top + 172, short=True)
            if phone
            else _Place(channel_x=230, channel_w=560, channel_y=top + 20, night_x=830, night_w=286, night_y=top + 42, short=False)
        )
        parts += _head(entry, 0, top + (22 if phone else 24), i == bench.named and bench.reason in ENOUGH, units)
        parts += _row(entry, bench, need, units, place)
        if i:
            parts.append(line(0, top - 2, width, top - 2, "faint"))
    return picture(width, row * len(bench.entries), describe(bench, need, units), "".join(parts), kind(phone))


def hung(cars: Sequence[tuple[str, ChargeRate]], units: Units, phone: bool = False) -> str:
    """Cars on their outlets: a channel for each, for the garage's first page."""
    width, row = (NARROW, 130.0) if phone else (WIDE, 98.0)
    prefix, parts = ("slimhung", [hatches("slimhung")]) if phone else ("hung", [hatches("hung")])
    most = max((_deepest_kw(rate) for _, rate in cars), default=1.0)
    for i, (name, rate) in enumerate(cars):
        top = i * row
        at = (
            _Place(channel_x=0, channel_w=NARROW, channel_y=top + 34, night_x=0, night_w=0, night_y=0, short=True)
            if phone
            else _Place(channel_x=230, channel_w=890, channel_y=top + 8, night_x=0, night_w=0, night_y=0, short=False)
        )
        parts += [text(0, top + (16 if phone else 32), name, "b"), *_channel(rate, most, at, prefix)]
        parts.append(
            text(
                *(
                    (NARROW, top + 16, units.text(rate.wall_kw, "power"), "end b")
                    if phone
                    else (0, top + 60, units.text(rate.wall_kw, "power"), "big")
                )
            )
        )
    words = "; ".join(
        f"{name} {units.text(rate.wall_kw, 'power')}, held by the {LIMITS[rate.limited_by]} at {rate.amps:.0f} A"
        for name, rate in cars
    )
    return picture(width, row * len(cars), f"What each car gets. {words}", "".join(parts), kind(phone))


def _head(entry: OnBench, x: float, y: float, enough: bool, units: Units) -> list[str]:
    name = entry.offer.supply.name
    parts = [text(x, y, name if len(name) < 27 else name[:25] + "…", "b")]
    if entry.rate is not None:
        parts.append(text(x, y + 28, units.text(entry.rate.wall_kw, "power"), "big"))
    if enough:
        parts.append(text(x + 132, y + 27, "enough", "b"))
        parts.append(path([(x + 108, y + 21), (x + 114, y + 28), (x + 127, y + 12)], "level"))
    return parts


def _row(entry: OnBench, bench: OutletComparison, need: Need, units: Units, at: _Place) -> list[str]:
    if entry.rate is None:
        return [text(at.channel_x, at.channel_y + 30, words, "ember b") for words in [entry.refusal[:70]]]
    most = max(_deepest_kw(each.rate) for each in bench.entries if each.rate)
    prefix = "slim" if at.short else "bench"
    return [*_channel(entry.rate, most, at, prefix), *_night(entry, need, units, at, prefix)]


def _deepest_kw(rate: ChargeRate) -> float:
    """The power of a supply's widest link."""
    return max(amps for _, amps in rate.limits) * rate.wall_kw / rate.amps


def _channel(rate: ChargeRate, most: float, at: _Place, prefix: str) -> list[str]:
    """Links as stretches of a channel as deep as their kilowatts; what flows is as deep as the narrowest."""
    middle, per_kw = at.channel_y + DEEP / 2, rate.wall_kw / rate.amps / most * FULL
    step = at.channel_w / len(rate.limits)
    flow = max(3.0, rate.amps * per_kw)
    bed, labels, ends = [], [], [-99.0, -99.0]
    for i, (name, amps) in enumerate(rate.limits):
        deep = max(3.0, amps * per_kw)
        x = at.channel_x + i * step
        bed.append(ground(x, middle - deep / 2, step - 3, height=deep, prefix=prefix))
        binds = name == rate.limited_by
        number = f"{amps:.0f} A"
        if binds:
            centre = x + (step - 3) / 2
            for sign in (-1, 1):
                edge = middle + sign * flow / 2
                bed.append(
                    polygon([(centre - 7, edge + sign * 11), (centre + 7, edge + sign * 11), (centre, edge + sign * 2)], "ink")
                )
        if not at.short or binds:
            words = f"{LINKS[name]} {number}"
            half = 4.2 * len(words)
            centre = min(max(x + (step - 3) / 2, at.channel_x + half), at.channel_x + at.channel_w - half)
            lower = int(centre - half < ends[0] + 6)  # a second row where the first is taken
            ends[lower] = centre + half
            labels.append(text(centre, at.channel_y + DEEP + 20 + 17 * lower, words, "mid b" if binds else "mid dim"))
        elif amps > 1.05 * rate.amps and step > 40:
            labels.append(text(x + (step - 3) / 2, middle - deep / 2 - 4, f"{amps:.0f}", "mid dim"))
    stream = box(at.channel_x, middle - flow / 2, at.channel_w - 3, flow, "charge")
    return [*bed, stream, *labels]


def _night(entry: OnBench, need: Need, units: Units, at: _Place, prefix: str) -> list[str]:
    """The night as a bar: cheap hours framed, the hours that a frosty and a mild day take."""
    per = at.night_w / max(need.window_h, 1e-6)
    cheap = need.cheap_h * per
    cold = min(entry.cold_h, need.window_h) * per
    mild = min(entry.mild_h, need.window_h) * per
    beyond = entry.cold_h > need.window_h
    hours = "more than the night" if beyond else units.text(entry.cold_h, "hours")
    return [
        text(
            at.night_x,
            at.night_y - 8,
            f"in frost {hours}, cheap {units.text(need.cheap_h, 'hours')}",
            "b" if entry.cold_h <= need.cheap_h else "",
        ),
        box(at.night_x, at.night_y, at.night_w, 20, "terrain"),
        box(at.night_x + cheap, at.night_y, max(at.night_w - cheap, 0), 20, fill=f"{prefix}-dear"),
        box(at.night_x, at.night_y + 4, cold, 12, "rime-line", f"{prefix}-cold"),
        box(at.night_x, at.night_y + 4, mild, 12, "charge"),
        line(at.night_x + cheap, at.night_y - 4, at.night_x + cheap, at.night_y + 26, "post"),
    ]


def climb(bench: OutletComparison, need: Need, units: Units, phone: bool = False) -> str:
    """Level (and above it the pack's temperature) over the hours from the floor to the limit, a line for each outlet."""
    shown = [(i, e) for i, e in enumerate(bench.entries) if e.session is not None]
    if not shown:
        return ""
    top = 62.0 + 17 * len(shown)
    width, foot = (NARROW, top + 190) if phone else (WIDE, top + 150)
    left, right, height = 40.0, 16.0, foot + 26
    most_h = min(24.0, max(min(e.fill_h, 24.0) for _, e in shown) * 1.02)
    across = width - left - right

    highest = max(need.limit_soc, need.floor_soc + 1e-6)
    plot = Plot(x := Scale(0.0, most_h, left, left + across, held=True), y := Scale(need.floor_soc, highest, foot, top))
    temps = [s.pack_c for _, e in shown for s in e.session.steps if s.at_s <= most_h * 3600]  # type: ignore[union-attr]
    low, high = min(temps), max(max(temps), min(temps) + 8)
    parts = [plot.rule(need.limit_soc), plot.base()]
    parts += [text(0, y(need.limit_soc) + 5, f"{100 * need.limit_soc:.0f} %"), text(0, foot + 5, f"{100 * need.floor_soc:.0f} %")]
    every = 1 if most_h <= 6 else 2 if most_h <= 12 else 4
    parts += plot.ticks(range(0, int(most_h) + 1, every), lambda hour: f"{hour} h")
    order = {i: place for place, (i, _) in enumerate(sorted(shown, key=lambda pair: -pair[1].fill_h))}
    parts += [text(left, 14, f"pack, {units.text(low, 'temperature', 0)} to {units.text(high, 'temperature', 0)}", "rime")]
    for i, entry in shown:
        steps = [s for s in entry.session.steps if s.at_s <= min(entry.fill_h, most_h) * 3600 + 1]  # type: ignore[union-attr]
        dash = {"stroke_dasharray": DASHES[i % 4]} if DASHES[i % 4] else {}
        thin = steps[:: max(1, len(steps) // 60)] + steps[-1:]
        curve = "M" + " L".join(f"{x(s.at_s / 3600):.1f},{y(s.soc):.1f}" for s in thin)
        heat = "M" + " L".join(f"{x(s.at_s / 3600):.1f},{50 - (s.pack_c - low) / (high - low) * 30:.1f}" for s in thin)
        parts += [element("path", d=curve, class_="level", **dash), element("path", d=heat, class_="outside", **dash)]
        end, row = x(min(entry.fill_h, most_h)), 66 + 17 * order[i]
        parts += [line(end, row + 3, end, y(steps[-1].soc), "faint"), _end_label(entry, end, row, width, units)]
    words = "; ".join(f"{e.offer.supply.name} {units.plain(e.fill_h, 1)} hours" for _, e in shown)
    label = f"Level from {100 * need.floor_soc:.0f} to {100 * need.limit_soc:.0f} per cent, with the pack's temperature. {words}"
    return picture(width, height, label, "".join(parts), kind(phone))


def tenths(bench: OutletComparison, units: Units, phone: bool = False) -> str:
    """Minutes for each tenth of the level, a row of columns for each outlet: the ends of the range show how they are slower."""
    shown = [entry for entry in bench.entries if len(entry.tenths_min) == 10]
    width, left, row, name = (NARROW, 0.0, 92.0, "slimtenths") if phone else (WIDE, 230.0, 74.0, "tenths")
    step = (width - left) / 10
    parts, said = [hatches(name)], list[str]()
    for i, entry in enumerate(shown):
        top, foot, most = i * row, i * row + row - 18, max(entry.tenths_min)
        parts.append(text(0, top + (14 if phone else 44), entry.offer.supply.name[:28], "b"))
        for k, minutes in enumerate(entry.tenths_min):
            high = max(2.0, minutes / most * (row - (56 if phone else 38)))
            slow = minutes > SLOWER * sorted(entry.tenths_min)[4]
            x = left + k * step
            parts.append(
                box(x + 4, foot - high, step - 8, high, "rime-line" if slow else "charge", f"{name}-cold" if slow else "")
            )
            parts.append(text(x + step / 2, foot - high - 4, f"{minutes:.0f}", "mid b" if slow else "mid dim"))
            parts.append(text(x + step / 2, foot + 15, f"{10 * k}" if phone else f"{10 * k}–{10 * k + 10}", "mid dim"))
        said.append(f"{entry.offer.supply.name}: {', '.join(f'{each:.0f}' for each in entry.tenths_min)}")
    return picture(
        width, row * len(shown) + 4, f"Minutes for each tenth of the level. {'; '.join(said)}", "".join(parts), kind(phone)
    )


def _end_label(entry: OnBench, x: float, y: float, width: float, units: Units) -> str:
    """The outlet's name over the end of its line, kept inside the picture."""
    words = (
        f"{entry.offer.supply.name[:26]} {units.text(entry.fill_h, 'hours')}"
        if entry.fill_h < 24
        else f"{entry.offer.supply.name[:26]} over a day"
    )
    half = 4.0 * len(words)
    return text(min(max(x, half), width - half), y, words, "mid b")
