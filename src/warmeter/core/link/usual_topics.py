"""Warmeter's own topics for devices that can be told where to speak: ``homes/<home>/<device>/<quantity>``."""

from dataclasses import replace
from hashlib import sha256

from warmeter.core.home.device_kinds import DEVICE_TRAITS
from warmeter.core.home.devices import Device, DeviceKind
from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandKind, CommandMapping, MessageMapping, StateWord
from warmeter.core.quantity import QUANTITIES

SWITCHED: frozenset[DeviceKind] = frozenset({"plug", "relay", "water_valve", "pump_switch", "lamp_switch"})
SET: frozenset[DeviceKind] = frozenset({"thermostat", "radiator_valve", "controller"})
BLIND_RUNS_W = 60.0  # a split unit that runs draws more
_ON, _OFF = "on", "off"


def usual_topic(home_id: str, device_id: str, quantity: str) -> str:
    """Return the topic under which a device tells a quantity."""
    return f"homes/{home_id}/{device_id}/{quantity}"


def command_topic(home_id: str, target_id: str, does: CommandKind) -> str:
    """Return the topic under which a target is commanded."""
    return f"homes/{home_id}/{target_id}/do/{does}"


def presence_topic(home_id: str) -> str:
    """Return the topic under which the broker keeps whether Warmeter itself is there, for others to watch."""
    return usual_topic(home_id, "warmeter", "is_reachable")


def told_quantities(device: Device) -> tuple[str, ...]:
    """Return what a device usually tells over a link, what it measures first."""
    traits = DEVICE_TRAITS[device.kind]
    told = [*device.measures, *traits.quantities]
    told += ["setpoint"] if device.kind in SET else []
    told += ["valve_opening"] if device.kind == "radiator_valve" else []
    told += ["is_on"] if device.kind in SWITCHED else []
    told += ["blind_position"] if device.kind == "blind_motor" and device.is_two_way else []
    told += ["battery"] if "battery" in device.power else []
    return tuple(dict.fromkeys(q for q in [*told, "is_reachable"] if q in QUANTITIES))


def usual_mappings(home: Home) -> tuple[MessageMapping, ...]:
    """Return mappings of Warmeter's own topics for every device in service and every appliance's plug."""
    found: list[MessageMapping] = []
    for device in home.devices:
        if device.is_in_service:
            found += [_mapping(home, device, quantity) for quantity in told_quantities(device)]
    for appliance in home.appliances:
        found.append(
            MessageMapping(
                id=mark_of("m", usual_topic(home.id, appliance.id, "electric_w")),
                topic=usual_topic(home.id, appliance.id, "electric_w"),
                quantity="electric_w",
                subject_id=appliance.id,
                unit="W",
            )
        )
    for quantity in ("outdoor_temperature", "grid_import_w"):
        found.append(
            MessageMapping(
                id=mark_of("m", usual_topic(home.id, "home", quantity)),
                topic=usual_topic(home.id, "home", quantity),
                quantity=quantity,
                unit=QUANTITIES[quantity].unit,
            )
        )
    taken = {part.id for part in home.parts()} | {m.topic for m in home.message_mappings}
    return tuple(each for each in found if each.id not in taken and each.topic not in taken)


def _mapping(home: Home, device: Device, quantity: str) -> MessageMapping:
    known = QUANTITIES[quantity]
    # A room's own readings come from the sensor that hangs in it; a meter's power is the home's.
    is_meter = quantity == "electric_w" and device.kind == "meter"
    words = (StateWord(word=known.states[0], value=0), StateWord(word=known.states[1], value=1)) if known.states else ()
    return MessageMapping(
        id=mark_of("m", usual_topic(home.id, device.id, quantity)),
        topic=usual_topic(home.id, device.id, quantity),
        payload="words" if words else "number",
        words=words,
        quantity="grid_import_w" if is_meter else quantity,
        subject_id="" if is_meter else device.id,
        unit=known.unit,
        kind="held" if known.is_held else "instant",
    )


def mark_of(kind: str, topic: str) -> str:
    """Return an id for what belongs to a topic: the same for the same topic."""
    return f"{kind}-{sha256(topic.encode()).hexdigest()[:16]}"


def usual_commands(home: Home) -> tuple[CommandMapping, ...]:
    """Return commands over Warmeter's own topics for every device in service that can be asked something."""
    found: list[CommandMapping] = []
    for device in home.devices:
        if not device.is_in_service:
            continue
        if device.kind in SET and (device.drives_id is not None or device.kind != "controller"):
            found.append(_command(home, device.id, "setpoint", confirm="setpoint"))
        elif device.kind in SWITCHED:
            found.append(_command(home, device.id, "switch", confirm="is_on"))
        elif device.kind == "blind_motor":
            confirm = "blind_position" if device.is_two_way else ""
            found.append(_command(home, device.id, "share", confirm=confirm, tolerance=3.0))
        elif device.kind == "infrared_sender" and device.drives_id is not None:
            witness = next((d for d in home.devices if d.id == device.witness_id), None)
            quantity = "electric_w" if witness is not None and "electric_w" in witness.measures else ""
            split = home.heater(device.drives_id).split
            kinds: tuple[CommandKind, ...] = ("setpoint",)
            if split is not None and split.cooling_w is not None:
                kinds = ("setpoint", "cooling")
            found += [
                _command(
                    home,
                    device.id,
                    does,
                    confirm=quantity,
                    within_s=120,
                    witness_from=BLIND_RUNS_W if quantity else None,
                )
                for does in kinds
            ]
    taken = {part.id for part in home.parts()} | {m.topic for m in home.command_mappings}
    return tuple(each for each in found if each.id not in taken and each.topic not in taken)


def _command(
    home: Home,
    target_id: str,
    does: CommandKind,
    *,
    confirm: str,
    within_s: int = 20,
    tolerance: float = 0.26,
    witness_from: float | None = None,
) -> CommandMapping:
    return CommandMapping(
        id=mark_of("c", command_topic(home.id, target_id, does)),
        target_id=target_id,
        does=does,
        topic=command_topic(home.id, target_id, does),
        on_word=_ON,
        off_word=_OFF,
        confirm_quantity=confirm,
        within_s=within_s,
        tolerance=tolerance,
        witness_from=witness_from,
    )


def with_own_topics(home: Home, home_id: str) -> Home:
    """Return a home under another id, what is below ``homes/<its id>/`` moved along: a copy neither hears nor commands the first."""
    old, new = f"homes/{home.id}/", f"homes/{home_id}/"

    def moved(topic: str) -> str:
        return new + topic.removeprefix(old) if topic.startswith(old) else topic

    return replace(
        home,
        id=home_id,
        message_mappings=tuple(replace(m, topic=moved(m.topic)) for m in home.message_mappings),
        command_mappings=tuple(replace(m, topic=moved(m.topic)) for m in home.command_mappings),
        link=replace(home.link, listens=tuple(moved(topic) for topic in home.link.listens)),
    )
