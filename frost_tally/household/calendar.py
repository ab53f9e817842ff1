"""Public holidays by region, from a well-kept library."""

import re
from datetime import date
from functools import lru_cache

from ..core.errors import Refusal

YEARS = range(2015, 2046)


@lru_cache(maxsize=32)
def holidays_of(region: str) -> frozenset[date]:
    """Public holidays of a country ("NO") or a part of one ("DE-BY"), 2015 to 2045.

    Raises: Refusal for a region that the library does not know.
    """
    import holidays  # slow to load, and most starts have no region yet

    country, _, part = region.upper().partition("-")
    refusal = Refusal(
        f"“{region[:12]}” is not a region known here: two letters of the country, such as NO; DE-BY for a part.", "region"
    )
    if not re.fullmatch("[A-Z]{2}", country):
        raise refusal
    try:
        known = holidays.country_holidays(country, years=YEARS)
        if part and part not in known.subdivisions:
            raise refusal
        return frozenset(holidays.country_holidays(country, subdiv=part, years=YEARS) if part else known)
    except NotImplementedError:  # the library’s way to say that it does not know a country
        raise refusal from None


def kept_holidays(region: str) -> frozenset[date]:
    """The same of a region that was kept; none for one that is not known any more, so that what is kept can be shown."""
    try:
        return holidays_of(region) if region else frozenset()
    except Refusal:
        return frozenset()
