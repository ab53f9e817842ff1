"""Documents of everything, made wrong on purpose: what the published schema forbids is refused, and what is taken opens in every room."""

import json
import random
from typing import Any

from jsonschema import Draft202012Validator

from frost_tally.formats.document import SCHEMA
from tests.drilled import count, seed_of
from tests.uncounted import uncounted
from tests.web.client import WebCase, hidden

Document = dict[str, Any]
WRONG: tuple[object, ...] = (
    None, "", "x", "12", -1, 0, 1, 1.5, 1e9, -1e9, 1e308, 10**20, "2027-02-30 10:00:00.000000", "2027-01-14 17:12", "Nowhere/Land", "[]",
    "{}", "[1,2]", "null", '{"a":1}', '"x"', [], True, "\u0000", "é" * 5000, "9", "99:99:99.000000", 300, -300, 7,
)  # fmt: skip
ROOMS = (
    "/tonight", "/tonight?car=2", "/week", "/day", "/day/long", "/day/tyres", "/day/matters", "/warm-up",
    "/week/departures.ics", "/battery", "/battery/schools/live", "/battery/used", "/parked", "/parked/season", "/parked/twelve-volt",
    "/log", "/log/doubts", "/log/month", "/log/learnt", "/log/import", "/log/data", "/garage", "/garage/tariffs", "/garage/house", "/basis",
)  # fmt: skip


def spoiled(good: Document, draw: random.Random) -> tuple[Document, str]:
    """A document with one thing wrong in it, or odd, and what."""
    found: Document = json.loads(json.dumps(good))
    name = draw.choice([each for each, table in found["tables"].items() if table["rows"]])
    table, way = found["tables"][name], draw.random()
    at = draw.randrange(len(table["rows"]))
    if way < 0.06:
        del found["tables"][name]
        return found, f"no table {name}"
    if way < 0.14:
        table["rows"] = [] if way < 0.08 else [*table["rows"][:at], *table["rows"][at + 1 :]]
        return found, f"without {name} {at if way >= 0.08 else 'at all'}"
    column = draw.randrange(len(table["columns"]))
    was = table["rows"][at][column]
    value: object = draw.choice(WRONG)
    if isinstance(was, int | float) and draw.random() < 0.3:
        value = was * draw.choice([-1, 0, 10, 100, 1000, 0.001])
    elif isinstance(was, str) and was[:1] in ("[", "{") and draw.random() < 0.6:
        value = draw.choice([was.replace("1", "x", 1), '{"x": [1]}', "[[1]]", "[null]", '["a"]', '{"town_1": "a"}'])
    table["rows"][at][column] = value
    return found, f"{name}.{table['columns'][column]} of row {at}: {was!r} is {str(value)[:40]!r}"


class Documents(WebCase):
    def setUp(self) -> None:
        super().setUp()
        self.good: Document = json.loads(self.client.get("/log/data/everything.json").text)
        self.token = self.fields("/log/data")["token"]
        self.schema = Draft202012Validator(json.loads(SCHEMA.read_text()))

    def brought(self, document: Document) -> tuple[int, str]:
        """What bringing it back answers."""
        answer = self.client.post(
            "/log/data/bring", data={"token": self.token}, files={"file": ("a.json", json.dumps(document).encode())}
        )
        return answer.status_code, answer.text

    @uncounted()
    def test_what_the_schema_forbids_is_refused_and_what_is_taken_opens_in_every_room(self) -> None:
        """Outside reference: the JSON Schema that we publish, by the library jsonschema."""
        draw, taken = random.Random(seed_of(self.id())), 0
        for _ in range(count(400)):
            document, what = spoiled(self.good, draw)
            with self.subTest(what=what):
                status, page = self.brought(document)
                self.assertIn(status, (200, 422))
                if not self.schema.is_valid(document):
                    self.assertEqual(status, 422)
                if status == 200:
                    taken += 1
                    done = self.client.post("/log/data/back", data={**hidden(page), "how": "take"})
                    self.assertEqual(done.status_code, 200)
                    rooms = draw.sample(ROOMS, count(len(ROOMS)) + 3 if count(10) == 1 else len(ROOMS))
                    broken = [each for each in rooms if self.client.get(each).status_code >= 500]
                    self.assertEqual(broken, [])
        self.assertGreater(taken, 0)

    def test_what_is_missing_is_named_in_the_preview(self) -> None:
        document = json.loads(json.dumps(self.good))
        del document["tables"]["drive"], document["tables"]["way"]
        status, page = self.brought(document)
        self.assertEqual(status, 200)
        self.assertRegex(page, r"It says nothing at all of: (drives, long ways|long ways, drives)\.")
        self.assertNotIn("nothing at all", self.brought(self.good)[1])

    def test_what_cannot_be_is_named_with_its_place_and_changes_nothing(self) -> None:
        for table, column, value, said in (
            ("present", "clock", "2027-13-45 99:00:00.000000", "“present.clock” has “2027-13-45"),
            ("place", "zone", "Nowhere/Land", "“place.zone” has “Nowhere/Land”"),
            ("habit", "limit", 7.0, "“habit.limit” has “7.0”"),
            ("car", "usable_kwh_new", -3.0, "“car.usable_kwh_new”"),
            ("drive", "soc_end", "0.3", "row 1 of “drive” has “0.3” as soc_end"),
            ("usual_day", "levers", "[1]", "“usual_day.levers”"),
            ("person", "distance_unit", "furlong", "“person.distance_unit”"),
        ):
            document = json.loads(json.dumps(self.good))
            rows = document["tables"][table]
            rows["rows"][0][rows["columns"].index(column)] = value
            status, page = self.brought(document)
            self.assertEqual(status, 422, column)
            self.assertIn(said, page.replace("&#39;", "'"), column)
        self.assertEqual(json.loads(self.client.get("/log/data/everything.json").text), self.good)
