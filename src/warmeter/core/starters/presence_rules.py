"""Rules to start from for people: everyone out, left open or on with nobody in, night from bed, welcome by darkness."""

from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.conditions.compared import Compared
from warmeter.core.home.conditions.condition import Condition, Signal
from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.document import Home
from warmeter.core.home.rules import AnswerChoice, Ask, PutBack, Rule, RuleLimits, SetLevel, ShutOff, TimedRun
from warmeter.core.starters.climate import damp_by_threshold
from warmeter.core.starters.openings import opening_contacts
from warmeter.core.starters.starter import chain_id, idle_id, rule_of, tell, zone_of
from warmeter.core.units import S_PER_H

HOUSEHOLD = Signal(quantity="is_home")
NOBODY = InState(of=HOUSEHOLD, is_on=False)
SOMEBODY = InState(of=HOUSEHOLD)
NO_GUESTS = Fact(word="guests are here", is_true=False)
OUT_S, STILL_OUT_S, DRIER_G_M3 = 900, 300, 2.0


def household_places(home: Home) -> list[tuple[str, str]]:
    """Return the whole home, if anybody has a witness and there is a zone."""
    return [(home.id, home.name)] if _is_told(home) and home.zones else []


def _is_told(home: Home) -> bool:
    return any(person.witnesses for person in home.people)


def everyone_out_rule(home: Home, _: str) -> Rule:
    """Return the rule that sets every zone to what saves most while nobody is in, and back with the first on the way."""
    return rule_of(
        "Everyone out",
        "rule",
        NOBODY,
        [SetLevel(zone_ids=tuple(zone.id for zone in home.zones), level_id=idle_id(home))],
        reading="is",
        for_s=OUT_S,
        only_while=((Hours(from_min=420, until_min=1380),), (NO_GUESTS,)),
        put_back=PutBack(when=((SOMEBODY,),)),
        intent="Nobody is warmed who is not there; whoever comes home finds it as the timetable wants it.",
        limits=RuleLimits(when_stale="put_back"),
    )


def watched_contacts(home: Home) -> list[tuple[str, str]]:
    """Return contacts of windows and doors, if anybody has a witness."""
    return opening_contacts(home) if _is_told(home) else []


def left_open_rule(home: Home, contact_id: str) -> Rule:
    """Return the rule that tells that a window or door stands open with nobody in."""
    contact = home.device(contact_id)
    is_open = InState(of=Signal(quantity="is_open", subject_id=contact_id))
    return rule_of(
        f"{contact.name} open, nobody in",
        "rule",
        NOBODY,
        [tell(home, f"{contact.name} is open and nobody is in", repeat_s=1800, most=3)],
        reading="is",
        for_s=STILL_OUT_S,
        only_while=((is_open,),),
        put_back=PutBack(when=((replace(is_open, is_on=False), SOMEBODY),), for_s=120, after_s=6 * S_PER_H),
        intent="Told while whoever left is still near.",
    )


def left_on_places(home: Home) -> list[tuple[str, str]]:
    """Return appliances on metering plugs that need a hand, if anybody has a witness."""
    needs_hand = {w.machine_id for person in home.people for w in person.witnesses if w.machine_id}
    return [(m.id, m.name) for m in home.appliances if m.id in needs_hand] if _is_told(home) else []


def left_on_rule(home: Home, machine_id: str) -> Rule:
    """Return the rule that tells that an appliance that needs a hand draws power with nobody in."""
    machine = home.appliance(machine_id)
    witness = next(w for person in home.people for w in person.witnesses if w.machine_id == machine_id)
    draws = Compared(
        of=Signal(quantity="electric_w", subject_id=machine_id),
        how="over",
        value=witness.on_w,
        hysteresis=0.2 * witness.on_w,
    )
    return rule_of(
        f"{machine.name} left on",
        "rule",
        NOBODY,
        [tell(home, f"{machine.name} is on and nobody is in")],
        reading="is",
        for_s=STILL_OUT_S,
        only_while=((draws,),),
        put_back=PutBack(when=((SOMEBODY,),), after_s=6 * S_PER_H),
        intent="Told, not cut: what is on may be wanted.",
    )


def left_on_question(home: Home, machine_id: str) -> Rule:
    """Return the rule that asks whether an appliance that needs a hand may be cut with nobody in.

    Whoever is seen again withdraws the question; silence cuts it, which is the safe end.
    """
    machine = home.appliance(machine_id)
    rule = left_on_rule(home, machine_id)
    question = Ask(
        group_id=chain_id(home),
        text=f"{machine.name} is on and nobody is in. Switch it off?",
        answers=(AnswerChoice(label="switch it off", word=_cut_word(machine.name)), AnswerChoice(label="leave it on")),
        none_word=_cut_word(machine.name),
        within_s=600,
        late_s=S_PER_H,
        remember_s=2 * S_PER_H,
        in_quiet="send",
    )
    return replace(
        rule,
        name=f"{machine.name} left on?"[:80],
        then=(question,),
        intent="Asked before it is cut, and cut if nobody answers.",
    )


def cut_by_answer(home: Home, machine_id: str) -> Rule:
    """Return the rule that cuts an appliance when the answer, or silence, says so; a person switches it on again."""
    machine = home.appliance(machine_id)
    return rule_of(
        f"{machine.name} cut",
        "rule",
        Fact(word=_cut_word(machine.name)),
        [ShutOff(target_ids=(machine_id,))],
        intent="Follows the answer of the rule that asks.",
    )


def _cut_word(name: str) -> str:
    return f"{name[:60]} may be cut"


def bed_places(home: Home) -> list[tuple[str, str]]:
    """Return mattress sensors in rooms of a zone."""
    beds = [d for d in home.devices if d.kind == "mattress" and d.is_in_service and d.room_id]
    return [(d.id, d.name) for d in beds if home.zone_of_room(d.room_id or "") is not None]


def bed_rule(home: Home, mattress_id: str) -> Rule:
    """Return the rule that sets a bedroom to the mildest saving level from going to bed until getting up.

    Raises
    ------
    HomeError
        If the home has no level that is meant to save.
    """
    mattress = home.device(mattress_id)
    zone = zone_of(home, mattress)
    saving = [level for level in home.levels if level.is_saving]
    if not saving:
        raise HomeError("this home has no level that is meant to save; add one for the night under Timetable")
    mildest = max(saving, key=lambda level: home.heating_c(zone, level.id))
    in_bed = InState(of=Signal(quantity="is_in_bed", subject_id=mattress_id))
    return rule_of(
        f"{zone.name} night from bed",
        "rule",
        in_bed,
        [SetLevel(zone_ids=(zone.id,), level_id=mildest.id)],
        reading="is",
        for_s=1200,
        only_while=((Hours(from_min=1200, until_min=600),),),
        put_back=PutBack(when=((replace(in_bed, is_on=False),),), for_s=900, after_s=12 * S_PER_H),
        intent="The night begins with whoever goes to bed, not with the clock.",
        limits=RuleLimits(when_stale="put_back"),
    )


def welcome_places(home: Home) -> list[tuple[str, str]]:
    """Return commanded lamps, if anybody has a witness."""
    lamps = [d for d in home.devices if d.kind == "lamp_switch" and d.is_in_service]
    return [(d.id, d.name) for d in lamps] if _is_told(home) else []


def welcome_rule(home: Home, lamp_id: str) -> Rule:
    """Return the rule that lights a lamp for a while when the first comes home in the dark."""
    lamp = home.device(lamp_id)
    return rule_of(
        f"{lamp.name} welcomes",
        "rule",
        SOMEBODY,
        [TimedRun(target_ids=(lamp_id,), for_s=900)],
        only_while=((Dark(),),),
        intent="Light for whoever comes home in the dark; its end is sent along with the start.",
    )


def first_in_rule(home: Home, zone_id: str) -> Rule:
    """Return the rule that brings a zone to the level in use for two hours when the first comes home by day.

    Raises
    ------
    HomeError
        If the home has no level in use.
    """
    zone, in_use = home.zone_of_id(zone_id), home.in_use
    if in_use is None:
        raise HomeError("this home has no level that is not meant to save; add one under Timetable")
    return rule_of(
        f"{zone.name} for the first in",
        "rule",
        SOMEBODY,
        [SetLevel(zone_ids=(zone.id,), level_id=in_use.id)],
        only_while=((Hours(from_min=420, until_min=1320),),),
        put_back=PutBack(when=((NOBODY,),), after_s=2 * S_PER_H),
        intent="Whoever comes home early finds it warm; later the timetable has it again.",
        limits=RuleLimits(when_stale="put_back"),
    )


def occupied_zones(home: Home) -> list[tuple[str, str]]:
    """Return the zones, if anybody has a witness."""
    return [(zone.id, zone.name) for zone in home.zones] if _is_told(home) else []


def damp_by_room(home: Home, room_id: str) -> Rule:
    """Return the rule that dries a room while its air is damper than that of the largest other heated room.

    Raises
    ------
    HomeError
        If there is no other heated room.
    """
    others = [r for r in home.rooms if r.condition == "heated" and r.id != room_id and r.use not in ("bath", "kitchen")]
    if not others:
        raise HomeError("there is no other heated room to compare its air with")
    other = max(
        others, key=lambda r: r.described.floor_area_m2 if r.described else sum(b.width_m * b.depth_m for b in r.rects)
    )
    rule = damp_by_threshold(home, room_id)
    damp: Condition = Compared(
        of=Signal(quantity="absolute_humidity", subject_id=room_id),
        minus=Signal(quantity="absolute_humidity", subject_id=other.id),
        how="over",
        value=DRIER_G_M3,
        hysteresis=0.5,
    )
    back = Compared(
        of=Signal(quantity="absolute_humidity", subject_id=room_id),
        minus=Signal(quantity="absolute_humidity", subject_id=other.id),
        how="under",
        value=DRIER_G_M3 - 0.5,
        hysteresis=0.0,
    )
    assert rule.put_back is not None  # a rule that dries puts back
    return replace(
        rule,
        watch=((damp,),),
        put_back=replace(rule.put_back, when=((back,),)),
        intent=f"Damper than {other.name}: somebody has washed, cooked or bathed.",
    )
