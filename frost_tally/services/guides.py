"""Guides: a test of the battery or a calibration of its display led step by step, over days, and ended in the log."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from ..core.battery.capacity import EARLY_SOC, Capacity, Worth, foresee, from_car
from ..core.battery.own_tests import CapacityTest
from ..core.errors import Refusal, require
from ..core.heat.trial import Braking, Morning, Trial, judged
from ..core.home import OfCar, OwnedCar
from ..core.log.check import check
from ..core.log.kinds import Entry
from ..household.battery import OpenGuide, begin_guide, drop_guide, move_guide, open_guide
from ..household.log import write_entry
from ..household.parts import car_row, write_part
from ..household.snapshot import Snapshot
from ..household.unit_of_work import Household
from .battery.room import set_health
from .log_entry.room import whole

Said = dict[str, Any]


@dataclass(frozen=True, kw_only=True)
class Step:
    """A step of a guide: its key, the values it asks for by name (those of `open` may stay empty), hours to wait since the step before."""

    key: str
    asks: tuple[str, ...] = ()
    open: tuple[str, ...] = ()
    wait_h: float = 0.0


@dataclass(frozen=True, kw_only=True)
class Guide:
    """A guide: its steps, the entry of the log that it ends in, made of what was said, and what that tells of the car (None: nothing)."""

    key: str
    steps: tuple[Step, ...]
    ends: Callable[[OwnedCar, Said, datetime], Entry]
    tells: Callable[[Said], Trial | None] = lambda said: None
    plan: tuple[float, float] = (0.0, 0.0)
    at_wall: bool = False


def _drive_down(owned: OwnedCar, said: Said, now: datetime) -> Entry:
    return _test(
        owned, now, how="discharge", **{name: said.get(name) for name in ("soc_from", "soc_to", "kwh", "pack_c", "stopped")}
    )


def _charge_up(owned: OwnedCar, said: Said, now: datetime) -> Entry:
    how = "charge" if said.get("counted") == "pack" else "wall"
    return _test(owned, now, how=how, **{name: said.get(name) for name in ("soc_from", "soc_to", "kwh", "pack_c")})


def _car_test(owned: OwnedCar, said: Said, now: datetime) -> Entry:
    figure = require(said["figure"], 0.4, 1.05, "The car’s figure", field="figure")
    return _test(owned, now, how="car", soc_from=1.0, soc_to=0.0, kwh=round(figure * owned.car.pack.usable_kwh_new, 2))


def _calibrated(owned: OwnedCar, said: Said, now: datetime) -> Entry:
    return Entry(kind="event", car_id=owned.id, values=whole("event", {"at": now, "kind": "calibrated"}))


def _tried(owned: OwnedCar, said: Said, now: datetime) -> Entry:
    return Entry(kind="event", car_id=owned.id, values=whole("event", {"at": now, "kind": "trial"}))


def _trial(said: Said) -> Trial:
    """What two mornings say of the pack."""
    plain, warmed = (
        Morning(out_c=float(said[f"out_{i}"]), pack_c=said.get(f"pack_{i}"), braking=Braking(said[f"braking_{i}"]))
        for i in (1, 2)
    )
    return judged(plain, warmed)


def _test(owned: OwnedCar, now: datetime, **values: Any) -> Entry:
    return Entry(kind="capacity_test", car_id=owned.id, values=whole("capacity_test", {"at": now, **values}))


GUIDES: Mapping[str, Guide] = {
    each.key: each
    for each in (
        Guide(
            key="drive_down",
            steps=(
                Step(key="plan", asks=("plan_from", "plan_to")),
                Step(key="prepare"),
                Step(key="set_off", asks=("soc_from",)),
                Step(key="drive"),
                Step(key="read", asks=("soc_to", "kwh", "pack_c", "stopped"), open=("pack_c",)),
            ),
            ends=_drive_down,
            plan=(1.0, 0.1),
        ),
        Guide(
            key="charge_up",
            steps=(
                Step(key="plan", asks=("plan_from", "plan_to")),
                Step(key="arrive_low"),
                Step(key="begin", asks=("soc_from",)),
                Step(key="charge"),
                Step(key="read_meter", asks=("soc_to", "kwh", "counted", "pack_c"), open=("pack_c",)),
            ),
            ends=_charge_up,
            plan=(0.1, 0.8),
            at_wall=True,
        ),
        Guide(
            key="car_test",
            steps=(
                Step(key="go_low", asks=("soc_from",)),
                Step(key="plug_in"),
                Step(key="figure", asks=("figure",), wait_h=12.0),
            ),
            ends=_car_test,
        ),
        Guide(
            key="calibrate",
            steps=(
                Step(key="down", asks=("soc_from",)),
                Step(key="rest"),
                Step(key="rested", wait_h=4.0),
                Step(key="full", asks=("soc_to",)),
                Step(key="leave"),
            ),
            ends=_calibrated,
        ),
        Guide(
            key="trial",
            steps=(
                Step(key="cold_evening"),
                Step(key="cold_morning", asks=("out_1", "pack_1", "braking_1"), open=("pack_1",)),
                Step(key="warm_evening"),
                Step(key="warm_morning", asks=("out_2", "pack_2", "braking_2"), open=("pack_2",)),
            ),
            ends=_tried,
            tells=_trial,
        ),
    )
}


@dataclass(frozen=True, kw_only=True)
class UnderWay:
    """A guide under way: where it is, the guide, the step it is at, what its plan would tell (None without one), hours still to wait."""

    at: OpenGuide
    guide: Guide
    step: Step
    foreseen: Capacity | None
    wait_h: float
    usable_kwh: float

    @property
    def number(self) -> int:
        """The step's number, from 1."""
        return self.at.step + 1


@dataclass(frozen=True, kw_only=True)
class GuideRoom(OfCar):
    """The guides of a car: the one under way, if any; else what tests between some levels would tell, by the way they are made."""

    owned: OwnedCar
    cars: tuple[tuple[int, str], ...]
    under_way: UnderWay | None
    foreseen: tuple[tuple[str, float, float, Capacity], ...]


SPANS = (("drive_down", 1.0, 0.1), ("drive_down", 0.9, 0.3), ("charge_up", 0.1, 0.9), ("drive_down", 0.6, 0.4))


def guide_room(snapshot: Snapshot, car_id: int | None = None) -> GuideRoom:
    """The guides of a car (the first when None). Raises: NotSetUp without a car."""
    owned = snapshot.home.car(car_id)
    pack, found = owned.car.pack, open_guide(snapshot.log, owned.id)
    foreseen = ((key, one, other, foresee(pack.usable_kwh, one, other, at_wall=GUIDES[key].at_wall)) for key, one, other in SPANS)
    return GuideRoom(
        owned=owned,
        cars=snapshot.home.names,
        under_way=None if found is None else _under_way(found, owned, snapshot.now),
        foreseen=(*foreseen, ("car_test", 0.0, 0.0, from_car(min(1.05, pack.soh), pack.usable_kwh_new))),
    )


def _under_way(found: OpenGuide, owned: OwnedCar, now: datetime) -> UnderWay:
    guide, said, usable_kwh, planned = GUIDES[found.kind], found.said, owned.car.pack.usable_kwh, None
    step = guide.steps[min(found.step, len(guide.steps) - 1)]
    if "plan_from" in said and "plan_to" in said:
        low, high = sorted((float(str(said["plan_from"])), float(str(said["plan_to"]))))
        planned = foresee(usable_kwh, high, low, at_wall=guide.at_wall)
    since = datetime.fromisoformat(str(said["at"])) if "at" in said else found.begun_at
    left = step.wait_h - (now - since) / timedelta(hours=1)
    return UnderWay(at=found, guide=guide, step=step, foreseen=planned, wait_h=max(0.0, left), usable_kwh=usable_kwh)


def start(household: Household, now: datetime, car_id: int, kind: str, words: str, *, seen_revision: int) -> int:
    """Begin a guide; one that was under way goes on instead. Returns the number to undo it by. Raises: Refusal; Stale."""
    if kind not in GUIDES:
        raise Refusal("There is no such guide.")
    with household.deciding(words, seen_revision) as session:
        car_row(session, car_id)
        begin_guide(session, car_id, kind, now)
    return session.number


@dataclass(frozen=True, kw_only=True)
class Ended:
    """What a guide ended in: its entry, the capacity that it measured, whether the car stopped early (a cell may be weak), and what a trial
    says of the pack.
    """

    entry: Entry
    capacity: Capacity | None
    early: bool
    trial: Trial | None = None


@dataclass(kw_only=True)
class Moved:
    """A step done: the number to undo it by, and what it ended in when it was the last."""

    undo: int = 0
    ended: Ended | None = None


def advance(
    household: Household,
    now: datetime,
    car_id: int,
    *,
    at_step: int,
    values: Said,
    say: Callable[[UnderWay, Ended | None], str],
    seen_revision: int,
) -> Moved:
    """Do the step that a page showed, with what was said there; the last one files it in the log, and plans reckon with what a good or fair
    test says. `say` words it. Raises: Refusal with its field, also when the guide went on elsewhere; Stale.
    """
    moved = Moved()
    with household.deciding("", seen_revision) as session:
        state = household.as_decided(session, now)
        owned, found = state.home.car(car_id), _open(state, car_id, at_step)
        before = _under_way(found, owned, now)
        said = {**found.said, **values, "at": now.isoformat()}
        _check_said(found.kind, said)
        if found.step + 1 < len(before.guide.steps):
            move_guide(session, car_id, said=said, step=found.step + 1)
        else:
            move_guide(session, car_id, said=said, step=len(before.guide.steps), ended_at=now)
            moved.ended = _end(household, state, owned, before.guide.ends(owned, said, now))
            moved.ended = replace(moved.ended, trial=before.guide.tells(said))
            if moved.ended.trial is not None:
                write_part(session, "car", car_id, moved.ended.trial.columns)
        session.words = say(before, moved.ended)
    moved.undo = session.number
    return moved


def _check_said(kind: str, said: Said) -> None:
    """What was said so far must go together. Raises: Refusal with its field."""
    if "plan_from" in said and abs(said["plan_from"] - said["plan_to"]) < 0.05:
        raise Refusal("The two levels must lie at least 5 % apart.", "plan_to")
    if "plan_from" in said and (said["plan_from"] > said["plan_to"]) is GUIDES[kind].at_wall:
        raise Refusal("A drive goes down, a charge up: put the levels the other way round.", "plan_to")


def _end(household: Household, state: Snapshot, owned: OwnedCar, entry: Entry) -> Ended:
    """File what a guide ended in."""
    check(entry.kind, entry.values)
    write_entry(state.log, entry, state.now)
    if entry.kind != "capacity_test":
        return Ended(entry=entry, capacity=None, early=False)
    new_kwh = owned.car.pack.usable_kwh_new
    measured = CapacityTest(id=0, **entry.values).measured(owned.car)
    if not 0.4 <= measured.kwh / new_kwh <= 1.2:
        raise Refusal(f"That would be {measured.kwh:.1f} kWh of {new_kwh:.0f} when new: check energy and levels.", "kwh")
    if measured.worth in (Worth.GOOD, Worth.FAIR):
        set_health(household.as_decided(state.log, state.now), owned.id)
    early = bool(entry.values.get("stopped")) and float(entry.values["soc_to"]) > EARLY_SOC
    return Ended(entry=entry, capacity=measured, early=early)


def back(household: Household, car_id: int, at_step: int, words: str, seen_revision: int) -> int:
    """One step back, what was said stays said; returns the number to undo it by. Raises: Refusal; Stale."""
    with household.deciding(words, seen_revision) as session:
        found = _open(household.as_decided(session), car_id, at_step)
        move_guide(session, car_id, step=max(0, found.step - 1))
    return session.number


def drop(household: Household, car_id: int, words: str, seen_revision: int) -> int:
    """Leave a guide; nothing is filed. Returns the number to undo it by. Raises: Refusal; Stale."""
    with household.deciding(words, seen_revision) as session:
        _open(household.as_decided(session), car_id, None)
        drop_guide(session, car_id)
    return session.number


def _open(state: Snapshot, car_id: int, at_step: int | None) -> OpenGuide:
    found = open_guide(state.log, car_id)
    if found is None or at_step not in (None, found.step):
        raise Refusal("This guide went on elsewhere: see where it is now.")
    return found
