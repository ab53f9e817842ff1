"""What the painter's last stroke was, and where else it may be meant: in other seasons, and on public holidays."""

from dataclasses import dataclass, replace

from ....core.charge.prices import CELLS_PER_DAY
from ....core.charge.tariff import HOLIDAY, WEEKDAYS, WEEKEND
from ....formats import values
from ....services.tariffs import Draft, DraftSeason


@dataclass(frozen=True)
class Stroke:
    """What was painted last: days (7 is a public holiday), cells from first to before after, and the colour."""

    rows: frozenset[int]
    first: int
    after: int
    colour: int

    @property
    def text(self) -> str:
        """As a hidden field keeps it."""
        return f"{','.join(str(each) for each in sorted(self.rows))}|{self.first}|{self.after}|{self.colour}"

    def lacking(self, draft: Draft, holidays: bool) -> dict[int, frozenset[int]]:
        """By season, the days that have none of it: the painted days, and holidays when it was painted on every other day."""
        rows = self.rows | ({HOLIDAY} if holidays and self.rows >= WEEKDAYS | WEEKEND else frozenset())
        cells = [
            i % CELLS_PER_DAY for i in range(self.first, self.after if self.after > self.first else self.after + CELLS_PER_DAY)
        ]
        none = {
            i: frozenset(row for row in rows if all(season.week.rows[row][cell] != self.colour for cell in cells))
            for i, season in enumerate(draft.seasons)
        }
        return {i: found for i, found in none.items() if found}

    def spread(self, draft: Draft, holidays: bool) -> tuple[DraftSeason, ...]:
        """The seasons with it on all days that have none of it."""
        rows = self.lacking(draft, holidays)
        return tuple(
            replace(season, week=season.week.painted(rows[i], self.first, self.after, self.colour)) if i in rows else season
            for i, season in enumerate(draft.seasons)
        )


def stroke_of(text: str, colours: int) -> Stroke | None:
    """The stroke of a hidden field; None for anything that is none."""
    try:
        rows, first, after, colour = text.split("|")
        found = frozenset(values.whole(each, 0, 7) for each in rows.split(","))
        return Stroke(found, values.whole(first, 0, 95), values.whole(after, 0, 96), values.whole(colour, 0, colours - 1))
    except ValueError:
        return None
