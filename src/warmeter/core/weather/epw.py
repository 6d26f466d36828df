"""The design day of a typical year's weather file (EPW): its heading's heating condition, and its hours."""

import math
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import islice

import numpy as np

from warmeter.core.errors import ReadingError
from warmeter.core.sentence import celsius, sentence

HEADING_LINES = 8
DRY_BULB, MISSING_C = 6, 99.9
HOURS_A_DAY, LEAST_HOURS = 24, 8000
LOWEST_C, HIGHEST_C = -70.0, 70.0


@dataclass(frozen=True, slots=True, kw_only=True)
class EpwYear:
    """What a year's file says of its cold.

    ``heating_c`` is undercut in 0.4 % of the hours (None where the heading does not say it), ``coldest_day_c`` the
    lowest mean of a day, ``mean_c`` the year's mean [°C].
    """

    place: str
    heating_c: float | None
    coldest_day_c: float
    mean_c: float

    @property
    def design_c(self) -> float:
        """The design temperature [°C]: the heading's, else that of the coldest day."""
        return self.coldest_day_c if self.heating_c is None else self.heating_c


def read_epw(lines: Iterable[str]) -> EpwYear:
    """Return the cold of a weather file in EPW, an open format: eight lines of heading, then an hour a line.

    Raises
    ------
    ReadingError
        If it is no such file, or holds less than a year; the sentence names the line.
    """
    rows = iter(lines)
    heading = [line.strip().split(",") for line in islice(rows, HEADING_LINES)]
    if len(heading) < HEADING_LINES or heading[0][0].strip().upper() != "LOCATION":
        raise ReadingError("this is no EPW file: its first line does not begin with LOCATION")
    hours: list[float] = []
    for number, line in enumerate(rows, HEADING_LINES + 1):
        if line.strip():
            hours.append(_dry_bulb(line.split(","), number))
    if len(hours) < LEAST_HOURS:
        raise ReadingError(f"this EPW file holds {len(hours)} hours; a year's 8760 are needed")
    air_c = np.array(hours)
    days = air_c[: air_c.size // HOURS_A_DAY * HOURS_A_DAY].reshape(-1, HOURS_A_DAY)
    whole = days[~np.isnan(days).any(axis=1)]
    if not whole.size:
        raise ReadingError("this EPW file has no day with all its temperatures")
    location = [word.strip() for word in heading[0]]
    return EpwYear(
        place=", ".join(dict.fromkeys(word for word in location[1:4] if word and word != "-"))[:80],
        heating_c=_heating(heading),
        coldest_day_c=float(whole.mean(axis=1).min()),
        mean_c=float(np.nanmean(air_c)),
    )


def _dry_bulb(cells: list[str], number: int) -> float:
    try:
        value = float(cells[DRY_BULB])
    except (IndexError, ValueError) as error:
        raise ReadingError(f"line {number} of this EPW file has no air temperature in its seventh place") from error
    if math.isclose(value, MISSING_C):
        return math.nan
    if not LOWEST_C <= value <= HIGHEST_C:
        raise ReadingError(sentence("line {} of this EPW file says {}, which no air has", number, celsius(value)))
    return value


def _heating(heading: list[list[str]]) -> float | None:
    """Return the temperature that 99.6 % of the hours lie above, the second number after the word Heating."""
    for cells in heading:
        words = [cell.strip().lower() for cell in cells]
        if words[0] == "design conditions" and "heating" in words:
            try:
                value = float(words[words.index("heating") + 2])
            except (IndexError, ValueError):
                return None
            return value if LOWEST_C <= value <= HIGHEST_C else None
    return None
