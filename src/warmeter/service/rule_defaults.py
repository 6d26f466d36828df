"""Conditions and steps as they first stand in a sentence, with every blank filled by something usual."""

from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions import (
    AtLevel,
    AtTime,
    Compared,
    Condition,
    Dark,
    Dates,
    Evening,
    Fact,
    Happens,
    Hours,
    InState,
    MachineDoes,
    Moving,
    RanToday,
    Sequence,
    Signal,
    Silent,
    is_moment,
)
from warmeter.core.home.document import Home
from warmeter.core.home.rules import (
    Blinds,
    MarkFact,
    PutBack,
    Rule,
    SetLevel,
    SetPoint,
    ShutOff,
    Step,
    Switch,
    Tell,
    TimedRun,
)
from warmeter.core.quantity import QUANTITIES
from warmeter.service.rule_signals import offered

# Where a comparison first stands, and its hysteresis: three times what usual sensors of it show as noise.
USUAL: dict[str, tuple[float, float, float]] = {
    # quantity: (value, hysteresis, change within ten minutes)
    "room_temperature": (20.0, 0.5, 1.0),
    "outdoor_temperature": (5.0, 1.0, 2.0),
    "relative_humidity": (60.0, 5.0, 5.0),
    "outdoor_humidity": (80.0, 5.0, 10.0),
    "absolute_humidity": (9.0, 0.5, 1.0),
    "dew_point": (12.0, 0.5, 1.0),
    "electric_w": (10.0, 2.0, 100.0),
    "water_temperature": (38.0, 1.0, 1.0),
    "grid_import_w": (3000.0, 300.0, 1000.0),
    "grid_export_w": (1000.0, 200.0, 500.0),
    "price": (0.4, 0.02, 0.1),
}


def is_two_states(signal: Signal) -> bool:
    """Return whether a signal is yes or no."""
    quantity = QUANTITIES.get(signal.quantity)
    return quantity is not None and quantity.high == 1.0


def condition_of(home: Home, key: str) -> Condition:
    """Return a condition by the key of what it looks at, as the first blank of a condition offers them.

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
        return looked_at(signal, "on" if is_two_states(signal) else "over", None)
    if kind == "machine":
        return MachineDoes(appliance_id=home.appliance(rest).id, does="finished")
    if kind == "ran":
        return RanToday(appliance_id=home.appliance(rest).id, has=False)
    if kind == "button":
        return Happens(event="button", subject_id=home.device(rest).id)
    if kind == "level":
        zone = home.zone_of_id(rest)
        if not home.levels:
            raise HomeError("this home has no levels yet")
        return AtLevel(zone_id=zone.id, level_ids=(home.levels[0].id,))
    plain: dict[str, Condition] = {
        "hours": Hours(from_min=420, until_min=1320),
        "at_time": AtTime(at_min=1320),
        "dates": Dates(from_month=10, from_day=1, until_month=4, until_day=30),
        "dark": Dark(),
        "evening": Evening(),
        "statement": Happens(event="statement", word="Answered"),
        "fact": Fact(word="guests are here"),
    }
    if kind in plain:
        return plain[kind]
    if kind == "sequence":
        seen = [each.signal for each in offered(home) if is_two_states(each.signal)]
        first, then = (InState(of=seen[k]) if len(seen) > k else Dark(is_dark=k == 0) for k in (0, 1))
        return Sequence(first=first, then=then, within_s=120)
    raise HomeError("a rule cannot look at that")


def looked_at(signal: Signal, how: str, before: Condition | None) -> Condition:
    """Return a condition on a signal, keeping the numbers of the one before where they still have a meaning."""
    value, hysteresis, change = USUAL.get(signal.quantity, (0.5, 0.0, 1.0))
    if how in ("on", "off"):
        return InState(of=signal, is_on=how == "on")
    if how == "silent":
        return Silent(of=signal, for_s=3600)
    same = isinstance(before, Compared | Moving) and before.of.quantity == signal.quantity
    minus = before.minus if same and isinstance(before, Compared | Moving) else None
    if how in ("rising", "falling"):
        if same and isinstance(before, Moving):
            return replace(before, of=signal, how="rising" if how == "rising" else "falling")
        return Moving(of=signal, how="rising" if how == "rising" else "falling", by=change, within_s=600, minus=minus)
    if same and isinstance(before, Compared):
        value, hysteresis = before.value, before.hysteresis
    high = value + 2 * max(hysteresis, 0.5) if how == "between" else None
    if how not in ("over", "under", "between"):
        raise HomeError("a quantity goes over, under or between values, rises, falls, or is silent")
    return Compared(of=signal, how=how, value=value, high=high, hysteresis=hysteresis, minus=minus)  # type: ignore[arg-type]


def opposite_of(condition: Condition) -> Condition | None:
    """Return what says that a condition is over, beyond its hysteresis; None for a moment or where nothing does."""
    if is_moment(condition):
        return None
    if isinstance(condition, InState):
        return replace(condition, is_on=not condition.is_on)
    if isinstance(condition, Compared) and condition.how != "between":
        other = "under" if condition.how == "over" else "over"
        value = condition.value + (-condition.hysteresis if condition.how == "over" else condition.hysteresis)
        return replace(condition, how=other, value=value, hysteresis=0.0)  # type: ignore[arg-type]
    if isinstance(condition, Dark):
        return replace(condition, is_dark=not condition.is_dark)
    if isinstance(condition, Fact):
        return replace(condition, is_true=not condition.is_true)
    if isinstance(condition, AtLevel):
        return replace(condition, is_at=not condition.is_at)
    if isinstance(condition, RanToday):
        return replace(condition, has=not condition.has)
    if isinstance(condition, MachineDoes):
        return replace(condition, does="idle" if condition.does in ("runs", "left_on") else "runs")
    return None


def put_back_of(rule: Rule) -> PutBack:
    """Return when a rule would usually be put back: when what it watches is over, else after half an hour."""
    over = [opposite_of(c) for clause in rule.watch for c in clause]
    known = tuple((c,) for c in over if c is not None)
    if known and len(known) == len(over):
        return PutBack(when=known, for_s=max(60, rule.for_s // 2) if rule.for_s else 60)
    return PutBack(after_s=1800)


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
        "shut_off": (bool(shuts), ShutOff(target_ids=(shuts[0],)) if shuts else None),
        "mark_fact": (True, MarkFact(word="done today")),
        "tell": (bool(chain_id), Tell(chain_id=chain_id, text="{rule}") if chain_id else None),
    }
    can, step = made.get(kind, (False, None))
    if not can or step is None:
        raise HomeError("this home has nothing that such a step could act on; enter the device in the survey first")
    return step


SWITCHES = ("relay", "plug", "pump_switch", "lamp_switch", "infrared_sender")


def blank_rule(home: Home, name: str) -> Rule:
    """Return a rule as *Write a rule* begins it: the first contact opens, the first zone goes to what saves most.

    Without contacts it watches the first room's temperature, without rooms the clock.
    """
    states = [each.signal for each in offered(home) if each.signal.quantity == "is_open"]
    signals = states or [each.signal for each in offered(home) if each.signal.quantity == "room_temperature"]
    first = signals[0] if signals else None
    watch: Condition = AtTime(at_min=1320)
    if first is not None:
        watch = looked_at(first, "on" if is_two_states(first) else "over", None)
    kinds = ("set_level", "switch", "mark_fact")
    step = next(made for kind in kinds if (made := _step_or_none(home, kind)) is not None)
    return Rule(id="new", name=name, watch=((watch,),), then=(step,))


def _step_or_none(home: Home, kind: str) -> Step | None:
    try:
        return step_of(home, kind)
    except HomeError:
        return None
