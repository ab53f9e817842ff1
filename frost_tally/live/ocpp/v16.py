"""A charge point that speaks 1.6. Source: OCPP 1.6 edition 2 (2017), 4 and 5; 3.13 for charging profiles."""

from asyncio import to_thread
from collections.abc import Mapping
from typing import Any

from ocpp.routing import on
from ocpp.v16 import ChargePoint, call, call_result
from ocpp.v16.enums import Action

from ...core.live.heard import Sample, Socket
from .meter import moment_of, sample_of
from .talk import HEARTBEAT_S, OUR_TAG, SAMPLED, SAMPLED_EACH_S, Talk

SOCKETS = {
    "Available": Socket.FREE, "Preparing": Socket.HOLDS, "Charging": Socket.CHARGES, "SuspendedEV": Socket.OFFERS,
    "SuspendedEVSE": Socket.HOLDS, "Finishing": Socket.HOLDS, "Reserved": Socket.FREE, "Unavailable": Socket.CLOSED,
    "Faulted": Socket.FAULT,
}  # fmt: skip
ACCEPTED: Any = {"status": "Accepted"}


class Point16(Talk, ChargePoint):  # type: ignore[misc]
    """See `Talk`."""

    @on(Action.boot_notification)
    async def booted(self, **told: Any) -> call_result.BootNotification:
        """It started anew: it is told the time, and how often to be heard."""
        await self.starts_anew()
        return call_result.BootNotification(self.desk.moment(), HEARTBEAT_S, "Accepted")

    @on(Action.heartbeat)
    async def alive(self) -> call_result.Heartbeat:
        """It is there."""
        return call_result.Heartbeat(self.desk.moment())

    @on(Action.authorize)
    async def authorized(self, id_tag: str) -> call_result.Authorize:
        """Whoever stands in this garage may charge: its owner pays."""
        return call_result.Authorize(ACCEPTED)

    @on(Action.status_notification)
    async def stands(self, connector_id: int, error_code: str, status: str, **told: Any) -> call_result.StatusNotification:
        """How its connector stands, or the whole of it where that is closed or has a fault."""
        socket = SOCKETS.get(status, Socket.FREE)
        if connector_id == 1 or (connector_id == 0 and socket in (Socket.FAULT, Socket.CLOSED)):
            fault = "" if error_code == "NoError" else error_code
            await to_thread(self.desk.stands, socket, fault if socket is Socket.FAULT or fault else "")
        return call_result.StatusNotification()

    @on(Action.start_transaction)
    async def begins(
        self, connector_id: int, id_tag: str, meter_start: int, timestamp: str, **told: Any
    ) -> call_result.StartTransaction:
        """A charge begins: its number is its moment, so that one that is told twice is one."""
        at = moment_of(timestamp, self.desk.now())
        number = self.desk.number_of(at)
        sample = Sample(at=at, register_kwh=max(0, meter_start) / 1000.0)
        await to_thread(self.desk.begins, sample, str(number), "" if id_tag == OUR_TAG else id_tag)
        return call_result.StartTransaction(number, ACCEPTED)

    @on(Action.stop_transaction)
    async def ends(self, meter_stop: int, timestamp: str, transaction_id: int, **told: Any) -> call_result.StopTransaction:
        """A charge is over; it is in the log before the point is told that it was heard."""
        at = moment_of(timestamp, self.desk.now())
        last = sample_of(told.get("transaction_data") or (), self.desk.now())
        sample = Sample(at=at, register_kwh=max(0, meter_stop) / 1000.0, soc=last.soc if last else None)
        await to_thread(self.desk.ends, sample, str(transaction_id))
        return call_result.StopTransaction(ACCEPTED)

    @on(Action.meter_values)
    async def counts(self, connector_id: int, meter_value: list[Any], **told: Any) -> call_result.MeterValues:
        """What its meter shows."""
        if connector_id <= 1 and (sample := sample_of(meter_value, self.desk.now())) is not None:
            number = told.get("transaction_id")
            await to_thread(self.desk.counts, sample, "" if number is None else str(number))
        return call_result.MeterValues()

    @on(Action.data_transfer)
    async def passes_on(self, vendor_id: str, **told: Any) -> call_result.DataTransfer:
        """Something of its maker's own, which nobody here knows."""
        return call_result.DataTransfer("UnknownVendorId")

    @on(Action.diagnostics_status_notification)
    async def diagnoses(self, **told: Any) -> call_result.DiagnosticsStatusNotification:
        """Heard, and nothing else."""
        return call_result.DiagnosticsStatusNotification()

    @on(Action.firmware_status_notification)
    async def updates(self, **told: Any) -> call_result.FirmwareStatusNotification:
        """Heard, and nothing else."""
        return call_result.FirmwareStatusNotification()

    async def greet(self) -> None:
        """Ask for what is needed to know how it stands, and for its meter each minute."""
        for key, value in (
            ("MeterValueSampleInterval", str(SAMPLED_EACH_S)), ("MeterValuesSampledData", ",".join(SAMPLED)),
            ("HeartbeatInterval", str(HEARTBEAT_S)),
        ):  # fmt: skip
            await self.tried(call.ChangeConfiguration(key, value))
        for message in ("StatusNotification", "MeterValues"):
            await self.tried(call.TriggerMessage(message, 1))
        await to_thread(self.desk.greeted)

    def setting(self, request: Mapping[str, Any]) -> Any:
        """See `Talk`."""
        return call.SetChargingProfile(request["connectorId"], request["csChargingProfiles"])

    async def let_begin(self) -> bool:
        """See `Talk`."""
        return await self.accepted(call.RemoteStartTransaction(OUR_TAG, 1))

    async def let_end(self, transaction: str) -> bool:
        """See `Talk`."""
        return await self.accepted(call.RemoteStopTransaction(int(transaction)))
