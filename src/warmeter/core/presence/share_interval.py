"""The interval of a share of few cases (Wilson)."""

from math import sqrt

Z_95 = 1.96


def share_interval(share: float, count: int, z: float = Z_95) -> tuple[float, float]:
    """Return the ends of the interval of a share of ``count`` cases, one at least; by default at 95 %.

    References
    ----------
    docs/methods N4; Wilson 1927.
    """
    d = 1 + z**2 / count
    centre = (share + z**2 / (2 * count)) / d
    half = z / d * sqrt(share * (1 - share) / count + z**2 / (4 * count**2))
    return centre - half, centre + half
