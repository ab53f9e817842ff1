"""Words of the weekly charger: what a year at a fast post costs beside home."""

from ....services.weekly import WeeklyRoom
from ...units import Units
from ...words.sentence import Part, Verdict
from ..long_day.words import span


def weekly_verdict(room: WeeklyRoom, units: Units) -> Verdict:
    """Money and hours of both, then the wear and how long a visit takes."""
    made = room.made
    dearer = made.post_cost + made.post_wear - made.home_cost - made.home_wear
    lead = (
        Part(f"{made.visits} visits a year to the post cost "), Part(units.money(made.post_cost, 0), "strong"), Part(" and "),
        Part(f"{made.hours:.0f} hours", "strong"), Part(f"; {room.owned.at.name} at home {units.money(made.home_cost, 0)} and none."),
    )  # fmt: skip
    then = (
        Part(
            f"With the wear of fast charging that is {units.money(abs(dearer), 0)} {'more' if dearer >= 0 else 'less'} a year. "
        ),
        Part(f"A visit takes {span(made.mildest_min)} in the mildest week and {span(made.coldest_min)} in the coldest: "),
        Part("drive there warm, with the post as the car’s destination."),
    )
    busy = (f"In {made.busy_weeks} weeks of the year one visit is not enough.",) if made.busy_weeks else ()
    return Verdict(lead, then, busy)


def weekly_rows(room: WeeklyRoom, units: Units) -> tuple[tuple[str, str, str, str], ...]:
    """The year in numbers: what, at the post, at home, and where it comes from."""
    made = room.made
    return (
        ("Visits a year", f"{made.visits}", "–", "to 90 %, from what the week left"),
        ("Hours standing", f"{made.hours:.0f}", "0", "with what a stop costs besides"),
        ("Energy", f"{made.kwh:.0f} kWh", "–", "from the post, the heater’s share in it"),
        (
            "Money",
            units.money(made.post_cost, 0),
            units.money(made.home_cost, 0),
            f"at home on {room.owned.pays.name}, every night planned",
        ),
        ("Wear", units.money(made.post_wear, 0), units.money(made.home_wear, 0), "by level, temperature and rate, in money"),
    )
