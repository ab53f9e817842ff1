"""A charge point that speaks 2.0.1. Source: OCPP 2.0.1 (2020), part 2: B, C, E, G, J, K."""

from asyncio import to_thread
from collections.abc import Mapping
from typing import Any

from ocpp.routing import on
from ocpp.v201 import ChargePoint, call, call_result
from ocpp.v201.enums import Action

from ...core.live.heard import Sample, Socket
from .meter import moment_of, sample_of
from .talk import HEARTBEAT_S, OUR_TAG, SAMPLED, SAMPLED_EACH_S, Talk

CONNECTORS = {
    "Available": Socket.FREE, "Occupied": Socket.HOLDS, "Reserved": Socket.FREE, "Unavailable": Socket.CLOSED, "Faulted": Socket.FAULT
}  # fmt: skip
STATES = {
    "Charging": Socket.CHARGES, "EVConnected": Socket.HOLDS, "SuspendedEV": Socket.OFFERS, "SuspendedEVSE": Socket.HOLDS,
    "Idle": Socket.FREE,
}  # fmt: skip
ACCEPTED: Any = {"status": "Accepted"}
EVSE: Any = {"id": 1}


class Point201(Talk, ChargePoint):  # type: ignore[misc]
    """See `Talk`."""

    @on(Action.boot_notification)
    async def booted(self, **told: Any) -> call_result.BootNotification:
        """It started anew: it is told the time, and how often to be heard."""
        await self.starts_anew()
        return call_result.BootNotification(self.desk.moment(), HEARTBEAT_S, "Accepted")

    @on(Action.heartbeat)
    async def alive(self, **told: Any) -> call_result.Heartbeat:
        """It is there."""
        return call_result.Heartbeat(self.desk.moment())

    @on(Action.authorize)
    async def authorized(self, **told: Any) -> call_result.Authorize:
        """Whoever stands in this garage may charge: its owner pays."""
        return call_result.Authorize(ACCEPTED)

    @on(Action.status_notification)
    async def stands(self, connector_status: str, evse_id: int, connector_id: int, **told: Any) -> call_result.StatusNotification:
        """How its connector stands; while a charge is under way its events tell more."""
        if evse_id <= 1 and connector_id <= 1:
            await to_thread(self.desk.connects, CONNECTORS.get(connector_status, Socket.FREE))
        return call_result.StatusNotification()

    @on(Action.transaction_event)
    async def passes(
        self, event_type: str, timestamp: str, transaction_info: dict[str, Any], **told: Any
    ) -> call_result.TransactionEvent:
        """A charge begins, goes on, or is over; it is in the log before the point is told that it was heard."""
        now, number = self.desk.now(), str(transaction_info["transaction_id"])
        at = moment_of(timestamp, now)
        sample = sample_of(told.get("meter_value") or (), now) or Sample(at=at)
        tag = str((told.get("id_token") or {}).get("id_token", ""))
        if event_type == "Started":
            await to_thread(self.desk.begins, Sample(**{**vars(sample), "at": at}), number, "" if tag == OUR_TAG else tag)
        elif event_type == "Ended":
            await to_thread(self.desk.ends, Sample(**{**vars(sample), "at": at}), number)
        else:
            await to_thread(self.desk.counts, sample, number)
        if (state := STATES.get(str(transaction_info.get("charging_state")))) is not None and event_type != "Ended":
            await to_thread(self.desk.stands, state, "")
        return call_result.TransactionEvent(id_token_info=ACCEPTED if tag else None)

    @on(Action.meter_values)
    async def counts(self, evse_id: int, meter_value: list[Any], **told: Any) -> call_result.MeterValues:
        """What its meter shows."""
        if evse_id <= 1 and (sample := sample_of(meter_value, self.desk.now())) is not None:
            await to_thread(self.desk.counts, sample, "")
        return call_result.MeterValues()

    @on(Action.notify_event)
    async def notifies(self, **told: Any) -> call_result.NotifyEvent:
        """Heard, and nothing else."""
        return call_result.NotifyEvent()

    @on(Action.security_event_notification)
    async def warns(self, **told: Any) -> call_result.SecurityEventNotification:
        """Heard, and nothing else."""
        return call_result.SecurityEventNotification()

    @on(Action.data_transfer)
    async def passes_on(self, **told: Any) -> call_result.DataTransfer:
        """Something of its maker's own, which nobody here knows."""
        return call_result.DataTransfer("UnknownVendorId")

    @on(Action.firmware_status_notification)
    async def updates(self, **told: Any) -> call_result.FirmwareStatusNotification:
        """Heard, and nothing else."""
        return call_result.FirmwareStatusNotification()

    @on(Action.notify_report)
    async def reports(self, **told: Any) -> call_result.NotifyReport:
        """Heard, and nothing else."""
        return call_result.NotifyReport()

    async def greet(self) -> None:
        """Ask for what is needed to know how it stands, and for its meter each minute."""
        wanted = (
            ("SampledDataCtrlr", "TxUpdatedInterval", str(SAMPLED_EACH_S)), ("SampledDataCtrlr", "TxUpdatedMeasurands", ",".join(SAMPLED)),
            ("OCPPCommCtrlr", "HeartbeatInterval", str(HEARTBEAT_S)),
        )  # fmt: skip
        variables: Any = [
            {"attributeValue": value, "component": {"name": component}, "variable": {"name": variable}}
            for component, variable, value in wanted
        ]
        await self.tried(call.SetVariables(variables))
        await self.tried(call.TriggerMessage("StatusNotification", {**EVSE, "connectorId": 1}))
        await self.tried(call.TriggerMessage("TransactionEvent", EVSE))
        await to_thread(self.desk.greeted)

    def setting(self, request: Mapping[str, Any]) -> Any:
        """See `Talk`."""
        return call.SetChargingProfile(request["evseId"], request["chargingProfile"])

    async def let_begin(self) -> bool:
        """See `Talk`."""
        return await self.accepted(
            call.RequestStartTransaction({"idToken": OUR_TAG, "type": "Central"}, self.desk.number_of(self.desk.now()), 1)
        )

    async def let_end(self, transaction: str) -> bool:
        """See `Talk`."""
        return await self.accepted(call.RequestStopTransaction(transaction))
