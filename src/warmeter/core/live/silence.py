"""What it means that devices are silent: many at once, or one by itself; and who is told of it, within what."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from warmeter.core.home.document import Home
from warmeter.core.live.device_health import LEAST_QUIET_MS, HeardDevice
from warmeter.core.units import MS_PER_S

LINK_DOWN_MS = 60 * MS_PER_S  # by the machine's clock
LAST_WILL_MS = 30 * MS_PER_S  # a broker speaks for whoever it has not heard for half as long again as was agreed
FEWEST_TOGETHER, SHARE_TOGETHER, SPOKE_RHYTHMS = 3, 0.8, 2.0
SilentKind = Literal["sensor", "power", "link", "warmeter"]


def gone_together(devices: Sequence[HeardDevice]) -> tuple[HeardDevice, ...]:
    """Return the devices that fell silent at once: perhaps their power, or the link to them, is down; none else.

    Notes
    -----
    Looked at are those that were heard until shortly before the one that has newly gone quiet, and of them those
    that would have spoken at least once since. They fell silent together where eight in ten of them, three at least,
    have not been heard since.
    """
    quiet = [each for each in devices if each.is_quiet]
    if not quiet:
        return ()
    first = max(quiet, key=lambda each: each.last_ms)
    spread_ms = max(LEAST_QUIET_MS, round((first.rhythm_s or 0.0) * SPOKE_RHYTHMS * MS_PER_S))
    due = [
        each
        for each in devices
        if each.rhythm_s
        and each.last_ms >= first.last_ms - spread_ms
        and each.now_ms - first.last_ms >= SPOKE_RHYTHMS * each.rhythm_s * MS_PER_S
    ]
    silent = tuple(
        each for each in due if each.now_ms - each.last_ms >= SPOKE_RHYTHMS * (each.rhythm_s or 0.0) * MS_PER_S
    )
    is_together = len(silent) >= FEWEST_TOGETHER and len(silent) >= SHARE_TOGETHER * len(due)
    return silent if is_together else ()


@dataclass(frozen=True, slots=True, kw_only=True)
class ToldWithin:
    """Something that falls silent, who is told (the id of a group, "" for nobody), and after how long at most [ms].

    ``within_ms`` is None where it was never heard, so that its silence cannot be noticed.
    """

    kind: SilentKind
    device_id: str
    group_id: str
    within_ms: int | None


def told_within(home: Home, devices: Sequence[HeardDevice]) -> tuple[ToldWithin, ...]:
    """Return who is told of a silent alarm sensor, a power cut, a dead link and of Warmeter itself, within what.

    A power cut is noticed by the first device on mains that counts as gone quiet; that Warmeter does not run can be
    told by the broker only, to whoever listens there.
    """
    group, heard = home.link.group_id or "", {each.device_id: each for each in devices}
    chained = dict.fromkeys(device_id for chain in home.safety_chains for device_id in chain.device_ids)
    sensors = [home.device(device_id) for device_id in chained]
    rows = [
        ToldWithin(kind="sensor", device_id=d.id, group_id=group, within_ms=_quiet_ms(heard.get(d.id)))
        for d in sensors
        if d.is_in_service
    ]
    mains = {d.id for d in home.devices if "battery" not in d.power}
    waits = [_quiet_ms(each) for each in devices if each.device_id in mains and each.rhythm_s]
    power_ms = min((wait for wait in waits if wait is not None), default=None)
    return (
        *rows,
        ToldWithin(kind="power", device_id="", group_id=group, within_ms=power_ms),
        ToldWithin(kind="link", device_id="", group_id=group, within_ms=LINK_DOWN_MS),
        ToldWithin(kind="warmeter", device_id="", group_id="", within_ms=LAST_WILL_MS),
    )


def _quiet_ms(heard: HeardDevice | None) -> int | None:
    return None if heard is None else heard.quiet_from_ms - heard.last_ms
