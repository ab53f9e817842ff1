"""What a charge point told last, as one value that each message moves on: whether a cable is in, what flows, what was counted."""

from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from enum import StrEnum


class Socket(StrEnum):
    """How a point stands: free; a cable is in and the point gives nothing; it gives and the car draws nothing; the car draws; it has a
    fault; it is out of service.
    """

    FREE = "free"
    HOLDS = "holds"
    OFFERS = "offers"
    CHARGES = "charges"
    FAULT = "fault"
    CLOSED = "closed"


IN_USE = frozenset((Socket.HOLDS, Socket.OFFERS, Socket.CHARGES))
SLIP_KWH = 500.0
"""A register that leaps further between two readings is another one."""


@dataclass(frozen=True, kw_only=True)
class Sample:
    """What a meter showed at a moment (aware); None: it said nothing of it. `soc` 0 to 1 where the car tells it."""

    at: datetime
    register_kwh: float | None = None
    kw: float | None = None
    amps: float | None = None
    soc: float | None = None


@dataclass(frozen=True, kw_only=True)
class Counted:
    """A charge that a point counted from plugging in to its end: kWh at the wall, and levels (0 to 1) where the car told them."""

    begun: datetime
    ended: datetime
    wall_kwh: float
    soc_start: float | None
    soc_end: float | None


@dataclass(frozen=True, kw_only=True)
class Heard:
    """A point as it was heard last, at `at` (aware). `kwh` is what it counted since it is known, and never falls; `register_kwh` is its
    own register, read last at `metered_at`. `transaction` is the number of the charge that is under way ("": none), with when and at
    which register and level it began.
    """

    at: datetime
    socket: Socket = Socket.FREE
    plugged: bool = False
    fault: str = ""
    tag: str = ""
    transaction: str = ""
    begun: datetime | None = None
    begun_kwh: float = 0.0
    begun_soc: float | None = None
    register_kwh: float | None = None
    metered_at: datetime | None = None
    kwh: float = 0.0
    kw: float = 0.0
    amps: float = 0.0
    soc: float | None = None

    def stands(self, at: datetime, socket: Socket, fault: str = "") -> "Heard":
        """It says how it stands; a fault leaves the cable where it was."""
        plugged = self.plugged if socket in (Socket.FAULT, Socket.CLOSED) else socket in IN_USE
        flows = {} if socket is Socket.CHARGES else {"kw": 0.0, "amps": 0.0}
        gone = {} if plugged else {"soc": None, "tag": ""}
        return replace(self, at=at, socket=socket, plugged=plugged, fault=fault, **flows, **gone)  # type: ignore[arg-type]

    def begins(self, at: datetime, sample: Sample, transaction: str, tag: str) -> "Heard":
        """A charge begins; told twice it is the same."""
        if self.transaction == transaction:
            return replace(self.metered(at, sample), tag=tag or self.tag)
        counted = self.metered(at, sample)
        socket = self.socket if self.socket in IN_USE else Socket.HOLDS
        return replace(
            counted, socket=socket, plugged=True, tag=tag, transaction=transaction, begun=sample.at, begun_kwh=counted.kwh,
            begun_soc=sample.soc,
        )  # fmt: skip

    def metered(self, at: datetime, sample: Sample) -> "Heard":
        """Its meter tells: what its register rose by is counted, and one that fell begins anew."""
        register, before = sample.register_kwh, self.register_kwh
        rose = 0.0 if register is None or before is None else register - before
        kw = self.kw if sample.kw is None else sample.kw
        if sample.kw is None and rose >= 0.0 and self.metered_at is not None and sample.at > self.metered_at:
            kw = min(rose, SLIP_KWH) / ((sample.at - self.metered_at) / timedelta(hours=1))  # it tells energy alone
        return replace(
            self,
            at=at,
            register_kwh=before if register is None else register,
            metered_at=self.metered_at if register is None else sample.at,
            kwh=self.kwh + (rose if 0.0 <= rose <= SLIP_KWH else 0.0),
            kw=kw,
            amps=sample.amps if sample.amps is not None else self.amps if kw else 0.0,
            soc=self.soc if sample.soc is None else sample.soc,
            begun_soc=self.begun_soc if self.begun_soc is not None or not self.transaction else sample.soc,
        )

    def ends(self, at: datetime, sample: Sample, transaction: str) -> tuple["Heard", Counted | None]:
        """The charge is over; what it came to, None for one that is not known any more."""
        counted = self.metered(at, sample)
        if not self.transaction or self.transaction != transaction or self.begun is None:
            return counted, None
        found = Counted(
            begun=self.begun,
            ended=max(self.begun, sample.at),
            wall_kwh=max(0.0, counted.kwh - self.begun_kwh),
            soc_start=self.begun_soc,
            soc_end=counted.soc,
        )
        return replace(counted, transaction="", begun=None, begun_soc=None, kw=0.0, amps=0.0), found
