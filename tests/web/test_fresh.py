"""After any change by any form, and as hours pass, every page is what it would be with nothing kept: from the routes, so that new rooms
come along.
"""

import asyncio
import functools
import gc
import os
import re
from datetime import timedelta
from random import Random

from frost_tally.services.log_data import room as my_data
from frost_tally.services.shared import derived
from frost_tally.world import StandingClock
from tests.drilled import DRILL, count, seed_of
from tests.uncounted import uncounted

from .client import aside
from .test_edge import Ask, Offered

PASSING = re.compile(r'name="token" value="[^"]*"|value="[\w.-]{60,}"|/static/\w+/|\?v=\w+')
"""What differs between two pages of one state."""
QUIET = (
    "/undo",
    "/log/data",
    "/setup",
    "/tonight/clock",
    "/log/import",
    "/garage/import",
    "/garage/taking",
    "/garage/look",
    "/day/track",
)
"""Forms that lead nowhere without a file, or away from everything."""


def empty_all_caches() -> None:
    """Nothing that was worked out is kept; the core's own, which stand under the values that they are made of, in the drill alone."""
    derived.forget()
    for each in gc.get_objects() if DRILL in os.environ else ():
        if type(each) is functools._lru_cache_wrapper and str(getattr(each, "__module__", "")).startswith("frost_tally.core"):
            each.cache_clear()


class Fresh(Offered):
    @uncounted()
    def test_a_warm_page_is_the_page_with_nothing_kept(self) -> None:
        aside(self.change_and_compare())

    async def page(self, address: str) -> tuple[int, str]:
        answer = await self.asks.get(address)
        for _ in range(200):
            if answer.status_code != 202 and "being worked out" not in answer.text and "data-ask" not in answer.text:
                break
            await asyncio.sleep(0.1)
            answer = await self.asks.get(address)
        return answer.status_code, PASSING.sub("", answer.text)

    async def change_and_compare(self) -> None:
        draw = Random(seed_of(self.id()))
        offers = await self.of_the_rooms()
        posts = [each for each in offers if each.method == "post" and not each.path.startswith(QUIET)]
        pages = sorted(
            {each for each, status in self.shown.items() if status == 200 and "undo=" not in each and "/static" not in each}
        )
        pages += [
            f"{each}&now=1" if "?" in each else f"{each}?now=1"
            for each in ("/garage/outlets", "/garage/compare", "/day/long/side?way=1")
        ]
        stale = []
        for turn in range(count(90)):
            looked = draw.sample(pages, 3) if turn % 3 else [*draw.sample(pages, 2), draw.choice(pages[-3:])]
            for each in looked:
                await self.page(each)
            what = await self.changed(draw, posts, turn)
            for each in looked:
                warm = await self.page(each)
                empty_all_caches()
                self.household._homes.clear()
                cold = await self.page(each)
                if warm != cold:
                    stale.append((what, each, difference(warm[1], cold[1])))
        self.assertFalse(stale, "\n".join(map(str, stale)))

    async def changed(self, draw: Random, posts: list[Ask], turn: int) -> str:
        """Some form sent as it stands, with a number in it a little different; or hours that pass."""
        if turn % 4 == 3:
            now, here = self.household.world.clock, self.read().now
            assert isinstance(now, StandingClock)
            hours = draw.choice([0.4, 1.0, 3.0, 9.0])
            now.set(here + timedelta(hours=hours, seconds=draw.randrange(60)))
            return f"{hours} h passed"
        ask = draw.choice(posts)
        fields = await self.sealed(ask)
        free = [
            i
            for i, (name, value) in enumerate(fields)
            if re.fullmatch(r"\d+(\.\d+)?", value) and name not in ("car", "way", "number")
        ]
        if free:
            at = draw.choice(free)
            fields[at] = fields[at][0], f"{float(fields[at][1]) * draw.choice([0.9, 1.1, 1.3]):.0f}"
        answer = await Ask("post", ask.path, tuple(fields)).send(self.asks)
        return f"{ask.path} {fields} {answer.status_code}"


def difference(one: str, other: str) -> str:
    """Where two texts part."""
    at = next((i for i, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), min(len(one), len(other)))
    return f"…{one[max(0, at - 60) : at + 80]!r} / {other[max(0, at - 60) : at + 80]!r}"


class LivedIn(Offered):
    @uncounted()
    def test_whatever_the_forms_take_a_document_and_a_copy_bring_back(self) -> None:
        """Every form sent as it stands, and with its numbers at their ends: what was taken is no reason to refuse a home."""
        aside(self.fill())
        document = "".join(my_data.document_of(self.settings.database))
        found = my_data.prepare_document(self.settings.database, document.encode())
        self.assertGreater(sum(found.rows.values()), 1000)
        copy = my_data.copy_now(self.household, self.settings.backups)
        self.assertEqual(my_data.prepare_copy(self.household, self.settings.backups, copy.name).rows, found.rows)

    async def fill(self) -> None:
        offers = await self.of_the_rooms()
        posts = [each for each in offers if each.method == "post" and not each.path.startswith((*QUIET, "/garage/remove"))]
        taken = 0
        for ask in posts:
            for end in (0, 1, 2):
                fields = [(name, self.at_its_end(name, value, end)) for name, value in await self.sealed(ask)]
                answer = await Ask("post", ask.path, tuple(fields)).send(self.asks)
                self.assertLess(answer.status_code, 500, (ask.path, fields))
                taken += answer.status_code == 303
        self.assertGreater(taken, len(posts) // 2)

    def at_its_end(self, name: str, value: str, end: int) -> str:
        """The value itself, or, of a number, one that is likely the least or the most that will do."""
        if (
            not end
            or name in ("token", "revision", "car", "way", "number", "night", "step")
            or not re.fullmatch(r"-?\d+(\.\d+)?", value)
        ):
            return value
        return "0" if end == 1 else f"{float(value) * 3:.1f}"
