"""Painting a week: cells to bands and back, and the typical shapes to start from. Why: docs/decisions/0004."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import time

from ..errors import Refusal
from .prices import CELL_MINUTES, CELLS_PER_DAY
from .tariff import ALL_ROWS, HOLIDAY, WEEKDAYS, WEEKEND, Band, Season, runs

ROWS = 8
NONE = -1
MOST_BANDS = 9


@dataclass(frozen=True)
class Colour:
    """One name and price to paint with."""

    name: str
    price_per_kwh: float


@dataclass(frozen=True)
class Week:
    """Painted cells: `rows[row][cell]` is the number of a colour, −1 where nothing is painted; 8 rows of 96."""

    rows: tuple[tuple[int, ...], ...]

    def painted(self, rows: Iterable[int], first: int, after: int, colour: int) -> "Week":
        """With one colour (or −1 for none) over cells [first, after) of some rows; `after` at or before `first` wraps midnight.

        Raises: Refusal for rows or cells that a week does not have.
        """
        chosen = frozenset(rows)
        if not chosen <= ALL_ROWS or not (0 <= first < CELLS_PER_DAY and 0 <= after <= CELLS_PER_DAY):
            raise Refusal("A week has seven days, public holidays, and times from 00:00 to 24:00.", "paint_from")
        long = (after - first) % CELLS_PER_DAY or CELLS_PER_DAY
        covered = {(first + i) % CELLS_PER_DAY for i in range(long)}
        anew = {n: tuple(colour if i in covered else old for i, old in enumerate(self.rows[n])) for n in chosen}
        return Week(tuple(anew.get(n, row) for n, row in enumerate(self.rows)))

    def without(self, colour: int) -> "Week":
        """With a colour's cells unpainted and the later colours renumbered."""
        moved = {colour: NONE}
        return Week(tuple(tuple(moved.get(c, c - (c > colour)) for c in row) for row in self.rows))

    def bands(self, palette: Sequence[Colour]) -> tuple[Band, ...]:
        """The bands that paint it: for each colour and time span, the days on which it is the same."""
        spans: dict[tuple[int, int, int], set[int]] = {}
        for row, cells in enumerate(self.rows):
            for first, after, colour in _around_midnight(runs(cells)):
                if colour != NONE:
                    spans.setdefault((colour, first, after), set()).add(row)
        return tuple(
            Band(palette[colour].name, palette[colour].price_per_kwh, _time(first), _time(after % CELLS_PER_DAY), frozenset(days))
            for (colour, first, after), days in sorted(spans.items())
        )

    def text(self) -> str:
        """As 8 lines of 96 letters, "." for nothing."""
        return "\n".join("".join("." if c == NONE else chr(ord("a") + c) for c in row) for row in self.rows)


def _around_midnight(found: list[tuple[int, int, int]]) -> list[tuple[int, int, int]]:
    """Runs of a day, with the last and the first of one colour as one that wraps midnight."""
    if len(found) > 1 and found[0][2] == found[-1][2]:
        return [*found[1:-1], (found[-1][0], found[0][1], found[0][2])]
    return found


def blank() -> Week:
    """Nothing painted."""
    return Week(((NONE,) * CELLS_PER_DAY,) * ROWS)


def week_of(text: str, colours: int) -> Week:
    """Read what `Week.text` wrote. Raises: Refusal for anything else."""
    lines = text.split()
    allowed = {chr(ord("a") + i): i for i in range(colours)} | {".": NONE}
    if len(lines) != ROWS or any(len(line) != CELLS_PER_DAY or not set(line) <= allowed.keys() for line in lines):
        raise Refusal("The painted week could not be read. Open the page again.", "week")
    return Week(tuple(tuple(allowed[letter] for letter in line) for line in lines))


def palette_of(bands: Iterable[Band]) -> tuple[Colour, ...]:
    """The distinct names and prices of some bands, in the order they come."""
    return tuple(dict.fromkeys(Colour(band.name, band.price_per_kwh) for band in bands))


def painting_of(bands: Iterable[Band], palette: Sequence[Colour]) -> Week:
    """The cells of some bands. Where two overlap the later one stays; public holidays nobody painted take Sunday's cells."""
    week, bands = blank(), tuple(bands)
    for band in bands:
        for first, after, _ in (run for run in runs([i in band.cells() for i in range(CELLS_PER_DAY)]) if run[2]):
            week = week.painted(band.days, first, after, palette.index(Colour(band.name, band.price_per_kwh)))
    if all(cell == NONE for cell in week.rows[HOLIDAY]):
        week = Week((*week.rows[:HOLIDAY], week.rows[6]))
    return week


def _time(cell: int) -> time:
    return time(cell * CELL_MINUTES // 60, cell * CELL_MINUTES % 60)


@dataclass(frozen=True)
class Shape:
    """A made-up example to start a tariff from: usual week, seasons, and whether dated prices go over it."""

    bands: tuple[Band, ...]
    seasons: tuple[Season, ...] = ()
    dated: bool = False


def _day(*parts: tuple[str, float, int, int], days: frozenset[int] = ALL_ROWS) -> tuple[Band, ...]:
    return tuple(Band(name, price, time(start), time(end), days) for name, price, start, end in parts)


_FREE = WEEKEND | {HOLIDAY}
SHAPES: Mapping[str, Shape] = {
    "two": Shape((Band("night", 0.12, time(22, 30), time(6), ALL_ROWS), Band("day", 0.30, time(6), time(22, 30), ALL_ROWS))),
    "three": Shape(_day(("night", 0.11, 23, 6), ("day", 0.24, 6, 16), ("evening", 0.36, 16, 20), ("day", 0.24, 20, 23))),
    "winter": Shape(
        _day(("base", 0.19, 0, 0)),
        (
            Season(
                "Winter",
                (11, 1),
                (3, 31),
                (
                    *_day(("base", 0.19, 9, 6)),
                    *_day(("morning", 0.48, 6, 9), days=WEEKDAYS),
                    *_day(("base", 0.19, 6, 9), days=_FREE),
                ),
            ),
        ),
    ),
    "weekend": Shape(
        (*_day(("night", 0.16, 22, 6), ("day", 0.29, 6, 22), days=WEEKDAYS), *_day(("weekend", 0.14, 0, 0), days=_FREE))
    ),
    "dated": Shape(_day(("fallback", 0.22, 0, 0)), dated=True),
    "flat": Shape(_day(("all day", 0.21, 0, 0))),
}
