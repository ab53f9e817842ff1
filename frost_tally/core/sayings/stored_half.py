"""“Leave it half full for weeks.”"""

from ..basis import Basis
from .known import Here, Limits
from .said import GUESSED, Said, Turn, about

MILD_C = 15.0


def said(here: Here, limits: Limits) -> Said:
    """What some weeks of standing take at half and full, in mild air."""
    half, full = limits.lost(0.5, MILD_C), limits.lost(1.0, MILD_C)
    health = about("health", full - half, GUESSED)
    line = tuple(limits.lost(level, MILD_C) for level in limits.stored_soc)
    return Said(
        verdict=here.judged(health),
        room="schools",
        yearly=(health,),
        numbers={"half": half, "full": full, "weeks": limits.weeks},
        turn=Turn(axis="percent", at=None, xs=limits.stored_soc, lines={"lost": line}, unit="percent"),
        rests_on=("wear.", "parked.storage"),
        source=Basis.PUBLISHED,
    )
