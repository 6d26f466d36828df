"""Rules to start from for evenings: lamps dimmed by the hour and in their order, a limit for a child's screen."""

from collections.abc import Iterator

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.ran_today import RanToday
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Dim, PutBack, Rule, RuleLimits, Step, Switch
from warmeter.core.rule.checks.people_checks import LEAST_ON_A_WAY
from warmeter.core.starters.starter import rule_of, tell
from warmeter.core.units import S_PER_H, S_PER_MIN

DIM_AT_MIN, DIM_ENDS_MIN, CHILD_RESET_MIN = 1260, 360, 240
# Twice darker, lamp after lamp, each evenly.
DIMMED, DIM_OVER_S, DIM_APART_S, DIM_AGAIN_S = (0.6, 0.3), 600, 300, 4500
CHILD_LIMIT_S, CHILD_NOTICE_S = 2 * S_PER_H, 10 * S_PER_MIN
SCREENS = ("computer", "other")


def _lamps(home: Home, room_id: str) -> list[Device]:
    return [d for d in home.devices if d.kind == "lamp_switch" and d.room_id == room_id and d.is_in_service]


def lamp_places(home: Home) -> list[tuple[str, str]]:
    """Return the rooms with commanded lamps."""
    return [(room.id, room.name) for room in home.rooms if _lamps(home, room.id)]


def dimmed_rule(home: Home, room_id: str) -> Rule:
    """Return the rule that dims a room's lamps twice in the evening, one after the other as they stand in the survey."""
    room = home.room(room_id)
    least = LEAST_ON_A_WAY if room.use == "hall" else 0.0
    return rule_of(
        f"{room.name} dimmed",
        "rule",
        AtTime(at_min=DIM_AT_MIN),
        list(_dims(_lamps(home, room_id), least)),
        only_while=((Dark(),),),
        put_back=PutBack(at_min=DIM_ENDS_MIN),
        intent="Evening light grows less lamp by lamp, so that nobody sits in the dark at once; by hand it is lit again.",
        limits=RuleLimits(most_a_day=1),
    )


def _dims(lamps: list[Device], least: float) -> Iterator[Step]:
    for turn, share in enumerate(DIMMED):
        for place, lamp in enumerate(lamps):
            wait = DIM_APART_S if place else DIM_AGAIN_S if turn else 0
            yield Dim(target_ids=(lamp.id,), share=max(share, least), over_s=DIM_OVER_S, wait_s=wait)


def screen_places(home: Home) -> list[tuple[str, str]]:
    """Return machines that may be a child's screen."""
    return [(m.id, m.name) for m in home.appliances if m.kind in SCREENS]


def child_limit_rule(home: Home, machine_id: str, *, cuts: bool) -> Rule:
    """Return the rule that tells, or tells and then cuts, when a screen has run two hours since four in the morning.

    Raises
    ------
    HomeError
        If nothing tells yet whether it runs.
    """
    machine = home.appliance(machine_id)
    if all(setting.tells not in ("ran_today", "finished") for setting in machine.settings):
        raise HomeError(
            f"nothing tells yet when {machine.name} runs; put a setting for “ran today” to use on the page of its signature"
        )
    hours = f"{CHILD_LIMIT_S / S_PER_H:g} hours"
    words = f"{machine.name} has run {hours} today" + (f"; off in {CHILD_NOTICE_S // S_PER_MIN} min" if cuts else "")
    off = [Switch(target_ids=(machine_id,), is_on=False, wait_s=CHILD_NOTICE_S)] if cuts else []
    return rule_of(
        f"{machine.name}, {hours} a day",
        "rule",
        RanToday(appliance_id=machine_id, counts="ran", least_s=CHILD_LIMIT_S, reset_min=CHILD_RESET_MIN),
        [tell(home, words), *off],
        put_back=PutBack(at_min=CHILD_RESET_MIN),
        intent="Told before it is cut; from four in the morning on it may run again.",
        limits=RuleLimits(most_a_day=1),
    )
