"""Words of a stranger's car: how it stands, what to ask the seller, what to drive, and what of it all a drive would tell."""

from ....core.advice.used_car import DRIVE, WINTER_C, WINTER_KMH, Found
from ....core.battery.capacity import Worth
from ....core.battery.own_tests import FIGURE
from ....services.used_car import UsedRoom
from ...units import Units
from ...words.battery import CAUTIONS, band, worth_words
from ...words.sentence import NBSP, Part, Verdict

LEADS = {
    Found.BETTER: "Better than most of its age",
    Found.USUAL: "As usual for its age",
    Found.WORSE: "Worse than most of its age",
    Found.UNTOLD: "What was read and driven tells too little",
    Found.UNTESTED: "Nothing is tested yet",
}
ROWS = {FIGURE: "its own figure", DRIVE: "the drive"}
ASK = (
    ("Its own health figure", "from the car’s menu or a workshop’s paper, and the day it was read"),
    ("The warranty’s paper", "which health, for how many years and km, and whether it goes with the car"),
    ("Repairs and recalls of the pack", "what was done, when, and by whom"),
    ("How it lived", "its everyday limit, weeks standing full, hot summers, garage or street"),
    ("How it was charged", "by night at home, or mostly at fast posts"),
    ("That it charges", "before your eyes, at home’s power: phases, amperes, the flap and the lock of the cable"),
    ("What warms it", "heat pump or not; whether the pack can be warmed on command"),
    ("12 V battery, tyres, cables", "their age and tread, winter wheels, which cables come with it"),
    ("Keys and accounts", "all keys, and the seller’s account taken out of the car"),
)
STEPS = (
    "Begin at 90 % or more, with a pack that is warm from a drive or a charge.",
    "Set the trip meter to nought, the climate as you will leave it, and note the level.",
    "Drive ordinary roads down to 40 %, better to 20 %: the further, the more it tells.",
    "Note the level, the kWh of the trip meter (or its consumption times the distance) and the pack’s temperature, if it is shown.",
    "End near a charger: weak cells show only low down, and a car that stops early has shown one.",
)


def used_verdict(room: UsedRoom, units: Units) -> Verdict:
    """How it stands beside others of its age and kilometres, then what that means."""
    judged = room.judged
    low, high = judged.trend.band
    left = Part(units.text(judged.trend.health, "percent"), "strong")
    spread = Part(f" of new are left (likely {band(low, min(high, 1.0))}).")
    lead = (Part(f"{LEADS[judged.found]}: "), left, spread)
    if judged.found is Found.UNTESTED:
        lead = (Part(f"{LEADS[judged.found]}: by age and distance about "), left, spread)
    return Verdict(lead, (Part(" ".join(_then(room, units))),), tuple(_notes(room, units)))


def _then(room: UsedRoom, units: Units) -> list[str]:
    """What is usual, what it is worth, and what it means in winter."""
    judged, inputs = room.judged, room.inputs
    low, high = judged.usual.band
    said = [f"Usual for its age and distance are {units.text(judged.usual.health, 'percent')} ({band(low, min(high, 1.0))})."]
    if judged.found is not Found.UNTESTED:
        said.append(f"Of 100 such cars about {min(99, max(1, round(100 * judged.rank)))} have less.")
    if judged.found is Found.WORSE:
        said.append(f"What it lost more than they is worth about {units.money(judged.short_money, 0)} of a new pack.")
    elif judged.found is Found.BETTER:
        said.append(f"What it kept more than they is worth about {units.money(-judged.short_money, 0)} of a new pack.")
    kwh = units.text(judged.trend.health * room.car.pack.usable_kwh_new, "energy", 1)
    likely, near, far = (units.text(each, "distance", 0, unit=False) for each in judged.winter_km)
    said.append(
        f"That is {kwh}; nine tenths of it reach {likely} {units.of('distance').label} ({near}–{far}) on the motorway at "
        f"{units.text(WINTER_KMH, 'speed', 0)} and {units.text(WINTER_C, 'temperature', 0)}."
    )
    promised, ends = units.text(inputs.warranty_soh, "percent"), units.date(room.warranty_ends, month="B", year=True)
    if room.warranty_ends <= room.today:
        said.append(f"A warranty of {promised} is over.")
    else:
        chance = judged.warranty_chance
        under = "hardly to be thought" if chance < 0.01 else f"a chance of {100 * chance:.0f}{NBSP}%"
        said.append(f"The warranty ends about {ends}; to be under its {promised} then is {under}.")
    return said


def _notes(room: UsedRoom, units: Units) -> list[str]:
    """What the tests left open, and what would tell more."""
    judged, inputs, notes = room.judged, room.inputs, list[str]()
    if judged.found in (Found.UNTOLD, Found.UNTESTED):
        soc_from, soc_to, told, km = judged.foreseen[-1]
        span = f"from {100 * soc_from:.0f} to {units.text(soc_to, 'percent')}"
        notes.append(f"A drive {span}, about {units.text(km, 'distance', 0)}, would tell it to {worth_words(told, units)}.")
    parts = (inputs.soc_from, inputs.soc_to, inputs.kwh)
    if None in parts and any(each is not None for each in parts):
        notes.append("The drive counts once both levels and the kWh of the trip meter are there.")
    if inputs.kwh is not None and inputs.pack_c is None and inputs.air_c < 15:
        notes.append("Nobody read the pack’s temperature: what the cold took of the drive is guessed, and widens the band.")
    if inputs.figure is not None and inputs.kwh is None:
        notes.append("A figure alone is the car’s own word for itself: a drive tells whether it holds.")
    return [*notes, *CAUTIONS[:1]]


def foreseen_rows(room: UsedRoom, units: Units) -> list[tuple[str, str, str]]:
    """What drives would tell: levels, about how far, to how much."""
    return [
        (
            f"{100 * one:.0f} → {units.text(other, 'percent')}",
            f"about {units.text(km, 'distance', 0)}",
            "nothing: too short" if found.worth is Worth.NOTHING else worth_words(found, units),
        )
        for one, other, found, km in room.judged.foreseen
    ]
