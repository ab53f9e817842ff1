"""A stranger's car judged: from what can be read of it and one drive, without adding it to the home."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, date, datetime, time, timedelta

from ..core.advice.used_car import Drive, Judged, UsedCar, judge
from ..core.battery.ageing import S_PER_DAY, pack_price
from ..core.battery.cold import Chemistry
from ..core.battery.trend import DAYS_PER_YEAR
from ..core.car import Car, preset
from ..core.errors import Refusal
from ..household.money import PER_EURO
from ..household.snapshot import Snapshot
from .shared.climate import climate_of
from .shared.derived import in_this_minute

USUAL_AGE = timedelta(days=4 * DAYS_PER_YEAR)


@dataclass(frozen=True, kw_only=True)
class UsedInputs:
    """What can be read: the car's class, usable kWh when new and chemistry (None, "": of the class), first day, km, its own figure, the
    drive (None: not driven), the pack's °C, the air's, what the warranty promises, and what a new pack costs per kWh.
    """

    preset: str
    usable_kwh: float | None
    chemistry: str
    new_on: date
    km: float
    figure: float | None
    soc_from: float | None
    soc_to: float | None
    kwh: float | None
    pack_c: float | None
    air_c: float
    warranty_soh: float
    warranty_years: float
    warranty_km: float
    pack_price: float


@dataclass(frozen=True, eq=False, kw_only=True)
class UsedRoom:
    """The page: its inputs, the car as sold, what is judged of it; the cars of the home for the tabs."""

    cars: tuple[tuple[int, str], ...]
    car_id: int | None
    inputs: UsedInputs
    defaults: UsedInputs
    today: date
    car: Car
    judged: Judged
    currency: str

    @property
    def warranty_ends(self) -> date:
        """The day on which the warranty ends, by years or by this car's pace."""
        return self.inputs.new_on + timedelta(days=int(self.judged.warranty_days))


def used_room(snapshot: Snapshot, car_id: int | None, override: Callable[[UsedInputs], UsedInputs], currency: str) -> UsedRoom:
    """The page under its inputs; the home needs no car: then money is the person's `currency`.

    Raises: OutOfRange and Refusal with their field.
    """
    home, now = snapshot.home, snapshot.minute
    today, set_up = now.astimezone(home.place.clock).date(), bool(home.cars)
    defaults = UsedInputs(
        preset="compact_hatch", usable_kwh=None, chemistry="", new_on=today - USUAL_AGE, km=60_000.0, figure=None, soc_from=None,
        soc_to=None, kwh=None, pack_c=None, air_c=round(climate_of(snapshot, home.place).temperature_c(now)), warranty_soh=0.7,
        warranty_years=8.0, warranty_km=160_000.0,
        pack_price=pack_price(Chemistry.NMC, home.per_euro if set_up else PER_EURO.get(currency, 1.0)),
    )  # fmt: skip
    inputs = override(defaults)
    if inputs.new_on > today:
        raise Refusal("Its first day lies ahead.", "new_on")
    new_on = datetime.combine(inputs.new_on, time(), UTC)
    used = UsedCar(
        car=_as_sold(inputs),
        age_days=(now - new_on).total_seconds() / S_PER_DAY,
        km=inputs.km,
        figure=inputs.figure,
        drive=_drive(inputs),
    )
    warranty = (inputs.warranty_soh, inputs.warranty_years, inputs.warranty_km)

    def work() -> UsedRoom:
        return UsedRoom(
            cars=home.names, car_id=car_id if set_up else None, inputs=inputs, defaults=defaults, today=today, car=used.car,
            judged=judge(used, warranty=warranty, pack_per_kwh=inputs.pack_price, air_c=inputs.air_c),
            currency=home.currency if set_up else currency,
        )  # fmt: skip

    return in_this_minute(snapshot, ("used car", car_id, inputs, currency), work)


def _as_sold(inputs: UsedInputs) -> Car:
    """The generic car of its class with what is known of its pack."""
    car = preset(inputs.preset)
    pack = replace(
        car.pack,
        usable_kwh_new=inputs.usable_kwh or car.pack.usable_kwh_new,
        chemistry=Chemistry(inputs.chemistry) if inputs.chemistry else car.pack.chemistry,
        soh=1.0,
    )
    return replace(car, pack=pack)


def _drive(inputs: UsedInputs) -> Drive | None:
    """The drive, once levels and kWh are all there."""
    if inputs.soc_from is None or inputs.soc_to is None or inputs.kwh is None:
        return None
    return Drive(soc_from=inputs.soc_from, soc_to=inputs.soc_to, kwh=inputs.kwh, pack_c=inputs.pack_c, air_c=inputs.air_c)
