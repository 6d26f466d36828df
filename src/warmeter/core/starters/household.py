"""Rules to start from for people and machines."""

from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.happens import Happens
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.conditions.machine_does import MachineDoes
from warmeter.core.home.conditions.ran_today import RanToday
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, Asking
from warmeter.core.home.rules import PutBack, Rule, RuleLimits, SetLevel, Step, Switch, TimedRun
from warmeter.core.starters.starter import COMPRESSOR_REST_S, coolers_off, idle_id, rule_of, tell
from warmeter.core.units import S_PER_H

ANSWERED = Happens(event="statement", word="Answered")


def machine_places(home: Home) -> list[tuple[str, str]]:
    """Return the machines."""
    return [(m.id, m.name) for m in home.appliances]


def zone_places(home: Home) -> list[tuple[str, str]]:
    """Return the zones."""
    return [(zone.id, zone.name) for zone in home.zones]


def idle_rule(home: Home, zone_id: str) -> Rule:
    """Return the rule that sets an empty zone to what saves most."""
    zone = home.zone_of_id(zone_id)
    signals = [Signal(quantity="is_in", subject_id=room_id) for room_id in zone.room_ids]
    empty, level = tuple((InState(of=signal, is_on=False),) for signal in signals), idle_id(home)
    off = [] if home.cooling_c(zone, level) is not None else coolers_off(home, zone)
    rest_s = COMPRESSOR_REST_S if off else 0
    rule = rule_of(
        f"{zone.name} empty",
        "rule",
        empty[0],
        [SetLevel(zone_ids=(zone_id,), level_id=level), *off],
        reading="is",
        for_s=1500,
        only_while=((Hours(from_min=420, until_min=1260),), (Fact(word="guests are here", is_true=False),)),
        put_back=PutBack(when=(tuple(InState(of=signal) for signal in signals),), for_s=120),
        intent="A room that nobody uses is not heated for anybody.",
        limits=RuleLimits(min_on_s=rest_s, min_off_s=rest_s, when_stale="put_back"),
    )
    return replace(rule, watch=empty)


def finished_rule(home: Home, machine_id: str) -> Rule:
    """Return the rule that tells that a machine has finished until somebody answers."""
    machine = _told(home, machine_id, "finished")
    runs = MachineDoes(appliance_id=machine_id, does="runs")
    return rule_of(
        f"{machine.name} finished",
        "rule",
        MachineDoes(appliance_id=machine_id, does="finished"),
        [tell(home, f"{machine.name} has finished", repeat_s=1800, most=6)],
        put_back=PutBack(when=((ANSWERED, runs),), after_s=6 * S_PER_H),
        intent="Tell again until somebody has emptied it.",
    )


def bedtime_rule(home: Home, machine_id: str) -> Rule:
    """Return the rule that tells at bedtime that a machine has not run."""
    machine = _told(home, machine_id, "started")
    return rule_of(
        f"{machine.name} not run yet",
        "rule",
        AtTime(at_min=1290),
        [tell(home, f"{machine.name} has not run today")],
        only_while=((RanToday(appliance_id=machine_id, counts="started", has=False),),),
        intent="Asked while it can still be started.",
    )


def _told(home: Home, machine_id: str, tells: Asking) -> Appliance:
    machine = home.appliance(machine_id)
    if all(setting.tells != tells for setting in machine.settings):
        raise HomeError(
            f"nothing tells yet when {machine.name} has {tells}; put a setting for “{tells}” to use on the page of its signature"
        )
    return machine


CUTTABLE = ("washer", "condenser_dryer", "heat_pump_dryer", "dishwasher", "kettle", "other")


def cuttable_places(home: Home) -> list[tuple[str, str]]:
    """Return machines whose plug may be cut: nothing that must stay on."""
    return [(m.id, m.name) for m in home.appliances if m.kind in CUTTABLE]


def standby_rule(home: Home, machine_id: str, *, leaves: bool) -> Rule:
    """Return the rule that cuts a machine at night, or only tells."""
    machine = _told(home, machine_id, "finished")
    idle = MachineDoes(appliance_id=machine_id, does="idle")
    night = ((Hours(from_min=1380, until_min=360),),)
    step: Step = tell(home, f"{machine.name} stands by") if leaves else Switch(target_ids=(machine_id,), is_on=False)
    return rule_of(
        f"{machine.name} standby",
        "rule",
        idle,
        [step],
        reading="is",
        for_s=1800,
        only_while=night,
        put_back=PutBack(at_min=360),
        intent="Nothing should draw power at night that nobody uses.",
        limits=RuleLimits(most_a_day=2),
    )


def fill_places(home: Home) -> list[tuple[str, str]]:
    """Return valves, relays and pumps that drive no heater."""
    kinds = ("water_valve", "relay", "pump_switch")
    return [(d.id, d.name) for d in home.devices if d.kind in kinds and d.is_in_service and d.drives_id is None]


def fill_rule(home: Home, device_id: str) -> Rule:
    """Return the rule that runs a valve or pump for a quarter of an hour at a button."""
    device = home.device(device_id)
    buttons = [d.id for d in home.devices if d.kind == "wall_switch" and d.is_in_service]
    start = Happens(event="button", subject_id=buttons[0]) if buttons else Happens(event="statement", word="Fill now")
    return rule_of(
        f"{device.name} for a quarter of an hour",
        "rule",
        start,
        [TimedRun(target_ids=(device_id,), for_s=900)],
        intent="It stops by itself, whatever happens to the rest.",
        limits=RuleLimits(most_a_day=3, cool_off_s=1800),
    )
