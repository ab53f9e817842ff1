"""Whether the cable goes in, night by night, and for which of the cars that share it, so that every day is covered at least cost and wear.

All ways that differ are lived through at once, night after night; of those that come to the same levels only the cheapest goes on. Least
missing goes before least money. Missing counts at the cautious end: the doubt of days driven since the level was last known adds up.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np

from ..advice.limit import Plugs
from ..basis import Basis, figure
from ..errors import Refusal
from ..units import Array, Ints
from .car_week import LEVELS, CarWeek, Decided, Span, Turn

PLUG_WORTH = figure(
    "week.plug", 0.10, "EUR", Basis.COMMON_PRACTICE, "our judgement: what a walk with the cable is worth to nobody"
)
SWAP_WORTH = figure("rota.swap", 0.5, "EUR", Basis.COMMON_PRACTICE, "our judgement: what a swap of the cable is worth to nobody")
NOBODY, MOST_CARS, MOST_SHARED_TARGETS = -1, 3, 3
MISSING, NEVER_WALKS, LIKES = 1e6, 1e3, 1e-3
"""Money that a missing pack counts for; a walk, for who goes only when they must; what a night in is worth to who plugs in every night."""
SOC_STEP, DOUBT_STEP, MOST_STATES = 0.005, 0.02, 300
SAME_SOC = 0.0025


Option = tuple[Span | None, ...]


@dataclass(frozen=True, eq=False, kw_only=True)
class _States:
    """Ways that are still open: levels and doubts (shape (states, cars)), who has the cable, money with what it is worth to nobody, money
    alone, what is missing; and by night where each came from.
    """

    soc: Array
    doubt: Array
    holder: Ints
    value: Array
    money: Array
    missing: Array
    swaps: Ints
    parent: Ints
    chosen: Ints


def decide(
    cars: Sequence[CarWeek],
    cuts_s: Sequence[Sequence[float]] = (),
    *,
    first: int = 0,
    had: int = NOBODY,
    out: Mapping[int, int] | None = None,
    inside: Mapping[int, int] | None = None,
    worths: tuple[float, float] = (PLUG_WORTH, SWAP_WORTH),
) -> Decided:
    """The best of all ways for one car, or for up to three that share a cable.

    `cuts_s` are by night the times (s since 1970) at which two cars may swap; `first` is the night that it begins with; `out` and `inside`
    keep a car (its place) out or in on some nights; `worths` are what a walk and a swap are worth to nobody, money. Raises: Refusal for no
    nights, cars with different numbers of them, too many cars.
    """
    counts = {each.count for each in cars}
    if not 1 <= len(cars) <= MOST_CARS or len(counts) != 1 or counts == {0}:
        raise Refusal("A week is of one to three cars with as many nights.")
    count = counts.pop()
    search = _Search(cars, cuts_s or [()] * count, out or {}, inside or {}, worths)
    return search.run(first, count, had)


class _Search:
    """Night after night, all ways at once."""

    def __init__(
        self,
        cars: Sequence[CarWeek],
        cuts_s: Sequence[Sequence[float]],
        out: Mapping[int, int],
        inside: Mapping[int, int],
        worths: tuple[float, float],
    ) -> None:
        self.cars, self.cuts_s, self.out, self.inside = cars, cuts_s, out, inside
        self.plug_worth, self.swap_worth = worths
        self.worth = np.array([each.worth for each in cars])

    def run(self, first: int, count: int, had: int) -> Decided:
        """The way that is best in the end, gone through again."""
        start = np.array([[each.soc for each in self.cars]])
        doubt = np.array([[max(0.0, each.soc - each.low_soc) for each in self.cars]])
        one, zero = np.zeros(1), np.zeros(1, dtype=np.int64)
        states = _States(
            soc=start, doubt=doubt, holder=zero + had, value=one, money=one, missing=one, swaps=zero, parent=zero, chosen=zero
        )
        self.steps: list[tuple[_States, list[Option], list[tuple[float | None, ...]]]] = []
        for night in range(first, count):
            options = self._options(night)
            states = self._after(states, night, options)
            self.steps.append((states, [each[0] for each in options], [each[1] for each in options]))
        return self._lived(first, states)

    def _options(self, night: int) -> list[tuple[Option, tuple[float | None, ...]]]:
        """Who may have the cable on a night, and to which level."""
        alone, most = len(self.cars) == 1, 9 if len(self.cars) == 1 else MOST_SHARED_TARGETS
        nobody: Option = (None,) * len(self.cars)
        whole = [Span(begin_s=each.costs[night].begin_s, end_s=each.costs[night].end_s, wall=True) for each in self.cars]
        found = [nobody, *((*nobody[:i], span, *nobody[i + 1 :]) for i, span in enumerate(whole)), *self._swaps(night, whole)]
        able = [each for each in found if self._able(night, each, alone)] or [nobody]
        return [(option, combo) for option in able for combo in self._targets(night, option, most)]

    def _targets(self, night: int, option: Option, most: int) -> Iterator[tuple[float | None, ...]]:
        """To which levels the cars of an option may be charged, together."""
        return product(*(self.cars[i].targets(night, most) if span else (None,) for i, span in enumerate(option)))

    def _swaps(self, night: int, whole: Sequence[Span]) -> list[Option]:
        """The ways of two cars on one cable in one night: each as the first, until each cut."""
        found: list[Option] = []
        for cut, early in product(self.cuts_s[night] if len(self.cars) == 2 else (), (0, 1)):
            late = 1 - early
            a = Span(begin_s=whole[early].begin_s, end_s=cut, wall=False)
            b = Span(begin_s=max(cut, whole[late].begin_s), end_s=whole[late].end_s, wall=True)
            if a.end_s > a.begin_s and b.end_s > b.begin_s:
                found.append((a, b) if early == 0 else (b, a))
        return found

    def _able(self, night: int, option: Option, alone: bool) -> bool:
        """Whether an option is not against what is decided already, and what somebody does every night."""
        free = [each for each in self.cars if each.fixed.get(night, 0.0) is not None]
        if not alone and not any(option) and night not in self.out and any(each.every(night) for each in free):
            return False
        return all(self._may(night, i, span, alone) for i, span in enumerate(option))

    def _may(self, night: int, i: int, span: Span | None, alone: bool) -> bool:
        """Whether a car may have the cable for a span of a night, or go without it (None)."""
        car = self.cars[i]
        if night in car.fixed and (car.fixed[night] is None) != (span is None):
            return False
        if self.out.get(night) == i:
            return span is None
        must = self.inside.get(night) == i or (alone and (car.full_on == night or car.every(night)))
        return span is not None or not must or night in car.fixed

    def _after(self, states: _States, night: int, options: Sequence[tuple[Option, tuple[float | None, ...]]]) -> _States:
        """All ways after one more night and its day, those that come to the same levels once."""
        each_car = [
            {
                key: self._night(i, night, states.soc[:, i], states.doubt[:, i], *key)
                for key in {(option[i], combo[i]) for option, combo in options}
            }
            for i in range(len(self.cars))
        ]
        made = [
            self._gone(states, option, [each[option[i], combo[i]] for i, each in enumerate(each_car)], k)
            for k, (option, combo) in enumerate(options)
        ]
        return self._kept(_States(**{name: np.concatenate([vars(each)[name] for each in made]) for name in vars(states)}))

    def _gone(self, states: _States, option: Option, parts: Sequence[tuple[Array, ...]], number: int) -> _States:
        """The states after one option, by what it makes of each car."""
        money, walks, missing = (sum(each[k] for each in parts) for k in (2, 3, 4))
        holder, over = states.holder, np.zeros(len(states.holder), dtype=np.int64)
        for _, i in sorted((span.begin_s, i) for i, span in enumerate(option) if span):
            over = over + ((holder != NOBODY) & (holder != i))
            holder = np.full(len(holder), i, dtype=np.int64)
        return _States(
            soc=np.column_stack([each[0] for each in parts]),
            doubt=np.column_stack([each[1] for each in parts]),
            holder=holder,
            value=states.value + money + walks + self.swap_worth * over,
            money=states.money + money,
            missing=states.missing + missing,
            swaps=states.swaps + over,
            parent=np.arange(len(holder)),
            chosen=np.full(len(holder), number),
        )

    def _night(self, i: int, night: int, soc: Array, doubt: Array, span: Span | None, target: float | None) -> tuple[Array, ...]:
        """A car's level and doubt after a night and its day, the money, what the walk counts for, what is missing, and the level at
        departure; shape (states,).
        """
        car = self.cars[i]
        money = walk = np.zeros(len(soc))
        like = self.plug_worth if car.plugs is Plugs.EVERY and len(self.cars) > 1 else 0.0
        if span is None or target is None:
            there = float(car.there_soc[night])
            both = np.concatenate([soc, soc - doubt])
            both = np.maximum(both, np.minimum(car.limit, both + there))
            doubt = both[: len(soc)] - both[len(soc) :] if there else doubt
            leave, walk = both[: len(soc)] - car.out_soc[night], walk + like
        else:
            both = np.maximum(0.0, np.concatenate([target - soc, target - soc + doubt]))
            added, money = car.costs[night].charged(both, span.begin_s, span.end_s)
            added, sure, money = added[: len(soc)], added[len(soc) :], money[: len(soc)]
            doubt = np.maximum(0.0, doubt + added - sure)
            leave = soc + added - (car.in_soc if span.wall else car.out_soc)[night]
            money = money + (car.warm_cost[night] if span.wall else 0.0)
            walk = walk + {Plugs.EVERY: LIKES, Plugs.PAYS: self.plug_worth, Plugs.MUST: NEVER_WALKS}[car.plugs]
        leave = np.maximum(0.0, leave)
        short = np.maximum(0.0, car.needs_soc[night] + doubt - leave - SAME_SOC) if car.needs_soc[night] > 0 else 0.0 * leave
        home = np.maximum(0.0, leave - car.likely_soc[night])
        if car.needs_soc[night] <= 0:
            money = money + np.interp(leave, LEVELS, car.stand_cost[night])
        return home, doubt + car.cautious_soc[night] - car.likely_soc[night], money, walk, short, leave

    def _rank(self, states: _States) -> Array:
        return np.asarray(MISSING * states.missing + states.value - states.soc @ self.worth)

    def _kept(self, states: _States) -> _States:
        """Of ways to the same levels the best, and of all the best so many."""
        rank = self._rank(states)
        key = np.column_stack([np.rint(states.soc / SOC_STEP), np.rint(states.doubt / DOUBT_STEP), states.holder])
        order = np.lexsort((rank, *key.T))
        new = np.ones(len(order), dtype=bool)
        new[1:] = (np.diff(key[order], axis=0) != 0).any(axis=1)
        kept = order[new]
        kept = kept[np.argsort(rank[kept], kind="stable")[:MOST_STATES]]
        return _States(**{name: column[kept] for name, column in vars(states).items()})

    def _lived(self, first: int, states: _States) -> Decided:
        """The best way, night by night."""
        row = int(np.argmin(self._rank(states)))
        had = np.array([each.soc for each in self.cars]) @ self.worth
        net = float((states.money - states.soc @ self.worth)[row]) + float(had)
        swaps, path = int(states.swaps[row]), list[tuple[int, int]]()
        for step, _, _ in reversed(self.steps):
            path.append((row, int(step.chosen[row])))
            row = int(step.parent[row])
        turns: list[list[Turn]] = [[] for _ in self.cars]
        holders, socs = list[int](), np.array([each.soc for each in self.cars])
        doubts = np.array([max(0.0, each.soc - each.low_soc) for each in self.cars])
        missing = 0.0
        for k, (_, option) in enumerate(reversed(path)):
            _, spans, targets = self.steps[k]
            night = first + k
            for i in range(len(self.cars)):
                span, target = spans[option][i], targets[option][i]
                home, doubt, _, _, short, leave = self._night(i, night, socs[None, i], doubts[None, i], span, target)
                turns[i].append(
                    Turn(
                        span=span, target_soc=target, leaves_soc=float(leave[0]), home_soc=float(home[0]), short_soc=float(short[0])
                    )
                )  # fmt: skip
                socs[i], doubts[i], missing = home[0], doubt[0], missing + float(short[0])
            holders.append(
                max((each.begin_s, i) for i, each in enumerate(spans[option]) if each)[1] if any(spans[option]) else NOBODY
            )
        return Decided(turns=tuple(map(tuple, turns)), net=net, missing_soc=missing, holders=tuple(holders), swaps=swaps)


def otherwise(decided: Decided, cars: Sequence[CarWeek], car: int, night: int, **more: object) -> tuple[Decided, Decided]:
    """The week from a night on as it was decided, and the best with the cable of a car the other way on that night: without it where it
    goes in, with it where it stays out.
    """
    here = [
        replace(each, soc=turns[night - 1].home_soc, low_soc=turns[night - 1].home_soc) if night else each
        for each, turns in zip(cars, decided.turns, strict=True)
    ]
    ways = ("inside", "out") if decided.turns[car][night].span is not None else ("out", "inside")
    as_it_is, other = (decide(here, first=night, **{way: {night: car}}, **more) for way in ways)  # type: ignore[arg-type]
    return as_it_is, other
