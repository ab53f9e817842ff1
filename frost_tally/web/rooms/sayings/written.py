"""Numbers of the sayings as they are written in a sentence."""

from collections.abc import Callable

from ....core.sayings.said import Said
from ...units import Units


def written(value: float, how: str, units: Units) -> str:
    """A number as its kind is written."""
    per = units.of("distance")
    match how:
        case "money":
            return units.money(value, 0 if abs(value) >= 20 else None)
        case "points":
            return units.plain(100 * value, 1)
        case "share":
            return units.text(value, "percent", 0 if abs(value) >= 0.1 or value == 0 else 1)
        case "count":
            return units.plain(value, 0)
        case "wh":
            return f"{units.plain(value / per.show(1.0), 0)}\u00a0Wh/{per.label}"
        case "energy":
            return units.text(value, "energy", 0 if abs(value) >= 20 else 1)
        case "hours":
            return units.text(value, "hours", 0 if abs(value) >= 20 else 1)
        case "distance":
            return units.text(value, "distance", 0 if abs(value) >= 10 else 1)
        case "temperature" | "power" if value == round(value):
            return units.text(value, how, 0)
    return units.text(value, how)


class Says:
    """A saying's numbers as they are written in its sentence."""

    def __init__(self, said: Said, units: Units) -> None:
        self.said, self.units = said, units

    def __call__(self, name: str, how: str) -> str:
        return written(self.said.numbers[name], how, self.units)

    def __contains__(self, name: str) -> bool:
        return name in self.said.numbers

    @property
    def ten(self) -> str:
        """Ten kilometres an hour."""
        return self.units.text(10, "speed")

    def at(self, quantity: str) -> str:
        """Where it turns."""
        turn = self.said.turn
        return "" if turn is None or turn.at is None else self.units.text(turn.at, quantity)


Sentence = Callable[[Said, Says], str]
