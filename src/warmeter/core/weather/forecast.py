"""The coming outdoor temperature: read, typed, or like yesterday, with how far it may be off."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats, Ints
from warmeter.core.errors import NotKnowable

DAY_STEPS = 1440
USUAL_SPREAD_K = 2.5  # of one day's mean against the day before, where no log says better
FORECAST_SPREAD_K = 1.2  # of a forecast one day on


@dataclass(frozen=True, slots=True)
class WeatherForecast:
    """Outdoor temperature by minute, shape (minute + 1,), where it came from, and its spread [K]."""

    outdoor_c: Floats
    origin: str
    spread_k: float


def like_yesterday(measured_c: Floats, ahead: int) -> Floats:
    """Return the last day over and over, ``ahead`` more minutes.

    Parameters
    ----------
    measured_c : (minute,) float array
        Up to now, NaN where not heard; its last 24 h are repeated [°C].

    Raises
    ------
    NotKnowable
        If fewer than 12 of the last 24 hours were heard.
    """
    day = measured_c[-DAY_STEPS:]
    heard = ~np.isnan(day)
    if heard.sum() < DAY_STEPS // 2:
        raise NotKnowable(
            "Fewer than 12 of the last 24 hours of outdoor temperature were received.",
            "Type tomorrow's lowest and highest temperature, or import a forecast.",
        )
    index = np.arange(day.size)
    whole = np.interp(index, index[heard], day[heard])
    return np.resize(whole, ahead)


def typed_day(low_c: float, high_c: float, local_minutes: Ints) -> Floats:
    """Return a day's wave between a low at 06:00 and a high at 15:00 by the wall clock [°C]."""
    minute = local_minutes % DAY_STEPS
    rising = (minute >= 360) & (minute < 900)
    since_high = (minute - 900) % DAY_STEPS
    phase = np.where(rising, (minute - 360) / 540 * np.pi - np.pi, since_high / 900 * np.pi)
    return (low_c + high_c) / 2 + (high_c - low_c) / 2 * np.cos(phase)


def day_to_day_spread_k(hourly_c: Floats) -> float:
    """Return how much daily means differ from the day before [K], from hourly values; usual if short."""
    days = hourly_c[: hourly_c.size // 24 * 24].reshape(-1, 24)
    if days.shape[0] < 4:
        return USUAL_SPREAD_K
    with np.errstate(invalid="ignore"):
        heard = ~np.isnan(days).all(axis=1)
    means = np.nanmean(days[heard], axis=1)
    if means.size < 4:
        return USUAL_SPREAD_K
    return float(np.std(np.diff(means), ddof=1))
