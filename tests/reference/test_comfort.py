"""What people feel, against a thermal-comfort library (ISO 7730, ASHRAE 55)."""

import unittest

from pythermalcomfort.models import pmv_ppd_ashrae, pmv_ppd_iso
from scipy.optimize import brentq

from frost_tally.core.advice.worth import BEARABLE_KMIN, COMFORT_C, COMFORT_KWH, SCREENS_MIN, SEATS_K
from frost_tally.core.basis import figures
from frost_tally.core.drive.road import SEAT_AND_WHEEL
from frost_tally.core.heat.climate import SEAT_W

DRIVING_MET, BODY_M2, MET_W_PER_M2 = 1.2, 1.8, 58.15


def vote(air_c: float, clo: float, heat_w: float = 0.0) -> float:
    """Predicted mean vote (ISO 7730), sitting and driving, still air; `heat_w` reaches the body besides."""
    extra = heat_w / BODY_M2 / MET_W_PER_M2
    done = pmv_ppd_iso(
        tdb=air_c, tr=air_c, vr=0.1, rh=50, met=DRIVING_MET, clo=clo, wme=-extra, limit_inputs=False, round_output=False
    )
    return float(done.pmv)


def neutral_c(clo: float, heat_w: float = 0.0) -> float:
    """Temperature of a neutral vote."""
    return float(brentq(lambda air_c: vote(air_c, clo, heat_w), -20.0, 35.0))


class Comfort(unittest.TestCase):
    def test_what_a_coat_makes_up_for(self) -> None:
        """ISO 7730: neutral at 2 clo and 1.2 met within 1 K of our 15 °C; ASHRAE 55: 0.6 K for each 0.1 clo; its PMV agrees."""
        self.assertAlmostEqual(neutral_c(2.0), COMFORT_C, delta=1.0)
        self.assertAlmostEqual((neutral_c(1.0) - neutral_c(2.0)) / 10, 0.6, delta=0.05)
        ashrae = pmv_ppd_ashrae(tdb=COMFORT_C, tr=COMFORT_C, vr=0.1, rh=50, met=DRIVING_MET, clo=2.0, limit_inputs=False)
        self.assertAlmostEqual(float(ashrae.pmv), 0.0, delta=0.3)

    def test_what_a_warm_seat_is_worth(self) -> None:
        """ISO 7730: if a third to a half of seat and wheel reaches the body, it is worth 4 to 6.5 K in a coat."""
        watts = SEAT_AND_WHEEL * SEAT_W
        worth = [neutral_c(2.0) - neutral_c(2.0, share * watts) for share in (1 / 3, 1 / 2)]
        self.assertTrue(worth[0] <= SEATS_K <= worth[1] + 0.5, worth)

    def test_the_bound_of_cold_is_a_vote_that_nobody_sits_through(self) -> None:
        """ISO 7730: ten minutes at the bound are colder than "cool" (−2) in a coat, and half of it is not."""
        by_k = BEARABLE_KMIN / 10.0
        self.assertLess(vote(COMFORT_C - by_k, 2.0), -2.0)
        self.assertGreater(vote(COMFORT_C - by_k / 2, 2.0), -2.0)

    def test_what_stays_judgement_says_so(self) -> None:
        """On the Why page: the worth of comfort, the scraping, the bound and the coat on a long trip."""
        self.assertTrue(COMFORT_KWH and SCREENS_MIN)
        said = {each.key: each.source for each in figures("comfort.")}
        for key in ("comfort.worth", "comfort.scraping", "comfort.bearable", "comfort.coat_on"):
            self.assertTrue(said[key].startswith("our judgement"), key)
