"""What one week cost more than the one before, had both been as cold."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.saving.degree_days import degree_day_fit

FEWEST_DAYS = 14


@dataclass(frozen=True, slots=True, kw_only=True)
class LikeForLike:
    """A difference of cost less what the weather made of it, with its 95 % range [currency]."""

    more: float
    low: float
    high: float


def like_for_like(
    more: float, daily_kwh: Floats, degree_days: Floats, degree_days_more: float, price_per_kwh: float
) -> LikeForLike:
    """Return a difference of cost as if both weeks had been as cold.

    Parameters
    ----------
    more : float
        Cost of the one less that of the other [currency].
    daily_kwh, degree_days : (day,) float array
        Of days before the week that is compared: a change made in it must not look like weather. NaN is left out
        [kWh, K·d].
    degree_days_more : float
        Degree days of the one week less those of the other [K·d].
    price_per_kwh : float
        Mean price of the week that is compared [currency/kWh].

    Raises
    ------
    NotKnowable
        If fewer than 14 days are known, or all were as cold as each other.

    Notes
    -----
    docs/methods K3: the weather's share is the slope times the difference of degree days times the price.
    """
    known = ~np.isnan(daily_kwh) & ~np.isnan(degree_days)
    if int(known.sum()) < FEWEST_DAYS:
        raise NotKnowable("Fewer than two weeks of the meter and of outdoors before it are known.", "Import more days.")
    fit = degree_day_fit(np.ones(int(known.sum())), degree_days[known], daily_kwh[known])
    value = more - fit.slope_per_degree_day * degree_days_more * price_per_kwh
    half = fit.slope_half * abs(degree_days_more) * abs(price_per_kwh)
    return LikeForLike(more=value, low=value - half, high=value + half)
