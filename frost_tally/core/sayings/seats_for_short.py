"""“For the baker’s, warm seats will do.”"""

from .known import Warming
from .said import Said, Turn, Verdict

LONGEST_KM = 60.0


def said(warming: Warming) -> Said:
    """Up to which distance warm seats alone are the best choice tomorrow, one way."""
    at = warming.seats_to_km
    verdict = Verdict.NOT_HERE if at is None else Verdict.TURNS
    numbers = {"km": warming.km, "air_c": warming.air_c, **({} if at is None else {"to_km": at})}
    return Said(
        verdict=verdict,
        room="warm",
        numbers=numbers,
        turn=Turn(axis="distance", at=at, xs=(1.0, LONGEST_KM), own=min(warming.km, LONGEST_KM)),
        rests_on=("comfort.",),
    )
