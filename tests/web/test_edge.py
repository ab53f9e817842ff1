"""Every route and every field of the app itself, one bad value at a time: nothing breaks, and what is refused changes nothing."""

import os
import re
import sqlite3
import unittest
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, date, datetime, time
from html.parser import HTMLParser
from random import Random
from typing import Any
from unittest import mock
from urllib.parse import parse_qsl, quote_from_bytes, urlsplit

import fastapi.routing
import httpx2 as httpx
from fastapi.routing import APIRoute

from frost_tally.household.models import DepartureRow, HouseholdRow, PlaceRow, PriceRow, ReadingRow
from frost_tally.web.app import create_app
from tests.drilled import DRILL

from .client import WebCase, aside

BAD = [each if isinstance(each, bytes) else each.encode() for each in (
    "", " ", "nan", "inf", "-inf", "1e999", "1e308", "-1e308", "-1", "0", "999999999", "9" * 5000, "²", "１２", "0x10", "1_000", "½",
    "0001-01-01", "9999-12-31", "0001-01-01T00:00:00+14:00", "9999-12-31T23:59:59-14:00", "2027-02-30", "2027-01-16T07:10", "24:00", "99:99",
    "23:59:60", "00:00", "12:00+99:00", "Factory", "localtime", "../../etc/passwd", "XXX", "XTS", "unknown", "none", "1,2,3", ",", "own-99",
    "<script>alert(1)</script>", "'; DROP TABLE car; --", "{{ 7 * 7 }}", "a" * 61, "a" * 70_000, "\u202e", "\x00", "\r\nx-y: z", "🐻", b"\xff\xfe", b"\xed\xa0\x80",
)]  # fmt: skip
SEED = 1
"""Of which bad value each field of each address gets."""
COMMON, SOME = 20, 1.0 if os.environ.get(DRILL) else 0.25
"""A field that so many addresses have (the car, the token, the page that it was made from) is tried at so many of them; at all in `make drill`."""


@dataclass(frozen=True)
class Ask:
    """A request that a page offers: method, path and its fields in order."""

    method: str
    path: str
    fields: tuple[tuple[str, str], ...]

    async def send(self, client: httpx.AsyncClient, name: str = "", value: bytes = b"") -> httpx.Response:
        """With one field's value in place of its own; status and the body."""
        value = value[:6000] if self.method == "get" else value
        pairs = [(key, value if key == name else text.encode()) for key, text in self.fields]
        body = "&".join(f"{quote_from_bytes(key.encode())}={quote_from_bytes(text)}" for key, text in pairs)
        if self.method == "get":
            return await client.get(f"{self.path}?{body}" if body else self.path)
        return await client.post(self.path, content=body, headers={"content-type": "application/x-www-form-urlencoded"})


class Offers(HTMLParser):
    """What a page offers to ask: its links to itself and its forms with every button."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.page, self.found = page, list[Ask]()
        self.method, self.path, self.fields, self.buttons = "", "", list[tuple[str, str]](), list[tuple[str, str, str]]()
        self.select = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        at = {name: value or "" for name, value in attrs}
        if tag == "a" and at.get("href", "").startswith("/"):
            parts = urlsplit(at["href"])
            self.found.append(Ask("get", parts.path, tuple(parse_qsl(parts.query))))
        if tag == "form":
            self.method, self.path, self.fields, self.buttons = at.get("method", "get"), at.get("action", self.page), [], []
        if tag == "input" and at.get("name") and (at.get("type") not in ("checkbox", "radio") or "checked" in at):
            self.fields.append((at["name"], at.get("value", "")))
        if tag == "select":
            self.select = at.get("name", "")
            self.fields.append((self.select, ""))
        if tag == "option" and "selected" in at:
            self.fields[-1] = (self.select, at["value"])
        if tag == "button":
            self.buttons.append((at.get("formaction", ""), at.get("name", ""), at.get("value", "")))

    def handle_endtag(self, tag: str) -> None:
        if tag == "form" and self.method:
            for action, name, value in self.buttons or [("", "", "")]:
                fields = [*self.fields, *([(name, value)] if name else [])]
                self.found.append(Ask("post" if action else self.method, action or self.path, tuple(fields)))
            self.method = ""


async def at_once(act: Callable[..., Any], *args: Any, **more: Any) -> Any:
    """Instead of a pool of threads: there is one who asks."""
    return act(*args, **more)


class Offered(WebCase):
    """The demo with its routes, and whatever its pages offer to ask."""

    def setUp(self) -> None:
        super().setUp()
        for path in (
            "/tonight/keep",
            "/tonight/clock",
            "/tonight/keep",
        ):  # so that there is something to note, to put back and to undo
            self.done = urlsplit(str(self.post(path).url)).query
        app = create_app(self.settings, self.household)
        threads = mock.patch.object(fastapi.routing, "run_in_threadpool", at_once)
        threads.start()
        self.addCleanup(threads.stop)
        door = httpx.ASGITransport(app, raise_app_exceptions=False)
        self.asks = httpx.AsyncClient(transport=door, base_url="http://127.0.0.1:8642", headers={"accept-encoding": "identity"})
        included = [each for part in app.routes for each in getattr(getattr(part, "original_router", None), "routes", [part])]
        self.routes = [each for each in included if isinstance(each, APIRoute)]
        self.assertGreater(len(self.routes), 45)
        self.shown: dict[str, int] = {}
        self.watch = sqlite3.connect(self.settings.database, check_same_thread=False)
        self.addCleanup(self.watch.close)
        self.before = sqlite3.connect(":memory:", check_same_thread=False)
        self.addCleanup(self.before.close)
        with closing(sqlite3.connect(self.settings.database)) as store:
            store.backup(self.before)

    async def offers(self, pages: Sequence[str] = ()) -> list[Ask]:
        """Everything that the pages reached from the rooms offer, each shape once; or only that of some pages."""
        waiting, seen = [*pages] or ["/tonight", f"/tonight?{self.done}"], dict[tuple[str, str, tuple[str, ...]], Ask]()
        while waiting:
            page = waiting.pop()
            answer = await self.asks.get(page)
            self.shown[page] = answer.status_code
            if answer.status_code == 303:
                waiting.append(answer.headers["location"])
                continue
            parser = Offers(urlsplit(page).path)
            parser.feed(answer.text)
            for ask in parser.found:
                shape = (ask.method, re.sub(r"\d+", "1", ask.path), tuple(name for name, _ in ask.fields))
                if shape not in seen:
                    seen[shape] = ask
                    if ask.method == "get" and not pages:
                        waiting.append(ask.path + "?" + "&".join(f"{name}={value}" for name, value in ask.fields))
        return list(seen.values())

    async def of_the_rooms(self) -> list[Ask]:
        """What the pages of all plain addresses offer, from the route table."""
        plain = [each.path for each in self.routes if "GET" in (each.methods or ()) and "{" not in each.path]
        return await self.offers([each for each in plain if not each.endswith(("/live", ".json", ".csv", ".ics"))])

    async def sealed(self, ask: Ask) -> list[tuple[str, str]]:
        """The fields of a form as its page would have them now: with a token and the revision of this moment."""
        page = (await self.asks.get("/garage/edit/place/1")).text
        now_of = {name: re.findall(rf'name="{name}" value="([^"]*)"', page)[0] for name in ("token", "revision")}
        return [(name, now_of.get(name, value)) for name, value in ask.fields]

    def posts(self) -> list[str]:
        """The paths of all forms that have but one address."""
        return [route.path for route in self.routes if "POST" in (route.methods or ()) and "{" not in route.path]


class Addresses(Offered):
    """The demo, asked by a stranger who types whatever comes to mind: what only looks, and what changes something."""

    def bad(self, offers: list[Ask]) -> Iterator[tuple[Ask, str, bytes]]:
        """Every field with every bad value, and every piece of a path that is not a word of its own."""
        for ask in offers:
            alike = {re.sub(r"\d+", "1", name): name for name in dict(ask.fields)}  # of twelve months or six trips one will do
            for name in alike.values():
                for value in BAD:
                    yield ask, name, value
        known = {ask.path for ask in offers}
        for path in (each for each in self.posts() if each not in known):
            yield from ((Ask("post", path, (("token", ""), ("car", "1"))), "car", value) for value in BAD)
        for route in self.routes:
            if "{" in route.path:
                for value in BAD:
                    path = re.sub(r"{\w+}", lambda _, value=value: quote_from_bytes(value[:2000]) or "-", route.path)  # type: ignore[misc]
                    yield Ask("post" if "POST" in (route.methods or ()) else "get", path, (("token", ""),)), "", b""

    def test_no_bad_value_breaks_anything_or_changes_what_it_does_not_say(self) -> None:
        aside(self.ask_everything())

    async def ask_everything(self) -> None:
        offers = await self.offers()
        self.assertGreater(len(self.posts()), 15)
        by_field = defaultdict[tuple[str, str, str], list[tuple[Ask, str, bytes]]](list)
        for each in self.bad(offers):
            by_field[each[0].method, each[0].path, each[1]].append(each)
        for method in ("get", "post"):
            self.assertGreater(len({path for one, path, _ in by_field if one == method}), 10)
        draw = Random(SEED)
        paths = defaultdict[str, set[str]](set)
        for _, path, name in by_field:
            paths[name].add(path)
        tried = [
            draw.choice(values) for (_, _, name), values in by_field.items() if len(paths[name]) < COMMON or draw.random() < SOME
        ]
        self.assertGreater(len(tried), 600)
        token = next(dict(ask.fields)["token"] for ask in offers if "token" in dict(ask.fields))
        broken = []
        for ask, name, value in tried:
            if dict(ask.fields).get("token") == "":
                ask = Ask(ask.method, ask.path, (("token", token),))
            state = self.watch.execute("PRAGMA data_version").fetchone()
            answer = await ask.send(self.asks, name, value)
            moved = self.watch.execute("PRAGMA data_version").fetchone() != state
            shown = await self.asks.get(answer.headers["location"]) if moved and answer.status_code == 303 else answer
            if max(answer.status_code, shown.status_code) >= 500 or (
                answer.status_code >= 400 and moved and ask.method == "post"
            ):
                broken.append((answer.status_code, shown.status_code, ask.method, ask.path[:60], name, value[:30]))
            if moved and ask.method == "post":
                with closing(sqlite3.connect(self.settings.database)) as store:
                    self.before.backup(store)
        self.assertFalse(broken, "\n".join([f"{len(broken)} of {len(tried)}", *map(str, broken)]))


class Shown(Addresses):
    """A store with values that nobody could enter today, at the ends of what its tables take."""

    def test_no_bad_value_breaks_anything_or_changes_what_it_does_not_say(self) -> None:
        far, old = date(2100, 12, 31), date(1970, 1, 1)
        with self.household.recording() as session:
            session.get_one(HouseholdRow, 1).currency, session.get_one(PlaceRow, 1).zone = "XXX", "Factory"
            session.add_all(PriceRow(tariff_id=1, start_s=at, minutes=60, price_per_kwh=0.1) for at in (0, 4_102_441_200))
            for uid, on_date, region, since in (
                ("far", far, "", old),
                ("past", old, "", old),
                ("unknown", None, "ZZ", date(2027, 1, 1)),
            ):
                days = {"days": "" if on_date else "0123456", "on_date": on_date, "region": region, "since": since}
                session.add(DepartureRow(car_id=1, uid=uid, name=uid, at=time(7), km=4.0, **days))
            session.add(
                ReadingRow(
                    car_id=1,
                    read_at=datetime(2100, 12, 31, tzinfo=UTC),
                    kind="tyre",
                    part="FL",
                    value=240.0,
                    unit="kPa",
                    temp_c=5.0,
                    source="gauge",
                )
            )
        aside(self.everything_is_shown())

    async def everything_is_shown(self) -> None:
        await self.offers()
        self.assertGreater(len(self.shown), 30)
        self.assertEqual([each for each in self.shown.items() if each[1] >= 400], [])


if __name__ == "__main__":
    unittest.main()
