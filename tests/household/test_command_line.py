"""`frost-tally export` and `import`: every format that has a reader, dry runs, and what is refused with exit code 2."""

import os
import sys
from contextlib import redirect_stderr, redirect_stdout
from io import StringIO
from pathlib import Path
from subprocess import run
from unittest import mock

from frost_tally import cli
from frost_tally.formats.writers import write_file
from frost_tally.household.models import DriveRow
from frost_tally.services import tariffs
from tests.homes import read, tables
from tests.household.test_log_store import dump
from tests.household.test_store import InFolder

HEAD = "car,read_at [ISO 8601],soc [%]\n"
TRACK = (
    '<?xml version="1.0"?><gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1"><trk><trkseg>'
    + "".join(f'<trkpt lat="{60 + i / 200}" lon="9"><time>2027-01-13T07:{i:02d}:00Z</time></trkpt>' for i in range(50))
    + "</trkseg></trk></gpx>"
)


class Files(InFolder):
    def setUp(self) -> None:
        super().setUp()
        self.database = self.folder / "demo.db"
        self.backups = self.folder / "backups"
        self.kept = self.household()

    def run_it(self, *typed: str) -> tuple[int, str]:
        """Exit code and everything said."""
        said, wide = StringIO(), {"FROST_TALLY_DATA_DIR": str(self.folder), "COLUMNS": "300"}
        asked = mock.patch.dict(os.environ, wide), mock.patch.object(sys, "argv", ["frost-tally", *typed, "--demo"])
        with asked[0], asked[1], redirect_stdout(said), redirect_stderr(said):
            try:
                cli.main()
            except SystemExit as done:
                return int(done.code or 0), said.getvalue()
        return 0, said.getvalue()

    def file(self, name: str, content: str) -> str:
        path = self.folder / name
        path.write_text(content)
        return str(path)

    def dump(self) -> list[str]:
        return dump(self.kept).splitlines()

    def test_help_loads_nothing_that_it_does_not_need(self) -> None:
        """Counted in a process of its own: no arithmetic, no store, no pages; and a start whose tables are today's moves none."""
        for typed, without in (
            ("--help", {"numpy", "scipy", "sqlalchemy", "fastapi", "pydantic", "babel", "argon2", "cryptography"}),
            ("tonight", {"fastapi", "uvicorn", "alembic", "jinja2", "scipy", "jsonschema"}),
        ):
            asked = (
                f"import sys; sys.argv = ['x', {typed!r}]; from frost_tally import cli\ntry: cli.main()\nexcept SystemExit: pass"
            )
            told = f"{asked}\nprint(); print(*sys.modules)"
            home = {**os.environ, "FROST_TALLY_DATA_DIR": str(self.folder), "FROST_TALLY_DEMO": "1"}
            done = run([sys.executable, "-c", told], capture_output=True, text=True, check=True, env=home)
            self.assertEqual(set(done.stdout.splitlines()[-1].split()) & without, set(), typed)

    def test_people_are_let_in_listed_and_removed(self) -> None:
        phrases = ["copper kettle under snow", "moss behind the barn", "seven geese on the ice"]
        with mock.patch("typer.prompt", side_effect=phrases):
            self.assertIn("Ida may sign in", self.run_it("person", "add", "Ida")[1])
            self.assertIn("Bo may sign in", self.run_it("person", "add", "Bo", "--reader")[1])
            self.assertIn("signs in with it", self.run_it("person", "phrase", "bo")[1])
        self.assertEqual(self.run_it("person", "list")[1].split(), ["Ida:", "owner", "Bo:", "reader"])
        self.assertEqual(self.run_it("person", "remove", "Ida")[0], 2, "the last owner stays")
        self.assertIn("Nobody signs in as Una", self.run_it("person", "remove", "Una")[1])
        self.assertEqual(self.run_it("person", "remove", "Bo")[0], 0)
        self.assertIn("FROST_TALLY_TLS_KEY", self.run_it("certificate", "tally.home.arpa")[1])

    def test_everything_out_and_in_and_the_log_as_a_table(self) -> None:
        before, target = self.dump(), str(self.folder / "all.json")
        self.assertEqual(self.run_it("export", target)[0], 0)
        self.assertEqual(self.run_it("export", target)[0], 2, "a file that is there is not written over")
        self.assertEqual(self.run_it("export", target, "--force")[0], 0)
        self.assertIn("Nothing was changed", self.run_it("import", target, "--dry-run")[1])
        self.kept.engine.dispose()
        code, said = self.run_it("import", target)
        self.assertEqual((code, "The data from before is at" in said), (0, True), said)
        self.assertEqual(self.dump(), before)
        self.assertEqual(self.run_it("export", str(self.folder / "log.csv"))[0], 0)
        self.assertIn("Nothing in it is new", self.run_it("import", str(self.folder / "log.csv"))[1])

    def test_entries_whole_or_not_at_all(self) -> None:
        good, bad = "Marten,2020-01-01T10:00:00+01:00,55\n", "Marten,2020-01-02T10:00:00+01:00,155\n"
        before = self.dump()
        code, said = self.run_it("import", self.file("bad.csv", HEAD + good + bad))
        self.assertEqual((code, "line 3, soc [%]: 155 is not between 0 and 100" in said), (2, True), said)
        self.assertIn("1 new", self.run_it("import", self.file("good.csv", HEAD + good), "--dry-run")[1])
        self.assertEqual([each for each in self.dump() if "reading" in each], [each for each in before if "reading" in each])
        self.assertIn("1 entries taken over", self.run_it("import", self.file("good.csv", HEAD + good))[1])
        self.assertIn("open it once under Log", self.run_it("import", self.file("other.csv", "a,b\n1,2\n"))[1])
        self.assertEqual(self.run_it("import", str(self.folder / "none.csv"))[0], 2)

    def test_a_track_hours_and_a_tariff(self) -> None:
        self.assertEqual(self.run_it("import", self.file("way.gpx", TRACK), "--car", "Dray")[0], 0)
        with tables(self.kept) as session:
            drive = session.query(DriveRow).filter(DriveRow.source == "assumed").one()
        self.assertEqual((drive.car_id, drive.assumed, drive.km), (2, ["soc_end", "soc_start"], 27.2))
        self.assertTrue(0.0 < drive.soc_start - drive.soc_end < 0.3)
        self.assertIn(
            "Give --car with one of: Marten, Dray", self.run_it("import", str(self.folder / "way.gpx"), "--car", "Otter")[1]
        )
        hours = self.file("air.csv", "start,temp_c\n2027-01-01T00:00:00+01:00,-5\n2027-01-01T01:00:00+01:00,-6\n")
        self.assertIn("2 taken over", self.run_it("import", hours)[1])
        prices = self.file("prices.csv", "start,price_per_kwh\n2027-02-01T00:00:00+01:00,-0.02\n2027-02-01T01:00:00+01:00,0.2\n")
        self.assertIn("Give --tariff with one of", self.run_it("import", prices)[1])
        self.assertIn("2 taken over", self.run_it("import", prices, "--tariff", "hollow tarn half-hourly")[1])
        written = write_file("tariff", "tariff.json", tariffs.file_of(read(self.kept), 2), read(self.kept).now).content
        code, said = self.run_it("import", self.file("tariff.json", str(written)))
        self.assertEqual((code, "has this name already" in said), (2, True), said)
        other = Path(self.file("tariff.json", str(written).replace("Hollow Tarn Three-Step", "Fell Three-Step")))
        self.assertEqual(self.run_it("import", str(other))[0], 0)
        self.assertIn("Fell Three-Step", [each.name for each in read(self.kept).home.contracts])
