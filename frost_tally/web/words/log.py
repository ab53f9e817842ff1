"""Words of the log: its kinds and their fields, an entry in a line, what does not go together."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from zoneinfo import ZoneInfo

from ...core.log.anomalies import Anomaly
from ...core.log.kinds import CHOICE, KINDS, Column, Entry
from ...services.log_data.room import Aside
from ...services.log_entry.quick import Noted
from ..units import Units
from .day import WHEELS
from .season import TITLES

KIND_WORDS = {
    "drive": "drive", "charge": "charge", "level": "level", "odometer": "odometer", "tyre": "tyre",
    "twelve_volt": "12 V battery", "capacity_test": "capacity test", "season": "season item", "event": "event",
}  # fmt: skip
OPTIONS: Mapping[str, Mapping[str, str]] = {
    "site": {"home": "at home", "elsewhere": "elsewhere", "fast": "fast, on the way"},
    "part": {"": "all four", **WHEELS},
    "preheated": {
        "": "not known", "nothing": "not warmed", "cabin": "cabin", "cabin_and_pack": "cabin and pack", "pack": "pack",
        "seats": "seats only",
    },
    "how": {
        "discharge": "by driving it down", "charge": "by charging it up, into the pack", "wall": "by charging it up, at the wall",
        "car": "the car’s own figure",
    },
    "item": {"": "none of them", **TITLES},
    "kind": {
        "tyre_swap": "tyre swap", "update": "software update", "repair": "repair", "warranty": "warranty work", "tariff": "tariff change",
        "other": "something else", "step": "the battery’s display steps",
        "calibrated": "display calibrated", "trial": "tried whether the pack is warmed with the cabin",
    },
}  # fmt: skip
YES_NO = {"no": "no", "yes": "yes"}
LABELS: Mapping[str, tuple[str, str]] = {
    "left_at": ("Left", ""),
    "home_at": ("Came home", "Empty if you do not know."),
    "km": ("Driven", "All of the day."),
    "soc_start": ("Level before", ""),
    "soc_end": ("Level after", ""),
    "kwh": ("Energy", "From the pack, as the car says."),
    "out_c": ("Outside", "Empty: as the weather was."),
    "mean_kmh": ("Mean speed", ""),
    "load_kg": ("Load", "Without the driver."),
    "preheated": ("Warmed before", ""),
    "note": ("Note", "In a line."),
    "begun_at": ("Began", ""),
    "ended_at": ("Ended", "Empty if you do not know."),
    "site": ("Where", ""),
    "outlet": ("Outlet", ""),
    "place": ("Name of the place", "Such as market square."),
    "post_kw": ("Power of the post", "Of a fast one: it teaches the car’s curve."),
    "wall_kwh": ("From the wall", "As the meter says."),
    "pack_kwh": ("Into the pack", "As the car says."),
    "cost": ("Cost", "Empty: at home by your tariff at that time, elsewhere unknown."),
    "read_at": ("Read", ""),
    "value": ("Reading", ""),
    "part": ("Wheel", ""),
    "temp_c": ("At", "Of the tyre, or of the battery."),
    "warm": ("Straight after a drive", "Then it counts as warm."),
    "at": ("When", ""),
    "how": ("How", ""),
    "soc_from": ("From", ""),
    "soc_to": ("To", ""),
    "pack_c": ("Pack", "Its temperature, if known."),
    "stopped": ("The car ended it", "It stopped or lost power before you meant to end."),
    "kind": ("What", ""),
    "who": ("Done by", ""),
    "item": ("On the season’s list", "Counts as done there."),
}
"""Label and hint of every column."""

PLURALS = {"twelve_volt": "12 V readings", "odometer": "odometer readings", "tyre": "tyre readings"}
"""Kinds whose entries are called otherwise where there are several."""
TABLE_WORDS = {
    "car": "cars", "outlet": "outlets", "tariff": "tariffs", "price": "dated prices", "meter": "meter readings",
    "weather": "hours of weather",
    "night_plan": "night plans", "drive": "drives", "charge": "charges", "reading": "readings",
    "capacity_test": "capacity tests", "event": "events", "guide": "guides", "battery": "batteries", "small_battery": "12 V batteries",
    "departure": "departures", "reminder": "reminders",
    "point_report": "reports of charge points", "night_line": "lines of the runner", "usual_day": "kept days", "way": "long ways",
}  # fmt: skip
"""What the tables of a home are called."""
SOURCES = {
    "owner": "you",
    "gauge": "a gauge",
    "car": "the simulated car",
    "meter": "a meter",
    "point": "the charge point",
    "file": "a file",
    "script": "a script",
    "assumed": "nobody: all of it is assumed",
}
CAUTIONS = {
    "tyre": (
        "Cold readings, by the car’s placard, never above the sidewall’s maximum; do not bleed a warm tyre to the placard.",
    ),
    "twelve_volt": ("12 V batteries give off gas and hold acid: mind the polarity, and the owner’s manual.",),
    "capacity_test": ("Never plan to reach 0 %: end a deep discharge near a charger. Weak cells show only low down.",),
    "charge": ("A plug that is hot to the touch: stop, and have the socket checked.",),
}


@dataclass(frozen=True)
class Said:
    """A piece of an entry's line, and whether nobody read it."""

    text: str
    assumed: bool = False


def value_words(column: Column, value: object, units: Units, outlets: Mapping[int, str]) -> str:
    """A value as a person reads it."""
    if column.quantity == CHOICE:
        return OPTIONS[column.name][str(value)]
    if column.name == "outlet":
        return outlets.get(int(str(value)), "an outlet that is gone")
    if column.quantity == "money":
        return units.money(float(str(value)))
    return units.text(float(str(value)), column.quantity) if column.is_number else str(value)


_LINES: Mapping[str, tuple[tuple[str, str], ...]] = {
    "drive": (
        ("km", "{}"), ("soc_start", "{} →"), ("soc_end", "{}"), ("kwh", "({})"), ("out_c", "at {}"), ("preheated", "warmed: {}"),
        ("note", "“{}”"),
    ),
    "charge": (
        ("soc_start", "{} →"), ("soc_end", "{}"), ("wall_kwh", "{} from the wall"), ("cost", "{}"), ("outlet", "{}"), ("place", "{}"),
        ("post_kw", "{}"), ("site", "{}"), ("note", "“{}”"),
    ),
    "level": (("value", "{}"),),
    "odometer": (("value", "{}"),),
    "tyre": (("part", "{}:"), ("value", "{}"), ("temp_c", "at {}")),
    "twelve_volt": (("value", "{}"), ("temp_c", "at {}")),
    "capacity_test": (
        ("how", "{}:"), ("kwh", "{}"), ("soc_from", "from {}"), ("soc_to", "to {}"), ("pack_c", "pack at {}"), ("note", "“{}”"),
    ),
    "season": (("note", "{}"), ("who", "by {}")),
    "event": (("kind", "{}"), ("note", "“{}”")),
}  # fmt: skip
_QUIET = {("capacity_test", "how", "discharge"), ("charge", "site", "home"), ("drive", "preheated", ""), ("tyre", "part", "")}


def line(entry: Entry, units: Units, outlets: Mapping[int, str]) -> tuple[Said, ...]:
    """An entry in a line, in pieces."""
    shape, found = KINDS[entry.kind], []
    for name, how in _LINES[entry.kind]:
        value = entry.values[name]
        if value is None or value == "" or (entry.kind, name, value) in _QUIET:
            continue
        found.append(Said(how.format(value_words(shape.column(name), value, units, outlets)), name in entry.assumed))
    found += [
        Said(words) for name, words in (("warm", "warm"), ("stopped", "ended by the car")) if entry.values.get(name) is True
    ]
    return tuple(found)


def asks_words(entry: Entry, units: Units, public_price: float) -> str:
    """What an entry asks for: the cost of a charge elsewhere that nobody wrote down, with what is typical; "" for nothing."""
    if entry.kind != "charge" or entry.values["site"] == "home" or entry.values["cost"] is not None:
        return ""
    kwh = entry.values["wall_kwh"]
    typical = "" if kwh is None else f", at a typical public price about {units.money(float(str(kwh)) * public_price)}"
    return f"Cost unknown{typical}: what was it?"


def noted_words(noted: Noted, units: Units) -> str:
    """What a quick entry noted."""
    level, charged = units.text(noted.soc, "percent"), ", a charge before it" if noted.charged else ""
    if noted.km is None:
        return f"{noted.name} noted: {level}{', charged since' if noted.charged else ''}"
    return f"{noted.name} noted: {units.text(noted.km, 'distance')} driven, home with {level}{charged}"


_ANOMALIES: Mapping[str, tuple[str, str]] = {
    "odd_use": ("{km} with {used} hardly can be.", "Come home with {mend_soc}, as the model has it"),
    "overlap": ("It began before the one before had ended.", "End that one at {mend_end}"),
    "level_up": ("The level was {was} before, and no charge is noted.", "Add a charge to {now}"),
    "level_down": ("The level was {was} before, and no drive is noted.", "Add a drive of about {mend_km}"),
    "odometer_back": ("The odometer was at {was_km} before.", "Take this reading away"),
    "km_gap": ("{went} on the odometer since the reading before, {driven} in the drives.", "Stretch those drives to {went}"),
}

_ANOMALY_QUANTITIES = dict.fromkeys(("was", "now", "used", "mend_soc"), "percent") | dict.fromkeys(
    ("km", "went", "driven", "mend_km", "was_km"), "distance"
)


def anomaly_words(anomaly: Anomaly, units: Units, zone: ZoneInfo) -> tuple[str, str]:
    """What does not go together, and what one tap would do about it ("" where only the owner knows)."""
    told = {
        name: units.text(each, _ANOMALY_QUANTITIES[name]) for name, each in anomaly.values.items() if name in _ANOMALY_QUANTITIES
    }
    if "mend_end_s" in anomaly.values:
        told["mend_end"] = units.clock(datetime.fromtimestamp(anomaly.values["mend_end_s"], zone))
    said, mend = _ANOMALIES[anomaly.code]
    return said.format(**told), mend.format(**told) if anomaly.mendable else ""


def aside_words(found: Aside, label: str = "", became: str = "") -> tuple[str, str, str]:
    """A value that was put aside: where it stood and what it was, what stands there now, and where it can be mended ("" nowhere).
    `label` and `became`: the name of its column, and what stands there, as the part's own form has them.
    """
    table, column = found.place.split(".", 1)
    kind = KIND_OF_TABLE.get(table, "")
    name = str(found.row.get("name") or "")
    where = f"{(TABLE_WORDS.get(table) or table.replace('_', ' ')).removesuffix('s')}{f' “{name}”' if name else ''}"
    label = label or LABELS.get(column, (column.replace("_", " "), ""))[0]
    said = f"{where[0].upper()}{where[1:]}, {label}: “{found.value}” cannot be."
    if found.gone:
        whole = "; ".join(f"{key.replace('_', ' ')} {value}" for key, value in found.row.items() if value not in (None, "", "[]"))
        return said, f"The whole entry was put aside: {whole[:400]}.", f"/log/new/{kind}" if kind else ""
    now = "Nothing" if found.became is None else f"“{became or found.became}”"
    number = found.row.get("id")
    place = f"/log/{kind}/{number}" if kind else PLACES.get(table, "").format(number)
    return said, f"{now} stands there instead.", place


KIND_OF_TABLE = {"drive": "drive", "charge": "charge", "capacity_test": "capacity_test"}
PLACES = {
    "car": "/garage/edit/car/{}",
    "outlet": "/garage/edit/outlet/{}",
    "place": "/garage/edit/place/{}",
    "tariff": "/garage/tariffs/{}",
}
"""Where a part of the home is mended."""


def size_words(size: int) -> str:
    """A file's size: "3.2 MB"."""
    return f"{size / 1e6:.1f}\u00a0MB" if size >= 1e5 else f"{size / 1e3:.0f}\u00a0kB"
