"""Public holidays by region, from a well-kept library."""

from datetime import date
from functools import cache, lru_cache

import holidays

from ..core.errors import Refusal

YEARS = range(2015, 2046)


@lru_cache(maxsize=32)
def holidays_of(region: str) -> frozenset[date]:
    """Public holidays of a country ("NO") or a part of one ("DE-BY"), 2015 to 2045.

    Raises: Refusal for a region that the library does not know.
    """
    country, _, part = region.upper().partition("-")
    known = _known()
    if len(country) != 2 or country not in known or (part and part not in known[country]):
        raise Refusal(
            f"“{region[:12]}” is not a region known here: two letters of the country, such as NO; DE-BY for a part.", "region"
        )
    return frozenset(holidays.country_holidays(country, subdiv=part or None, years=YEARS))


@cache
def _known() -> dict[str, list[str]]:
    """Countries by two letters, each with its parts."""
    return holidays.list_supported_countries()


def kept_holidays(region: str) -> frozenset[date]:
    """The same of a region that was kept; none for one that is not known any more, so that what is kept can be shown."""
    try:
        return holidays_of(region) if region else frozenset()
    except Refusal:
        return frozenset()
