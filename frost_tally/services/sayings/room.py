"""The sayings of the trade for one car: each asks what the rooms know, and is told as soon as those that it asks have worked it out."""

from collections.abc import Mapping
from dataclasses import dataclass

from ...core.errors import OutOfRange, Refusal
from ...core.home import NotSetUp, OfCar, OwnedCar
from ...core.sayings import SAYINGS, needs, told
from ...core.sayings.known import Here
from ...core.sayings.said import Said
from ...household.parts import write_habit
from ...household.snapshot import Snapshot
from ...household.unit_of_work import Household
from ..shared.derived import LONG_S, NotYet
from .sources import OF_THE_DAY, OF_THE_YEAR, here_of

ACTS = ("limit", "tie_break", "cabin_c", "plugs", "motorway_kmh")
"""The habits that a saying may set."""


@dataclass(frozen=True, eq=False, kw_only=True)
class SayingsRoom(OfCar):
    """What is told of a car, what would change the most first; the keys of those that wait for a room, and of those that this home lacks
    something for.
    """

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    here: Here
    told: Mapping[str, Said]
    waiting: tuple[str, ...]
    lacking: tuple[str, ...]


def sayings(
    snapshot: Snapshot, car_id: int | None = None, whole: bool = True, wait_s: float = LONG_S, only: str = ""
) -> SayingsRoom:
    """The sayings for a car (the first when None): those that the year decides, as far as it is worked out within `wait_s`, and on a
    `whole` page those that ask the coming day, too; or `only` one of them. Raises: NotSetUp without a car.
    """
    owned = snapshot.home.car(car_id)
    known: dict[str, object] = {"here": here_of(snapshot, owned)}
    not_yet, missing = set[str](), set[str]()
    asked = {key: set(needs(key)) for key in SAYINGS if only in ("", key)}
    wanted = set[str]().union(*asked.values())
    for name, ask in {**OF_THE_YEAR, **OF_THE_DAY}.items():
        if name not in wanted:
            continue
        if name in OF_THE_DAY and not whole:
            not_yet.add(name)
            continue
        try:
            known[name] = ask(snapshot, owned, wait_s)
        except NotYet:
            not_yet.add(name)
        except (NotSetUp, Refusal, OutOfRange):
            missing.add(name)
    return SayingsRoom(
        owned=owned,
        cars=snapshot.home.names,
        here=known["here"],  # type: ignore[arg-type]
        told=told(known),
        waiting=tuple(key for key, names in asked.items() if names & not_yet and not names & missing),
        lacking=tuple(key for key, names in asked.items() if names & missing),
    )


def follow(household: Household, car_id: int, habit: str, value: str | float, words: str, seen_revision: int | None) -> int:
    """Do what a saying advises: one column of the habit; returns the number to undo it by. Raises: Refusal; Stale."""
    if habit not in ACTS:
        raise Refusal("There is nothing to set for this saying.")
    with household.deciding(words, seen_revision) as session:
        write_habit(session, car_id, **{habit: value})
    return session.number
