"""The sayings in our words: each one's title and sentence by its key, the sides of quarrels, and the names of their numbers."""

from collections.abc import Mapping

from ....core.sayings.said import Said, Side, Verdict, Yearly
from ....services.sayings.room import SayingsRoom
from ...units import Units
from ...words.sentence import Part
from ...words.sentence import Verdict as Sentences
from ...words.warm import WARM_UPS
from .away_words import AWAY
from .cable_words import CABLE
from .driving_words import DRIVING
from .pack_words import PACK
from .written import Says, Sentence, written

VERDICTS: Mapping[Verdict, str] = {
    Verdict.HOLDS: "Holds here",
    Verdict.TURNS: "Turns here",
    Verdict.NOT_HERE: "Not here",
    Verdict.LITTLE: "Not worth a thought",
    Verdict.NOBODY_KNOWS: "Nobody knows",
}
ROOMS: Mapping[str, tuple[str, str]] = {
    "day": ("/day", "Day"),
    "habits": ("/day/matters", "What matters where"),
    "tyres": ("/day/tyres", "Tyres"),
    "warm": ("/warm-up", "Warm-up"),
    "schools": ("/battery/schools", "Limit schools"),
    "battery": ("/battery", "Battery"),
    "weekly": ("/day/long/weekly", "Weekly charger"),
    "another": ("/garage/another", "Another car"),
    "outlets": ("/garage/outlets", "Outlets bench"),
    "compare": ("/garage/compare", "Compare"),
    "timer": ("/tonight/timer", "Timer"),
    "week": ("/week", "Week"),
    "tonight": ("/tonight", "Tonight"),
    "long": ("/day/long/side", "Long day"),
    "parked": ("/parked", "Parked"),
    "season": ("/parked/season", "Season list"),
    "twelve_volt": ("/parked/twelve-volt", "12 V battery"),
    "washer": ("/parked/washer", "Washer"),
}
"""Where each is worked out, with its address."""
SIDES: Mapping[str, str] = {
    "slower_5": "{v5} slower", "slower_10": "{v10} slower", "heat_off": "heating off", "gentle_foot": "a gentle foot",
    "brisk_foot": "a brisk foot", "gentle_button": "the button alone", "strong": "strong", "weak": "weak",
    "coolest": "coolest hours", "latest": "latest hours", "open_in_town": "windows open, town",
    "open_on_motorway": "windows open, motorway",
    "cooling": "cooling by itself",
    "limit_50": "50 %", "limit_70": "70 %", "limit_80": "80 %", "limit_90": "90 %", "limit_100": "100 %",
    "every_night": "every night", "seldom": "seldom", "all_fast": "all of it fast", "all_home": "all of it at home", "smaller": "smaller",
    "as_it_is": "as it is", "larger": "larger", "outdoor": "outdoors", "unheated": "a garage", "heated": "a heated one",
    "by_hand": "by hand", "by_timer": "by a timer", "by_linked": "linked", "once": "set once", "nightly": "set each night",
    "always": "every night in", "to_charge": "as the week has it", "as_planned": "as planned", "at_once": "at once", "post": "at the post",
    "at_home": "at home", "low_warm": "low and warm", "half_cold": "half full and cold", "to_80": "60 to 79 %", "to_100": "80 to 99 %",
    "range": "range", "half": "half of it", "net": "kept less what it asks", "lost": "lost", "frost": "frost", "summer": "summer",
    "freezes": "it freezes at", "coldest": "the coldest expected", **WARM_UPS,
}  # fmt: skip
NUMBERS: Mapping[str, tuple[str, str]] = {
    "kwh": ("energy a year", "energy"), "money": ("money", "money"), "hours": ("hours", "hours"), "km": ("tomorrow", "distance"),
    "wh": ("takes", "wh"), "points": ("kept, points", "points"), "raised": ("raised nights a year", "count"),
    "short_days": ("days not carried", "count"), "left": ("left of new", "share"), "nights": ("nights", "count"), "wear": ("wear", "money"),
    "capacity": ("pack", "energy"), "cold_km": ("full, coldest days", "distance"), "kw": ("power", "power"),
    "short": ("short nights", "count"),
    "minutes": ("minutes", "minutes"), "worth": ("worth in all, tomorrow", "money"),
}  # fmt: skip
"""The column of each number of a side, and how it is written."""
CAUTIONS: Mapping[str, str] = {
    "slower": "Slower is only better where it is legal and safe.",
    "heat_or_speed": "People warm and screens clear come first.",
    "tyres_in_cold": "Cold readings, the car’s placard, never above the sidewall’s maximum.",
    "brush_snow": "Many places require a clear roof by law.",
    "wall_unit": "A licensed electrician and the local code decide what a circuit bears.",
    "small_battery": "Gas and acid, right polarity, the owner’s manual.",
    "washer": "Alcohols are flammable; methanol is poisonous and restricted in places: follow the label.",
    "twenty_to_eighty": "Never plan to reach 0 %: weak cells show only low down.",
}


def yearly_words(each: Yearly, units: Units) -> str:
    """What it brings or takes in a year, with its band: "brings €52 a year (45–60)"."""
    brings, likely, low, high = each.likely >= 0, abs(each.likely), *sorted((abs(each.low), abs(each.high)))
    if each.low * each.high < 0:
        low = 0.0
    if each.of == "money":
        said = written(likely, "money", units)
        ends = tuple(units.plain(end * units.exchange_rate, 0) for end in (low, high))
    elif each.of == "health":
        said = f"{units.plain(100 * likely, 2)} points of the pack"
        ends = tuple(units.plain(100 * end, 2) for end in (low, high))
    else:
        said, ends = units.text(likely / 60.0, "hours"), tuple(units.plain(end / 60.0, 0) for end in (low, high))
    band = f" ({ends[0]}–{ends[1]})" if ends[0] != ends[1] else ""
    return f"{'brings' if brings else 'takes'} {said} a year{band}"


def side_name(side: str, units: Units) -> str:
    """A side in words; "=…" is a name that the owner gave."""
    if side.startswith("="):
        return side[1:]
    return SIDES[side].format(v5=units.text(5, "speed"), v10=units.text(10, "speed"))


def columns(sides: tuple[Side, ...]) -> tuple[str, ...]:
    """The numbers that any of the sides has, in their order."""
    return tuple(dict.fromkeys(name for each in sides for name in each.numbers))


def logged_words(said: Said, units: Units) -> str:
    """What the log says to it: "In your last year, 318 days of driving, 137 of them in frost: 366 kWh, 157 kWh of it in the frost."."""
    found = said.logged
    if found is None or found.kwh < 0.5:
        return ""
    return (
        f"Held against your log of the last year: {found.days} days driven, {found.frosty} of them in frost; it would have been "
        f"{written(found.kwh, 'energy', units)}, {written(found.frosty_kwh, 'energy', units)} of it on the frosty ones."
    )


def sentence(key: str, said: Said, units: Units) -> str:
    """What a saying comes to, in a sentence or two."""
    return SAYINGS[key][1](said, Says(said, units))


SAYINGS: Mapping[str, tuple[str, Sentence]] = {**DRIVING, **PACK, **CABLE, **AWAY}
"""Title and sentence of each saying, by the core’s key."""
LACKING = "Your home lacks what it asks for: an outlet with a tariff, or a second of something to hold it against."


def act_words(said: Said, units: Units) -> str:
    """What one tap sets: "Everyday limit 70 %"."""
    if said.act is None:
        return ""
    habit, value = said.act
    match habit:
        case "limit":
            return f"Everyday limit {units.text(float(value), 'percent')}"
        case "cabin_c":
            return f"Cabin {units.text(float(value), 'temperature', 0)}"
        case "motorway_kmh":
            return f"Usual motorway speed {units.text(float(value), 'speed', 0)}"
        case "plugs":
            return "Plug in when it pays"
    return "Equal hours: the coolest" if value == "cool" else "Equal hours: the latest"


def verdict(made: SayingsRoom, count: int, units: Units) -> Sentences:
    """What counts the most for this car, and how many are not worth a thought."""
    first = [key for key, said in made.told.items() if said.verdict in (Verdict.HOLDS, Verdict.TURNS)][:3]
    little = sum(said.verdict is Verdict.LITTLE for said in made.told.values())
    if not first:
        return Sentences((Part("The sayings are being worked out for this car."),), ())
    names = [f"“{SAYINGS[key][0]}”" for key in first]
    lead = (Part("For "), Part(made.owned.name), Part(" these change the most in a year: "), Part(", ".join(names)), Part("."))
    then = (
        f"{len(made.told)} of {count} sayings are worked out from this car, your days, outlet and prices; "
        f"{little} of them are not worth a thought (under {units.money(made.here.little, 0)} a year)."
    )
    return Sentences(lead, (Part(then),))


def stake_words(said: Said, units: Units) -> str:
    """What following it changes in a year, in the fewest words: "€53, −15.8 h"; between sides of which none is "
    "advised how far they are apart."""
    if said.at_stake:
        return units.money(said.at_stake, 0)
    return ", ".join(short for each in said.yearly if (short := _short(each, units)))


def _short(each: Yearly, units: Units) -> str:
    """An amount without its band; "" for one that is nothing in its last place."""
    nothing = units.money(0, 0), units.text(0, "hours", 0), "0.00 points"
    if each.of == "money":
        said = units.money(each.likely, 0)
    elif each.of == "health":
        said = f"{units.plain(100 * each.likely, 2)} points"
    else:
        said = units.text(each.likely / 60.0, "hours", 0)
    return "" if said.replace("−", "").replace(",", ".") in nothing else said
