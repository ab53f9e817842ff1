"""Who comes in from the home network: every route for every right, signing in, devices, pairing, links, keys, certificate."""

import re
import socket
import ssl
import tempfile
import unittest
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from statistics import median
from threading import Thread
from time import perf_counter
from unittest import mock

import fastapi.routing
import httpx2 as httpx
import uvicorn
from argon2 import PasswordHasher
from fastapi import Request
from fastapi.responses import PlainTextResponse
from fastapi.routing import APIRoute
from rich.console import Console
from sqlalchemy import select
from sqlalchemy.orm import Session

from frost_tally.access import phrases
from frost_tally.access.certificate import make_certificate
from frost_tally.access.door import ABSOLUTE, IDLE, Access, Purpose, Right
from frost_tally.access.tables import DeviceRow, TokenRow
from frost_tally.access.throttle import TooManyTries
from frost_tally.core.errors import Refusal
from frost_tally.serve import CannotStart, _config, _listening, serve
from frost_tally.services.shared.home import decisions
from frost_tally.settings import Settings
from frost_tally.web.app import create_app
from frost_tally.web.door import COOKIE, NotYours, needed, who_asks
from frost_tally.web.guard import COOKIE as VISIT
from tests.web.client import Patient, WebCase, hidden

PHRASES = {"Ida": "copper kettle under snow", "Bo": "seven geese on the ice", "Una": "moss behind the barn door"}


class Passing:
    def __init__(self) -> None:
        self.at = datetime(2026, 12, 1, 18, tzinfo=UTC)

    def __call__(self) -> datetime:
        return self.at


QUICK = PasswordHasher(time_cost=1, memory_cost=64, parallelism=1)
"""For where the phrase itself is not what is tried: a proper hash takes a tenth of a second, as it should."""


def quickly(case: unittest.TestCase) -> None:
    """Let phrases be hashed quickly for one test."""
    case.enterContext(mock.patch.object(phrases, "_HASHER", QUICK))
    phrases.nobody.cache_clear()
    case.addCleanup(phrases.nobody.cache_clear)


def people_of(folder: Path, clock: Passing) -> Access:
    access = Access(folder / "access.db", clock)
    access.add("Ida", PHRASES["Ida"], Right.OWNER)
    access.add("Bo", PHRASES["Bo"], Right.READER)
    return access


class Signed(WebCase):
    """An app that others can reach, with an owner and a reader."""

    def setUp(self) -> None:
        super().setUp()
        quickly(self)
        self.clock = Passing()
        self.access = people_of(self.settings.data_dir, self.clock)
        self.app = create_app(self.settings, self.household, self.access)
        self.client = self.browser()

    def browser(self, name: str = "", scheme: str = "http", follow: bool = True) -> Patient:
        """A browser on which somebody is signed in, or nobody."""
        client = Patient(self.app, base_url=f"{scheme}://127.0.0.1:8642", follow_redirects=follow)
        if name:
            self.assertEqual(self.enter(client, name, PHRASES[name]).status_code, 200)
        return client

    def enter(self, client: Patient, name: str, phrase: str, **more: str) -> httpx.Response:
        page = hidden(client.get("/sign-in").text)
        return client.post("/sign-in", data={**page, "name": name, "phrase": phrase, "device": "desk", **more})

    def send(self, client: Patient, path: str, page: str = "/tonight", **typed: str) -> httpx.Response:
        return client.post(path, data={**hidden(client.get(page).text), **typed})


class EveryRoute(Signed):
    def test_every_route_for_every_right(self) -> None:
        """From the app's own routes: nobody sees or changes anything, guests see Tonight, readers change nothing, owners do both."""
        included = [
            each for part in self.app.routes for each in getattr(getattr(part, "original_router", None), "routes", [part])
        ]
        routes = [(method, each.path) for each in included if isinstance(each, APIRoute) for method in sorted(each.methods or ())]
        self.assertGreater(len(routes), 120)
        guest = self.browser()
        guest.cookies.set(COOKIE, self.access.make_token(Purpose.GUEST, "the sitter"))
        visitors = {"": self.browser(), "guest": guest, "reader": self.browser("Bo")}
        before = self.household.version()

        async def passed(
            *_: object, **__: object
        ) -> PlainTextResponse:  # the room itself is not asked: it is the door that is tried
            return PlainTextResponse("passed")

        self.enterContext(mock.patch.object(fastapi.routing, "run_in_threadpool", passed))
        for method, path in routes:
            need = needed(method, path)
            address = re.sub(r"\{which\}", "2027-01", path).replace("{secret}", "none").replace("{number}", "1")
            address = address.replace("{", "").replace("}", "")
            by_key = path.startswith("/api/v1/") and method != "GET"
            for who, client in visitors.items():
                with self.subTest(route=f"{method} {path}", who=who):
                    answer = client.request(method, address, follow_redirects=False)
                    shut = answer.status_code == 401 or answer.headers.get("location", "").startswith("/sign-in")
                    if need is None or path == "/sign-out":
                        continue
                    if not who or by_key:  # no cookie changes anything by a script's address
                        self.assertTrue(shut, answer.status_code)
                        continue
                    may = need is Right.GUEST or (who == "reader" and need is Right.READER)
                    self.assertEqual(bool(who) and not may, answer.status_code == 403 and "not for you" in answer.text)
                    seen = answer.text == "passed" or answer.status_code == 204  # a stream of a point that nobody heard
                    self.assertEqual(bool(who) and may and method == "GET", seen, answer.text[:200])
        self.assertEqual(self.household.version(), before)
        self.assertEqual(
            {needed("POST", path) for method, path in routes if method == "POST"} - {Right.OWNER}, {None, Right.READER}
        )
        opened = {purpose: set[str]() for purpose in Purpose if purpose is not Purpose.GUEST}
        for purpose in opened:
            key = self.access.make_token(purpose, purpose.value)
            by_address = purpose is Purpose.CALENDAR
            query, headers = (f"key={key}".encode(), []) if by_address else (b"", [(b"authorization", f"Bearer {key}".encode())])
            for method, path in routes:
                asked = {"type": "http", "method": method, "path": path, "query_string": query, "headers": headers}
                with suppress(NotYours):
                    if needed(method, path) is not None and who_asks(Request(asked), self.access) is not None:
                        opened[purpose].add(f"{method} {path}")
        scripts = {f"{method} {path}" for method, path in routes if path.startswith("/api/v1/")}
        self.assertEqual(opened[Purpose.SCRIPT], scripts)
        self.assertEqual(opened[Purpose.READS], {each for each in scripts if each.startswith("GET ")})
        self.assertEqual(opened[Purpose.WHEELS], {"POST /api/v1/tyres"})
        self.assertEqual(opened[Purpose.CALENDAR], {f"GET {path}" for _, path in routes if path.endswith(".ics")})
        self.assertEqual(len(opened[Purpose.CALENDAR]), 3)
        self.assertEqual(self.household.version(), before)

    def test_an_owner_changes_and_a_change_needs_its_page(self) -> None:
        owner = self.browser("Ida")
        self.assertIn("Undo", self.send(owner, "/tonight/keep").text)
        self.assertEqual(owner.post("/tonight/keep", data={}).status_code, 403)
        crossing = owner.post(
            "/tonight/keep", data=hidden(owner.get("/tonight").text), headers={"origin": "http://elsewhere.example"}
        )
        self.assertEqual(crossing.status_code, 403)
        self.assertEqual(owner.get("/tonight", headers={"host": "elsewhere.example"}).status_code, 400)

    def test_who_decided_is_said_and_another_may_take_it_back(self) -> None:
        self.access.add("Una", PHRASES["Una"], Right.OWNER)
        ida, una = self.browser("Ida"), self.browser("Una")
        self.send(ida, "/tonight/keep")
        page = una.get("/log/data").text
        listed = page.partition('id="decided"')[2].partition("</section>")[0]
        self.assertIn(", Ida<", listed)
        number = listed.split('name="decision" value="')[1].split('"')[0]
        self.send(una, "/undo", page="/log/data", decision=number, back="/log/data")
        first = [(each.who, each.takes_back) for each in decisions(self.read())][:1]
        self.assertEqual(first, [("Una", True)], "what was taken back is no decision any more")

    def test_where_only_this_computer_is_listened_to_nobody_signs_in(self) -> None:
        client = Patient(create_app(self.settings, self.household), base_url="http://127.0.0.1:8642", follow_redirects=True)
        self.assertIn("frost-tally person add", client.get("/garage/people").text)
        self.assertEqual(client.get("/sign-in").url.path, "/tonight")
        self.assertEqual(client.get("/guest/" + "x" * 40).url.path, "/tonight")


class SigningIn(Signed):
    def test_to_the_page_that_was_asked_for_and_out_again(self) -> None:
        client = self.browser()
        asked = client.get("/week?car=2")
        self.assertEqual(asked.url.path, "/sign-in")
        done = client.post("/sign-in", data={**hidden(asked.text), "name": " ida ", "phrase": PHRASES["Ida"], "device": "desk"})
        self.assertEqual((done.url.path, done.url.query), ("/week", b"car=2"))
        kept = client.cookies.get(COOKIE)
        self.send(client, "/sign-out")
        client.cookies.set(COOKIE, str(kept))
        self.assertEqual(client.get("/tonight").url.path, "/sign-in", "what was signed out lets nobody in")

    def test_elsewhere_is_no_page_to_go_on_to(self) -> None:
        for where in ("//evil.example", "https://evil.example/", "/\\evil.example", "/sign-out", "javascript:1", "/\tevil"):
            with self.subTest(where=where):
                self.assertEqual(self.enter(self.browser(), "Ida", PHRASES["Ida"], back=where).url.path, "/tonight")

    def test_cookies_are_strict_and_new_each_time(self) -> None:
        client = self.browser(scheme="https", follow=False)
        client.get("/sign-in")
        before = client.cookies.get(VISIT)
        first = self.enter(client, "Ida", PHRASES["Ida"])
        told = next(each for each in first.headers.get_list("set-cookie") if each.startswith(COOKIE))
        for part in ("HttpOnly", "SameSite=strict", "Secure", "Path=/"):
            self.assertIn(part, told)
        self.assertIn("max-age", first.headers["strict-transport-security"])
        client.get("/tonight")
        self.assertNotEqual(client.cookies.get(VISIT), before)
        held = client.cookies.get(COOKIE)
        self.enter(client, "Ida", PHRASES["Ida"])
        self.assertNotEqual(client.cookies.get(COOKIE), held)
        self.assertIsNone(self.access.visitor(str(held)), "the secret from before is worth nothing")
        self.assertNotIn("strict-transport-security", self.browser().get("/sign-in").headers)

    def test_a_token_of_another_visit_does_not_sign_in(self) -> None:
        theirs = hidden(self.browser().get("/sign-in").text)
        client = self.browser()
        client.get("/sign-in")
        answer = client.post("/sign-in", data={**theirs, "name": "Ida", "phrase": PHRASES["Ida"]})
        self.assertEqual(answer.status_code, 403)

    def test_tries_are_slowed_and_unknown_names_answered_alike(self) -> None:
        client = self.browser()
        wrong = [self.enter(client, name, "not this one at all") for name in ("Ida", "Nobody")]
        self.assertEqual({each.status_code for each in wrong}, {422})
        for each in wrong:
            self.assertIn("Name and pass phrase do not go together", each.text)
        for _ in range(3):
            self.enter(client, "Ida", "not this one at all")
        slowed = self.enter(client, "Ida", PHRASES["Ida"])
        self.assertEqual((slowed.status_code, int(slowed.headers["retry-after"]) > 0), (429, True))
        self.clock.at += timedelta(minutes=16)
        self.assertEqual(self.enter(client, "Ida", PHRASES["Ida"]).url.path, "/tonight")


class Rules(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        if self._testMethodName not in (
            "test_an_unknown_name_takes_as_long",
            "test_secrets_are_hashed_and_of_256_bits_and_the_file_is_its_owners",
        ):
            quickly(self)
        self.folder, self.clock = Path(folder.name), Passing()
        self.access = people_of(self.folder, self.clock)

    def sign_in(self, name: str = "Ida", address: str = "10.0.0.7") -> str:
        return self.access.sign_in(name, PHRASES[name], address, "desk")

    def test_a_device_ends_when_it_is_not_used_and_after_ninety_days(self) -> None:
        secret = self.sign_in()
        self.clock.at += IDLE + timedelta(seconds=1)
        self.assertIsNone(self.access.visitor(secret))
        secret, begun = self.sign_in(), self.clock.at
        while self.clock.at - begun < ABSOLUTE:
            self.assertIsNotNone(self.access.visitor(secret))
            self.clock.at += timedelta(days=7, seconds=13)
        self.assertIsNone(self.access.visitor(secret))

    def test_secrets_are_hashed_and_of_256_bits_and_the_file_is_its_owners(self) -> None:
        secret, link = self.sign_in(), self.access.make_token(Purpose.GUEST, "sitter")
        self.assertGreaterEqual(len(secret), 43)
        with Session(self.access.engine) as session:
            stored = [*session.scalars(select(DeviceRow.secret_hash)), *session.scalars(select(TokenRow.secret_hash))]
        content = (self.folder / "access.db").read_bytes()
        for each in (secret, link, *PHRASES.values()):
            self.assertNotIn(each, stored)
            self.assertNotIn(each.encode(), content)
        self.assertIn(b"$argon2id$", content)
        self.assertEqual((self.folder / "access.db").stat().st_mode & 0o077, 0)
        Access(self.folder / "new" / "access.db")
        self.assertEqual((self.folder / "new").stat().st_mode & 0o077, 0)

    def test_pairing_words_let_in_once_for_five_minutes(self) -> None:
        code, _ = self.access.offer_pairing(1)
        self.assertEqual(len(code.split()), 5)
        self.assertIsNotNone(self.access.visitor(self.access.pair(f"  {code.upper()} ", "10.0.0.8", "phone")))
        with self.assertRaisesRegex(Refusal, "These words do not let"):
            self.access.pair(code, "10.0.0.8", "phone")
        late, _ = self.access.offer_pairing(1)
        self.clock.at += timedelta(minutes=5, seconds=1)
        with self.assertRaisesRegex(Refusal, "These words do not let"):
            self.access.pair(late, "10.0.0.8", "phone")
        with self.assertRaises(TooManyTries):
            for _ in range(9):
                try:
                    self.access.pair("acorn acorn acorn acorn acorn", "10.0.0.9", "phone")
                except TooManyTries:
                    raise
                except Refusal:
                    pass

    def test_an_address_that_tries_many_names_waits_and_waits_longer(self) -> None:
        waits = list[int]()
        for i in range(9):
            try:
                self.access.sign_in(f"nobody {i}", "not this one at all", "10.0.0.66", "x")
            except TooManyTries as problem:
                waits.append(problem.seconds)
                self.clock.at += timedelta(seconds=problem.seconds)
            except Refusal:
                pass
        self.assertEqual(waits, sorted(waits))
        self.assertGreater(len(waits), 1)
        self.sign_in()  # from elsewhere it is as quick as ever

    def test_an_unknown_name_takes_as_long(self) -> None:
        """Medians of five: within a third of each other, for both are hashed (RFC 9106)."""
        spent: dict[str, list[float]] = {"Ida": [], "Nobody": []}
        for i in range(10):
            name = list(spent)[i % 2]
            begun = perf_counter()
            with self.assertRaisesRegex(Refusal, "Name and pass phrase do"):
                self.access.sign_in(name, f"wrong phrase {i}", f"10.0.1.{i}", "x")
            spent[name].append(perf_counter() - begun)
            self.access.throttle.forget("name ida", "name nobody")
        ida, nobody = (median(each) for each in spent.values())
        self.assertLess(abs(ida - nobody) / ida, 0.34)

    def test_phrases_that_will_not_do(self) -> None:
        for phrase in ("", "short", "a" * 40, "x" * 129, "password1234", "IdaIdaIdaIda", "PasswordPassword"):
            with self.subTest(phrase=phrase), self.assertRaisesRegex(Refusal, "A pass phrase has|This one is guessed at"):
                self.access.add("Ida2" if phrase != "IdaIdaIdaIda" else "Ida", phrase, Right.READER)
        self.access.add("Una", "  spaces — and ümlauts ❄ are kept  ", Right.READER)
        self.assertTrue(self.access.sign_in("una", "  spaces — and ümlauts ❄ are kept  ", "10.0.0.7", "x"))
        with self.assertRaisesRegex(Refusal, "Somebody has this name already"):
            self.access.add("BO", PHRASES["Una"], Right.OWNER)

    def test_the_last_owner_stays_and_another_phrase_signs_out_everywhere(self) -> None:
        secret = self.sign_in()
        with self.assertRaisesRegex(Refusal, "One owner has to stay"):
            self.access.remove(1)
        with self.assertRaisesRegex(Refusal, "This is not the one"):
            self.access.new_phrase(1, "not the old one", "apples in the cellar loft")
        self.access.new_phrase(1, PHRASES["Ida"], "apples in the cellar loft")
        self.assertIsNone(self.access.visitor(secret))
        reader = self.sign_in("Bo")
        self.access.remove(2)
        self.assertIsNone(self.access.visitor(reader))


class PeopleAndDevices(Signed):
    def test_a_phone_is_paired_listed_and_put_out(self) -> None:
        owner, phone = self.browser("Ida"), self.browser()
        offered = self.send(owner, "/garage/people/pair", page="/garage/people")
        self.assertIn("<svg", offered.text)
        code = offered.text.split('<b class="fs-4">')[1].split("<")[0]
        page = phone.get("/pair")
        paired = phone.post("/pair", data={**hidden(page.text), "code": code, "device": "garage phone"})
        self.assertEqual((paired.status_code, paired.url.path), (200, "/tonight"))
        listed = owner.get("/garage/people").text
        self.assertIn("garage phone", listed)
        number = next(each.id for each in self.access.devices() if each.name == "garage phone")
        self.send(owner, "/garage/people/out", page="/garage/people", number=str(number))
        self.assertEqual(phone.get("/tonight").url.path, "/sign-in")
        self.assertEqual(owner.get("/tonight").url.path, "/tonight")

    def test_a_guests_link_and_a_calendars_key_open_just_theirs(self) -> None:
        owner, guest = self.browser("Ida"), self.browser()
        made = self.send(owner, "/garage/people/key", page="/garage/people", purpose="guest", for_whom="the sitter").text
        link = made.split("<code>http://127.0.0.1:8642")[1].split("</code>")[0]
        self.assertEqual(guest.get(link).url.path, "/tonight")
        self.assertNotIn('href="/battery"', guest.get("/tonight").text.partition("</nav>")[0])
        self.assertEqual(guest.get("/week").status_code, 403)
        self.assertEqual(self.send(guest, "/tonight/keep").status_code, 403)
        made = self.send(owner, "/garage/people/key", page="/garage/people", purpose="calendar", for_whom="calendar").text
        feed = made.split("<code>http://127.0.0.1:8642")[1].split("</code>")[0]
        reader = self.browser()
        self.assertIn("BEGIN:VCALENDAR", reader.get(feed).text)
        self.assertEqual(reader.get(feed.replace("/week/departures.ics", "/tonight")).url.path, "/sign-in")
        for each in self.access.tokens():
            self.send(owner, "/garage/people/revoke", page="/garage/people", number=str(each.id))
        self.assertEqual(reader.get(feed).url.path, "/sign-in")
        self.assertEqual(guest.get("/tonight").url.path, "/sign-in")

    def test_a_guests_link_leaves_who_is_signed_in_signed_in(self) -> None:
        owner = self.browser("Ida")
        owner.get(f"/guest/{self.access.make_token(Purpose.GUEST, 'the sitter')}")
        self.assertEqual(owner.get("/garage/people", follow_redirects=False).status_code, 200)

    def test_who_may_only_look_is_marked_so_that_nothing_is_kept_by_itself(self) -> None:
        guest = self.browser()
        guest.cookies.set(COOKIE, self.access.make_token(Purpose.GUEST, "the sitter"))
        for client, marked in ((self.browser("Bo"), True), (guest, True), (self.browser("Ida"), False)):
            page = client.get("/tonight").text
            self.assertEqual(("data-looks" in page, "owners change it" in page), (marked, marked))

    def test_a_reader_sees_own_devices_alone_and_signs_out(self) -> None:
        owner, reader = self.browser("Ida"), self.browser("Bo")
        page = reader.get("/garage/people").text
        self.assertIn("owners change it", page)
        self.assertNotIn("Ida", page)
        self.assertNotIn("/garage/people/add", page)
        self.assertEqual(self.send(reader, "/sign-out", page="/garage/people").url.path, "/sign-in")
        self.assertEqual(reader.get("/week").url.path, "/sign-in")
        self.assertIn("Bo", owner.get("/garage/people").text)

    def test_somebody_else_is_let_in_and_errors_stand_at_their_field(self) -> None:
        owner = self.browser("Ida")
        wrong = self.send(owner, "/garage/people/add", page="/garage/people", name="Una", phrase="short")
        self.assertEqual(wrong.status_code, 422)
        self.assertIn('value="Una"', wrong.text)
        self.assertIn('id="p-phrase-error"', wrong.text)
        self.send(owner, "/garage/people/add", page="/garage/people", name="Una", phrase=PHRASES["Una"], right="owner")
        una = self.browser("Una")
        self.assertIn("Undo", self.send(una, "/tonight/keep").text)
        number = next(each.id for each in self.access.people() if each.name == "Una")
        self.send(owner, "/garage/people/remove", page="/garage/people", number=str(number))
        self.assertEqual(una.get("/tonight").url.path, "/sign-in")


class BehindAProxy(Signed):
    def served(self, proxies: tuple[str, ...]) -> str:
        """The app behind the server that `serve` makes for these settings, on a free port; returns its address."""
        settings = Settings.model_validate({**self.settings.model_dump(), "trusted_proxies": proxies})
        server = uvicorn.Server(_config(settings, self.app))
        at = _listening("127.0.0.1", 0)
        thread = Thread(target=server.run, kwargs={"sockets": [at]})
        thread.start()

        def stop() -> None:
            server.should_exit = True
            thread.join(10)
            self.assertFalse(thread.is_alive(), "it ends when it is told to")

        self.addCleanup(stop)
        return f"http://127.0.0.1:{at.getsockname()[1]}"

    def test_what_is_forwarded_is_believed_of_trusted_addresses_alone(self) -> None:
        for proxies, secure, address in ((("127.0.0.1",), True, "192.0.2.7"), (("10.0.0.0/8",), False, "127.0.0.1")):
            with self.subTest(proxies=proxies):
                told = {"x-forwarded-for": "192.0.2.7", "x-forwarded-proto": "https"}
                with httpx.Client(base_url=self.served(proxies), headers=told) as client:
                    page = client.get("/sign-in")
                    visit = page.cookies[VISIT]
                    form = {**hidden(page.text), "name": "Ida", "phrase": PHRASES["Ida"], "device": "desk"}
                    answer = client.post("/sign-in", data=form, headers={"cookie": f"{VISIT}={visit}"})
                self.assertEqual(answer.status_code, 303)
                self.assertEqual("Secure" in answer.headers["set-cookie"], secure)
                self.assertEqual("strict-transport-security" in answer.headers, secure)
                self.assertEqual(self.access.devices()[0].address, address)
                self.access.put_out(device_id=self.access.devices()[0].id)

    def test_who_says_half_of_what_he_wants_does_not_keep_it_from_ending(self) -> None:
        half = socket.socket()
        self.addCleanup(half.close)  # after the server has ended
        port = int(self.served(()).rpartition(":")[2])
        visit = httpx.get(f"http://127.0.0.1:{port}/sign-in").cookies[VISIT]
        half.connect(("127.0.0.1", port))
        form = "content-type: application/x-www-form-urlencoded\r\ncontent-length: 100"
        told = f"POST /sign-in HTTP/1.1\r\nhost: 127.0.0.1:{port}\r\ncookie: {VISIT}={visit}\r\n{form}\r\n\r\nname="
        half.sendall(told.encode())
        half.settimeout(0.5)
        with self.assertRaises(TimeoutError):  # it is waited for
            half.recv(1)


class Starting(unittest.TestCase):
    def test_beyond_this_computer_only_with_people_and_the_command_is_said(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            for more in ({"host": "0.0.0.0"}, {"trusted_proxies": ("127.0.0.1",)}):
                settings = Settings(data_dir=Path(folder), port=8643, **more)
                self.assertTrue(settings.signs_in)
                with self.assertRaisesRegex(CannotStart, "frost-tally person add NAME"):
                    serve(settings, Console(quiet=True))
            self.assertFalse(Settings(data_dir=Path(folder)).signs_in)
            with self.assertRaises(ValueError):
                Settings(tls_certificate=Path("a.pem"))

    def test_a_certificate_that_a_phone_can_trust_for_this_home_alone(self) -> None:
        """The handshake itself, by OpenSSL in memory: the home's name is taken, another's and another authority's are refused."""
        with tempfile.TemporaryDirectory() as one, tempfile.TemporaryDirectory() as two:
            files, other = (make_certificate(Path(each), ("tally.home.arpa", "10.77.0.2")) for each in (one, two))
            self.assertEqual(files["server.key"].stat().st_mode & 0o077, 0)
            authority = files["home-authority.pem"].read_bytes()
            make_certificate(Path(one), ("tally.home.arpa",))
            self.assertEqual(files["home-authority.pem"].read_bytes(), authority, "phones go on trusting it")
            self.assertTrue(_shakes(files, files, "tally.home.arpa"))
            self.assertFalse(_shakes(files, files, "bank.example"))
            self.assertFalse(_shakes(other, files, "tally.home.arpa"))
            make_certificate(Path(one), ("other.home.arpa",))
            self.assertNotEqual(files["home-authority.pem"].read_bytes(), authority)
            with self.assertRaisesRegex(Refusal, "'no name at all' is"):
                make_certificate(Path(one), ("no name at all",))


def _shakes(trusted: dict[str, Path], served: dict[str, Path], name: str) -> bool:
    """Whether a client that trusts an authority shakes hands with a server by its name."""
    client, server = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT), ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    client.load_verify_locations(trusted["home-authority.pem"])
    server.load_cert_chain(served["server.pem"], served["server.key"])
    there, back = ssl.MemoryBIO(), ssl.MemoryBIO()
    ends = (client.wrap_bio(back, there, server_hostname=name), server.wrap_bio(there, back, server_side=True))
    done = set[int]()
    for _ in range(8):
        for i, each in enumerate(ends):
            try:
                each.do_handshake()
                done.add(i)
            except ssl.SSLWantReadError:
                continue
            except ssl.SSLError:
                return False
    return len(done) == 2
