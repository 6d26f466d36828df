"""Figures of circuits with their working: amperes against the limit, a mat's ohms, thermostats and relay modules."""

from warmeter.core.electric.circuit_summary import circuit_loads_w, circuit_summary, floor_relays
from warmeter.core.errors import HomeError
from warmeter.core.figure import Figure, Input
from warmeter.core.home.document import Home


def circuit_figure(home: Home, key: str) -> Figure:
    """Return the figure of a key: ``load.<circuit>``, ``thermostats.<circuit>``, ``ohm.<mat>`` or ``relays``.

    Raises
    ------
    HomeError
        If there is no such figure.
    """
    what, _, part = key.partition(".")
    if what == "load":
        return _load(home, part)
    if what == "thermostats":
        return _thermostats(home, part)
    if what == "ohm":
        return _ohm(home, part)
    if what == "relays":
        return _relays(home)
    raise HomeError("there is no such figure of a circuit")


def _load(home: Home, circuit_id: str) -> Figure:
    circuit = home.circuit(circuit_id)
    found, practice = circuit_summary(home, circuit), home.electrical_practice
    loads = circuit_loads_w(home, circuit)
    root = "√3 · " if circuit.phases == 3 else ""
    return Figure(
        key=f"load.{circuit_id}",
        title=f"What runs for hours on {circuit.name}",
        unit="A",
        value=found.load.current_a,
        decimals=1,
        formula=f"I = Σ P / ({root}U · cos φ), at most factor · rating",
        substituted=f"({' + '.join(f'{each:g}' for each in loads) or '0'}) / ({root}{circuit.volts_v:g} · {circuit.power_factor:g}) = "
        f"{found.load.current_a:.2f} A; {practice.continuous_factor:g} · {circuit.rating_a:g} = {found.load.limit_a:.2f} A, "
        f"{found.load.spare_w:.0f} W left",
        method="L1 load of a circuit",
        inputs=(
            Input(symbol="U", name="voltage", value=circuit.volts_v, unit="V", decimals=0, origin="typed"),
            Input(symbol="", name="rating", value=circuit.rating_a, unit="A", decimals=0, origin="typed"),
            Input(
                symbol="",
                name="factor of loads of three hours and more",
                value=practice.continuous_factor,
                unit="",
                decimals=2,
                origin="typed" if practice.chosen_by else "assumed",
            ),
        ),
        note="The local code decides on the factor, the cable and its grouping; this only raises the question.",
    )


def _thermostats(home: Home, circuit_id: str) -> Figure:
    circuit = home.circuit(circuit_id)
    found, practice = circuit_summary(home, circuit).thermostats, home.electrical_practice
    if found is None:
        raise HomeError("this circuit has no mats")
    control = circuit.control_a or circuit.rating_a
    return Figure(
        key=f"thermostats.{circuit_id}",
        title=f"Thermostats for the floor of {circuit.name}",
        unit="",
        value=float(found.count),
        decimals=0,
        formula="n = ⌈Σ P / (I · U · factor)⌉",
        substituted=f"{found.power_w:g} / ({control:g} · {circuit.volts_v:g} · {practice.continuous_factor:g}) = "
        f"{found.power_w / found.per_thermostat_w:.2f}, so {found.count}",
        method="L2 thermostats of a floor",
        inputs=(
            Input(
                symbol="I",
                name="amperes of one thermostat or relay",
                value=control,
                unit="A",
                decimals=0,
                origin="typed" if circuit.control_a else "assumed",
            ),
        ),
        note="One cable a thermostat, never crossed, cut or joined; a floor probe for each.",
    )


def _ohm(home: Home, mat_id: str) -> Figure:
    pair = next(((c, m) for c in home.circuits for m in circuit_summary(home, c).mats if m.mat.id == mat_id), None)
    if pair is None:
        raise HomeError("this mat is not there any more")
    circuit, found = pair
    practice, mat = home.electrical_practice, found.mat
    low, high = (
        found.expected_ohm * (1 - practice.ohm_under_pct / 100),
        found.expected_ohm * (1 + practice.ohm_over_pct / 100),
    )
    read = "" if found.newest is None else f"; read {found.newest.ohm:g} Ω, {found.off_pct:+.1f} %"
    from_plate = mat.ohm_expected is not None
    return Figure(
        key=f"ohm.{mat_id}",
        title=f"Ohms expected of {mat.name}",
        unit="Ω",
        value=found.expected_ohm,
        decimals=1,
        formula="R as on the plate" if from_plate else "R = U² / P",
        substituted=(f"{found.expected_ohm:g}" if from_plate else f"{circuit.volts_v:g}² / {mat.power_w:g}")
        + f" = {found.expected_ohm:.1f} Ω, sound from {low:.1f} to {high:.1f} Ω{read}",
        method="L2 ohms of a mat",
        inputs=(
            Input(symbol="U", name="voltage", value=circuit.volts_v, unit="V", decimals=0, origin="typed"),
            Input(symbol="P", name="power by its plate", value=mat.power_w, unit="W", decimals=0, origin="typed"),
        ),
        note="Measured cold and dead. Ohms rise a little with warmth; what lies outside is looked at before it is energised.",
    )


def _relays(home: Home) -> Figure:
    found, practice = floor_relays(home), home.electrical_practice
    if found is None:
        raise HomeError("this home has no mats")
    mats = [mat for circuit in home.circuits for mat in circuit.mats]
    over = ", ".join(mats[place].name for place in found.over_channel)
    return Figure(
        key="relays",
        title="Relay modules for all mats",
        unit="",
        value=float(found.modules),
        decimals=0,
        formula="n = ⌈loads / channels of a module⌉, a channel each",
        substituted=f"⌈{found.channels} / {practice.relay_channels}⌉ = {found.modules}",
        method="L3 relay modules",
        inputs=(
            Input(
                symbol="I",
                name="amperes of a channel",
                value=practice.relay_channel_a,
                unit="A",
                decimals=0,
                origin="typed",
            ),
        ),
        note=f"Over a channel's amperes, so behind a contactor: {over}. Never two channels in parallel."
        if over
        else "No mat draws more than a channel may carry. Never two channels in parallel.",
    )
