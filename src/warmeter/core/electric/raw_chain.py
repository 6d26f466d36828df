"""From counts to volts to ohms to degrees, its error at both ends, and whether a part of the chain is wrong."""

from dataclasses import dataclass, replace

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.home.raw_readings import RawChain
from warmeter.core.sensing.thermistor import SteinhartHart, by_beta, steinhart_hart

# A check against a reference that misses by more is a fault of the chain; one that hits so closely mends it.
MISSED_K, HIT_K, ALIKE_K = 4.0, 2.0, 0.2
PLAUSIBLE_C = (-40.0, 110.0)


def curve_of(chain: RawChain) -> SteinhartHart:
    """Return the thermistor of a chain: by its three points, else by its beta."""
    if chain.points:
        return steinhart_hart([(point.at_c, point.ohm) for point in chain.points])
    return by_beta(chain.r25_ohm, chain.beta_k)


def most_count(chain: RawChain) -> float:
    """Return the highest count of a chain's converter."""
    return float(2**chain.bits - 1)


def volts_of(chain: RawChain, raw: Floats) -> Floats:
    """Return the volts at the divider's middle, shape as given; NaN where the log carries ohms [V]."""
    if chain.reads == "counts":
        return np.asarray(raw / most_count(chain) * chain.reference_v, dtype=np.float64)
    return raw if chain.reads == "volt" else np.full(raw.shape, np.nan)


def ohms_of(chain: RawChain, raw: Floats) -> Floats:
    """Return the thermistor's resistance, shape as given, NaN where the volts lie outside of the supply [Ω]."""
    if chain.reads == "ohm":
        return np.asarray(np.where(raw > 0, raw, np.nan), dtype=np.float64)
    volts = volts_of(chain, raw)
    with np.errstate(all="ignore"):
        above = chain.supply_v - volts
        ohms = chain.fixed_ohm * (volts / above if chain.fixed_side == "supply" else above / volts)
        return np.asarray(np.where((volts > 0) & (above > 0), ohms, np.nan), dtype=np.float64)


def celsius_of(chain: RawChain, raw: Floats) -> Floats:
    """Return temperatures of raw readings, shape as given, NaN where the chain has none [°C] (docs/methods D3, D4)."""
    return curve_of(chain).celsius(ohms_of(chain, raw))


def raw_at(chain: RawChain, celsius: float) -> float:
    """Return what the log carries at a temperature, by bisection of the thermistor's falling curve."""
    curve, low, high = curve_of(chain), -4.0, 18.0  # ln of 0.02 Ω and 60 MΩ
    for _ in range(200):
        middle = (low + high) / 2
        low, high = (middle, high) if float(curve.celsius(np.exp([middle]))[0]) > celsius else (low, middle)
    ohm = float(np.exp((low + high) / 2))
    if chain.reads == "ohm":
        return ohm
    share = ohm / (ohm + chain.fixed_ohm) if chain.fixed_side == "supply" else chain.fixed_ohm / (ohm + chain.fixed_ohm)
    volts = share * chain.supply_v
    return volts if chain.reads == "volt" else volts / chain.reference_v * most_count(chain)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChainEnd:
    """An end of the range [°C]: what is read there, a count's worth and the error with tolerances [K].

    ``is_lost`` says that the converter cannot read it.
    """

    at_c: float
    raw: float
    volts: float | None
    ohm: float
    step_k: float | None
    error_k: float
    is_lost: bool


def chain_end(chain: RawChain, celsius: float) -> ChainEnd:
    """Return what a chain makes of an end of its range.

    Notes
    -----
    The error is the root of the squares of half a count, the fixed resistor's tolerance and the thermistor's own.
    """
    raw = raw_at(chain, celsius)
    ohm = float(ohms_of(replace(chain, reads="ohm"), np.array([_ohm_at(chain, raw)]))[0])
    off = chain.tolerance_pct / 100
    parts = [_moved(chain, replace(chain, r25_ohm=chain.r25_ohm * (1 + off), points=_scaled(chain, 1 + off)), raw)]
    step = None
    if chain.reads != "ohm":
        parts.append(_moved(chain, replace(chain, fixed_ohm=chain.fixed_ohm * (1 + off)), raw))
    if chain.reads == "counts":
        near = celsius_of(chain, np.array([raw - 0.5, raw + 0.5]))
        step = float(abs(near[1] - near[0]))
        parts.append(step / 2)
    volts = None if chain.reads == "ohm" else float(volts_of(chain, np.array([raw]))[0])
    return ChainEnd(
        at_c=celsius,
        raw=raw,
        volts=volts,
        ohm=ohm,
        step_k=step,
        error_k=float(np.sqrt(np.nansum(np.square(parts)))),
        is_lost=chain.reads == "counts" and not 1 <= raw <= most_count(chain) - 1,
    )


def _ohm_at(chain: RawChain, raw: float) -> float:
    return float(ohms_of(chain, np.array([raw]))[0])


def _scaled(chain: RawChain, factor: float) -> tuple:  # type: ignore[type-arg]
    return tuple(replace(point, ohm=point.ohm * factor) for point in chain.points)


def _moved(chain: RawChain, other: RawChain, raw: float) -> float:
    one, two = (float(celsius_of(each, np.array([raw]))[0]) for each in (chain, other))
    return abs(two - one)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChainFault:
    """What is likely wrong with a chain: what it reads against the reference [°C], and the changes that hit it alike."""

    reads_c: float | None
    reference_c: float
    likely: str


def chain_fault(chain: RawChain) -> ChainFault | None:
    """Return what a check against a reference says is wrong; None where it was not checked, or reads right.

    The changes tried: the fixed resistor on the other side, ten times and a tenth of either resistor, the converter's
    reference being the supply, and two bits more or fewer.
    """
    if chain.checked_raw is None or chain.checked_c is None:
        return None
    raw = np.array([chain.checked_raw])
    read = float(celsius_of(chain, raw)[0])
    if abs(read - chain.checked_c) <= MISSED_K:
        return None
    tried = {
        "the fixed resistor stands on the other side": replace(
            chain, fixed_side="ground" if chain.fixed_side == "supply" else "supply"
        ),
        "the thermistor has ten times the ohms": replace(chain, r25_ohm=10 * chain.r25_ohm, points=_scaled(chain, 10)),
        "the thermistor has a tenth of the ohms": replace(
            chain, r25_ohm=chain.r25_ohm / 10, points=_scaled(chain, 0.1)
        ),
        "the fixed resistor has ten times the ohms": replace(chain, fixed_ohm=10 * chain.fixed_ohm),
        "the fixed resistor has a tenth of the ohms": replace(chain, fixed_ohm=chain.fixed_ohm / 10),
        "the converter goes by the supply": replace(chain, reference_v=chain.supply_v),
        "the converter has two bits more": replace(chain, bits=min(24, chain.bits + 2)),
        "the converter has two bits fewer": replace(chain, bits=max(6, chain.bits - 2)),
    }
    hits = {words: abs(float(celsius_of(other, raw)[0]) - chain.checked_c) for words, other in tried.items()}
    close = {words: off for words, off in hits.items() if off <= HIT_K}
    # One reading cannot part ten times one resistor from a tenth of the other: all that hit alike are named.
    best = min(close.values(), default=0.0)
    likely = ", or ".join(words for words, off in close.items() if off <= best + ALIKE_K)
    plausible = PLAUSIBLE_C[0] <= read <= PLAUSIBLE_C[1]
    return ChainFault(reads_c=read if plausible else None, reference_c=chain.checked_c, likely=likely)
