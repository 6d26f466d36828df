"""Rules to start from for pumps, warm water and dosing."""

from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.document import Home
from warmeter.core.home.rules import PutBack, Rule, RuleLimits, ShutOff, Switch
from warmeter.core.starters.starter import rule_of, tell
from warmeter.core.units import S_PER_H

DRY_L_MIN, FLOWS_L_MIN = 2.0, 10.0
DRY_FOR_S, FLOWS_FOR_S, STALE_S = 90, 120, 300
HOT_C, HOT_FOR_S = 40.0, 300
MEANT = "hot is meant"


def _flow(home: Home, pump_id: str) -> Signal:
    """Return the flow behind a pump: of a meter in its room, else of the only one.

    Raises
    ------
    HomeError
        If none measures it, or several do and none stands beside the pump.
    """
    meters = [d for d in home.devices if d.kind == "meter" and d.is_in_service and "water_flow" in d.measures]
    near = [d for d in meters if d.room_id == home.device(pump_id).room_id] or meters
    if len(near) != 1:
        raise HomeError(
            f"which meter tells the flow behind {home.device(pump_id).name}? Enter one with the quantity water_flow in its room, "
            "under Survey, Devices"
        )
    return Signal(quantity="water_flow", subject_id=near[0].id)


def pump_places(home: Home) -> list[tuple[str, str]]:
    """Return the pumps' switches."""
    return [(d.id, d.name) for d in home.devices if d.kind == "pump_switch" and d.is_in_service]


def dry_pump_rule(home: Home, pump_id: str) -> Rule:
    """Return the rule that shuts a pump off which runs without flow; a flow that is not heard is told."""
    pump = home.device(pump_id)
    watch: list[tuple[Condition, ...]] = [
        (InState(of=Signal(quantity="is_obeying", subject_id=pump_id)),),
        (Compared(of=_flow(home, pump_id), how="under", value=DRY_L_MIN, hysteresis=1.0),),
    ]
    rule = rule_of(
        f"{pump.name} without flow",
        "safety",
        watch[0][0],
        [
            ShutOff(target_ids=(pump_id,)),
            tell(home, f"{pump.name} ran without flow and is shut off", repeat_s=1800, most=6),
        ],
        for_s=DRY_FOR_S,
        intent="A pump that runs dry ruins its seal in minutes; a person opens it again.",
        stale_s=STALE_S,
        limits=RuleLimits(when_stale="tell"),
    )
    return replace(rule, watch=tuple(watch))


def warm_water_places(home: Home) -> list[tuple[str, str]]:
    """Return the machines whose water could be too hot."""
    return [(m.id, m.name) for m in home.appliances if m.kind in ("tub", "water_heater", "other")]


def too_hot_rule(home: Home, machine_id: str) -> Rule:
    """Return the rule that switches a tub's heat off over a temperature, unless somebody said that it is meant."""
    machine = home.appliance(machine_id)
    hot = Compared(
        of=Signal(quantity="water_temperature", subject_id=machine_id), how="over", value=HOT_C, hysteresis=1.0
    )
    return rule_of(
        f"{machine.name} too hot",
        "safety",
        hot,
        [
            Switch(target_ids=(machine_id,), is_on=False),
            tell(home, f"{machine.name} is at {{value}}: too hot unless it is meant", repeat_s=1800, most=6),
        ],
        reading="is",
        for_s=HOT_FOR_S,
        only_while=((Fact(word=MEANT, is_true=False, reset_min=240),),),
        put_back=PutBack(
            when=((Compared(of=hot.of, how="under", value=HOT_C - 2.0),),), for_s=600, after_s=12 * S_PER_H
        ),
        intent="Nobody should step into water that scalds; who wants it hot says so for the day.",
        limits=RuleLimits(when_stale="tell", min_off_s=600),
    )


def dosing_places(home: Home) -> list[tuple[str, str]]:
    """Return what could switch a dosing pump."""
    return [
        (d.id, d.name)
        for d in home.devices
        if d.kind in ("relay", "plug", "pump_switch") and d.is_in_service and d.drives_id is None
    ]


def dosing_rule(home: Home, device_id: str) -> Rule:
    """Return the rule that lets a dosing pump run only while water is known to flow."""
    device = home.device(device_id)
    flow = _flow(home, device_id)
    flows: tuple[Condition, ...] = (Compared(of=flow, how="over", value=FLOWS_L_MIN, hysteresis=2.0),)
    return rule_of(
        f"{device.name} only with flow",
        "safety",
        flows[0],
        [Switch(target_ids=(device_id,), is_on=True)],
        reading="is",
        for_s=FLOWS_FOR_S,
        as_long_as=(flows,),
        put_back=PutBack(when=((Compared(of=flow, how="under", value=FLOWS_L_MIN - 2.0),),)),
        intent="Chemicals go only into flowing water; where the flow is not known, none.",
        stale_s=STALE_S,
        limits=RuleLimits(when_stale="put_back"),
    )
