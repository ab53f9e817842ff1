"""Money of other currencies: prices that are known from memory, in euro, are converted once, when the home is read."""

from ..core.basis import Basis, figure

_MONEY = {"USD": 1.1, "CHF": 0.95, "GBP": 0.85, "CAD": 1.5, "NOK": 11.5, "SEK": 11.2, "DKK": 7.5, "ISK": 150.0, "PLN": 4.3}
PER_EURO = {"EUR": 1.0} | {
    code: figure(f"wear.euro_in_{code.lower()}", each, code, Basis.FROM_MEMORY, "roughly one euro, for prices from memory")
    for code, each in _MONEY.items()
}
"""What one euro is about worth, by a currency's code; one that is not here counts as euro."""
