"""Setpoints that a person turned at the device itself: kept as a change by hand of its zone."""

from collections.abc import Mapping

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping
from warmeter.core.timetable.manual_overrides import HandEnd
from warmeter.core.units import MIN_PER_DAY
from warmeter.service.app import App, Person
from warmeter.service.live.latest_values import LatestValue, LatestValues
from warmeter.service.live.shown import confirming_subjects
from warmeter.service.timetable.manual_overrides import changes_of, lay_by_hand
from warmeter.store.live_commands import KeptCommand

AT_DEVICE = Person("at the device")
LONGEST = HandEnd(kind="for", minutes=30 * MIN_PER_DAY)  # no longer than the zone allows


def keep_turned(
    app: App, home: Home, revision: int, newest: Mapping[tuple[str, str], KeptCommand], values: LatestValues
) -> tuple[str, ...]:
    """Keep a change by hand for each zone whose heater tells another setpoint than it had confirmed; return the zones.

    A heater that several devices tell of, one that never confirmed, and what lies outside the zone's range by hand
    are left alone.
    """
    mappings = {mapping.id: mapping for mapping in home.command_mappings}
    found: list[str] = []
    for command in newest.values():
        mapping = mappings.get(command.run.mapping_id)
        if mapping is None or command.does != "setpoint" or command.run.answered_ms is None:
            continue
        cooled = newest.get((command.run.target_id, "cooling"))
        if cooled is not None and cooled.at_ms >= command.at_ms:
            continue  # it tells the limit that it cools to
        told = _told(home, mapping, values)
        if told is None or told.real_ms <= command.run.answered_ms:
            continue
        if command.run.state != "confirmed" or abs(told.value - command.run.value) <= mapping.tolerance:
            continue
        zone = next((zone for zone in home.zones if command.run.target_id in home.following(zone)), None)
        if zone is None or zone.id in found or _is_kept(app, home, zone.id, told):
            continue
        try:
            lay_by_hand(
                app,
                home,
                revision,
                zone.id,
                AT_DEVICE,
                at_ms=told.at_ms,
                end=LONGEST,
                value_c=told.value,
                reason="turned at the device",
            )
        except HomeError:
            continue
        found.append(zone.id)
    return tuple(found)


def _told(home: Home, mapping: CommandMapping, values: LatestValues) -> LatestValue | None:
    if mapping.confirm_quantity != "setpoint":
        return None
    rows = [values.values.get(("setpoint", subject)) for subject in confirming_subjects(home, mapping)]
    heard = [row for row in rows if row is not None]
    return heard[0] if len(heard) == 1 else None


def _is_kept(app: App, home: Home, zone_id: str, told: LatestValue) -> bool:
    """Return whether a zone's last change by hand is this one, or came after it."""
    mine = [change for _, change in changes_of(app, home.id) if change.zone_id == zone_id]
    if not mine:
        return False
    last = mine[-1]
    is_same = not last.is_release and abs(last.value_c - told.value) < 0.01
    is_over = last.until_ms is not None and last.until_ms <= told.at_ms
    return last.at_ms >= told.at_ms or (is_same and not is_over)
