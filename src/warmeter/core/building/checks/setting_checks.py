"""Checks of what was read in devices: a setting that reads otherwise elsewhere, valves that work at night."""

from collections.abc import Iterator

from warmeter.core.finding import Finding
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.units import MIN_PER_H
from warmeter.core.wording import clock_time

NIGHT_FROM_MIN, NIGHT_UNTIL_MIN = 22 * MIN_PER_H, 7 * MIN_PER_H
RULES = {
    "setting read twice": "A setting of a device reads the same wherever it is read.",
    "exercise at night": "A valve in a bedroom does not work itself free at night.",
}


def setting_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about settings read in devices."""
    for device in home.devices:
        if device.is_in_service:
            yield from _read_twice(device)
            yield from _at_night(home, device)


def _read_twice(device: Device) -> Iterator[Finding]:
    by_setting: dict[str, list[tuple[str, str, str]]] = {}
    for read in device.settings_read:
        by_setting.setdefault(read.setting.casefold(), []).append((read.setting, read.value, read.where))
    for rows in by_setting.values():
        if len({value.casefold() for _, value, _ in rows}) > 1:
            told = ", ".join(f"{value} on {where}" for _, value, where in rows)
            yield Finding(
                kind="setting read twice",
                severity="warning",
                place=device.id,
                sentence=f"{rows[0][0]} of {device.name} reads {told}.",
                fix="Find out which one it obeys, set both alike, and read both again.",
                about=(device.id,),
            )


def _at_night(home: Home, device: Device) -> Iterator[Finding]:
    at = None if device.exercise is None else device.exercise.at_min
    room = None if device.room_id is None else home.room(device.room_id)
    if at is None or room is None or room.use != "sleeping":
        return
    if at >= NIGHT_FROM_MIN or at < NIGHT_UNTIL_MIN:
        yield Finding(
            kind="exercise at night",
            severity="note",
            place=device.id,
            sentence=f"{device.name} works itself free at {clock_time(at)}, in a room where somebody sleeps.",
            fix="Set its clock or its time so that it works by day.",
            about=(device.id, room.id),
        )
