"""The register of devices as ready strings: its lines, what they are narrowed to, and what to see to first."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import get_args

from warmeter.core.home.device_kinds import DEVICE_LABEL, DEVICE_TRAITS
from warmeter.core.home.devices import ChainKind, Device, Power
from warmeter.core.home.document import Home

POWER: Mapping[Power, str] = {
    "mains": "mains",
    "battery": "battery",
    "mains_and_battery": "mains with battery",
    "wired_bus": "wired bus",
}
OWN_TIMETABLE = {"none": "none", "off": "off", "running": "running"}
SHOWN: Mapping[str, str] = {
    "": "all devices",
    "findings": "with findings",
    "battery": "on battery",
    "no_feedback": "without feedback",
    "open": "with ways not looked at",
    "internet": "that need the internet",
    "no_room": "in no room",
    "retired": "retired",
}
_IS: Mapping[str, Callable[[Device], bool]] = {
    "battery": lambda d: d.is_in_service and "battery" in d.power,
    "no_feedback": lambda d: d.is_in_service and not d.is_two_way,
    "open": lambda d: d.is_in_service and any(c.state == "open" for c in d.commands),
    "internet": lambda d: d.is_in_service and not d.works_without_internet,
    "no_room": lambda d: d.is_in_service and d.room_id is None,
    "retired": lambda d: not d.is_in_service,
}
MOST_BATTERIES = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceRow:
    """A device in the list: one line."""

    id: str
    name: str
    kind: str
    room: str
    address: str
    reached: str
    power: str
    own: str
    is_on: bool
    is_retired: bool
    letters: str


@dataclass(frozen=True, slots=True)
class BatteryRow:
    """A battery: whose, what was last read of it, when, and since when it is in there."""

    device: Device
    last: str
    read_on: str
    since: str


@dataclass(frozen=True, slots=True)
class Narrowed:
    """How many devices a choice of the list holds."""

    key: str
    words: str
    count: int


def device_row(home: Home, device: Device, at: str, letters: Mapping[str, list[str]]) -> DeviceRow:
    """Return a device as a line of the list."""
    power = POWER[device.power]
    if device.battery_pct is not None:
        power += f", {device.battery_pct} %"
    return DeviceRow(
        id=device.id,
        name=device.name,
        kind=DEVICE_LABEL[device.kind],
        room=home.room(device.room_id).name if device.room_id else "–",
        address=device.address or "–",
        reached=" ".join(part for part in (device.bus, device.address) if part) or "not said",
        power=power,
        own=OWN_TIMETABLE[device.own_timetable],
        is_on=device.id == at,
        is_retired=not device.is_in_service,
        letters=" ".join(letters.get(device.id, [])),
    )


def narrowed(home: Home, query: Mapping[str, str], letters: Mapping[str, list[str]]) -> list[Device]:
    """Return the devices of a room, of a kind and of what is asked to be shown; an unknown choice narrows nothing."""
    room_id, kind, shown = query.get("room", ""), query.get("kind", ""), query.get("show", "")
    rooms = {room.id for room in home.rooms}
    return [
        d
        for d in home.devices
        if (room_id not in rooms or d.room_id == room_id)
        and (kind not in DEVICE_LABEL or d.kind == kind)
        and _is_shown(d, shown, letters)
    ]


def _is_shown(device: Device, shown: str, letters: Mapping[str, list[str]]) -> bool:
    if shown == "findings":
        return device.id in letters
    test = _IS.get(shown)
    return test is None or test(device)


def at_a_glance(home: Home, letters: Mapping[str, list[str]]) -> list[Narrowed]:
    """Return how many devices each choice of the list holds, those that hold any."""
    counts = [
        Narrowed(key, words, sum(_is_shown(d, key, letters) for d in home.devices)) for key, words in SHOWN.items()
    ]
    return [each for each in counts if each.count]


def batteries(home: Home) -> list[BatteryRow]:
    """Return the batteries to see to first: the lowest, then those never read."""
    fed = sorted(
        filter(_IS["battery"], home.devices), key=lambda d: (d.battery_pct is None, d.battery_pct or 0, d.name)
    )
    return [
        BatteryRow(
            d,
            "never read" if d.battery_pct is None else f"{d.battery_pct} %",
            "–" if d.battery_read_on is None else str(d.battery_read_on),
            "–" if d.battery_new is None else str(d.battery_new),
        )
        for d in fed[:MOST_BATTERIES]
    ]


def fitting_powers(device: Device) -> dict[str, str]:
    """Return the ways in which such a device is fed, the one that it has among them."""
    return {key: POWER[key] for key in dict.fromkeys((*DEVICE_TRAITS[device.kind].powers, device.power))}


def witnesses(home: Home, device: Device) -> list[Device]:
    """Return the devices that can show what another did: those that measure, and the one that is named."""
    return [
        d
        for d in home.devices
        if d.id != device.id
        and (d.id == device.witness_id or (d.is_in_service and (d.quantities or DEVICE_TRAITS[d.kind].measures)))
    ]


def feeders(home: Home, device: Device) -> list[Device]:
    """Return the devices that can cut another's power, and the one that is named."""
    return [
        d
        for d in home.devices
        if d.id != device.id and (d.id == device.fed_by_id or (d.is_in_service and DEVICE_TRAITS[d.kind].cuts_power))
    ]


def path_beginners(home: Home) -> list[Device]:
    """Return the devices that can notice a danger: an alarm path begins with one."""
    return [d for d in home.devices if d.is_in_service and DEVICE_TRAITS[d.kind].notices]


def path_followers(home: Home, kind: ChainKind, taken: tuple[str, ...]) -> list[Device]:
    """Return the devices that can stand in an alarm path of a kind and do not yet."""
    return [
        d
        for d in home.devices
        if d.is_in_service
        and d.id not in taken
        and kind in (*DEVICE_TRAITS[d.kind].notices, *DEVICE_TRAITS[d.kind].answers)
    ]


def path_kinds(home: Home) -> list[str]:
    """Return the kinds of alarm path that a device here can begin."""
    possible = {kind for d in path_beginners(home) for kind in DEVICE_TRAITS[d.kind].notices}
    return [kind for kind in get_args(ChainKind) if kind in possible]
