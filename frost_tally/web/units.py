"""The owner's units: SI inside, theirs on the page."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from babel.numbers import get_currency_precision, get_currency_symbol

from ..core.units import KM_PER_MILE, KPA_PER_PSI


@dataclass(frozen=True)
class Unit:
    """How a quantity is shown: label, decimals, and the way from SI and back."""

    label: str
    decimals: int
    show: Callable[[float], float]
    read: Callable[[float], float]


def _scaled(label: str, decimals: int, factor: float) -> Unit:
    return Unit(label, decimals, lambda si: si * factor, lambda shown: shown / factor)


_PLAIN = {
    "percent": _scaled("%", 0, 100.0),
    "speed_mps": _scaled("m/s", 1, 1.0),
    "energy": _scaled("kWh", 1, 1.0),
    "power": _scaled("kW", 1, 1.0),
    "current": _scaled("A", 0, 1.0),
    "voltage": _scaled("V", 0, 1.0),
    "mass": _scaled("kg", 0, 1.0),
    "area": _scaled("m²", 2, 1.0),
    "height": _scaled("m", 0, 1.0),
    "hours": _scaled("h", 1, 1.0),
    "ratio": _scaled("", 4, 1.0),
    "count": _scaled("", 0, 1.0),
}
DISTANCE = {"km": _scaled("km", 0, 1.0), "mi": _scaled("mi", 0, 1 / KM_PER_MILE)}
SPEED = {"km": _scaled("km/h", 0, 1.0), "mi": _scaled("mph", 0, 1 / KM_PER_MILE)}
TEMPERATURE = {"C": _scaled("°C", 1, 1.0), "F": Unit("°F", 1, lambda si: si * 9 / 5 + 32, lambda shown: (shown - 32) * 5 / 9)}
PRESSURE = {"kPa": _scaled("kPa", 0, 1.0), "bar": _scaled("bar", 2, 0.01), "psi": _scaled("psi", 1, 1 / KPA_PER_PSI)}


@dataclass(frozen=True)
class Units:
    """One person's choice of units and money; `exchange_rate` is how much of their money one of the contracts' is worth."""

    distance: str = "km"
    temperature: str = "C"
    pressure: str = "kPa"
    currency: str = "EUR"
    exchange_rate: float = 1.0

    def of(self, quantity: str) -> Unit:
        """The unit of a quantity such as `distance`, `speed`, `temperature`, `pressure`, `percent`, `price`."""
        return self._chosen.get(quantity) or _PLAIN[quantity]

    @cached_property
    def _chosen(self) -> dict[str, Unit]:
        return {
            "distance": DISTANCE[self.distance],
            "speed": SPEED[self.distance],
            "temperature": TEMPERATURE[self.temperature],
            "pressure": PRESSURE[self.pressure],
            "price": _scaled(f"{self.currency}/kWh", 3, self.exchange_rate),
            "money": _scaled(self.currency, 2, self.exchange_rate),
        }

    @cached_property
    def _coins(self) -> int:
        return get_currency_precision(self.currency)

    def pays(self, amount: float) -> bool:
        """Whether an amount of the contracts' money is anything at all in this person's: the smallest coin, as it is written."""
        return round(abs(amount) * self.exchange_rate, self._coins) > 0

    def money(self, amount: float, decimals: int | None = None) -> str:
        """An amount of the contracts' money as this person counts it: "€4.18"; with the decimals that this money has."""
        decimals = self._coins if decimals is None else decimals
        shown = round(amount * self.exchange_rate, decimals) + 0.0
        space = "\u00a0" if self.symbol[-1].isalpha() else ""
        return f"{'−' if shown < 0 else ''}{self.symbol}{space}{abs(shown):,.{decimals}f}"

    @cached_property
    def symbol(self) -> str:
        """The sign of their money."""
        return get_currency_symbol(self.currency, locale="en")

    def text(self, si: float, quantity: str, decimals: int | None = None, unit: bool = True) -> str:
        """A value with its unit, a true minus and a narrow space: "−12 °C"."""
        shown = self.of(quantity)
        places = shown.decimals if decimals is None else decimals
        number = round(shown.show(si), places) + 0.0
        value = f"{number:,.{places}f}".replace(",", "\u202f" if abs(number) >= 10_000 else "").replace("-", "−")
        return f"{value}\u00a0{shown.label}" if unit and shown.label else value

    def field(self, si: float | None, quantity: str) -> str:
        """A value as a number field wants it: plain digits, no needless zeros."""
        if si is None:
            return ""
        shown = self.of(quantity)
        text = f"{round(shown.show(si), max(shown.decimals, 1)):.{max(shown.decimals, 1)}f}"
        return text.rstrip("0").rstrip(".") if "." in text else text
