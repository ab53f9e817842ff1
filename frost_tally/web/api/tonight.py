"""Tonight as JSON; the command line prints the same."""

from datetime import datetime

from pydantic import Field

from ...core.drive.tally import Tally
from ...services.tonight.room import Tonight
from ..units import Units
from ..words.night import verdict
from .answers import Answer, Band, Kwh, Level, Moment, Money, OfCar, Short, band


class Block(Answer):
    """Hours in which it charges."""

    start: Moment
    end: Moment
    wall_kwh: Kwh
    cost: Money


class TonightAnswer(OfCar):
    """The night that Tonight speaks of. `missing_soc` is what a day takes more than there is; `short_soc` what the night stays under its
    limit; `cable` whether it goes in; `tally_km` what each cause takes of the kilometres of a mild day.
    """

    currency: str
    event: str = Field(description="What comes next: plug_in, under_way, leave, away.")
    cable: str = Field(description="Whether the cable goes in: in, out, as_you_like.")
    soc_now: Level
    limit_soc: Level
    departure: Moment
    cost: Money
    cost_at_once: Money
    soc_departure: Level
    arrival_soc: Band
    need_soc: Level
    missing_soc: Level
    short_soc: Level
    warm_up: Moment | None
    charging: tuple[Block, ...]
    tally_km: dict[str, Short] | None


def tonight_answer(night: Tonight, units: Units) -> TonightAnswer:
    """Tonight's numbers."""
    plan, said = night.plan, verdict(night, units)

    def local(moment: datetime) -> datetime:
        return moment.astimezone(night.zone)

    return TonightAnswer(
        car_id=night.owned.id,
        car=night.owned.name,
        sentence=said.plain,
        notes=said.notes,
        currency=night.currency,
        event=night.event.value,
        cable=night.choice.cable.value,
        soc_now=night.inputs.soc_now,
        limit_soc=night.inputs.limit,
        departure=local(plan.request.departure),
        cost=plan.cost,
        cost_at_once=plan.cost_at_once,
        soc_departure=plan.soc_departure,
        arrival_soc=band(night.arrival),
        need_soc=night.need_soc,
        missing_soc=max(0.0, -night.arrival.likely),
        short_soc=plan.short_soc,
        warm_up=local(plan.warm_start) if plan.warm.lead_s > 0 else None,
        charging=tuple(
            Block(start=local(each.start), end=local(each.end), wall_kwh=each.wall_kwh, cost=each.cost) for each in plan.blocks
        ),
        tally_km=tally_km(night.tally),
    )


def tally_km(tally: Tally | None) -> dict[str, float] | None:
    """What each cause takes of the kilometres of a mild day."""
    if tally is None:
        return None
    steps = {each.cause.key: -each.lost_km for each in tally.steps}
    return {"mild_day": tally.mild_km, **steps, "tomorrow": tally.expected_km}
