"""Works that each need cases driven through a day. Driven together they share a pass: many cases cost little more than one; and what was
driven lately is not driven again, for a minute later, or in another room, most of it is asked for once more. Why: docs/decisions/0029.
"""

from collections.abc import Callable, Generator, Hashable
from dataclasses import dataclass, fields, replace
from functools import lru_cache, wraps
from typing import Any, ParamSpec, TypeVar

import numpy as np

from ..car import Car
from .day import Outcome, Scenarios, Trip
from .road import Conditions
from .trip import run

Result = TypeVar("Result")
Arguments = ParamSpec("Arguments")


@dataclass(frozen=True)
class Pass:
    """Scenarios that a work wants driven through a day; of the conditions only what the cases do not hold."""

    car: Car
    trip: Trip
    conditions: Conditions
    inputs: Scenarios

    @property
    def day(self) -> tuple[Car, Trip, float | None, float]:
        """What passes that can be one have in common."""
        return self.car, self.trip, self.conditions.cabin_set_c, self.conditions.seats

    @property
    def value(self) -> Hashable:
        """All that its outcome comes from."""
        return self.day, tuple(np.asarray(getattr(self.inputs, each.name)).tobytes() for each in fields(Scenarios))


Driving = Generator[Pass, Outcome, Result]
"""A work: it asks for a pass, gets its outcome, and returns a result in the end."""


@lru_cache(maxsize=192)
def _kept(value: Hashable) -> list[Outcome]:
    """Where the outcome of a pass is kept."""
    return []


_FORGETS: list[Callable[[], None]] = [_kept.cache_clear]


def forget() -> None:
    """Forget what was driven, so that it is driven anew."""
    for each in _FORGETS:
        each()


def kept(work: Callable[Arguments, Driving[Result]]) -> Callable[Arguments, Driving[Result]]:
    """A work whose result is kept by the values of its arguments: a minute later, or in another room, its cases are not even made."""

    @lru_cache(maxsize=48)
    def place(*args: Hashable, **more: Hashable) -> list[Result]:
        return []

    _FORGETS.append(place.cache_clear)

    @wraps(work)
    def lately(*args: Arguments.args, **more: Arguments.kwargs) -> Driving[Result]:
        found: list[Result] = place(*args, **more)  # type: ignore[arg-type]
        if not found:
            found[:] = [(yield from work(*args, **more))]
        return found[0]

    return lately


def outcome_of(wanted: Pass) -> Outcome:
    """The outcome of a pass, without the steps of its heat balance."""
    return _outcomes([wanted])[0]


def alone(work: Driving[Result]) -> Result:
    """The result of one work."""
    result: Result = in_one_batch(work)[0]
    return result


def in_one_batch(*works: Driving[Any]) -> list[Any]:
    """The results of works in their order; what they ask for is driven in one pass wherever it is the same day."""
    results: list[Any] = [None] * len(works)
    asked: dict[int, Pass] = {}

    def go_on(i: int, outcome: Outcome | None) -> None:
        try:
            asked[i] = next(works[i]) if outcome is None else works[i].send(outcome)
        except StopIteration as done:
            asked.pop(i, None)
            results[i] = done.value

    for i in range(len(works)):
        go_on(i, None)
    while asked:
        number = list(asked)
        for i, outcome in zip(number, _outcomes([asked[i] for i in number]), strict=True):
            go_on(i, outcome)
    return results


def _outcomes(passes: list[Pass]) -> list[Outcome]:
    """The outcome of each pass; of those that are not kept all of one day are driven at once."""
    kept, new = [_kept(each.value) for each in passes], dict[Hashable, list[int]]()
    for i, outcome in enumerate(kept):
        if not outcome:
            new.setdefault(passes[i].day, []).append(i)
    for alike in new.values():
        for i, came in zip(alike, _driven([passes[i] for i in alike]), strict=True):
            kept[i][:] = [came]
    return [each[0] for each in kept]


def _driven(passes: list[Pass]) -> list[Outcome]:
    """The outcome of each pass, all of one day."""
    first, counts = passes[0], [each.inputs.count for each in passes]
    inputs = first.inputs
    if len(passes) > 1:
        columns = {each.name: [getattr(one.inputs, each.name) for one in passes] for each in fields(Scenarios)}
        inputs = Scenarios(**{name: _joined(values, counts) for name, values in columns.items()})
    outcome, ends = run(first.car, first.trip, first.conditions, inputs), np.cumsum(counts).tolist()
    return [_rows(outcome, slice(end - count, end)) for end, count in zip(ends, counts, strict=True)]


def _joined(values: list[Any], counts: list[int]) -> Any:
    """One column: a number that is the same everywhere, else one after the other."""
    if all(isinstance(each, float | int) for each in values):
        same = all(each == values[0] for each in values)
        return values[0] if same else np.repeat(np.array(values, dtype=float), counts)
    return np.concatenate([np.broadcast_to(np.asarray(each, dtype=float), n) for each, n in zip(values, counts, strict=True)])


def _rows(outcome: Outcome, rows: slice) -> Outcome:
    """Some of the cases; without the steps of their heat balance."""

    def of(value: Any) -> Any:
        return value[rows] if isinstance(value, np.ndarray) else value

    ends = tuple(replace(end, **{name: of(value) for name, value in vars(end).items()}) for end in outcome.ends)
    parts = {name: kwh[rows] for name, kwh in outcome.parts_kwh.items()}
    own = {name: of(value) for name, value in vars(outcome).items()}
    return Outcome(**{**own, "parts_kwh": parts, "ends": ends, "held": (), "cabin": ()})
