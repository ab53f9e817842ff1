"""What lies ahead of all cars that hang on one cable, with what somebody sets for the night that is shown."""

from collections.abc import Callable, Hashable
from dataclasses import dataclass, fields, replace
from typing import TypeVar, cast

from ...core.advice.night_inputs import DECIDED, NightInputs
from ...core.coming.ahead import ahead
from ...core.coming.asked import Asked
from ...core.coming.car_ahead import CarAhead
from ...core.coming.now import Now
from ...household.snapshot import Snapshot
from .now import now_of, sharing_cable

Override = Callable[[NightInputs], NightInputs]
Result = TypeVar("Result")


def _as_it_is(defaults: NightInputs) -> NightInputs:
    return defaults


@dataclass(frozen=True, kw_only=True)
class Coming:
    """A car's coming week with the inputs of the night that is shown: as decided, and as somebody set them."""

    ahead: CarAhead
    defaults: NightInputs
    inputs: NightInputs


def coming(
    snapshot: Snapshot, car_id: int | None = None, override: Override = _as_it_is, day: str = "", tariff: int | None = None
) -> Coming:
    """What lies ahead of a car (the first when None) with the inputs that were set for its next night, for a kept day when its key is
    given, priced by another contract when its number is. Raises: NotSetUp; Refusal with its field.
    """
    now = now_of(snapshot, car_id, tariff)
    base = now.defaults_on(day)
    inputs = replace(override(base), **{name: getattr(base, name) for name in DECIDED})
    set_names = _differ(inputs, base)
    usual = _ahead(snapshot, now, inputs if set_names else None, set_names, day)
    made = usual.asked.base if usual.asked.idle else usual.tonight.inputs
    defaults = replace(base, limit=made.limit, warm_up=made.warm_up)
    inputs = override(defaults)
    decided = _differ(inputs, defaults) & set(DECIDED)
    if decided:  # what is advised is decided once: a limit that was set leaves it
        usual = _ahead(snapshot, now, inputs, set_names | set(DECIDED), day)
    return Coming(ahead=usual, defaults=defaults, inputs=inputs)


def _differ(inputs: NightInputs, others: NightInputs) -> frozenset[str]:
    """The names of the inputs that differ."""
    return frozenset(each.name for each in fields(NightInputs) if getattr(inputs, each.name) != getattr(others, each.name))


def _ahead(snapshot: Snapshot, now: Now, inputs: NightInputs | None, set_names: frozenset[str], day: str) -> CarAhead:
    """The week of a car among those that share its cable."""
    sharing = sharing_cable(snapshot, now.owned)
    mine = Asked(now=now, inputs=inputs, set_names=set_names, day=day)
    group = ahead([mine if each.id == now.owned.id else Asked(now=now_of(snapshot, each.id)) for each in sharing])
    return group.cars[[each.id for each in sharing].index(now.owned.id)]


def shown(car: CarAhead, what: Hashable, work: Callable[[], Result]) -> Result:
    """What a room makes of a car's week, once as long as that is the same."""
    kept, key = car.group.shown, (car.place, what)
    if key not in kept:
        kept[key] = work()
    return cast(Result, kept[key])


def ahead_of(snapshot: Snapshot, car_id: int | None = None) -> CarAhead:
    """What lies ahead of a car (the first when None), as nobody set anything. Raises: NotSetUp."""
    return _ahead(snapshot, now_of(snapshot, car_id), None, frozenset(), "")
