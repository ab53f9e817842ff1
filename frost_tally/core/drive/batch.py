"""Works that each need cases driven through a day. Driven together they share a pass: many cases cost little more than one."""

from collections.abc import Generator
from dataclasses import dataclass, fields, replace
from typing import Any, TypeVar

import numpy as np

from ..car import Car
from .day import Outcome, Scenarios, Trip
from .road import Conditions
from .trip import run

Result = TypeVar("Result")


@dataclass(frozen=True)
class Pass:
    """Scenarios that a work wants driven through a day; of the conditions only what the cases do not hold."""

    car: Car
    trip: Trip
    conditions: Conditions
    inputs: Scenarios

    def like(self, other: "Pass") -> bool:
        """Whether both can be one."""
        here, there = self.conditions, other.conditions
        climate = (here.cabin_set_c, here.seats) == (there.cabin_set_c, there.seats)
        return climate and self.trip == other.trip and self.car == other.car


Driving = Generator[Pass, Outcome, Result]
"""A work: it asks for a pass, gets its outcome, and returns a result in the end."""


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
        first = next(iter(asked.values()))
        alike = [i for i, each in asked.items() if each.like(first)]
        for i, outcome in zip(alike, _driven([asked[i] for i in alike]), strict=True):
            go_on(i, outcome)
    return results


def _driven(passes: list[Pass]) -> list[Outcome]:
    """The outcome of each pass, all of one day."""
    first, counts = passes[0], [each.inputs.count for each in passes]
    if len(passes) == 1:
        return [run(first.car, first.trip, first.conditions, first.inputs)]
    inputs = Scenarios(
        **{each.name: _joined([getattr(one.inputs, each.name) for one in passes], counts) for each in fields(Scenarios)}
    )
    outcome, ends = run(first.car, first.trip, first.conditions, inputs), np.cumsum(counts).tolist()
    return [_rows(outcome, slice(end - count, end)) for end, count in zip(ends, counts, strict=True)]


def _joined(values: list[Any], counts: list[int]) -> Any:
    """One column: a number that is the same everywhere, else one after the other."""
    if all(isinstance(each, float | int) and each == values[0] for each in values):
        return values[0]
    return np.concatenate([np.broadcast_to(np.asarray(each, dtype=float), n) for each, n in zip(values, counts, strict=True)])


def _rows(outcome: Outcome, rows: slice) -> Outcome:
    """Some of the cases; without the steps of their heat balance."""

    def of(value: Any) -> Any:
        return value[rows] if isinstance(value, np.ndarray) else value

    ends = tuple(replace(end, **{name: of(value) for name, value in vars(end).items()}) for end in outcome.ends)
    parts = {name: kwh[rows] for name, kwh in outcome.parts_kwh.items()}
    own = {name: of(value) for name, value in vars(outcome).items()}
    return Outcome(**{**own, "parts_kwh": parts, "ends": ends, "held": (), "cabin": ()})
