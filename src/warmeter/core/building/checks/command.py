"""Checks of who commands what: owners, ways, blind devices, chains, switches, guard values."""

from collections.abc import Iterator

from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, kelvin, sentence

GUARD_APART_K = 0.5
SENSING_KINDS = ("leak_sensor", "air_sensor", "floor_probe", "thermostat")
WAY_WORD = {
    "wheel": "its wheel",
    "remote": "a remote",
    "voice": "voice",
    "network": "the network",
    "maker_service": "its maker's service",
    "own_buttons": "its own buttons",
}
RULES = {
    "controlled twice": "One timetable commands a heater: what controls its zone. No device with a running timetable of its own stands beside it, and no heater is controlled by two zones.",
    "open way": "Every way by which a device can be commanded is needed or not needed.",
    "no feedback, no witness": "A device from which nothing comes back has another that shows that it obeyed.",
    "alarm path needs internet": "A leak, frost or heat alarm path works without internet.",
    "alarm path on one battery": "A leak, frost or heat alarm path does not rest on one battery-powered sensor.",
    "switched off by hand": "A commanded lamp does not hang behind a switch that cuts its power.",
    "protection limits differ": sentence(
        "The protection limit found in a device is within {} of its zone's.", kelvin(GUARD_APART_K)
    ),
    "valve fights thermostat": "No radiator valve closes in the room whose thermostat leads the zone; it is held open.",
}


def command_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about who commands and what is believed."""
    yield from _owners(home)
    yield from _ways(home)
    yield from _blind(home)
    yield from _chains(home)
    yield from _switches(home)
    yield from _guards(home)
    yield from _valves(home)


def _owners(home: Home) -> Iterator[Finding]:
    followed: dict[str, list[Zone]] = {}
    running = [d for d in home.devices if d.own_timetable == "running" and d.is_in_service]
    for zone in home.zones:
        heaters = home.following(zone)
        for heater_id in heaters:
            followed.setdefault(heater_id, []).append(zone)
        owner = home.device(zone.owner_id).name if zone.owner_id else "Warmeter"
        for device in running:
            if device.id != zone.owner_id and device.drives_id in heaters:
                yield Finding(
                    kind="controlled twice",
                    severity="warning",
                    place=device.id,
                    sentence=f"{device.name} keeps a timetable of its own while {owner} commands {zone.name}.",
                    fix="Clear it in the device, or let the device control the timetable.",
                    about=(device.id, zone.id),
                )
    for heater_id, zones in followed.items():
        if len(zones) > 1:
            yield Finding(
                kind="controlled twice",
                severity="warning",
                place=heater_id,
                sentence=f"{home.heater(heater_id).name} is controlled by {' and '.join(z.name for z in zones)}.",
                fix="Let one of them control it.",
                about=(heater_id, *(z.id for z in zones)),
            )


def _ways(home: Home) -> Iterator[Finding]:
    for device in home.devices:
        ways = [c for c in device.commands if c.state == "open"]
        if not ways or not device.is_in_service:
            continue
        named = ", ".join(f"{WAY_WORD[c.way]} ({c.by})" for c in ways)
        yield Finding(
            kind="open way",
            severity="warning" if any(c.way in ("voice", "maker_service", "network") for c in ways) else "note",
            place=device.id,
            sentence=f"{device.name} can be commanded by {named}, past what controls its zone.",
            fix="Switch the way off in the device, or say that it is needed.",
            about=(device.id,),
        )


def _blind(home: Home) -> Iterator[Finding]:
    in_service = {d.id for d in home.devices if d.is_in_service}
    for device in home.devices:
        if device.is_two_way or device.id not in in_service or device.witness_id in in_service:
            continue
        yield Finding(
            kind="no feedback, no witness",
            severity="warning",
            place=device.id,
            sentence=f"Nothing comes back from {device.name}, and nothing else shows that it obeyed.",
            fix="Name a witness: a metering plug, or a sensor in its stream of air.",
            about=(device.id,),
        )


def _chains(home: Home) -> Iterator[Finding]:
    for chain in home.safety_chains:
        devices = [home.device(key) for key in chain.device_ids]
        away = [d for d in devices if not d.works_without_internet]
        if away:
            yield Finding(
                kind="alarm path needs internet",
                severity="danger",
                place=chain.id,
                sentence=f"{chain.name} stops at {away[0].name} when the internet is away.",
                fix="Let a device that works without internet stand in its place.",
                about=(chain.id, *(d.id for d in away)),
            )
        sensing = [d for d in devices if d.kind in SENSING_KINDS]
        if len(sensing) == 1 and sensing[0].power == "battery":
            yield Finding(
                kind="alarm path on one battery",
                severity="danger",
                place=chain.id,
                sentence=f"{chain.name} rests on the one battery of {sensing[0].name}.",
                fix="Add a second sensor, or one on mains with a battery.",
                about=(chain.id, sensing[0].id),
            )


def _switches(home: Home) -> Iterator[Finding]:
    for device in home.devices:
        if device.kind != "lamp_switch" or device.fed_by_id is None or not device.is_in_service:
            continue
        switch = home.device(device.fed_by_id)
        if switch.kind == "wall_switch" and switch.is_in_service and switch.child_lock != "on":
            yield Finding(
                kind="switched off by hand",
                severity="warning",
                place=device.id,
                sentence=f"{switch.name} cuts the power of {device.name}, which then obeys nobody.",
                fix="Block the switch, or wire past it (a licensed person's work).",
                about=(device.id, switch.id),
            )


def _guards(home: Home) -> Iterator[Finding]:
    for device in home.devices:
        if device.guard_c is None or device.room_id is None or not device.is_in_service:
            continue
        wanted = home.guard_of(home.zone_of_room(device.room_id)).low_c
        if abs(device.guard_c - wanted) > GUARD_APART_K + 1e-9:
            yield Finding(
                kind="protection limits differ",
                severity="warning",
                place=device.id,
                sentence=(
                    sentence(
                        "{} holds {} as its protection limit, its zone {}.",
                        device.name,
                        celsius(device.guard_c),
                        celsius(wanted),
                    )
                ),
                fix=sentence("Set {} in the device and type what it reads then.", celsius(wanted)),
                about=(device.id,),
            )


def _valves(home: Home) -> Iterator[Finding]:
    for zone in home.zones:
        leading = [key for key in (zone.owner_id, *zone.counted_ids) if key]
        rooms = {home.device(k).room_id for k in leading if home.device(k).kind == "thermostat"}
        for device in home.devices:
            if (
                device.kind == "radiator_valve"
                and device.is_in_service
                and device.room_id in rooms
                and device.room_id in zone.room_ids
                and device.id != zone.owner_id
                and not device.is_held_open
            ):
                yield Finding(
                    kind="valve fights thermostat",
                    severity="warning",
                    place=device.id,
                    sentence=f"{device.name} closes by its own sensor in the room whose thermostat leads {zone.name}.",
                    fix="Hold the valve fully open there.",
                    about=(device.id, zone.id),
                )
