"""The 12 V battery of a car: what was entered and read of it, and the verdict."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import date, datetime

from ...core.errors import Refusal
from ...core.home import OfCar, OwnedCar
from ...core.park.twelve_volt import BatteryKind, Judged, Rested, judge
from ...core.parts import TwelveVoltFacts
from ...household.parts import write_twelve_volt
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.climate import climate_of, lowest_of
from ..shared.derived import in_this_minute
from ..shared.facts import twelve_volt_read

AHEAD_DAYS = 60


@dataclass(frozen=True, kw_only=True)
class TwelveVolt(OfCar):
    """The 12 V battery of a car: its readings since it was fitted (when, V, °C), the verdict, the lowest temperature ahead (°C)."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    readings: tuple[tuple[datetime, float, float | None], ...]
    judged: Judged
    lowest_c: float
    age_years: float | None

    @property
    def entered(self) -> TwelveVoltFacts:
        """What was entered of it."""
        return self.owned.twelve_volt


def twelve_volt(snapshot: Snapshot, car_id: int | None = None) -> TwelveVolt:
    """The 12 V battery of a car (the first when None), judged. Raises: NotSetUp."""

    def work() -> TwelveVolt:
        owned, now = snapshot.home.car(car_id), snapshot.minute
        fitted = owned.twelve_volt.fitted_on or owned.battery.new_on  # nobody said otherwise: as old as the car
        read = twelve_volt_read(snapshot, owned.id)
        own = [each for each in read if fitted is None or each[0].date() >= fitted]
        lowest = lowest_of(climate_of(snapshot, owned.place), now, AHEAD_DAYS)
        age = None if fitted is None else (now.date() - fitted).days / 365.25
        rested = [Rested(volt, temp_c, (now - at).total_seconds() / 86400.0) for at, volt, temp_c in own]
        judged = judge(
            age, rested, {"yes": True, "no": False}.get(owned.twelve_volt.tops_up), lowest, BatteryKind(owned.twelve_volt.kind)
        )
        return TwelveVolt(
            owned=owned, cars=snapshot.home.names, readings=tuple(own), judged=judged, lowest_c=lowest, age_years=age
        )  # fmt: skip

    return in_this_minute(snapshot, ("twelve volt", car_id), work)


def keep_twelve_volt(
    household: Household, now: datetime, car_id: int, values: Mapping[str, object], words: str, *, seen_revision: int
) -> int:
    """Keep what was entered of the 12 V battery and the tank (only the given fields); returns the undo number. Raises: Refusal; Stale."""
    fitted = values.get("fitted_on")
    if isinstance(fitted, date) and fitted > now.date():
        raise Refusal("This day is still to come.", "fitted_on")
    with household.deciding(words, seen_revision) as session:
        write_twelve_volt(session, car_id, values)
    return session.number
