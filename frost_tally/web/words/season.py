"""Words of the winter: the season's items, where it stands, what other rooms say of it, the bad morning."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, timedelta

from ...core.park.season import ITEMS
from ...core.park.twelve_volt import Care
from ...services.winter.room import Matters, Season, Task
from ..units import Units
from .parked import CARE


@dataclass(frozen=True)
class ItemWords:
    """An item of the list: its title, why, and how."""

    title: str
    why: str
    how: str


ITEM_WORDS: Mapping[str, ItemWords] = {
    "twelve_volt": ItemWords(
        "12 V battery looked at",
        "the cold finds a weak one on the first hard morning",
        "read it after a night's rest, and test one of three years or more",
    ),
    "washer": ItemWords(
        "washer mix for the winter",
        "plain water freezes in nozzles, hoses and on the screen",
        "mix it for the coldest night and pull it through to the nozzles",
    ),
    "wiper_blades": ItemWords(
        "wiper blades looked at", "hard rubber smears, and dark mornings are long", "wipe them clean; replace what streaks"
    ),
    "emergency": ItemWords(
        "emergency opening known",
        "a frozen flap or a flat 12 V battery leaves no time to read",
        "find out how flap, doors and cable open without power",
    ),
    "flap_seal": ItemWords(
        "charge flap cleaned, dried and treated",
        "wet seals freeze shut overnight",
        "dry it, and treat the rubber with what the maker allows",
    ),
    "door_seals": ItemWords("door seals greased", "wet rubber freezes to the frame", "wipe dry, then silicone or tallow, thinly"),
    "sensors": ItemWords(
        "mirrors and sensors cleaned",
        "salt and ice blind cameras and distance sensors",
        "wash and dry cameras, sensors, lamps and mirrors",
    ),
    "kit": ItemWords(
        "brush, scraper, blanket and gloves in the car",
        "screens and lights must be clear before you drive",
        "put them in the cabin, not in the boot",
    ),
    "load_out": ItemWords(
        "needless load out", "weight costs range, most on short cold trips", "take out what nobody needs in winter"
    ),
    "carrier_off": ItemWords(
        "roof carrier off", "it costs a tenth of the range and more on the motorway", "take it down until it is needed"
    ),
    "wheel_covers": ItemWords(
        "wheel covers on", "smooth wheels save a few per cent at speed", "put them on with the winter wheels"
    ),
    "tyres": ItemWords(
        "winter tyres on",
        "under {7 °C} summer rubber grips less, and many places require them",
        "by wheel, with the kilometres and the tread noted",
    ),
    "pressures": ItemWords(
        "tyre pressures set cold", "every {5.5 K} colder take {7 kPa}", "cold, in the air it will stand in, to the placard"
    ),
    "departures": ItemWords(
        "winter departure times set",
        "scraping and slow roads take minutes, and the warm-up needs to know",
        "enter when you leave in winter",
    ),
    "limit": ItemWords(
        "limit looked at for the winter day",
        "the same limit reaches less far in frost",
        "see in Tonight whether the coldest usual day is covered",
    ),
    "wipers_up": ItemWords("wipers up", "blades freeze to the screen", "lift them, or park them in the service position"),
    "mirrors_out": ItemWords("mirrors folded out", "folded in they freeze there", "switch off folding when it locks"),
    "screen_cover": ItemWords("screen covered", "scraping takes minutes of the morning", "tuck a cover in behind the doors"),
    "cable_in": ItemWords(
        "cable plugged in",
        "a port that is plugged does not ice, and the pack stays ready",
        "plug in, and see that it is locked and dry",
    ),
}
TITLES = {key: each.title for key, each in ITEM_WORDS.items()}
SHOPPING = {
    "wiper_blades": "a pair of wiper blades, if they are older than a year",
    "door_seals": "silicone or tallow for the seals",
    "kit": "a brush, a scraper with a plastic edge, gloves",
    "screen_cover": "a cover for the screen",
}


def season_verdict(made: Season, units: Units) -> tuple[str, str]:
    """Where the season stands."""
    evening = [each for each in made.evening if each.done is None]
    ready = sum(each.done is not None for each in made.tasks)
    listed = f"{ready} of {len(made.tasks)} of the season’s items are done"
    if made.frost_tonight:
        low = units.text(made.low_c, "temperature", 0)
        if not evening:
            return f"Frost tonight, {low}: all is done.", f"{listed}{_next(made, units)}."
        minutes = sum(each.item.minutes for each in evening)
        things = f"{len(evening)} thing{'s' if len(evening) != 1 else ''}"
        return f"Frost tonight, {low}: {things}, {minutes} minutes.", f"{listed}{_next(made, units)}."
    if made.dates.frost is None:
        return f"{made.owned.name}: no frost to be expected here.", "What is on the list does no harm."
    past = made.dates.frost <= made.today
    if made.first and made.overdue:
        begun = "It is on already" if past else f"The first frost is likely about {units.date(made.dates.frost, month='B')}"
        return (
            f"{made.owned.name}’s first winter with this list: tick what is done already.",
            f"{begun}; the rest is dated below.",
        )
    when = f"The first frost {'was' if past else 'is'} likely about {units.date(made.dates.frost, month='B')}"
    return f"{made.owned.name}: {listed}.", f"{when}{_next(made, units)}."


def _next(made: Season, units: Units) -> str:
    if made.first and made.overdue:
        return "; tick below what is"
    if made.overdue:
        return f"; overdue: {TITLES[made.overdue[0].item.key]}"
    if made.open and made.open[0].due:
        return f"; next: {TITLES[made.open[0].item.key]}, by {units.date(made.open[0].due, month='B')}"
    return ""


def due_words(task: Task, today: date, units: Units) -> str:
    """When something is due, or was done."""
    if task.done is not None:
        return f"done on {units.date(task.done, month='B', year=True)}{f' by {task.who}' if task.who else ''}"
    if task.due is None:
        return ""
    if task.due <= today:
        return f"since {units.date(task.due, month='B', year=True)}"
    left = (task.due - today).days
    return f"by {units.date(task.due, month='B', year=True)}, in {left} day{'s' if left != 1 else ''}"


def next_words(task: Task) -> str:
    """When it is due again, once it is done."""
    if task.done is None or task.due is None:
        return ""
    again = task.due + timedelta(days=365)
    return f"again by {again:%B %Y}"


def matters_words(found: Matters, units: Units) -> list[tuple[str, str]]:
    """What Tonight and Day say in a line each: the words, and where they lead."""
    said = []
    if found.evening:
        low = units.text(found.low_c, "temperature", 0)
        things = f"{found.evening} thing{'s' if found.evening != 1 else ''}"
        said.append((f"Frost tonight, {low}: {things} to do, {found.minutes} minutes", "/parked/season"))
    elif found.overdue and found.first:
        said.append(("A first winter with the season list: tick what is done already", "/parked/season"))
    elif found.overdue:
        said.append((f"Winter: {found.overdue} item{'s are' if found.overdue != 1 else ' is'} overdue", "/parked/season"))
    if found.twelve_volt:
        said.append((f"The 12 V battery {CARE[Care(found.twelve_volt)]}", "/parked/twelve-volt"))
    if found.stands_days:
        said.append((f"It stands for {found.stands_days} days: leave it at about half", f"/parked?days={found.stands_days}"))
    return said


@dataclass(frozen=True)
class Card:
    """The bad morning: what is frozen, what to do, what not."""

    title: str
    do: tuple[str, ...]
    dont: tuple[str, ...]


FROZEN = (
    Card(
        "The door",
        (
            "Press firmly round the frame, with a flat hand, to break the ice.",
            "Try the other doors and the boot: one is often free.",
        ),
        ("Pulling at the handle.", "Hot water: it freezes again, and cracks glass."),
    ),
    Card(
        "The handle",
        (
            "Warm it with the hand, or tap round it with the handle of the brush.",
            "A flush handle comes out when its edge is pressed in.",
        ),
        ("Levering it out with a tool.",),
    ),
    Card(
        "The charge flap",
        (
            "Start the warm-up from the app: the flap is often heated with it.",
            "Press round the edge; a bag of warm, not hot, water on top for minutes.",
        ),
        ("Force on the flap: its drive breaks.", "De-icer in the port."),
    ),
    Card(
        "The cable is stuck",
        ("Unlock the car again: it lets the plug go.", "Warm the plug with the hand; the emergency release is in the manual."),
        ("Pulling with the weight of the body.", "Driving off with it."),
    ),
    Card(
        "The wipers",
        ("Heat the screen first, then free them by hand.", "Switch them off before switching on: they start with the car."),
        ("Letting them run while they are frozen: the motor burns out.",),
    ),
    Card(
        "The screens",
        (
            "Warm-up with the screen heater, then brush and scrape all of them, lamps and plate.",
            "Clear the roof: snow slides onto the screen, and many places require it by law.",
        ),
        ("Boiling water.", "A peephole: all glass must be clear."),
    ),
    Card(
        "The boot, and no 12 V",
        (
            "Open the doors by their emergency way, then jump the battery where the manual shows it.",
            "Then drive, or charge it at a socket, and have it tested.",
        ),
        ("Crossing the poles.", "Jumping a frozen battery: it may burst."),
    ),
)
assert set(ITEM_WORDS) == set(ITEMS)  # noqa: S101 - every item has its words
