"""What is usual where somebody lives, by the language and the clock of their browser: units, money, way of writing, mains."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, NamedTuple

from babel import Locale, UnknownLocaleError
from babel.core import get_global, parse_locale
from babel.numbers import get_territory_currencies

from .units import Units

MILES = frozenset(("US", "PR", "VI", "GU", "AS", "MP", "GB", "IM", "JE", "GG"))
FAHRENHEIT = frozenset(("US", "PR", "VI", "GU", "AS", "MP"))
NORTH_AMERICA = frozenset((*FAHRENHEIT, "CA"))
"""Where circuits follow NEC or CEC: 120 and 240 V, and 80 % of the breaker for hours on end."""


@dataclass(frozen=True)
class LocaleDefaults:
    """Units and the code profile of circuits."""

    units: Units
    code: str


class Region(NamedTuple):
    """What goes together where somebody lives: how it is called, units, and the code of circuits."""

    words: str
    units: dict[str, Any]
    code: str


_KM = {
    "distance": "km", "temperature": "C", "pressure": "kPa", "weight": "kg", "hours": "24", "week_start": "mon", "date_order": "dmy",
}  # fmt: skip
SETS: Mapping[str, Region] = {
    "km": Region("Kilometres, °C", _KM, "iec"),
    "us": Region(
        "Miles, °F",
        {
            "distance": "mi",
            "temperature": "F",
            "pressure": "psi",
            "weight": "lb",
            "hours": "12",
            "week_start": "sun",
            "date_order": "mdy",
        },
        "north_america",
    ),
    "gb": Region("Miles, °C", _KM | {"distance": "mi", "pressure": "psi"}, "iec"),
    "ca": Region("120 V, kilometres, °C", _KM | {"hours": "12", "week_start": "sun", "date_order": "ymd"}, "north_america"),
}
"""Units and mains that go together, to be had with one tap."""


def set_of(units: Units, code: str) -> str:
    """The set that somebody's units and circuits are of, by what is seen most; "" for none."""
    seen = ("distance", "temperature")
    fits = [key for key, each in SETS.items() if all(getattr(units, name) == each.units[name] for name in seen)]
    return next((key for key in fits if SETS[key].code == code), next(iter(fits), ""))


@lru_cache(256)
def locale_defaults_of(languages: str, zone: str = "") -> LocaleDefaults:
    """What is usual for an Accept-Language header: the first language with a region says where; one without asks the clock.

    Money, first day of the week, hours and decimal mark are those of CLDR for the region.
    """
    locale, region = _where(languages, zone)
    distance = "us" if region in FAHRENHEIT else ("gb" if region in MILES else "km")
    of_set = SETS[distance].units | {
        "hours": "12" if "a" in locale.time_formats["short"].pattern else "24",
        "week_start": "sun" if locale.first_week_day == 6 else "mon",
        "date_order": {"M": "mdy", "y": "ymd"}.get(locale.date_formats["short"].pattern[:1], "dmy"),
        "decimal": "," if locale.number_symbols["latn"]["decimal"] == "," else ".",
        "currency": next(iter(reversed(get_territory_currencies(region))), "EUR") if region else "EUR",
    }
    return LocaleDefaults(Units(**of_set), "north_america" if region in NORTH_AMERICA else "iec")


def _where(languages: str, zone: str) -> tuple[Locale, str]:
    """The locale and its region ("" when nobody says)."""
    clock: str = get_global("zone_territories").get(zone, "")
    for each in languages.split(",")[:8]:
        try:
            language, region, script, *_ = parse_locale(each.split(";")[0].strip()[:20], sep="-")
        except ValueError:
            continue
        region = region or clock
        for tags in ((language, region, script), (language, region), (language,)):
            try:
                return Locale(*tags), region
            except (ValueError, UnknownLocaleError):
                continue
    return Locale("en", "GB"), clock
