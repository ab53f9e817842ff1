"""Outlets as people know them, with the volts and amperes behind the name.

Source: common practice; the ratings are those of the plugs (IEC 60309, IEC 60884, NEMA), a lead with a household plug is set lower.
"""

from collections.abc import Mapping
from types import MappingProxyType

from .supply import Code, Supply


def _supply(code: Code, voltage_v: float, phases: int, breaker_a: float, cable_a: float | None = None) -> Supply:
    return Supply(name="", code=code, voltage_v=voltage_v, phases=phases, breaker_a=breaker_a, cable_a=cable_a)


USUAL_SUPPLIES: Mapping[Code, Mapping[str, Supply]] = MappingProxyType(
    {
        Code.IEC: {
            "household": _supply(Code.IEC, 230, 1, 16, 10),
            "caravan": _supply(Code.IEC, 230, 1, 16, 16),
            "wall_one": _supply(Code.IEC, 230, 1, 32),
            "wall_three": _supply(Code.IEC, 230, 3, 16),
        },
        Code.NORTH_AMERICA: {
            "household": _supply(Code.NORTH_AMERICA, 120, 1, 15, 12),
            "dryer": _supply(Code.NORTH_AMERICA, 240, 1, 30, 24),
            "range": _supply(Code.NORTH_AMERICA, 240, 1, 50, 40),
            "wall_one": _supply(Code.NORTH_AMERICA, 240, 1, 60),
        },
    }
)
"""By code and kind; unnamed."""
