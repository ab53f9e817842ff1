"""Why something is as it is: a code and the values that its words need; the words stand outside the core."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Why:
    """A reason; without a code there is nothing to say, and it counts as false."""

    code: str = ""
    values: tuple[tuple[str, float | str], ...] = ()

    def __bool__(self) -> bool:
        return bool(self.code)


def why(code: str, **values: float | str) -> Why:
    """The reason of that code with its values."""
    return Why(code, tuple(values.items()))


NOTHING_TO_SAY = Why()
