"""Money of a bill: its smallest coin, its rounding, its taxes, and a currency that changes at a fixed rate."""

from collections.abc import Sequence
from decimal import ROUND_HALF_EVEN, ROUND_HALF_UP, Decimal
from typing import Literal

from warmeter.core.home.tariffs import CurrencyChange, Tax

# Digits of the smallest coin (ISO 4217) where they are not two.
COIN_DIGITS = {
    **dict.fromkeys(("JPY", "KRW", "CLP", "ISK", "VND", "PYG", "UGX", "XAF", "XOF", "XPF", "RWF", "KMF", "GNF"), 0),
    **dict.fromkeys(("BHD", "IQD", "JOD", "KWD", "LYD", "OMR", "TND"), 3),
}
USUAL_COIN_DIGITS = 2
_MODES = {"half_up": ROUND_HALF_UP, "half_even": ROUND_HALF_EVEN}
RoundingMode = Literal["half_up", "half_even"]


def coin_digits(currency: str) -> int:
    """Return how many decimals a currency's amounts have."""
    return COIN_DIGITS.get(currency, USUAL_COIN_DIGITS)


def to_coin(amount: Decimal, currency: str, mode: RoundingMode = "half_up") -> Decimal:
    """Return an amount rounded to the smallest coin of its currency."""
    return amount.quantize(Decimal(1).scaleb(-coin_digits(currency)), rounding=_MODES[mode])


def tax_factor(taxes: Sequence[Tax]) -> Decimal:
    """Return what an amount becomes with its taxes, for one of 1 (ratio)."""
    total = Decimal(1)
    for tax in taxes:
        total += tax.rate * (total if tax.is_on_taxes else Decimal(1))
    return total


def converted(amount: Decimal, change: CurrencyChange) -> Decimal:
    """Return an amount of the old currency in the new one, at the fixed rate, to the new one's smallest coin."""
    return to_coin(amount / change.rate, change.to_currency)


def converted_price(price: Decimal, change: CurrencyChange) -> Decimal:
    """Return a price of the old currency in the new one, unrounded or to the decimals that the change asks for."""
    exact = price / change.rate
    if change.price_decimals is None:
        return exact
    return exact.quantize(Decimal(1).scaleb(-change.price_decimals), rounding=ROUND_HALF_UP)
