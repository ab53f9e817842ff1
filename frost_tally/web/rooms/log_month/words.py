"""Words of the month and the year."""

from collections.abc import Callable

from ....core.drive.causes.base import Kind
from ....core.log.sums import Sums
from ....services.log_month.notable import NotableDay
from ....services.log_month.room import Month
from ...units import Units
from ...words.causes import cause_words
from ...words.sentence import Part, Verdict

MOST_CAUSES = 3


def month_verdict(found: Month, units: Units) -> Verdict:
    """What the month cost, against what it would have cost."""
    sums = found.sums
    name = f"{found.first:%B %Y}{'' if found.over else ' so far'}"
    if not sums.charges and not sums.drives:
        return Verdict(
            (Part(f"{name}: nothing is noted."),), (Part("Note the level when you come home, and the month adds itself up."),)
        )
    lead = [Part(f"{name}: "), Part(units.money(sums.cost), "strong"), Part(f" for {units.text(sums.km, 'distance')}")]
    if sums.cost_per_100_km is not None:
        lead.append(Part(f", {units.money(units.per_100(sums.cost_per_100_km))} for 100 {units.of('distance').label}"))
    lead.append(Part("."))
    then = []
    if sums.home_kwh:
        less = sums.saved_at_once
        then.append(
            f"Charging at once when plugged in would have cost {units.money(abs(less))} {'more' if less >= 0 else 'less'}"
        )
        less = sums.saved_at_mean
        then.append(f"at the mean price of the tariff {units.money(abs(less))} {'more' if less >= 0 else 'less'}")
    said = [f"{', '.join(then)}."] if then else []
    if sums.uncosted:
        said.append(_uncosted_words(sums, units))
    return Verdict(tuple(lead), (Part(" ".join(said)),))


def _uncosted_words(sums: Sums, units: Units) -> str:
    """Charges elsewhere whose cost nobody wrote down."""
    one = sums.uncosted == 1
    who, has, they = ("One charge", "has", "it") if one else (f"{sums.uncosted} charges", "have", "they")
    about = f"at a typical public price {they} would be about {units.money(sums.uncosted_typical)}"
    return f"{who} elsewhere {has} no cost, {units.text(sums.uncosted_kwh, 'energy')}: unknown, and not counted; {about}."


def day_words(day: NotableDay, units: Units, worst: bool) -> str:
    """A notable day, and the tally's words for why."""
    at = f"{day.left_at:%A} {day.left_at.day} {day.left_at:%B}"
    per = units.text(units.per_100(day.wh_per_km / 10), "energy")
    said = f"{day.car}, {at}: {per} for 100 {units.of('distance').label} at {units.text(day.air_c, 'temperature', 0)}."
    if day.tally is None:
        return said
    steps = [each for each in day.tally.steps if each.cause.kind is not Kind.ROAD or worst]
    took = sorted((each for each in steps if each.lost_km > 0), key=lambda each: -each.lost_km)[:MOST_CAUSES]
    if not took:
        return f"{said} Hardly anything held it back."
    causes = ", ".join(f"{cause_words(each.cause, units)} ({units.text(each.lost_km, 'distance')})" for each in took)
    return f"{said} {'Most of the range went to' if worst else 'Even so'} {causes}."


Cell = Callable[[Sums, Units], str]


def _at_home(show: Cell) -> Cell:
    return lambda sums, units: show(sums, units) if sums.home_kwh else "–"


ROWS: tuple[tuple[str, Cell], ...] = (
    ("Driven", lambda sums, units: units.text(sums.km, "distance")),
    ("From the wall", lambda sums, units: units.text(sums.wall_kwh, "energy")),
    ("Into the pack", lambda sums, units: units.text(sums.pack_kwh, "energy")),
    ("Used driving", lambda sums, units: units.text(sums.used_kwh, "energy")),
    ("Lost on the way", lambda sums, units: units.text(sums.lost_kwh, "energy")),
    ("Share lost", lambda sums, units: units.text(sums.lost_kwh / sums.wall_kwh, "percent") if sums.wall_kwh else "–"),
    ("For a kWh from the wall", lambda sums, units: units.text(sums.km_per_kwh, "distance", 1) if sums.km_per_kwh else "–"),
    ("In dear hours", _at_home(lambda sums, units: units.text(sums.dear_share, "percent"))),
    ("Cost", lambda sums, units: units.money(sums.cost)),
    (
        "Cost for 100",
        lambda sums, units: units.money(units.per_100(sums.cost_per_100_km)) if sums.cost_per_100_km is not None else "–",
    ),
    ("Home’s energy, as it was", _at_home(lambda sums, units: units.money(sums.priced))),
    ("the same at once", _at_home(lambda sums, units: units.money(sums.at_once))),
    ("the same at the mean price", _at_home(lambda sums, units: units.money(sums.at_mean))),
)
"""The lines of the month's tally."""


def tally_rows(found: Month, units: Units) -> list[tuple[str, list[str]]]:
    """The month's tally, a line each: by car, and in all."""
    every = [each.sums for each in found.cars] + ([found.sums] if len(found.cars) > 1 else [])
    end = {"Cost for 100": f" {units.of('distance').label}"}
    return [(name + end.get(name, ""), [cell(each, units) for each in every]) for name, cell in ROWS]
