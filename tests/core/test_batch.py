"""Works that are driven together give what each gives alone; longer steps give what short ones give."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from frost_tally.core.advice.remedies import helping, remedies
from frost_tally.core.drive import trip as trip_module
from frost_tally.core.drive.batch import in_one_batch
from frost_tally.core.drive.certainty import along, fan
from frost_tally.core.drive.day import Drive, Road, Start, Trip
from frost_tally.core.drive.speeds import by_speed, speed_view
from frost_tally.core.drive.tally import fair_tally, tallied
from frost_tally.core.drive.trip import simulate
from tests.core.test_day import situation
from tests.core.test_tally import AGED, CAR, DAY, FROST, START


class Together(unittest.TestCase):
    def test_each_gets_what_it_gets_alone(self) -> None:
        """But for the length of a step, which the longest case of a pass decides."""
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
        for mine, theirs in zip(points, along(AGED, DAY, FROST, START), strict=True):
            self.assertAlmostEqual(mine.level.low, theirs.level.low, delta=3e-4)
        for step, other in zip(tally.steps, fair_tally(AGED, DAY, FROST, START).steps, strict=True):
            self.assertAlmostEqual(step.lost_km, other.lost_km, delta=0.3)
        np.testing.assert_allclose(view.arrival_soc, speed_view(AGED, DAY, FROST, START, speeds).arrival_soc, atol=3e-4)
        for remedy, alone in zip(found, remedies(now), strict=True):
            self.assertEqual(remedy.key, alone.key)
            self.assertAlmostEqual(remedy.gain_soc, alone.gain_soc, delta=3e-4)

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
