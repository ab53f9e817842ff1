"""Weather from files: CSV by the hour, and a typical year; what the rooms then drive past days in. The hours are invented."""

import unittest
from datetime import UTC, datetime, timedelta

from frost_tally.core.errors import Refusal
from frost_tally.formats.readers import Here, kind_of, read_file
from frost_tally.formats.writers import write_file
from frost_tally.services.log_import import intervals as imports
from frost_tally.services.shared.climate import HoursOfFiles, climate_of
from frost_tally.services.shared.past import noted_days
from tests.homes import read
from tests.household.test_store import InFolder

HERE = Here("Europe/Oslo", lambda region: frozenset())
HEADER = ["LOCATION,Skarfell,-,NOR,made up,000000,61.0,9.0,1.0,410.0", *("DESIGN CONDITIONS,0",) * 7]


def epw(*hours: str) -> bytes:
    return "\n".join([*HEADER, *hours]).encode()


def hour(month: int, day: int, of_day: int, temp_c: float) -> str:
    return f"2004,{month},{day},{of_day},0,?9?9,{temp_c},-9.0,80,97000,0,0"


class Files(unittest.TestCase):
    def test_an_hour_of_a_typical_year_is_the_hour_before_its_number_on_its_own_clock(self) -> None:
        """Source: EPW counts hours from 1 to 24; hour 1 is 00:00 to 01:00 of local standard time (EnergyPlus documentation; from memory)."""
        content = epw(hour(1, 2, 1, -7.5), hour(1, 2, 2, 99.9), hour(7, 1, 24, 14.0), "2004,1,x,1,0,?,3", hour(1, 3, 1, -99.0))
        self.assertEqual(kind_of(content), "weather")
        found = read_file("weather", content, HERE)
        starts = [datetime.fromtimestamp(s, UTC) for s in found.start_s.tolist()]
        self.assertEqual(starts, [datetime(1971, 1, 1, 23, tzinfo=UTC), datetime(1971, 7, 1, 22, tzinfo=UTC)])
        self.assertEqual(found.value.tolist(), [-7.5, 14.0])
        self.assertEqual([each.line for each in found.bad], [12, 13])

    def test_a_table_of_temperatures(self) -> None:
        content = b"start,temp_c\n2026-01-01T00:00:00+01:00,-4.5\n2026-01-01T01:00:00+01:00,-5\n2026-01-01T02:00:00+01:00,-300\n"
        self.assertEqual(kind_of(content), "weather")
        found = read_file("weather", content, HERE)
        self.assertEqual((found.value.tolist(), found.bad_count), ([-4.5, -5.0], 1))
        for bad in (epw(), b"LOCATION,a,b\n1\n", b"LOCATION\n", b"start,temp_c\n"):
            with self.assertRaisesRegex(Refusal, "There are no hours in|The first line of the|The file has no rows"):
                read_file("weather", bad, HERE)


class Driven(InFolder):
    def test_past_days_are_driven_in_the_hours_of_the_file_and_back_again(self) -> None:
        home = self.household()

        def air() -> list[float]:
            now = read(home)
            return [float(each) for each in noted_days(now, now.home.car(), 5).air_c]

        before, now = air(), read(home).now
        hours = [now.replace(minute=0, second=0, microsecond=0) - timedelta(hours=h) for h in range(24 * 30)]
        content = "start,temp_c\n" + "".join(f"{each.isoformat()},-21.5\n" for each in hours)
        undo = imports.take(home, imports.prepare(home, read(home), "weather", name="a.csv", content=content.encode()))
        self.assertEqual({round(each, 6) for each in air()}, {-21.5})
        typical = epw(*(hour(7, day, of_day, 33.0) for day in range(1, 32) for of_day in range(1, 25)))
        imports.take(home, imports.prepare(home, read(home), "weather", name="a.epw", content=typical))
        weather = climate_of(read(home), read(home).home.place)
        assert isinstance(weather, HoursOfFiles)
        self.assertAlmostEqual(weather.temperature_c(datetime(2024, 7, 14, 12, 30, tzinfo=UTC)), 33.0)
        self.assertEqual(
            weather.temperature_c(datetime(2024, 3, 1, tzinfo=UTC)),
            weather.otherwise.temperature_c(datetime(2024, 3, 1, tzinfo=UTC)),
        )
        rows, zone = imports.interval_rows(read(home), "weather")
        out = write_file("weather", "weather.csv", (rows, zone), now)
        number = imports.prepare(home, read(home), "weather", name="b.csv", content=str(out.content).encode())
        again = imports.preview(read(home), number)
        self.assertEqual((again.added, again.changed, again.same), (0, 0, len(rows)))
        home.undo(undo)
        self.assertEqual(air(), before)
