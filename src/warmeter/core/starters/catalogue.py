"""The rules to start from, safety first; where practitioners differ, the schools side by side."""

from warmeter.core.edits.rule_edits import first_chain, with_new_rule
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Ask, Rule, Tell
from warmeter.core.rule.whole_numbers import in_whole_numbers
from warmeter.core.sentence import celsius, sentence
from warmeter.core.starters.climate import (
    blind_places,
    blinds_by_sun,
    blinds_rule,
    damp_by_difference,
    damp_by_threshold,
    damp_places,
    split_places,
    split_rule,
)
from warmeter.core.starters.danger import (
    FROST_HEAT_C,
    FROST_TELL_C,
    frost_places,
    frost_rule,
    leak_cutting_cooling,
    leak_rule,
    leak_shutting_valve,
)
from warmeter.core.starters.evening_rules import child_limit_rule, dimmed_rule, lamp_places, screen_places
from warmeter.core.starters.household import (
    bedtime_rule,
    cuttable_places,
    fill_places,
    fill_rule,
    finished_rule,
    idle_rule,
    machine_places,
    standby_rule,
    zone_places,
)
from warmeter.core.starters.openings import drop_rule, opening_contacts, opening_rule, sensor_places
from warmeter.core.starters.pool import (
    HOT_C,
    dosing_places,
    dosing_rule,
    dry_pump_rule,
    pump_places,
    too_hot_rule,
    warm_water_places,
)
from warmeter.core.starters.presence_rules import (
    bed_places,
    bed_rule,
    cut_by_answer,
    damp_by_room,
    everyone_out_rule,
    first_in_rule,
    household_places,
    left_on_places,
    left_on_question,
    left_on_rule,
    left_open_rule,
    occupied_zones,
    watched_contacts,
    welcome_places,
    welcome_rule,
)
from warmeter.core.starters.starter import (
    ALARM_CAUTION,
    COMPRESSOR_CAUTION,
    FROST_CAUTION,
    HEATER_CAUTION,
    LEAK_CAUTION,
    MOVING_CAUTION,
    POOL_CAUTION,
    PRESENCE_CAUTION,
    Starter,
    Strategy,
    of_kinds,
    one_strategy,
)


def started(home: Home, starter_key: str, strategy_key: str, place_id: str) -> tuple[Home, Rule]:
    """Return a home with a chain to tell and a rule that follows if the starter needs them, and the rule for a place.

    Raises
    ------
    HomeError
        If there is no such starter, or the home has nothing for it, with what to enter.
    """
    starter = next((s for s in STARTERS if s.key == starter_key), None)
    strategy = next((s for s in starter.strategies if s.key == strategy_key), None) if starter else None
    if starter is None or strategy is None:
        raise HomeError("there is no such rule to start from")
    places = dict(starter.places(home))
    if not places:
        raise HomeError(f"{starter.name} needs {starter.needs}; enter it in the survey first")
    if place_id not in places:
        raise HomeError("choose where it shall work")
    with_chain, _ = first_chain(home)
    rule = in_whole_numbers(strategy.make(with_chain, place_id), home.temperature_unit)
    tells = any(isinstance(step, Tell | Ask) for step in rule.then)
    begun = with_chain if tells else home
    if strategy.follows is not None:
        follows = in_whole_numbers(strategy.follows(begun, place_id), home.temperature_unit)
        if all(each.watch != follows.watch for each in begun.rules):
            begun, _ = with_new_rule(begun, follows)
    return begun, rule


STARTERS: tuple[Starter, ...] = (
    Starter(
        key="leak",
        name="Leak",
        what="Water at a sensor: tell again and again, and shut the right thing.",
        needs="a leak sensor",
        places=of_kinds("leak_sensor"),
        caution=f"{LEAK_CAUTION} {ALARM_CAUTION}",
        strategies=(
            Strategy(
                key="tell",
                name="Tell only",
                for_it="nothing is cut by a drop from a mop",
                against_it="water runs until somebody comes",
                make=lambda home, place: leak_rule(home, place, [], ""),
            ),
            Strategy(
                key="valve",
                name="Shut the water",
                for_it="for a tap, a washer, a pipe: it ends while nobody is there",
                against_it="a false alarm leaves the house dry",
                make=leak_shutting_valve,
            ),
            Strategy(
                key="cooling",
                name="Cut the cooling unit",
                for_it="under an indoor unit it is its own water; shutting the tap would not help",
                against_it="it drips on from its tray for some minutes",
                make=leak_cutting_cooling,
            ),
        ),
    ),
    Starter(
        key="frost",
        name="Pipe frost",
        what="The cold at a pipe: tell early, heat before it freezes.",
        needs="a pipe or pump in the survey",
        places=frost_places,
        caution=FROST_CAUTION,
        strategies=(
            Strategy(
                key="tell",
                name="Tell only",
                for_it=sentence("at {} there is time to come", celsius(FROST_TELL_C)),
                against_it="somebody has to come",
                make=lambda home, place: frost_rule(home, place, acts=False),
            ),
            Strategy(
                key="heat",
                name="Heat and tell",
                for_it=sentence("at {} the zone is heated by a safety rule", celsius(FROST_HEAT_C)),
                against_it="costs heat; fails with the power",
                make=lambda home, place: frost_rule(home, place, acts=True),
            ),
        ),
    ),
    Starter(
        key="opening",
        name="Opening",
        what="A window or door stands open: Idle, and put back when all are shut.",
        needs="a contact in a room of a zone",
        places=opening_contacts,
        strategies=one_strategy(
            opening_rule,
            "By contact",
            "sure within seconds, also in mild weather",
            "a contact for every opening, with a battery",
        ),
    ),
    Starter(
        key="drop",
        name="Opening by the fall of temperature",
        what="The room falls faster than it ever does with windows shut.",
        needs="a temperature sensor in a room of a zone",
        places=sensor_places,
        strategies=one_strategy(
            drop_rule,
            "By fall",
            "needs nothing more than the sensor",
            "late, blind in mild weather, and fooled by the sun leaving or an oven",
        ),
    ),
    Starter(
        key="damp",
        name="Damp air",
        what="Steam from a bath or a kitchen: a fan or dryer runs, with minimum times and an end.",
        needs="a relay or plug in a heated room, or a dryer, that could run",
        places=damp_places,
        caution=COMPRESSOR_CAUTION,
        strategies=(
            Strategy(
                key="threshold",
                name="By threshold",
                for_it="one sensor; the same limit all year",
                against_it="in summer the air outside may be damper: it runs for nothing",
                make=damp_by_threshold,
            ),
            Strategy(
                key="difference",
                name="By difference",
                for_it="runs only while air from outside dries",
                against_it="needs temperature and humidity outside too",
                make=damp_by_difference,
            ),
            Strategy(
                key="room",
                name="By another room",
                for_it="the same in summer and winter, without a sensor outside",
                against_it="blind where the whole home is damp",
                make=damp_by_room,
            ),
        ),
    ),
    Starter(
        key="split",
        name="Split unit with context",
        what="Cool only while somebody is in and the windows are shut.",
        needs="a split unit",
        places=split_places,
        caution=f"{COMPRESSOR_CAUTION} {PRESENCE_CAUTION}",
        strategies=one_strategy(split_rule),
    ),
    Starter(
        key="blinds",
        name="Blinds by heat or sun",
        what="Down before the room is hot; up in the evening.",
        needs="a blind motor",
        places=blind_places,
        caution=MOVING_CAUTION,
        strategies=(
            Strategy(
                key="usual",
                name="By heat alone",
                for_it="needs no feedback and no windows",
                against_it="late, and raises a blind that somebody let down further",
                make=blinds_rule,
            ),
            Strategy(
                key="sun",
                name="By the sun's bearing, position looked at first",
                for_it="in time, and leaves alone what is down already",
                against_it="does nothing while a blind's position is not known",
                make=blinds_by_sun,
            ),
        ),
    ),
    Starter(
        key="everyone-out",
        name="Everyone out",
        what="Nobody in: everything Idle; back with the first on the way.",
        needs="people with witnesses, and a zone",
        places=household_places,
        caution=PRESENCE_CAUTION,
        strategies=one_strategy(everyone_out_rule),
    ),
    Starter(
        key="left-open",
        name="Left open with nobody in",
        what="Told while whoever left is still near.",
        needs="people with witnesses, and a contact in a zone",
        places=watched_contacts,
        caution=MOVING_CAUTION,
        strategies=one_strategy(left_open_rule),
    ),
    Starter(
        key="left-on",
        name="Left on with nobody in",
        what="Told that an appliance that needs a hand is on.",
        needs="people with witnesses, an appliance among them",
        places=left_on_places,
        caution=HEATER_CAUTION,
        strategies=(
            Strategy(
                key="usual",
                name="Tell only",
                for_it="nothing is cut that is wanted",
                against_it="it stays on until somebody comes",
                make=left_on_rule,
            ),
            Strategy(
                key="ask",
                name="Ask, then cut",
                for_it="it is cut if nobody answers, and stays on if somebody says so",
                against_it="it needs somebody who reads the question, and a plug that may cut it",
                make=left_on_question,
                follows=cut_by_answer,
            ),
        ),
    ),
    Starter(
        key="bed",
        name="Night from bed",
        what="Asleep from going to bed until getting up, not by the clock.",
        needs="a mattress sensor in a zone",
        places=bed_places,
        caution=PRESENCE_CAUTION,
        strategies=one_strategy(bed_rule),
    ),
    Starter(
        key="welcome",
        name="Welcome by darkness",
        what="A lamp for a quarter of an hour when the first comes home in the dark.",
        needs="people with witnesses, and a commanded lamp",
        places=welcome_places,
        caution="Light on stairs stays with its own switch: a rule that fails leaves it dark.",
        strategies=one_strategy(welcome_rule),
    ),
    Starter(
        key="first-in",
        name="First in",
        what="Whoever comes home first by day finds the room in use, for two hours.",
        needs="people with witnesses, and a zone",
        places=occupied_zones,
        caution=PRESENCE_CAUTION,
        strategies=one_strategy(first_in_rule),
    ),
    Starter(
        key="dimmed",
        name="Lamps dimmed by the hour",
        what="From nine in the evening on, lamp after lamp, in two steps.",
        needs="a commanded lamp in a room",
        places=lamp_places,
        caution="Light on stairs and on the way to the bath stays bright enough to see a step by.",
        strategies=one_strategy(dimmed_rule),
    ),
    Starter(
        key="child-limit",
        name="So long a day",
        what="A child's screen: told after two hours, and off ten minutes later.",
        needs="a screen or another appliance on a metering plug",
        places=screen_places,
        caution="Cutting the power of a computer can lose work: tell first, and cut what its maker allows to be cut.",
        strategies=(
            Strategy(
                key="tell",
                name="Tell only",
                for_it="it stays with those who agreed on it",
                against_it="it runs on until somebody comes",
                make=lambda home, place: child_limit_rule(home, place, cuts=False),
            ),
            Strategy(
                key="cut",
                name="Tell, then cut",
                for_it="the same every day, without a quarrel",
                against_it="cut in the middle of something; the plug can be gone round",
                make=lambda home, place: child_limit_rule(home, place, cuts=True),
            ),
        ),
    ),
    Starter(
        key="idle",
        name="Idle room",
        what="Nobody in for so long: Idle, put back when somebody is in.",
        needs="a zone",
        places=zone_places,
        caution=PRESENCE_CAUTION,
        strategies=one_strategy(idle_rule),
    ),
    Starter(
        key="finished",
        name="Appliance finished",
        what="Told when it has finished, and again until somebody answers.",
        needs="an appliance on a metering plug",
        places=machine_places,
        strategies=one_strategy(finished_rule),
    ),
    Starter(
        key="bedtime",
        name="Has it run by bedtime",
        what="At half past nine: tell if the appliance has not run today.",
        needs="an appliance on a metering plug",
        places=machine_places,
        strategies=one_strategy(bedtime_rule),
    ),
    Starter(
        key="standby",
        name="Standby cut",
        what="At night, half an hour after it stopped.",
        needs="an appliance that may be cut",
        places=cuttable_places,
        caution=f"{HEATER_CAUTION} {COMPRESSOR_CAUTION}",
        strategies=(
            Strategy(
                key="cut",
                name="Cut",
                for_it="draws nothing until six",
                against_it="loses its clock, and may have to be started by hand",
                make=lambda home, place: standby_rule(home, place, leaves=False),
            ),
            Strategy(
                key="leave",
                name="Leave and tell",
                for_it="nothing is lost",
                against_it="the draw goes on",
                make=lambda home, place: standby_rule(home, place, leaves=True),
            ),
        ),
    ),
    Starter(
        key="fill",
        name="Timed fill with a hard stop",
        what="A button runs it for a quarter of an hour; the stop is sent along with the start.",
        needs="a valve, relay or pump switch",
        places=fill_places,
        caution=f"{HEATER_CAUTION} Water that runs unseen needs an overflow.",
        strategies=one_strategy(fill_rule),
    ),
    Starter(
        key="dry",
        name="Pump without flow",
        what="Shut off when it runs and nothing flows; told, also when no flow is received.",
        needs="a pump switch and a meter of its flow",
        places=pump_places,
        caution=sentence("{} Its own dry-run guard stays.", POOL_CAUTION),
        strategies=one_strategy(dry_pump_rule),
    ),
    Starter(
        key="hot",
        name="Too hot unless meant",
        what=sentence("Heat off over {}, unless somebody said that it is meant.", celsius(HOT_C)),
        needs="an appliance whose water temperature is known",
        places=warm_water_places,
        caution=sentence("{} A rule is no limiter: the tub's own stays.", POOL_CAUTION),
        strategies=one_strategy(too_hot_rule),
    ),
    Starter(
        key="dosing",
        name="Dosing only with flow",
        what="A dosing pump may run while water is known to flow; else, and when it is not known, it stands.",
        needs="a relay, plug or pump switch and a meter of the flow",
        places=dosing_places,
        caution=POOL_CAUTION,
        strategies=one_strategy(dosing_rule),
    ),
)
