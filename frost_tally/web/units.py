"""The owner's units: SI inside, theirs on the page; what they type is read in theirs, or in the unit that they write beside it.

Why: docs/decisions/0033.
"""

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, fields
from datetime import date, datetime, time
from functools import cache, cached_property
from math import ceil, floor, log10

from babel.numbers import get_currency_precision, get_currency_symbol

from ..core.errors import Refusal
from ..core.measures import CHOSEN, FIXED, OF_A_FIGURE, Unit, units_of
from ..core.parts import Person
from ..formats import values

_NUMBER = r"[−-]?\d{1,3}(?: \d{3})+|[−-]?\d+(?:\.\d+)?"
_VALUE = re.compile(rf"\{{(?P<first>{_NUMBER})(?:–(?P<last>{_NUMBER}))? (?P<unit>[^}}]+)\}}")
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
    `hours` is "24" or "12", `week_start` "mon" or "sun", `decimal` the mark before decimals, `date_order` "dmy", "mdy" or "ymd".
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
    date_order: str = "dmy"

    def date(self, day: date, *, weekday: str = "", month: str = "b", year: bool = False) -> str:
        """A date as this person writes it: "15 Jan", "Jan 15, 2027", "Friday 15 January"; `weekday` and `month` are codes of strftime."""
        name, before = f"{day:%{month}}", f"{day:%{weekday}} " if weekday else ""
        if self.date_order == "dmy":
            return f"{before}{day.day} {name}{f' {day.year}' if year else ''}"
        if self.date_order == "ymd" and year:
            return f"{before}{day:%Y-%m-%d}"
        return f"{before}{name} {day.day}{f', {day.year}' if year else ''}"

    def of(self, quantity: str) -> Unit:
        """The unit of a quantity such as `distance`, `speed`, `temperature`, `pressure`, `percent`, `price`."""
        return self._chosen.get(quantity) or FIXED[quantity]

    @cached_property
    def _chosen(self) -> dict[str, Unit]:
        found = {quantity: unit for name, choices in CHOSEN.items() for quantity, unit in choices[getattr(self, name)].items()}
        found["price"] = Unit(f"{self.currency}/kWh", 3, self.exchange_rate)
        return found | {"money": Unit(self.currency, 2, self.exchange_rate)}

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
        shown = self.of(OF_A_FIGURE[unit]) if unit in OF_A_FIGURE else Unit(unit)
        digits = f"{shown.show(value):.4g}" if unit in OF_A_FIGURE else f"{value:g}"
        return f"{digits.replace('.', self.decimal).replace('-', '−')}\u00a0{shown.label}".strip()

    def say(self, text: str) -> str:
        """A text with its values, which stand in braces, in this person's units: "{20–25 °C}" may be "68–77 °F". Differences of temperature
        are in K in it, for they are turned otherwise: "{5.5 K}" may be "9.9 °F", or "5.5 °C".
        """

        def said(found: re.Match[str]) -> str:
            first, last, unit = (found[name] for name in ("first", "last", "unit"))
            label = self.of(OF_A_FIGURE[unit]).label
            if label == unit:
                return found[0][1:-1]
            numbers = [float(each.replace("−", "-").replace(" ", "")) for each in (first, last) if each]
            return "–".join(self.figure(each, unit).rsplit("\u00a0", 1)[0] for each in numbers) + f"\u00a0{label}"

        return _VALUE.sub(said, text)

    def ends(self, low: float, high: float, quantity: str) -> tuple[str, str]:
        """The ends of a range as a field has them: where they are no round numbers in this person's unit, the next ones within."""
        unit = self.of(quantity)
        shown = (_round_within(unit.show(low), unit.decimals, ceil), _round_within(unit.show(high), unit.decimals, floor))
        least, most = (f"{each:.10f}".rstrip("0").rstrip(".").replace(".", self.decimal) for each in shown)
        return ("0" if least == "-0" else least), most

    def refusal(self, refusal: Refusal) -> str:
        """What the core refuses, its range in this person's units."""
        span = getattr(refusal, "span", None)
        if span is None:
            return refusal.message
        what, low, high, value, unit = span
        typed = self.figure(value, unit).rsplit("\u00a0", 1)[0]
        if unit in OF_A_FIGURE:
            (least, most), label = self.ends(low, high, OF_A_FIGURE[unit]), self.of(OF_A_FIGURE[unit]).label
            ends = f"{least} and {most} {label}".replace("-", "−")
        else:
            ends = f"{self.figure(low, '')} and {self.figure(high, unit)}"
        return f"{what} must be between {ends}; {typed} is not.".replace("\u00a0", " ")

    def per_100(self, per_100_km: float) -> float:
        """What 100 km take as what 100 of this person's units of distance take."""
        return per_100_km * self.of("distance").read(1.0)

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
        if before or after not in ("", *_written(quantity)):
            raise ValueError("another unit")
        return _written(quantity)[after].read(number) if after else unit.read(number)

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
        unit, value = self.of(quantity), min(max(_EXAMPLES.get(quantity, low), low), high)
        round_one = value if unit.factor == 1.0 else unit.read(float(f"{unit.show(value):.2g}"))
        return self.text(round_one if low <= round_one <= high else value, quantity)

    @property
    def code(self) -> str:
        """All that numbers are read by, in a text that a form takes with it: its fields were shown in these units."""
        return "|".join(getattr(self, name) for name in IN_CODE)


def _round_within(shown: float, decimals: int, towards: Callable[[float], int]) -> float:
    """A limit as it is said: itself where it is a round number, else the next number of two figures within."""
    if abs(shown - round(shown, decimals)) < 1e-9 * max(1.0, abs(shown)):
        return round(shown, decimals)
    step = 10.0 ** (floor(log10(abs(shown))) - 1)
    return towards(shown / step) * step


@cache
def _written(quantity: str) -> dict[str, Unit]:
    """The units that may be written beside a number, by their names in small letters."""
    found = {name.casefold(): unit for unit in reversed(units_of(quantity)) for name in (*unit.also, unit.label)}
    return {name: unit for name, unit in found.items() if name}


IN_CODE = tuple(each.name for each in fields(Units) if each.name not in ("exchange_rate", "date_order"))
"""What numbers are read by; the order of dates is none of it, for those are typed as the browser has them."""
_CHOICES: Mapping[str, tuple[str, ...]] = {
    **{name: tuple(choices) for name, choices in CHOSEN.items()},
    "hours": ("24", "12"), "week_start": ("mon", "sun"), "decimal": (".", ","),
}  # fmt: skip


def units_from(code: str, otherwise: Units, rates: Mapping[str, float] | None = None) -> Units:
    """The units that a form's fields were shown in; `otherwise` for a text that is none. `rates`: what one of the contracts' money is worth
    in others, by currency.
    """
    parts = dict(zip(IN_CODE, code.split("|"), strict=False))
    good = len(code.split("|")) == len(IN_CODE) and all(parts[name] in of for name, of in _CHOICES.items())
    if not good or not re.fullmatch("[A-Za-z]{3}", parts["currency"]):
        return otherwise
    parts["currency"] = parts["currency"].upper()
    worth = {**(rates or {}), otherwise.currency: otherwise.exchange_rate}
    return Units(**parts, exchange_rate=worth.get(parts["currency"], 1.0), date_order=otherwise.date_order)


def units_for(who: Person) -> Units:
    """A person's units."""
    return Units(
        distance=who.distance_unit,
        temperature=who.temperature_unit,
        pressure=who.pressure_unit,
        currency=who.currency,
        exchange_rate=who.per_contract,
        weight=who.weight_unit,
        hours=who.hours,
        week_start=who.week_start,
        decimal=who.decimal_mark,
        date_order=who.date_order,
    )
