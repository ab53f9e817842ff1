"""What is not as planned or not as usual tonight: a plan that has begun, no cheap hour left, prices that did not come."""

from ...core.charge.prices import SERIES_BAND
from ...services.tonight.room import Tonight
from ..units import Units
from .hours import hour
from .sentence import percent


def fault_words(night: Tonight, units: Units) -> list[str]:
    """What went otherwise, and what is done about it; nothing on a night that is as usual."""
    return [*_begun(night, units), *_dear(night, units), *_prices(night, units)]


def _begun(night: Tonight, units: Units) -> list[str]:
    """The kept plan has begun: how far the car should be by now, and that the rest is planned from what it has."""
    begun, should = night.kept.starts if night.kept else None, night.expected_soc
    if begun is None or should is None:
        return []
    has, now = night.inputs.soc_now, hour(night.now, night.zone, units)
    pulled = night.inputs.soc_now != night.habits.soc_now
    if not pulled and (night.level_at is None or night.level_at < begun):
        read = f" since {hour(night.level_at, night.zone, units)}" if night.level_at else ""
        return [
            f"By the plan that is kept it has {percent(should)} by {now}, if it charges; nobody has read its level{read}. Type in what it "
            "shows."
        ]
    if night.kept and night.kept.is_behind(has, night.now):
        return [
            f"By the plan that is kept it would have {percent(should)} by {now}; it has {percent(has)}. Planned anew from here, dear hours "
            "too if the day needs them."
        ]
    return []


def _dear(night: Tonight, units: Units) -> list[str]:
    """No cheap hour is left before departure."""
    least = night.plan.dear(night.cheapest_of_day)
    if least is None:
        return []
    dear, cheap = (units.text(each, "price", 2) for each in (least, night.cheapest_of_day))
    return [f"No cheap hour is left before you leave: the cheapest costs {dear}; in the 24 hours before, it was {cheap}."]


def _prices(night: Tonight, units: Units) -> list[str]:
    """Dated prices are wanted, and some or all are missing."""
    if night.other_tariff:
        return [f"Priced by {night.other_tariff}, to look at: it is not this car’s contract."]
    missing = [slot.start for slot in night.plan.prices if slot.band != SERIES_BAND]
    if missing and len(missing) < len(night.plan.prices):
        return [
            f"Dated prices are known for a part of the night only; from {hour(missing[0], night.zone, units)} the painted week counts."
        ]
    if missing and night.feed:
        return ["The dated prices of this night have not come: the painted week counts until they do."]
    return []
