"""How the simulated point speaks: the same few things in both versions of the protocol."""

from collections.abc import Iterable, Mapping
from datetime import UTC, datetime, timedelta
from typing import Any, Protocol

from ocpp.routing import on
from ocpp.v16 import ChargePoint as ChargePoint16
from ocpp.v16 import call as call16
from ocpp.v16 import call_result as result16
from ocpp.v16.enums import Action as Action16
from ocpp.v201 import ChargePoint as ChargePoint201
from ocpp.v201 import call as call201
from ocpp.v201 import call_result as result201
from ocpp.v201.enums import Action as Action201

from ...core.live.heard import Socket
from ...core.live.profile import Profile
from .garage import Garage

STATUS_16 = {
    Socket.FREE: "Available", Socket.HOLDS: "Preparing", Socket.OFFERS: "SuspendedEV", Socket.CHARGES: "Charging"
}  # fmt: skip
STATE_201 = {Socket.HOLDS: "SuspendedEVSE", Socket.OFFERS: "SuspendedEV", Socket.CHARGES: "Charging"}
ACCEPTED: Any = {"status": "Accepted"}


class Owner(Protocol):
    """Whose voice it is: the client, with what it can be asked for."""

    garage: Garage
    wanted: set[str]

    def begin(self) -> None:
        """A charge was asked for from afar."""

    def end(self) -> None:
        """Its end was asked for from afar."""


class Speaker(Protocol):
    """What the client has to say, in whatever version."""

    async def boot(self) -> datetime:
        """It starts anew; returns the time that it is told."""

    async def beat(self) -> datetime:
        """It is there; returns the time that it is told."""

    async def tell(self, socket: Socket, number: str) -> None:
        """How it stands, with a charge under way or not ("")."""

    async def begun(self, at: datetime, kwh: float, tag: str, number: str) -> str:
        """A charge begins; returns its number."""

    async def counted(self, at: datetime, kwh: float, number: str) -> None:
        """What its meter shows."""

    async def over(self, at: datetime, kwh: float, number: str, reason: str) -> None:
        """A charge is over."""

    async def start(self) -> None:
        """Listen until the line is closed."""


def stamp(at: datetime) -> str:
    """A moment as the protocol writes it."""
    return at.astimezone(UTC).isoformat(timespec="milliseconds").replace("+00:00", "Z")


def moment(told: str) -> datetime:
    """And read."""
    return datetime.fromisoformat(told)


def samples(garage: Garage, kwh: float, numbers: bool) -> list[dict[str, Any]]:
    """What the meter shows: register, power, current of one phase, and the level where the car tells it."""
    rate = None if garage.house is None else garage.house.request.rate
    amps = 0.0 if rate is None else garage.kw / rate.wall_kw * rate.amps
    found = [
        ("Energy.Active.Import.Register", round(1000 * kwh), "Wh"), ("Power.Active.Import", round(1000 * garage.kw), "W"),
        ("Current.Import", round(amps, 1), "A"),
    ]  # fmt: skip
    if garage.soc is not None:
        found.append(("SoC", round(100 * garage.soc, 1), "Percent"))
    if numbers:
        return [
            {"value": value, "measurand": what, "unitOfMeasure": {"unit": unit}, "context": "Sample.Periodic"}
            for what, value, unit in found
        ]
    return [{"value": str(value), "measurand": what, "unit": unit, "context": "Sample.Periodic"} for what, value, unit in found]


def profile_of(told: Mapping[str, Any], schedule: Mapping[str, Any]) -> Profile:
    """A profile that was asked for."""
    start = moment(str(schedule.get("start_schedule") or told.get("valid_from")))
    periods: Iterable[Mapping[str, Any]] = schedule["charging_schedule_period"]
    return Profile(tuple((start + timedelta(seconds=each["start_period"]), float(each["limit"])) for each in periods))


def keep(garage: Garage, told: Mapping[str, Any], schedule: Mapping[str, Any]) -> None:
    """A profile is left in it; power that comes back wakes a car."""
    gave = garage.gives
    if told["charging_profile_purpose"] == "TxProfile":
        garage.running = profile_of(told, schedule)
    else:
        garage.default = profile_of(told, schedule)
    if garage.house is not None and garage.gives and not gave:
        garage.house.wake()


class Speaker16(ChargePoint16):  # type: ignore[misc]
    """1.6."""

    def __init__(self, owner: Owner, name: str, line: Any) -> None:
        super().__init__(name, line, 20)
        self.owner, self.garage = owner, owner.garage
        self.logger.disabled = True

    async def boot(self) -> datetime:
        """See `Speaker`."""
        return moment((await self.call(call16.BootNotification("Stand-in", "Frost Tally"))).current_time)

    async def beat(self) -> datetime:
        """See `Speaker`."""
        return moment((await self.call(call16.Heartbeat())).current_time)

    async def tell(self, socket: Socket, number: str) -> None:
        """See `Speaker`."""
        status: Any = "SuspendedEVSE" if number and socket is Socket.HOLDS else STATUS_16[socket]
        await self.call(call16.StatusNotification(1, "NoError", status, stamp(self.garage.now)))

    async def begun(self, at: datetime, kwh: float, tag: str, number: str) -> str:
        """See `Speaker`."""
        told = await self.call(call16.StartTransaction(1, tag[:20] or "none", round(1000 * kwh), stamp(at)))
        return str(told.transaction_id)

    async def counted(self, at: datetime, kwh: float, number: str) -> None:
        """See `Speaker`."""
        value = [{"timestamp": stamp(at), "sampled_value": samples(self.garage, kwh, False)}]
        await self.call(call16.MeterValues(1, value, int(number) if number else None))

    async def over(self, at: datetime, kwh: float, number: str, reason: str) -> None:
        """See `Speaker`."""
        await self.call(call16.StopTransaction(round(1000 * kwh), stamp(at), int(number), reason))

    @on(Action16.set_charging_profile)
    async def profile(self, connector_id: int, cs_charging_profiles: Mapping[str, Any]) -> Any:
        """A profile is left."""
        keep(self.garage, cs_charging_profiles, cs_charging_profiles["charging_schedule"])
        return result16.SetChargingProfile("Accepted")

    @on(Action16.clear_charging_profile)
    async def clear(self, **told: Any) -> Any:
        """Profiles are taken away."""
        self.garage.default = self.garage.running = None
        return result16.ClearChargingProfile("Accepted")

    @on(Action16.change_configuration)
    async def configure(self, key: str, value: str) -> Any:
        """Nothing of it is needed: it tells each minute as it is."""
        return result16.ChangeConfiguration("Accepted")

    @on(Action16.trigger_message)
    async def trigger(self, requested_message: str, **told: Any) -> Any:
        """Something is to be said soon."""
        self.owner.wanted.add(requested_message)
        return result16.TriggerMessage("Accepted")

    @on(Action16.remote_start_transaction)
    async def from_afar(self, **told: Any) -> Any:
        """A charge may begin."""
        self.owner.begin()
        return result16.RemoteStartTransaction("Accepted")

    @on(Action16.remote_stop_transaction)
    async def halt(self, **told: Any) -> Any:
        """A charge has to end."""
        self.owner.end()
        return result16.RemoteStopTransaction("Accepted")


class Speaker201(ChargePoint201):  # type: ignore[misc]
    """2.0.1."""

    def __init__(self, owner: Owner, name: str, line: Any) -> None:
        super().__init__(name, line, 20)
        self.owner, self.garage, self.sequence = owner, owner.garage, 0
        self.logger.disabled = True

    async def boot(self) -> datetime:
        """See `Speaker`."""
        station: Any = {"model": "Stand-in", "vendorName": "Frost Tally"}
        return moment((await self.call(call201.BootNotification(station, "PowerUp"))).current_time)

    async def beat(self) -> datetime:
        """See `Speaker`."""
        return moment((await self.call(call201.Heartbeat())).current_time)

    async def tell(self, socket: Socket, number: str) -> None:
        """See `Speaker`."""
        status: Any = "Available" if socket is Socket.FREE else "Occupied"
        await self.call(call201.StatusNotification(stamp(self.garage.now), status, 1, 1))
        if number:
            await self._event("Updated", self.garage.now, number, socket=socket, why="ChargingStateChanged")

    async def begun(self, at: datetime, kwh: float, tag: str, number: str) -> str:
        """See `Speaker`."""
        await self._event("Started", at, number, socket=Socket.HOLDS, why="CablePluggedIn", kwh=kwh, tag=tag)
        return number

    async def counted(self, at: datetime, kwh: float, number: str) -> None:
        """See `Speaker`."""
        if not number:
            value: Any = [{"timestamp": stamp(at), "sampledValue": samples(self.garage, kwh, True)}]
            await self.call(call201.MeterValues(1, value))
            return
        socket = self.garage.socket(True)
        await self._event("Updated", at, number, socket=socket, why="MeterValuePeriodic", kwh=kwh)

    async def over(self, at: datetime, kwh: float, number: str, reason: str) -> None:
        """See `Speaker`."""
        await self._event("Ended", at, number, socket=None, why="EVDeparted", kwh=kwh, reason=reason)

    async def _event(
        self, kind: str, at: datetime, number: str, *, socket: Socket | None, why: str,
        kwh: float | None = None, tag: str = "", reason: str = "",
    ) -> None:  # fmt: skip
        info: Any = {"transactionId": number}
        if socket in STATE_201:
            info["chargingState"] = STATE_201[socket]
        if reason:
            info["stoppedReason"] = reason
        values: Any = None if kwh is None else [{"timestamp": stamp(at), "sampledValue": samples(self.garage, kwh, True)}]
        token: Any = {"idToken": tag, "type": "Central"} if tag else None
        self.sequence += 1
        evse: Any = {"id": 1, "connectorId": 1}
        await self.call(
            call201.TransactionEvent(
                kind, stamp(at), why, self.sequence, info, meter_value=values, evse=evse, id_token=token
            )
        )  # fmt: skip

    @on(Action201.set_charging_profile)
    async def profile(self, evse_id: int, charging_profile: Mapping[str, Any]) -> Any:
        """A profile is left."""
        keep(self.garage, charging_profile, charging_profile["charging_schedule"][0])
        return result201.SetChargingProfile("Accepted")

    @on(Action201.clear_charging_profile)
    async def clear(self, **told: Any) -> Any:
        """Profiles are taken away."""
        self.garage.default = self.garage.running = None
        return result201.ClearChargingProfile("Accepted")

    @on(Action201.set_variables)
    async def configure(self, set_variable_data: list[Mapping[str, Any]], **told: Any) -> Any:
        """Nothing of it is needed: it tells each minute as it is."""
        results: Any = [
            {"attributeStatus": "Accepted", "component": each["component"], "variable": each["variable"]}
            for each in set_variable_data
        ]
        return result201.SetVariables(results)

    @on(Action201.trigger_message)
    async def trigger(self, requested_message: str, **told: Any) -> Any:
        """Something is to be said soon."""
        self.owner.wanted.add(requested_message)
        return result201.TriggerMessage("Accepted")

    @on(Action201.request_start_transaction)
    async def from_afar(self, **told: Any) -> Any:
        """A charge may begin."""
        self.owner.begin()
        return result201.RequestStartTransaction("Accepted")

    @on(Action201.request_stop_transaction)
    async def halt(self, **told: Any) -> Any:
        """A charge has to end."""
        self.owner.end()
        return result201.RequestStopTransaction("Accepted")
