"""Guessing what the columns of another program's file are, from their names: a start for whoever chooses."""

import re

from ..core.log.kinds import KINDS
from .log_columns import FILE_UNITS

WORDS: dict[str, tuple[str, ...]] = {
    "left_at": ("left", "departure", "trip start", "start time", "start", "date", "from"),
    "home_at": ("home", "arrival", "trip end", "end time", "end", "until"),
    "km": ("distance", "driven", "trip", "km", "miles"),
    "soc_start": ("start soc", "soc start", "start level", "battery start", "start battery", "soc before", "from %", "starting"),
    "soc_end": ("end soc", "soc end", "end level", "battery end", "end battery", "soc after", "to %", "ending"),
    "kwh": ("energy", "used kwh", "consumption", "kwh"),
    "out_c": ("outside", "ambient", "air temp", "temperature", "temp"),
    "mean_kmh": ("average speed", "mean speed", "speed"),
    "load_kg": ("load", "cargo"),
    "note": ("note", "comment", "remark"),
    "begun_at": ("plugged in", "charge start", "start time", "begin", "start", "date", "from"),
    "ended_at": ("unplugged", "charge end", "end time", "end", "finish", "until"),
    "place": ("location", "place", "station", "site"),
    "post_kw": ("post power", "charger power", "max power", "power"),
    "wall_kwh": ("wall", "grid", "ac energy", "energy delivered", "kwh", "energy"),
    "pack_kwh": ("into the battery", "battery energy", "energy added", "added"),
    "cost": ("cost", "price", "amount", "paid"),
    "read_at": ("time", "date", "read", "timestamp"),
    "at": ("time", "date", "when", "timestamp"),
    "value": ("soc", "level", "odometer", "pressure", "voltage", "value"),
    "part": ("wheel", "tyre", "tire", "position"),
    "temp_c": ("temperature", "temp"),
    "soc_from": ("from", "start"),
    "soc_to": ("to", "end"),
    "pack_c": ("pack temp", "battery temp"),
    "kind": ("event", "type", "what"),
    "car": ("car", "vehicle"),
}
"""Words that a column's name may have, the surest first."""
KIND_HINTS = {
    "charge": ("charg", "plug", "wall", "grid"), "drive": ("trip", "drive", "distance", "driven", "departure", "arrival"),
    "tyre": ("tyre", "tire", "wheel", "pressure"), "twelve_volt": ("12v", "12 v", "voltage"),
    "level": ("soc", "level"),
}  # fmt: skip


def guess_kind(header: tuple[str, ...]) -> str:
    """The kind of entries that a header sounds like."""
    text = " ".join(header).casefold()
    kinds = (*KIND_HINTS, *(each for each in KINDS if each not in KIND_HINTS))
    return max(kinds, key=lambda kind: sum(word in text for word in KIND_HINTS.get(kind, (kind,))))


def guess_column(name: str, quantity: str, header: tuple[str, ...], taken: set[int]) -> tuple[int, str] | None:
    """The column that a value may be in, and its unit; None when no name sounds like it. Columns that are taken are left out."""
    plain = [re.sub(r"[_\-]+", " ", each.casefold()) for each in header]
    for word in (name.replace("_", " "), *WORDS.get(name, ())):
        for i, title in enumerate(plain):
            if i not in taken and re.search(rf"(?<![a-z]){re.escape(word)}", title):
                return i, _unit_in(title, quantity)
    return None


def _unit_in(title: str, quantity: str) -> str:
    """The unit that a column's name has in it, one of a single letter at its end or in brackets; else our own."""
    units = FILE_UNITS.get(quantity, {})
    for label, unit in list(units.items())[1:]:
        for name in map(re.escape, (*unit.also, label.casefold())):
            alone = rf"[\[(]{name}[\])]|(?<!\w){name}$"
            if re.search(alone if len(name) == 1 else rf"(?<!\w){name}(?!\w)", title):
                return label
    return next(iter(units), "")


def guess_columns(kind: str, header: tuple[str, ...]) -> dict[str, tuple[int, str]]:
    """The columns of a kind that a header sounds like, each used once; needed ones choose first."""
    found: dict[str, tuple[int, str]] = {}
    taken: set[int] = set()
    columns = sorted(KINDS[kind].columns, key=lambda each: not each.needed)
    for name, quantity in [*((each.name, each.quantity) for each in columns), ("car", "")]:
        guess = guess_column(name, quantity, header, taken)
        if guess is not None:
            found[name] = guess
            taken.add(guess[0])
    return found
