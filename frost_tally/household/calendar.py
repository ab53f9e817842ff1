"""Public holidays by region, from a well-kept library."""

import re
import sys
from datetime import date
from functools import lru_cache
from importlib import import_module
from importlib.util import find_spec, module_from_spec
from threading import Lock
from typing import Any

from ..core.errors import Refusal

YEARS = range(2015, 2046)
_LOADING = Lock()


@lru_cache(maxsize=32)
def holidays_of(region: str) -> frozenset[date]:
    """Public holidays of a country ("NO") or a part of one ("DE-BY"), 2015 to 2045.

    Raises: Refusal for a region that the library does not know.
    """
    country, _, part = region.upper().partition("-")
    refusal = Refusal(
        f"“{region[:12]}” is not a region known here: two letters of the country, such as NO; DE-BY for a part.", "region"
    )
    if not re.fullmatch("[A-Z]{2}", country):
        raise refusal
    try:
        of_country = _country(country)
        if part and part not in of_country.subdivisions:
            raise refusal
        return frozenset(of_country(subdiv=part or None, years=YEARS))
    except NotImplementedError:  # the library’s way to say that it does not know a country
        raise refusal from None


def _country(code: str) -> Any:
    """A country's class of the library. Raises: NotImplementedError for a code that it does not know.

    Asked by a code, the library loads all its 250 countries first, a tenth of a start; so the one module is loaded below a package that
    has not run yet. Where the library is built otherwise one day, it is asked the slow way.
    """
    import holidays  # slow to load, and most starts have no region yet
    from holidays.registry import COUNTRIES

    package = "holidays.countries"
    with _LOADING:
        try:
            module = next(name for name, (_, *codes) in COUNTRIES.items() if code in codes)
            if package not in sys.modules and (spec := find_spec(package)) is not None:
                sys.modules[package] = module_from_spec(spec)
                try:
                    return getattr(import_module(f"{package}.{module}"), code)
                finally:
                    del sys.modules[package]
        except (AttributeError, ImportError, StopIteration, TypeError, ValueError):
            pass
    return type(holidays.country_holidays(code))


def kept_holidays(region: str) -> frozenset[date]:
    """The same of a region that was kept; none for one that is not known any more, so that what is kept can be shown."""
    try:
        return holidays_of(region) if region else frozenset()
    except Refusal:
        return frozenset()
