"""The command line's plan for tonight, as a sentence or as JSON."""

import json
from dataclasses import asdict
from datetime import datetime

import typer

from .cli_shared import out, settings_of
from .core.errors import Refusal
from .core.home import NotSetUp
from .household.snapshot import Snapshot
from .opening import open_home
from .services.tonight.room import Tonight, tonight
from .web.units import units_for
from .web.words.night import verdict


def show_tonight(as_json: bool, use_demo: bool, car: int | None) -> None:
    """Say the plan for tonight."""
    with open_home(settings_of(use_demo)).reading() as snapshot:
        _say_tonight(snapshot, car, as_json)


def _say_tonight(snapshot: Snapshot, car: int | None, as_json: bool) -> None:
    try:
        night = tonight(snapshot, car)
    except NotSetUp:
        out.print("Nothing is set up yet: start `frost-tally serve` and open the page.")
        raise typer.Exit(1) from None
    except Refusal as refusal:
        out.print(refusal.message)
        raise typer.Exit(1) from None
    said = verdict(night, units_for(snapshot.home.person()))
    if as_json:
        typer.echo(
            json.dumps({"sentence": said.plain, "notes": list(said.notes), **plan_as_dict(night)}, ensure_ascii=False, indent=2)
        )
        return
    out.print(said.plain, soft_wrap=True)
    for each in said.notes:
        out.print(f"- {each}", soft_wrap=True)


def _local(night: Tonight, moment: datetime) -> str:
    return moment.astimezone(night.zone).isoformat(timespec="seconds")


def plan_as_dict(night: Tonight) -> dict[str, object]:
    """The plan in SI and ISO 8601, for scripts."""
    plan, tally = night.plan, night.tally
    return {
        "car": night.car.name,
        "currency": night.currency,
        "departure": _local(night, plan.request.departure),
        "cost": round(plan.cost, 4),
        "cost_at_once": round(plan.cost_at_once, 4),
        "soc_departure": round(plan.soc_departure, 4),
        "arrival_soc": {name: round(max(0.0, level), 4) for name, level in asdict(night.arrival).items()},
        "missing_soc": round(max(0.0, -night.arrival.likely), 4),
        "short_soc": round(plan.short_soc, 4),
        "warm_up": _local(night, plan.warm_start) if plan.warm.lead_s > 0 else None,
        "charging": [
            {
                "start": _local(night, b.start),
                "end": _local(night, b.end),
                "wall_kwh": round(b.wall_kwh, 3),
                "cost": round(b.cost, 4),
            }
            for b in plan.blocks
        ],
        "tally_km": None
        if tally is None
        else {
            "mild_day": round(tally.mild_km, 2),
            **{s.cause.key: round(-s.lost_km, 2) for s in tally.steps},
            "tomorrow": round(tally.expected_km, 2),
        },
    }
