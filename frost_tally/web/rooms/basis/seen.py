"""What the screens show of tomorrow, as somebody looks for it: the tally's causes, the plan's facts, and the habits that were entered."""

from typing import NamedTuple

from ....services.garage import part
from ....services.shared.home import Snapshot
from ....services.tonight.room import Tonight
from ...forms import shown, views
from ...part_forms import HabitForm
from ...tally_table import tally_table
from ...units import Units
from ..tonight.words import day_facts, facts


class Seen(NamedTuple):
    """A number on a screen: its name there, its value, where it comes from, why, and where it is looked at or changed."""

    name: str
    value: str
    basis: str
    why: str
    path: str


def seen(night: Tonight, snapshot: Snapshot, units: Units) -> dict[str, tuple[Seen, ...]]:
    """What is shown of a car's next day, by where it stands."""
    km, car = units.of("distance").label, night.car_id
    tally = tuple(
        Seen(row.label, f"{row.km.replace('-', '−')} {km}", "computed", row.why, f"/day?car={car}")
        for row in tally_table(night.tally, units)
    )
    plan = tuple(
        Seen(each.name, each.value, "computed", each.origin, f"/tonight?car={car}")
        for each in (*facts(night, units), *day_facts(night, units))
    )
    return {"The tally": tally, "The night's plan": plan, "Habits": _habits(night, snapshot, units)}


def _habits(night: Tonight, snapshot: Snapshot, units: Units) -> tuple[Seen, ...]:
    kept = part(snapshot, "car", night.car_id)
    fields = views(HabitForm, shown({n: kept[n] for n in HabitForm.model_fields if n in kept}, HabitForm, units), {}, units)
    return tuple(
        Seen(
            each.label,
            f"{each.options.get(each.value, each.value)} {each.unit}".strip(),
            "entered",
            each.hint,
            f"/garage/edit/day/{night.car_id}",
        )
        for each in fields.values()
    )


def found(them: dict[str, tuple[Seen, ...]], find: str) -> dict[str, tuple[Seen, ...]]:
    """Those in which all the words are."""
    wanted = find.casefold().split()
    fit = {
        name: tuple(each for each in rows if all(word in f"{name} {' '.join(each[:4])}".casefold() for word in wanted))
        for name, rows in them.items()
    }
    return {name: rows for name, rows in fit.items() if rows}
