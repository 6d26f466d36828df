"""Rules to start from for windows and doors."""

from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.document import Home
from warmeter.core.home.rules import PutBack, Rule, RuleLimits, SetLevel, WhenStale
from warmeter.core.home.zones import Zone
from warmeter.core.starters.starter import COMPRESSOR_REST_S, USUAL_DROP_K, coolers_off, idle_id, rule_of, zone_of
from warmeter.core.units import S_PER_DAY


def opening_contacts(home: Home) -> list[tuple[str, str]]:
    """Return contacts in rooms of a zone that are no witness of another device."""
    witnesses = {d.witness_id for d in home.devices}
    found = [d for d in home.devices if d.kind == "contact" and d.is_in_service and d.id not in witnesses]
    return [(d.id, d.name) for d in found if d.room_id and home.zone_of_room(d.room_id)]


def opening_rule(home: Home, contact_id: str) -> Rule:
    """Return the rule for the openings of a contact's room: Idle while one is open."""
    contact = home.device(contact_id)
    zone = zone_of(home, contact)
    ids = {i for i, _ in opening_contacts(home)} - {contact_id}
    contacts = [contact, *(d for d in home.devices if d.id in ids and d.room_id == contact.room_id)]
    signals = [Signal(quantity="is_open", subject_id=d.id) for d in contacts]
    shut: Clauses = tuple((InState(of=signal, is_on=False),) for signal in signals)
    return rule_of(
        f"{zone.name} opened",
        "window_lock",
        [InState(of=signal) for signal in signals],
        [SetLevel(zone_ids=(zone.id,), level_id=idle_id(home)), *coolers_off(home, zone, with_infrared=True)],
        for_s=180,
        put_back=PutBack(when=shut, for_s=120),
        intent="No heating and no cooling out of the window.",
        stale_s=S_PER_DAY,
        limits=_limits(home, zone, when_stale="put_back"),
    )


def _limits(home: Home, zone: Zone, when_stale: WhenStale = "keep") -> RuleLimits:
    """Return the limits of a rule that turns a zone's cooling units off: a compressor rests before it starts again."""
    rest_s = COMPRESSOR_REST_S if coolers_off(home, zone, with_infrared=True) else 0
    return RuleLimits(min_on_s=rest_s, min_off_s=rest_s, when_stale=when_stale)


def sensor_places(home: Home) -> list[tuple[str, str]]:
    """Return rooms of a zone with a temperature sensor."""
    rooms = {d.room_id for d in home.devices if "room_temperature" in d.quantities}
    return [(r.id, r.name) for r in home.rooms if r.id in rooms and home.zone_of_room(r.id) is not None]


def with_drop(rule: Rule, drop_k: float) -> Rule:
    """Return an opening told by the fall of temperature, with the fall that its sensor's log allows [K]."""
    watch = tuple(tuple(replace(c, by=drop_k) if isinstance(c, Moving) else c for c in clause) for clause in rule.watch)
    return replace(rule, watch=watch)


def drop_rule(home: Home, room_id: str) -> Rule:
    """Return the rule for an opening told by the fall of temperature; ``HomeError`` if the room is in no zone."""
    zone = home.zone_of_room(room_id)
    if zone is None:
        raise HomeError(f"{home.room(room_id).name} stands in no zone")
    signal = Signal(quantity="room_temperature", subject_id=room_id)
    return rule_of(
        f"{home.room(room_id).name} falls fast",
        "window_lock",
        Moving(of=signal, how="falling", by=USUAL_DROP_K, within_s=600),
        [SetLevel(zone_ids=(zone.id,), level_id=idle_id(home)), *coolers_off(home, zone, with_infrared=True)],
        put_back=PutBack(when=((Moving(of=signal, how="rising", by=0.3, within_s=1200),),), after_s=1800),
        intent="No contact here: the fall of temperature tells the window.",
        limits=_limits(home, zone),
    )
