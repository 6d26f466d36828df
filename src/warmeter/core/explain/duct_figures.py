"""Figures of ducts with their working: a vent's air, the fan's pressure, what a notch does in a room."""

from warmeter.core.ducts.duct_air import STILL_RATIO, duct_air, share_shut, vent_flows_m3_h
from warmeter.core.errors import HomeError
from warmeter.core.figure import Figure, Input
from warmeter.core.home.document import Home


def duct_figure(home: Home, key: str) -> Figure:
    """Return the figure of a key: ``air.<vent>``, ``static.<system>`` or ``shut.<system>``.

    Raises
    ------
    HomeError
        If there is no such figure.
    """
    what, _, part = key.partition(".")
    if what == "air":
        return _air(home, part)
    if what == "static":
        return _static(home, part)
    if what == "shut":
        return _shut(home, part)
    raise HomeError("there is no such figure of ducts")


def _air(home: Home, vent_id: str) -> Figure:
    pair = next(((s, v) for s in home.ducts for v in s.vents if v.id == vent_id), None)
    if pair is None:
        raise HomeError("this vent is not there any more")
    system, vent = pair
    flows = vent_flows_m3_h(system)
    total = sum(flows.values())
    measured = vent.flow_m3_h is not None
    return Figure(
        key=f"air.{vent_id}",
        title=f"Air of {vent.name}",
        unit="m³/h",
        value=flows[vent_id],
        decimals=0,
        formula="q as measured" if measured else "q = what is left · A / √k over the sum of it of all unmeasured vents",
        substituted=f"{flows[vent_id]:.0f} of {total:.0f} m³/h = {100 * flows[vent_id] / total:.0f} %",
        method="Q7 shares of air",
        inputs=(
            Input(symbol="A", name="free area", value=vent.area_cm2, unit="cm²", decimals=0, origin="typed"),
            Input(
                symbol="k",
                name=f"factor of notch {vent.notch}",
                value=system.notch_factors[min(vent.notch, len(system.notch_factors) - 1)],
                unit="",
                decimals=2,
                origin="assumed",
            ),
        ),
        note="Measured at the vent it is the surest; by area it can be a third off, for ducts differ in length and bends.",
    )


def _static(home: Home, system_id: str) -> Figure:
    system = home.duct_system(system_id)
    found = duct_air(system)
    return Figure(
        key=f"static.{system_id}",
        title=f"Pressure at the fan of {system.name}",
        unit="Pa",
        value=found.static_fan_pa,
        decimals=0,
        formula="Q = 2 p₀ / √(4 (c + r + 1/G²) p₀), p = p₀ − c Q²",
        substituted=f"{found.flow_m3_h:.0f} m³/h at {found.static_fan_pa:.0f} Pa, {found.static_branch_pa:.0f} Pa of it before the vents",
        method="Q7 shares of air",
        inputs=(
            Input(symbol="p", name="pressure measured", value=system.static_pa, unit="Pa", decimals=0, origin="typed"),
            Input(
                symbol="p₀",
                name="with all vents shut",
                value=STILL_RATIO * system.static_pa,
                unit="Pa",
                decimals=0,
                origin="assumed",
            ),
            Input(
                symbol="r",
                name="share lost in trunk, filter and coil",
                value=system.trunk_share,
                unit="",
                decimals=2,
                origin="assumed",
            ),
        ),
        note="A licensed technician measures the pressure. A wet coil and an old filter raise it.",
    )


def _shut(home: Home, system_id: str) -> Figure:
    system = home.duct_system(system_id)
    shut = share_shut(system)
    return Figure(
        key=f"shut.{system_id}",
        title=f"Vent area of {system.name} that is shut",
        unit="%",
        value=100 * shut,
        decimals=0,
        formula="Σ A · notch / notches of a whole vent, over Σ A",
        substituted=f"{100 * shut:.1f} %, at most {100 * system.most_share_shut:.0f} %",
        method="Q8 trimming vents",
        inputs=(),
        note="Too little air trips the burner's limit and ices the coil.",
    )
