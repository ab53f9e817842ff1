"""Damaged files: whatever comes, a reader reads it or refuses it with a place and a reason, soon."""

import json
import random
import time
import unittest
from datetime import UTC, date, datetime
from datetime import time as clock

from frost_tally.core.charge.tariff import ALL_ROWS, Band, Tariff
from frost_tally.core.errors import Refusal
from frost_tally.formats.ocpi_tariff import write_ocpi
from frost_tally.formats.readers import Here, read_file
from frost_tally.formats.tariff_json import TariffFile, write_tariff

from .test_gpx import gpx
from .test_intervals import ESPI

HERE = Here("Europe/Oslo", lambda region: frozenset({date(2027, 1, 1)}))
BANDS = (Band("night", 0.1, clock(22), clock(6), ALL_ROWS), Band("day", 0.3, clock(6), clock(22), ALL_ROWS))
TARIFF = TariffFile(Tariff(name="Two", zone="Europe/Oslo", bands=BANDS, currency="EUR"))
SOUND = {
    "readings": b"start,minutes,kwh\n"
    + b"".join(b"2027-01-%02dT0%d:00+01:00,60,0.%d\n" % (d, h, h) for d in range(1, 9) for h in range(9)),
    "prices": b"start,minutes,price_per_kwh\n"
    + b"".join(b"2027-01-14T%02d:00+01:00,60,0.%02d\n" % (h, h + 10) for h in range(24)),
    "espi": ESPI.format(flow=1, ten=0, uom=72).encode(),
    "json": write_tariff(TARIFF).encode(),
    "ocpi": write_ocpi(TARIFF, (2027,), datetime(2027, 1, 1, tzinfo=UTC)).encode(),
    "track": gpx([(40, 3), (100, 3)], climb_per_km=10),
}
KINDS = {"espi": "readings", "json": "tariff", "ocpi": "tariff"}
TOKENS = (
    b"inf", b"-inf", b"NaN", b"Infinity", b"1e999", b"-1", b"--5", "²".encode(), b"9" * 5000, b"null", b"[]", b"{}", b"true", b'"', b"<", b"&a;",
    b"\x00", b"\xff\xfe", b"\xed\xa0\x80", b"\\ud800", b"0001-01-01T00:00", b"9999-12-31T23:59Z", b"23:90", b"24:00", b"2027-02-30", b"\r\n\r\n", b",,,,",
)  # fmt: skip
CORPUS = 60


def damaged(sound: bytes, draw: random.Random) -> bytes:
    """Cut short, a piece taken out, doubled or turned round, or a token in the place of a word of it."""
    a, b = sorted(draw.randrange(len(sound)) for _ in range(2))
    words = [at for at in range(1, len(sound) - 1) if sound[at - 1 : at] in b' ">:,' and sound[at : at + 1].isalnum()]
    at = draw.choice(words)
    end = next(i for i in range(at, len(sound) + 1) if not sound[i : i + 1].isalnum() and sound[i : i + 1] not in b".-+")
    return draw.choice(
        (sound[:a], sound[:a] + sound[b:], sound[:b] + sound[a:], sound[:a] + sound[a:b][::-1] + sound[b:])
        + 4 * (sound[:at] + draw.choice(TOKENS) + sound[end:],)
    )


class Damaged(unittest.TestCase):
    def read(self, name: str, content: bytes) -> str:
        """What the refusal says, or of its rows that cannot be used; nothing when all of it was read."""
        try:
            found = read_file(KINDS.get(name, name), content, HERE)
        except Refusal as refusal:
            return refusal.message
        return " ".join(f"{each.line} {each.column}" for each in getattr(found, "bad", ())[:9])

    def test_sixty_of_each_kind_are_read_or_refused_in_words(self) -> None:
        for name, sound in SOUND.items():
            self.assertIn(self.read(name, sound), ("", "2 value"), name)
            draw = random.Random(name)
            refused = set[str]()
            for i in range(CORPUS):
                content = damaged(sound, draw)
                with self.subTest(name, number=i):
                    said = self.read(name, content)
                    self.assertNotRegex(said, "Error|Exception|object has no")
                    self.assertLess(len(said), 300)
                    refused.add(said)
            self.assertGreater(len(refused), 5, name)

    def test_each_is_refused_at_its_place(self) -> None:
        head, row = b"start,minutes,kwh\n", b"2027-01-14T18:00+01:00,%s,1\n"
        element = {"price_components": [{"type": "ENERGY", "price": 0.2}]}
        part = b"<IntervalReading><timePeriod><duration>900</duration><start>%s</start></timePeriod><value>%s</value></IntervalReading>"
        entry = b'<feed xmlns="a"><entry><content><IntervalBlock>%s</IntervalBlock></content></entry></feed>'
        kind = b'<feed xmlns="a"><entry><link rel="self" href="t"/><content><ReadingType><powerOfTenMultiplier>%s</powerOfTenMultiplier></ReadingType></content></entry></feed>'
        point = b'<gpx><trk><trkseg><trkpt lat="%s" lon="1"><time>%s</time></trkpt><trkpt lat="2" lon="1"><time>2027-01-14T07:00:00Z</time></trkpt></trkseg></trk></gpx>'
        ours = json.loads(SOUND["json"])
        for name, content, words in (
            ("readings", 300 * b"x,y,z\n", "The header needs"),
            ("readings", head + 190_000 * b"x,1,1\n", "200 rows up to line 201"),
            ("espi", kind % b"400", "Reading type 1"),
            ("espi", kind % b"--5", "Reading type 1"),
            ("espi", b"<a/>", "not with “feed”"),
            ("espi", b'<?xml version="1.0" encoding="gbk"?><feed/>', "encoding"),
            ("espi", b'<?xml version="1.0" encoding="nobody"?><feed/>', "encoding"),
            ("track", b'<?xml version="1.0" encoding="utf-32"?><gpx/>', "encoding"),
            ("track", point % (b"inf", b"2027-01-14T07:00:00Z"), "Point 1 of the track: “inf”"),
            ("track", point % (b"1", b"2027-01-14T07:00:00"), "Point 2 of the track: some times have an offset"),
            ("track", point % (b"1", b"0001-01-01T00:00:00Z"), "Point 1 of the track: “0001"),
            ("json", SOUND["json"].replace(b"0.1,", b"NaN,"), "number that cannot be read: “NaN”"),
            ("json", SOUND["json"].replace(b"0.1,", b"9" * 5000 + b","), "number that cannot be read"),
            ("json", SOUND["json"].replace(b'"Two"', b'"T\\ud800wo"'), "The file.name"),
            ("json", json.dumps(ours | {"valid_from": "0001-01-01"}).encode(), "valid_from"),
            ("json", json.dumps(ours | {"prices": [{"start": "0001-01-01T00:00+14:00", "minutes": 60, "price_per_kwh": 1}]}).encode(), "prices[0].start"),
            ("ocpi", json.dumps({"currency": 5, "elements": [element]}).encode(), "The file cannot be read"),
            ("ocpi", json.dumps({"currency": "EUR", "elements": [element | {"restrictions": {"start_time": "23:90"}}]}).encode(), "elements[0]"),
            ("ocpi", json.dumps({"currency": "EUR", "elements": [element | {"restrictions": {"start_date": "0001-01-01", "end_date": "x"}}]}).encode(), "elements[0]"),
            ("ocpi", json.dumps({"currency": "EUR", "elements": [5]}).encode(), "elements[0]"),
            ("ocpi", json.dumps({"currency": "EUR", "elements": [element], "start_date_time": 5}).encode(), "The file cannot be read"),
        ):  # fmt: skip
            with self.subTest(content=content[:120]):
                begun = time.perf_counter()
                said = self.read(name, content)
                self.assertIn(words, said)
                self.assertNotRegex(said, "Error|Exception")
                self.assertLess(time.perf_counter() - begun, 20)  # no promise of speed: only that nothing runs away
        for minutes in (b"inf", b"nan", b"1e9", b"-60"):
            bad = read_file("readings", head + 3 * (row % b"60") + row % minutes, HERE).bad
            self.assertIn((5, "minutes"), [(each.line, each.column) for each in bad])
        for start, value in ((b"--5", b"1"), (b"1800000000", b"9" * 5000), ("²".encode(), b"1")):
            sound = b"".join(part % (str(1_800_000_000 + 900 * i).encode(), b"100") for i in range(1, 4))
            self.assertEqual(
                [each.line for each in read_file("readings", entry % (sound + part % (start, value)), HERE).bad], [4]
            )

    def test_year_one_without_an_offset_is_a_bad_row(self) -> None:
        content = b"start,kwh\n2027-01-14T18:00,1\n2027-01-14T19:00,1\n0001-01-01T00:00,1\n"
        self.assertIn("from 1970 to 2100", read_file("readings", content, HERE).bad[0].reason)
