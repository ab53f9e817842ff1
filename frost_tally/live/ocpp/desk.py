"""Between the protocol's edge and who listens: what a point says, and a schedule that it is asked for. Knows no library of the protocol."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any, Protocol

from ...core.live.heard import Sample, Socket
from ...formats.charging_profile import Drawn, NightProfile, profile_request

EPOCH = datetime(2020, 1, 1, tzinfo=UTC)
"""Charges are numbered by their seconds since then."""
LONGEST = timedelta(days=2)
"""A schedule holds so long."""


class Desk(Protocol):
    """Who is told what one point says. All but `now`, `moment` and `number_of` may take as long as a write to the store takes."""

    identity: str

    def now(self) -> datetime:
        """The present moment of this home."""

    def moment(self) -> str:
        """The same as the protocol writes it."""

    def number_of(self, at: datetime) -> int:
        """The number of a charge that begins at a moment."""

    def booted(self) -> None:
        """It started anew."""

    def greeted(self) -> None:
        """It was asked for what is needed: from now on it can be asked for more."""

    def stands(self, socket: Socket, fault: str) -> None:
        """How it stands."""

    def connects(self, socket: Socket) -> None:
        """How its connector stands, where it tells of a charge by itself."""

    def begins(self, sample: Sample, transaction: str, tag: str) -> None:
        """A charge begins."""

    def counts(self, sample: Sample, transaction: str) -> None:
        """Its meter tells, of a charge that is under way ("": of none)."""

    def ends(self, sample: Sample, transaction: str) -> None:
        """A charge is over."""


@dataclass(frozen=True, kw_only=True)
class Schedule:
    """Amperes by time from `begin` on (aware), on so many phases: what counts from each moment."""

    begin: datetime
    phases: int
    periods: Sequence[tuple[datetime, float]]

    def profile(self, version: str, transaction: str) -> Mapping[str, Any]:
        """The request that asks for it: as a default, or of a charge that is under way."""
        ends = [at for at, _ in self.periods[1:]] + [self.begin + LONGEST]
        drawn = [
            Drawn(begin=begin, end=end, amps=amps) for (begin, amps), end in zip(self.periods, ends, strict=False) if amps > 0
        ]
        night = NightProfile(begin=self.begin, end=self.begin + LONGEST, phases=self.phases, drawn=drawn)
        return profile_request(night, version, transaction)
