"""Setting up in three steps: car; outlet and tariff; place and usual day. Each is kept whole or not at all.

Why: docs/decisions/0062.
"""

from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from datetime import datetime, time, timedelta
from typing import Any

import numpy as np

from ..core.basis import Basis, Figure
from ..core.battery.trend import DAYS_PER_YEAR, usual_health
from ..core.car import SPANS, Car, preset
from ..core.charge.control import How
from ..core.charge.outlet_comparison import MILD_C
from ..core.charge.supply import ChargeRate, Supply, charge_rate
from ..core.charge.tariff import WEEKDAYS, WEEKEND, Band
from ..core.drive.usual import day_table
from ..core.errors import Refusal
from ..core.heat.schedule import BY_HABIT, Departure, ListedDeparture
from ..core.home import OwnedCar
from ..core.parts import OWN, WINTERS, Place
from ..household import parts
from ..household.departures import write_departure
from ..household.facts import UNKNOWN_SOC, level_now, note_level
from ..household.money import PER_EURO
from ..household.snapshot import Snapshot
from ..household.unit_of_work import Household
from .shared.climate import means_of
from .shared.past import own_car
from .tariffs import FEED

Preferences = Mapping[str, str]
"""Units, money and way of writing: columns of a person."""
STEPS = ("car", "outlet", "place")
FIRST_C = (0.0, -5.0)
"""What the form begins with before anybody typed it is outside, °C: now, and the low of the morning."""


@dataclass(frozen=True, kw_only=True)
class Progress:
    """What is entered already: the car that is set up, where it stands, its level (0 to 1), the typed outside temperatures (°C); `socket`:
    there is an outlet at home, and `others` hang on it (number and name).
    """

    owned: OwnedCar | None
    place: Place
    complete: bool
    socket: bool
    others: tuple[tuple[int, str], ...]
    soc_now: float
    typed_c: tuple[float, float]

    @property
    def done(self) -> dict[str, bool]:
        """Which of the three steps are complete."""
        return {
            "car": self.owned is not None,
            "outlet": self.owned is not None
            and ((self.owned.outlet is not None and self.owned.contract is not None) or (self.complete and not self.socket)),
            "place": self.complete,
        }

    @property
    def next_step(self) -> str | None:
        """The first step that is missing; None when all are done."""
        return next((step for step in STEPS if not self.done[step]), None)


def progress(snapshot: Snapshot, car_id: int | None = None) -> Progress:
    """Where setting up stands."""
    home = snapshot.home
    owned = next((each for each in home.cars if car_id in (None, each.id)), None)
    soc_now = level_now(snapshot.log, owned.id) if owned is not None else UNKNOWN_SOC
    typed_c = FIRST_C if (typed := snapshot.typed) is None else (typed.now_c, typed.low_c)
    return Progress(
        owned=owned,
        place=home.place if owned is None else owned.place,
        complete=home.complete,
        socket=bool(home.outlets),
        others=tuple((each.id, each.name) for each in home.cars if each is not owned and each.outlet is not None),
        soc_now=soc_now,
        typed_c=typed_c,
    )


def keep_car(
    household: Household,
    car: Car,
    class_key: str,
    *,
    warm_up: str,
    preferences: Preferences,
    seen_revision: int | None,
    car_id: int | None = None,
    another: bool = False,
    age_years: float | None = None,
) -> int:
    """Keep a car, the first without a number, or `another`; returns the undo number, as all of these do. A health that nobody knows is the
    usual one of its age. Raises: OutOfRange, Stale.
    """
    car.checked()
    with household.deciding("The car kept", seen_revision) as session:
        own = parts.write_first_car(session, car_id, {**car_fields(car, class_key), "warm_up": warm_up}, another)
        if age_years is not None:
            days = age_years * DAYS_PER_YEAR
            new_on = (household.world.clock.now() - timedelta(days=days)).date()
            parts.write_battery(session, own, replace(household.as_decided(session).home.car(own).battery, new_on=new_on))
            if car.pack.soh == 1.0:
                parts.write_health(session, own, round(usual_health(car.pack.chemistry, days), 3))
        parts.write_preferences(session, preferences)
    return session.number


def car_fields(car: Car, class_key: str) -> dict[str, object]:
    """The fields of a core car, as they are kept."""
    return {"name": car.name, "preset": class_key, **car.values()}


def keep_charging(
    household: Household,
    supply: Supply,
    tariff: tuple[str, tuple[Band, ...]],
    *,
    typical: bool,
    feed: bool = False,
    control: How,
    preferences: Preferences,
    seen_revision: int | None,
    car_id: int | None = None,
) -> int:
    """Keep outlet and tariff (its name and bands, which have been checked; `typical`: nobody knew the prices; `feed`: another one
    each hour, from files) for the car, and what starts it.

    Raises: OutOfRange with its field, also when the car could not charge from the outlet; Stale.
    """
    supply.checked()
    with household.deciding("Outlet and tariff kept", seen_revision) as session:
        charge_rate(supply, household.as_decided(session).home.car(car_id).car)
        parts.write_charging(session, car_id, supply, tariff, typical=typical, feed=FEED if feed else "")
        parts.write_habit(session, household.as_decided(session).home.car(car_id).id, control=control.value)
        parts.write_preferences(session, preferences)
    return session.number


def share_cable(household: Household, car_id: int, control: How, seen_revision: int | None) -> int:
    """Let a car charge on the cable and the tariff of the first that has them. Raises: OutOfRange when it cannot; Refusal; Stale."""
    with household.deciding("The cable shared", seen_revision) as session:
        state = household.as_decided(session)
        others = progress(state, car_id).others
        if not others:
            raise Refusal("There is no cable to share yet: choose where this car is plugged in.")
        charge_rate(state.home.car(others[0][0]).at.supply, state.home.car(car_id).car)
        parts.share_charging(session, car_id, others[0][0])
        parts.write_habit(session, car_id, control=control.value)
    return session.number


def rate_of(snapshot: Snapshot, supply: Supply, car_id: int | None) -> tuple[ChargeRate, float, float]:
    """What the car gets from an outlet, and the km of its usual day that an hour of it gives when mild and in January's mean, as the
    bench reckons them. Raises: OutOfRange.
    """
    owned = snapshot.home.car(car_id)
    _, car = own_car(snapshot, owned)
    rate, habit, km = charge_rate(supply, car), owned.habit, owned.habit.trip.distance_km
    table = day_table(
        car,
        habit.trip,
        round(km + 1.0, 1),
        habit.warm_up,
        habit.cabin_c,
        load_kg=habit.load_kg,
        altitude_m=owned.place.altitude_m,
    )
    kwh, _ = table.ask(np.full(2, km), np.array([MILD_C, means_of(snapshot, owned.place)[0]]))
    mild, winter = (rate.pack_kw * km / float(each) for each in kwh)
    return rate, mild, winter


@dataclass(frozen=True, kw_only=True)
class PlaceAndDay:
    """The last step: place, and the usual day (km by road, km/h, °C)."""

    place: str
    zone: str
    altitude_m: float
    garage: str
    garage_heated_c: float
    winters: str
    depart: time
    plug_in: time
    town_km: float
    country_km: float
    motorway_km: float
    motorway_kmh: float
    out_now_c: float
    out_low_c: float
    soc_now: float
    weekend: str = ""
    weekend_km: float | None = None


FIVE, SEVEN = 5.0, 7.0
"""Days a week that a car drives which stays at home at weekends, and of one that does not."""
OF_THE_PLACE, OUTSIDE = ("zone", "altitude_m", "garage", "garage_heated_c", "winters"), ("out_now_c", "out_low_c")


def keep_place(
    household: Household, step: PlaceAndDay, preferences: Preferences, seen_revision: int | None, car_id: int | None = None
) -> int:
    """Keep the place and the usual day, with the days of a weekend that are others; setting up is complete then. Raises: Refusal; Stale."""
    values = asdict(step)
    weekend, weekend_km = values.pop("weekend"), values.pop("weekend_km")
    if weekend == "other" and weekend_km is None:
        raise Refusal("How far does it drive on such a day?", "weekend_km")
    if weekend == "other" and weekend_km == 0.0:
        weekend = "home"
    place = with_means({"name": values.pop("place")} | {name: values.pop(name) for name in OF_THE_PLACE})
    outside, soc_now, now = {name: values.pop(name) for name in OUTSIDE}, values.pop("soc_now"), household.world.clock.now()
    with household.deciding("Place and usual day kept", seen_revision) as session:
        if weekend in ("home", "other"):
            values["days_a_week"] = FIVE
        elif weekend == "same" and household.as_decided(session).home.car(car_id).habit.days_a_week == FIVE:
            values["days_a_week"] = SEVEN
        own = parts.write_place_and_day(session, car_id, place, habit=values, now=now, outside=outside)
        parts.write_preferences(session, preferences)
        note_level(session, own, now, soc_now)
        if weekend == "other" and not household.as_decided(session).home.car(own).departures:
            km = step.town_km + step.country_km + step.motorway_km
            for name, on, driven in (("Weekdays", WEEKDAYS, km), ("Weekend", WEEKEND, weekend_km or 0.0)):
                write_departure(session, own, _listed(name, on, driven, step.depart, now))
    return session.number


def _listed(name: str, days: frozenset[int], km: float, at: time, now: datetime) -> ListedDeparture:
    """A departure that repeats, with the kilometres of its day, there and back."""
    return ListedDeparture(
        id=0, uid="", name=name, schedule=Departure(at, "UTC", days).checked(), region="", warm_up=BY_HABIT, km=km / 2, since=now.date(),
        entered_at=now, day_id=None,
    )  # fmt: skip


def per_euro(currency: str) -> float:
    """About how much of a currency one euro is worth, for prices from memory."""
    return PER_EURO.get(currency, 1.0)


def with_means(place: Mapping[str, Any]) -> dict[str, Any]:
    """A place's values with the means of January and July that the word for its winters stands for; two typed ones stay."""
    if place["winters"] == OWN:
        return dict(place)
    january_c, july_c = WINTERS.get(place["winters"], WINTERS["cold"])
    return {**place, "january_c": january_c, "july_c": july_c}


def own_numbers(snapshot: Snapshot) -> list[tuple[OwnedCar, list[Figure]]]:
    """Each car's own numbers, by field, with their basis: entered, or still those of its class (then its key is the source)."""
    found = []
    for owned in snapshot.home.cars:
        own, of_class = owned.car.values(), preset(owned.preset, phases=owned.car.charger.phases).values()
        figures = []
        for column, span in SPANS.items():
            if own[column] is None:  # nobody knows, and nothing is reckoned with it
                continue
            basis = Basis.COMMON_PRACTICE if own[column] == of_class[column] else Basis.ENTERED
            figures.append(Figure(column, float(str(own[column])), span.unit, basis, owned.preset))
        found.append((owned, figures))
    return found
