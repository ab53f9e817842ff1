"""What electricity costs where nobody knows yet, and the simplest tariff."""

from datetime import time

from ..basis import Basis, figure
from .tariff import ALL_ROWS, Band, Tariff

TYPICAL_PRICES = {
    key: figure(f"tariff.typical_{key}", each, "EUR/kWh", Basis.FROM_MEMORY, f"{words}, until its owner enters one")
    for key, words, each in (
        ("cheap", "a cheap price", 0.12),
        ("dear", "a dear price", 0.30),
        ("all_day", "a price all day", 0.25),
    )
}
"""What a kilowatt-hour may cost, for who does not know: in euro, as of 2026."""


FUEL_L = figure(
    "tariff.fuel_use", 7.0, "L", Basis.FROM_MEMORY, "what a car of its size may burn on {100 km}, until its owner types it"
)
FUEL_PRICE = figure("tariff.fuel_price", 1.8, "EUR", Basis.FROM_MEMORY, "a litre of fuel, until its owner types it")


def one_price(name: str, price_per_kwh: float) -> Tariff:
    """One price all day."""
    return Tariff(name=name, zone="UTC", bands=(Band("all day", price_per_kwh, time(0), time(0), ALL_ROWS),)).checked()
