"""What Tonight and Day say of the winter, a line for each thing that matters."""

from ..services.winter.room import what_matters
from .levers import Asked
from .words.season import matters_words


def winter_lines(asked: Asked, car_id: int) -> list[tuple[str, str]]:
    """The lines for a car with where each leads."""
    return matters_words(what_matters(asked.snapshot, car_id), asked.units)
