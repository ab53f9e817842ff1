"""The weather of a place in any year."""

from ..household.models import PlaceRow
from ..standins.weather import TypicalYear
from ..world import Weather, World


def climate_of(world: World, place: PlaceRow) -> Weather:
    """A year's weather of a place: the world's, or one from its January and July."""
    return world.weather or TypicalYear(place.january_c, place.july_c)
