"""The owner's units: SI inside, theirs on the page; what they type is read in theirs, or in the unit that they write beside it."""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from datetime import datetime, time
from functools import cached_property

from babel.numbers import get_currency_precision, get_currency_symbol

from ..core.errors import Refusal
from ..core.units import KM_PER_MILE, KPA_PER_PSI
from ..formats import values

METRES_PER_FOOT, KG_PER_POUND = 0.3048, 0.45359237
MPS_PER_MPH = KM_PER_MILE / 3.6


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
    "energy": _scaled("kWh", 1, 1.0),
    "power": _scaled("kW", 1, 1.0),
    "current": _scaled("A", 0, 1.0),
    "voltage": _scaled("V", 0, 1.0),
    "fine_voltage": _scaled("V", 2, 1.0),
    "hours": _scaled("h", 1, 1.0),
    "minutes": _scaled("min", 0, 1.0),
    "watts": _scaled("W", 0, 1.0),
    "litres": _scaled("L", 1, 1.0),
    "ratio": _scaled("", 4, 1.0),
    "count": _scaled("", 0, 1.0),
}
DISTANCE = {"km": _scaled("km", 0, 1.0), "mi": _scaled("mi", 0, 1 / KM_PER_MILE)}
SPEED = {"km": _scaled("km/h", 0, 1.0), "mi": _scaled("mph", 0, 1 / KM_PER_MILE)}
WIND = {"km": _scaled("m/s", 1, 1.0), "mi": _scaled("mph", 0, 1 / MPS_PER_MPH)}
TEMPERATURE = {"C": _scaled("°C", 1, 1.0), "F": Unit("°F", 1, lambda si: si * 9 / 5 + 32, lambda shown: (shown - 32) * 5 / 9)}
WARMER = {"C": _scaled("°C", 0, 1.0), "F": _scaled("°F", 0, 1.8)}
PRESSURE = {"kPa": _scaled("kPa", 0, 1.0), "bar": _scaled("bar", 2, 0.01), "psi": _scaled("psi", 1, 1 / KPA_PER_PSI)}
MASS = {"kg": _scaled("kg", 0, 1.0), "lb": _scaled("lb", 0, 1 / KG_PER_POUND)}
HEIGHT = {"kg": _scaled("m", 0, 1.0), "lb": _scaled("ft", 0, 1 / METRES_PER_FOOT)}
LENGTH = {"kg": _scaled("m", 2, 1.0), "lb": _scaled("ft", 2, 1 / METRES_PER_FOOT)}
AREA = {"kg": _scaled("m²", 2, 1.0), "lb": _scaled("ft²", 1, 1 / METRES_PER_FOOT**2)}

_WRITTEN: Mapping[str, Mapping[str, Unit]] = {
    "distance": {"km": DISTANCE["km"], **dict.fromkeys(("mi", "mile", "miles"), DISTANCE["mi"])},
    "speed": {**dict.fromkeys(("km/h", "kmh", "kph"), SPEED["km"]), "mph": SPEED["mi"]},
    "speed_mps": {"m/s": WIND["km"], "mph": WIND["mi"], **dict.fromkeys(("km/h", "kmh", "kph"), _scaled("km/h", 0, 3.6))},
    "temperature": {**dict.fromkeys(("°c", "c"), TEMPERATURE["C"]), **dict.fromkeys(("°f", "f"), TEMPERATURE["F"])},
    "pressure": {each.lower(): unit for each, unit in PRESSURE.items()},
    "mass": {"kg": MASS["kg"], **dict.fromkeys(("lb", "lbs", "pounds"), MASS["lb"])},
    "height": {"m": HEIGHT["kg"], **dict.fromkeys(("ft", "feet", "foot"), HEIGHT["lb"])},
    "length": {"m": LENGTH["kg"], "cm": _scaled("cm", 0, 100.0), **dict.fromkeys(("ft", "feet", "foot"), LENGTH["lb"])},
    "area": {**dict.fromkeys(("m²", "m2"), AREA["kg"]), **dict.fromkeys(("ft²", "ft2"), AREA["lb"])},
    "percent": {"%": _PLAIN["percent"]},
    "energy": {"kwh": _PLAIN["energy"], "wh": _scaled("Wh", 0, 1000.0)},
    "power": {"kw": _PLAIN["power"], "w": _scaled("W", 0, 1000.0)},
    "current": dict.fromkeys(("a", "amp", "amps"), _PLAIN["current"]),
    **dict.fromkeys(("voltage", "fine_voltage"), dict.fromkeys(("v", "volt", "volts"), _PLAIN["voltage"])),
    "litres": {"l": _PLAIN["litres"], "ml": _scaled("ml", 0, 1000.0)},
    "minutes": {"min": _PLAIN["minutes"], "h": _scaled("h", 1, 1 / 60)},
    "hours": {**dict.fromkeys(("h", "hours"), _PLAIN["hours"]), "min": _scaled("min", 0, 60.0)},
}
"""Units that may be written beside a number, by quantity, in small letters."""

_FIGURES = {
    "°C": "temperature",
    "kg": "mass",
    "m": "height",
    "m²": "area",
    "kPa": "pressure",
    "km": "distance",
    "km/h": "speed",
    "m/s": "speed_mps",
    "K": "warmer",
}
_NUMBER = r"[−-]?\d{1,3}(?: \d{3})+|[−-]?\d+(?:\.\d+)?"
_QUANTITIES = re.compile(
    rf"(?P<first>{_NUMBER})(?:–(?P<last>{_NUMBER}))?[ \u00a0](?P<unit>km/h|km|°C|kPa|kg|K|m/s|m²|m)(?![\w/²·])"
)
_EXAMPLES = {
    "distance": 20, "speed": 90, "speed_mps": 4, "temperature": -5, "pressure": 250, "mass": 1800, "height": 200, "length": 5, "area": 0.65,
    "percent": 0.8, "energy": 58, "power": 11, "current": 16, "voltage": 230, "hours": 8, "minutes": 30, "ratio": 1, "count": 2,
    "fine_voltage": 12.6, "litres": 3.5,
}  # fmt: skip
_SPLIT = re.compile(
    r"(?P<sign>[-−+]?)\s*(?P<before>[^\d.,+−-]*)(?P<number>[-−+]?[\d.,][\d., ’'\u00a0\u2009\u202f]*(?:e[+-]?\d+)?)(?P<after>.*)",
    re.IGNORECASE,
)
_PER_KWH = re.compile(r"\s*(?:/|per|a)\s*kwh$", re.IGNORECASE)


@dataclass(frozen=True, kw_only=True)
class Units:
    """One person's units, money and way of writing.

    `exchange_rate` is how much of their money one of the contracts' is worth; `weight` ("kg", "lb") leads heights and areas too;
    `hours` is "24" or "12", `week_start` "mon" or "sun", `decimal` the mark before decimals.
    """

    distance: str = "km"
    temperature: str = "C"
    pressure: str = "kPa"
    currency: str = "EUR"
    exchange_rate: float = 1.0
    weight: str = "kg"
    hours: str = "24"
    week_start: str = "mon"
    decimal: str = "."

    def of(self, quantity: str) -> Unit:
        """The unit of a quantity such as `distance`, `speed`, `temperature`, `pressure`, `percent`, `price`."""
        return self._chosen.get(quantity) or _PLAIN[quantity]

    @cached_property
    def _chosen(self) -> dict[str, Unit]:
        return {
            "distance": DISTANCE[self.distance],
            "speed": SPEED[self.distance],
            "speed_mps": WIND[self.distance],
            "temperature": TEMPERATURE[self.temperature],
            "warmer": WARMER[self.temperature],
            "pressure": PRESSURE[self.pressure],
            "mass": MASS[self.weight],
            "height": HEIGHT[self.weight],
            "length": LENGTH[self.weight],
            "area": AREA[self.weight],
            "price": _scaled(f"{self.currency}/kWh", 3, self.exchange_rate),
            "money": _scaled(self.currency, 2, self.exchange_rate),
        }

    @cached_property
    def _coins(self) -> int:
        return get_currency_precision(self.currency)

    @property
    def coin(self) -> float:
        """The smallest amount of the contracts' money that is anything at all in this person's, as it is written."""
        return 0.5 * 10.0**-self._coins / self.exchange_rate

    def pays(self, amount: float) -> bool:
        """Whether an amount of the contracts' money is anything at all in this person's."""
        return abs(amount) > self.coin

    def counts(self, key: str) -> bool:
        """Whether a figure says something to who counts in this money: all but what one euro is worth in others."""
        return not key.startswith("wear.euro_in_") or key.endswith(self.currency.lower())

    def money(self, amount: float, decimals: int | None = None) -> str:
        """An amount of the contracts' money as this person counts it: "€4.18"; with the decimals that this money has."""
        decimals = self._coins if decimals is None else decimals
        shown = round(amount * self.exchange_rate, decimals) + 0.0
        space = "\u00a0" if self.symbol[-1].isalpha() else ""
        digits = f"{abs(shown):,.{decimals}f}"
        if self.decimal == ",":
            digits = digits.replace(",", "\u202f").replace(".", ",")
        return f"{'−' if shown < 0 else ''}{self.symbol}{space}{digits}"

    @cached_property
    def symbol(self) -> str:
        """The sign of their money."""
        return get_currency_symbol(self.currency, locale="en")

    def _grouped(self, number: float, places: int) -> str:
        """A number with its decimals after this person's mark; thousands apart from ten thousand on."""
        text = f"{number:,.{places}f}" if abs(number) >= 10_000 else f"{number:.{places}f}"
        return text.replace(",", "\u202f").replace(".", self.decimal).replace("-", "−")

    def text(self, si: float, quantity: str, decimals: int | None = None, unit: bool = True) -> str:
        """A value with its unit, a true minus and a narrow space: "−12 °C"."""
        shown = self.of(quantity)
        places = shown.decimals if decimals is None else decimals
        value = self._grouped(round(shown.show(si), places) + 0.0, places)
        return f"{value}\u00a0{shown.label}" if unit and shown.label else value

    def figure(self, value: float, unit: str) -> str:
        """A number of the core's with the core's unit, in this person's: "25 °C" may be "77 °F"."""
        quantity = _FIGURES.get(unit)
        shown = self.of(quantity) if quantity else Unit(unit, 0, float, float)
        digits = f"{shown.show(value):.4g}" if quantity else f"{value:g}"
        return f"{digits.replace('.', self.decimal).replace('-', '−')}\u00a0{shown.label}".strip()

    def prose(self, text: str) -> str:
        """A text with its numbers in this person's units: "20–25 °C" may be "68–77 °F". Differences of temperature are in K in it, for they
        are turned otherwise: "5.5 K" may be "9.9 °F", or "5.5 °C".
        """

        def turned(found: re.Match[str]) -> str:
            first, last, unit = (found[name] for name in ("first", "last", "unit"))
            if self.of(_FIGURES[unit]).label == unit:
                return found[0]
            numbers = [float(each.replace("−", "-").replace(" ", "")) for each in (first, last) if each]
            return (
                "–".join(self.figure(each, unit).rsplit("\u00a0", 1)[0] for each in numbers)
                + f"\u00a0{self.of(_FIGURES[unit]).label}"
            )

        return _QUANTITIES.sub(turned, text)

    def refusal(self, refusal: Refusal) -> str:
        """What the core refuses, its range in this person's units."""
        span = getattr(refusal, "span", None)
        if span is None:
            return refusal.message
        what, low, high, value, unit = span
        ends = (self.figure(each, unit).rsplit("\u00a0", 1)[0] for each in (low, value))
        least, typed = ends
        return f"{what} must be between {least} and {self.figure(high, unit)}; {typed} is not.".replace("\u00a0", " ")

    def per_100(self, per_100_km: float) -> float:
        """What 100 km take as what 100 of this person's units of distance take."""
        return per_100_km * (KM_PER_MILE if self.distance == "mi" else 1.0)

    def plain(self, number: float, places: int) -> str:
        """A number without a unit, with its decimals after this person's mark."""
        return self._grouped(round(number, places) + 0.0, places)

    def clock(self, at: time | datetime) -> str:
        """A time of day: "22:30", or "10:30 pm"."""
        if self.hours == "24":
            return f"{at.hour:02d}:{at.minute:02d}"
        return f"{(at.hour - 1) % 12 + 1}:{at.minute:02d}\u00a0{'am' if at.hour < 12 else 'pm'}"

    def full_hour(self, hour: int, end: str = "") -> str:
        """A full hour on an axis: "06" with an end such as ":00", or "6 am"."""
        return f"{hour:02d}{end}" if self.hours == "24" else f"{(hour - 1) % 12 + 1}\u00a0{'am' if hour % 24 < 12 else 'pm'}"

    def weekdays(self) -> tuple[int, ...]:
        """The days of a week in this person's order; Monday is 0."""
        return (6, 0, 1, 2, 3, 4, 5) if self.week_start == "sun" else tuple(range(7))

    def field(self, si: float | None, quantity: str) -> str:
        """A value as a number field wants it: plain digits, no needless zeros."""
        if si is None:
            return ""
        shown = self.of(quantity)
        text = f"{round(shown.show(si), max(shown.decimals, 1)) + 0.0:.{max(shown.decimals, 1)}f}"
        return (text.rstrip("0").rstrip(".") if "." in text else text).replace(".", self.decimal)

    def read(self, text: str, quantity: str) -> float:
        """A typed value in SI: in this person's unit, or in the unit written beside it: "42 psi", "$0.21", "21 c/kWh".

        Raises: ValueError for what is no number, and for a unit or money that is neither theirs nor of this quantity.
        """
        unit, typed = self.of(quantity), text.strip()
        typed = _PER_KWH.sub("", typed) if quantity == "price" else typed
        parts = _SPLIT.fullmatch(typed)
        if parts is None:
            raise ValueError("not a number")
        before, after = (parts[each].strip().casefold() for each in ("before", "after"))
        number = values.typed_number(parts["sign"] + parts["number"].strip(), self.decimal, unit.decimals >= 3)
        if quantity in ("price", "money"):
            hundred = after in self._small_coins
            if before not in self._signs or not (hundred or after in self._signs):
                raise ValueError("another money")
            return unit.read(number / 100 if hundred else number)
        if before or after not in ("", *_WRITTEN.get(quantity, {})):
            raise ValueError("another unit")
        return _WRITTEN[quantity][after].read(number) if after else unit.read(number)

    @cached_property
    def _signs(self) -> frozenset[str]:
        """What may stand beside an amount of this person's money."""
        short = {"NOK": "kr", "SEK": "kr", "DKK": "kr", "ISK": "kr", "CHF": "fr", "PLN": "zł", "CZK": "kč"}.get(self.currency, "")
        sign = "$" if self.symbol.endswith("$") else ""
        return frozenset({"", short, f"{short}.", sign, self.symbol.casefold(), self.currency.casefold()} - {"."})

    @property
    def _small_coins(self) -> tuple[str, ...]:
        """The hundredth part of this money, as people write it."""
        return ("¢", "c", "ct", "cent", "cents", "p", "øre", "öre", "øre.")

    def example(self, quantity: str, low: float, high: float) -> str:
        """A value between two, as this person would type it: "12 mi", "$0.21"."""
        if quantity in ("price", "money"):
            return self.money((0.21 if quantity == "price" else 450.0) / self.exchange_rate, 2)
        return self.text(min(max(_EXAMPLES.get(quantity, low), low), high), quantity)

    @property
    def code(self) -> str:
        """All of it but money's worth, in a text that a form takes with it: its fields were shown in these units."""
        return "|".join(getattr(self, name) for name in _IN_CODE)


_IN_CODE = tuple(each.name for each in fields(Units) if each.name != "exchange_rate")
_CHOICES: Mapping[str, tuple[str, ...]] = {
    "distance": tuple(DISTANCE), "temperature": tuple(TEMPERATURE), "pressure": tuple(PRESSURE), "weight": tuple(MASS),
    "hours": ("24", "12"), "week_start": ("mon", "sun"), "decimal": (".", ","),
}  # fmt: skip


def units_from(code: str, otherwise: Units, rates: Mapping[str, float] | None = None) -> Units:
    """The units that a form's fields were shown in; `otherwise` for a text that is none. `rates`: what one of the contracts' money is worth
    in others, by currency.
    """
    parts = dict(zip(_IN_CODE, code.split("|"), strict=False))
    good = len(code.split("|")) == len(_IN_CODE) and all(parts[name] in of for name, of in _CHOICES.items())
    if not good or not re.fullmatch("[A-Za-z]{3}", parts["currency"]):
        return otherwise
    parts["currency"] = parts["currency"].upper()
    worth = {**(rates or {}), otherwise.currency: otherwise.exchange_rate}
    return Units(**parts, exchange_rate=worth.get(parts["currency"], 1.0))
