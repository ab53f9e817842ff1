"""The log in the store: paged by place, files taken over and back, everything out and in byte for byte."""

import json
import sqlite3
from collections.abc import Sequence
from contextlib import closing
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from jsonschema import Draft202012Validator

from frost_tally.core.errors import Refusal
from frost_tally.core.log.kinds import KINDS, Entry
from frost_tally.formats.document import SCHEMA, read_document
from frost_tally.formats.log_columns import Choice
from frost_tally.household import everything
from frost_tally.household.log import SIZE, Place, Wanted, page, read_entries
from frost_tally.household.models import CarRow, ChargeRow, ReadingRow
from frost_tally.household.store import rows
from frost_tally.household.unit_of_work import Household
from frost_tally.services import log
from frost_tally.services.log_data import room as my_data
from frost_tally.services.log_entry import room as log_entry
from frost_tally.services.log_import import room as log_files
from frost_tally.services.log_import import taking
from tests.homes import read, tables
from tests.household.test_store import InFolder

OF_THE_STORE = ('INSERT INTO "state"', 'INSERT INTO "written"')
HEAD = "car,begun_at [ISO 8601],ended_at [ISO 8601],site,outlet,soc_start [%],soc_end [%],wall_kwh [kWh],note\n"


def table(*charges: str) -> bytes:
    return (HEAD + "".join(f"{each}\n" for each in charges)).encode()


def row(day: int, kwh: float, note: str = "") -> str:
    return f"Marten,2020-03-{day:02d}T23:00:00+01:00,2020-03-{day + 1:02d}T03:00:00+01:00,home,Wall unit,40,80,{kwh},{note}"


def dump(home: Household) -> str:
    """Everything in the store, but for how far the store itself has come."""
    with closing(sqlite3.connect(home.engine.url.database or "")) as connection:
        return "\n".join(each for each in connection.iterdump() if not each.startswith(OF_THE_STORE))


def taken(home: Household, content: bytes, name: str = "a.csv") -> int:
    number = log_files.receive(home, read(home), name, content)
    log_files.look(home, number)
    return taking.take(home, number)


def counts(home: Household, content: bytes) -> dict[str, tuple[int, int, int]]:
    number = log_files.receive(home, read(home), "b.csv", content)
    log_files.look(home, number)
    return dict(log_files.preview(read(home), number).counts)


class Pages(InFolder):
    def test_every_order_and_filter_pages_through_all_of_it_once(self) -> None:
        home = self.household()
        for wanted in (
            Wanted(), Wanted(oldest_first=True), Wanted(kind="drive"), Wanted(kind="drive", sort=SIZE), Wanted(kind="charge", sort=SIZE, oldest_first=True),
            Wanted(car_id=2), Wanted(text="wall unit"), Wanted(since=datetime(2027, 1, 5, tzinfo=UTC), before=datetime(2027, 1, 9, tzinfo=UTC)),
        ):  # fmt: skip
            with self.subTest(wanted=wanted), tables(home) as session:
                whole = page(session, wanted, None, 10_000)
                found: list[tuple[Place, Entry]] = []
                while part := page(session, wanted, found[-1][0] if found else None, 7):
                    found += part
                self.assertEqual(found, whole)
                self.assertGreater(len(whole), 5)
                keys = [each.key for each, _ in whole]
                self.assertEqual(keys, sorted(keys, reverse=not wanted.oldest_first))

    def test_entries_of_the_same_moment_are_not_lost_between_pages(self) -> None:
        home, at = self.household(), datetime(2021, 5, 5, tzinfo=UTC)
        with home.deciding("ten at once") as session:
            session.add_all(
                ReadingRow(car_id=1 + i % 2, read_at=at, kind=("level", "odometer")[i % 2], value=0.5, unit=("1", "km")[i % 2])
                for i in range(10)
            )
        wanted = Wanted(since=at, before=at + timedelta(seconds=1))
        with tables(home) as session:
            found: list[tuple[Place, Entry]] = []
            while part := page(session, wanted, found[-1][0] if found else None, 3):
                found += part
        self.assertEqual(len({(e.kind, e.number) for _, e in found}), 10)

    def test_two_of_the_same_moment_are_kept_a_second_apart_so_that_a_file_has_both(self) -> None:
        home, at = self.household(), datetime(2021, 5, 5, tzinfo=UTC)
        for soc in (0.5, 0.6, 0.6):
            log_entry.keep(home, Entry(kind="level", car_id=1, values={"read_at": at, "value": soc}), read(home).now, "noted")
        (text,) = log.log_pieces(read(home))
        self.assertEqual(counts(home, text.encode())["level"][:2], (0, 0))
        with tables(home) as session:
            found = [entry for _, entry in page(session, Wanted(kind="level", before=at + timedelta(minutes=1)), None, 9)]
        self.assertEqual([(each.at - at).seconds for each in found], [2, 1, 0])


class Files(InFolder):
    def test_added_changed_there_already_and_back_again(self) -> None:
        home = self.household()
        before, first = dump(home), table(row(1, 20.5), row(2, 21.0, "cold"))
        undo = taken(home, first)
        self.assertEqual(counts(home, first), {"charge": (0, 0, 2)}, "the same file twice adds nothing")
        second = table(row(1, 20.5), row(2, 22.0, "=colder"), row(3, 9.0))
        self.assertEqual(counts(home, second), {"charge": (1, 1, 1)})
        again = taken(home, second)
        with tables(home) as session:
            notes = [each.note for each in session.query(ChargeRow).filter(ChargeRow.begun_at < datetime(2021, 1, 1, tzinfo=UTC))]
        self.assertEqual(notes, ["", "=colder", ""])
        for number in (again, undo):
            redo = home.undo(number)
            home.undo(home.undo(redo))
        self.assertEqual(self.entries_of(dump(home)), self.entries_of(before))

    def entries_of(self, text: str) -> list[str]:
        return [each for each in text.splitlines() if 'INTO "charge"' in each or "INTO charge" in each]

    def test_a_file_is_not_pulled_from_under_a_later_correction(self) -> None:
        home = self.household()
        undo = taken(home, table(row(1, 20.5), row(2, 21.0)))
        with tables(home) as session:
            number = (
                session.query(ChargeRow.id)
                .filter(ChargeRow.wall_kwh == 21.0, ChargeRow.begun_at < datetime(2021, 1, 1, tzinfo=UTC))
                .scalar()
            )
        found = log_entry.entry(read(home), "charge", number)
        _, corrected = log_entry.keep(
            home, replace(found, values={**found.values, "wall_kwh": 12.0}), read(home).now, "corrected"
        )
        with self.assertRaisesRegex(Refusal, "changed again since"):
            home.undo(undo)
        home.undo(corrected)
        home.undo(undo)
        self.assertEqual(counts(home, table(row(1, 20.5))), {"charge": (1, 0, 0)})

    def test_twice_in_a_file_counts_once_or_is_a_bad_row(self) -> None:
        home = self.household()
        number = log_files.receive(home, read(home), "c.csv", table(row(1, 20.5), row(1, 20.5), row(1, 19.0), row(4, 8.0)))
        log_files.look(home, number)
        found = log_files.preview(read(home), number)
        self.assertEqual((found.counts["charge"], found.bad_count), ((2, 0, 0), 1))
        self.assertIn("line 2", found.bad[0][2])
        taking.take(home, number)
        with self.assertRaisesRegex(Refusal, "This file was taken over"):
            taking.take(home, number)

    def test_the_whole_log_out_and_in_is_the_same(self) -> None:
        home = self.household()
        (text,) = log.log_pieces(read(home))
        self.assertTrue(all(added == changed == 0 for added, changed, _ in counts(home, text.encode()).values()))
        entries = log.everything(read(home), Wanted(oldest_first=True))
        undo = home
        for each in entries:
            log_entry.remove(home, each.kind, each.number, "away")
        self.assertEqual(log.everything(read(undo), Wanted()), [])
        taken(home, text.encode())
        after = log.everything(read(home), Wanted(oldest_first=True))
        self.assertEqual([_plain(each) for each in after], [_plain(each) for each in entries])

    def test_a_spreadsheet_that_writes_semicolons_and_decimal_commas_is_read_as_well(self) -> None:
        home = self.household()
        saved = table(row(1, 20.5)).decode().replace(",", ";").replace("20.5", "20,5")
        self.assertEqual(counts(home, saved.encode()), {"charge": (1, 0, 0)})
        taken(home, b"\xef\xbb\xbf" + saved.encode())
        self.assertEqual(counts(home, table(row(1, 20.5))), {"charge": (0, 0, 1)})

    def test_entries_of_a_car_that_was_put_away_go_out_and_come_back_under_its_name(self) -> None:
        home = self.household()
        with home.deciding("sold") as session:
            session.get_one(CarRow, 2).withdrawn = True
        (text,) = log.log_pieces(read(home))
        self.assertIn("Dray", text)
        number = log_files.receive(home, read(home), "f.csv", text.encode())
        log_files.look(home, number)
        found = log_files.preview(read(home), number)
        self.assertEqual((found.added, found.changed, found.bad_count), (0, 0, 0))

    def test_a_chosen_header_is_remembered(self) -> None:
        home = self.household()
        foreign = b"When,Level\n2020-01-01 10:00,50\n"
        number = log_files.receive(home, read(home), "d.csv", foreign)
        self.assertIsNone(log_files.preview(read(home), number).choice)
        choice = Choice(kind="level", columns={"read_at": (0, ""), "value": (1, "%")}, zone="Europe/Oslo", car_id=1)
        with self.assertRaises(Refusal) as refused:
            log_files.choose(home, read(home), number, replace(choice, columns={"read_at": (0, "")}))
        self.assertEqual(refused.exception.field, "value")
        log_files.choose(home, read(home), number, choice)
        number = log_files.receive(home, read(home), "e.csv", foreign)
        self.assertEqual(log_files.preview(read(home), number).choice, choice)
        self.assertEqual(counts(home, foreign), {"level": (1, 0, 0)})


def _plain(entry: Entry) -> tuple[object, ...]:
    numbers = {name: round(value, 9) if isinstance(value, float) else value for name, value in entry.values.items()}
    return entry.kind, entry.car_id, numbers, entry.assumed, entry.source


class Everything(InFolder):
    def document(self, home: Household) -> bytes:
        return "".join(my_data.document_of(my_data.database_of(home))).encode()

    def test_a_document_brings_back_the_same_database_byte_for_byte(self) -> None:
        home = self.household()
        taken(home, table(row(1, 20.5), row(2, 21.0, "“cold”, and 'late'")))
        before, document = dump(home), self.document(home)
        my_data.delete_all(home, self.backups, "delete")
        self.assertEqual(sum(rows(self.database).values()), 0)
        with tables(home) as session:
            self.assertEqual(read_entries(session, [("charge", 1)]), {})
        state = read(home).revision
        my_data.bring_back(home, self.backups, my_data.prepare_document(self.database, document).number, state)
        self.assertEqual(dump(home), before)
        self.assertEqual(self.document(home), document)
        self.assertEqual(len(list(self.backups.glob("*.db"))), 2, "what was there before was kept both times")

    def test_the_published_schema_is_that_of_the_tables_and_the_document_keeps_it(self) -> None:
        schema = json.loads(SCHEMA.read_text())
        self.assertEqual(schema, json.loads(json.dumps(everything.schema())), "renew it: python -m scripts.schema")
        home = self.household()
        wrong = next(Draft202012Validator(schema).iter_errors(json.loads(self.document(home))), None)
        self.assertIsNone(wrong)

    def test_what_is_no_whole_household_changes_nothing(self) -> None:
        home = self.household()
        before, good = dump(home), json.loads(self.document(home))

        def spoiled(*path: str | int, value: object) -> bytes:
            found = json.loads(json.dumps(good))
            at = found
            for each in path[:-1]:
                at = at[each]
            at[path[-1]] = value
            return json.dumps(found).encode()

        car: Sequence[str | int] = ("tables", "drive", "rows", 0, good["tables"]["drive"]["columns"].index("car_id"))
        for content, part in (
            (b"{", "not JSON"),
            (b'{"format": "frost-tally-household"}', "lacks"),
            (spoiled("format", value="other"), "no document"),
            (spoiled("version", value="9999"), "another version"),
            (spoiled("tables", "car", "columns", value=["id"]), "one value for each column"),
            (spoiled("tables", "nothing", value={"columns": ["a"], "rows": []}), "no table of that version"),
            (spoiled(*car, value=4711), "damaged"),
            (spoiled(*car, value=True), "neither text nor number"),
            (spoiled("tables", "car", "rows", 0, 1, value="\ud800"), ""),
            (b'{"format": "frost-tally-household", "version": NaN}', "number"),
        ):
            with self.subTest(part=part), self.assertRaises(Refusal) as refused:
                my_data.prepare_document(self.database, content)
            self.assertIn(part, refused.exception.message)
            self.assertEqual(my_data.waiting(self.database), ())
        self.assertEqual(dump(home), before)

    def test_rows_shorter_than_their_header_are_read_as_far_as_they_go(self) -> None:
        """All of one length, they stopped the preview, and its page for good."""
        home = self.household()
        number = log_files.receive(home, read(home), "a.csv", table(*(row(day, 20.5).rsplit(",", 3)[0] for day in (1, 2))))
        log_files.look(home, number)
        self.assertEqual((log_files.preview(read(home), number).added, log_files.preview(read(home), number).bad_count), (2, 0))
        number = log_files.receive(home, read(home), "b.csv", HEAD.encode() + b"Marten\nMarten\n")
        log_files.look(home, number)
        self.assertEqual([each[1] for each in log_files.preview(read(home), number).bad][:1], ["begun_at [ISO 8601]"])

    def test_every_kind_of_entry_has_a_table_with_its_columns(self) -> None:
        home, at = self.household(), datetime(2026, 5, 5, tzinfo=UTC)
        samples: dict[str, object] = {"moment": at, "outlet": 1, "text": "word", "yes_no": True}
        for kind, shape in KINDS.items():
            values: dict[str, object] = {}
            for each in shape.columns:
                values[each.name] = each.options[-1] if each.options else samples.get(each.quantity, (each.low + each.high) / 2)
            values |= {"how": "charge", "soc_from": 0.2, "soc_to": 0.8} if kind == "capacity_test" else {}
            number, _ = log_entry.keep(home, Entry(kind=kind, car_id=1, values=values), read(home).now, "noted")
            self.assertEqual(log_entry.entry(read(home), kind, number).values, values)

    def test_an_old_document_is_brought_up_to_date(self) -> None:
        home = self.household()
        good = json.loads(self.document(home))
        table = good["tables"]["drive"]
        at = table["columns"].index("note")
        self.assertGreater(len(read_document(json.dumps(good).encode()).tables["drive"].columns), at)
        old = {"version": "0009", "format": good["format"], "numbers": good["numbers"], "tables": {}}
        new = {
            "drive": ("kwh", "out_c", "mean_kmh", "load_kg", "preheated", "note", "sure", "noted_by"),
            "charge": ("site", "out_c", "note", "sure", "post_kw", "noted_by"),
            "reading": ("sure", "noted_by"),
            "leaving": ("noted_by",),
            "event": ("who", "item", "noted_by"),
            "car": (
                "fast_points",
                "warm_notes",
                "soh_told",
                "soh_told_at",
                "drive_heat_from_c",
                "drive_heat_kw",
                "drive_heat_off",
                "friction_share",
                "most_kw",
            ),
            "undo": ("revision", "who", "request_key", "request_digest"),
            "departure": ("nights", "place_id"),
            "outlet": ("held_from", "held_until", "held_a", "lights", "point"),
            "place": ("winters",),
            "learnt": ("pack_heat", "pack_heat_days"),
            "habit": (
                "control",
                "timer_step",
                "awake_from",
                "awake_until",
                "charges",
                "plugs",
                "school",
                "before",
                "keeps",
                "tag",
            ),
            "tariff": ("typical",),
            "person": ("date_order", "email", "mailed"),
        }
        for name, each in good["tables"].items():
            if name in (
                "present",
                "capacity_test",
                "known_header",
                "weather",
                "battery",
                "guide",
                "small_battery",
                "start_check",
                "reminder",
                "point_report",
                "night_line",
                "night_check",
                "way",
                "aside",
            ):
                continue
            keep = [i for i, column in enumerate(each["columns"]) if column not in new.get(name, ())]
            old["tables"][name] = {
                "columns": [each["columns"][i] for i in keep],
                "rows": [[one[i] for i in keep] for one in each["rows"]],
            }
        house = old["tables"]["household"]
        house["columns"] += ["revision", "out_now_c", "out_low_c", "clock"]
        house["rows"][0] += [7, 0.0, -5.0, None]
        found = my_data.prepare_document(self.database, json.dumps(old).encode())
        self.assertEqual((found.rows["drive"], found.missing), (len(table["rows"]), ()))
