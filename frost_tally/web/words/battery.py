"""Words of the battery: how healthy, what a test tells, what wears it, which limit is worth it."""

from collections.abc import Mapping

from ...core.battery.capacity import Capacity, Difference, Worth
from ...core.battery.everyday import Everyday
from ...core.battery.life import CAUSES
from ...core.battery.limit_policies import WEEK, LimitPolicy
from ...core.battery.own_tests import COUNTER, WALL
from ...core.log.display import Drifts
from ...services.battery.life import Battery
from ...services.battery.room import Health
from ...services.limit_policies import PoliciesRoom
from ..units import Units
from .sentence import NBSP, Part, Verdict

WORTHS = {Worth.GOOD: "good", Worth.FAIR: "fair", Worth.LITTLE: "tells little", Worth.NOTHING: "tells nothing"}
PARTS = {
    "resolution": "whole per cents", "calibration": "display", "temperature": "pack temperature", "meter": "meter",
    "efficiency": "charging efficiency", "own_figure": "the car’s own test",
}  # fmt: skip
CAUSE_WORDS: Mapping[str, tuple[str, str]] = {
    "standing": ("Standing", "at 50 %, in the air it stands in, up to {20 °C}"),
    "level": ("Standing fuller", "what its own levels add to that"),
    "heat": ("Heat", "what air above {20 °C} adds"),
    "cycling": ("Driving and charging", "cycles by their depth and mean level"),
    "cold": ("Charging cold", "energy that goes in below {25 °C}"),
}
DRIFTS = {
    Drifts.NEVER_LOW: "No level under 50 % for a month: the display may have drifted.",
    Drifts.NO_REST: "No rest of four hours under 50 % for a month: the display may have drifted.",
    Drifts.RATIO: "The latest month’s energy for a level is not that of the months before: the display may have drifted.",
}
FAST = (
    "What is known: heat and high currents wear cells in the laboratory, and cars warm the pack and throttle against it. What is not: how "
    "much that leaves of the harm in your car. No number is invented for it."
)
CAUTIONS = (
    "Never plan to reach 0 %: end a deep discharge near a charger. Weak cells show only low down.",
    "Cell laws are not packs: the band says how far they may be off, and the car’s own limits and manual win.",
)
EARLY = (
    "The car ended it early, above {}. A weak cell shows only low down, and this may be one: do not plan on the levels under it, test "
    "again near a charger, and show the maker both tests."
)


def points(share: float, units: Units, decimals: int = 1) -> str:
    """A share of capacity in points: "0.9"."""
    return units.plain(100 * share, decimals).replace("-", "−")


def band(low: float, high: float) -> str:
    """A band of shares in whole per cents: "92–96"."""
    return f"{100 * low:.0f}\u2060–\u2060{100 * high:.0f}"


def verdict(health: Health, units: Units, alone: bool = False) -> Verdict:
    """How healthy, how fast it loses, and how it compares with the next car of the home, unless it stands alone."""
    own = health.battery
    trend, new_kwh = own.trend, own.car.pack.usable_kwh_new
    lead = (
        Part(f"{own.owned.name}: "),
        Part(units.text(own.health_kwh, "energy"), "strong"),
        Part(f" of {units.text(new_kwh, 'energy', 0)}, "),
        Part(units.text(trend.health, "percent"), "strong"),
        Part(f" (likely {band(*trend.band)})."),
    )
    then = [
        _loss_words(health, units),
        *(_apart_words(own, other, difference) for other, difference in health.others[: 0 if alone else 1]),
    ]
    notes = [DRIFTS[health.drifts]] if health.drifts else []
    return Verdict(lead, (Part(" ".join(then)),), tuple(notes))


def _loss_words(health: Health, units: Units) -> str:
    """What the coming year takes and what a year takes on average to the end of the curve, and when it comes to 80 %. Where nothing was
    measured, what packs like it do.
    """
    own, trend = health.battery, health.battery.trend
    early, likely, _ = health.worn
    ends, left = own.date_at(health.last_days).year, float(trend.at(health.last_days)[0][0])
    if not own.tests and not own.everyday:
        typed = (
            "" if own.owned.health_told is None else f", and the {units.text(own.owned.health_told[1], 'percent')} that was typed"
        )
        return f"Nothing was measured yet: this is what packs like it do{typed}, with about {units.text(left, 'percent')} left in {ends}."
    if trend.health <= 0.8:
        when = "80 % is behind it."
    elif early is None:
        when = f"80 % not before {own.date_at(own.age_days).year + 30}."
    elif likely is None:
        when = f"80 % not before {own.date_at(early).year}."
    else:
        when = f"80 % not before {own.date_at(early).year}, likely {own.date_at(likely).year}."
    loss, doubt = points(max(0.0, trend.loss_per_year), units), points(trend.loss_per_year_sigma * 1.645, units)
    mean = points(max(0.0, trend.mean_loss(health.last_days)), units)
    return f"It loses {loss} points in the coming year (± {doubt}), {mean} a year on average to {ends}; {when}"


def _apart_words(own: Battery, other: Battery, difference: Difference) -> str:
    """Whether two cars can be told apart."""
    theirs = f"{other.owned.name} stands at {100 * other.trend.health:.0f}{NBSP}%"
    if not difference.told_apart:
        return f"{theirs}: the two cannot be told apart."
    more, less = (own, other) if difference.value > 0 else (other, own)
    return f"{theirs}: {more.owned.name} has kept more than {less.owned.name}, that is not chance."


def difference_words(difference: Difference, units: Units) -> str:
    """A difference with its uncertainty and a plain verdict."""
    said = f"{points(abs(difference.value), units)} points apart, ± {points(2 * difference.sigma, units)}"
    if difference.told_apart:
        return f"{said}: they differ; {units.plain(100 * difference.chance, 1)} in 100 pairs without a difference would look so."
    return f"{said}: they cannot be told apart; {100 * difference.chance:.0f} in 100 pairs without a difference would look so."


def worth_words(capacity: Capacity, units: Units) -> str:
    """What a test tells: "± 1.5 kWh, good"."""
    return f"±{NBSP}{units.text(2 * capacity.sigma_kwh, 'energy')}, {WORTHS[capacity.worth]}"


def parts_words(capacity: Capacity, units: Units) -> str:
    """Where a test's error comes from, the largest first."""
    ordered = sorted(capacity.parts.items(), key=lambda each: -each[1])
    return ", ".join(f"{PARTS[name]} {points(each, units)}{NBSP}%" for name, each in ordered if each >= 0.0005)


EVERYDAY = {WALL: "ordinary charges at the wall, mild nights", COUNTER: "energies that the car counted itself"}


def everyday_words(kind: str, found: tuple[Everyday, ...], units: Units) -> str:
    """What everyday estimates of a kind add."""
    last = found[-1]
    months = f"{len(found)} month{'s' if len(found) != 1 else ''}"
    like = f"its latest month, of {last.count}, is worth a test over {100 * last.like_soc:.0f}{NBSP}%"
    said = f"{EVERYDAY[kind]}: {months} of them, the latest {units.text(last.kwh, 'energy')}; {like}."
    shared = (
        " All of them share what the charging efficiency is off by, 3 %, so that they tell the course better than the height."
    )
    return said[0].upper() + said[1:] + (shared if kind == WALL else "")


def added_words(own: Battery, units: Units) -> str:
    """How much the everyday estimates add to the tests."""
    before, after = points(1.645 * own.alone.sigma, units, 2), points(1.645 * own.trend.sigma, units, 2)
    return (
        f"With the tests alone the band of today’s health would be ± {before} points, with the everyday months it is ± {after}."
    )


def warranty_words(health: Health, units: Units) -> str:
    """What the warranty promises, and the chance that it has to."""
    promised, own = health.warranty, health.battery
    if promised is None:
        return "Enter what the maker promises, and the chance to be under it shows here."
    ends = own.date_at(promised.ends_days)
    reason = f"at {units.text(promised.km, 'distance')}" if promised.by_km else f"after {promised.years:.0f} years"
    chance = "under 1 in 100" if promised.chance < 0.01 else f"{100 * promised.chance:.0f} in 100"
    over = promised.ends_days <= own.age_days
    when = f"ended {reason}" if over else f"ends {reason}, about {ends:%B %Y}"
    return f"Promised: {100 * promised.soh:.0f}{NBSP}%. It {when}. The chance to be under that {'now' if over else 'by then'} is {chance}."


def cause_rows(health: Health, units: Units) -> list[tuple[str, str, str, str]]:
    """Each cause: its name, why, points so far and to come, money of both."""
    rows = []
    for name in CAUSES:
        cause, (title, why) = health.causes[name], CAUSE_WORDS[name]
        rows.append(
            (
                title,
                units.say(why),
                f"{points(cause.so_far, units)} + {points(cause.to_come, units)}",
                f"{units.money(cause.money_so_far, 0)} + {units.money(cause.money_to_come, 0)}",
            )
        )
    return rows


def besides_words(health: Health, units: Units) -> str:
    """What the model does not explain."""
    scale, sigma = health.battery.trend.scale
    own = health.battery
    scaled = "as your tests scale them" if own.tests or own.everyday else "as packs are usually scaled to them"
    said = f"The laboratory’s laws times {units.plain(scale, 2)} (± {units.plain(1.645 * sigma, 2)}), {scaled}"
    rest = points(abs(health.besides), units)
    if abs(health.besides) < 0.0005:
        return f"{said}."
    return f"{said}; {rest} points {'more' if health.besides > 0 else 'less'} than they explain: how full it was when new, or chance."


def school_verdict(room: PoliciesRoom, units: Units) -> Verdict:
    """Which limit is worth it."""
    own, best, levers = room.own, room.best, room.inputs
    level = units.text(own.limit, "percent")
    worth_more = best.net - own.net
    keep = best is own or worth_more < 5.0 * levers.years
    lead: tuple[Part, ...]
    if keep:
        lead = (
            Part("Keep " if own.limit == room.defaults.limit else "At "),
            Part(level, "strong"),
            Part(f": {_keeps(room, units)}"),
        )
    else:
        chosen = units.text(best.limit, "percent")
        more = units.money(worth_more, 0)
        lead = (Part(chosen, "strong"), Part(f" is worth more than your {level}: {more} in {levers.years} years."))
    then = [_days_words(own, level), _left_words(room, units)]
    if room.nights < WEEK:
        then.insert(1, f"The cable is shared: as this week goes, it has it on {room.nights} nights of {WEEK}.")
    if best is not own and keep:
        then.append(
            f"{units.text(best.limit, 'percent')} would be worth {units.money(worth_more, 0)} more: too little to matter."
        )
    notes = ("Braking is weak until a pack that full has been driven down.",) if own.regen_kwh > 5 else ()
    return Verdict(lead, (Part(" ".join(then)),), notes)


def _keeps(room: PoliciesRoom, units: Units) -> str:
    """What the own limit keeps against the fullest."""
    own = room.own
    if own.kept[0] < 0.0005:
        return "no other limit keeps less, but you need it."
    low, high = points(own.kept[1], units), points(own.kept[2], units)
    kept = f"{points(own.kept[0], units)} points ({low} to {high} by the cell)"
    against = f"than at {units.text(room.fullest.limit, 'percent')}"
    years = f"in {room.inputs.years} year{'s' if room.inputs.years != 1 else ''}"
    return f"{years} it keeps {kept} more {against}, worth {units.money(own.money, 0)}."


def _days_words(own: LimitPolicy, level: str) -> str:
    """Which days an owner's limit does not cover: nights on which it is raised, and what not even a full pack does."""
    raised = "" if own.raised < 0.05 else f"{level} is raised on {often(own.raised, 'night')} for the days ahead"
    short = "" if own.short_days < 0.05 else f"{often(own.short_days, 'day')} not even 100{NBSP}% covers"
    if not raised and not short:
        return f"{level} covers every day."
    if not raised:
        return f"{short[0].upper()}{short[1:]}."
    return f"{raised}; {short}." if short else f"{raised}, which covers every day."


def often(a_year: float, what: str) -> str:
    """How often a year: "12 nights a year", "one night in 3 years"."""
    if a_year < 0.95:
        return f"one {what} in {1 / a_year:.0f} years"
    return f"{a_year:.0f} {what}{'s' if round(a_year) != 1 else ''} a year"


def _left_words(room: PoliciesRoom, units: Units) -> str:
    low, high = room.own.left[1:]
    return f"{units.text(room.own.left[0], 'percent')} of new would be left (likely {band(low, high)})."
