"""The long day drawn: the level along the way as a saw whose teeth are as wide as their minutes, posts as tall as their power; and how
many stops, and how fast, against the time from door to door.
"""

from collections.abc import Iterator, Sequence
from math import ceil

from ....core.advice.long_way import Look, Stop
from ....services.long_day.room import LongRoom, SideBySide
from ...drawing.plot import NARROW, WIDE, Plot, Scale, kind
from ...drawing.svg import box, element, line, path, picture, polygon, text
from ...units import Units
from ...words.sentence import at_least
from .words import long_verdict, span

POST_HIGH, LABEL_HIGH, LABEL_WIDE = 34.0, 32.0, 44.0
SAW_HIGH, FOOT = 300.0, 228.0


def saw(room: LongRoom, units: Units, phone: bool = False) -> str:
    """Level against km; standing widens the line by its minutes; the cautious side as a band; posts below by their power."""
    drawing = _Saw(room, units, phone)
    parts = [*drawing.rows(), *drawing.level(), *drawing.looks(), *drawing.posts(), *drawing.marks()]
    return picture(drawing.width, SAW_HIGH, f"The way as a saw. {long_verdict(room, units).plain}", "".join(parts), kind(phone))


class _Saw:
    """Where things stand: km from left to right, wider by the minutes of the stops behind; levels from `FOOT` up."""

    def __init__(self, room: LongRoom, units: Units, phone: bool) -> None:
        self.room, self.units, self.phone, self.made = room, units, phone, room.made
        self.width = NARROW if phone else WIDE
        self.left, self.right = 40.0, self.width - 12.0
        self.km, stood = self.made.request.way.distance_km, sum(each.minutes for each in self.made.stops)
        across = self.right - self.left
        self.per_min = min(0.35 * across / max(stood, 1.0), across / 600.0)
        self.per_km = (across - stood * self.per_min) / self.km
        self.y = Scale(0.0, 1.0, FOOT, 26.0, held=True)

    def x(self, km: float) -> float:
        """The place of a kilometre; of a stop, where its standing begins."""
        return self.left + km * self.per_km + self.per_min * sum(each.minutes for each in self.made.stops if each.post.km < km)

    def rows(self) -> Iterator[str]:
        """Levels behind all, and the reserve."""
        for level in (0.25, 0.5, 0.75, 1.0):
            yield line(self.left, self.y(level), self.right, self.y(level), "faint")
        for level in (0.0, 0.5, 1.0):
            yield text(self.left - 6, self.y(level) + 5, f"{100 * level:.0f} %", "end dim")
        reserve = self.y(self.made.request.reserve_soc)
        yield line(self.left, reserve, self.right, reserve, "limit")

    def level(self) -> Iterator[str]:
        """The line, the band under it to the cautious side, and the stops by their minutes."""
        made, y = self.made, self.y
        points = [(self.left, y(made.request.start.soc))]
        low = [points[0]]
        met: list[Stop | Look] = [*made.stops, *made.looks]
        for each in sorted(met, key=lambda each: each.post.km):
            x = self.x(each.post.km)
            if isinstance(each, Stop):
                after = (x + each.minutes * self.per_min, y(each.leave_soc))
                points += [(x, y(each.arrive_soc)), after]
                low += [(x, y(each.low_soc)), after]
            elif made.reached or each.post.km < max((stop.post.km for stop in made.stops), default=0.0):
                low += [(x, y(each.low_soc)), (x, y(each.likely_soc))]
        if made.reached:
            points.append((self.right, y(made.end_soc)))
            low.append((self.right, y(made.end_low)))
        else:
            points.append((self.left + made.as_far_as_km * self.per_km, y(made.request.reserve_soc)))
        yield polygon([*points, *reversed(low)], "fan")
        for stop in made.stops:
            x, wide, top = self.x(stop.post.km), stop.minutes * self.per_min, y(stop.leave_soc)
            yield element("rect", x=x, y=top, width=max(wide, 2.0), height=FOOT - top, class_="stand")
            if wide > 26 or not self.phone:
                yield text(x + wide / 2, top - 8, span(stop.minutes), "mid b")
        yield path(points, "level")
        yield line(self.left, FOOT, self.right, FOOT, "base")

    def looks(self) -> Iterator[str]:
        """What is needed at the marks where one looks; marks close to each other are told in the words above."""
        told = -LABEL_WIDE
        for look in self.made.looks:
            x, needs = self.x(look.post.km), self.y(look.needs_soc)
            yield line(x, needs, x, FOOT, "tick")
            yield line(x - 8, needs, x + 8, needs, "level")
            if x - told >= LABEL_WIDE:
                yield text(x - 12, needs + 5, at_least(look.needs_soc), "end dim")
                told = x

    def posts(self) -> Iterator[str]:
        """Posts as tall as their power, those that are chosen filled."""
        posts = self.made.request.posts
        most = max((post.gives_kw for post in posts), default=1.0) or 1.0
        chosen = {stop.post.km for stop in self.made.stops}
        for post in posts:
            tall = max(3.0, post.gives_kw / most * POST_HIGH)
            yield box(self.x(post.km) - 3, FOOT + 4, 6, tall, "charge" if post.km in chosen else "terrain edge")

    def marks(self) -> Iterator[str]:
        """Round distances of the owner's unit."""
        unit_km, from_km = self.units.of("distance").read(1.0), self.room.inputs.from_km
        step = 100 if self.km / unit_km > 250 else 50
        for count in range(int(from_km / unit_km) // step + 1, ceil((from_km + self.km) / unit_km / step)):
            mark = count * step * unit_km
            x = self.x(mark - from_km)
            yield line(x, FOOT, x, FOOT + 5, "tick")
            if x < self.right - 40 and (not self.phone or count % 2 == 0):
                yield text(x, SAW_HIGH - 8, self.units.text(mark, "distance"), "mid dim")


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
    every = [each for _, found in rows for _, each in found]
    low, most = (min(every), max(every)) if every else (0.0, 1.0)
    across = Scale(0.0, max(len(labels) - 1.0, 1.0), 16.0, width - 74.0)
    plot = Plot(across, Scale(low, max(most, low + 1.0), high - 64.0, 40.0))
    parts = [line(across.first, high - 34.0, across.last, high - 34.0, "base")]
    parts += [text(across(i), high - 12, label, "mid dim") for i, label in enumerate(labels)]
    for name, found in rows:
        if not found:
            continue
        class_ = "rime" if name == "frost" else "ember"
        best, last = min(found, key=lambda each: each[1]), found[-1]
        parts.append(plot.curve([x for x, _ in found], [y for _, y in found], "outside" if name == "frost" else "heatline"))
        parts += [plot.dot(*each, 5.0 if each == best else 3.0, f"{class_}-fill") for each in found]
        parts.append(text(across(last[0]) + 8, plot.up(last[1]) + 5, name, class_))
        by = plot.up(best[1])
        under = [y for _, others in rows for x, minutes in others if x == best[0] and (y := plot.up(minutes)) > by]
        below = not under or min(under) - by > LABEL_HIGH  # a least lies under its own line
        parts.append(text(across(best[0]), by + 18 if below else by - 9, span(best[1]), f"mid b {class_}"))
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
