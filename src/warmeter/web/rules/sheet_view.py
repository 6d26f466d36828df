"""Rules as numbered instructions to type into whatever will run them, in the words of its devices."""

from collections.abc import Iterator
from dataclasses import dataclass

from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.presets import RULE_LABEL
from warmeter.core.home.receivers import (
    Receiver,
    Typed,
    receiver_of_device,
    receiver_of_heater,
    receivers_of_zone,
    typed_setpoint,
    typed_switch,
)
from warmeter.core.home.rules import (
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
from warmeter.core.home.zones import Zone
from warmeter.core.starters.starter import ALARM_CAUTION, FROST_CAUTION, HEATER_CAUTION, LEAK_CAUTION, MOVING_CAUTION
from warmeter.web import format as show
from warmeter.web.receiver_words import fields_words
from warmeter.web.rules.condition_words import say_clauses
from warmeter.web.rules.sentence import sentence_of
from warmeter.web.rules.slots import RuleSentence, seconds_text
from warmeter.web.rules.wording import Names, RuleWording, names_of, rule_wording


@dataclass(frozen=True, slots=True, kw_only=True)
class Line:
    """One instruction: its text, what is typed into each receiver, and what a receiver cannot hold."""

    text: str
    fields: tuple[str, ...] = ()
    lost: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Instruction:
    """One rule on the sheet: its number, name, whole sentence, what to type line by line, and what to heed."""

    number: int
    name: str
    kind: str
    sentence: str
    lines: list[Line]
    cautions: list[str]


def instructions(home: Home) -> list[Instruction]:
    """Return a home's rules as instructions, in their order."""
    names = names_of(home)
    return [_instruction(names, number, rule) for number, rule in enumerate(home.rules, 1)]


def _instruction(names: Names, number: int, rule: Rule) -> Instruction:
    wording = rule_wording(names.home, rule, names)
    return Instruction(
        number=number,
        name=rule.name,
        kind=RULE_LABEL[rule.kind],
        sentence=sentence_of(wording, is_open=False).text,
        lines=list(_lines(wording)),
        cautions=_cautions(rule),
    )


def _said(wording: RuleWording, part: str) -> str:
    told = RuleSentence()
    say_clauses(told, wording, part)  # type: ignore[arg-type]
    return told.text


def _lines(wording: RuleWording) -> Iterator[Line]:
    home, rule = wording.home, wording.rule
    if rule.suspended is not None:
        yield Line(text=f"Do not type it in yet: it is suspended. {rule.suspended.why}".strip().rstrip(".") + ".")
    wait = f", and that for {seconds_text(rule.for_s)} without a break" if rule.for_s else ""
    meant = "whenever" if rule.reading == "is" else "at the moment when"
    yield Line(text=f"Begin {meant} {_said(wording, 'watch')}{wait}.{_reported_by(home, rule)}")
    if rule.only_while:
        yield Line(text=f"But only if {_said(wording, 'only_while')}; what is not known counts as no.")
    for number, step in enumerate(rule.then):
        after = f"After {seconds_text(step.wait_s)}: " if step.wait_s else ""
        told = _step(home, rule, step)
        text = f"{after}{told}" if after else f"Then {told}" if not number else told[:1].upper() + told[1:]
        typed = _typed(home, rule, step)
        yield Line(
            text=text,
            fields=tuple(_fields(home, each) for each in typed),
            lost=tuple(f"{each.receiver.name}: {lost}" for each in typed for lost in each.lost),
        )
    if rule.as_long_as:
        yield Line(text=f"End it at once when this no longer holds: {_said(wording, 'as_long_as')}.")
    for text in (*_ends(wording), *_limits(rule)):
        yield Line(text=text)


def _typed(home: Home, rule: Rule, step: Step) -> list[Typed]:
    """Return what a step types into each receiver; nothing for what is told or marked."""
    if isinstance(step, SetLevel | SetPoint):
        zones = [zone for zone in home.zones if zone.id in step.zone_ids]
        # What the same rule turns off is given no temperature besides.
        off = {t for s in rule.then if isinstance(s, Switch) and not s.is_on for t in s.target_ids}
        off |= {d.id for d in home.devices if d.drives_id in off}
        return [
            each
            for zone in zones
            for receiver in receivers_of_zone(home, zone)
            if receiver.id not in off and (each := _typed_level(home, zone, step, receiver)) is not None
        ]
    if isinstance(step, Switch | TimedRun):
        is_on, for_s = (True, step.for_s) if isinstance(step, TimedRun) else (step.is_on, None)
        receivers = [r for target in step.target_ids if (r := _receiver(home, target)) is not None]
        return [typed_switch(receiver, is_on=is_on, for_s=for_s) for receiver in receivers]
    return []


def _typed_level(home: Home, zone: Zone, step: SetLevel | SetPoint, receiver: Receiver) -> Typed | None:
    if isinstance(step, SetLevel):
        if all(level.id != step.level_id for level in home.levels):
            return None
        heating, cooling = home.heating_c(zone, step.level_id), home.cooling_c(zone, step.level_id)
        return typed_setpoint(receiver, heating, cooling, home.fan_of(zone, step.level_id))
    if step.value_c is None:
        return None
    return typed_setpoint(receiver, *((step.value_c, None) if step.side == "heating" else (None, step.value_c)))


def _receiver(home: Home, target: str) -> Receiver | None:
    """Return what a switched device, heater or machine is reached by; None where nothing drives it."""
    device = next((d for d in home.devices if d.id == target), None)
    if device is not None:
        driven = next((h for h in home.heaters if h.id == device.drives_id), None)
        return receiver_of_device(home, device, driven)
    heater = next((h for h in home.heaters if h.id == target), None)
    if heater is not None:
        return receiver_of_heater(home, heater)
    driving = next((d for d in home.devices if d.drives_id == target and d.is_in_service), None)
    return None if driving is None else receiver_of_device(home, driving)


def _fields(home: Home, typed: Typed) -> str:
    """Return the fields of a receiver as they are typed."""
    device = next((d for d in home.devices if d.id == typed.receiver.id), None)
    name = typed.receiver.name if device is None or device.name != typed.receiver.name else _device(device)
    return f"{name}: {fields_words(typed)}{'' if device is None else _own_words(device)}"


def _reported_by(home: Home, rule: Rule) -> str:
    """Return by which devices, with their addresses, the watch is reported."""
    subjects = {getattr(getattr(c, "of", None), "subject_id", None) for clause in rule.watch for c in clause}
    found = [d for d in home.devices if d.id in subjects]
    return f" Reported by {'; '.join(map(_device, found))}." if found else ""


def _device(device: Device) -> str:
    """Return a device with how it is reached."""
    parts = [p for p in (device.make_model, device.bus, device.address, device.channel) if p]
    return f"{device.name} ({', '.join(parts)})" if parts else device.name


def _ends(wording: RuleWording) -> Iterator[str]:
    rule, back = wording.rule, wording.rule.put_back
    if back is None:
        return
    ways = []
    if back.when:
        wait = f" for {seconds_text(back.for_s)}" if back.for_s else ""
        ways.append(f"when {_said(wording, 'when')}{wait}")
    if back.after_s is not None:
        ways.append(f"{seconds_text(back.after_s)} after it began")
    if back.at_min is not None:
        ways.append(f"at {show.clock_time(back.at_min)}")
    ends = f"{', or '.join(ways)}{', whichever is first' if len(ways) > 1 else ''}."
    shut = " What was shut off stays shut until a person opens it." if rule.shuts_off else ""
    if not rule.is_released:
        yield f"Stop telling {ends}{shut}"
        return
    release = (
        " Take back what was set: the timetable, or the next rule below, decides then. A controller that cannot take "
        "back must ask for the present period, never for an old number."
    )
    yield f"Put it back {ends}{release}{shut}"


def _limits(rule: Rule) -> Iterator[str]:
    limits = rule.limits
    if limits.min_on_s or limits.min_off_s:
        yield f"Least time on {seconds_text(limits.min_on_s) or '0 s'}, least time off {seconds_text(limits.min_off_s) or '0 s'}."
    if limits.most_a_day is not None:
        yield f"At most {limits.most_a_day} times a day."
    if limits.cool_off_s:
        yield f"Nothing for {seconds_text(limits.cool_off_s)} after it ended."
    silent = {"keep": "leave everything as it stands", "put_back": "put it back", "tell": "leave it and tell somebody"}
    yield f"If a sensor sends no data for {seconds_text(limits.stale_s)}: {silent[limits.when_stale]}."
    if rule.kind != "safety" and limits.lock_for_s:
        yield f"After {limits.lock_starts} starts within {seconds_text(limits.lock_window_s)}, lock it for {seconds_text(limits.lock_for_s)}."


def _step(home: Home, rule: Rule, step: Step) -> str:
    """Return a step with temperatures, devices and the devices' own words."""
    names = {p.id: p.name for p in home.notification_groups}
    if isinstance(step, SetLevel | SetPoint):
        zones = [zone for zone in home.zones if zone.id in step.zone_ids]
        return "; ".join(_zone_step(home, zone, step) for zone in zones) + "."
    if isinstance(step, MarkFact):
        return f"remember “{step.word}” as {'so' if step.is_true else 'not so'}."
    if isinstance(step, Tell):
        again = (
            "" if step.repeat_s is None else f", again every {seconds_text(step.repeat_s)}, at most {step.most} times"
        )
        return f"tell {names.get(step.group_id, 'a chain that is gone')}: “{step.text or rule.name}”{again}."
    if isinstance(step, Ask):
        return _question(step, rule, names.get(step.group_id, "a chain that is gone"))
    who = " and ".join(_target(home, target) for target in step.target_ids)
    if isinstance(step, Switch):
        return f"switch {'on' if step.is_on else 'off'} {who}."
    if isinstance(step, TimedRun):
        return f"switch on {who} for {seconds_text(step.for_s)}; send the end along with the start, so that it stops by itself."
    if isinstance(step, Blinds):
        return f"move {who} to {100 * step.down:.0f} % down."
    if isinstance(step, Dim):
        over = f", evenly over {seconds_text(step.over_s)}" if step.over_s else ""
        return f"dim {who} to {100 * step.share:.0f} %{over}."
    return f"shut {who}; only a person opens it again." if isinstance(step, ShutOff) else ""


def _question(step: Ask, rule: Rule, whom: str) -> str:
    """Return a question with its answers, for whoever sets it up elsewhere."""
    answers = "; ".join(
        f"“{answer.label}”" + (f" makes “{answer.word}” so" if answer.word else " changes nothing")
        for answer in step.answers
    )
    none = f"make “{step.none_word}” so" if step.none_word else "change nothing"
    late = f" An answer counts for {seconds_text(step.late_s)} after that too." if step.late_s else ""
    again = (
        f" Do not ask again for {seconds_text(step.remember_s)} after an answer: take that one."
        if step.remember_s
        else ""
    )
    quiet = {"hold": "Ask when quiet hours end", "drop": "Do not ask in quiet hours", "send": "Ask in quiet hours too"}
    return (
        f"ask {whom}: “{step.text or rule.name}” ({answers}). Without an answer for {seconds_text(step.within_s)}: "
        f"{none}.{late}{again} {quiet[step.in_quiet]}."
    )


def _zone_step(home: Home, zone: Zone, step: SetLevel | SetPoint) -> str:
    unit, decimals = show.temperature_unit(home), 1 if home.temperature_unit == "C" else 0
    if isinstance(step, SetLevel):
        level = home.level(step.level_id) if any(level.id == step.level_id for level in home.levels) else None
        if level is None:
            return f"{zone.name}: a level that is gone"
        asked = f"{show.temperature(home.heating_c(zone, level.id), home, decimals)} {unit} ({level.name})"
        cooling = home.cooling_c(zone, level.id)
        asked += f", cooling limit {show.temperature(cooling, home, decimals)} {unit}" if cooling is not None else ""
    elif step.value_c is not None:
        side = "cooling limit" if step.side == "cooling" else "setpoint"
        asked = f"{side} {show.temperature(step.value_c, home, decimals)} {unit}"
    else:
        size = show.difference(abs(step.change_k or 0.0), home)
        asked = f"{size} {show.difference_unit(home)} {'above' if (step.change_k or 0) > 0 else 'below'} what the timetable asks"
    return f"set {zone.name} to {asked}"


def _own_words(device: Device) -> str:
    return "".join(f"; its “{mode.word}” {mode.does}" for mode in device.modes)


def _target(home: Home, target: str) -> str:
    device = next((d for d in home.devices if d.id == target), None)
    if device is not None:
        return f"{_device(device)}{_own_words(device)}"
    driving = [d for d in home.devices if d.drives_id == target and d.is_in_service]
    name = part_names(home.heaters, home.appliances).get(target, "something that is gone")
    return f"{name} by {' and '.join(map(_device, driving))}" if driving else name


def _cautions(rule: Rule) -> list[str]:
    """Return the cautions that stand beside what a rule does."""
    found = []
    if any(isinstance(step, ShutOff) for step in rule.then):
        found.append(LEAK_CAUTION)
    if rule.kind == "safety":
        found += [ALARM_CAUTION, *([FROST_CAUTION] if any(isinstance(s, SetPoint) for s in rule.then) else [])]
    if any(isinstance(step, Blinds) for step in rule.then):
        found.append(MOVING_CAUTION)
    if any(isinstance(step, TimedRun) or (isinstance(step, Switch) and step.is_on) for step in rule.then):
        found.append(HEATER_CAUTION)
    return found
