"""Public holidays of a country, from the kept library of them."""

from datetime import date

import holidays


def public_holidays(country: str, year: int) -> list[date]:
    """Return a country's public holidays of two years from one on, rising; none where the country is not known."""
    if country not in holidays.list_supported_countries():
        return []
    return sorted(holidays.country_holidays(country, years=[year, year + 1]))
