"""Units in which people write and read, from SI and back: one table for pages and files. Factors are exact by definition, as
ISO 80000-1 and NIST SP 811, appendix B, have them.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from .units import KM_PER_MILE, KMH_PER_MPS, KPA_PER_PSI

METRES_PER_FOOT, KG_PER_POUND = 0.3048, 0.45359237


@dataclass(frozen=True)
class Unit:
    """How a quantity is written: label, decimals, SI × `factor` + `offset`; `also` are other ways to write the label, in small letters."""

    label: str
    decimals: int = 0
    factor: float = 1.0
    offset: float = 0.0
    also: tuple[str, ...] = ()

    def show(self, si: float) -> float:
        """A value in this unit, from SI."""
        return si * self.factor + self.offset

    def read(self, shown: float) -> float:
        """A value in SI, from this unit."""
        return (shown - self.offset) / self.factor


_PER_FOOT, _PER_POUND, _PER_MILE = 1 / METRES_PER_FOOT, 1 / KG_PER_POUND, 1 / KM_PER_MILE
_FEET = ("feet", "foot")
CHOSEN: Mapping[str, Mapping[str, Mapping[str, Unit]]] = {
    "distance": {
        "km": {
            "distance": Unit("km"), "speed": Unit("km/h", also=("kmh", "kph")), "speed_mps": Unit("m/s", 1),
        },
        "mi": {
            "distance": Unit("mi", 0, _PER_MILE, also=("mile", "miles")), "speed": Unit("mph", 0, _PER_MILE),
            "speed_mps": Unit("mph", 0, KMH_PER_MPS * _PER_MILE),
        },
    },
    "temperature": {
        "C": {"temperature": Unit("°C", 1, also=("c",)), "warmer": Unit("°C")},
        "F": {"temperature": Unit("°F", 1, 1.8, 32.0, ("f", "fahrenheit")), "warmer": Unit("°F", 0, 1.8)},
    },
    "pressure": {
        "kPa": {"pressure": Unit("kPa")}, "bar": {"pressure": Unit("bar", 2, 0.01)}, "psi": {"pressure": Unit("psi", 1, 1 / KPA_PER_PSI)},
    },
    "weight": {
        "kg": {
            "mass": Unit("kg"), "height": Unit("m"), "length": Unit("m", 2), "area": Unit("m²", 2, also=("m2",)),
        },
        "lb": {
            "mass": Unit("lb", 0, _PER_POUND, also=("lbs", "pounds")), "height": Unit("ft", 0, _PER_FOOT, also=_FEET),
            "length": Unit("ft", 2, _PER_FOOT, also=_FEET), "area": Unit("ft²", 1, _PER_FOOT**2, also=("ft2",)),
        },
    },
}  # fmt: skip
"""What somebody chooses, how they may choose, and the quantities that follow. The first of each is SI, or what the core reckons in."""
FIXED: Mapping[str, Unit] = {
    "percent": Unit("%", 0, 100.0), "energy": Unit("kWh", 1), "power": Unit("kW", 1), "current": Unit("A", also=("amp", "amps")),
    "voltage": Unit("V", also=("volt", "volts")), "fine_voltage": Unit("V", 2, also=("volt", "volts")),
    "hours": Unit("h", 1, also=("hours",)), "minutes": Unit("min"),
    "watts": Unit("W"), "litres": Unit("L", 1), "ratio": Unit("", 4), "count": Unit(""),
}  # fmt: skip
"""Quantities that everybody writes alike."""
BESIDES: Mapping[str, tuple[Unit, ...]] = {
    "percent": (Unit("0–1", 2),), "distance": (Unit("m", 0, 1000.0),), "energy": (Unit("Wh", 0, 1000.0),), "power": (Unit("W", 0, 1000.0),),
    "speed_mps": (Unit("km/h", 0, KMH_PER_MPS, also=("kmh", "kph")),), "length": (Unit("cm", 0, 100.0),),
    "fine_voltage": (Unit("mV", 0, 1000.0),), "litres": (Unit("ml", 0, 1000.0),),
    "minutes": (Unit("h", 1, 1 / 60),), "hours": (Unit("min", 0, 60.0),),
}  # fmt: skip
"""Units that are read where they stand beside a number, or over a column, and never shown."""


def units_of(quantity: str) -> tuple[Unit, ...]:
    """All units in which a quantity may be written; the core's own first."""
    chosen = [of[quantity] for choices in CHOSEN.values() for of in choices.values() if quantity in of]
    return (*([FIXED[quantity]] if quantity in FIXED else []), *chosen, *BESIDES.get(quantity, ()))


QUANTITIES = (*FIXED, *(quantity for choices in CHOSEN.values() for quantity in next(iter(choices.values()))))
"""Every quantity but money."""
OF_A_FIGURE: Mapping[str, str] = {"K": "warmer"} | {
    unit.label: quantity
    for choices in CHOSEN.values()
    for quantity, unit in reversed(list(next(iter(choices.values())).items()))
    if quantity != "warmer"
}
"""The quantity of a number of the core's by its unit, where people write it in several ways; a difference of temperature is in K."""
