"""Checks of water: points that nothing covers, valves that cut what must not be cut, alarm paths that failed or grew slow."""

from collections.abc import Iterator

from warmeter.core.finding import Finding
from warmeter.core.home.document import Home
from warmeter.core.water.alarm_path import sensors_of, shut_trend, valves_told
from warmeter.core.water.usual_points import USUAL_POINT

RULES = {
    "nothing senses it": "Each point where water can come out has a leak sensor that its water comes to.",
    "sensor tells no valve": "Where a valve can shut a point, the alarm path of its leak sensor tells that valve.",
    "shut-off cuts what must run": "The valve that shuts by itself cuts no sprinkler, and no filling of the heating in frost.",
    "last self-test failed": "An alarm path of water passed its last self-test.",
    "valve grows slow": "A valve shuts within its limit.",
}


def water_findings(home: Home) -> Iterator[Finding]:
    """Yield what is doubtful about the water of a home."""
    for point in home.water_points:
        sensors = sensors_of(home, point)
        if not sensors:
            yield Finding(
                kind="nothing senses it",
                severity="warning",
                place=point.id,
                sentence=f"No leak sensor is reached by the water of {point.name}.",
                fix="Put one beside it, or say which sensor its water comes to.",
                about=(point.id,),
            )
        elif (
            point.valve_ids and USUAL_POINT[point.kind].can_be_shut and not valves_told(home, point, sensors[0].device)
        ):
            yield Finding(
                kind="sensor tells no valve",
                severity="warning",
                place=point.id,
                sentence=f"{sensors[0].device.name} hears {point.name} first, and its alarm path tells none of its valves.",
                fix="Put sensor and valve in one alarm path.",
                about=(point.id, sensors[0].device.id),
            )
    yield from _must_run(home)
    yield from _tests(home)


def _must_run(home: Home) -> Iterator[Finding]:
    told = {key for chain in home.safety_chains if chain.kind == "leak" for key in chain.device_ids}
    for point in home.water_points:
        cut = [home.device(key) for key in point.valve_ids if key in told]
        if cut and point.kind in ("sprinkler", "boiler_filling"):
            frost = " in frost" if point.kind == "boiler_filling" else ""
            yield Finding(
                kind="shut-off cuts what must run",
                severity="danger",
                place=point.id,
                sentence=f"{cut[-1].name} shuts by itself and cuts {point.name}.",
                fix=f"Feed it before the valve; what must run{frost} is never cut by an automatic.",
                about=(point.id, cut[-1].id),
            )


def _tests(home: Home) -> Iterator[Finding]:
    for chain in home.safety_chains:
        if chain.kind != "leak" or not chain.tests:
            continue
        last = max(chain.tests, key=lambda test: test.on)
        valves = [home.device(key) for key in chain.device_ids if home.device(key).kind == "water_valve"]
        if last.failed or last.told_s is None or (valves and last.shut_s is None):
            what = last.failed or ("nobody was told" if last.told_s is None else "the valve did not shut")
            yield Finding(
                kind="last self-test failed",
                severity="danger",
                place=chain.id,
                sentence=f"{chain.name} failed its test on {last.on}: {what}.",
                fix="Correct it and test it once more.",
                about=(chain.id,),
            )
        limit = home.water_practice.shut_limit_s
        trend = shut_trend(chain, limit)
        if last.shut_s is not None and last.shut_s > limit + 1e-9:
            yield Finding(
                kind="valve grows slow",
                severity="danger",
                place=chain.id,
                sentence=f"{chain.name} took {last.shut_s:g} s to shut; {limit:g} s is the limit.",
                fix="Work the valve by hand, descale or change it.",
                about=(chain.id,),
            )
        elif trend is not None and trend.is_clear and trend.reaches is not None:
            yield Finding(
                kind="valve grows slow",
                severity="warning",
                place=chain.id,
                sentence=f"{chain.name} shuts {trend.growth_30_days_s:.1f} s later every 30 days since {trend.since}; "
                f"{limit:g} s about {trend.reaches:%B %Y}.",
                fix="Work the valve by hand each month; descale or change it.",
                about=(chain.id,),
            )
