"""When somebody is reminded: awake, in time, once it is of use. Common practice: nobody is woken for a cable."""

import unittest
from dataclasses import replace
from datetime import datetime, time, timedelta
from zoneinfo import ZoneInfo

from hypothesis import given, settings
from hypothesis import strategies as st

from frost_tally.core.charge.control import Control
from frost_tally.core.charge.plug_in import Plug, PlugIn
from frost_tally.core.live.reminders import Evening, Kind, due

OSLO = ZoneInfo("Europe/Oslo")
COMES, LEAVES = datetime(2027, 1, 14, 17, 0, tzinfo=OSLO), datetime(2027, 1, 15, 7, 10, tzinfo=OSLO)


def night(plug: Plug = Plug.BED, by: datetime = COMES.replace(hour=22, minute=30), **more: object) -> Evening:
    plain = Evening(
        comes=COMES,
        departure=LEAVES,
        control=Control(),
        plug=PlugIn(plug=plug, by=by),
        seen_in=False,
        asks_level=False,
        enough=True,
    )
    return replace(plain, **more)  # type: ignore[arg-type]


def kinds(evening: Evening, now: datetime) -> list[Kind]:
    return [each.kind for each in due(evening, now)]


class When(unittest.TestCase):
    def at(self, hour: int, minute: int = 0, day: int = 14) -> datetime:
        return datetime(2027, 1, day, hour, minute, tzinfo=OSLO)

    def test_the_cable_half_an_hour_before_bed_and_at_the_minute_where_plugging_in_is_the_start(self) -> None:
        self.assertEqual(kinds(night(), self.at(21, 59)), [])
        self.assertEqual(kinds(night(), self.at(22)), [Kind.PLUG_IN])
        by_hand = night(Plug.AT)
        self.assertEqual((kinds(by_hand, self.at(22, 29)), kinds(by_hand, self.at(22, 30))), ([], [Kind.PLUG_IN]))
        self.assertEqual(kinds(night(Plug.NOW, self.at(19)), self.at(19)), [Kind.PLUG_IN])

    def test_who_sleeps_when_the_car_comes_home_is_asked_for_its_level_on_waking(self) -> None:
        late = night(Plug.LEAVE, comes=self.at(23, 30), asks_level=True)
        for at, told in ((self.at(23, 40), []), (self.at(6, 29, 15), []), (self.at(6, 30, 15), [Kind.LEVEL])):
            self.assertEqual(kinds(late, at), told, at)

    def test_nobody_is_reminded_of_a_cable_that_may_stay_out_is_in_or_belongs_to_another_day(self) -> None:
        for each in (night(Plug.LEAVE), night(Plug.EITHER), night(seen_in=True), night(plug=Plug.BED, by=COMES)):
            late = self.at(16, 0) if each.plug.by == COMES else self.at(23)
            self.assertEqual(kinds(each, late), [])
        tomorrow = replace(night(), plug=PlugIn(plug=Plug.BED, by=self.at(22, 30), on=COMES.date()))
        self.assertEqual(kinds(tomorrow, self.at(23)), [])

    def test_a_level_when_it_comes_home_and_a_short_day_in_the_morning(self) -> None:
        self.assertEqual(kinds(night(Plug.LEAVE, asks_level=True), self.at(17)), [Kind.LEVEL])
        short = night(Plug.LEAVE, enough=False)
        self.assertEqual((kinds(short, self.at(5, 30, 15)), kinds(short, self.at(6, 30, 15))), ([], [Kind.SHORT]))
        self.assertEqual(kinds(short, LEAVES + timedelta(minutes=1)), [])

    @settings(max_examples=200, deadline=None)
    @given(st.integers(0, 23), st.integers(0, 59), st.integers(18, 23), st.integers(5, 8))
    def test_a_reminder_begins_while_somebody_is_awake_and_never_before_the_car_is_there(
        self, hour: int, minute: int, bed: int, wakes: int
    ) -> None:
        by = COMES.replace(hour=hour, minute=minute)
        by = by if by >= COMES else by + timedelta(days=1)
        evening = night(
            Plug.BEFORE,
            min(by, LEAVES),
            control=Control(awake_from=time(wakes), awake_until=time(bed, 30)),
            enough=False,
            asks_level=True,
        )
        for each in due(evening, LEAVES - timedelta(seconds=1)):
            self.assertGreaterEqual(each.at, COMES)
            if each.at > COMES:
                self.assertTrue(evening.control.awake(each.at.time()), each)
