"""The log as CSV: what goes out comes back (RFC 4180), whatever other programs write is read or refused with its place."""

import csv
import io
import random
import unittest
from datetime import UTC, datetime, timedelta
from typing import Any
from unittest import mock
from zoneinfo import ZoneInfo

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from frost_tally.core.errors import Refusal
from frost_tally.core.log.check import check
from frost_tally.core.log.kinds import CHOICE, KINDS, MOMENT, OUTLET, TEXT, YES_NO, Column, Entry
from frost_tally.formats import log_csv
from frost_tally.formats.log_columns import Choice, LogHome, own_choice
from frost_tally.formats.log_csv import Chunk, chunks, write_entries
from frost_tally.formats.log_guess import guess_columns, guess_kind
from frost_tally.formats.readers import kind_of
from frost_tally.formats.table import header_of

OSLO = ZoneInfo("Europe/Oslo")
CARS, OUTLETS = {1: "Marten", 2: "Dray"}, {1: "Wall unit", 2: "Barn, left"}
HOME = LogHome(
    cars={name.casefold(): key for key, name in CARS.items()}, outlets={name.casefold(): key for key, name in OUTLETS.items()}
)
WORDS = st.text("aZ09 ,;\"'=+-@#|\\éß½←🐻", max_size=40).map(str.strip)


def value(column: Column) -> st.SearchStrategy[Any]:
    if column.quantity == MOMENT:
        found: st.SearchStrategy[Any] = st.integers(10**9, 3 * 10**9).map(lambda s: datetime.fromtimestamp(s, UTC))
    elif column.quantity == OUTLET:
        found = st.sampled_from(sorted(OUTLETS))
    elif column.quantity == CHOICE:
        return st.sampled_from(column.options)
    elif column.quantity == YES_NO:
        return st.booleans()
    elif column.quantity == TEXT:
        return WORDS.filter(lambda text: bool(text) or not column.needed)
    else:
        found = st.floats(column.low, column.high, allow_nan=False).map(lambda x: float(f"{x:.9g}"))
        found = found.filter(lambda x: column.low <= x <= column.high)
    return found if column.needed else st.none() | found


@st.composite
def entries(draw: st.DrawFn) -> Entry:
    kind = draw(st.sampled_from(sorted(KINDS)))
    values = {column.name: draw(value(column)) for column in KINDS[kind].columns}
    for a, b in (("soc_end", "soc_start"), ("home_at", "left_at"), ("begun_at", "ended_at"), ("pack_kwh", "wall_kwh")):
        if values.get(a) is not None and values.get(b) is not None:
            low, high = sorted((values[a], values[b]))
            values[a], values[b] = (high, low) if (a, kind) in (("soc_end", "charge"), ("home_at", "drive")) else (low, high)
    if kind == "capacity_test":
        values |= {"how": "discharge", "soc_from": 0.9, "soc_to": 0.2}
    check(kind, values)
    assumed = draw(st.frozensets(st.sampled_from([each.name for each in KINDS[kind].columns]), max_size=3))
    return Entry(kind=kind, car_id=draw(st.sampled_from(sorted(CARS))), values=values, assumed=assumed, source="meter")


def read(text: str | bytes, choice: Choice | None = None) -> list[Chunk]:
    content = text.encode() if isinstance(text, str) else text
    found = choice or own_choice(header_of(content), "Europe/Oslo")
    assert found is not None, header_of(content)
    return list(chunks(content, found, HOME, []))


def plain(entry: Entry) -> dict[str, Any]:
    """What an entry is, as its row should be."""
    shown = {name: value for name, value in entry.values.items() if value not in (None, "", False)}
    return {"kind": entry.kind, "car": entry.car_id, "assumed": tuple(sorted(entry.assumed)), **shown}


def rows(found: list[Chunk]) -> list[dict[str, Any]]:
    told = []
    for chunk in found:
        for kind, part in chunk.rows:
            for i, line in enumerate(part.lines):
                one: dict[str, Any] = {"line": line, "kind": kind, "car": part.cars[i], "assumed": part.assumed[i]}
                for name, column in part.columns.items():
                    each = column[i]
                    if isinstance(each, np.datetime64):
                        each = None if np.isnat(each) else each.astype(datetime).replace(tzinfo=UTC)
                    if each not in (None, "", False):
                        one[name] = each
                told.append(one)
    return sorted(told, key=lambda each: int(each.pop("line")))


class RoundTrip(unittest.TestCase):
    def assert_alike(self, one: dict[str, Any], other: dict[str, Any]) -> None:
        self.assertEqual(one.keys(), other.keys())
        for name, each in one.items():
            if isinstance(each, float):
                self.assertAlmostEqual(each, other[name], delta=1e-9 * (1 + abs(each)))
            else:
                self.assertEqual(each, other[name])

    @settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
    @given(st.lists(entries(), min_size=1, max_size=8))
    def test_every_kind_comes_back_from_one_table_and_from_its_own(self, given: list[Entry]) -> None:
        for kind in ("", *{each.kind for each in given}):
            part = [each for each in given if kind in ("", each.kind)]
            text = write_entries(part, CARS, OUTLETS, OSLO, kind)
            found = read(text)
            self.assertEqual([each for chunk in found for each in chunk.bad], [])
            for one, other in zip([plain(each) for each in part], rows(found), strict=True):
                self.assert_alike(one, other)
            with mock.patch.object(log_csv._Reader, "_at_once", side_effect=ValueError):
                slow = rows(read(text))
            self.assertEqual(slow, rows(found), "row by row as column by column")

    def test_a_formula_is_kept_from_running_and_comes_back_as_it_was(self) -> None:
        at = datetime(2027, 1, 14, 18, tzinfo=UTC)
        for note in ("=1+1", "'=1+1", "''@x", "'quoted'"):
            one = Entry(kind="event", car_id=1, values={"at": at, "kind": "repair", "note": note})
            text = write_entries([one], CARS, OUTLETS, OSLO)
            cells = list(csv.reader(io.StringIO(text)))
            self.assertFalse([cell for cell in cells[1] if cell[:1] in ("=", "+", "-", "@")])
            self.assertEqual(rows(read(text))[0]["note"], note)


HEAD = "car,begun_at [ISO 8601],ended_at [ISO 8601],site,soc_start [%],soc_end [%],wall_kwh [kWh]\n"
GOOD = "Marten,2027-01-14T23:00:00+01:00,2027-01-15T03:00:00+01:00,home,40,80,25.1\n"


class Bad(unittest.TestCase):
    def bad(self, row: str, head: str = HEAD) -> tuple[int, str, str]:
        found = read(head + GOOD + row + "\n" + GOOD.replace("-14T", "-16T").replace("-15T", "-17T"))
        (one,) = [each for chunk in found for each in chunk.bad]
        self.assertEqual(len(rows(found)), 2, "the good rows beside it are read")
        return one.line, one.column, one.reason

    def test_each_bad_row_has_its_line_column_and_reason(self) -> None:
        for row, column, part in (
            (GOOD.replace("80", "180").strip(), "soc_end [%]", "between 0 and 100"),
            (GOOD.replace("Marten", "Otter").strip(), "car", "no car of yours"),
            (GOOD.replace("home", "moon").strip(), "site", "none of: home, elsewhere, fast"),
            (GOOD.replace("25.1", "lots").strip(), "wall_kwh [kWh]", "not a number"),
            (GOOD.replace("25.1", "1_0").strip(), "wall_kwh [kWh]", "not a number"),
            (GOOD.replace("25.1", "nan").strip(), "wall_kwh [kWh]", "not a number"),
            (GOOD.replace("2027-01-14T23:00:00+01:00", "").strip(), "begun_at [ISO 8601]", "needed"),
            (GOOD.replace("2027-01-14T23:00:00+01:00", "2027-02-30T23:00:00+01:00").strip(), "begun_at [ISO 8601]", "not a time"),
            (GOOD.replace("2027-01-14T23:00:00+01:00", "2027-03-28T02:30").strip(), "begun_at [ISO 8601]", "clocks go forward"),
            (GOOD.replace("2027-01-15T03", "2027-01-13T03").strip(), "ended_at", "ended before it began"),
            (GOOD.replace("40,80", "80,40").strip(), "soc_end", "ended with less"),
            (GOOD.replace("home", "x" * 10_000).strip(), "site", "10000 letters are no value"),
            ("Marten", "begun_at [ISO 8601]", "needed"),
        ):
            with self.subTest(row=row[:60]):
                line, where, reason = self.bad(row)
                self.assertEqual((line, where), (3, column))
                self.assertIn(part, reason)

    def test_what_is_no_table_of_ours_is_said_so(self) -> None:
        for content, part in (
            (b"", "empty"),
            ((HEAD + GOOD).encode("utf-16"), "UTF-16"),
            ((HEAD + GOOD.replace("Marten", "Mårten")).encode("latin-1"), "not UTF-8"),
            (HEAD.encode(), "no rows"),
            (random.Random(3).randbytes(4000), "not"),
            ((HEAD + GOOD).replace("site", "car").encode(), "there twice"),
            ((",".join(f"c{i}" for i in range(300)) + "\n" + "1," * 299 + "1\n").encode(), "200 columns"),
        ):
            with self.subTest(part=part), self.assertRaises(Refusal) as refused:
                kind_of(content)
                read(content)
            self.assertIn(part, refused.exception.message)
        self.assertEqual(len(rows(read("\ufeff" + HEAD + GOOD))), 1, "a mark of UTF-8 at the start is none of the header")
        self.assertIsNone(own_choice(header_of(b"when,how much\n1,2\n"), "UTC"))

    def test_a_long_file_stays_small_in_memory(self) -> None:
        base = datetime(2000, 1, 1, tzinfo=UTC)
        text = HEAD + "".join(
            f"Dray,{(at := base + timedelta(hours=6 * i)).isoformat()},{(at + timedelta(hours=2)).isoformat()},home,40,80,25.1\n"
            for i in range(9001)
        )
        found = chunks(text.encode(), own_choice(header_of(text.encode()), "UTC") or Choice(kind="", columns={}), HOME, [])
        sizes = [sum(len(part.lines) for _, part in chunk.rows) for chunk in found]
        self.assertEqual((sum(sizes), max(sizes)), (9001, log_csv.CHUNK))


class Foreign(unittest.TestCase):
    FILE = "Start;Slutt;Miles;SOC start;SOC slutt\n14.01.2027 07:10;14.01.2027 16:02;62,5;0,80;0,41\n29.10.2026 08:00;;10,0;0,7;0,6\n"

    def test_miles_shares_commas_and_days_first(self) -> None:
        header = header_of(self.FILE.encode())
        self.assertIsNone(own_choice(header, "Europe/Oslo"))
        columns = {"left_at": (0, ""), "home_at": (1, ""), "km": (2, "mi"), "soc_start": (3, "0–1"), "soc_end": (4, "0–1")}
        choice = Choice(kind="drive", columns=columns, comma=True, dates="dmy", zone="Europe/Oslo", car_id=2)
        found = rows(read(self.FILE, choice))
        self.assertEqual(found[0]["left_at"], datetime(2027, 1, 14, 6, 10, tzinfo=UTC))
        self.assertAlmostEqual(found[0]["km"], 62.5 * 1.609344)
        self.assertEqual((found[0]["soc_start"], found[0]["car"], "home_at" in found[1]), (0.8, 2, False))

    def test_the_header_is_guessed_from(self) -> None:
        header = ("Charge start", "Charge end", "Start SOC", "End SOC", "Energy delivered (kWh)", "Cost", "Vehicle")
        self.assertEqual(guess_kind(header), "charge")
        found = guess_columns("charge", header)
        expected = {"begun_at": 0, "ended_at": 1, "soc_start": 2, "soc_end": 3, "wall_kwh": 4, "cost": 5, "car": 6}
        self.assertEqual({name: at for name, (at, _) in found.items()}, expected)
        miles = guess_columns("drive", ("Departure", "Distance [mi]", "SOC start", "SOC end"))
        self.assertEqual(miles["km"], (1, "mi"))

    def test_files_are_told_apart(self) -> None:
        for content, kind in (
            (HEAD + GOOD, "log"),
            ("start,kwh\n2027-01-01T00:00Z,1\n", "readings"),
            ("start,price_per_kwh\n2027-01-01T00:00Z,0.2\n", "prices"),
            ('{"format": "frost-tally-tariff"}', "tariff"),
            ('{"format": "frost-tally-household"}', "everything"),
            ('<?xml version="1.0"?><gpx version="1.1"></gpx>', "track"),
            ("<feed/>", "readings"),
        ):
            self.assertEqual(kind_of(content.encode()), kind)
