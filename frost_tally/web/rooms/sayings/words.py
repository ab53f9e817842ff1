"""The sayings in our words: each one's title and sentence by its key, the sides of quarrels, and the names of their numbers."""

from collections.abc import Callable, Mapping
from datetime import time

from ....core.sayings.said import Said, Side, Verdict, Yearly
from ....services.sayings import SayingsRoom
from ...units import Units
from ...words.sentence import Part
from ...words.sentence import Verdict as Sentences
from ...words.warm import WARM_UPS

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


def written(value: float, how: str, units: Units) -> str:
    """A number as its kind is written."""
    per = units.of("distance")
    match how:
        case "money":
            return units.money(value, 0 if abs(value) >= 20 else None)
        case "points":
            return units.plain(100 * value, 1)
        case "share":
            return units.text(value, "percent", 0 if abs(value) >= 0.1 or value == 0 else 1)
        case "count":
            return units.plain(value, 0)
        case "wh":
            return f"{units.plain(value / per.show(1.0), 0)}\u00a0Wh/{per.label}"
        case "energy":
            return units.text(value, "energy", 0 if abs(value) >= 20 else 1)
        case "hours":
            return units.text(value, "hours", 0 if abs(value) >= 20 else 1)
        case "distance":
            return units.text(value, "distance", 0 if abs(value) >= 10 else 1)
        case "temperature" | "power" if value == round(value):
            return units.text(value, how, 0)
    return units.text(value, how)


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


class _Says:
    """A saying's numbers as they are written in its sentence."""

    def __init__(self, said: Said, units: Units) -> None:
        self.said, self.units = said, units

    def __call__(self, name: str, how: str) -> str:
        return written(self.said.numbers[name], how, self.units)

    def __contains__(self, name: str) -> bool:
        return name in self.said.numbers

    @property
    def ten(self) -> str:
        """Ten kilometres an hour."""
        return self.units.text(10, "speed")

    def at(self, quantity: str) -> str:
        """Where it turns."""
        turn = self.said.turn
        return "" if turn is None or turn.at is None else self.units.text(turn.at, quantity)


def sentence(key: str, said: Said, units: Units) -> str:
    """What a saying comes to, in a sentence or two."""
    return SAYINGS[key][1](said, _Says(said, units))


Sentence = Callable[[Said, _Says], str]


def _left_on(said: Said, n: _Says) -> str:
    return (
        f"It takes {n('town_wh', 'wh')} in town and {n('motorway_wh', 'wh')} on the motorway, {n('kwh', 'energy')} in a "
        f"year of your roads."
    )


def _small(said: Said, n: _Says) -> str:
    return f"{n('km', 'distance')} of tomorrow’s range, {n('kwh', 'energy')} in a year. Use what you need."


def _damp(said: Said, n: _Says) -> str:
    return f"Damp air is a little lighter than dry: {n('kwh', 'energy')} in a year."


def _pack_heat(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "This car heats no pack on the way, or does not let its driver switch that off, as far as the Garage knows."
    return _saving(said, n)


def _later(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "Tomorrow it is no warmer two hours later."
    return f"Tomorrow’s two hours later give {n('km', 'distance')}; if every day grew as much warmer, {n('kwh', 'energy')} in a year."


def _slower(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "Your usual day has no motorway: there is nothing to slow down."
    return (
        f"{n.ten} less give {n('km', 'distance')} tomorrow for {n('minutes', 'minutes')} more on the road; over a year "
        f"{n('kwh', 'energy')}."
    )


def _heat(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "Without motorway speed, or without a heater that is on, there is nothing to choose between."
    if said.turn is None or said.turn.at is None:
        return f"At your speed {n.ten} less give more than the heating takes, in any cold: stay warm, and slow down."
    return (
        f"Colder than {n.at('temperature')} the heating takes more than {n.ten} less on the motorway would give; warmer, the foot gives "
        "more. Warm the cabin on the cable, and use the seats, before you freeze."
    )


def _tyres(said: Said, n: _Says) -> str:
    physics = f"From 15 to −10 degrees a tyre at {n('placard_kpa', 'pressure')} loses {n('lost_kpa', 'pressure')}".replace(
        "15 to −10 degrees", f"{n.units.text(15, 'temperature', 0)} to {n.units.text(-10, 'temperature', 0)}"
    )
    if said.verdict is Verdict.NOBODY_KNOWS:
        return f"{physics}. Yours were never read: a look at one wheel says what it takes."
    return f"{physics}. Yours have {n('gauge_kpa', 'pressure')} in tomorrow’s air; pumping them gives {n('km', 'distance')}."


def _snow(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "No frosty days in your year, no snow on the car."
    return (
        f"Snow left on takes {n('town_wh', 'wh')} in town, {n('motorway_wh', 'wh')} on the motorway; on about "
        f"{n('days', 'count')} mornings "
        "a year, if it lies on every third frosty one. Sight and the law come before energy."
    )


def _saving(said: Said, n: _Says) -> str:
    if "kwh" not in n or said.verdict is Verdict.NOT_HERE:
        return "It changes nothing on your days."
    return f"{n('km', 'distance')} tomorrow, {n('kwh', 'energy')} in a year of your days."


def _gentle(said: Said, n: _Says) -> str:
    return (
        "Both are right: the button makes the pedal softer, and what it saves is what the foot then does. Steady on the motorway there is "
        "nothing to save by it."
    )


def _braking(said: Said, n: _Says) -> str:
    what = (
        f"Of the {n('put_in_wh', 'wh')} that stops in town take, {n('share', 'share')} come back, strong or weak, as long "
        f"as the motor brakes"
    )
    if said.numbers["lost"] > 0:
        return f"{what}. What your friction brakes keep costs {n('lost', 'money')} a year."
    return f"{what}. Rolling on early keeps the rest, too."


def _windows(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return f"Your year has no driven day above {n.units.text(24, 'temperature', 0)}: neither matters."
    which = {"": "In town the windows take less, on the motorway the cooling", "cooling": "The cooling takes less, even in town"}
    less = which.get(said.best, "Open windows take less, even on the motorway, if you bear the noise")
    return f"{less}. {n('days', 'count')} driven days a year are hot enough to ask."


def _preheat_from(said: Said, n: _Says) -> str:
    if "from_km" not in n:
        return f"Tomorrow, at {n('air_c', 'temperature')}, a warm pack pays for itself on no distance, comfort counted."
    far = said.numbers["km"] >= said.numbers["from_km"]
    return (
        f"Tomorrow, at {n('air_c', 'temperature')}, a warm pack pays from {n('from_km', 'distance')} one way; yours is "
        f"{n('km', 'distance')}: "
        f"{'warm it' if far else 'leave the pack cold'}."
    )


def _seats(said: Said, n: _Says) -> str:
    if "to_km" not in n:
        return f"Tomorrow, at {n('air_c', 'temperature')}, seats alone are the best choice on no distance."
    return (
        f"Tomorrow, at {n('air_c', 'temperature')}, seats alone do up to {n('to_km', 'distance')} one way; yours is "
        f"{n('km', 'distance')}."
    )


def _always(said: Said, n: _Says) -> str:
    best = WARM_UPS.get(said.best, said.best)
    if said.verdict is Verdict.NOT_HERE and said.numbers["days"] < 1:
        return "Your year has no frosty days."
    return (
        f"Tomorrow {best} is worth the most; cabin and pack would cost {n('more', 'money')} more, comfort, level and wear counted. "
        f"Your year has {n('days', 'count')} frosty days."
    )


def _halves(said: Said, n: _Says) -> str:
    now = f"Tomorrow leaves {n('tomorrow', 'share')} of the mild day’s range. " if "tomorrow" in n else ""
    if said.turn is None or said.turn.at is None:
        return f"{now}At {n('coldest_c', 'temperature')} {n('least', 'share')} are left: never half gone on your day."
    return f"{now}Half is gone at {n.at('temperature')}, with wind, road and tyres as tomorrow’s."


def _dashboard(said: Said, n: _Says) -> str:
    return (
        f"By the ratings it shows {n('label_km', 'distance')} or {n('procedure_km', 'distance')} for tomorrow’s level; as you drive "
        f"tomorrow it goes {n('range_km', 'distance')}."
    )


def _winter_tyres(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.NOT_HERE:
        return "Your place has no weeks that cold."
    return (
        f"{n('days', 'count')} driven days of your year are colder. They are for grip; they roll {n('more', 'share')} "
        f"harder, which is the price."
    )


def _eighty(said: Said, n: _Says) -> str:
    return (
        f"80 % keeps {n('points', 'points')} points ({n('low', 'points')} to {n('high', 'points')} by the cell) over "
        f"{n('years', 'count')} years "
        f"against 100 %. Raised nights and stops counted, {n('best', 'share')} is worth the most for you."
    )


def _fifty(said: Said, n: _Says) -> str:
    gain = said.numbers["money"]
    return (
        f"{n('points', 'points')} points more in {n('years', 'count')} years, for {n('raised', 'count')} more nights a "
        f"year on which you raise "
        f"it: {n.units.money(abs(gain), 0)} {'won' if gain > 0 else 'lost'} in all."
    )


def _twenty(said: Said, n: _Says) -> str:
    return (
        f"The upper end keeps {n('points', 'points')} points. The lower end spares the pack nothing that is known; it "
        f"is room for a closed road. "
        f"From 80 %, {n('days', 'count')} days of your year end under 20 %."
    )


def _full(said: Said, n: _Says) -> str:
    return (
        f"At your {n('limit', 'share')} it stands full {n('late_h', 'hours')} a day so, {n('early_h', 'hours')} when charged at once: "
        f"{n('points', 'points')} points in {n('years', 'count')} years."
    )


def _weekly_full(said: Said, n: _Says) -> str:
    if "points" not in n:
        return "Your cells are not iron phosphate: their display finds its level without."
    points = n.units.plain(100 * said.numbers["points"], 2)
    return f"It takes {points} points in {n('years', 'count')} years, and keeps the display honest: do it before a long day."


def _shallow(said: Said, n: _Says) -> str:
    if said.numbers["apart"] < 2:
        return "Your days need every night: there is nothing to choose."
    return (
        f"Every night against one night in {n('apart', 'count')}: {n('points', 'points')} points in {n('years', 'count')} "
        f"years. Shallow cycles are "
        "kinder, but a pack that is kept high stands longer at a high level."
    )


def _stored(said: Said, n: _Says) -> str:
    return (
        f"{n('weeks', 'count')} weeks at {n.units.text(15, 'temperature', 0)} take "
        f"{n.units.plain(100 * said.numbers['half'], 2)} points at half, "
        f"{n.units.plain(100 * said.numbers['full'], 2)} at full."
    )


def _cool(said: Said, n: _Says) -> str:
    cold, warm = (n.units.plain(100 * said.numbers[each], 2) for each in ("cold", "warm"))
    return (
        f"{n('weeks', 'count')} weeks at 70 % take {cold} points at {n.units.text(5, 'temperature', 0)}, {warm} at "
        f"{n.units.text(35, 'temperature', 0)}. "
        f"Your year has {n('days', 'count')} days above {n.units.text(25, 'temperature', 0)}."
    )


def _fast(said: Said, n: _Says) -> str:
    more = said.numbers.get("more")
    than = (
        "" if more is None else f", {n('more', 'money')} more than at home" if more > 0 else ", no more than at home in the cold"
    )
    return (
        f"{n('share', 'share')} of your energy came from fast posts. A year of it all fast would wear {n('post_wear', 'money')} by our "
        f"model{than}. Public data do not agree with each other."
    )


def _calibrate(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.HOLDS:
        return "Your log says that the display may have drifted: the guide leads through it."
    return "Nothing in your log says that the display has drifted: never mind."


def _pack(said: Said, n: _Says) -> str:
    return (
        f"A quarter more spares {n('fewer', 'count')} days a year that the night does not carry and costs "
        f"{n('extra', 'money')} by the pack’s "
        f"price; a fifth less would add {n('more', 'count')}."
    )


def _garage(said: Said, n: _Says) -> str:
    return (
        f"Against standing outdoors it spares {n('spared', 'money')} a year on the car’s bill. What heats a garage is not in it."
    )


def _slow(said: Said, n: _Says) -> str:
    if len(said.sides) < 2:
        return "You have one outlet: put another on the bench, and both are told."
    less = said.numbers["wear"]
    worn = f"{n.units.money(abs(less))} {'less' if less > 0 else 'more'}"
    return f"The weakest loses {n('kwh', 'energy')} more a year, for the car is awake as long as it charges; it wears the pack by {worn}."


def _cheap(said: Said, n: _Says) -> str:
    return f"Starting by hand costs {n('spared', 'money')} more a year than drawing the cheapest hours."


def _cool_hours(said: Said, n: _Says) -> str:
    spared = said.numbers["spared"]
    much = f"{n.units.money(abs(spared))} {'less' if spared >= 0 else 'more'}"
    return (
        f"The coming night goes down to {n('air_c', 'temperature')}. In its coolest equal hours the charge would cost "
        f"{much} than in its latest, "
        "wear and the heat that frost asks for counted. It is a rule for hot places."
    )


def _tariff(said: Said, n: _Says) -> str:
    if len(said.sides) < 2:
        return "You have entered one tariff: enter another, and both are told."
    if said.verdict is Verdict.NOT_HERE:
        return "Of the tariffs that you entered yours is the cheapest, or as good as it, cars and house together."
    return f"The cheapest of yours would cost {n('spared', 'money')} less, cars and house together."


def _timer(said: Said, n: _Says) -> str:
    minutes = round(said.numbers["start_min"])
    start = n.units.clock(time(minutes // 60, minutes % 60))
    short = f", and {n('short', 'count')} of them end short that need not" if said.numbers["short"] > 0 else ""
    return f"{start} costs {n('more', 'money')} more than a start for each of the next {n('nights', 'count')} nights{short}."


def _unit(said: Said, n: _Says) -> str:
    if len(said.sides) < 2:
        return "You have one outlet: put an offered one on the bench, and both are told."
    pays = f" It would pay for itself in {n('years', 'count')} years." if "years" in n else ""
    return f"After a frosty day the weakest needs {n('weak_h', 'hours')}, the strongest {n('strong_h', 'hours')}.{pays}"


def _plugged(said: Said, n: _Says) -> str:
    return (
        f"Standing takes {n('a_day', 'energy')} a day, in or out. Of the next {n('nights', 'count')} nights the cable goes in on "
        f"{n('in', 'count')}, on {n('out', 'count')} it stays out, and {n('either', 'count')} are as you like. In on every one would cost "
        f"{n('more', 'money')} more in such a week, wear and level counted."
    )


def _late(said: Said, n: _Says) -> str:
    return (
        f"At once would cost {n('more', 'money')} more a year, {n('wear', 'money')} of it wear. A power cut is in "
        f"neither: a plan that ends half an "
        "hour early is the answer to that."
    )


def _post(said: Said, n: _Says) -> str:
    spared = said.numbers.get("spared")
    money = (
        ""
        if spared is None
        else f" It {'spares' if spared > 0 else 'costs'} {n.units.money(abs(spared), 0)} a year, wear counted."
    )
    if said.numbers.get("even", 0.0) > 0:
        money += f" At {n('even', 'price')} both would cost alike."
    busy = f" In {n('busy', 'count')} weeks once is not enough." if said.numbers["busy"] else ""
    visits = f"{n('visits', 'count')} visits and {n('hours', 'hours')} a year"
    return f"{visits}, {n('coldest_min', 'minutes')} in the coldest week.{busy}{money}"


def _low(said: Said, n: _Says) -> str:
    if "kwh" not in n:
        return "Your way has no fast post to tell it by."
    return f"The same {n('kwh', 'energy')} at {n('kw', 'power')}, {n('spared', 'minutes')} sooner."


def _stops(said: Said, n: _Says) -> str:
    if "cold" not in n:
        return "Your way is done with one stop or none: there is nothing to choose."
    return (
        f"On {n('km', 'distance')}: {n('cold', 'count')} stops are quickest in frost, {n('warm', 'count')} in summer; one more takes "
        f"{n('one_more', 'minutes')} in frost."
    )


def _beyond(said: Said, n: _Says) -> str:
    return f"The last fifth takes {n.units.plain(said.numbers['times'], 1)} times as long as the one before it."


def _lane(said: Said, n: _Says) -> str:
    if "best_kmh" not in n:
        return "Too few speeds get there to tell."
    return (
        f"On {n('km', 'distance')} you are there first at {n('best_kmh', 'speed')} in summer, at {n('frost_kmh', 'speed')} "
        f"in frost, stops counted."
    )


def _standing(said: Said, n: _Says) -> str:
    return f"A day of it takes {n('a_day', 'share')}, {n('km', 'distance')} of range."


def _small_battery(said: Said, n: _Says) -> str:
    if said.verdict is Verdict.NOBODY_KNOWS:
        return "Nobody noted its age or its voltage: two minutes with a meter say it."
    return (
        "It wants to be charged or replaced."
        if said.verdict is Verdict.HOLDS
        else "By its age and readings it is fine this winter."
    )


def _washer(said: Said, n: _Says) -> str:
    return (
        f"Half of a usual concentrate freezes at {n('freezes_c', 'temperature')}; the coldest expected here, with wind on the screen, is "
        f"{n('coldest_c', 'temperature')}."
    )


SAYINGS: Mapping[str, tuple[str, Sentence]] = {
    "slower": ("Slow down before you turn anything off", _slower),
    "heat_or_speed": ("Heating off, or drive slower?", _heat),
    "tyres_in_cold": ("Pump the tyres when it gets cold", _tyres),
    "roof_box": ("An empty roof box eats range", _left_on),
    "wheel_covers": ("Leave the covers on the wheels", _left_on),
    "brush_snow": ("Brush the whole car, not only the glass", _snow),
    "warm_seats": ("Warm the seat, not the air", _saving),
    "gentle_mode": ("The gentle mode saves, or is it only the foot?", _gentle),
    "strong_braking": ("Braking strong, or weak and roll?", _braking),
    "phone": ("Charging the phone costs range", _small),
    "lights_and_wipers": ("Lights and wipers cost range", _small),
    "damp_air": ("Damp air costs range", _damp),
    "windows_or_cooling": ("Windows open, or the cooling on?", _windows),
    "preheat_from": ("Warm the pack only for a long way", _preheat_from),
    "seats_for_short": ("For the short errand warm seats will do", _seats),
    "always_preheat": ("Always warm up before you leave, or the cabin alone, or not at all?", _always),
    "pack_heat_off": ("Switch the pack heating off for short ways", _pack_heat),
    "leave_later": ("Leave when the sun is up", _later),
    "empty_boot": ("Empty the boot", lambda said, n: f"{n('load_kg', 'mass')} carried all year take {n('kwh', 'energy')}."),
    "frost_halves": ("Frost halves the range", _halves),
    "dashboard": ("Never trust the dashboard’s guess", _dashboard),
    "winter_tyres": ("Winter tyres for the cold days, not for the snow", _winter_tyres),
    "eighty": ("Charge to 80 % and no further", _eighty),
    "fifty": ("Fifty is kinder still", _fifty),
    "twenty_to_eighty": ("Keep it between 20 and 80", _twenty),
    "full_before_leaving": ("Full only just before leaving", _full),
    "weekly_full": ("Iron phosphate wants 100 % once a week", _weekly_full),
    "shallow": ("Charge little and often, or seldom and much?", _shallow),
    "stored_half": ("Leave it half full for weeks", _stored),
    "cool_pack": ("Heat ages a pack, cold does not", _cool),
    "fast_harms": ("Fast charging harms, or is it harmless?", _fast),
    "calibrate": ("Empty and fill it monthly for the display, or never mind?", _calibrate),
    "pack_size": ("The larger pack, or the smaller one?", _pack),
    "garage": ("A garage saves charge", _garage),
    "slow_is_kind": ("Slow charging is kind, or is it waste?", _slow),
    "cheap_hours": ("Charge in the cheap hours", _cheap),
    "cool_hours": ("Charge in the coolest hours", _cool_hours),
    "best_tariff": ("Look for another tariff", _tariff),
    "timer_once": ("Set the timer once and forget it", _timer),
    "wall_unit": ("You need a wall unit", _unit),
    "stay_plugged": ("Leave it plugged in, or only to charge?", _plugged),
    "early_or_late": ("Charge late, or at once for fear of a power cut?", _late),
    "weekly_post": ("Forget the socket, once a week at the post will do", _post),
    "low_and_warm": ("Arrive low and warm at the post", _low),
    "fewer_longer": ("In frost fewer and longer stops, or many short ones?", _stops),
    "beyond_eighty": ("At the post leave at 80 %", _beyond),
    "fast_lane": ("Drive fast and charge more, you are there sooner", _lane),
    "watching_cameras": ("Switch the watching cameras off", _standing),
    "app_looks": ("Do not look at the app all the time", _standing),
    "small_battery": ("The small battery dies first in the cold", _small_battery),
    "washer": ("Half water, half concentrate is enough for the washer", _washer),
}
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
