"""Works that are driven together give what each gives alone; longer steps give what short ones give."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from frost_tally.core.advice.remedies import helping, remedies
from frost_tally.core.drive import trip as trip_module
from frost_tally.core.drive.batch import forget, in_one_batch
from frost_tally.core.drive.certainty import along, fan
from frost_tally.core.drive.day import Drive, Road, Start, Trip
from frost_tally.core.drive.speeds import by_speed, speed_view
from frost_tally.core.drive.tally import fair_tally, tallied
from frost_tally.core.drive.trip import cases, run, side_by_side, simulate
from tests.core.test_day import situation
from tests.core.test_tally import AGED, CAR, DAY, FROST, START


class Together(unittest.TestCase):
    def test_each_gets_what_it_gets_alone(self) -> None:
        """Whatever else is driven with it: other cases heat their packs, or end a step at the heater's target to the last digit."""
        speeds = tuple(range(80, 141, 20))
        now = replace(situation(), car=AGED, trip=DAY, conditions=FROST, start=START)
        works = (
            fan(AGED, DAY, FROST, START),
            tallied(AGED, DAY, FROST, START),
            by_speed(AGED, DAY, FROST, START, speeds),
            helping(now),
        )
        with (
            mock.patch.object(trip_module, "run", wraps=trip_module.run) as run,
            mock.patch("frost_tally.core.drive.batch.run", run),
        ):
            points, tally, view, found = in_one_batch(*works)
        self.assertEqual(run.call_count, 1)
        forget()
        for mine, theirs in zip(points, along(AGED, DAY, FROST, START), strict=True):
            self.assertAlmostEqual(mine.level.low, theirs.level.low, delta=1e-9)
        for step, other in zip(tally.steps, fair_tally(AGED, DAY, FROST, START).steps, strict=True):
            self.assertAlmostEqual(step.lost_km, other.lost_km, delta=1e-6)
        np.testing.assert_allclose(view.arrival_soc, speed_view(AGED, DAY, FROST, START, speeds).arrival_soc, atol=1e-9)
        for remedy, alone in zip(found, remedies(now), strict=True):
            self.assertEqual(remedy.key, alone.key)
            self.assertAlmostEqual(remedy.gain_soc, alone.gain_soc, delta=1e-9)

    def test_a_day_is_the_same_beside_one_that_heats_its_pack_and_a_hair_from_the_heaters_target(self) -> None:
        unheated = cases(CAR, replace(FROST, pack_heat=0.0), START)
        each = [unheated, *(cases(CAR, FROST, replace(START, pack_c=8.0 - off_k)) for off_k in (20.0, 0.0, 2e-15))]
        together = run(CAR, DAY, FROST, side_by_side(each)).soc_used
        np.testing.assert_allclose(together, [float(run(CAR, DAY, FROST, one).soc_used[0]) for one in each], atol=1e-12)
        self.assertAlmostEqual(together[2], together[3], delta=1e-12)

    def test_days_of_another_climate_are_driven_apart(self) -> None:
        mild = replace(FROST, cabin_set_c=None)
        first, second = in_one_batch(fan(CAR, DAY, FROST, START), fan(CAR, DAY, mild, START))
        self.assertAlmostEqual(first[-1].level.likely, along(CAR, DAY, FROST, START)[-1].level.likely, delta=1e-9)
        self.assertAlmostEqual(second[-1].level.likely, along(CAR, DAY, mild, START)[-1].level.likely, delta=1e-9)

    def test_half_an_hour_a_step_is_enough_once_a_leg_has_settled(self) -> None:
        """Against steps of one minute: within half a per cent of the energy, and half a kelvin of the pack."""
        far, soaked = Trip((Drive(Road.MOTORWAY, 260, 110),)), Start(0.95, -12.0, -12.0)
        done = simulate(CAR, far, FROST, soaked)
        with mock.patch.multiple(trip_module, CHUNK_S=60.0, SETTLED_CHUNK_S=60.0):
            fine = simulate(CAR, far, FROST, soaked)
        self.assertAlmostEqual(float(done.energy_kwh[0] / fine.energy_kwh[0]), 1.0, delta=0.005)
        self.assertAlmostEqual(float(done.end_pack_c[0]), float(fine.end_pack_c[0]), delta=0.5)
