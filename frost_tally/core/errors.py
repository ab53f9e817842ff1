"""What the core says when it cannot do what it was asked."""


class Refusal(ValueError):
    """A request that cannot be met, with a sentence for a person and the field it belongs to."""

    def __init__(self, message: str, field: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.field = field


class Missing(Refusal):
    """What was asked for is not there, or not any more."""


class OutOfRange(Refusal):
    """A number outside the range in which it means something; `span` has what it is, the range, the number and its unit, if it is one."""

    span: tuple[str, float, float, float, str] | None = None


def require(value: float, low: float, high: float, what: str, unit: str = "", field: str = "") -> float:
    """Return `value` when low ≤ value ≤ high, otherwise raise OutOfRange naming the right range."""
    if not low <= value <= high:
        tail = f" {unit}" if unit else ""
        refusal = OutOfRange(f"{what} must be between {low:g} and {high:g}{tail}; {value:g} is not.", field)
        refusal.span = (what, low, high, value, unit)
        raise refusal
    return value
