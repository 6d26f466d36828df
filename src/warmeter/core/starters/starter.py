"""What a rule to start from is, and what all of them share."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from warmeter.core.edits.rule_edits import first_chain
from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Condition
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule, RuleKind, RuleLimits, Step, Switch, Tell
from warmeter.core.home.zones import Zone
from warmeter.core.sentence import celsius, sentence

S_PER_DAY, USUAL_DROP_K = 86_400, 1.0
COMPRESSOR_REST_S = 300


@dataclass(frozen=True, slots=True, kw_only=True)
class Strategy:
    """One way to do it, what speaks for and against it, and the rule for a place of the home.

    ``follows`` makes the rule that acts upon the answer, where the first one asks.
    """

    key: str
    name: str
    for_it: str
    against_it: str
    make: Callable[[Home, str], Rule]
    follows: Callable[[Home, str], Rule] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Starter:
    """A rule to start from.

    Parameters
    ----------
    places : callable
        Where in a home it can stand: (id, name) of devices, rooms, zones or machines.
    needs : str
        What a home must have for it.
    caution : str
        The usual caution, where it can hurt.
    """

    key: str
    name: str
    what: str
    needs: str
    places: Callable[[Home], list[tuple[str, str]]]
    strategies: tuple[Strategy, ...]
    caution: str = ""


def rule_of(
    name: str,
    kind: RuleKind,
    watch: Condition | Sequence[Condition],
    then: Sequence[Step],
    *,
    stale_s: int = 3600,
    limits: RuleLimits | None = None,
    **parts: Any,
) -> Rule:
    """Return a rule of one clause, with the parts that differ from the usual."""
    clause = tuple(watch) if isinstance(watch, list | tuple) else (watch,)
    base = Rule(id="new", name=name[:80], kind=kind, watch=(clause,), then=tuple(then))
    own = replace(limits or RuleLimits(), stale_s=stale_s)
    return replace(base, limits=own, **parts)


def of_kinds(*kinds: str) -> Callable[[Home], list[tuple[str, str]]]:
    """Return a finder of devices of some kinds in service."""
    return lambda home: [(d.id, d.name) for d in home.devices if d.kind in kinds and d.is_in_service]


def chain_id(home: Home) -> str:
    """Return the id of the first chain."""
    return first_chain(home)[1].id


def tell(home: Home, text: str, *, repeat_s: int | None = None, most: int = 1) -> Tell:
    """Return a step that tells the first chain."""
    return Tell(group_id=chain_id(home), text=text, repeat_s=repeat_s, most=most)


def room_name(home: Home, device: Device) -> str:
    """Return the name of the room that a device stands in."""
    return home.room(device.room_id).name if device.room_id else device.name


def zone_of(home: Home, device: Device) -> Zone:
    """Return the zone that a device stands in; ``HomeError`` if it stands in none."""
    zone = home.zone_of_room(device.room_id) if device.room_id else None
    if zone is None:
        raise HomeError(f"{device.name} stands in no zone; place its room in a zone first")
    return zone


def coolers_off(home: Home, zone: Zone, *, with_infrared: bool = False) -> list[Step]:
    """Return the step that turns off what cools in a zone: no lower heating level stops that.

    ``with_infrared`` turns off what only a remote reaches too: it may not take so low a setpoint, and does not answer.
    """
    near = [h for h in home.heaters if h.room_id in zone.room_ids]
    off = tuple(h.id for h in near if h.may_cool or (with_infrared and home.is_by_infrared(h.id)))
    return [Switch(target_ids=off, is_on=False)] if off else []


def idle_id(home: Home) -> str:
    """Return the level that saves most: the coldest that is meant to save. ``HomeError`` if there is none."""
    saving = [level for level in home.levels if level.is_saving] or list(home.levels)
    if not saving:
        raise HomeError("this home has no level to fall back to")
    return min(saving, key=lambda level: level.heating_c).id


def one_strategy(
    make: Callable[[Home, str], Rule], name: str = "as written", for_it: str = "", against_it: str = ""
) -> tuple[Strategy, ...]:
    """Return the only school of a starter."""
    return (Strategy(key="usual", name=name, for_it=for_it, against_it=against_it, make=make),)


LEAK_CAUTION = (
    "A valve that is shut must not feed the boiler's filling or a sprinkler: have its place checked by a plumber, and test it. "
    "A leak rule does not replace a float switch."
)
FROST_CAUTION = "Heat from a rule fails with the power: drain what must not freeze, or have trace heating fitted by a licensed person."
POOL_CAUTION = sentence(
    "Pools and tubs: chemicals are dosed only into flowing water and never mixed; a covered suction holds a swimmer fast, so its "
    "cover is checked before it runs; mains beside water is for a licensed person; over {} nobody stays long, and children and "
    "expectant mothers not at all. Local codes decide.",
    celsius(40),
)
MOVING_CAUTION = (
    "Moving blinds can trap and fall: the motor's own stop must work, and doors never move by a rule unseen."
)
HEATER_CAUTION = (
    "Unattended heating appliances can start a fire: only those that their maker allows to be switched from afar."
)
PRESENCE_CAUTION = (
    "A sleeper who lies still and an infant count as nobody for a motion sensor: what sees nobody must never turn off heat, light on "
    "stairs or an alarm that they need."
)
COMPRESSOR_CAUTION = (
    "A compressor rests five minutes before it starts again: leave its own delay on, and keep the rule's least pause."
)
ALARM_CAUTION = (
    "Smoke, gas and carbon monoxide alarms stay with their own certified devices and never depend on these rules."
)
