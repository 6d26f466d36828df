"""On the way home, by a telephone's distance: nearer from report to report, and near enough in time."""

from dataclasses import dataclass

from warmeter.core.home.people import Occupant
from warmeter.core.presence.presence_log import PresenceLog, distance_of
from warmeter.core.units import MS_PER_S

# Nearer than this somebody is there; a change of less is no movement [m].
AT_HOME_M, LEAST_MOVED_M = 150.0, 100.0
LONGEST_GAP_MS = 1200 * MS_PER_S


@dataclass(frozen=True, slots=True, kw_only=True)
class Approach:
    """A report of a telephone: distance [m], speed towards home [m/s], and how long it takes from there [s]."""

    at_ms: int
    distance_m: float
    speed_m_s: float
    left_s: float | None


def approaches(log: PresenceLog, device_id: str) -> list[Approach]:
    """Return each report of a telephone with the speed since the one before; None left where it does not come nearer."""
    told = distance_of(log, device_id)
    if told is None:
        return []
    found = []
    for k in range(1, told[0].size):
        gap_ms, nearer_m = int(told[0][k] - told[0][k - 1]), float(told[1][k - 1] - told[1][k])
        if not 0 < gap_ms <= LONGEST_GAP_MS:
            continue
        speed = nearer_m * MS_PER_S / gap_ms
        comes = nearer_m >= LEAST_MOVED_M
        found.append(
            Approach(
                at_ms=int(told[0][k]),
                distance_m=float(told[1][k]),
                speed_m_s=speed,
                left_s=float(told[1][k]) / speed if comes else None,
            )
        )
    return found


def way_reports(log: PresenceLog, person: Occupant) -> list[tuple[int, bool]]:
    """Return word of a person being on the way home, or not any more: twice nearer in a row, or farther."""
    found: list[tuple[int, bool]] = []
    for witness in person.witnesses:
        if witness.kind != "telephone":
            continue
        for device_id in witness.device_ids:
            was_nearer = False
            for each in approaches(log, device_id):
                if each.left_s is not None and each.distance_m > AT_HOME_M and was_nearer:
                    found.append((each.at_ms, True))
                elif each.speed_m_s * LONGEST_GAP_MS / MS_PER_S <= -LEAST_MOVED_M:
                    found.append((each.at_ms, False))
                was_nearer = each.left_s is not None
    return sorted(found)
