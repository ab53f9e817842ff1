"""“Do not look at the app all the time.”"""

from .known import Here, Standing
from .said import Said
from .while_standing import of_a_day


def said(here: Here, standing: Standing) -> Said:
    """What a day of it takes of the level, and a year of it in money."""
    return of_a_day(here, standing, "polling")
