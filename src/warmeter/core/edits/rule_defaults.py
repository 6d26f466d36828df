"""Conditions and steps as they first stand in a sentence, with every slot filled by something usual."""

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.kinds import SINGLE_KINDS
from warmeter.core.home.conditions.of_signal import is_two_states
from warmeter.core.home.conditions.sequence import Sequence
from warmeter.core.home.document import Home
from warmeter.core.home.rules import (
    AnswerChoice,
    Ask,
    Blinds,
    Dim,
    MarkFact,
    Rule,
    SetLevel,
    SetPoint,
    ShutOff,
    Step,
    Switch,
    Tell,
    TimedRun,
)
from warmeter.core.rule.signals import looked_at, offered
from warmeter.core.rule.whole_numbers import whole_condition, whole_step


def condition_of(home: Home, key: str) -> Condition:
    """Return a condition by the key of what it looks at, as the first slot of a condition offers them.

    Raises
    ------
    HomeError
        If there is no such thing in this home.
    """
    kind, _, rest = key.partition(":")
    if kind == "signal":
        quantity, _, subject = rest.partition(":")
        signal = Signal(quantity=quantity, subject_id=subject or None)
        if all(each.signal != signal for each in offered(home)):
            raise HomeError("there is no such sensor in this home")
        usual = looked_at(signal, "on" if is_two_states(signal) else "over", None)
        return whole_condition(usual, home.temperature_unit)
    if kind == "sequence":
        seen = [each.signal for each in offered(home) if is_two_states(each.signal)]
        first, then = (InState(of=seen[k]) if len(seen) > k else Dark(is_dark=k == 0) for k in (0, 1))
        return Sequence(first=first, then=then, within_s=120)
    for made in SINGLE_KINDS:
        if key in made.subjects(home):
            return made.usual(home, rest)
    raise HomeError("a rule cannot look at that")


def step_of(home: Home, kind: str, chain_id: str = "") -> Step:
    """Return a step of a kind as it first stands.

    Raises
    ------
    HomeError
        If the home has nothing that it could act on.
    """
    switchable = [d.id for d in home.devices if d.is_in_service and d.kind in SWITCHES]
    switchable += [h.id for h in home.heaters] + [m.id for m in home.appliances]
    blinds = [d.id for d in home.devices if d.is_in_service and d.kind == "blind_motor"]
    lamps = [d.id for d in home.devices if d.is_in_service and d.kind == "lamp_switch"]
    shuts = [d.id for d in home.devices if d.is_in_service and d.kind == "water_valve"] or switchable
    zones = [zone.id for zone in home.zones]
    levels = [level for level in home.levels if level.is_saving] or list(home.levels)
    made: dict[str, tuple[bool, Step | None]] = {
        "set_level": (
            bool(zones and levels),
            SetLevel(zone_ids=(zones[0],), level_id=levels[-1].id) if zones and levels else None,
        ),
        "set_point": (bool(zones), SetPoint(zone_ids=(zones[0],), value_c=17.0) if zones else None),
        "lower": (bool(zones), SetPoint(zone_ids=(zones[0],), change_k=-0.5) if zones else None),
        "switch": (bool(switchable), Switch(target_ids=(switchable[0],), is_on=False) if switchable else None),
        "timed_run": (bool(switchable), TimedRun(target_ids=(switchable[0],), for_s=900) if switchable else None),
        "blinds": (bool(blinds), Blinds(target_ids=(blinds[0],), down=0.8) if blinds else None),
        "dim": (bool(lamps), Dim(target_ids=(lamps[0],), share=0.3, over_s=600) if lamps else None),
        "shut_off": (bool(shuts), ShutOff(target_ids=(shuts[0],)) if shuts else None),
        "mark_fact": (True, MarkFact(word="done today")),
        "tell": (bool(chain_id), Tell(group_id=chain_id, text="{rule}") if chain_id else None),
        "ask": (bool(chain_id), usual_question(chain_id) if chain_id else None),
    }
    can, step = made.get(kind, (False, None))
    if not can or step is None:
        raise HomeError("this home has nothing that such a step could act on; enter the device in the survey first")
    return whole_step(step, home.temperature_unit)


def usual_question(group_id: str) -> Ask:
    """Return a question as it first stands: go ahead, or leave it, which is also what nobody answering means."""
    return Ask(
        group_id=group_id,
        text="{rule}?",
        answers=(AnswerChoice(label="go ahead", word="go ahead"), AnswerChoice(label="leave it")),
    )


SWITCHES = ("relay", "plug", "pump_switch", "lamp_switch", "infrared_sender", "water_valve")


def unfilled_rule(home: Home, name: str) -> Rule:
    """Return a rule as *Write a rule* begins it: the first contact opens, the first zone goes to what saves most.

    Without contacts it watches the first room's temperature, without rooms the clock.
    """
    states = [each.signal for each in offered(home) if each.signal.quantity == "is_open"]
    signals = states or [each.signal for each in offered(home) if each.signal.quantity == "room_temperature"]
    first = signals[0] if signals else None
    watch: Condition = AtTime(at_min=1320)
    if first is not None:
        usual = looked_at(first, "on" if is_two_states(first) else "over", None)
        watch = whole_condition(usual, home.temperature_unit)
    kinds = ("set_level", "switch", "mark_fact")
    step = next(made for kind in kinds if (made := _step_or_none(home, kind)) is not None)
    return Rule(id="new", name=name, watch=((watch,),), then=(step,))


def _step_or_none(home: Home, kind: str) -> Step | None:
    try:
        return step_of(home, kind)
    except HomeError:
        return None
