"""“Fifty is kinder still.”"""

from ..basis import Basis
from .eighty import kept, side
from .known import Here, Limits
from .said import Said, Verdict


def said(here: Here, limits: Limits) -> Said:
    """Half a pack against eighty per cent: points kept, and the nights on which the limit has to be raised."""
    low, usual = limits.at(0.5), limits.at(0.8)
    gain = low.net - usual.net
    verdict = Verdict.LITTLE if abs(gain) < here.little * limits.years else Verdict.HOLDS if gain > 0 else Verdict.NOT_HERE
    return Said(
        verdict=verdict,
        room="schools",
        yearly=(kept(low, usual, limits.years),),
        sides=(side("limit_50", low), side("limit_80", usual)),
        numbers={
            "points": low.kept[0] - usual.kept[0],
            "raised": low.raised - usual.raised,
            "money": gain,
            "years": float(limits.years),
        },
        rests_on=("schools.", "wear."),
        source=Basis.PUBLISHED,
    )
