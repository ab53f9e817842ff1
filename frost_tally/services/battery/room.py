"""Battery: how healthy, what wears it, what two cars or two tests tell apart; what the owner enters of it and decides about it."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta

from ...core.battery.ageing import WORN_AT
from ...core.battery.capacity import Difference, between_dates, compare
from ...core.battery.life import CAUSES, MONTH_DAYS
from ...core.battery.trend import DAYS_PER_YEAR
from ...core.errors import Refusal
from ...core.log.display import WITHIN_DAYS, Drifts, may_have_drifted
from ...core.parts import BatteryFacts
from ...household.battery import OpenGuide, last_calibrated, open_guide, sums_of, turn_step
from ...household.facts import known_by
from ...household.log_facts import facts
from ...household.parts import write_battery, write_health
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.derived import in_this_minute
from .life import Battery, OwnTest, battery_of

YEARS, WORN, AHEAD_YEARS = 8, 0.8, 7.0
LATELY = timedelta(days=WITHIN_DAYS)


@dataclass(frozen=True, kw_only=True)
class Warranty:
    """What is promised: a health (0 to 1) for so many years or km (0: not said); when that ends by this car's pace (age in days), and the
    chance to be under it then.
    """

    soh: float
    years: float
    km: float
    ends_days: float
    by_km: bool
    chance: float


@dataclass(frozen=True, kw_only=True)
class Cause:
    """What a cause took until now and takes in the years to come (shares of new), and what both are worth, in the contracts' money."""

    so_far: float
    to_come: float
    money_so_far: float
    money_to_come: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Health:
    """The room of one car: the battery, the others of the home and how they differ from it, the causes of wear (scaled to the tests) and
    what the model does not explain (share of new); `drifts` when the display may have drifted; `apart` the two tests asked about.
    """

    battery: Battery
    cars: tuple[tuple[int, str], ...]
    others: tuple[tuple[Battery, Difference], ...]
    causes: Mapping[str, Cause]
    besides: float
    warranty: Warranty | None
    worn: tuple[float | None, float | None, float | None]
    drifts: Drifts | None
    guide: OpenGuide | None
    apart: tuple[OwnTest, OwnTest, Difference] | None
    currency: str
    price: float

    @property
    def last_days(self) -> float:
        """The age (days) to which it is foreseen: some years ahead, and to the warranty's end when that is near."""
        own = self.battery
        ahead = own.age_days + AHEAD_YEARS * DAYS_PER_YEAR
        return (
            ahead if self.warranty is None else max(ahead, min(self.warranty.ends_days + 200, own.age_days + 10 * DAYS_PER_YEAR))
        )

    @property
    def out_of_step(self) -> bool:
        """Whether plans reckon with another health than the tests say, by more than half a point."""
        return bool(self.battery.tests) and abs(self.battery.trend.health - self.battery.car.pack.soh) > 0.005


def health(snapshot: Snapshot, car_id: int | None = None, tests: tuple[int, int] | None = None) -> Health:
    """The battery of a car (the first when None), with two of its tests held against each other. Raises: NotSetUp without a car."""

    def work() -> Health:
        home, log, now = snapshot.home, snapshot.log, snapshot.minute
        owned = home.car(car_id)
        own = battery_of(snapshot, owned)
        others = [battery_of(snapshot, each) for each in home.cars if each.id != owned.id]
        calibrated = last_calibrated(log, owned.id)
        price = home.pack_price(own.car.pack.chemistry)
        causes = _causes(own, price)
        recent = calibrated is not None and now - calibrated < LATELY
        return Health(
            battery=own,
            cars=home.names,
            others=tuple((each, compare(_health(own), _health(each))) for each in others),
            causes=causes,
            besides=1 - own.trend.health - sum(each.so_far for each in causes.values()),
            currency=home.currency,
            price=price,
            warranty=_warranty(own),
            worn=own.trend.when(WORN),
            drifts=None if recent else may_have_drifted(facts(log, owned.id, now - LATELY, known_by(now)), own.everyday),
            guide=open_guide(log, owned.id),
            apart=_apart(own, tests),
        )

    return in_this_minute(snapshot, ("battery", car_id, tests), work)


def _health(battery: Battery) -> tuple[float, float]:
    return battery.trend.health, battery.trend.sigma


def _causes(own: Battery, price: float) -> dict[str, Cause]:
    """Losses by cause on the owner's own scale, in points and money."""
    cell, scale, new_kwh = own.car.pack.chemistry, own.trend.scale[0], own.car.pack.usable_kwh_new
    worth = price * new_kwh / WORN_AT
    lived = len(own.life.days) - 1
    whole = own.life.then(own.day.months_of(MONTH_DAYS), YEARS * 12).causes(cell)
    parts = {name: (scale * float(whole[name][lived]), scale * float(whole[name][-1] - whole[name][lived])) for name in CAUSES}
    return {
        name: Cause(so_far=past, to_come=more, money_so_far=past * worth, money_to_come=more * worth)
        for name, (past, more) in parts.items()
    }


def _warranty(own: Battery) -> Warranty | None:
    entered = own.owned.battery
    if entered.warranty_soh is None or (entered.warranty_years is None and entered.warranty_km is None):
        return None
    by_years = entered.warranty_years * DAYS_PER_YEAR if entered.warranty_years is not None else float("inf")
    by_km = float("inf")
    if entered.warranty_km is not None:
        by_km = own.age_days + (entered.warranty_km - own.km) / own.km_a_year * DAYS_PER_YEAR
    ends = min(by_years, by_km)
    return Warranty(
        soh=entered.warranty_soh,
        years=entered.warranty_years or 0.0,
        km=entered.warranty_km or 0.0,
        ends_days=ends,
        by_km=by_km < by_years,
        chance=own.trend.chance_below(entered.warranty_soh, max(ends, own.age_days)),
    )


def _apart(own: Battery, numbers: tuple[int, int] | None) -> tuple[OwnTest, OwnTest, Difference] | None:
    """Two tests against each other, the later one minus the earlier."""
    chosen = [each for each in own.tests if numbers is not None and each.test.id in numbers]
    if len(chosen) != 2:
        return None
    first, second = chosen
    return first, second, between_dates(second.capacity, first.capacity, own.car.pack.usable_kwh_new)


def keep_facts(
    household: Household, snapshot: Snapshot, car_id: int, entered: BatteryFacts, words: str, *, seen_revision: int
) -> int:
    """Keep what was entered; returns the number to undo it by. Raises: Refusal with its field; Stale."""
    owned, new_on = snapshot.home.car(car_id), entered.new_on
    first_s = sums_of(snapshot.log, owned.id).first_s
    if new_on is not None and new_on > snapshot.now.date():
        raise Refusal("This day is still to come.", "new_on")
    if new_on is not None and first_s is not None and new_on > (first := datetime.fromtimestamp(first_s, owned.zone).date()):
        raise Refusal(f"The log begins on {first:%Y-%m-%d}: it cannot have been new after that.", "new_on")
    with household.deciding(words, seen_revision) as session:
        write_battery(session, owned.id, entered)
    return session.number


def mark_step(household: Household, car_id: int, event_id: int, words: str, seen_revision: int) -> int:
    """The display reads differently since an event: the fit allows a step there. Again: it does not. Returns the number to undo it by.

    Raises: Refusal for an event that is gone; Stale.
    """
    with household.deciding(words, seen_revision) as session:
        turn_step(session, car_id, event_id)
    return session.number


def reckon_with(household: Household, now: datetime, car_id: int, words: str, seen_revision: int) -> int:
    """Let every plan reckon with the health that the tests say; returns the number to undo it by. Raises: Refusal; Stale."""
    with household.deciding(words, seen_revision) as session:
        set_health(household.as_decided(session, now), car_id)
    return session.number


def set_health(state: Snapshot, car_id: int) -> None:
    """The car's health as its tests say it, written into the decision that a snapshot is of."""
    trend = battery_of(state, state.home.car(car_id)).trend
    write_health(state.log, car_id, round(min(1.05, max(0.4, trend.health)), 3))
