"""A night's plan as a charging profile of the open charge point protocol: the request SetChargingProfile, 1.6 and 2.0.1 (JSON).

Open Charge Alliance, OCPP 1.6 edition 2 (2017), 5.16 and 7.8–7.13; OCPP 2.0.1 (2020), K01 and 1.66. Limits are amperes per phase: 0, or 6
and more (IEC 61851-1).
"""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

LEAST_A = 6.0
PROFILE, CONNECTOR = 1, 1
V16, V201 = "1.6", "2.0.1"


@dataclass(frozen=True, kw_only=True)
class Drawn:
    """A stretch of drawing: from, until (aware), amperes per phase."""

    begin: datetime
    end: datetime
    amps: float


@dataclass(frozen=True, kw_only=True)
class NightProfile:
    """A night: when it is plugged in and when it leaves (aware), phases, and the stretches in which it draws."""

    begin: datetime
    end: datetime
    phases: int
    drawn: Sequence[Drawn]


def periods(night: NightProfile) -> list[dict[str, Any]]:
    """The periods of a schedule from its start on: seconds, amperes to a tenth, phases; neighbours of one limit are one."""
    edges = [(night.begin, 0.0)]
    for each in sorted(night.drawn, key=lambda drawn: drawn.begin):
        begin, end = max(each.begin, night.begin), min(each.end, night.end)
        if begin < end:
            edges += [(begin, each.amps), (end, 0.0)]
    found: list[dict[str, Any]] = []
    for at, amps in edges:
        limit = round(amps, 1) if amps >= LEAST_A - 0.05 else 0.0
        start = round((at - night.begin).total_seconds())
        if found and found[-1]["startPeriod"] == start:
            found.pop()
        if not found or found[-1]["limit"] != limit:
            found.append({"startPeriod": start, "limit": limit, "numberPhases": night.phases})
    return found


def _moment(at: datetime) -> str:
    return at.astimezone(UTC).isoformat(timespec="seconds").replace("+00:00", "Z")


def write_profile(night: NightProfile, version: str) -> str:
    """The request as JSON text; the profile holds until departure, whoever starts the transaction."""
    return json.dumps(profile_request(night, version), indent=1) + "\n"


def profile_request(night: NightProfile, version: str, transaction: str = "") -> dict[str, Any]:
    """The request: a default for whatever charge there will be, or above it the profile of one that is under way."""
    schedule: dict[str, Any] = {
        "duration": round((night.end - night.begin).total_seconds()),
        "startSchedule": _moment(night.begin),
        "chargingRateUnit": "A",
        "chargingSchedulePeriod": periods(night),
    }
    shared = {
        "stackLevel": int(bool(transaction)), "chargingProfilePurpose": "TxProfile" if transaction else "TxDefaultProfile",
        "chargingProfileKind": "Absolute", "validFrom": _moment(night.begin), "validTo": _moment(night.end),
    }  # fmt: skip
    number = PROFILE + bool(transaction)
    if version == V16:
        of = {"transactionId": int(transaction)} if transaction else {}
        profile = {"chargingProfileId": number, **of, **shared, "chargingSchedule": schedule}
        return {"connectorId": CONNECTOR, "csChargingProfiles": profile}
    of_201 = {"transactionId": transaction} if transaction else {}
    profile_201: dict[str, Any] = {"id": number, **of_201, **shared, "chargingSchedule": [{"id": number, **schedule}]}
    return {"evseId": CONNECTOR, "chargingProfile": profile_201}


def plan_rows(night: NightProfile) -> list[list[object]]:
    """The same as rows: from, until (UTC), amperes, phases."""
    return [[_moment(each.begin), _moment(each.end), round(each.amps, 1), night.phases] for each in night.drawn]
