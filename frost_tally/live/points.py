"""The charge points of this home as they are heard: what each told last, who is connected, and who knocked in vain.

Messages come on threads of the protocol's edge, the runner looks from one of its own: whatever both touch is under one lock.
"""

import asyncio
import threading
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from typing import TYPE_CHECKING

from ..access.door import Access, Purpose
from ..access.knocks import Knocks
from ..access.throttle import Throttle, TooManyTries
from ..core.home import Home
from ..core.live.heard import IN_USE, Counted, Heard, Sample, Socket
from ..core.parts import Outlet
from ..household import points as store
from ..household.points import Report
from ..household.unit_of_work import Household
from .ocpp.desk import EPOCH

if TYPE_CHECKING:  # the library of the protocol is loaded with the first point that is let in
    from .ocpp.talk import Talk


@dataclass(kw_only=True)
class Place:
    """An outlet's point: what it told last and of which car (None: nobody has said yet), who speaks for it (None: nobody is connected), and
    whether it can be asked for something. `added` is what that car got of it since it is known (shares of its pack), `level` its level
    as the runner reckons. `boots` is how often it started anew, `token_id` the password that it was let in with.
    """

    outlet: Outlet
    heard: Heard
    car_id: int | None = None
    added: float = 0.0
    level: float | None = None
    talk: "Talk | None" = None
    token_id: int = 0
    ready: bool = False
    boots: int = 0

    def report(self, now: datetime) -> Report:
        """What is so by now, to write down."""
        heard = replace(self.heard, at=now) if self.talk is not None else self.heard
        return Report(at=now, car_id=self.car_id, online=self.talk is not None, heard=heard, added=self.added, level=self.level)


class Points:
    """All of them, by the names that they are known by. `changed` is set whenever one of them told something new."""

    def __init__(self, household: Household, access: Callable[[], Access], knocks: Knocks) -> None:
        self.household, self.access, self.knocks = household, access, knocks
        self.lock, self.changed = threading.RLock(), threading.Event()
        self.throttle = Throttle(lambda: datetime.now(UTC))
        self._places = dict[str, Place]()
        self.loop: asyncio.AbstractEventLoop | None = None
        self.on_end: Callable[[Place], int | None] = lambda place: place.car_id

    def now(self) -> datetime:
        """The present moment of this home."""
        return self.household.world.clock.now().astimezone(UTC)

    def admit(self, identity: str, password: str, address: str) -> int | str:
        """The number of the password of a point of this home that knows it; for anybody else why it is not let in."""
        key = f"point {identity[:60]} {address}"
        try:
            self.throttle.check(key)
        except TooManyTries:
            return self._knocked(identity, address, "tries")
        with self.household.reading() as snapshot:
            known = identity in _named(snapshot.home)
        token = self.access().token(password[:80]) if known and password else None
        if token is None or token.purpose is not Purpose.POINT or token.name != identity:
            return self._knocked(identity, address, "password" if known else "unknown")
        self.throttle.forget(key)
        self.knocks.forget(identity)
        return token.id

    def is_let_in(self, place: Place) -> bool:
        """Whether the password that a connected point came with still lets in."""
        return any(each.id == place.token_id for each in self.access().tokens())

    def _knocked(self, identity: str, address: str, why: str) -> str:
        self.knocks.add(identity, address, why, datetime.now(UTC))
        return why

    def place(self, outlet: Outlet) -> Place:
        """An outlet's point, as it was heard last: also before this server began."""
        with self.lock:
            found = self._places.get(outlet.point)
            if found is None or found.outlet.id != outlet.id:
                with self.household.reading() as snapshot:
                    last = store.last_report(snapshot.log, outlet.id)
                last = last or Report(at=self.now(), car_id=None, online=False, heard=Heard(at=self.now()))
                more = {"car_id": last.car_id, "added": last.added, "level": last.level}
                found = self._places[outlet.point] = Place(outlet=outlet, heard=last.heard, **more)  # type: ignore[arg-type]
            found.outlet = outlet
            return found

    def named(self, identity: str) -> Place | None:
        """The point of a name; None where no outlet has it any more."""
        with self.lock, self.household.reading() as snapshot:
            outlet = _named(snapshot.home).get(identity)
        return None if outlet is None else self.place(outlet)


def _named(home: Home) -> dict[str, Outlet]:
    return {each.point: each for each in home.outlets if each.point}


class PointDesk:
    """Where one connected point is listened to: see `ocpp.desk.Desk`."""

    def __init__(self, points: Points, identity: str, token_id: int) -> None:
        self.points, self.identity, self.token_id = points, identity, token_id
        self.talk: Talk | None = None

    def now(self) -> datetime:
        """See `Desk`."""
        return self.points.now()

    def moment(self) -> str:
        """See `Desk`."""
        return self.now().isoformat(timespec="seconds").replace("+00:00", "Z")

    def number_of(self, at: datetime) -> int:
        """See `Desk`: seconds since 2020, which any point can hold."""
        return max(1, round((at - EPOCH).total_seconds()))

    def connected(self, talk: "Talk") -> None:
        """From now on this is its voice; one that spoke before is not listened to any more."""
        self.talk = talk
        with self._at() as place:
            place.talk, place.ready, place.token_id = talk, False, self.token_id

    def gone(self) -> None:
        """Its line is closed."""
        with self._at() as place:
            if place.talk is self.talk:
                place.talk, place.ready = None, False

    def booted(self) -> None:
        """See `Desk`."""
        with self._at() as place:
            place.ready, place.boots = False, place.boots + 1

    def greeted(self) -> None:
        """See `Desk`."""
        with self._at() as place:
            place.ready = place.talk is self.talk

    def stands(self, socket: Socket, fault: str) -> None:
        """See `Desk`."""
        self._moved(lambda heard, now: heard.stands(now, socket, fault))

    def connects(self, socket: Socket) -> None:
        """See `Desk`: "occupied" says less than the events of a charge that is under way."""

        def moved(heard: Heard, now: datetime) -> Heard:
            known = socket is Socket.HOLDS and heard.transaction and heard.socket in IN_USE
            return heard.stands(now, heard.socket if known else socket)

        self._moved(moved)

    def begins(self, sample: Sample, transaction: str, tag: str) -> None:
        """See `Desk`."""
        self._moved(lambda heard, now: heard.begins(now, sample, transaction, tag), at_once=True)

    def counts(self, sample: Sample, transaction: str) -> None:
        """See `Desk`: a charge that began while nobody listened is taken on from here."""

        def moved(heard: Heard, now: datetime) -> Heard:
            unknown = transaction and heard.transaction != transaction
            return heard.begins(now, sample, transaction, heard.tag) if unknown else heard.metered(now, sample)

        self._moved(moved)

    def ends(self, sample: Sample, transaction: str) -> None:
        """See `Desk`."""
        with self._at() as place:
            place.heard, counted = place.heard.ends(self.now(), sample, transaction)
            self._write(place, counted)

    def _moved(self, move: Callable[[Heard, datetime], Heard], at_once: bool = False) -> None:
        with self._at() as place:
            before, place.heard = place.heard, move(place.heard, self.now())
            if before.plugged and not place.heard.plugged:
                self._write(place, None)
                place.car_id = None
            elif at_once:
                self._write(place, None)

    def _write(self, place: Place, counted: Counted | None) -> None:
        """What must not be lost is in the store before the point hears that it was heard."""
        car_id = self.points.on_end(place) if counted is not None else place.car_id
        with self.points.household.recording() as session:
            if counted is not None and car_id is not None:
                store.log_charge(session, place.outlet.id, car_id, counted)
            store.write_report(session, place.outlet.id, place.report(self.now()))

    def _at(self) -> "_Held":
        return _Held(self.points, self.identity)


class _Held:
    """A place under the lock; one whose outlet lost its point is moved on for nobody. What was told wakes the runner."""

    def __init__(self, points: Points, identity: str) -> None:
        self.points, self.identity = points, identity

    def __enter__(self) -> Place:
        self.points.lock.acquire()
        place = self.points.named(self.identity)
        if place is None:
            self.points.lock.release()
            raise ConnectionError("no outlet has this point any more")
        return place

    def __exit__(self, *problem: object) -> None:
        self.points.lock.release()
        self.points.changed.set()
