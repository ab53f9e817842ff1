"""The kinds of entries of the log, each with its columns: the one list that forms, files and the store go by.

A new kind is a `Kind` here, its table in the household's models, and its words in `web/words/log.py`. Why: docs/decisions/0038.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from ..park.season import ITEMS

MOMENT, PERCENT, TEXT, CHOICE, YES_NO, OUTLET = "moment", "percent", "text", "choice", "yes_no", "outlet"
UNITS = {
    MOMENT: "ISO 8601", PERCENT: "%", "distance": "km", "energy": "kWh", "temperature": "°C", "pressure": "kPa", "fine_voltage": "V",
    "speed": "km/h", "mass": "kg", "power": "kW", "money": "money", TEXT: "", CHOICE: "", YES_NO: "", OUTLET: "",
}  # fmt: skip
"""The unit that a quantity has in our files."""
LONGEST = 200


@dataclass(frozen=True, kw_only=True)
class Column:
    """One value of an entry: its name, its quantity with bounds in SI (levels 0 to 1), whether it must be there.

    `options` are the codes of a choice; `main` is what the entry is about, by which a list is sorted; `file` is its name in files, where
    that is another one.
    """

    name: str
    quantity: str
    low: float = 0.0
    high: float = 0.0
    needed: bool = False
    options: tuple[str, ...] = ()
    main: bool = False
    file: str = ""

    @property
    def file_name(self) -> str:
        """The name in files."""
        return self.file or self.name

    @property
    def title(self) -> str:
        """The name in files, with its unit: "soc_start [%]"."""
        return f"{self.file_name} [{unit}]" if (unit := UNITS[self.quantity]) else self.file_name

    @property
    def is_number(self) -> bool:
        """Whether its values are numbers."""
        return self.quantity not in (MOMENT, TEXT, CHOICE, YES_NO, OUTLET)

    @property
    def empty(self) -> Any:
        """What stands for an open value: the first choice, no words, no, or nothing."""
        if self.options:
            return self.options[0]
        return {TEXT: "", YES_NO: False}.get(self.quantity)

    @property
    def factor(self) -> float:
        """What a value in SI is multiplied by in our files."""
        return 100.0 if self.quantity == PERCENT else 1.0


@dataclass(frozen=True, kw_only=True)
class Kind:
    """A kind of entry: its columns, the first of which is when it was; `same` names what two different entries cannot share."""

    key: str
    columns: tuple[Column, ...]
    same: tuple[str, ...] = ()

    @property
    def at(self) -> str:
        """The name of the column that says when."""
        return self.columns[0].name

    def column(self, name: str) -> Column:
        """A column by its name."""
        return next(each for each in self.columns if each.name == name)

    @property
    def main(self) -> str:
        """The name of the column that it is about; "" for one without a number."""
        return next((each.name for each in self.columns if each.main), "")

    @property
    def ends(self) -> str:
        """The name of the column that says when it ended; "" for what has no end."""
        moments = [each.name for each in self.columns if each.quantity == MOMENT]
        return moments[1] if len(moments) > 1 else ""


def _when(name: str, needed: bool = True) -> Column:
    return Column(name=name, quantity=MOMENT, needed=needed)


def _level(name: str, needed: bool = False, main: bool = False, file: str = "") -> Column:
    return Column(name=name, quantity=PERCENT, high=1.0, needed=needed, main=main, file=file)


def _kwh(name: str, main: bool = False) -> Column:
    return Column(name=name, quantity="energy", high=500.0, main=main)


_AIR = Column(name="out_c", quantity="temperature", low=-60.0, high=60.0)
_NOTE = Column(name="note", quantity=TEXT, high=LONGEST)
_READ = _when("read_at")

EVENTS = ("tyre_swap", "update", "repair", "warranty", "tariff", "other", "step", "calibrated", "trial")
"""A "step" is where the owner says that the battery's display reads differently since; "calibrated" and
"trial" are the ends of these guides."""
TESTS = ("discharge", "charge", "wall", "car")
SITES = ("home", "elsewhere", "fast")
WHEELS = ("", "FL", "FR", "RL", "RR")
PREHEATS = ("", "nothing", "cabin", "cabin_and_pack", "pack", "seats")

KINDS: Mapping[str, Kind] = {
    each.key: each
    for each in (
        Kind(
            key="drive",
            columns=(
                _when("left_at"),
                _when("home_at", needed=False),
                Column(name="km", quantity="distance", low=0.1, high=3000.0, needed=True, main=True),
                _level("soc_start", needed=True),
                _level("soc_end", needed=True),
                _kwh("kwh"),
                _AIR,
                Column(name="mean_kmh", quantity="speed", low=1.0, high=250.0),
                Column(name="load_kg", quantity="mass", high=2000.0),
                Column(name="preheated", quantity=CHOICE, options=PREHEATS),
                _NOTE,
            ),
        ),
        Kind(
            key="charge",
            columns=(
                _when("begun_at"),
                _when("ended_at", needed=False),
                Column(name="site", quantity=CHOICE, options=SITES),
                Column(name="outlet", quantity=OUTLET),
                Column(name="place", quantity=TEXT, high=60.0),
                Column(name="post_kw", quantity="power", low=1.0, high=500.0),
                _level("soc_start"),
                _level("soc_end"),
                _kwh("wall_kwh", main=True),
                _kwh("pack_kwh"),
                Column(name="cost", quantity="money", low=-1000.0, high=100_000.0),
                _AIR,
                _NOTE,
            ),
        ),
        Kind(key="level", columns=(_READ, _level("value", needed=True, main=True, file="soc"))),
        Kind(
            key="odometer",
            columns=(_READ, Column(name="value", quantity="distance", high=3_000_000.0, needed=True, main=True, file="odometer")),
        ),
        Kind(
            key="tyre",
            columns=(
                _READ,
                Column(name="part", quantity=CHOICE, options=WHEELS, file="wheel"),
                Column(name="value", quantity="pressure", low=50.0, high=600.0, needed=True, main=True, file="pressure"),
                Column(name="temp_c", quantity="temperature", low=-45.0, high=70.0, needed=True),
                Column(name="warm", quantity=YES_NO),
            ),
            same=("part",),
        ),
        Kind(
            key="twelve_volt",
            columns=(
                _READ,
                Column(name="value", quantity="fine_voltage", low=5.0, high=16.0, needed=True, main=True, file="voltage"),
                Column(name="temp_c", quantity="temperature", low=-45.0, high=70.0),
            ),
        ),
        Kind(
            key="capacity_test",
            columns=(
                _when("at"),
                Column(name="how", quantity=CHOICE, options=TESTS, needed=True),
                _level("soc_from", needed=True),
                _level("soc_to", needed=True),
                Column(name="kwh", quantity="energy", low=0.5, high=500.0, needed=True, main=True),
                Column(name="pack_c", quantity="temperature", low=-40.0, high=60.0),
                Column(name="stopped", quantity=YES_NO),
                _NOTE,
            ),
        ),
        Kind(
            key="season",
            columns=(
                _when("at"),
                Column(name="note", quantity=TEXT, high=LONGEST, needed=True, file="item"),
                Column(name="item", quantity=CHOICE, options=("", *ITEMS), file="item_key"),
                Column(name="who", quantity=TEXT, high=60.0),
            ),
            same=("note",),
        ),
        Kind(
            key="event",
            columns=(_when("at"), Column(name="kind", quantity=CHOICE, options=EVENTS, needed=True, file="event"), _NOTE),
            same=("kind",),
        ),
    )
}


@dataclass(frozen=True, kw_only=True)
class Entry:
    """One entry: its values by column (times aware, levels 0 to 1), which of them nobody measured, and who measured the others.

    `noted_by` is who wrote it down ("": at this computer); `number` is 0 for one that is not stored; `sure` are the codes of doubts that
    the owner has called right.
    """

    kind: str
    car_id: int
    values: Mapping[str, Any]
    number: int = 0
    assumed: frozenset[str] = field(default_factory=frozenset)
    source: str = "owner"
    noted_by: str = ""
    sure: frozenset[str] = field(default_factory=frozenset)

    @property
    def at(self) -> datetime:
        """When it was, or began."""
        found: datetime = self.values[KINDS[self.kind].at]
        return found
