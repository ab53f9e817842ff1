"""What the fields of setting up start with: what was kept, else what is usual for the class, the kind and the money."""

from collections.abc import Mapping
from datetime import time
from typing import Any

from fastapi import Request

from ....core.car import preset
from ....core.charge.control import How
from ....core.charge.supply import HOUSE_PHASES
from ....core.charge.usual_prices import TYPICAL_PRICES
from ....core.charge.usual_supplies import USUAL_SUPPLIES
from ....services import setup as service
from ...page import units_of
from ...part_forms import OutletForm, preferences_of
from ...words.lists import CLASSES, OUTLET_KINDS
from .steps import Start

USUAL_CLASS = "compact_hatch"


def usual_kind(state: service.Progress, kinds: Mapping[str, object]) -> str:
    """A wall unit as the car is sold: with three phases, or with one."""
    return "wall_three" if "wall_three" in kinds and state.owned and state.owned.car.charger.phases == 3 else "wall_one"


def typical(which: str, currency: str) -> float:
    """A price from memory in a currency, as one writes it."""
    return float(f"{TYPICAL_PRICES[which] * service.per_euro(currency):.2g}")


def known(request: Request, state: service.Progress, step: str, start: Start) -> dict[str, Any]:
    """What the fields start with: what was kept, or defaults."""
    ways = preferences_of(units_of(request))
    return {**{"car": _known_car, "outlet": _known_charging, "place": _known_day}[step](request, state, start), **ways}


def _known_car(request: Request, state: service.Progress, start: Start) -> dict[str, Any]:
    owned = None if start.walk and "car" not in request.query_params else state.owned
    if start.preset or owned is None:
        key = start.preset or USUAL_CLASS
        bought = preset(key, owned.name if owned else CLASSES[key], HOUSE_PHASES[start.code])
        fields = service.car_fields(bought, key)
    else:
        fields = service.car_fields(owned.car, owned.preset)
    fields["warm_up"] = owned.habit.warm_up.value if owned else "cabin"
    return fields


def _known_charging(request: Request, state: service.Progress, start: Start) -> dict[str, Any]:
    owned, kinds, money = state.owned, USUAL_SUPPLIES[start.code], units_of(request).currency
    control = {"control": owned.habit.control.how.value if owned and owned.outlet else How.HAND.value}
    if owned and owned.outlet and not start.kind:
        outlet = vars(owned.outlet.supply) | {"name": owned.outlet.name}
    else:
        kind = start.kind if start.kind in kinds else usual_kind(state, kinds)
        outlet = {**vars(kinds[kind]), "name": OUTLET_KINDS[kind]}
    prices: dict[str, Any] = {
        "tariff": "My tariff",
        "cheap_price": typical("cheap", money),
        "cheap_from": time(22, 30),
        "cheap_to": time(6),
        "dear_price": typical("dear", money),
    }
    contract = owned.contract if owned else None
    bands = sorted(contract.tariff.bands, key=lambda band: band.price_per_kwh) if contract else []
    if contract is not None and bands:
        prices |= {"tariff": contract.name, "mean_price": bands[0].price_per_kwh}
    if len(bands) == 2:
        cheap, dear = bands
        prices |= {
            "cheap_price": cheap.price_per_kwh,
            "cheap_from": cheap.start,
            "cheap_to": cheap.end,
            "dear_price": dear.price_per_kwh,
        }
    return {name: outlet[name] for name in OutletForm.model_fields} | prices | control


def _known_day(request: Request, state: service.Progress, start: Start) -> dict[str, Any]:
    owned, place = state.owned, state.place
    usual = ("depart", "plug_in", "town_km", "country_km", "motorway_km", "motorway_kmh")
    day = {name: getattr(owned.habit, name) for name in usual if owned}
    where = {name: getattr(place, name) for name in ("altitude_m", "garage", "garage_heated_c", "winters")}
    outside = dict(zip(("out_now_c", "out_low_c"), state.typed_c, strict=True))
    here = {"place": place.name or "Home", "zone": place.zone if state.complete else ""}
    weekend = "home" if owned and owned.habit.days_a_week == service.FIVE else "same"
    return {**day, **where, **outside, **here, "soc_now": state.soc_now, "weekend": weekend}
