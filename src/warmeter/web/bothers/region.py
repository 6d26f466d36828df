"""Where a browser says that it is at home: its country, money and units, for a home of which nobody has said more."""

from dataclasses import dataclass

from fastapi import Request

from warmeter.core.units import LengthUnit, TemperatureUnit

CURRENCY = {
    "GB": "GBP",
    "US": "USD",
    "CH": "CHF",
    "LI": "CHF",
    "SE": "SEK",
    "NO": "NOK",
    "DK": "DKK",
    "PL": "PLN",
    "CZ": "CZK",
    "CA": "CAD",
    "AU": "AUD",
    "NZ": "NZD",
    "JP": "JPY",
}
EURO = frozenset(
    [
        "AT",
        "BE",
        "HR",
        "CY",
        "EE",
        "FI",
        "FR",
        "DE",
        "GR",
        "IE",
        "IT",
        "LV",
        "LT",
        "LU",
        "MT",
        "NL",
        "PT",
        "SK",
        "SI",
        "ES",
        "BG",
    ]
)
FEET = frozenset({"US"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Region:
    """A country with its currency and usual units."""

    country: str
    currency: str
    temperature_unit: TemperatureUnit
    length_unit: LengthUnit


def region_of(request: Request) -> Region:
    """Return the region of the first language that names one, Great Britain where none does."""
    tags = (each.partition(";")[0].strip() for each in request.headers.get("accept-language", "").split(","))
    named = (tag.rpartition("-")[2].upper() for tag in tags if "-" in tag)
    country = next((each for each in named if each in CURRENCY or each in EURO), "GB")
    return Region(
        country=country,
        currency=CURRENCY.get(country, "EUR"),
        temperature_unit="F" if country in FEET else "C",
        length_unit="ft" if country in FEET else "m",
    )
