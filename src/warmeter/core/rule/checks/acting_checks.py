"""Checks of what is done: put back, contradictions, what it acts on, blind devices, what is shut, short cycles."""

from collections.abc import Iterator
from dataclasses import replace

from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.moving import Moving
from warmeter.core.home.conditions.silent import Silent
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Blinds, Dim, Rule, SetLevel, SetPoint, ShutOff, Switch
from warmeter.core.rule.checks.rule_finding import Case, RuleFinding, room_of, rooms_of_step, targets_of
from warmeter.core.rule.parts import conditions_of, with_condition, with_step
from warmeter.core.rule.release import put_back_of
from warmeter.core.rule.signals import main_signal
from warmeter.core.sentence import celsius, sentence

COMPRESSOR_KINDS = ("dehumidifier", "heat_pump_dryer", "fridge", "freezer")
COMPRESSOR_MIN_S = 300
LASTS_S = 600
OF_A_ROOM = ("room_temperature", "relative_humidity", "is_open", "is_moving", "is_in", "absolute_humidity", "dew_point")


def nothing_puts_back(case: Case) -> Iterator[RuleFinding]:
    """A claim, switching, blind or dimming that nothing ends."""
    rule = case.rule
    lasting = [k for k, step in enumerate(rule.then) if isinstance(step, SetLevel | SetPoint | Switch | Blinds | Dim)]
    if lasting and rule.put_back is None and not rule.as_long_as:
        yield case.finding(
            "nothing puts back",
            f"then.{lasting[0]}.targets",
            "Nothing puts it back: what it sets stands until somebody notices.",
            fix="Put it back when it is over",
            rule=replace(rule, put_back=put_back_of(rule)),
        )


def step_never_comes(case: Case) -> Iterator[RuleFinding]:
    """A step whose waits add up to the time after which the rule is put back, or more."""
    rule, waited_s = case.rule, 0
    after_s = None if rule.put_back is None else rule.put_back.after_s
    for number, step in enumerate(rule.then):
        waited_s += step.wait_s
        if rule.put_back is None or after_s is None or waited_s < after_s:
            continue
        later_s = waited_s + LASTS_S
        yield case.finding(
            "step never comes",
            f"then.{number}.wait",
            f"The rule is put back {after_s / 60:g} min after it triggered, and this step comes {waited_s / 60:g} min after "
            "that: it never does.",
            fix=f"Put it back {later_s / 60:g} min after it triggered",
            rule=replace(rule, put_back=replace(rule.put_back, after_s=later_s)),
        )
        return


def contradiction(case: Case) -> Iterator[RuleFinding]:
    """A setpoint beyond the guard or above the cooling limit; two rules of a kind that ask the opposite."""
    home, rule = case.home, case.rule
    for number, step in enumerate(rule.then):
        if isinstance(step, SetPoint) and step.value_c is not None and step.side == "heating":
            for zone in (z for z in home.zones if z.id in step.zone_ids):
                guard = home.guard_of(zone)
                limits = [c for level in home.levels if (c := home.cooling_c(zone, level.id)) is not None]
                high = min([guard.high_c, *(limit - home.gap.gap_k for limit in limits)])
                if not guard.low_c - 1e-9 <= step.value_c <= high + 1e-9:
                    value = min(max(step.value_c, guard.low_c), high)
                    yield case.finding(
                        "contradiction",
                        f"then.{number}.value",
                        sentence(
                            "{} contradicts the limits of {}, {} and {} by its protection limit and its cooling.",
                            celsius(step.value_c),
                            zone.name,
                            celsius(guard.low_c),
                            celsius(high),
                        ),
                        fix=sentence("Take {}", celsius(value)),
                        rule=with_step(rule, number, replace(step, value_c=value)),
                    )
                    break
    yield from _opposites(case)


def _opposites(case: Case) -> Iterator[RuleFinding]:
    """Rules above this one, of the same kind, that switch the same thing the other way while both may hold."""
    home, rule = case.home, case.rule
    above = home.rules[: home.rules.index(rule)]
    for number, step in enumerate(rule.then):
        if not isinstance(step, Switch):
            continue
        for other in above:
            if other.kind != rule.kind or _excludes(rule, other):
                continue
            fights = [s for s in other.then if isinstance(s, Switch) and s.is_on != step.is_on]
            if not any(set(s.target_ids) & set(step.target_ids) for s in fights):
                continue
            guard = [c.opposite for c in other.watch[0]]
            known = tuple((c,) for c in guard if c is not None)
            fix = bool(known) and len(known) == len(guard) and len(other.watch) == 1
            yield case.finding(
                "contradiction",
                f"then.{number}.targets",
                f"“{other.name}”, higher in the list, asks the opposite of the same device; while both hold, this one has no effect.",
                fix="Only while the other does not hold" if fix else "",
                rule=replace(rule, only_while=(*rule.only_while, *known)) if fix else None,
            )


def _excludes(rule: Rule, other: Rule) -> bool:
    """Whether what one watches is the opposite of what the other watches or is guarded by."""
    theirs = {c for _, c in conditions_of(other, "watch")}
    mine = [c for part in ("watch", "only_while") for _, c in conditions_of(rule, part)]
    return any(c.opposite in theirs or _opposed(c, theirs) for c in mine)


def _opposed(condition: Condition, theirs: set[Condition]) -> bool:
    """Whether a condition on a signal is the opposite of one of others, apart from its hysteresis."""
    signal, how = main_signal(condition), getattr(condition, "how", getattr(condition, "is_on", None))
    return any(
        main_signal(other) == signal
        and signal is not None
        and getattr(other, "how", getattr(other, "is_on", None)) != how
        for other in theirs
    )


def acts_on_more(case: Case) -> Iterator[RuleFinding]:
    """Zones set for what was seen in others; a zone of several rooms emptied by one of them."""
    home, rule = case.home, case.rule
    seen = _rooms_seen(case)
    if not seen:
        return
    for number, step in enumerate(rule.then):
        if not isinstance(step, SetLevel | SetPoint):
            continue
        own = tuple(z.id for z in home.zones if z.id in step.zone_ids and set(z.room_ids) & seen)
        extra = [z.name for z in home.zones if z.id in step.zone_ids and not set(z.room_ids) & seen]
        if own and extra:
            yield case.finding(
                "acts on more",
                f"then.{number}.targets",
                f"It looks at {_rooms(home, seen)} and also sets {', '.join(extra)}.",
                fix="Only where it looks",
                rule=with_step(rule, number, replace(step, zone_ids=own)),
            )
    yield from _half_empty(case)


def _half_empty(case: Case) -> Iterator[RuleFinding]:
    home, rule = case.home, case.rule
    empty = [
        c
        for _, c in conditions_of(rule, "watch")
        if isinstance(c, InState) and c.of.quantity == "is_in" and not c.is_on
    ]
    looked = {c.of.subject_id for c in empty}
    for number, step in enumerate(rule.then):
        if not empty or not isinstance(step, SetLevel):
            continue
        rooms = {r for z in home.zones if z.id in step.zone_ids and set(z.room_ids) & looked for r in z.room_ids}
        missing = [r.id for r in home.rooms if r.id in rooms - looked]
        if missing:
            more = tuple((InState(of=Signal(quantity="is_in", subject_id=r), is_on=False),) for r in missing)
            yield case.finding(
                "acts on more",
                f"then.{number}.targets",
                f"Somebody may be in {_rooms(home, set(missing))}, which the zone heats too.",
                fix="Look there as well",
                rule=replace(rule, watch=(*rule.watch, *more)),
            )


def _rooms_seen(case: Case) -> set[str]:
    """Return the rooms of what is watched that belongs to a room."""
    found = set()
    for _, c in conditions_of(case.rule, "watch"):
        signal = main_signal(c)
        if signal is not None and signal.quantity in OF_A_ROOM:
            room = room_of(case.home, signal.subject_id)
            found |= {room} if room else set()
    return found


def _rooms(home: Home, ids: set[str]) -> str:
    return " and ".join(room.name for room in home.rooms if room.id in ids)


def blind_device(case: Case) -> Iterator[RuleFinding]:
    """A device that says nothing back, with no witness that it obeyed."""
    home = case.home
    for number, step in enumerate(case.rule.then):
        for target in targets_of(step):
            blind = [d for d in home.devices if target in (d.id, d.drives_id) and d.is_in_service]
            if not blind or any(d.is_two_way or d.witness_id for d in blind):
                continue
            device = blind[0]
            plug = next(
                (
                    d
                    for d in home.devices
                    if d.kind in ("plug", "contact") and d.room_id == device.room_id and d.is_in_service
                ),
                None,
            )
            witnessed = tuple(replace(d, witness_id=plug.id) if plug and d.id == device.id else d for d in home.devices)
            yield case.finding(
                "device without feedback",
                f"then.{number}.targets",
                f"Nothing comes back from {device.name}: a command may be lost and nobody knows.",
                fix=f"Take {plug.name} as its witness" if plug else "",
                home=replace(home, devices=witnessed) if plug else None,
            )


def wrong_thing_shut(case: Case) -> Iterator[RuleFinding]:
    """Water at a sensor, and something else is shut than what feeds it."""
    home, rule = case.home, case.rule
    wet = [
        c.of.subject_id for _, c in conditions_of(rule, "watch") if isinstance(c, InState) and c.of.quantity == "is_wet"
    ]
    if not wet:
        return
    right = {
        d
        for chain in home.safety_chains
        if chain.kind == "leak" and set(wet) & set(chain.device_ids)
        for d in chain.device_ids
    }
    valves = [d.id for d in home.devices if d.id in right and d.kind == "water_valve"]
    sensor_rooms = {room_of(home, w) for w in wet}
    for number, step in enumerate(rule.then):
        if not isinstance(step, ShutOff):
            continue
        units = [h for h in home.heaters if h.id in step.target_ids]
        wrong = (valves and not set(step.target_ids) & set(valves)) or any(u.room_id not in sensor_rooms for u in units)
        wrong = wrong and not any(u.room_id in sensor_rooms and u.kind == "split_unit" for u in units)
        if wrong:
            yield case.finding(
                "wrong thing shut",
                f"then.{number}.targets",
                "What it shuts does not feed the water at this sensor, by the survey's alarm path and rooms.",
                severity="danger",
                fix=f"Shut {home.device(valves[0]).name}" if valves else "",
                rule=with_step(rule, number, replace(step, target_ids=(valves[0],))) if valves else None,
            )


def short_cycles(case: Case) -> Iterator[RuleFinding]:
    """A compressor that may be started and stopped within minutes (J3)."""
    home, rule = case.home, case.rule
    if rule.limits.min_on_s >= COMPRESSOR_MIN_S and rule.limits.min_off_s >= COMPRESSOR_MIN_S:
        return
    for step in rule.then:
        if not isinstance(step, Switch):
            continue
        units = [h.name for h in home.heaters if h.id in step.target_ids and h.kind == "split_unit"]
        units += [m.name for m in home.appliances if m.id in step.target_ids and m.kind in COMPRESSOR_KINDS]
        if units:
            yield case.finding(
                "short cycles",
                "min_on_s",
                f"{units[0]} has a compressor, and nothing keeps it from stopping and starting within minutes.",
                fix="At least 10 min on and off",
                rule=replace(rule, limits=replace(rule.limits, min_on_s=600, min_off_s=600)),
            )


def level_for_what_cools(case: Case) -> Iterator[RuleFinding]:
    """A level that names a heating setpoint only, laid on a room with a unit that cools and goes on doing so."""
    home, rule = case.home, case.rule
    switched = {t for step in rule.then if isinstance(step, Switch | ShutOff) for t in step.target_ids}
    for number, step in enumerate(rule.then):
        if not isinstance(step, SetLevel) or all(level.id != step.level_id for level in home.levels):
            continue
        for zone in (z for z in home.zones if z.id in step.zone_ids):
            if home.cooling_c(zone, step.level_id) is not None and rule.kind != "window_lock":
                continue
            near = [h for h in home.heaters if h.room_id in zone.room_ids and h.id not in switched]
            is_lock = rule.kind == "window_lock"
            units = [h for h in near if h.may_cool or (is_lock and home.is_by_infrared(h.id))]
            if not units:
                continue
            ids = tuple(h.id for h in units)
            off = replace(rule, then=(*rule.then, Switch(target_ids=ids, is_on=False)))
            yield case.finding(
                "heating level for what cools",
                f"then.{number}.targets",
                f"{units[0].name} can cool: a heating setpoint does not stop that, and typed into it in its cooling mode it would "
                "cool to that number."
                if units[0].may_cool
                else f"{units[0].name} is reached by infra-red only: it may not take so low a setpoint, and nothing tells.",
                severity="danger" if is_lock else "warning",
                fix=f"Also turn off {' and '.join(h.name for h in units)}",
                rule=off,
            )
            break


def other_room(case: Case) -> Iterator[RuleFinding]:
    """A sensor in one room, and what is done in another."""
    home, rule = case.home, case.rule
    known = case.known
    acted = {r for step in rule.then if targets_of(step) for r in rooms_of_step(home, step)}
    for place, c in conditions_of(rule, "watch"):
        signal = main_signal(c)
        if signal is None or signal.quantity not in OF_A_ROOM or not acted:
            continue
        room = room_of(home, signal.subject_id)
        if room is None or room in acted or _rooms_seen(case) & acted:
            continue
        near = next(
            (s for s in (Signal(quantity=signal.quantity, subject_id=r) for r in sorted(acted)) if s in known), None
        )
        if near is None:
            near = next(
                (
                    s
                    for s in sorted(known, key=repr)
                    if s.quantity == signal.quantity and room_of(home, s.subject_id) in acted
                ),
                None,
            )
        yield case.finding(
            "other room",
            f"{place.path}.of",
            f"The sensor stands in {_rooms(home, {room})}, what it does is in {_rooms(home, acted)}.",
            fix="Look at the sensor there" if near else "",
            rule=with_condition(rule, place, _looking_at(c, near)) if near else None,
        )


def _looking_at(condition: Condition, signal: Signal) -> Condition:
    """Return a condition on another signal of the same quantity."""
    return replace(condition, of=signal) if isinstance(condition, Compared | Moving | InState | Silent) else condition
