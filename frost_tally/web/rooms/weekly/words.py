"""Words of the weekly charger: what a year at a fast post costs beside home."""

from ....services.weekly import WeeklyRoom
from ...units import Units
from ...words.sentence import Part, Verdict
from ..long_day.words import span


def weekly_verdict(room: WeeklyRoom, units: Units) -> Verdict:
    """Money and hours of both, then the wear and how long a visit takes."""
    made, owned = room.made, room.owned
    there: tuple[Part, ...] = (
        Part(f"{made.visits} visits a year to the post cost "), Part(units.money(made.post_cost, 0), "strong"), Part(" and "),
        Part(f"{made.hours:.0f} hours", "strong"),
    )  # fmt: skip
    stops = (
        Part(f"A visit takes {span(made.mildest_min)} in the mildest week and {span(made.coldest_min)} in the coldest: "),
        Part("drive there warm, with the post as the car’s destination."),
    )
    if made.home_cost is None or made.home_wear is None or owned.outlet is None:
        lead: tuple[Part, ...] = (*there, Part("."))
        then: tuple[Part, ...] = stops
    else:
        dearer = made.post_cost + made.post_wear - made.home_cost - made.home_wear
        lead = (*there, Part(f"; {owned.outlet.name} at home {units.money(made.home_cost, 0)} and none."))
        more = f"{units.money(abs(dearer), 0)} {'more' if dearer >= 0 else 'less'}"
        then = (Part(f"With the wear of fast charging that is {more} a year. "), *stops)
    busy = (f"In {made.busy_weeks} weeks of the year one visit is not enough.",) if made.busy_weeks else ()
    return Verdict(lead, then, busy)


def weekly_rows(room: WeeklyRoom, units: Units) -> tuple[tuple[str, str, str, str], ...]:
    """The year in numbers: what, at the post, at home, and where it comes from."""
    made, contract = room.made, room.owned.contract
    home = ["–" if each is None else units.money(each, 0) for each in (made.home_cost, made.home_wear)]
    on = f"at home on {contract.name}, every night planned" if contract else "by the kilowatt-hours that it takes"
    return (
        ("Visits a year", f"{made.visits}", "–", "to 90 %, from what the week left"),
        ("Hours standing", f"{made.hours:.0f}", "0", "with what a stop costs besides"),
        ("Energy", f"{made.kwh:.0f} kWh", "–", "from the post, the heater’s share in it"),
        ("Money", units.money(made.post_cost, 0), home[0], on),
        ("Wear", units.money(made.post_wear, 0), home[1], "by level, temperature and rate, in money"),
    )
