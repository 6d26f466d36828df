"""A capture that waits as a file: read once, one sender of it taken for a device with its history, no neighbour kept."""

from collections.abc import Sequence

from warmeter.core.edits.radio_commands import AdoptSender
from warmeter.core.errors import ReadingError
from warmeter.core.home.document import Home
from warmeter.core.radio.transmissions import Capture, Transmission, read_capture
from warmeter.core.readings.csvlog import Column, ImportMapping
from warmeter.core.units import MS_PER_S
from warmeter.service.app import App, Person
from warmeter.service.cache import Cache
from warmeter.service.homes.editing import edit_home
from warmeter.service.readings import logs
from warmeter.simulators.radio_capture import RadioScene, radio_scene

_CAPTURES: Cache[Capture] = Cache(4)


def capture_of(app: App, home: Home, token: str) -> Capture:
    """Return what a waiting capture holds.

    Raises
    ------
    ReadingError
        If it is not waiting any more, or holds no message.
    """
    upload = logs.find_upload(app, token)
    clock = app.clock(home)
    key = str(app.engine.url), token, home.time_zone
    found = _CAPTURES.get(key, lambda: read_capture(logs.lines_of(app, upload), clock))
    if not found.transmissions:
        why = f" (line {found.refused[0].number}: {found.refused[0].why})" if found.refused else ""
        raise ReadingError(f"{upload.file_name} holds no message{why}; a capture has one JSON object a line")
    return found


MADE_UP_SEED, MADE_UP_NEIGHBOURS, MADE_UP_H = 6, 14, 10.0


def made_up_capture(app: App) -> tuple[str, RadioScene]:
    """Let a made-up capture of a street wait as one's own would; return its token and what was seen on the display."""
    scene = radio_scene(MADE_UP_SEED, MADE_UP_NEIGHBOURS, hours=MADE_UP_H)
    upload = logs.keep_upload(app, "made-up capture.jsonl", ["\n".join(scene.lines).encode()])
    return upload.token, scene


def adopt(app: App, home_id: str, base: int, person: Person, token: str, command: AdoptSender) -> tuple[str, int]:
    """Take a sender for a device and import what it sent; return the device's id and how many readings came in.

    Raises
    ------
    ReadingError
        If the capture is not waiting any more, or the sender was not heard in it; nothing is saved then.
    HomeError
        If another device is heard under that id; nothing is saved then.
    RevisionConflict
        If another window saved meanwhile.
    """
    home, _ = app.homes.load(home_id)
    capture = capture_of(app, home, token)
    mine = [each for each in capture.transmissions if each.sender == command.address]
    if not mine:
        raise ReadingError(f"nothing of {command.address} stands in this capture")
    edit, _ = edit_home(app, home_id, base, person, command)
    home, device_id = edit.home, edit.selected or ""
    columns = _columns(home, device_id, mine)
    if not columns:
        return device_id, 0
    upload = logs.keep_log(app, f"capture {command.address}.csv", [_csv(mine).encode()])
    mapping = ImportMapping(
        delimiter=",", decimal=".", heading_line=1, time_column=0, date_format="epoch", clock="utc", columns=columns
    )
    return device_id, logs.take(app, home_id, upload, mapping, person).added


def _columns(home: Home, device_id: str, sent: Sequence[Transmission]) -> tuple[Column, ...]:
    """Return what of a sender's values the device's place gives a meaning."""
    room_id = home.device(device_id).room_id
    is_outdoors = room_id is not None and home.room(room_id).condition == "outdoors"
    heard = {name for each in sent for name in each.values}
    columns = []
    for index, (name, inside, outside, unit) in enumerate(
        (
            ("temperature", "room_temperature", "outdoor_temperature", "°C"),
            ("humidity", "relative_humidity", "outdoor_humidity", "%"),
        ),
        1,
    ):
        if name in heard:
            quantity, subject = (outside, "") if is_outdoors else (inside, device_id)
            columns.append(Column(index=index, heading=name, quantity=quantity, unit=unit, subject=subject))
    return tuple(columns)


def _csv(sent: Sequence[Transmission]) -> str:
    lines = ["time,temperature,humidity"]
    for each in sent:
        cells = (each.values.get(name) for name in ("temperature", "humidity"))
        told = ",".join("" if value is None else f"{value:g}" for value in cells)
        lines.append(f"{each.at_ms / MS_PER_S:.3f},{told}")
    return "\n".join(lines) + "\n"
