"""The litres until water is shut with their working: what was typed, and what is taken as usual."""

from warmeter.core.figure import Figure, Input, Origin
from warmeter.core.units import S_PER_H, S_PER_MIN
from warmeter.core.water.litres_until_shut import AlarmFailures, AlarmTimes, LitresUntilShut, WaterFlow


def litres_figure(
    flow: WaterFlow, times: AlarmTimes, failures: AlarmFailures, found: LitresUntilShut, *, has_valve: bool
) -> Figure:
    """Return the expected litres of a constant flow [L], each case with its chance; ``has_valve`` if a motor shuts it."""
    acted_min = times.acted_s / S_PER_MIN
    acted = (
        _input("t₄", "until the valve begins to close", times.acted_s, "s", "assumed")
        if has_valve
        else _input("t₄", "until somebody is there", acted_min, "min", "typed")
    )
    shut = "the valve closes in" if has_valve else "closed by hand in"
    inputs = [
        _input("q", "flow", flow.flow_l_min, "L/min", "typed", 1),
        _input("t₁", "until water reaches the sensor", times.wet_s, "s", "assumed"),
        _input("t₂", "until it senses it", times.sensed_s, "s", "assumed"),
        _input("t₃", "until it is told", times.told_s, "s", "assumed"),
        acted,
        _input("t₅", shut, times.shut_s, "s", "assumed"),
        _input("t₆", "until it is seen by chance", failures.detect_s / S_PER_H, "h", "typed", 1),
        _input("d", "chance that the sensor is dead", 100 * failures.p_dead, "%", "assumed"),
    ]
    if has_valve:
        inputs += [
            _input("k", "chance that the valve is stuck", 100 * failures.p_stuck, "%", "assumed"),
            _input("t₇", "until somebody shuts it by hand", failures.after_min, "min", "typed"),
        ]
    likely = [case for case in found.cases if case.p > 0]
    return Figure(
        key="litres",
        title="Litres expected until the water is shut",
        unit="L",
        value=found.expected_l,
        decimals=0,
        formula="V = Σ p · q · (t + t₅ / 2), p from the chances of failure; t = t₁ + t₂ + t₃ + t₄, with a dead sensor t₆ + t₃ + t₄"
        + (", with a stuck valve t₇ more" if has_valve else ""),
        substituted=" + ".join(f"{case.p:.4g} · {case.litres:.1f} L" for case in likely)
        + f" = {found.expected_l:.0f} L",
        method="Q4 litres until water is shut",
        inputs=tuple(inputs),
        note=(
            "What is marked assumed is usual of such sensors and valves, not measured of yours: wet the sensor and count "
            "the seconds. No range is given, for the chances of failure are taken and not known."
        ),
    )


def _input(symbol: str, name: str, value: float, unit: str, origin: Origin, decimals: int = 0) -> Input:
    return Input(symbol=symbol, name=name, value=value, unit=unit, decimals=decimals, origin=origin)
