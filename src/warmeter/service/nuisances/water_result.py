"""Water where it should not be: litres until somebody acts, and the rule replayed on the sensor's log."""

from dataclasses import dataclass

from warmeter.core.explain.litres_figure import litres_figure
from warmeter.core.figure import Figure
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.nuisances.result import FoundNumber, More, NuisanceResult
from warmeter.core.starters.catalogue import STARTERS
from warmeter.core.units import S_PER_H, S_PER_MIN
from warmeter.core.water.litres_until_shut import (
    AlarmFailures,
    AlarmTimes,
    LitresUntilShut,
    WaterFlow,
    litres_until_shut,
)
from warmeter.service.app import App
from warmeter.service.rules.replays import replay

# Usual of sensor, message and motor valve [s]; what a self-test measures is typed over them in a later step.
WET_S, SENSED_S, TOLD_S, ACTED_S, SHUT_S = 20.0, 5.0, 5.0, 2.0, 15.0
P_DEAD, P_STUCK, HAND_SHUT_S = 0.05, 0.05, 10.0
MORE = (
    More(
        title="A second sensor",
        text="One battery is one witness: a second one tells if the first is dead.",
        step="devices",
        minutes=10,
    ),
    More(
        title="Test the path",
        text="Wet the sensor and count the seconds until it is told and shut.",
        step="devices",
        minutes=5,
    ),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterSaid:
    """What was said of the water: its flow [L/min], minutes until somebody is there, hours until it is seen by chance."""

    flow_l_min: float = 10.0
    there_min: float = 30.0
    notice_h: float = 12.0


def water_result(app: App, home: Home, rule_id: str, said: WaterSaid) -> NuisanceResult:
    """Return the litres in each case, and how the rule would have fired on the log of its sensor."""
    rule = next((r for r in home.rules if r.id == rule_id), None)
    sensor = None if rule is None else _sensor(home, rule_id)
    if rule is None or sensor is None:
        return NuisanceResult(sentence="The rule is not there any more.", is_answered=False)
    valve = next((d for d in home.devices_in(sensor.room_id or "") if d.kind == "water_valve"), None)
    found, figure = _expected(said, has_valve=valve is not None)
    by_case = {case.case: case.litres for case in found.cases}
    unseen = said.flow_l_min * said.notice_h * S_PER_H / S_PER_MIN
    way = f"{valve.name} shuts" if valve is not None else f"somebody is there after {said.there_min:g} min"
    facts = [
        FoundNumber(label="All works", value=by_case["works"], unit="L", decimals=1),
        FoundNumber(label="The sensor is dead", value=by_case["sensor_dead"], unit="L"),
        FoundNumber(label="Nothing told", value=unseen, unit="L"),
        FoundNumber(label="Expected", value=found.expected_l, unit="L"),
    ]
    if valve is not None:
        facts.insert(2, FoundNumber(label="The valve is stuck", value=by_case["valve_stuck"], unit="L"))
    words = (
        f"{by_case['works']:.0f} L until {way}, {by_case['sensor_dead']:.0f} L if the sensor is dead; without any of it "
        f"{unseen:.0f} L in {said.notice_h:g} h. {_replayed(app, home, rule_id)}"
    )
    caution = next(starter.caution for starter in STARTERS if starter.key == "leak")
    return NuisanceResult(
        sentence=words, is_answered=True, facts=tuple(facts), more=MORE, caution=caution, figure=figure
    )


def _sensor(home: Home, rule_id: str) -> Device | None:
    subjects = {s.subject_id for c in home.rule(rule_id).conditions for s in c.signals}
    return next((d for d in home.devices if d.id in subjects and d.kind == "leak_sensor"), None)


def _expected(said: WaterSaid, *, has_valve: bool) -> tuple[LitresUntilShut, Figure]:
    """Return the litres in each case, and the working of what is expected."""
    there_s = said.there_min * S_PER_MIN
    times = AlarmTimes(
        wet_s=WET_S,
        sensed_s=SENSED_S,
        told_s=TOLD_S,
        acted_s=ACTED_S if has_valve else there_s,
        shut_s=SHUT_S if has_valve else HAND_SHUT_S,
    )
    failures = AlarmFailures(
        p_dead=P_DEAD,
        p_stuck=P_STUCK if has_valve else 0.0,
        detect_s=said.notice_h * S_PER_H,
        after_min=said.there_min,
        stuck_shut_s=HAND_SHUT_S,
    )
    flow = WaterFlow(flow_l_min=said.flow_l_min)
    found = litres_until_shut(flow, times, failures)
    return found, litres_figure(flow, times, failures, found, has_valve=has_valve)


def _replayed(app: App, home: Home, rule_id: str) -> str:
    """Return how the rule would have fired on the log, in words; that nothing was heard where nothing was."""
    bounds = app.readings.bounds(home.id)
    if bounds is None:
        return "Its sensor has no log yet: test it by a wet cloth."
    found = replay(app, home, bounds[0], bounds[1] + 1).rules.get(rule_id)
    if found is None or found.unheard:
        return "The log holds no data of its sensor."
    count = len(found.rule_run.firings)
    return f"On the log brought it would have told {count} time{'s' * (count != 1)}."
