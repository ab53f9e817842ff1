"""The departures' calendar read back by the calendar library, across clock changes and renewals. Source: RFC 5545."""

import unittest
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from dateutil.rrule import rruleset, rrulestr
from hypothesis import given, settings
from hypothesis import strategies as st
from icalendar import Calendar

from frost_tally.core.errors import Refusal
from frost_tally.core.heat.schedule import Departure
from frost_tally.formats.calendar_feed import CalendarEntry, write_calendar
from frost_tally.household.calendar import holidays_of
from frost_tally.household.models import CarRow
from frost_tally.household.parts import in_order
from frost_tally.services.departures.feed import departure_feed
from frost_tally.services.departures.room import TypedDeparture, drop_departure, keep_departure
from frost_tally.web.rooms.departures.words import calendar_name, entries
from tests.web.client import WebCase

OSLO = ZoneInfo("Europe/Oslo")


class Schedule(unittest.TestCase):
    def test_holidays_are_skipped_and_weekends_left_out(self) -> None:
        """Facts: 17 May 2027 is a Monday and Norway's national day; Easter Monday is 29 March."""
        work = Departure(time(7, 10), "Europe/Oslo", frozenset(range(5)), None, holidays_of("NO"))
        days = {each.date() for each in work.between(datetime(2027, 3, 24, tzinfo=OSLO), datetime(2027, 5, 20, tzinfo=OSLO))}
        self.assertFalse(days & {date(2027, 5, 17), date(2027, 3, 29), date(2027, 3, 27), date(2027, 5, 1)})
        self.assertIn(date(2027, 3, 30), days)

    def test_a_time_that_the_clock_skips_comes_an_hour_later_and_one_it_repeats_comes_once(self) -> None:
        """IANA zone rules: 2027 in Europe/Oslo changes on 28 March at 02:00 and 31 October at 03:00."""
        early = Departure(time(2, 30), "Europe/Oslo", frozenset(range(7)))
        spring = list(early.between(datetime(2027, 3, 28, tzinfo=OSLO), datetime(2027, 3, 29, tzinfo=OSLO)))
        self.assertEqual([f"{each:%d %H:%M}" for each in spring], ["28 03:30"])
        autumn = list(early.between(datetime(2027, 10, 31, tzinfo=OSLO), datetime(2027, 11, 1, tzinfo=OSLO)))
        self.assertEqual([each.astimezone(UTC).hour for each in autumn], [0])

    def test_neither_or_both_is_refused(self) -> None:
        for days, once, field in ((frozenset[int](), None, "days"), (frozenset({1}), date(2027, 1, 5), "on_date")):
            with self.assertRaises(Refusal) as refused:
                Departure(time(7), "UTC", days, once).checked()
            self.assertEqual(refused.exception.field, field)

    @settings(max_examples=40, deadline=None)
    @given(days=st.frozensets(st.integers(0, 6), min_size=1), at=st.times(), first=st.dates(date(2026, 1, 1), date(2028, 1, 1)))
    def test_it_comes_on_its_days_and_in_order(self, days: frozenset[int], at: time, first: date) -> None:
        start = datetime.combine(first, time(0), OSLO)
        found = list(Departure(at, "Europe/Oslo", days).between(start, start + timedelta(days=21)))
        self.assertEqual(found, sorted(found))
        self.assertTrue({each.weekday() for each in found} <= days)
        self.assertAlmostEqual(len(found), 3 * len(days), delta=1)


class Written(unittest.TestCase):
    def test_repeating_entries_keep_the_local_clock_over_both_changes(self) -> None:
        """The rule expanded by dateutil gives the same moments as our own schedule, holidays out."""
        holidays = holidays_of("NO")
        ours = Departure(time(7, 10), "Europe/Oslo", frozenset({0, 2, 4}), None, holidays)
        start = datetime(2027, 1, 4, 7, 10, tzinfo=OSLO)
        without = [day for day in holidays if day.year == 2027 and day.weekday() in (0, 2, 4)]
        entry = CalendarEntry(
            uid="a@frost-tally",
            start=start,
            end=start,
            summary="Leave; work, or not",
            description="one\ntwo",
            alarm=True,
            days=ours.days,
            without=without,
        )
        raw = write_calendar("Skarfell", [entry], start)
        self.assertTrue(all(len(each) <= 75 for each in raw.split(b"\r\n")))
        read = Calendar.from_ical(raw)
        event = read.walk("VEVENT")[0]
        self.assertEqual((str(event["summary"]), str(event["description"])), ("Leave; work, or not", "one\ntwo"))
        self.assertEqual([str(each["tzid"]) for each in read.walk("VTIMEZONE")], ["Europe/Oslo"])
        self.assertIn(b"REFRESH-INTERVAL;VALUE=DURATION:PT1H", raw)
        rules = rruleset()
        rules.rrule(rrulestr(event["rrule"].to_ical().decode(), dtstart=event["dtstart"].dt.replace(tzinfo=None)))
        for skipped in event["exdate"].dts:
            rules.exdate(skipped.dt.replace(tzinfo=None))
        end = datetime(2027, 12, 31, tzinfo=OSLO)
        theirs = [each.replace(tzinfo=OSLO) for each in rules.between(datetime(2027, 1, 1), datetime(2027, 12, 31))]
        self.assertEqual(theirs, list(ours.between(datetime(2027, 1, 1, tzinfo=OSLO), end)))


class Feed(WebCase):
    def raw(self, now: datetime) -> bytes:
        feed = departure_feed(self.read(now), 1)
        return write_calendar(calendar_name(feed), entries(feed), now)

    def entries(self, now: datetime) -> dict[str, object]:
        read = Calendar.from_ical(self.raw(now))
        return {str(each["uid"]): each for each in read.walk("VEVENT")}

    def test_the_same_uids_at_every_renewal_and_each_once(self) -> None:
        now = self.read().now
        raw = self.raw(now)
        self.assertEqual(raw.count(b"\nUID:"), len(self.entries(now)))
        first, again = self.entries(now), self.entries(now + timedelta(hours=1))
        self.assertEqual(set(first), set(again))
        for kind in ("-plug-in@", "-charge-1@", "-warm-up@", "-leave@"):
            self.assertTrue(any(kind in uid for uid in first), kind)
        tomorrow = self.entries(now + timedelta(days=1))
        self.assertTrue(set(first) & set(tomorrow))

    def test_warm_up_ends_when_the_car_leaves_over_the_clock_change(self) -> None:
        with self.household.recording() as session:
            session.get_one(type(in_order(session, CarRow)[0]), 1)
            keep = TypedDeparture(
                name="Early", at=time(5, 30), days=frozenset({6}), on_date=None, region="", warm_up="cabin_and_pack", km=80.0
            )
        keep_departure(self.household, self.read().now, 1, typed=keep)
        saturday = datetime(2027, 3, 27, 18, 12, tzinfo=OSLO)
        found = self.entries(saturday)
        warm = next(each for uid, each in found.items() if "20270328-warm-up" in uid)
        self.assertEqual(f"{warm['dtend'].dt:%d %H:%M}", "28 05:30")  # type: ignore[index]
        self.assertLess(warm["dtstart"].dt, warm["dtend"].dt)  # type: ignore[index]

    def test_a_departure_put_away_leaves_the_feed(self) -> None:
        now = self.read().now
        row = self.read(now).home.car(1).departures[0]
        self.assertTrue(any(uid.startswith(row.uid) for uid in self.entries(now)))
        drop_departure(self.household, row.id)
        self.assertFalse(any(uid.startswith(row.uid) for uid in self.entries(now)))
