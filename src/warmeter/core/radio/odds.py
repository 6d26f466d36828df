"""Odds of hypotheses of which one is true, from the logarithms of their likelihoods."""

from collections.abc import Mapping
from dataclasses import dataclass
from math import exp, log, log1p

from warmeter.core.errors import OutOfRange

NONE = "none"
_SLACK = 1e-9
_TIED = 9  # decimals
_LN_10 = log(10.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Odds:
    """A hypothesis with its probability; ``log10_odds`` is None for the only one. ``used`` readings speak of it."""

    id: str
    p: float
    log10_odds: float | None
    used: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class Ranking:
    """Hypotheses by falling probability, and the first if it is sure enough."""

    posterior: tuple[Odds, ...]
    best: str | None


def ranked(logs: Mapping[str, float], sure: float, used: Mapping[str, int] | None = None) -> Ranking:
    """Return hypotheses by falling probability, each as likely as the others beforehand.

    Parameters
    ----------
    logs : mapping of str to float
        Logarithm of the likelihood of each, "none" among them.
    sure : float
        Probability from which the first is named, above 0, at most 1.
    used : mapping of str to int
        How many readings speak of each.

    Raises
    ------
    OutOfRange
        If ``sure`` is outside its range.
    """
    if not 0 < sure <= 1:
        raise OutOfRange("sure", sure, 0.0, 1.0)
    whole = _log_sum(list(logs.values()))
    rows = []
    for name, own in logs.items():
        others = [value for other, value in logs.items() if other != name]
        odds = (own - _log_sum(others)) / _LN_10 if others else None
        rows.append(Odds(id=name, p=exp(own - whole), log10_odds=odds, used=(used or {}).get(name, 0)))
    rows.sort(key=lambda row: (-round(row.p, _TIED), row.id == NONE, row.id))
    return Ranking(posterior=tuple(rows), best=rows[0].id if rows[0].p >= sure - _SLACK else None)


def _log_sum(logs: list[float]) -> float:
    """Return the logarithm of a sum from the logarithms of its terms."""
    top = max(logs)
    return top + log1p(sum(exp(each - top) for each in logs) - 1.0)
