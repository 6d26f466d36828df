"""The ways to do what a starter does, at one place: its strategies, those of a starter beside it, and variants of a way."""

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.machine_does import MachineDoes
from warmeter.core.home.conditions.sequence import Clauses
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule, SetLevel, SetPoint
from warmeter.core.sentence import celsius, sentence
from warmeter.core.starters.catalogue import STARTERS, started
from warmeter.core.starters.danger import FROST_HEAT_C, WET_FOR_S
from warmeter.core.starters.openings import opening_contacts, sensor_places
from warmeter.core.starters.starter import Starter, Strategy
from warmeter.core.units import S_PER_H, S_PER_MIN

# What is damp, or hot, enough that something should have been done [%, °C].
DAMP_PCT, HOT_C = 70.0, 26.0
# An absence worth turning down for, and how early before the heat or the frost a delay is told at most [s].
ABSENCE_S, AHEAD_S = S_PER_H, 6 * S_PER_H


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleWay:
    """A way: its name, the home with what its rule needs, the rule, and the one that acts upon its answer.

    ``cannot`` says why the home has nothing for it; there are no rules then.
    """

    name: str
    home: Home
    rule: Rule | None = None
    follows: Rule | None = None
    cannot: str = ""

    @property
    def rules(self) -> tuple[Rule, ...]:
        """Its rules, the one that is triggered first."""
        return tuple(rule for rule in (self.rule, self.follows) if rule is not None)


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleTarget:
    """What every way should catch: in words, as clauses that hold for ``least_s``, and how early it is told at most [s].

    ``machine_id`` is the machine whose power stands meanwhile.
    """

    words: str
    watch: Clauses
    least_s: int
    ahead_s: int = 0
    machine_id: str | None = None


def ways_at(home: Home, starter_key: str, place_id: str) -> list[RuleWay]:
    """Return the ways at a place: by the starter's strategies, by the starter beside it, and variants of the first.

    Raises
    ------
    HomeError
        If there is no such starter, or the place is none of its own.
    """
    starter = starter_of(starter_key)
    if place_id not in dict(starter.places(home)):
        raise HomeError("choose where it shall work")
    places = [(starter, place_id), *_beside(home, starter, place_id)]
    found = [_way(home, each, strategy, at) for each, at in places for strategy in each.strategies]
    first = next((way for way in found if way.rule is not None), None)
    return found if first is None else [*found, *_variants(home, first)]


def starter_of(key: str) -> Starter:
    """Return a starter by key; ``HomeError`` if there is none."""
    starter = next((s for s in STARTERS if s.key == key), None)
    if starter is None:
        raise HomeError("there is no such rule to start from")
    return starter


def _way(home: Home, starter: Starter, strategy: Strategy, place_id: str) -> RuleWay:
    try:
        begun, rule = started(home, starter.key, strategy.key, place_id)
    except HomeError as error:
        return RuleWay(name=strategy.name, home=home, cannot=error.args[0])
    follows = None
    if strategy.follows is not None:
        wanted = strategy.follows(begun, place_id).watch
        follows = next(each for each in begun.rules if each.watch == wanted)
    return RuleWay(name=strategy.name, home=begun, rule=rule, follows=follows)


def _beside(home: Home, starter: Starter, place_id: str) -> list[tuple[Starter, str]]:
    """Return the starter that tells the same by another sensor, and where: a contact, or the fall of temperature."""
    if starter.key == "opening":
        room_id = home.device(place_id).room_id or ""
        return [(starter_of("drop"), room_id)] if room_id in dict(sensor_places(home)) else []
    if starter.key == "drop":
        contacts = [i for i, _ in opening_contacts(home) if home.device(i).room_id == place_id]
        return [(starter_of("opening"), contacts[0])] if contacts else []
    return []


def _variants(home: Home, way: RuleWay) -> Iterator[RuleWay]:
    """Yield a way with what it sets less or more far, and with the sensor's own wait instead of the rule's."""
    rule = way.rule
    assert rule is not None  # variants are made of a way that can be
    step = next((s for s in rule.then if isinstance(s, SetLevel)), None)
    if step is not None:
        zone = home.zone_of_id(step.zone_ids[0])
        for level in home.levels:
            if level.is_saving and level.id != step.level_id:
                name = sentence("Turned down to {} only", celsius(home.heating_c(zone, level.id)))
                yield replace(way, name=name, rule=_with_step(rule, step, replace(step, level_id=level.id)))
        guard = home.guard_of(zone).low_c
        if guard < home.heating_c(zone, step.level_id):
            name = sentence("Off, down to the protection limit of {}", celsius(guard))
            yield replace(way, name=name, rule=_with_step(rule, step, SetPoint(zone_ids=step.zone_ids, value_c=guard)))
    if rule.for_s and {s.quantity for s in rule_signals(rule)} & {"is_in", "is_moving"}:
        yield replace(way, name="The sensor's own wait alone", rule=replace(rule, for_s=0))


def _with_step(rule: Rule, old: SetLevel, new: SetLevel | SetPoint) -> Rule:
    return replace(rule, then=tuple(new if step == old else step for step in rule.then))


def rule_signals(rule: Rule) -> set[Signal]:
    """Return the signals that a rule is triggered by."""
    return {signal for clause in rule.watch for c in clause for signal in c.signals}


def target_of(home: Home, starter_key: str, place_id: str) -> RuleTarget:
    """Return what the ways at a place should catch.

    Raises
    ------
    NotKnowable
        If the home has nothing that tells it.
    """
    return _TARGETS[starter_key](home, place_id)


def _wet(home: Home, sensor_id: str) -> RuleTarget:
    wet = InState(of=Signal(quantity="is_wet", subject_id=sensor_id))
    return RuleTarget(words=f"water at {home.device(sensor_id).name}", watch=((wet,),), least_s=WET_FOR_S)


def _frost(home: Home, place_id: str) -> RuleTarget:
    device = next((d for d in home.devices if d.id == place_id), None)
    name = home.room(place_id).name if device is None else device.name
    signal = Signal(quantity="room_temperature", subject_id=place_id)
    return RuleTarget(
        words=sentence("under {} at {}", celsius(FROST_HEAT_C), name),
        watch=((Compared(of=signal, how="under", value=FROST_HEAT_C, hysteresis=0.0),),),
        least_s=5 * S_PER_MIN,
        ahead_s=AHEAD_S,
    )


def _opened(home: Home, room_id: str) -> RuleTarget:
    name = home.room(room_id).name
    contacts = [i for i, _ in opening_contacts(home) if home.device(i).room_id == room_id]
    if not contacts:
        raise NotKnowable(
            f"No contact tells when a window or door of {name} was open.",
            "Put one there for some weeks, then both ways can be held against it.",
        )
    return RuleTarget(
        words=f"{name} open for three minutes, by contact",
        watch=(tuple(InState(of=Signal(quantity="is_open", subject_id=i)) for i in contacts),),
        least_s=3 * S_PER_MIN,
    )


def _opened_by_contact(home: Home, contact_id: str) -> RuleTarget:
    return _opened(home, home.device(contact_id).room_id or "")


def _damp(home: Home, room_id: str) -> RuleTarget:
    signal = Signal(quantity="relative_humidity", subject_id=room_id)
    return RuleTarget(
        words=f"over {DAMP_PCT:g} % for ten minutes in {home.room(room_id).name}",
        watch=((Compared(of=signal, how="over", value=DAMP_PCT, hysteresis=2.0),),),
        least_s=10 * S_PER_MIN,
    )


def _hot(home: Home, room_id: str) -> RuleTarget:
    signal = Signal(quantity="room_temperature", subject_id=room_id)
    return RuleTarget(
        words=sentence("over {} for a quarter of an hour in {}", celsius(HOT_C), home.room(room_id).name),
        watch=((Compared(of=signal, how="over", value=HOT_C, hysteresis=0.5),),),
        least_s=15 * S_PER_MIN,
        ahead_s=AHEAD_S,
    )


def _left_on(home: Home, machine_id: str) -> RuleTarget:
    name = home.appliance(machine_id).name
    return RuleTarget(
        words=f"{name} on for five minutes with nobody in",
        watch=_watched(home, "left-on", "usual", machine_id, f"Nothing tells when {name} is on."),
        least_s=5 * S_PER_MIN,
        machine_id=machine_id,
    )


def _standby(home: Home, machine_id: str) -> RuleTarget:
    name = home.appliance(machine_id).name
    return RuleTarget(
        words=f"{name} idle for half an hour at night",
        watch=_watched(home, "standby", "leave", machine_id, f"Nothing tells yet when {name} is idle."),
        least_s=30 * S_PER_MIN,
        machine_id=machine_id,
    )


def _over_the_limit(home: Home, machine_id: str) -> RuleTarget:
    name = home.appliance(machine_id).name
    draws = MachineDoes(appliance_id=machine_id, does="runs")
    limit = _watched(home, "child-limit", "tell", machine_id, f"Nothing tells when {name} runs.")
    return RuleTarget(
        words=f"{name} running beyond its two hours", watch=(*limit, (draws,)), least_s=S_PER_MIN, machine_id=machine_id
    )


def _zone_empty(home: Home, zone_id: str) -> RuleTarget:
    watch = _watched(home, "idle", "usual", zone_id, "This home has nothing to turn down to.")
    return RuleTarget(words=f"{home.zone_of_id(zone_id).name} empty for an hour by day", watch=watch, least_s=ABSENCE_S)


def _nobody_in(home: Home, place_id: str) -> RuleTarget:
    watch = _watched(home, "everyone-out", "usual", place_id, "This home has nothing to turn down to.")
    return RuleTarget(words="nobody in for an hour by day, without guests", watch=watch, least_s=ABSENCE_S)


def _watched(home: Home, starter_key: str, strategy_key: str, place_id: str, why: str) -> Clauses:
    """Return what triggers a strategy together with what it is bound to."""
    try:
        _, rule = started(home, starter_key, strategy_key, place_id)
    except HomeError as error:
        raise NotKnowable(why, f"{error.args[0]}.") from error
    return (*rule.watch, *rule.only_while)


_TARGETS: Mapping[str, Callable[[Home, str], RuleTarget]] = {
    "leak": _wet,
    "frost": _frost,
    "opening": _opened_by_contact,
    "drop": _opened,
    "damp": _damp,
    "blinds": _hot,
    "left-on": _left_on,
    "standby": _standby,
    "child-limit": _over_the_limit,
    "idle": _zone_empty,
    "everyone-out": _nobody_in,
}
COMPARED = tuple(_TARGETS)
