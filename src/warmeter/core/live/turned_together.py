"""Whether setpoints that read otherwise than they were confirmed were turned by a person, or their devices began anew."""

from collections.abc import Mapping

from warmeter.core.units import MS_PER_MIN

WAIT_MS = MS_PER_MIN  # so long, by the machine's clock, it is looked whether others follow
FOLLOWS_MS = 15 * MS_PER_MIN  # what reads otherwise so soon after others began anew did so too
FEWEST_ANEW, SHARE_ANEW = 3, 0.5


def begun_anew(seen_ms: Mapping[str, int], confirmed: int) -> frozenset[str]:
    """Return the targets whose devices began anew, as after a power cut: nobody turns so many within minutes.

    Parameters
    ----------
    seen_ms : mapping of str to int
        By target: since when its setpoint reads otherwise [ms].
    confirmed : int
        How many targets confirmed a setpoint at all.

    Notes
    -----
    Three at least, and half of all, within a minute of the first of them; those that follow within a quarter of an
    hour belong to them.
    """
    for first_ms in sorted(seen_ms.values()):
        together = [target for target, at_ms in seen_ms.items() if first_ms <= at_ms <= first_ms + WAIT_MS]
        if len(together) >= max(FEWEST_ANEW, SHARE_ANEW * confirmed):
            return frozenset(t for t, at_ms in seen_ms.items() if first_ms <= at_ms <= first_ms + FOLLOWS_MS)
    return frozenset()
