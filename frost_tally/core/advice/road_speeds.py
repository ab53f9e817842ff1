"""Which motorway speeds are a choice: what the roads of a country allow, and what a frosty road bears."""

from collections.abc import Mapping

from ..basis import Basis, figure

USUAL_KMH = figure(
    "roads.motorway_limit",
    120.0,
    "km/h",
    Basis.FROM_MEMORY,
    "what motorways usually allow, where nobody typed it and no country is known",
)
FROST_KMH = figure(
    "roads.frost", 110.0, "km/h", Basis.COMMON_PRACTICE, "our judgement: no faster speed is a choice where a road may be icy"
)
ICY_C = figure("roads.icy_below", 3.0, "°C", Basis.COMMON_PRACTICE, "colder air than this can mean ice on the road")
MILE = 1.609344
LIMITS_KMH: Mapping[str, float] = {
    "AT": 130, "BE": 120, "BG": 140, "CA": 110, "CH": 120, "CZ": 130, "DE": 130, "DK": 130, "EE": 110, "ES": 120, "FI": 120, "FR": 130,
    "GB": 70 * MILE, "GR": 130, "HR": 130, "HU": 130, "IE": 120, "IS": 90, "IT": 130, "JP": 100, "LT": 130, "LU": 130, "LV": 100,
    "NL": 100, "NO": 110, "PL": 140, "PT": 120, "RO": 130, "SE": 110, "SI": 130, "SK": 130, "UA": 130, "US": 70 * MILE,
}  # fmt: skip
"""What motorways usually allow cars by country (ISO 3166), km/h, from memory; in Germany the advised speed. The road's own sign decides."""


def allowed_kmh(country: str) -> float:
    """What motorways of a country usually allow, km/h."""
    return float(LIMITS_KMH.get(country, USUAL_KMH))


def bearable_kmh(limit_kmh: float, air_c: float) -> float:
    """The fastest speed that is a choice in some air (°C): what is allowed, and on roads that may be icy no more than they bear."""
    return min(limit_kmh, FROST_KMH) if air_c < ICY_C else limit_kmh
