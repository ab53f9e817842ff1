"""Meter readings and dated prices: CSV and ESPI in, bad rows named by line and column, CSV out."""

import unittest
from datetime import datetime
from zoneinfo import ZoneInfo

from frost_tally.core.errors import Refusal
from frost_tally.formats.espi import read_espi
from frost_tally.formats.intervals import Intervals, read_prices, read_readings, write_intervals
from frost_tally.formats.table import write_table

OSLO = ZoneInfo("Europe/Oslo")
ESPI = """<?xml version="1.0"?><feed xmlns="http://www.w3.org/2005/Atom" xmlns:e="http://naesb.org/espi">
<entry><link rel="self" href="/RT/1"/><content><e:ReadingType><e:flowDirection>{flow}</e:flowDirection><e:powerOfTenMultiplier>{ten}</e:powerOfTenMultiplier><e:uom>{uom}</e:uom></e:ReadingType></content></entry>
<entry><link rel="self" href="/MR/1"/><link rel="related" href="/RT/1"/><content><e:MeterReading/></content></entry>
<entry><link rel="up" href="/MR/1/IB"/><content><e:IntervalBlock>
<e:IntervalReading><e:timePeriod><e:duration>900</e:duration><e:start>1799946000</e:start></e:timePeriod><e:value>450</e:value></e:IntervalReading>
<e:IntervalReading><e:timePeriod><e:duration>900</e:duration><e:start>1799946900</e:start></e:timePeriod><e:value>none</e:value></e:IntervalReading>
<e:IntervalReading><e:timePeriod><e:duration>900</e:duration><e:start>1799947800</e:start></e:timePeriod><e:value>500</e:value></e:IntervalReading>
</e:IntervalBlock></content></entry></feed>"""


def readings(text: str) -> Intervals:
    return read_readings(text.encode(), "Europe/Oslo")


class Readings(unittest.TestCase):
    def test_bad_rows_are_named_by_line_and_column_and_the_good_ones_stay(self) -> None:
        found = readings("start,kwh\n2027-01-14T00:00+01:00,0.4\n2027-01-14T00:15+01:00,lots\nsoon,1\n2027-01-14T00:30+01:00,-3\n2027-01-14T00:45+01:00\n"
                         "2027-01-14T01:00+01:00,0.5\n2027-01-14T01:00+01:00,0.6\n2027-01-14T01:15+01:00,0.7\n")  # fmt: skip
        self.assertEqual(
            [(each.line, each.column) for each in found.bad], [(3, "kwh"), (4, "start"), (5, "kwh"), (6, "kwh"), (8, "start")]
        )
        self.assertIn("“lots” is not a number", found.bad[0].reason)
        self.assertEqual((len(found.value), found.bad_count), (3, 5))

    def test_local_times_take_the_place_s_clock_and_the_repeated_hour_its_order(self) -> None:
        """IANA zone rules: Europe/Oslo repeats 02:00–03:00 on 31 October 2027 and leaves it out on 28 March."""
        rows = [
            "2027-10-31T01:30",
            "2027-10-31T02:00",
            "2027-10-31T02:30",
            "2027-10-31T02:00",
            "2027-10-31T02:30",
            "2027-10-31T03:00",
        ]
        found = readings("start;kwh\n" + "\n".join(f"{row};0,5" for row in rows))
        self.assertEqual([b - a for a, b in zip(found.start_s, found.start_s[1:], strict=False)], [1800] * 5)
        self.assertEqual(found.value[0], 0.5)
        self.assertIn("Europe/Oslo", found.notes[0])
        self.assertIn("clocks go forward", readings("start,kwh\n2027-03-28T02:30,1\n2027-03-28T03:30,1\n").bad[0].reason)

    def test_what_is_no_such_file_is_refused(self) -> None:
        for content, words in (
            (b"start,kwh\n", "no rows"),
            (b"a,b\n1,2\n", "columns “start” and “kwh”"),
            (b"\xff\xfe", "UTF-8"),
            (b"", "no rows"),
        ):
            with self.assertRaises(Refusal) as refused:
                read_readings(content, "Europe/Oslo")
            self.assertIn(words, refused.exception.message)

    def test_written_intervals_come_back(self) -> None:
        start = int(datetime(2027, 10, 31, tzinfo=OSLO).timestamp())
        rows = [(start + 1800 * i, 30, 0.1 * i) for i in range(12)]
        found = read_prices(write_intervals(rows, "Europe/Oslo", "price_per_kwh").encode(), "UTC")
        self.assertEqual(
            [(int(a), int(b), round(float(c), 6)) for a, b, c in zip(found.start_s, found.minutes, found.value, strict=True)],
            [(a, b, round(c, 6)) for a, b, c in rows],
        )

    def test_prices_off_the_quarter_hour_are_named(self) -> None:
        found = read_prices(
            b"start,minutes,price\n2027-01-14T00:05+01:00,30,0.2\n2027-01-14T01:00+01:00,45,0.2\n2027-01-14T02:00+01:00,30,0.2\n",
            "UTC",
        )
        self.assertEqual([each.line for each in found.bad], [2, 3])
        self.assertEqual(len(found.value), 1)

    def test_formulas_do_not_run_in_a_spreadsheet(self) -> None:
        self.assertEqual(
            write_table(("name",), [["=1+1"], ["@x"], [-0.5], ["plain"]]).split(), ["name", "'=1+1", "'@x", "-0.5", "plain"]
        )


class Espi(unittest.TestCase):
    """NAESB REQ.21 (ESPI), from memory: uom 72 is Wh, flow direction 1 is delivered, values scale by a power of ten."""

    def test_watt_hours_scale_and_bad_values_are_counted(self) -> None:
        for ten, kwh in ((0, [0.45, 0.5]), (-1, [0.045, 0.05])):
            found = read_espi(ESPI.format(flow=1, ten=ten, uom=72).encode())
            self.assertEqual([round(float(v), 6) for v in found.value], kwh)
            self.assertEqual((found.bad[0].line, found.bad[0].column), (2, "value"))

    def test_other_units_and_energy_given_back_are_left_out(self) -> None:
        for flow, uom in ((19, 72), (1, 119)):
            found = read_espi(ESPI.format(flow=flow, ten=0, uom=uom).encode())
            self.assertEqual(len(found.value), 0)
            self.assertIn("3 readings", found.notes[0])

    def test_entities_and_broken_xml_are_refused(self) -> None:
        bomb = b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><feed>&b;</feed>'
        for content, words in ((bomb, "entities"), (b"<feed><entry>", "line 1"), (b"<feed/>", "no interval readings")):
            with self.assertRaises(Refusal) as refused:
                read_espi(content)
            self.assertIn(words, refused.exception.message)
