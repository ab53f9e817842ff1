"""Log, what it shows: efficiency by outlet and temperature, use by temperature beside the model, standby, and the plans' error."""

from datetime import UTC, datetime, timedelta

import numpy as np
from fastapi import Request
from fastapi.responses import Response

from ....core.log.efficiency import ENOUGH, MILD_C, Efficiency
from ....core.log.facts import FEW
from ....services import log_learnt as service
from ....services.log_learnt import Shows
from ...drawing.scatter import scatter, ticks
from ...navigation import Tab
from ...once import Router
from ...page import render, units_of, whole_number
from ...reading import snapshot_of
from ...units import Units

router = Router(prefix="/log")
TABS = (Tab(of="log", key="derived", path="/log/learnt", words="What it shows", at=4),)
HOT_WH, LEAST_STANDBY = 600.0, 0.0005


@router.get("/learnt")
def room(request: Request) -> Response:
    """What the log shows of a car."""
    units = units_of(request)
    found = service.shows(snapshot_of(request), whole_number(request.query_params.get("car")))
    return render(
        request, "log_learnt/room.html", room="log", tab="derived", found=found, units=units, said=_said(found, units),
        outlets=[_outlet(outlet, each, found, units) for outlet, each in found.efficiency.items()],
        use=[_use(found, units, phone) for phone in (False, True)] if len(found.air_c) > 2 else [],
        plans=[_plans(found, units, phone) for phone in (False, True)] if len(found.plan_at) > 2 else [],
        standby=_standby(found, units),
    )  # fmt: skip


def _said(found: Shows, units: Units) -> tuple[str, str]:
    """How much the plans are to be trusted, and from what."""
    count = len(found.plan_error)
    if count < FEW:
        return (
            f"{found.owned.name}: {'no plan was held against its day yet' if not count else 'too few plans were held against their days'}.",
            "Keep a plan in Tonight, and note what happened beside it.",
        )
    lead = f"{found.owned.name}: half of {count} plans were right to {units.text(found.typical_error, 'percent')}."
    return lead, f"{units.text(found.inside, 'percent')} came home inside their band; it is drawn for 80 %."


def _outlet(outlet: int | None, each: Efficiency, found: Shows, units: Units) -> tuple[str, str, str, list[str]]:
    """An outlet's name, what was measured on it, whether it counts, and its picture in both shapes."""
    name = found.outlets.get(outlet or 0, "An outlet that nobody named")
    share = f"{units.text(each.value, 'percent', 1)} ± {units.plain(100 * each.sigma, 1)}"
    mild, ten = units.text(MILD_C, "temperature", 0), units.text(10, "warmer")
    lost = f"; under {mild} every {ten} colder take {units.text(10 * each.lost_per_k, 'percent', 1)}"
    usual = units.text(found.owned.car.charger.efficiency, "percent")
    counts = (
        f"It replaces the class’s {usual} in every plan."
        if each.enough
        else f"The class’s {usual} is used until {ENOUGH:.0f} charges are noted from level to level."
    )
    return (
        name,
        f"{share} arrive, from {each.count} charges{lost if each.lost_per_k > 0 else ''}.",
        counts,
        _efficiency(each, units),
    )


def _efficiency(each: Efficiency, units: Units) -> list[str]:
    """Shares over temperature with the fitted line."""
    degrees = ticks(float(each.out_c.min()), float(each.out_c.max()), 5.0)
    shares = ticks(float(np.quantile(each.shares, 0.02)) - 0.01, float(np.quantile(each.shares, 0.98)) + 0.01, 0.05)
    model = [(at, each.at(at)) for at in degrees]
    x_ticks = [(at, units.text(at, "temperature", 0, unit=False)) for at in degrees]
    y_ticks = [(at, units.text(at, "percent")) for at in shares]
    mild = units.text(each.value, "percent", 1)
    words = f"Share of the wall’s energy that arrives, over {units.of('temperature').label} outside: {mild} when mild."
    points = list(zip(each.out_c.tolist(), each.shares.tolist(), strict=True))
    return [scatter(points, x_ticks, y_ticks, words, model=model, phone=phone) for phone in (False, True)]


def _use(found: Shows, units: Units, phone: bool) -> str:
    """Use over temperature: days as dots, the model's line."""
    per = units.per_100(1.0) / 10
    degrees = ticks(min(-20.0, float(found.air_c.min())), max(25.0, float(found.air_c.max())), 5.0)
    most = min(HOT_WH, float(np.quantile(found.wh_per_km, 0.99)))
    energies = ticks(0.0, max(most, float(found.model.max())) * per, 10.0)
    points = [(air, wh * per) for air, wh in zip(found.air_c.tolist(), found.wh_per_km.tolist(), strict=True)]
    model = [
        (air, wh * per)
        for air, wh in zip(found.grid_c.tolist(), found.model.tolist(), strict=True)
        if degrees[0] <= air <= degrees[-1]
    ]
    x_ticks = [(at, units.text(at, "temperature", 0, unit=False)) for at in degrees]
    over = f"{units.of('distance').label} over {units.of('temperature').label} outside"
    words = f"kWh for 100 {over}: {len(points)} days as dots, the model as a line."
    return scatter(points, x_ticks, [(at, f"{at:.0f}") for at in energies], words, model=model, phone=phone)


def _plans(found: Shows, units: Units, phone: bool) -> str:
    """The plans' error over time: dots, and the band that was planned around nought."""
    error, width = found.plan_error, found.plan_width
    most = max(0.05, float(np.quantile(np.abs(error), 0.97)), float(np.median(width)))
    levels = ticks(-most, most, 0.05)
    first, last = float(found.plan_at[0]), float(found.plan_at[-1])
    upper = list(zip(found.plan_at.tolist(), width.tolist(), strict=True))
    band = [*upper, *((at, -half) for at, half in reversed(upper))]
    x_ticks = [(at, f"{datetime.fromtimestamp(at, UTC):%b %Y}") for at in _months(first, last)]
    y_ticks = [(at, ("+" if at > 1e-9 else "") + units.text(at, "percent")) for at in levels]
    words = f"Level at arrival against the plan: {len(error)} plans as dots, the planned band behind them."
    return scatter(
        list(zip(found.plan_at.tolist(), error.tolist(), strict=True)), x_ticks, y_ticks, words, band=band, phone=phone
    )


def _months(first: float, last: float) -> list[float]:
    """Five moments from first to last, further apart than they are alike."""
    if last - first < timedelta(days=30).total_seconds():
        return [first, last + 1]
    return [first + i * (last - first) / 4 for i in range(5)]


def _standby(found: Shows, units: Units) -> str:
    if found.standby_soc is None:
        return "No level was read before and after standing yet."
    if found.standby_days < FEW:
        return "It has stood for too few days between two levels to tell what standing takes."
    if found.standby_soc < LEAST_STANDBY:
        return f"Standing takes less than a level shows, from {found.standby_days:.0f} days between two levels."
    a_day = units.text(found.standby_soc, "percent", 2)
    return f"Standing takes {a_day} a day, from {found.standby_days:.0f} days between two levels."
