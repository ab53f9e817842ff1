"""A week of nights at once: on which the cable goes in, and up to which level, so that every day is covered at least cost and wear."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..basis import Basis, figure
from ..errors import Refusal
from ..units import Array
from .night_cells import CELL_H

PLUG_WORTH = figure(
    "week.plug", 0.10, "EUR", Basis.COMMON_PRACTICE, "our judgement: what a walk with the cable is worth to nobody"
)
GRID = 200
MISSING = 1e6


@dataclass(frozen=True, eq=False, kw_only=True)
class WeekAsk:
    """What is known of the coming nights of a car; arrays and sequences have an entry for each night.

    Levels 0 to 1; `likely_soc` and `cautious_soc` are what the day after each night takes (0: it stays); `prices` per kWh of each quarter
    hour between plugging in and departure; `…_lost_soc` is what standing and warm-up take of the level on a night without the cable, and on
    one with it, `warm_cost` the money of a warm-up from the wall; powers in kW; `wear_per_kwh` and `plug_worth` in money. `as_needed`: any
    level may be charged to, else the habit's `limit`, or what the day needs when that is more. `full_on` is the night of a full charge
    (None: none).
    """

    soc: float
    limit: float
    reserve: float
    usable_kwh: float
    wall_kw: float
    pack_kw: float
    likely_soc: Array
    cautious_soc: Array
    prices: Sequence[Array]
    stay_lost_soc: Array
    plug_lost_soc: Array
    warm_cost: Array
    wear_per_kwh: float = 0.0
    as_needed: bool = False
    full_on: int | None = None
    plug_worth: float = PLUG_WORTH

    @property
    def needs_soc(self) -> Array:
        """What each day needs at departure at its cautious end, 0 for a day at home."""
        return np.where(self.cautious_soc > 0, self.cautious_soc + self.reserve, 0.0)


@dataclass(frozen=True, kw_only=True)
class WeekPlan:
    """By night: the level charged to (None: the cable stays out; one under what it has: only for the warm-up), the level at departure
    and on return, what is missing to the day's need (0 to 1); the money with wear; and the same less what is left at the end above the
    beginning, at the week's cheapest price.
    """

    targets: tuple[float | None, ...]
    leaves_soc: tuple[float, ...]
    returns_soc: tuple[float, ...]
    short_soc: tuple[float, ...]
    cost: float
    net: float


def plan_week(ask: WeekAsk, *, every: bool = False) -> WeekPlan:
    """Least missing, then least money: dynamic programming over the level in half per cents, between them linear; with `every`, the cable
    is in on every night. Raises: Refusal for no nights, or arrays of different lengths.
    """
    count = len(ask.prices)
    if not count or {
        len(each) for each in (ask.likely_soc, ask.cautious_soc, ask.stay_lost_soc, ask.plug_lost_soc, ask.warm_cost)
    } != {count}:
        raise Refusal("A week has an entry for each night.")
    levels = np.arange(GRID + 1) / GRID
    worth = _cheapest(ask) * ask.usable_kwh
    ahead, chosen = -worth * levels, []
    for night in range(count - 1, -1, -1):
        targets = _targets(ask, night)
        leave, paid = _charged(ask, night, levels[:, None], targets[None, :])
        value = _value(ask, night, leave, paid) + np.interp(_home(ask, night, leave), levels, ahead)
        left = _left(ask, night, levels)
        stay = np.full(len(levels), np.inf) if every or ask.full_on == night else _value(ask, night, left, 0.0 * levels)
        stay = stay + np.interp(_home(ask, night, left), levels, ahead)
        best = np.argmin(value, axis=1)
        least = value[np.arange(len(levels)), best]
        plug = least < stay - 1e-9
        chosen.append(np.where(plug, targets[best], np.nan))
        ahead = np.where(plug, least, stay)
    return _lived(ask, chosen[::-1], worth)


def _targets(ask: WeekAsk, night: int) -> Array:
    """Levels that may be charged to on a night."""
    if ask.full_on == night:
        return np.ones(1)
    need = min(1.0, float(np.ceil(GRID * (ask.needs_soc[night] + ask.plug_lost_soc[night]) - 1e-9)) / GRID)
    if ask.as_needed:
        return np.arange(1, round(GRID * max(ask.limit, need)) + 1) / GRID
    return np.unique([ask.limit, max(ask.limit, need)])


def _charged(ask: WeekAsk, night: int, level: Array, target: Array) -> tuple[Array, Array]:
    """The level at departure and the money, with wear and the walk, of charging from a level to another in a night's cheapest hours."""
    prices = np.sort(ask.prices[night])
    hours = CELL_H * np.arange(len(prices) + 1)
    spent = np.concatenate([[0.0], np.cumsum(prices)]) * CELL_H * ask.wall_kw
    added = np.minimum(np.maximum(0.0, target - level), hours[-1] * ask.pack_kw / ask.usable_kwh)
    kwh = added * ask.usable_kwh
    leave = np.maximum(0.0, level + added - ask.plug_lost_soc[night])
    return leave, np.interp(kwh / max(ask.pack_kw, 1e-9), hours, spent) + kwh * ask.wear_per_kwh + ask.warm_cost[
        night
    ] + ask.plug_worth


def _value(ask: WeekAsk, night: int, leave: Array, paid: Array) -> Array:
    """Money of a night, a missing level counted far above it."""
    return np.asarray(paid + MISSING * np.maximum(0.0, ask.needs_soc[night] - leave - 0.5 / GRID))


def _left(ask: WeekAsk, night: int, level: Array) -> Array:
    """The level at departure on a night without the cable."""
    return np.asarray(np.maximum(0.0, level - ask.stay_lost_soc[night]))


def _home(ask: WeekAsk, night: int, leave: Array) -> Array:
    """The level on return, as it is likely."""
    return np.asarray(np.maximum(0.0, leave - ask.likely_soc[night]))


def _cheapest(ask: WeekAsk) -> float:
    """What a kWh in the pack costs in the week's cheapest quarter hour, with its wear."""
    least = min((float(each.min()) for each in ask.prices if len(each)), default=0.0)
    return least * ask.wall_kw / max(ask.pack_kw, 1e-9) + ask.wear_per_kwh


def _lived(ask: WeekAsk, chosen: Sequence[Array], worth: float) -> WeekPlan:
    """The week lived through with what was chosen for each level."""
    level, cost = ask.soc, 0.0
    rows: list[tuple[float | None, float, float, float]] = []
    for night, by_level in enumerate(chosen):
        target = float(by_level[round(GRID * level)])
        plug = not np.isnan(target)
        leave = float(_left(ask, night, np.array(level)))
        if plug:
            after, paid = _charged(ask, night, np.array(level), np.array(target))
            leave, cost = float(after), cost + float(paid)
        home = float(_home(ask, night, np.array(leave)))
        rows.append((target if plug else None, leave, home, max(0.0, float(ask.needs_soc[night]) - leave)))
        level = home
    targets, leaves, returns, short = zip(*rows, strict=True)
    net = cost - worth * (level - ask.soc)
    return WeekPlan(targets=targets, leaves_soc=leaves, returns_soc=returns, short_soc=short, cost=cost, net=net)
