"""Abbreviations of the trade, explained where they first stand on a page: pointed at, read out, or in print."""

from markupsafe import Markup

MEANING = {
    "COP": "coefficient of performance: heat given for the electricity drawn",
    "EER": "energy efficiency ratio: cold given for the electricity drawn",
    "U": "U-value: heat through a square metre for each kelvin between its sides, W/(m² K)",
    "g": "share of the sun's heat that the glass lets in",
    "W/K": "watts lost for each kelvin between inside and outdoors",
    "K·h": "kelvin-hours: how far, times how long, it was off",
    "°F·h": "degree-hours: how far, times how long, it was off",
    "Δθ": "difference of temperature between the two sides",
    "ESPI": "the open format in which utilities hand out interval data",
    "el.": "of electricity",
}


def abbr(short: str) -> Markup:
    """Return an abbreviation with what it means."""
    return Markup('<abbr title="{}">{}</abbr>').format(MEANING[short], short)
