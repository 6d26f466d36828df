"""What a way hangs on: devices, batteries, the internet, a controller, somebody who answers or comes."""

from collections.abc import Sequence
from dataclasses import dataclass

from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.device_kinds import DEVICE_TRAITS
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Ask, Rule, SetLevel, SetPoint, Tell
from warmeter.core.rule.way_outcome import ONLY_SAYS

ON_BATTERY = ("battery", "mains_and_battery")
# Of what a quantity is worked out, in a room and outdoors.
MADE_IN_ROOM = {"is_in": ("is_moving", "is_in"), "absolute_humidity": ("relative_humidity", "room_temperature")}
MADE_OUTDOORS = {"absolute_humidity": ("outdoor_humidity", "outdoor_temperature")}


@dataclass(frozen=True, slots=True, kw_only=True)
class WayNeeds:
    """What a way hangs on.

    Parameters
    ----------
    devices : tuple of Device
        What it hears and what it commands, telephones too.
    machine_ids : tuple of str
        Machines whose plugs it hears or cuts.
    batteries : int
        How many of those live on a battery, telephones left out: people charge those.
    by_internet, by_controller : tuple of str
        Names of those that fail without the internet, or without a controller.
    needs_answer, needs_somebody : bool
        Whether nothing ends it without an answer, or until somebody comes.
    """

    devices: tuple[Device, ...]
    machine_ids: tuple[str, ...]
    batteries: int
    by_internet: tuple[str, ...]
    by_controller: tuple[str, ...]
    needs_answer: bool
    needs_somebody: bool


def way_needs(home: Home, rules: Sequence[Rule]) -> WayNeeds:
    """Return what the rules of a way hang on."""
    conditions = [c for rule in rules for c in rule.conditions]
    heard = [d for c in conditions for signal in c.signals for d in devices_of(home, signal)]
    commanded = [d for rule in rules for d in _commanded(home, rule)]
    named = {signal.subject_id for c in conditions for signal in c.signals} | {
        i for c in conditions for i in c.machines
    }
    named |= {target for rule in rules for step in rule.then for target in getattr(step, "target_ids", ())}
    devices = tuple({d.id: d for d in (*heard, *commanded)}.values())
    steps = [step for rule in rules for step in rule.then]
    asks = [step for step in steps if isinstance(step, Ask)]
    return WayNeeds(
        devices=devices,
        machine_ids=tuple(m.id for m in home.appliances if m.id in named),
        batteries=sum(d.power in ON_BATTERY and d.kind != "telephone" for d in devices),
        by_internet=tuple(d.name for d in devices if not d.works_without_internet),
        by_controller=tuple(d.name for d in devices if not d.works_without_controller),
        needs_answer=any(not ask.none_word for ask in asks),
        needs_somebody=all(isinstance(step, ONLY_SAYS) for step in steps)
        and any(isinstance(step, Tell) for step in steps),
    )


def devices_of(home: Home, signal: Signal) -> list[Device]:
    """Return the devices that tell a signal: of a device itself, of a room what measures it, of people their witnesses."""
    own = [d for d in home.devices if d.id == signal.subject_id]
    if own:
        return own
    if signal.quantity == "is_home":
        people = [p for p in home.people if signal.subject_id in (None, p.id)]
        named = {device_id for p in people for w in p.witnesses for device_id in w.device_ids}
        return [d for d in home.devices if d.id in named]
    made, there = MADE_OUTDOORS, home.devices
    if signal.subject_id is not None:
        made, there = MADE_IN_ROOM, home.devices_in(signal.subject_id)
    told = set(made.get(signal.quantity, (signal.quantity,)))
    return [d for d in there if d.is_in_service and told & {*d.measures, *DEVICE_TRAITS[d.kind].quantities}]


def _commanded(home: Home, rule: Rule) -> list[Device]:
    """Return the devices that carry out the steps of a rule: named, or driving a heater that is named or follows a zone."""
    targets = {target for step in rule.then for target in getattr(step, "target_ids", ())}
    for step in rule.then:
        if isinstance(step, SetLevel | SetPoint):
            for zone in home.zones:
                if zone.id in step.zone_ids:
                    targets |= set(home.following(zone))
    return [d for d in home.devices if d.is_in_service and (d.id in targets or d.drives_id in targets)]
