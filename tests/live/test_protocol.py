"""The edge of the protocol: every message by its published schema, who is let in, and what becomes of what is no protocol.

Sources: Open Charge Alliance, OCPP-J 1.6 (2015) and OCPP 2.0.1 (2020) with their JSON schemas, as the protocol's library carries them;
IEC 61851-1: no current under 6 A; IANA time zones.
"""

import asyncio
import base64
import json
import unittest
from collections.abc import Awaitable, Callable
from datetime import UTC, datetime, timedelta
from functools import partial
from importlib.resources import files
from pathlib import Path
from typing import Any, cast
from unittest.mock import patch
from zoneinfo import ZoneInfo

import httpx2 as httpx
from jsonschema import Draft4Validator
from sqlalchemy.exc import OperationalError
from websockets.asyncio.client import ClientConnection, connect
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.typing import Subprotocol

from frost_tally.access.door import Purpose
from frost_tally.core.charge.plan import NEVER_HELD
from frost_tally.core.charge.supply import Supply
from frost_tally.core.live.heard import Heard, Sample, Socket
from frost_tally.core.live.profile import Profile
from frost_tally.core.parts import Outlet
from frost_tally.formats.charging_profile import Drawn, NightProfile, profile_request
from frost_tally.live.asking import Asking
from frost_tally.live.ocpp.desk import Schedule
from frost_tally.live.ocpp.meter import moment_of, sample_of
from frost_tally.live.points import Place, Points
from frost_tally.standins.charge_point.garage import Act
from tests.live.garage import LiveCase
from tests.web.client import aside

NOW = datetime(2027, 1, 14, 20, 0, tzinfo=UTC)
GUIDE = Path(__file__).parents[2] / "docs" / "guide"
FOLDERS = {"1.6": "v16", "2.0.1": "v201"}


def broken(said: list[tuple[str, str]], version: str) -> list[str]:
    """The messages of a conversation that their schema does not allow, and how many were held against one."""
    actions, found, held = dict[str, str](), list[str](), 0
    for _, told in said:
        kind, number, *rest = json.loads(told)
        if kind == 2:
            actions[number] = rest[0]
        name = actions[number] + ("Response" if kind == 3 else "" if version == "1.6" else "Request")
        text = (files("ocpp") / FOLDERS[version] / "schemas" / f"{name}.json").read_text(encoding="utf-8-sig")
        schema = json.loads(text)
        payload = rest[1] if kind == 2 else rest[0]
        # 25.9 is a multiple of 0.1 for whoever counts in tenths
        held += 1
        errors = [each for each in Draft4Validator(schema).iter_errors(payload) if each.validator != "multipleOf"]
        found += [f"{name}: {each.message}" for each in errors]
        if kind == 4:
            found.append(f"{name} was refused: {rest}")
    return [*found, *([] if held else ["nothing was said"])]


def recorded(version: str) -> list[tuple[str, str]]:
    """The conversation that the guide shows, as it was recorded on the wire: what a point said, and this home."""
    lines = (GUIDE / f"conversation-{version}.txt").read_text().splitlines()
    return [({"point": "out", "home": "in"}[way], told) for way, _, told in (line.partition(" ") for line in lines)]


def actions(said: list[tuple[str, str]]) -> set[tuple[str, str]]:
    """Who asked for what in a conversation."""
    return {(way, told[2]) for way, message in said if (told := json.loads(message))[0] == 2}


class Conversation(LiveCase):
    """What is said in a night, recorded on the wire."""

    def test_every_message_of_a_night_is_valid_both_ways(self) -> None:
        wanted = {
            "1.6": {
                "BootNotification", "ChangeConfiguration", "TriggerMessage", "StatusNotification", "SetChargingProfile", "MeterValues",
                "StartTransaction", "StopTransaction",
            },
            "2.0.1": {
                "BootNotification", "SetVariables", "TriggerMessage", "StatusNotification", "SetChargingProfile", "TransactionEvent",
            },
        }  # fmt: skip
        for version, names in wanted.items():
            with self.subTest(version=version):
                self.version = version
                wire = self.wire()
                self.pass_until("19:00", wire)
                self.do(wire, Act.PLUG, self.guest(limit=0.8))
                self.clock.at += timedelta(hours=9)
                self.pass_until("04:20", wire)
                self.do(wire, Act.UNPLUG)
                self.assertEqual(broken(wire.said, version), [])
                kept = recorded(version)
                self.assertEqual(broken(kept, version), [])
                self.assertEqual(actions(kept), actions(wire.said))
                told = {json.loads(message)[2] for _, message in wire.said if json.loads(message)[0] == 2}
                self.assertLessEqual(names, told)
                profiles = [json.loads(m)[3] for _, m in wire.said if json.loads(m)[2:3] == ["SetChargingProfile"]]
                limits = {each["limit"] for profile in profiles for each in _periods(profile)}
                self.assertTrue(all(each == 0 or each >= 6 for each in limits), limits)
                purposes = {json.dumps(each) for each in profiles}
                self.assertTrue(
                    any("TxDefaultProfile" in each for each in purposes) and any("TxProfile" in each for each in purposes)
                )
                self.doCleanups()
                self.setUp()


def _periods(request: dict[str, Any]) -> list[dict[str, Any]]:
    profile = request.get("csChargingProfiles") or request["chargingProfile"]
    schedule = profile["chargingSchedule"]
    found: list[dict[str, Any]] = (schedule[0] if isinstance(schedule, list) else schedule)["chargingSchedulePeriod"]
    return found


class Profiles(unittest.TestCase):
    """What is left in a point."""

    def test_moments_are_right_over_a_change_of_clocks(self) -> None:
        zone = ZoneInfo("Europe/Oslo")
        for night, real_h in ((datetime(2027, 3, 27, 22, 0), 5), (datetime(2026, 10, 24, 22, 0), 7)):
            begin, four = (each.replace(tzinfo=zone).astimezone(UTC) for each in (night, (night + timedelta(hours=6))))
            made = Schedule(begin=begin, phases=3, periods=((begin, 0.0), (four, 16.0)))
            for version in ("1.6", "2.0.1"):
                periods = _periods(dict(made.profile(version, "")))
                self.assertEqual(
                    [(each["startPeriod"], each["limit"]) for each in periods][:2], [(0, 0.0), (3600 * real_h, 16.0)]
                )

    def test_less_than_six_amperes_is_asked_for_as_none(self) -> None:
        self.assertEqual([Profile(((NOW, amps),)).amps(NOW) for amps in (5.9, 6.0, 16.0)], [0.0, 6.0, 16.0])
        drawn = [
            Drawn(begin=NOW, end=NOW + timedelta(hours=1), amps=5.0),
            Drawn(begin=NOW + timedelta(hours=1), end=NOW + timedelta(hours=2), amps=8),
        ]
        night = NightProfile(begin=NOW, end=NOW + timedelta(hours=3), phases=1, drawn=drawn)
        self.assertEqual([each["limit"] for each in _periods(profile_request(night, "1.6", "7"))], [0.0, 8.0, 0.0])


class Meters(unittest.TestCase):
    """Readings as they come, and those that cannot be."""

    def test_units_phases_and_defaults(self) -> None:
        told = [{"timestamp": NOW.isoformat(), "sampled_value": [
            {"value": "12345"}, {"value": "2300", "measurand": "Power.Active.Import", "phase": "L1"},
            {"value": "2.4", "unit": "kW", "measurand": "Power.Active.Import", "phase": "L2"},
            {"value": "10.5", "measurand": "Current.Import", "phase": "L1"}, {"value": "10.1", "measurand": "Current.Import", "phase": "L2"},
            {"value": "61", "unit": "Percent", "measurand": "SoC"},
        ]}]  # fmt: skip
        self.assertEqual(sample_of(told, NOW), Sample(at=NOW, register_kwh=12.345, kw=4.7, amps=10.5, soc=0.61))
        tenfold = {
            "value": 1.2,
            "measurand": "Energy.Active.Import.Register",
            "unit_of_measure": {"unit": "kWh", "multiplier": 1},
        }
        self.assertEqual(sample_of([{"timestamp": "", "sampled_value": [tenfold]}], NOW), Sample(at=NOW, register_kwh=12.0))

    def test_what_cannot_be_is_not_believed(self) -> None:
        for value in ("NaN", "-4", "1e400", "many", "", None, True, "9" * 60):
            told = {"timestamp": NOW.isoformat(), "sampled_value": [{"value": value}, {"value": "101", "measurand": "SoC"}]}
            self.assertIsNone(sample_of([told], NOW), value)

    def test_a_clock_that_cannot_be_right_is_not_believed(self) -> None:
        self.assertEqual(moment_of("1970-01-02T00:00:00Z", NOW), NOW)
        self.assertEqual(moment_of("2031-01-01T00:00:00Z", NOW), NOW)
        self.assertEqual(moment_of("nonsense", NOW), NOW)
        before = NOW - timedelta(hours=5)
        self.assertEqual(moment_of(before.isoformat(), NOW), before)  # kept while nobody listened

    def test_energy_is_counted_through_a_register_that_begins_anew(self) -> None:
        heard = Heard(at=NOW)
        for register in (100.0, 101.5, 0.0, 0.5, 900_000.0, 900_001.0):
            heard = heard.metered(NOW, Sample(at=NOW, register_kwh=register))
        self.assertAlmostEqual(heard.kwh, 1.5 + 0.5 + 1.0)

    def test_a_fault_leaves_the_cable_where_it_was(self) -> None:
        heard = Heard(at=NOW).stands(NOW, Socket.HOLDS).stands(NOW, Socket.FAULT, "GroundFailure")
        self.assertTrue(heard.plugged)
        self.assertFalse(heard.stands(NOW, Socket.FREE).plugged)


class Door(LiveCase):
    """Who is let in, and what becomes of what is no protocol."""

    def speak(self, work: Callable[[ClientConnection], Awaitable[Any]], **more: Any) -> Any:
        """Do something on a line; returns what it gives, or the status with which it was refused."""
        return aside(self._speak(work, **more))

    async def _speak(
        self, work: Callable[[ClientConnection], Awaitable[Any]], name: str = "", password: str | None = None, user: str | None = None, version: str = "1.6"
    ) -> Any:  # fmt: skip
        name = name or self.point
        told = f"{name if user is None else user}:{self.password if password is None else password}"
        headers = {"Authorization": "Basic " + base64.b64encode(told.encode()).decode()} if told != ":" else {}
        try:
            async with connect(
                f"{self.address}/ocpp/{name}",
                additional_headers=headers,
                subprotocols=[Subprotocol(f"ocpp{version}")],
                proxy=None,
            ) as line:
                return await work(line)
        except InvalidStatus as refused:
            return refused.response.status_code

    async def beats(self, line: ClientConnection) -> bool:
        """Whether a heartbeat is answered."""
        await line.send(json.dumps([2, "beat", "Heartbeat", {}]))
        while True:
            told = json.loads(await asyncio.wait_for(line.recv(), 10))
            if told[:2] == [3, "beat"]:
                return bool(told[2]["currentTime"])

    def test_who_has_gone_before_he_is_let_in_is_no_fault(self) -> None:
        async def gone(message: Any) -> None:
            raise OSError("gone")

        async def asks() -> Any:
            return {"type": "websocket.connect"}

        async def knock(name: str) -> None:
            told = base64.b64encode(f"{name}:{self.password}".encode())
            headers = [(b"host", b"127.0.0.1"), (b"authorization", b"Basic " + told)]
            scope = {"type": "websocket", "path": f"/ocpp/{name}", "headers": headers, "subprotocols": ["ocpp1.6"]}
            asked.append(name)
            await self.app(
                {**scope, "query_string": b"", "client": ("127.0.0.1", 1), "extensions": {"websocket.http.response": {}}},
                asks,
                gone,
            )

        asked = list[str]()
        for name in (self.point, "stranger"):
            aside(knock(name))
        self.assertEqual(asked, [self.point, "stranger"])
        with patch.object(Points, "admit", side_effect=OperationalError("", None, Exception("database is locked"))):
            self.assertEqual(self.speak(self.beats), 403)  # hung up on, and no page was made for it
        self.assertTrue(self.speak(self.beats))

    def test_only_a_point_of_this_home_with_its_password_is_let_in(self) -> None:
        self.assertTrue(self.speak(self.beats))
        script = self.access.make_token(Purpose.SCRIPT, self.point)
        for more in (
            {"password": "wrong"}, {"password": ""}, {"name": "stranger"}, {"user": "other"}, {"password": script}, {"user": "", "password": ""},
        ):  # fmt: skip
            self.assertEqual(self.speak(self.beats, **more), 401, more)
        knocks = self.app.state.knocks.latest()
        self.assertEqual({each.identity for each in knocks}, {self.point, "stranger"})
        self.access.revoke(next(each.id for each in self.access.tokens() if each.purpose is Purpose.POINT))
        self.assertEqual(self.speak(self.beats), 401)

    def test_tries_are_slowed(self) -> None:
        self.assertEqual([self.speak(self.beats, password="wrong") for _ in range(7)][-1], 429)

    def test_a_hundred_that_knock_in_vain_disturb_nobody(self) -> None:
        async def all_of_them() -> list[Any]:
            return await asyncio.gather(*(self._speak(self.beats, name=f"knock-{i}", password="no") for i in range(100)))

        self.assertEqual(set(aside(all_of_them())), {401})
        self.assertLessEqual(len(self.app.state.knocks.latest()), 20)
        page = httpx.get(f"http://127.0.0.1:{self.port}/garage/points")
        self.assertIn("knock-99", page.text)
        self.assertTrue(self.speak(self.beats))

    def test_a_version_that_is_not_spoken_is_told_so(self) -> None:
        async def closed(line: ClientConnection) -> int:
            with self.assertRaises(ConnectionClosed):
                await asyncio.wait_for(line.recv(), 10)
            return line.close_code or 0

        self.assertEqual(self.speak(closed, version="9.9"), 1002)

    def test_garbage_ends_its_own_line_at_most(self) -> None:
        bad: list[Any] = [
            "", "x", "[]", "{}", "[2]", '[2,"1"]', '[2,"1",{"a":1},{}]', '[2,["1"],"Heartbeat",{}]', '[2,"1","Heartbeat",[]]', '[2,"1","Heartbeat",7]',
            '[2,"1","Nothing",{}]', '[2,"1","StartTransaction",{"connectorId":"one"}]', '[3,"1",{}]', '[4,"1","","",{}]', '[9,"1","x",{}]',
            "[" * 5000, '[2,"1","MeterValues",{"connectorId":1,"meterValue":[{"timestamp":"x","sampledValue":[{"value":"NaN"}]}]}]', b"\x00\xff",
            "x" * 70_000, '[2,"1","StatusNotification",{"connectorId":1,"errorCode":"NoError","status":"Available","vendorErrorCode":"\\ud83d"}]',
        ]  # fmt: skip

        async def says(line: ClientConnection, what: Any) -> None:
            try:
                await line.send(what)
                await self.beats(line)
            except (ConnectionClosed, TimeoutError):
                return

        for each in bad:
            for version in ("1.6", "2.0.1"):
                self.speak(partial(says, what=each), version=version)
                self.assertTrue(self.speak(self.beats, version=version), str(each)[:40])
        self.assertEqual(httpx.get(f"http://127.0.0.1:{self.port}/health").status_code, 200)

    def test_a_charge_that_is_told_twice_is_one(self) -> None:
        begun = (self.clock.at - timedelta(hours=3)).isoformat()
        start = {"connectorId": 1, "idTag": "marten", "meterStart": 1000, "timestamp": begun}

        async def twice(line: ClientConnection) -> list[int]:
            async def asked(action: str, payload: dict[str, Any]) -> Any:
                await line.send(json.dumps([2, action, action, payload]))
                while (told := json.loads(await asyncio.wait_for(line.recv(), 10)))[:2] != [3, action]:
                    continue
                return told[2]

            numbers = [(await asked("StartTransaction", start))["transactionId"] for _ in range(2)]
            ended = {"transactionId": numbers[0], "meterStop": 9000, "timestamp": self.clock.at.isoformat()}
            for _ in range(2):
                self.assertEqual((await asked("StopTransaction", ended))["idTagInfo"]["status"], "Accepted")
            return numbers

        numbers = self.speak(twice)
        self.assertEqual(numbers[0], numbers[1])
        ((car, kwh, _),) = self.charges()
        self.assertEqual((car, round(kwh, 3)), (self.car().id, 8.0))


class Wakes(unittest.TestCase):
    """A car that is to be woken."""

    def test_waking_waits_until_the_point_can_be_asked(self) -> None:
        asked: list[str] = []

        class Voice:
            """A point that takes everything."""

            async def keep(self, schedule: Schedule, transaction: str) -> bool:
                asked.append("keep")
                return True

            async def wake(self, schedule: Schedule, transaction: str) -> bool:
                asked.append("wake")
                return True

        supply = Supply(name="", voltage_v=230.0, phases=3, breaker_a=16.0)
        outlet = Outlet(id=1, name="", supply=supply, held=NEVER_HELD)
        place = Place(outlet=outlet, heard=Heard(at=NOW), talk=cast(Any, Voice()))
        asking, profile = Asking(), Profile(((NOW, 16.0),))

        async def looks() -> None:
            loop = asyncio.get_running_loop()
            for ready, wake in ((False, True), (True, False), (True, False)):
                place.ready = ready
                asking.keep(place, profile, 3, now=NOW, loop=loop, wake=wake)
                await asyncio.sleep(0.01)

        aside(looks())
        self.assertEqual(asked, ["wake"])
