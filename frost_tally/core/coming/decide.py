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
    """Ways that are still open: levels and doubts (shape (states, cars)), who has the cable, money with what it is worth to nobody, what is
    missing; and by night where each came from.
    """

    soc: Array
    doubt: Array
    holder: Ints
    value: Array
    missing: Array
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
        states = _States(soc=start, doubt=doubt, holder=zero + had, value=one, missing=one, parent=zero, chosen=zero)
        self.steps: list[tuple[_States, list[Option], list[tuple[float | None, ...]]]] = []
        for night in range(first, count):
            options = self._options(night)
            states = self._after(states, night, options)
            self.steps.append((states, [each[0] for each in options], [each[1] for each in options]))
        return self._lived(first, states, had)

    def _options(self, night: int) -> list[tuple[Option, tuple[float | None, ...]]]:
        """Who may have the cable on a night, and to which level."""
        alone, most = len(self.cars) == 1, 9 if len(self.cars) == 1 else MOST_SHARED_TARGETS
        nobody: Option = (None,) * len(self.cars)
        whole = [
            Span(begin_s=each.begin_s, end_s=each.end_s, wall=True) for each in (car.costs[night].hours for car in self.cars)
        ]
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
        parts = [self._of_car(i, night, states, options) for i in range(len(self.cars))]
        money, walks, missing = np.sum([part[2:5] for part in parts], axis=0)
        order = [[i for _, i in sorted((span.begin_s, i) for i, span in enumerate(option) if span)] for option, _ in options]
        first, last = (np.array([each[end] if each else NOBODY for each in order])[:, None] for end in (0, -1))
        goes_over = (first != NOBODY) & (states.holder != NOBODY) & (states.holder != first)
        swaps = goes_over + np.array([max(0, len(each) - 1) for each in order])[:, None]
        shape = money.shape
        made = {
            "soc": np.stack([part[0] for part in parts], axis=-1),
            "doubt": np.stack([part[1] for part in parts], axis=-1),
            "holder": np.where(last == NOBODY, states.holder, last),
            "value": states.value + money + walks + self.swap_worth * swaps,
            "missing": states.missing + missing,
            "parent": np.broadcast_to(np.arange(shape[1]), shape),
            "chosen": np.broadcast_to(np.arange(shape[0])[:, None], shape),
        }
        return self._kept(_States(**{name: each.reshape(-1, *each.shape[2:]) for name, each in made.items()}))

    def _of_car(self, i: int, night: int, states: _States, options: Sequence[tuple[Option, tuple[float | None, ...]]]) -> Array:
        """What each option makes of a car, shape (6, options, states): see `_night`; each of its own ways is worked out once."""
        own = [(option[i], combo[i]) for option, combo in options]
        place = {way: number for number, way in enumerate(dict.fromkeys(own))}
        return self._night(i, night, states.soc[:, i], states.doubt[:, i], list(place))[:, [place[way] for way in own]]

    def _night(self, i: int, night: int, soc: Array, doubt: Array, ways: Sequence[tuple[Span | None, float | None]]) -> Array:
        """A car's level and doubt after a night and its day, the money, what the walk counts for, what is missing, and the level at
        departure, for each way (when it has the cable, and to which level it charges): shape (6, ways, states).
        """
        car = self.cars[i]
        plugged = [self._plugged(i, night, soc, doubt, span, target) for span, target in ways]
        level, low, money = (np.array([each[k] for each in plugged]) for k in range(3))
        takes, walk = (np.array([each[k] for each in plugged])[:, None] for k in (3, 4))
        leave, doubt = np.maximum(0.0, level - takes), np.maximum(0.0, level - low)
        needs_soc = car.needs_soc[night]
        if needs_soc <= 0:
            money = money + np.interp(leave, LEVELS, car.stand_cost[night])
        short = np.maximum(0.0, needs_soc + doubt - leave - SAME_SOC) if needs_soc > 0 else np.zeros_like(leave)
        home, doubt = np.maximum(0.0, leave - car.likely_soc[night]), doubt + car.cautious_soc[night] - car.likely_soc[night]
        return np.array([home, doubt, money, np.broadcast_to(walk, home.shape), short, leave])

    def _plugged(
        self, i: int, night: int, soc: Array, doubt: Array, span: Span | None, target: float | None
    ) -> tuple[Array, Array, Array, float, float]:
        """A car's level and its cautious end after charging (shape (states,)), the money, what warming and waiting take, and what the walk
        counts for.
        """
        car = self.cars[i]
        if span is None:
            there, sure = float(car.there_soc[night]), soc - doubt
            level, low = (np.maximum(each, np.minimum(car.limit, each + there)) for each in (soc, sure))
            like = self.plug_worth if car.plugs is Plugs.EVERY and len(self.cars) > 1 else 0.0
            return level, low, np.zeros(len(soc)), float(car.out_soc[night]), like
        wanted = float(target or 0.0) - soc
        both, money = car.costs[night].charged(
            np.maximum(0.0, np.concatenate([wanted, wanted + doubt])), span.begin_s, span.end_s
        )
        walk = {Plugs.EVERY: LIKES, Plugs.PAYS: self.plug_worth, Plugs.MUST: NEVER_WALKS}[car.plugs]
        takes, warm = (car.in_soc[night], float(car.warm_cost[night])) if span.wall else (car.out_soc[night], 0.0)
        return soc + both[: len(soc)], soc - doubt + both[len(soc) :], money[: len(soc)] + warm, float(takes), walk

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

    def _lived(self, first: int, states: _States, had: int) -> Decided:
        """The best way, night by night."""
        row, path = int(np.argmin(self._rank(states))), list[int]()
        for step, _, _ in reversed(self.steps):
            path.append(int(step.chosen[row]))
            row = int(step.parent[row])
        turns: list[list[Turn]] = [[] for _ in self.cars]
        holders, socs = list[int](), np.array([each.soc for each in self.cars])
        doubts = np.array([max(0.0, each.soc - each.low_soc) for each in self.cars])
        net, missing, holder, swaps = float(socs @ self.worth), 0.0, had, 0
        for k, option in enumerate(reversed(path)):
            _, spans, targets = self.steps[k]
            night = first + k
            for i in range(len(self.cars)):
                span, target = spans[option][i], targets[option][i]
                made = self._night(i, night, socs[None, i], doubts[None, i], [(span, target)])[:, 0, 0].tolist()
                socs[i], doubts[i], money, _, short, leave = made
                turns[i].append(Turn(span=span, target_soc=target, leaves_soc=leave, home_soc=float(socs[i]), short_soc=short))
                net, missing = net + money, missing + short
            order = [i for _, i in sorted((each.begin_s, i) for i, each in enumerate(spans[option]) if each)]
            for i in order:
                swaps, holder = swaps + (holder not in (NOBODY, i)), i
            holders.append(order[-1] if order else NOBODY)
        net -= float(socs @ self.worth)
        return Decided(turns=tuple(map(tuple, turns)), net=net, missing_soc=missing, holders=tuple(holders), swaps=swaps)


def otherwise(decided: Decided, cars: Sequence[CarWeek], car: int, night: int, **more: object) -> tuple[Decided, Decided]:
    """The week from a night on as it was decided, and the best with the cable of a car the other way on that night: without it where it
    goes in, with it where it stays out. A later night begins with the likely level alone, so that what goes before it is decided anew.
    """
    here = [
        replace(each, soc=turns[night - 1].home_soc, low_soc=turns[night - 1].home_soc) if night else each
        for each, turns in zip(cars, decided.turns, strict=True)
    ]
    ways = ("inside", "out") if decided.turns[car][night].span is not None else ("out", "inside")
    as_it_is, other = (
        decided if way == ways[0] and not night else decide(here, first=night, **{way: {night: car}}, **more)  # type: ignore[arg-type]
        for way in ways
    )
    return as_it_is, other
