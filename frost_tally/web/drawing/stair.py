"""The tally as a descending stair: from a mild day's reach to that of a day like tomorrow, one step per cause; the trip beside it."""

from dataclasses import dataclass
from functools import lru_cache

from ...core.drive.causes import Kind
from ...core.drive.certainty import LevelBand
from ...core.drive.tally import Tally
from ..units import Units
from ..words.causes import cause_words
from .both import Both
from .plot import Scale
from .svg import element, hatches, line, path, picture, text, torn

WIDE, HIGH = 1120.0, 236.0
TOP, SPAN, FOOT = 32.0, 128.0, 196.0
NARROW, ROW = 356.0, 30.0
SMALL = 0.5
LIKE = "a day like tomorrow"
FILL = {"cold": "cold", "heat": "heat"}


@dataclass(frozen=True)
class Tread:
    """One drawn step: label, kind, km lost, and the range before and after it."""

    label: str
    kind: str
    lost_km: float
    before_km: float

    @property
    def after_km(self) -> float:
        """Range left after the step."""
        return self.before_km - self.lost_km


def treads(tally: Tally, units: Units) -> list[Tread]:
    """The steps from the first to the last, those under half a kilometre, or mile, gathered in one called "small"."""
    least_km = units.of("distance").read(SMALL)
    big = [(cause_words(s.cause, units), s.cause.kind, s.lost_km) for s in tally.steps if abs(s.lost_km) >= least_km]
    rest = sum(s.lost_km for s in tally.steps if abs(s.lost_km) < least_km)
    if abs(rest) >= least_km:
        big.append(("small ones", Kind.ROAD, rest))
    found, km = [], tally.mild_km
    for label, kind, lost in big:
        found.append(Tread(label, kind, lost, km))
        km -= lost
    return found


def range_band(leaves_soc: float, arrival: LevelBand, km: float, tally: Tally) -> tuple[float, float]:
    """Cautious and hopeful range (km), from the arrival band: range = distance × (level − reserve) ÷ level used."""
    room = leaves_soc - tally.to_soc
    used = (leaves_soc - arrival.low, leaves_soc - arrival.high)
    return km * room / max(used[0], 1e-6), km * room / max(used[1], 1e-6)


def describe(tally: Tally, trip_km: float, units: Units) -> str:
    """The stair in words."""
    steps = ", ".join(f"{t.label} {_signed(t.lost_km, units)}" for t in treads(tally, units))
    ends = (units.text(tally.mild_km, "distance"), units.text(tally.expected_km, "distance"))
    return f"Tally. Mild day {ends[0]}; {steps}; a day like tomorrow {ends[1]}, its trip {units.text(trip_km, 'distance')}."


def _signed(lost_km: float, units: Units) -> str:
    shown = units.text(abs(lost_km), "distance", unit=False)
    return f"−{shown}" if lost_km >= 0 else f"+{shown}"


@lru_cache(maxsize=16)
def both(tally: Tally, band: tuple[float, float], trip_km: float, units: Units) -> Both:
    """The stair in both shapes; a day that is the same a minute later is not drawn again."""
    return Both(lambda phone: (upright if phone else wide)(tally, band, trip_km, units))


def wide(tally: Tally, band_km: tuple[float, float], trip_km: float, units: Units) -> str:
    """The stair for a desk: an SVG of 1120 × 236. Columns have torn feet, for they do not start at zero."""
    steps = treads(tally, units)
    low_km, high_km = band_km
    lowest = min([low_km, *(t.after_km for t in steps)])
    highest = max([tally.mild_km, *(t.after_km for t in steps)])
    column = WIDE / (len(steps) + 2)

    y = Scale(highest - max(highest - lowest, 1.0), highest, TOP + SPAN, TOP)
    parts = [
        hatches("tally"),
        torn(2, column - 14, y(tally.mild_km), FOOT, "terrain"),
        text(column / 2 - 5, y(tally.mild_km) - 9, units.text(tally.mild_km, "distance", unit=False), "big mid"),
        text(column / 2 - 5, HIGH - 10, "mild day", "mid b"),
    ]
    for i, tread in enumerate(steps, 1):
        x = i * column
        top, bottom = sorted((y(tread.before_km), y(tread.after_km)))
        fill = {"fill": f"url(#tally-{FILL[tread.kind]})"} if tread.kind in FILL else {}
        parts += [
            line(x - 12, y(tread.before_km), x + column - 12, y(tread.before_km), "rule"),
            element(
                "rect", x=x + 4, y=top, width=column - 22, height=max(bottom - top, 1.5), class_=f"step {tread.kind}", **fill
            ),
            text(x + column / 2 - (22 if i == len(steps) else 7), bottom + 16, _signed(tread.lost_km, units), "mid b"),
            _label(x + column / 2 - 7, tread.label),
        ]
    x, end_y = (len(steps) + 1) * column, y(tally.expected_km)
    parts += [
        line(x - 12, end_y, x + 6, end_y, "rule"),
        torn(x + 4, column - 8, end_y, FOOT, "charge"),
        text(x + column / 2, end_y - 9, units.text(tally.expected_km, "distance", unit=False), "big mid"),
        text(x + column / 2, FOOT - 18, f"trip {units.text(trip_km, 'distance', unit=False)}", "mid b inv"),
        _label(x + column / 2, LIKE, "mid b"),
        path([(x - 2, y(high_km)), (x - 9, y(high_km)), (x - 9, y(low_km)), (x - 2, y(low_km))], "band"),
        text(x - 13, y(high_km) - 4, units.text(high_km, "distance", unit=False), "end dim"),
        text(x - 13, min(y(low_km) + 16, FOOT - 2), units.text(low_km, "distance", unit=False), "end dim"),
    ]
    return picture(WIDE, HIGH, describe(tally, trip_km, units), "".join(parts), "stair stair-wide")


def _label(x: float, words: str, class_: str = "mid") -> str:
    """A label under its step, on two lines when it has words that are long together."""
    if len(words) < 9 or " " not in words:
        return text(x, HIGH - 10, words, class_)
    spaces = [i for i, each in enumerate(words) if each == " "]
    middle = min(spaces, key=lambda i: abs(2 * i - len(words)))
    first, rest = words[:middle], words[middle + 1 :]
    return text(x, HIGH - 22, first, class_) + text(x, HIGH - 6, rest, class_)


def upright(tally: Tally, band_km: tuple[float, float], trip_km: float, units: Units) -> str:
    """The stair as a list of steps with bars, for a phone."""
    steps = treads(tally, units)
    lowest = min([band_km[0], *(t.after_km for t in steps)]) * 0.9
    highest = max([tally.mild_km, *(t.after_km for t in steps)])

    along = Scale(lowest, max(highest, lowest + 1.0), 112, 312)

    def x(km: float) -> float:
        return along(max(km, lowest))

    def row(i: int) -> float:
        return 6 + i * ROW

    def column(i: int, km: float, label: str, class_: str) -> str:
        return (
            text(0, row(i) + 17, label, "b")
            + element("rect", x=112, y=row(i), width=x(km) - 112, height=22, class_=class_)
            + text(NARROW, row(i) + 17, units.text(km, "distance", unit=False), "end b")
        )

    parts = [hatches("list"), column(0, tally.mild_km, "mild day", "terrain")]
    for i, tread in enumerate(steps, 1):
        left, right = sorted((x(tread.before_km), x(tread.after_km)))
        fill = {"fill": f"url(#list-{FILL[tread.kind]})"} if tread.kind in FILL else {}
        parts += [
            text(0, row(i) + 17, tread.label),
            element("rect", x=left, y=row(i), width=max(right - left, 1.5), height=22, class_=f"step {tread.kind}", **fill),
            text(NARROW, row(i) + 17, _signed(tread.lost_km, units), "end b"),
        ]
    last = len(steps) + 1
    parts += [
        column(last, tally.expected_km, "like tomorrow", "charge"),
        text(0, row(last + 1) + 17, "its trip"),
        text(NARROW, row(last + 1) + 17, units.text(trip_km, "distance", unit=False), "end b"),
    ]
    return picture(NARROW, row(last + 2), describe(tally, trip_km, units), "".join(parts), "stair stair-upright")
