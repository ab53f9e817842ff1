"""Sentences and tables of the bench and the comparison."""

from ...core.charge.control import How
from ...core.charge.outlet_comparison import COLD_C, MILD_C, OnBench, Reason
from ...core.charge.tariff import MONTHS
from ...core.measures import CHOSEN
from ...core.parts import GUESSED, OWN
from ...services.compare import ALL_OF_IT, Comparison, HouseSource
from ...services.outlets import OutletsBench
from ...services.shared.car_year import CarYear
from ..units import Units
from .controls import CONTROL_WORDS
from .lists import HOUSE_SHAPES
from .reasons import LIMITS
from .sentence import Part, Verdict

FARTHEST_KM = 500_000.0
"""No break-even beyond it is told: nobody drives so far in a year."""
SAVES_FROM = 0.01
"""A saving under so much of the year's cost is none."""


def bench_verdict(made: OutletsBench, units: Units) -> Verdict:
    """The cheapest outlet that is enough, and why."""
    bench, need = made.bench, made.need
    if bench.named is None:
        return Verdict(
            (Part("None of these can charge "), Part(made.owned.name, "strong"), Part(".")), (Part(bench.entries[0].refusal),)
        )
    named = bench.entries[bench.named]
    name, day = named.offer.supply.name, units.text(need.day_km, "distance")
    frost = units.text(COLD_C, "temperature", 0)
    there = "is enough" if named.offer.install_cost == 0 else f"is enough, for {_to_have(named, units)}"
    lead: tuple[Part, ...]
    then: tuple[Part, ...]
    if bench.reason is Reason.STRONGEST:
        lead = (Part("None is enough in frost. "), Part(name, "strong"), Part(" comes closest."))
        then = (
            Part(
                f"It would need {_hours(named.cold_h, units)} to bring back {day} at {frost}; the night has "
                f"{units.text(need.window_h, 'hours')}."
            ),
        )
    else:
        lead = (Part(f"For {made.owned.name}, "), Part(name, "strong"), Part(f" {there}."))
        within = (
            f"{units.plain(need.cheap_h, 1)} cheap hours"
            if bench.reason is Reason.CHEAP_HOURS
            else f"{units.plain(need.window_h, 1)} hours of the night"
        )
        then = (
            Part(f"{day} at {frost} are back in "),
            Part(f"{units.text(named.cold_h, 'hours')}", "strong"),
            Part(f" of the {within}."),
        )
        if bench.reason is Reason.WINDOW:
            then = (*then, Part(f" None does it within the {units.plain(need.cheap_h, 1)} cheap ones."))
    return Verdict(lead, then, tuple(_bench_notes(made, units)))


def _to_have(entry: OnBench, units: Units) -> str:
    """What an outlet would cost to have."""
    cost = entry.offer.install_cost
    if cost is None:
        return "a cost that nobody has told yet"
    return units.money(cost, 0) if cost else "is there"


def _hours(hours: float, units: Units) -> str:
    return f"{units.text(hours, 'hours')}" if hours < 1000 else "more than it can ever have"


def _bench_notes(made: OutletsBench, units: Units) -> list[str]:
    mild, frost, tonight = (units.text(each, "temperature", 0) for each in (MILD_C, COLD_C, made.need.now_c))
    notes = [f"Mild is {mild}, frost {frost}; tonight is {tonight} around the car, as in Tonight."]
    for entry, outlet in zip(made.bench.entries, made.chosen, strict=True):
        name = entry.offer.supply.name
        if entry.payback_years is not None and entry.payback_years < 30:
            notes.append(
                f"{name} costs {units.money(entry.saving, 0)} a year less to charge on: paid back in "
                f"{units.plain(entry.payback_years, 1)} years."
            )
        notes += _better_control(entry, units)
        if entry.year is not None and entry.year.short_nights:
            days = entry.year.short_nights
            notes.append(f"On {name} {days} day{'s' if days > 1 else ''} of the year would need a charge elsewhere.")
        if entry.offer.supply.shared_a:
            notes.append(
                f"{name} shares its circuit with {outlet.shared_with or 'others'}: both codes want a circuit of its own for a car."
            )
    return notes


def _better_control(entry: OnBench, units: Units) -> list[str]:
    """What a better control would save in a year on an outlet; nothing where it is no sum to speak of."""
    if not entry.by_control:
        return []
    how = min(entry.by_control, key=lambda each: entry.by_control[each])
    saved, name = entry.year_cost - entry.by_control[how], entry.offer.supply.name
    if saved < SAVES_FROM * entry.year_cost:
        return []
    return [
        f"{name} started {CONTROL_WORDS[how].name} would save {units.money(saved, 0)} of {units.money(entry.year_cost, 0)} a year."
    ]


def ends_words(made: OutletsBench) -> str:
    """How charging is slow at both ends of the level range; "" when none of the outlets fills the car."""
    for entry in made.bench.entries:
        if len(entry.tenths_min) == 10:
            first, middle, last = entry.tenths_min[0], sorted(entry.tenths_min)[4], entry.tenths_min[-1]
            begin = (
                f"the first tenth takes {first:.0f} minutes, for the cold pack is warmed first"
                if first > 1.1 * middle
                else f"the first tenth takes {first:.0f} minutes tonight, and longer from a colder pack, which is warmed first"
            )
            return (
                f"On {entry.offer.supply.name} {begin}; the last one {last:.0f}, for above 97 % power falls to a tenth; in between a tenth "
                f"takes {middle:.0f}. So the last per cents are the slowest hours to buy."
            )
    return ""


BenchRow = tuple[str, tuple[str, ...], str]


def bench_rows(made: OutletsBench, units: Units) -> dict[str, tuple[BenchRow, ...]]:
    """The numbers of the bench by the question that they answer: what, a value for each outlet, and where it comes from."""
    need, distance = made.need, units.of("distance")
    other = next(of["distance"] for key, of in CHOSEN["distance"].items() if key != units.distance)

    def row(words: str, value: "object", why: str) -> BenchRow:
        cells = tuple(value(entry) if entry.rate is not None else "–" for entry in made.bench.entries)  # type: ignore[operator]
        return words, cells, why

    def per_hour(entry: OnBench) -> str:
        return ", ".join(f"{unit.show(entry.km_per_hour):.0f} {unit.label}" for unit in (distance, other))

    def paid_back(entry: OnBench) -> str:
        return f"{units.plain(entry.payback_years, 1)} years" if entry.payback_years is not None else "–"

    elsewhere = f"on {made.owned.pays.name}; what is missing counted at twice its dearest hour"
    limit, floor = (units.text(each, "percent") for each in (need.limit_soc, need.floor_soc))
    frost = units.text(COLD_C, "temperature", 0)
    weather = (
        f"tonight: {units.text(need.now_c, 'temperature', 0)} around the car, the pack at "
        f"{units.text(need.now_pack_c, 'temperature', 0)} when plugged in"
    )
    return {
        "How strong is it, and what holds it back?": (
            row("At the wall", lambda e: f"{e.rate.amps:.0f} A, {units.text(e.rate.wall_kw, 'power')}",
                "volts × amperes × phases, by the narrowest limit"),
            row("Into the pack", lambda e: f"{units.text(e.rate.pack_kw, 'power')}", "without conversion and what the car is awake for"),
            row("Held by", lambda e: LIMITS[e.rate.limited_by], "the narrowest of the limits in the picture"),
        ),
        "How long does it take?": (
            row(f"{floor} to {limit}", lambda e: _hours(e.fill_h, units), weather),
            row("0 to 100 %", lambda e: _hours(e.full_h, units), "simulated, with the taper above 97 %"),
        ),
        "How far does it bring you?": (
            row("Gained in an hour", per_hour, f"by the day’s use at {units.text(need.now_c, 'temperature', 0)}, as it is now"),
            row("Gained when mild", lambda e: units.text(e.mild_km_per_hour, "distance"),
                f"the same at {units.text(MILD_C, 'temperature', 0)}"),
            row("A stop of one hour", lambda e: f"{units.text(e.stop_km, 'distance')}, {units.text(e.stop_kwh, 'energy')}",
                "simulated from half full"),
            row("Longest day, mild", lambda e: units.text(e.covers_mild_km, "distance"),
                f"brought back in {units.plain(need.cheap_h, 1)} cheap hours"),
            row(f"Longest day, {frost}", lambda e: units.text(e.covers_cold_km, "distance"), "the same in frost, with the pack’s heating"),
        ),
        "What does a year cost?": (
            row("Lost in a year", lambda e: f"{e.year_lost_kwh:.0f} kWh", f"365 nights planned; {year_words(made.year)}"),
            row("Charging for a year", lambda e: units.money(e.year_cost, 0), elsewhere),
            *(row(f"The same, {CONTROL_WORDS[how].name}", lambda e, how=how: units.money(e.by_control[how], 0),
                  "the best that this can carry out on every night") for how in How),
            row("To have it", lambda e: _to_have(e, units), "as entered"),
            row("Paid back in", paid_back, "against the one that costs least to have"),
        ),
    }  # fmt: skip


def year_words(year: CarYear) -> str:
    """Where the days of a car's year come from."""
    return f"{year.logged} days of the log" if year.logged else f"the usual day, {year.days_a_week} days a week"


def climate_words(year: CarYear, units: Units) -> str:
    """Where a year's temperatures come from."""
    place = year.place
    if year.weather_known:
        return f"the village’s weather at {place.name}"
    january, july = (units.text(each, "temperature", 0) for each in (place.january_c, place.july_c))
    by = {GUESSED: "a guess until you say how hard its winters are", OWN: "as entered"}
    known = by.get(place.winters, "as you said of its winters")
    return (
        f"a year from the means of January ({january}) and July ({july}) at {place.name}, {known}; noted temperatures replace it"
    )


def house_words(source: HouseSource) -> str:
    """Where the house's use comes from."""
    figures = f"{'your' if source.own else 'typical'} monthly figures, {HOUSE_SHAPES[source.shape]}"
    if not source.metered:
        return figures
    rest = "" if source.metered > 0.999 else f", the rest from {figures}"
    return f"meter readings for {100 * source.metered:.0f} % of the year{rest}"


def compare_verdict(made: Comparison, units: Units) -> Verdict:
    """The cheapest tariff of the year, and by how much."""
    best, now = made.years[made.best], made.years[made.now]
    lead: tuple[Part, ...]
    then: tuple[Part, ...]
    wins = sum(1 for each in made.winners if each == made.best)
    if made.best == made.now:
        others = [year.total - now.total for i, year in enumerate(made.years) if i != made.now]
        lead = (Part("Stay with "), Part(now.tariff.name, "strong"), Part("."))
        gap = f", {units.money(min(others), 0)} less than the next" if others else ""
        then = (
            Part("The last year would have cost "),
            Part(units.money(now.total, 0), "strong"),
            Part(f"{gap}. It is the cheapest in {wins} of 12 months."),
        )
    else:
        lead = (
            Part("Go to "),
            Part(best.tariff.name, "strong"),
            Part(f": {units.money(now.total - best.total, 0)} a year less."),
        )
        then = (Part("The last year would have cost "), Part(units.money(best.total, 0), "strong"),
                Part(f" instead of {units.money(now.total, 0)} on {now.tariff.name}."),
                Part(f" It is the cheapest in {wins} of 12 months."))  # fmt: skip
    return Verdict(lead, then, tuple(_compare_notes(made, units)))


def _compare_notes(made: Comparison, units: Units) -> list[str]:
    now, notes = made.years[made.now], []
    if len(made.years) == 1:
        notes.append("There is nothing to compare it with yet: paint another tariff, such as one that is on offer to you.")
    for i, year in enumerate(made.years):
        if i != made.now and year.break_even_km is not None and year.break_even_km < FARTHEST_KM:
            way = f"{'more' if year.above else 'less'} than {units.text(year.break_even_km, 'distance')}"
            notes.append(f"{year.tariff.name} costs less than {now.tariff.name} if you drive {way} a year.")
        if 0 < made.dated[i] < ALL_OF_IT:
            notes.append(
                f"{year.tariff.name} has dated prices for {100 * made.dated[i]:.0f} % of the year; its painted week fills the rest."
            )
        short = sum(plan.short_nights for plan in year.cars)
        if short:
            notes.append(f"On {year.tariff.name} {short} days would need a charge elsewhere, which is not counted here.")
    if made.dated_nights and len(made.years) > 1:
        costs = ", ".join(
            f"{units.money(cost)} on {year.tariff.name}" for cost, year in zip(made.on_dated, made.years, strict=True)
        )
        notes.append(f"On the {made.dated_nights} nights that have prices of their own the cars cost {costs}.")
    if made.left_out:
        notes.append(f"Not counted: {', '.join(made.left_out)}, kept at another place with a tariff of its own.")
    return notes


def compare_rows(made: Comparison, units: Units) -> tuple[tuple[str, ...], ...]:
    """The table of the comparison: a line for each tariff."""
    now = made.years[made.now]
    return tuple(
        (
            year.tariff.name,
            units.money(year.total, 0),
            "now" if i == made.now else units.money(year.total - now.total, 0),
            units.money(year.car_cost, 0),
            units.money(year.house_cost, 0),
            units.money(year.standing, 0),
            f"{units.plain(100 * year.car_cost / max(units.of('distance').show(made.km), 1e-9) * units.exchange_rate, 2)}",
            units.text(year.break_even_km, "distance")
            if i != made.now and year.break_even_km is not None and year.break_even_km < FARTHEST_KM
            else "–",
            ", ".join(MONTHS[m][:3] for m in range(12) if made.winners[m] == i) or "none",
        )
        for i, year in enumerate(made.years)
    )
