"""A home's circuits, worked out: amperes, thermostats, relay channels, ohms of each mat against what is expected."""

from dataclasses import dataclass
from datetime import date, timedelta

from warmeter.core.electric.circuit_load import CircuitLoad, circuit_load
from warmeter.core.electric.floor_mats import FloorThermostats, RelayModules, floor_thermostats, mat_ohm, relay_modules
from warmeter.core.home.circuits import Circuit, ElectricalPractice, HeatingMat, OhmReading
from warmeter.core.home.document import Home

# A mat whose ohms moved by more since it was laid is looked at, though it lies within what is expected.
CHANGED_PCT = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class MatSummary:
    """A mat: expected ohms, the last reading of each stage, and how far the newest lies off [%]."""

    mat: HeatingMat
    expected_ohm: float
    by_stage: dict[str, OhmReading]
    newest: OhmReading | None
    off_pct: float | None
    is_sound: bool | None
    current_a: float
    density_w_m2: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class CircuitSummary:
    """A circuit: its load and limit, thermostats of its floor, mats, and when its fault-current device is due."""

    circuit: Circuit
    load: CircuitLoad
    thermostats: FloorThermostats | None
    mats: tuple[MatSummary, ...]
    trip_due: date | None


def circuit_loads_w(home: Home, circuit: Circuit) -> tuple[float, ...]:
    """Return what hangs on a circuit and runs three hours or more [W]: mats, heaters by their plates, the rest typed.

    A split unit draws its heat by its COP; machines run shorter and are not counted.
    """
    heaters = (home.heater(key) for key in circuit.heater_ids)
    drawn = tuple(h.rated_heat_w / (h.split.cop if h.split is not None else 1.0) for h in heaters)
    rest = (circuit.other_w,) if circuit.other_w > 0 else ()
    return (*(mat.power_w for mat in circuit.mats), *drawn, *rest)


def mat_summary(mat: HeatingMat, circuit: Circuit, practice: ElectricalPractice) -> MatSummary:
    """Return a mat's ohms against what is expected of it."""
    expected = mat.ohm_expected or mat_ohm(mat.power_w, circuit.volts_v)
    ordered = sorted(mat.readings, key=lambda reading: reading.on)
    newest = ordered[-1] if ordered else None
    off = None if newest is None else 100 * (newest.ohm / expected - 1)
    sound = None if off is None else -practice.ohm_under_pct - 1e-9 <= off <= practice.ohm_over_pct + 1e-9
    return MatSummary(
        mat=mat,
        expected_ohm=expected,
        by_stage={reading.stage: reading for reading in ordered},
        newest=newest,
        off_pct=off,
        is_sound=sound,
        current_a=mat.power_w / circuit.volts_v,
        density_w_m2=None if mat.area_m2 is None else mat.power_w / mat.area_m2,
    )


def circuit_summary(home: Home, circuit: Circuit) -> CircuitSummary:
    """Return a circuit worked out by what the home's practice asks."""
    practice = home.electrical_practice
    floor_w = sum(mat.power_w for mat in circuit.mats)
    last = max((test.on for test in circuit.trip_tests), default=None)
    return CircuitSummary(
        circuit=circuit,
        load=circuit_load(
            circuit_loads_w(home, circuit),
            voltage_v=circuit.volts_v,
            rating_a=circuit.rating_a,
            continuous_factor=practice.continuous_factor,
            phases=circuit.phases,
            power_factor=circuit.power_factor,
        ),
        thermostats=None
        if not circuit.mats
        else floor_thermostats(
            floor_w,
            control_a=circuit.control_a or circuit.rating_a,
            voltage_v=circuit.volts_v,
            use_factor=practice.continuous_factor,
        ),
        mats=tuple(mat_summary(mat, circuit, practice) for mat in circuit.mats),
        trip_due=None if last is None else last + timedelta(days=practice.trip_every_days),
    )


def floor_relays(home: Home) -> RelayModules | None:
    """Return the relay modules that all mats of a home take, a channel each; None without mats."""
    mats = [(mat, circuit) for circuit in home.circuits for mat in circuit.mats]
    if not mats:
        return None
    practice = home.electrical_practice
    return relay_modules(
        [mat.power_w for mat, _ in mats],
        channels_per_module=practice.relay_channels,
        channel_max_a=practice.relay_channel_a,
        voltage_v=min(circuit.volts_v for _, circuit in mats),
    )
