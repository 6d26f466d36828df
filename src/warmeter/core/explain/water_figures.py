"""Figures of water with their working: litres of a case of a point's burst, and what another leak sensor saves."""

from warmeter.core.errors import HomeError
from warmeter.core.figure import Figure, Input, Origin
from warmeter.core.home.document import Home
from warmeter.core.water.point_failures import FAILURES, FLOW_SPREAD, FailureLitres, point_failures
from warmeter.core.water.sensor_places import BESIDE_WET_S, sensor_offer
from warmeter.core.water.usual_points import flow_of, leaks_of

CASE_WORDS = {
    "valve_near": "As it should be",
    "valve_main": "Nearest valve stuck",
    "alarm_home": "Alarm only, somebody at home",
    "alarm_away": "Alarm only, nobody at home",
    "battery_dead": "First sensor dead (its battery, or its mains)",
    "no_internet": "No internet",
}


def water_figure(home: Home, key: str) -> Figure:
    """Return the figure of a key: ``case.<case>.<point>`` or ``place.<point>``.

    Raises
    ------
    HomeError
        If there is no such figure.
    """
    what, _, rest = key.partition(".")
    case, _, point_id = rest.partition(".")
    if what == "case" and case in FAILURES:
        found = point_failures(home, home.water_point(point_id))
        return _case(home, point_id, found[FAILURES.index(case)])
    if what == "place":
        return _place(home, rest)
    raise HomeError("there is no such figure of water")


def _case(home: Home, point_id: str, found: FailureLitres) -> Figure:
    point = home.water_point(point_id)
    flow = flow_of(point)
    told = "" if found.told_s is None else f" It is told after {found.told_s:.0f} s."
    assumed = f" Taken as usual: {', '.join(found.assumed)}." if found.assumed else ""
    flow_origin: Origin = "typed" if point.flow_l_min else "assumed"
    timed: Origin = "assumed" if found.assumed else "measured"
    return Figure(
        key=f"case.{found.case}.{point_id}",
        title=f"{point.name}: {CASE_WORDS[found.case].lower()}",
        unit="L",
        value=found.litres,
        low=found.low_l,
        high=found.high_l,
        decimals=0,
        formula="V = q / 60 · (t + s / 2): full flow until it begins to be shut, then evenly less",
        substituted=f"{flow:g} / 60 · ({found.begin_s:.0f} + {found.close_s:.0f} / 2) = {found.litres:.1f} L",
        method="Q4 litres until water is shut",
        inputs=(
            Input(symbol="q", name="flow of a burst", value=flow, unit="L/min", decimals=1, origin=flow_origin),
            Input(
                symbol="t",
                name="from the burst until it begins to shut",
                value=found.begin_s,
                unit="s",
                decimals=0,
                origin=timed,
            ),
            Input(symbol="s", name="closing", value=found.close_s, unit="s", decimals=0, origin=timed),
        ),
        note=f"Sensed by {found.sensed_by or 'nobody, so seen by chance'}, shut by {found.shut_by or 'a person'}.{told}{assumed} "
        f"The range is that of the flow, {100 * FLOW_SPREAD:.0f} % either way; the times are taken as they stand.",
    )


def _place(home: Home, point_id: str) -> Figure:
    offer = sensor_offer(home)
    place = next((each for each in offer.places if each.point.id == point_id), None)
    if place is None:
        raise HomeError("another leak sensor there saves nothing")
    covered = [home.water_point(key).name for key in place.covers]
    return Figure(
        key=f"place.{point_id}",
        title=f"A leak sensor beside {place.point.name}",
        unit="L a year",
        value=place.saved_next_l,
        decimals=1,
        formula="Σ leaks a year · (litres without − litres with), each point that it covers once",
        substituted=f"{leaks_of(place.point):g} · ({place.now_l:.0f} − {place.then_l:.0f}) L for {place.point.name} itself"
        + (
            f", and {', '.join(covered[1:] if covered[0] == place.point.name else covered)}" if len(covered) > 1 else ""
        ),
        method="Q5 next leak sensor",
        inputs=(
            Input(
                symbol="λ",
                name="leaks a year reckoned with",
                value=leaks_of(place.point),
                unit="",
                decimals=3,
                origin="assumed" if place.point.leaks_year is None else "typed",
            ),
            Input(symbol="", name="wet after", value=BESIDE_WET_S, unit="s", decimals=0, origin="assumed"),
        ),
        note="Rates of leaks are guesses: try three times as many before buying. Litres are not damage; a floor above others counts more.",
    )
