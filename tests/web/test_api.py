"""What scripts ask and send: the numbers of the pages, problems by RFC 9457, what is sent twice done once, and how often one may ask."""

import json
import re
from datetime import datetime, timedelta
from typing import Any, cast

import httpx2 as httpx
from jsonschema import Draft202012Validator

from frost_tally.access.door import Purpose
from frost_tally.core.log.kinds import KINDS
from frost_tally.services.log import Wanted, some
from frost_tally.services.log_month.room import month
from frost_tally.services.tonight.room import tonight
from frost_tally.web.api.entries import ADDRESSES, COMING
from frost_tally.web.api.limit import Buckets, TooOften
from frost_tally.web.api.routes import schema
from tests.homes import app_on, home_in
from tests.web.client import ApartCase, Patient
from tests.web.test_door import Signed

LEVEL = {"car_id": 1, "read_at": "2027-01-14T16:30:00+01:00", "soc": 0.42}


def seen(page: str) -> str:
    """What somebody reads on a page."""
    return re.sub(r"\s+", " ", re.sub(r"<[^>]+>", "", page)).replace("\u00a0", " ").replace("\u2060", "")


class Reading(ApartCase):
    def test_the_numbers_are_those_of_the_pages(self) -> None:
        for car in (1, 2):
            for address, page in (("tonight", "/tonight"), ("day", "/day"), ("warm-up", "/warm-up")):
                with self.subTest(car=car, address=address):
                    told = self.client.get(f"/api/v1/{address}", params={"car": car}).json()
                    self.assertEqual((told["car_id"], told["car"]), (car, {1: "Marten", 2: "Dray"}[car]))
                    self.assertIn(told["sentence"].split(". ")[0], seen(self.client.get(f"{page}?car={car}").text))
        night = tonight(self.read(), 1)
        told = self.client.get("/api/v1/tonight").json()
        self.assertEqual(told["arrival_soc"]["likely"], round(night.arrival.likely, 4))
        self.assertEqual([each["wall_kwh"] for each in told["charging"]], [round(each.wall_kwh, 3) for each in night.plan.blocks])
        self.assertEqual(datetime.fromisoformat(told["departure"]), night.plan.request.departure.replace(microsecond=0))

    def test_the_log_and_the_month_as_they_are_stored(self) -> None:
        told = self.client.get("/api/v1/months/2027-01").json()
        found = month(self.read(), datetime(2027, 1, 1).date())
        self.assertEqual(told["total"]["wall_kwh"], round(found.sums.wall_kwh, 3))
        self.assertEqual([each["car"] for each in told["cars"]], ["Marten", "Dray"])
        entries, _ = some(self.read(), Wanted(kind="charge", car_id=1), None, 200)
        self.assertGreater(len(entries), 6)
        sessions: list[dict[str, Any]] = []
        after = ""
        while after is not None:
            page = self.client.get("/api/v1/sessions", params={"car": 1, "most": 4, "after": after}).json()
            self.assertLessEqual(len(page["entries"]), 4)
            sessions += page["entries"]
            after = page["after"]
        self.assertEqual([each["id"] for each in sessions], [each.number for each in entries])
        self.assertEqual([each["wall_kwh"] for each in sessions], [each.values["wall_kwh"] for each in entries])
        since = sessions[2]["begun_at"]
        few = self.client.get("/api/v1/sessions", params={"car": 1, "since": since}).json()["entries"]
        self.assertEqual([each["id"] for each in few], [each["id"] for each in sessions[:3]])

    def test_a_home_without_anything_is_not_set_up(self) -> None:
        settings = self.settings.model_copy(update={"demo": False})
        client = Patient(app_on(settings, home_in(settings)), base_url="http://127.0.0.1:8642")
        for address in ("tonight", "day", "warm-up", "departures"):
            answer = client.get(f"/api/v1/{address}")
            self.assertEqual((answer.status_code, answer.json()["title"]), (409, "Not set up yet"), address)
        self.assertEqual(client.get("/api/v1/cars").json(), [])


class Sending(ApartCase):
    def send(self, address: str, told: object, key: str = "", **more: Any) -> httpx.Response:
        return self.client.post(f"/api/v1/{address}", json=told, headers={"idempotency-key": key} if key else {}, **more)

    def levels(self) -> list[float]:
        return [each.values["value"] for each in some(self.read(), Wanted(kind="level"), None, 50)[0]]

    def test_an_entry_of_each_kind_comes_back_as_it_was_sent(self) -> None:
        at, values = (
            "2027-01-13T09:00:00+01:00",
            {"km": 12.0, "soc_start": 0.6, "soc_end": 0.5, "soc_from": 0.8, "soc_to": 0.3, "kwh": 26.0},
        )
        for kind, address in ADDRESSES.items():
            with self.subTest(kind=kind):
                shape = COMING[kind].model_json_schema()
                sent: dict[str, Any] = {}
                for name in shape["required"]:
                    of = shape["properties"][name]
                    bounds = of.get("minimum"), of.get("maximum")
                    middle = None if bounds[0] is None else (bounds[0] + bounds[1]) / 2
                    sent[name] = at if of.get("format") == "date-time" else values.get(name, of.get("enum", [middle])[0])
                sent |= {"car_id": 1, **({"note": "wash"} if kind == "season" else {})}
                done = self.send(address, sent)
                self.assertEqual(done.status_code, 201, done.text)
                noted = self.client.get(f"/api/v1/{address}", params={"since": at, "before": "2027-01-13T09:00:01+01:00"}).json()[
                    "entries"
                ]
                kept = next(each for each in noted if each["source"] == "script")
                for name, value in sent.items():
                    told = kept[name]
                    same = datetime.fromisoformat(told) == datetime.fromisoformat(value) if value == at else told == value
                    self.assertTrue(same, (name, told, value))
                gone = self.client.delete(f"/api/v1/{address}/{kept['id']}")
                self.assertEqual(gone.status_code, 200, gone.text)
        self.assertEqual(set(ADDRESSES), set(KINDS))

    def test_sent_again_by_the_same_key_it_is_done_once_and_after_a_restart_too(self) -> None:
        before = self.levels()
        first = self.send("levels", LEVEL, "a")
        again = self.send("levels", LEVEL, "a")
        restarted = Patient(app_on(self.settings, self.household), base_url="http://127.0.0.1:8642")
        third = restarted.post("/api/v1/levels", json=LEVEL, headers={"idempotency-key": "a"})
        self.assertEqual((first.status_code, again.json(), third.json()), (201, first.json(), first.json()))
        self.assertEqual(len(self.levels()), len(before) + 1)
        other = self.send("levels", {**LEVEL, "soc": 0.5}, "a")
        self.assertEqual((other.status_code, other.json()["errors"][0]["pointer"]), (422, "Idempotency-Key"))
        self.assertEqual(self.send("levels", {**LEVEL, "soc": 0.5}, "b").status_code, 201)
        self.assertEqual(len(self.levels()), len(before) + 2)

    def test_what_was_decided_is_taken_back_and_a_second_time_there_is_nothing(self) -> None:
        before = self.levels()
        decision = self.send("levels", LEVEL).json()["decision"]
        self.assertEqual(self.send("undo", {"decision": decision}).json()["words"], "Taken back: Level noted")
        self.assertEqual(self.levels(), before)
        self.assertEqual(self.send("undo", {"decision": decision}).status_code, 404)

    def test_a_departure_is_listed_and_put_away(self) -> None:
        sent = {"car_id": 1, "name": "Ferry", "at": "05:40", "on_date": "2027-01-16", "km": 31.0, "warm_up": "cabin"}
        self.assertEqual(self.send("departures", sent).status_code, 201)
        listed = self.client.get("/api/v1/departures").json()["departures"]
        ferry = next(each for each in listed if each["name"] == "Ferry")
        self.assertEqual((ferry["next"], ferry["km"], ferry["warm_up"]), ("2027-01-16T05:40:00+01:00", 31.0, "cabin"))
        self.assertIn("Ferry", self.client.get("/week?car=1").text)
        self.assertEqual(self.client.delete(f"/api/v1/departures/{ferry['id']}").status_code, 200)
        self.assertEqual(self.client.delete(f"/api/v1/departures/{ferry['id']}").status_code, 404)
        for wrong, at in (
            ({"days": [1]}, "on_date"), ({"on_date": "2027-01-01"}, "on_date"), ({"on_date": None}, "days"), ({"day_id": 99}, "day_id"),
            ({"place_id": 99}, "place_id"), ({"days": [8]}, "/days/0"), ({"at": "25:00"}, "/at"), ({"km": 0}, "/km"), ({"more": 1}, "/more"),
            ({"warm_up": "boil"}, "/warm_up"), ({"name": "a\u202eb"}, "/name"), ({"name": " "}, "/name"),
        ):  # fmt: skip
            answer = self.send("departures", sent | wrong)
            self.assertEqual((answer.status_code, answer.headers["content-type"]), (422, "application/problem+json"), wrong)
            self.assertEqual(answer.json()["errors"][0]["pointer"], at, (wrong, answer.json()))

    def test_what_cannot_be_is_a_problem_with_its_place_and_changes_nothing(self) -> None:
        version = self.household.version()
        shape = Draft202012Validator(schema() | {"$ref": "#/components/schemas/Problem"})
        ends = {"car_id": 1, "begun_at": "2027-01-13T10:00:00+01:00", "ended_at": "2027-01-13T09:00:00+01:00"}
        for told, address, status, at in (
            ({**LEVEL, "soc": 1.2}, "levels", 422, "/soc"), ({"soc": 0.5}, "levels", 422, "/car_id"), ({**LEVEL, "car_id": 9}, "levels", 404, "car"),
            ({**LEVEL, "read_at": "2027-01-14T16:30:00"}, "levels", 422, "/read_at"), ({**LEVEL, "read_at": "2031-01-01T00:00:00Z"}, "levels", 422, "read_at"),
            (ends, "sessions", 422, "ended_at"), ({**ends, "ended_at": None, "outlet": 99}, "sessions", 404, "outlet"), ([], "levels", 422, ""), ({**LEVEL, "soc": "0.4"}, "nothing", 404, None),
            ({"decision": "1"}, "undo", 422, "/decision"), ({"decision": "9.abc"}, "undo", 404, None),
        ):  # fmt: skip
            answer = self.send(address, told)
            self.assertEqual((answer.status_code, answer.headers["content-type"]), (status, "application/problem+json"), told)
            self.assertEqual(answer.json()["errors"][0]["pointer"] if answer.json()["errors"] else None, at, answer.json())
        for body in (b"{", b"\xff", b'{"car_id": NaN}', b"[" * 100_000, b"", b'{"car_id": 1, "read_at": "x", "soc": 1e999}'):
            answer = self.client.post("/api/v1/levels", content=body, headers={"content-type": "application/json"})
            self.assertIn(answer.status_code, (400, 422), body[:20])
            shape.validate(answer.json())
        self.assertEqual(
            self.client.post("/api/v1/levels", content=json.dumps(LEVEL), headers={"content-type": "text/plain"}).status_code, 422
        )
        self.assertEqual(
            self.client.post("/api/v1/levels", content=b"1" * 300_000, headers={"content-type": "application/json"}).status_code,
            413,
        )
        self.assertEqual(self.client.get("/api/v1/sessions?after=x").json()["errors"][0]["pointer"], "after")
        self.assertEqual(self.client.get("/api/v1/months/2027-13").status_code, 422)
        self.assertEqual(self.household.version(), version)

    def test_no_page_of_another_site_sends_by_it(self) -> None:
        for told in ({"origin": "http://elsewhere.example"}, {"sec-fetch-site": "cross-site"}, {"sec-fetch-site": "same-site"}):
            answer = self.client.post("/api/v1/levels", json=LEVEL, headers=told)
            self.assertEqual((answer.status_code, answer.headers["content-type"]), (403, "application/problem+json"))
        self.assertNotIn(
            "access-control-allow-origin", self.client.get("/api/v1/cars", headers={"origin": "http://elsewhere.example"}).headers
        )


class Keys(Signed):
    def test_a_key_notes_under_its_name_and_is_asked_for_by_bearer(self) -> None:
        client = self.browser()
        answer = client.get("/api/v1/cars")
        self.assertEqual((answer.status_code, answer.headers["www-authenticate"]), (401, "Bearer"))
        self.assertEqual(client.get("/api/v1/cars", headers={"authorization": "Bearer none"}).status_code, 401)
        key = self.access.make_token(Purpose.SCRIPT, "the shed’s clock")
        known = {"authorization": f"Bearer {key}"}
        self.assertEqual(client.post("/api/v1/levels", json=LEVEL, headers=known).status_code, 201)
        listed = self.browser("Ida").get("/log/data").text
        self.assertIn("the shed’s clock", listed)
        number = client.get("/api/v1/levels", params={"since": LEVEL["read_at"]}, headers=known).json()["entries"]
        number = next(each["id"] for each in number if each["source"] == "script")
        self.assertIn("a script, sent by the shed’s clock", seen(self.browser("Ida").get(f"/log/level/{number}").text))
        self.access.revoke(self.access.tokens()[-1].id)
        self.assertEqual(client.get("/api/v1/cars", headers=known).status_code, 401)

    def test_the_key_of_one_is_not_the_others_idempotency(self) -> None:
        client, keys = self.browser(), [self.access.make_token(Purpose.SCRIPT, name) for name in ("one", "two")]
        told = [
            client.post(
                "/api/v1/levels", json=LEVEL, headers={"authorization": f"Bearer {key}", "idempotency-key": "same"}
            ).json()
            for key in keys
        ]
        self.assertNotEqual(told[0]["decision"], told[1]["decision"])

    def test_who_asks_too_often_waits(self) -> None:
        self.app.state.buckets = Buckets(3)
        client, keys = self.browser(), [self.access.make_token(Purpose.READS, name) for name in ("one", "two")]
        told = [client.get("/api/v1/cars", headers={"authorization": f"Bearer {keys[0]}"}) for _ in range(4)]
        self.assertEqual([each.status_code for each in told], [200, 200, 200, 429])
        self.assertLessEqual(int(told[-1].headers["retry-after"]), 20)
        self.assertEqual(client.get("/api/v1/cars", headers={"authorization": f"Bearer {keys[1]}"}).status_code, 200)

    def test_a_bucket_fills_again(self) -> None:
        now = [0.0]
        buckets = Buckets(60, lambda: now[0])
        for _ in range(60):
            buckets.take("one")
        with self.assertRaises(TooOften) as caught:
            buckets.take("one")
        self.assertEqual(caught.exception.seconds, 1)
        now[0] = timedelta(seconds=10).total_seconds()
        for _ in range(10):
            buckets.take("one")
        self.assertRaises(TooOften, buckets.take, "one")


class Described(ApartCase):
    def test_the_page_names_every_address_and_shape_by_the_strict_policy(self) -> None:
        answer, described = self.client.get("/api/docs"), self.client.get("/api/v1/openapi.json").json()
        page = answer.text
        self.assertNotIn("unsafe", answer.headers["content-security-policy"])
        operations = [(method.upper(), path) for path, each in described["paths"].items() for method in each]
        self.assertGreater(len(operations), 30)
        for method, path in operations:
            self.assertIn(f"<code>{method} {path}</code>", page)
        for name in cast(dict[str, Any], described["components"]["schemas"]):
            self.assertTrue(name in ("Problem", "BadValue") or f'id="{name}"' in page, name)
