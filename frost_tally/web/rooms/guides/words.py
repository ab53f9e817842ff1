"""Words of the guides: what to do at each step, what spoils it, what it asks."""

from collections.abc import Mapping
from dataclasses import dataclass

from ....core.car import Preheats
from ....core.heat.trial import Braking
from ....services.guides import Ended, UnderWay
from ...units import Units
from ...words.battery import EARLY, worth_words

TITLES: Mapping[str, tuple[str, str, str]] = {
    "drive_down": ("Drive it down", "A full charge, one long drive to under 20 %, and the trip’s kWh.", "two days"),
    "charge_up": (
        "Charge it up",
        "From under 20 % in one session to your limit, by the meter or the car’s own count.",
        "one night",
    ),
    "car_test": (
        "The car’s own test",
        "Where the car has one: it wants under 20 %, the cable, and about 12 hours undisturbed.",
        "one night",
    ),
    "trial": (
        "Does warming the cabin warm the pack?",
        "Two frosty mornings, one without a warm-up, one with the cabin warmed.",
        "two mornings",
    ),
    "calibrate": ("Set the display right", "Down to about 20 %, four to six hours of rest, then to 100 % and away.", "a day"),
}


@dataclass(frozen=True)
class StepWords:
    """A step: its title, what to do, what spoils it."""

    title: str
    do: tuple[str, ...]
    spoils: tuple[str, ...] = ()


STEPS: Mapping[str, StepWords] = {
    "plan": StepWords(
        "What will it tell?",
        ("Choose the two levels. The further apart, the more it tells; under 40 % apart it hardly tells anything.",),
    ),
    "prepare": StepWords(
        "The evening before",
        (
            "Charge to the upper level, to be full within the hour before you leave.",
            "Plan a drive that ends near a charger, at home or on the way.",
            "Warm the pack if it freezes: a cold pack measures its cold as well.",
        ),
        ("a charge on the way", "a pack under {15 °C}", "standing full for hours before"),
    ),
    "set_off": StepWords(
        "Setting off",
        ("Unplug. Read the level, then reset the trip meter.", "Note the level that the car shows."),
        ("a trip meter that was not reset",),
    ),
    "drive": StepWords(
        "The drive",
        (
            "Drive as usual, in one piece; breaks of an hour do no harm.",
            "Stop at the lower level, next to the charger. Not lower than you planned.",
        ),
        ("charging in between", "hours of standing with climate or watch cameras on"),
    ),
    "read": StepWords(
        "Reading it off",
        (
            "Read level and kWh since the reset, before you plug in.",
            "If the car stopped or lost power before you meant to end, say so.",
        ),
    ),
    "arrive_low": StepWords(
        "Arriving low",
        (
            "Come home with less than 20 %. Let the car stand for an hour.",
            "Set the limit to the upper level, and nothing else on that meter.",
        ),
        ("a pack that is warmed on the way in: choose a mild night",),
    ),
    "begin": StepWords(
        "Plugging in",
        ("Read the level. Set the meter to nought, or note what it shows.", "Plug in and let it charge in one session."),
        ("a warm-up or climate while it charges",),
    ),
    "charge": StepWords(
        "The charge", ("Leave it alone until it has reached the limit.",), ("unplugging", "preheating", "opening the car often")
    ),
    "read_meter": StepWords("Reading the meter", ("Read level and kWh before you use the car.",)),
    "go_low": StepWords(
        "Under 20 %", ("Drive it to under 20 %, and start the test in the car’s own menu.",), ("starting above 20 %",)
    ),
    "plug_in": StepWords(
        "Plugged in, and left alone",
        (
            "Plug it in. The car discharges and charges by itself for about 12 hours.",
            "Keep key and phone away, so that it sleeps.",
        ),
        ("unlocking it", "looking at it in an app", "watch cameras"),
    ),
    "figure": StepWords("The figure", ("Read the health that the car shows now.",)),
    "down": StepWords("Down to about 20 %", ("Drive down to about 20 %, not lower than 15 %, near a charger.",)),
    "rest": StepWords(
        "Park it to rest",
        ("Park it, unplugged, watch cameras and app polling off. Lock it and leave.",),
        ("opening the doors", "an app that wakes it"),
    ),
    "rested": StepWords(
        "Four to six hours asleep", ("Do nothing. Then plug in, with the limit at 100 %.",), ("every look into the car",)
    ),
    "full": StepWords("Full", ("Let it reach 100 % and stop by itself. Note what it shows.",)),
    "cold_evening": StepWords(
        "The first evening",
        (
            "Choose a night of frost. Plug in as usual, and switch the warm-up off for the morning.",
            "Let charging end hours before you leave: charging warms the pack, too.",
        ),
        ("a warm garage", "charging up to departure"),
    ),
    "cold_morning": StepWords(
        "The morning without a warm-up",
        (
            "Before you set off, note the air outside and the pack, if the car shows it.",
            "On the first slopes see how it brakes with its motor.",
        ),
    ),
    "warm_evening": StepWords(
        "The evening before the other morning",
        ("As on the first: the same outlet, the same limit, charging done early. But set the cabin to be warm at departure.",),
        ("another kind of night: within {4 K} it can be compared",),
    ),
    "warm_morning": StepWords(
        "The morning with the cabin warmed",
        ("Unplug when the cabin is warm, and note the same things.", "See how it brakes on the same slopes."),
    ),
    "leave": StepWords("Away", ("Leave within the hour: a full pack should not stand.", "Put the limit back to your usual one.")),
}
BRAKING = {
    Braking.FULL.value: "as on a warm day", Braking.LESS.value: "less than then", Braking.HARDLY.value: "hardly at all",
}  # fmt: skip
COUNTED = {"wall": "at the wall", "pack": "into the pack, by the car"}


def step_done(before: UnderWay, ended: Ended | None, units: Units) -> str:
    """What a step did, for the line that offers to undo it."""
    title = STEPS[before.step.key].title
    if ended is None:
        return f"{TITLES[before.at.kind][0]}: “{title}” done"
    return ended_words(ended, units)


TRIED = {
    Preheats.YES: "warming the cabin warms its pack; plans reckon with it",
    Preheats.NO: "warming the cabin leaves its pack cold; plans reckon with it",
    Preheats.UNKNOWN: "these mornings do not tell; colder ones, more alike, would",
}


def ended_words(ended: Ended, units: Units) -> str:
    """What a guide ended in."""
    if ended.trial is not None:
        gained = ended.trial.gained_k
        by = "" if gained is None else f", {units.text(gained, 'warmer')} more than the weather explains"
        return f"Tried: {TRIED[ended.trial.found]}{by}"
    if ended.capacity is None:
        return "Display calibrated, and noted in the log"
    found = units.text(ended.capacity.kwh, "energy")
    said = f"Filed: {found} ({worth_words(ended.capacity, units)})"
    return f"{said}. {early_words(ended, units)}" if ended.early else said


def early_words(ended: Ended, units: Units) -> str:
    """What a test cut short may be."""
    return EARLY.format(units.text(float(ended.entry.values["soc_to"]), "percent")).rstrip(".")
