"""The long day drawn: the level along the way as a saw whose teeth are as wide as their minutes, posts as tall as their power; and how
many stops, and how fast, against the time from door to door.
"""

from collections.abc import Sequence
from math import ceil

from ....services.long_day import LongRoom, SideBySide
from ...drawing.plot import NARROW, WIDE, Scale, kind
from ...drawing.svg import box, element, line, path, picture, polygon, text
from ...units import Units
from ...words.sentence import at_least
from .words import long_verdict, span

POST_HIGH, LABEL_HIGH, LABEL_WIDE = 34.0, 32.0, 44.0


def saw(room: LongRoom, units: Units, phone: bool = False) -> str:
    """Level against km; standing widens the line by its minutes; the cautious side as a band; posts below by their power."""
    made, ask = room.made, room.made.request
    width, high = (NARROW, 300.0) if phone else (WIDE, 300.0)
    left, right, top, foot = 40.0, width - 12.0, 26.0, high - 72.0
    km, stood = ask.way.distance_km, sum(each.minutes for each in made.stops)
    per_min = min(0.35 * (right - left) / max(stood, 1.0), (right - left) / 600.0)
    per_km = (right - left - stood * per_min) / km

    y = Scale(0.0, 1.0, foot, top, held=True)
    parts = [line(left, y(level), right, y(level), "faint") for level in (0.25, 0.5, 0.75, 1.0)]
    parts += [text(left - 6, y(level) + 5, f"{100 * level:.0f} %", "end dim") for level in (0.0, 0.5, 1.0)]
    parts.append(line(left, y(ask.reserve_soc), right, y(ask.reserve_soc), "limit"))

    def x_of(km: float) -> float:
        return left + km * per_km + per_min * sum(each.minutes for each in made.stops if each.post.km < km)

    points, low, stands = [(left, y(ask.start.soc))], [(left, y(ask.start.soc))], []
    looks = list(made.looks)

    def looks_before(km: float) -> None:
        while looks and looks[0].post.km < km:
            look = looks.pop(0)
            x = x_of(look.post.km)
            low.extend([(x, y(look.low_soc)), (x, y(look.likely_soc))])

    for stop in made.stops:
        looks_before(stop.post.km)
        x, wide = x_of(stop.post.km), stop.minutes * per_min
        points += [(x, y(stop.arrive_soc)), (x + wide, y(stop.leave_soc))]
        low += [(x, y(stop.low_soc)), (x + wide, y(stop.leave_soc))]
        stands.append((x, wide, stop))
    if made.reached:
        looks_before(km)
        points.append((right, y(made.end_soc)))
        low.append((right, y(made.end_low)))
    else:
        points.append((left + made.as_far_as_km * per_km, y(ask.reserve_soc)))
    parts.append(polygon([*points, *reversed(low)], "fan"))
    for x, wide, stop in stands:
        parts.append(
            element("rect", x=x, y=y(stop.leave_soc), width=max(wide, 2.0), height=foot - y(stop.leave_soc), class_="stand")
        )
        if wide > 26 or not phone:
            parts.append(text(x + wide / 2, y(stop.leave_soc) - 8, span(stop.minutes), "mid b"))
    parts += [path(points, "level"), line(left, foot, right, foot, "base")]
    told = -LABEL_WIDE
    for look in made.looks:
        x = x_of(look.post.km)
        parts += [line(x, y(look.needs_soc), x, foot, "tick"), line(x - 8, y(look.needs_soc), x + 8, y(look.needs_soc), "level")]
        if x - told >= LABEL_WIDE:  # marks close to each other are told in the words above
            parts.append(text(x - 12, y(look.needs_soc) + 5, at_least(look.needs_soc), "end dim"))
            told = x
    most = max((post.gives_kw for post in ask.posts), default=1.0) or 1.0
    chosen = {stop.post.km for stop in made.stops}
    for post in ask.posts:
        px = x_of(post.km)
        tall = max(3.0, post.gives_kw / most * POST_HIGH)
        parts.append(box(px - 3, foot + 4, 6, tall, "charge" if post.km in chosen else "terrain edge"))
    unit_km, from_km = units.of("distance").read(1.0), room.inputs.from_km
    step = 100 if km / unit_km > 250 else 50
    for count in range(int(from_km / unit_km) // step + 1, ceil((from_km + km) / unit_km / step)):
        mark = count * step * unit_km - from_km
        mx = x_of(mark)
        parts += [line(mx, foot, mx, foot + 5, "tick")]
        if mx < right - 40 and (not phone or count % 2 == 0):
            parts.append(text(mx, high - 8, units.text(mark + room.inputs.from_km, "distance"), "mid dim"))
    return picture(width, high, f"The way as a saw. {long_verdict(room, units).plain}", "".join(parts), kind(phone))


def counts(side: SideBySide, phone: bool = False) -> str:
    """Door to door by number of stops, in frost and in summer: two lines of marks, the best of each filled."""
    rows = [
        (name, [(n, each) for n, each in enumerate(found) if each is not None])
        for name, found in (("frost", side.frost), ("summer", side.summer))
    ]
    words = "; ".join(f"{name}: " + ", ".join(f"{n} stops {span(each)}" for n, each in found) for name, found in rows if found)
    return _lines(
        [(name, [(float(n), each) for n, each in found]) for name, found in rows],
        f"Number of stops. {words}",
        [f"{n}" for n in range(7)],
        phone,
    )


def speeds(side: SideBySide, units: Units, phone: bool = False) -> str:
    """Door to door by motorway speed, in frost and in summer."""
    rows = [
        (name, [(i, row[column]) for i, row in enumerate(side.speeds) if row[column] is not None])
        for name, column in (("frost", 1), ("summer", 2))
    ]
    labels = [units.text(row[0], "speed", unit=False) for row in side.speeds]
    words = "; ".join(
        f"{name}: " + ", ".join(f"{labels[i]} {span(each or 0.0)}" for i, each in found) for name, found in rows if found
    )
    return _lines(
        [(name, [(float(i), each or 0.0) for i, each in found]) for name, found in rows],
        f"Motorway speed. {words}",
        labels,
        phone,
    )


def _lines(rows: Sequence[tuple[str, Sequence[tuple[float, float]]]], words: str, labels: Sequence[str], phone: bool) -> str:
    """Two lines of marks over the same steps."""
    width, high = (NARROW, 210.0) if phone else (WIDE / 2 - 20, 210.0)
    left, right, top, foot = 16.0, width - 74.0, 26.0, high - 34.0
    every = [each for _, found in rows for _, each in found]
    low, most = (min(every), max(every)) if every else (0.0, 1.0)

    def spot(step: float, minutes: float) -> tuple[float, float]:
        share = (minutes - low) / max(most - low, 1.0)
        return left + step / max(len(labels) - 1, 1) * (right - left), foot - 30 - share * (foot - top - 44)

    parts = [line(left, foot, right, foot, "base")]
    for i, label in enumerate(labels):
        parts.append(text(spot(i, low)[0], high - 12, label, "mid dim"))
    for name, found in rows:
        if not found:
            continue
        class_ = "rime" if name == "frost" else "ember"
        best = min(found, key=lambda each: each[1])
        parts.append(path([spot(*each) for each in found], "outside" if name == "frost" else "heatline"))
        for each in found:
            x, y = spot(*each)
            parts.append(element("circle", cx=x, cy=y, r=5.0 if each == best else 3.0, class_=f"{class_}-fill"))
        x, y = spot(*found[-1])
        parts.append(text(x + 8, y + 5, name, class_))
        bx, by = spot(*best)
        under = [spot(*each)[1] for _, others in rows for each in others if each[0] == best[0] and spot(*each)[1] > by]
        below = not under or min(under) - by > LABEL_HIGH  # a least lies under its own line
        parts.append(text(bx, by + 18 if below else by - 9, span(best[1]), f"mid b {class_}"))
    return picture(width, high, words, "".join(parts), kind(phone))


def gives(side: SideBySide, phone: bool = False) -> str:
    """What warming on the way gives in frost, and charging where one stands anyway: pairs of bars that begin at the least, not at zero."""
    rows: list[tuple[str, float]] = []
    for done, without, (some, none) in (
        ("frost, pack warmed on the way", "frost, pack not warmed", side.warmed),
        ("slow posts while you stand", "standing without charging", side.slow),
    ):
        if some is not None and none is not None:
            rows += [(done, some), (without, none)]
    width, left = (NARROW, 0.0) if phone else (WIDE / 2 - 20, 0.0)
    least = min((each for _, each in rows), default=0.0)
    most = max((each for _, each in rows), default=1.0)
    parts = []
    for i, (name, each) in enumerate(rows):
        y = 8.0 + 44.0 * i
        wide = 60.0 + (each - least) / max(most - least, 10.0) * (width - 170.0)
        parts += [text(left, y + 10, name, "dim"), box(left, y + 16, wide, 16, "terrain" if i % 2 else "charge")]
        parts.append(text(left + wide + 8, y + 30, span(each), "b"))
    words = "; ".join(f"{name} {span(each)}" for name, each in rows) or "nothing to compare"
    return picture(width, 12.0 + 44.0 * max(1, len(rows)), f"What it gives. {words}", "".join(parts), kind(phone))
