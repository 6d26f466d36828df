"""Faults planted in sound rules, one kind for each check: what the checks must find, and nothing else."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.people import Occupant, Witness
from warmeter.core.home.rules import (
    AnswerChoice,
    Ask,
    Dim,
    MarkFact,
    PutBack,
    Rule,
    SetLevel,
    SetPoint,
    ShutOff,
    Switch,
    Tell,
    TimedRun,
)
from warmeter.core.home.zones import Zone
from warmeter.core.rule.checks.rule_finding import Check, targets_of
from warmeter.core.rule.parts import conditions_of, with_condition
from warmeter.core.units import MIN_PER_DAY, S_PER_DAY

LONGEST_WAIT_S = 7 * S_PER_DAY
MOST_STEPS = 20
# A state without an end that asks somebody is found as that too.
_BY_TELLING: tuple[Check, ...] = ("crossing or state",)


@dataclass(frozen=True, slots=True)
class PlantedRule:
    """A home with a fault in one rule, and checks that may rightly find it too."""

    home: Home
    rule_id: str
    brings: frozenset[Check] = frozenset()


def _with(home: Home, rule: Rule, *brings: Check) -> PlantedRule:
    rules = tuple(rule if each.id == rule.id else each for each in home.rules)
    return PlantedRule(replace(home, rules=rules), rule.id, frozenset(brings))


def _no_hysteresis(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        for place, c in conditions_of(rule, "watch"):
            if not isinstance(c, Compared) or not c.hysteresis:
                continue
            backs = [(p, b) for p, b in conditions_of(rule, "when") if isinstance(b, Compared) and b.of == c.of]
            if backs:
                yield _with(home, with_condition(rule, backs[0][0], replace(backs[0][1], value=c.value)))
            else:
                yield _with(home, with_condition(rule, place, replace(c, hysteresis=0.0)))


def _no_wait(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        watched = [c for _, c in conditions_of(rule, "watch") if isinstance(c, InState)]
        if any(c.of.quantity == "is_open" or (c.of.quantity == "is_in" and not c.is_on) for c in watched):
            yield _with(home, replace(rule, for_s=0))
            if rule.put_back is not None and rule.put_back.when:
                yield _with(home, replace(rule, put_back=replace(rule.put_back, for_s=0)))


def _nothing_puts_back(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        if rule.put_back is not None and any(isinstance(s, SetLevel | SetPoint | Switch) for s in rule.then):
            brings: tuple[Check, ...] = ("crossing or state", "alarm swallowed", "no hysteresis")
            yield _with(home, replace(rule, put_back=None, as_long_as=()), *brings)


def _contradiction(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        for number, step in enumerate(rule.then):
            if isinstance(step, SetPoint) and step.value_c is not None:
                for value in (2.0, 40.0):
                    steps = tuple(replace(step, value_c=value) if k == number else s for k, s in enumerate(rule.then))
                    yield _with(home, replace(rule, then=steps))
            if isinstance(step, SetLevel):
                # The rule below asks for a temperature that no guard allows.
                hot = SetPoint(zone_ids=step.zone_ids, value_c=45.0)
                yield _with(home, replace(rule, then=(*rule.then, hot)))
            if isinstance(step, Switch):
                other = replace(
                    rule,
                    id=f"{rule.id}-not",
                    name="The opposite",
                    watch=((AtTime(at_min=720),),),
                    for_s=0,
                    only_while=(),
                    reading="becomes",
                    then=(replace(step, is_on=not step.is_on),),
                    put_back=PutBack(after_s=3600),
                )
                yield PlantedRule(replace(home, rules=(*home.rules, other)), other.id)
    yield from _held_over_the_turn(home)


def _held_over_the_turn(home: Home) -> Iterator[PlantedRule]:
    """Rules by the clock that keep a zone low, or high, until an hour after its timetable has turned the other way."""
    for zone in home.zones:
        points = zone.timetables[0].usual
        if zone.calendar or len(zone.timetables) > 1 or zone.timetables[0].days:
            continue
        for before, after in pairwise(points):
            asked = [home.heating_c(zone, point.level_id) for point in (before, after)]
            gap_min = after.start_min - before.start_min
            if asked[0] == asked[1] or gap_min < 120 or after.start_min >= 1380:
                continue
            limits = home.guard_of(zone)
            value = asked[0] - 0.5 if asked[1] > asked[0] else asked[0] + 0.5
            held = Rule(
                id=f"held-{zone.id}-{after.start_min}",
                name="Held over the turn",
                watch=((AtTime(at_min=after.start_min - 60),),),
                then=(SetPoint(zone_ids=(zone.id,), value_c=value),),
                put_back=PutBack(at_min=after.start_min + 60),
            )
            if limits.low_c <= value <= limits.high_c:
                yield PlantedRule(replace(home, rules=(*home.rules, held)), held.id)


def _acts_on_more(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        for number, step in enumerate(rule.then):
            others = [z.id for z in home.zones if isinstance(step, SetLevel) and z.id not in step.zone_ids]
            looks = any(isinstance(c, InState | Moving) for _, c in conditions_of(rule, "watch"))
            if isinstance(step, SetLevel) and others and looks:
                wide = replace(step, zone_ids=(*step.zone_ids, others[0]))
                steps = tuple(wide if k == number else s for k, s in enumerate(rule.then))
                yield _with(home, replace(rule, then=steps), "heating level for what cools")


def _crossing_or_state(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        timed = any(isinstance(c, Hours) for _, c in conditions_of(rule, "only_while"))
        lasting = not any(isinstance(c, AtTime | Moving) for _, c in conditions_of(rule, "watch"))
        if rule.reading == "is" and timed and lasting:
            yield _with(home, replace(rule, reading="becomes"))
        if rule.reading == "is" and rule.put_back is not None and all(isinstance(s, Tell) for s in rule.then):
            brings: tuple[Check, ...] = ("alarm swallowed", "no hysteresis")
            yield _with(home, replace(rule, put_back=None), *brings)


def _blind_device(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        for step in rule.then:
            for target in targets_of(step):
                blind = [d for d in home.devices if target in (d.id, d.drives_id) and d.is_in_service]
                if blind:
                    ids = {d.id for d in blind}
                    devices = tuple(
                        replace(d, is_two_way=False, witness_id=None) if d.id in ids else d for d in home.devices
                    )
                    changed = replace(home, devices=devices)
                    yield PlantedRule(changed, rule.id)


def _no_guard(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        if rule.only_while and any(
            isinstance(c, InState) and c.of.quantity == "is_in" and not c.is_on for _, c in conditions_of(rule, "watch")
        ):
            yield _with(home, replace(rule, only_while=()))
            for k in range(len(rule.only_while)):
                yield _with(home, replace(rule, only_while=rule.only_while[:k] + rule.only_while[k + 1 :]))


def _alarm_swallowed(home: Home) -> Iterator[PlantedRule]:
    quiet = {c.id for c in home.notification_groups if c.quiet_from_min is not None and not c.passes_quiet}
    for rule in home.rules:
        told = [s for s in rule.then if isinstance(s, Tell) and s.group_id in quiet]
        urgent = any(
            (isinstance(c, InState) and c.of.quantity == "is_wet")
            or (isinstance(c, Compared) and c.how == "under" and c.value < 5)
            for _, c in conditions_of(rule, "watch")
        )
        if told and rule.kind == "safety" and urgent:
            yield _with(home, replace(rule, kind="rule"))
        if told and rule.kind == "rule" and rule.put_back is not None and len(rule.then) == 1:
            brings: tuple[Check, ...] = ("crossing or state", "no hysteresis")
            yield _with(home, replace(rule, put_back=None), *brings)


def _wrong_thing_shut(home: Home) -> Iterator[PlantedRule]:
    chained = {d for chain in home.safety_chains if chain.kind == "leak" for d in chain.device_ids}
    for rule in home.rules:
        wet = [c for _, c in conditions_of(rule, "watch") if isinstance(c, InState) and c.of.quantity == "is_wet"]
        for number, step in enumerate(rule.then):
            if wet and wet[0].of.subject_id in chained and isinstance(step, ShutOff):
                for other in [
                    d.id
                    for d in home.devices
                    if d.kind in ("lamp_switch", "pump_switch", "relay", "plug", "controller")
                ][:2]:
                    steps = tuple(
                        replace(step, target_ids=(other,)) if k == number else s for k, s in enumerate(rule.then)
                    )
                    yield _with(home, replace(rule, then=steps))


def _short_cycles(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        compressors = {h.id for h in home.heaters if h.kind == "split_unit"}
        if any(isinstance(s, Switch) and set(s.target_ids) & compressors for s in rule.then):
            for on_s, off_s in ((0, None), (None, 0), (60, 60)):
                limits = rule.limits if on_s is None else replace(rule.limits, min_on_s=on_s)
                limits = limits if off_s is None else replace(limits, min_off_s=off_s)
                yield _with(home, replace(rule, limits=limits))


def _other_room(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        for place, c in conditions_of(rule, "watch"):
            rooms = {
                r
                for s in rule.then
                if isinstance(s, SetLevel)
                for z in home.zones
                if z.id in s.zone_ids
                for r in z.room_ids
            }
            other = next((r.id for r in home.rooms if r.id not in rooms), None)
            if rooms and other is not None and isinstance(c, Moving) and len(rule.watch) == 1:
                moved = with_condition(rule, place, replace(c, of=Signal(quantity=c.of.quantity, subject_id=other)))
                yield _with(home, moved)


def _never_or_always(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        for place, c in conditions_of(rule, "watch"):
            if isinstance(c, Compared) and c.minus is None and c.of.quantity == "relative_humidity":
                yield _with(home, with_condition(rule, place, replace(c, value=130.0)))
            if isinstance(c, InState):
                gone = Signal(quantity=c.of.quantity, subject_id="taken-out")
                yield _with(home, with_condition(rule, place, replace(c, of=gone)))
            if isinstance(c, AtTime):
                yield _with(home, replace(rule, for_s=600))
                outside = Hours(from_min=(c.at_min + 60) % MIN_PER_DAY, until_min=(c.at_min + 120) % MIN_PER_DAY)
                yield _with(home, replace(rule, only_while=(*rule.only_while, (outside,))))
        for place, c in conditions_of(rule, "only_while"):
            if isinstance(c, Hours):
                yield _with(home, with_condition(rule, place, replace(c, until_min=c.from_min)))
        never = [(z.id, lv.id) for z in home.zones for lv in home.levels if lv.id not in _levels_set(z)]
        if never and not rule.only_while:
            at = AtLevel(zone_id=never[0][0], level_ids=(never[0][1],))
            yield _with(home, replace(rule, only_while=((at,),)), "crossing or state")


def _levels_set(zone: Zone) -> set[str]:
    return {point.level_id for point in zone.all_points}


def _urgent_but_late(home: Home) -> Iterator[PlantedRule]:
    for rule in home.rules:
        wet = any(isinstance(c, InState) and c.of.quantity == "is_wet" for _, c in conditions_of(rule, "watch"))
        frost = any(
            isinstance(c, Compared) and c.how == "under" and c.value <= 6 and c.of.quantity == "room_temperature"
            for _, c in conditions_of(rule, "watch")
        )
        if wet or frost:
            yield _with(home, replace(rule, for_s=3600))
            yield _with(home, replace(rule, then=(replace(rule.then[0], wait_s=1800), *rule.then[1:])))


def _circle(home: Home) -> Iterator[PlantedRule]:
    movable = [rule for rule in home.rules if rule.kind == "rule"][:2]
    if len(movable) == 2:
        one, two = movable
        first = replace(one, then=(*one.then, MarkFact(word="x")), only_while=(*one.only_while, (Fact(word="y"),)))
        second = replace(two, then=(*two.then, MarkFact(word="y")), only_while=(*two.only_while, (Fact(word="x"),)))
        planted = _with(_with(home, first).home, second)
        yield replace(planted, rule_id=one.id)


def _level_for_what_cools(home: Home) -> Iterator[PlantedRule]:
    """A window lock forgets the unit that cools."""
    cooling = {h.id for h in home.heaters if h.may_cool}
    for rule in home.rules:
        kept = tuple(s for s in rule.then if not (isinstance(s, Switch) and set(s.target_ids) & cooling))
        if rule.kind == "window_lock" and kept and kept != rule.then:
            yield _with(home, replace(rule, then=kept))


def _step_never_comes(home: Home) -> Iterator[PlantedRule]:
    """The last step waits until after the rule is put back."""
    for rule in home.rules:
        after_s = rule.put_back.after_s if rule.put_back is not None else None
        if after_s is not None and after_s <= LONGEST_WAIT_S:
            then = (*rule.then[:-1], replace(rule.then[-1], wait_s=after_s))
            yield _with(home, replace(rule, then=then), "urgent but late")


def _cold_for_the_frail(home: Home) -> Iterator[PlantedRule]:
    """Somebody who cannot bear cold lives where a rule saves by absence."""
    frail = Occupant(
        id="planted-person",
        name="Planted person",
        care="infant",
        witnesses=(Witness(id="planted-word", kind="statement"), Witness(id="planted-motion", kind="motion")),
    )
    for rule in home.rules:
        watched = [c for _, c in conditions_of(rule, "watch") if isinstance(c, InState) and c.of.quantity == "is_in"]
        saves = any(isinstance(s, SetLevel) or (isinstance(s, Switch) and not s.is_on) for s in rule.then)
        if saves and any(not c.is_on for c in watched):
            yield PlantedRule(replace(home, people=(*home.people, frail)), rule.id)


def _answer_without_effect(home: Home) -> Iterator[PlantedRule]:
    """A question is added, and nobody writes what follows upon its answers."""
    group = home.notification_groups[0].id if home.notification_groups else ""
    for rule in home.rules:
        if group and rule.kind == "rule" and rule.question is None and len(rule.then) < MOST_STEPS:
            answers = (AnswerChoice(label="yes", word="planted yes"), AnswerChoice(label="no"))
            yield _with(home, replace(rule, then=(*rule.then, Ask(group_id=group, answers=answers))), *_BY_TELLING)


def _unsafe_without_answer(home: Home) -> Iterator[PlantedRule]:
    """Something is switched on where nobody answered."""
    group = home.notification_groups[0].id if home.notification_groups else ""
    on = [d.id for d in home.devices if d.kind in ("relay", "plug") and d.is_in_service][:1]
    for rule in home.rules:
        if group and on and rule.kind == "rule" and rule.question is None and len(rule.then) < MOST_STEPS:
            answers = (AnswerChoice(label="no", word="planted no"),)
            asks = Ask(group_id=group, answers=answers, none_word="planted silence")
            follows = Rule(
                id="planted-rule",
                name="Planted rule",
                watch=((Fact(word="planted silence"),),),
                then=(TimedRun(target_ids=(on[0],), for_s=900),),
            )
            changed = replace(home, rules=(*home.rules, follows))
            yield _with(changed, replace(rule, then=(*rule.then, asks)), "answer without effect", *_BY_TELLING)


def _door_by_presence(home: Home) -> Iterator[PlantedRule]:
    """A relay that somebody named after a door follows whoever is seen."""
    relay = next((d for d in home.devices if d.kind in ("relay", "plug") and d.is_in_service), None)
    for rule in home.rules:
        watched = [c for _, c in conditions_of(rule, "watch")]
        if relay is None or not watched or len(rule.then) >= MOST_STEPS:
            continue
        if all(isinstance(c, InState) and c.of.quantity in ("is_in", "is_home", "is_moving") for c in watched):
            door = replace(relay, id="planted-door", name="Garage door", drives_id=None, fed_by_id=None)
            opens = Switch(target_ids=(door.id,), is_on=True)
            changed = replace(home, devices=(*home.devices, door))
            yield _with(
                changed, replace(rule, then=(*rule.then, opens)), "acts on more", "other room", "nothing puts back"
            )


def _dark_on_the_way(home: Home) -> Iterator[PlantedRule]:
    """The lamp of a hall is dimmed to nearly nothing."""
    hall = next((room for room in home.rooms if room.use == "hall"), None)
    if hall is None:
        return
    lamp = Device(id="planted-lamp", name="Planted lamp", kind="lamp_switch", room_id=hall.id)
    for rule in home.rules:
        if rule.kind == "rule" and len(rule.then) < MOST_STEPS:
            dims = Dim(target_ids=(lamp.id,), share=0.05)
            changed = replace(home, devices=(*home.devices, lamp))
            brings: tuple[Check, ...] = ("acts on more", "other room", "nothing puts back", *_BY_TELLING)
            yield _with(changed, replace(rule, then=(*rule.then, dims)), *brings)


RULE_PLANTS: dict[Check, Callable[[Home], Iterator[PlantedRule]]] = {
    "no hysteresis": _no_hysteresis,
    "no wait": _no_wait,
    "nothing puts back": _nothing_puts_back,
    "contradiction": _contradiction,
    "acts on more": _acts_on_more,
    "crossing or state": _crossing_or_state,
    "device without feedback": _blind_device,
    "no condition": _no_guard,
    "cold for who cannot bear it": _cold_for_the_frail,
    "door by presence": _door_by_presence,
    "dark on the way": _dark_on_the_way,
    "answer without effect": _answer_without_effect,
    "unsafe without an answer": _unsafe_without_answer,
    "alarm swallowed": _alarm_swallowed,
    "wrong thing shut": _wrong_thing_shut,
    "short cycles": _short_cycles,
    "heating level for what cools": _level_for_what_cools,
    "other room": _other_room,
    "never or always": _never_or_always,
    "urgent but late": _urgent_but_late,
    "circle": _circle,
    "step never comes": _step_never_comes,
}
