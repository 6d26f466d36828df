"""What is known of a room: its log, what was known before, and what a log taught, with ranges."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from scipy.special import ndtri

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.sentence import kelvin, sentence
from warmeter.core.thermal.survey import RoomRc

ModelKind = Literal["one store", "two stores", "two stores, low sun"]

LOW_SUN: ModelKind = "two stores, low sun"  # the sun comes through windows in the walls
MODEL_NAME: dict[ModelKind, str] = {
    "one store": "one-capacity model",
    "two stores": "two-capacity model",
    "two stores, low sun": "two-capacity model, low sun",
}
FORMS: tuple[ModelKind, ...] = ("one store", "two stores", LOW_SUN)

PARAMETERS = ("loss", "air store", "fabric store", "air to fabric", "emitter lag")
# Spread of the survey's knowledge, as standard deviations of logarithms: a loss within 30 %,
# a fabric store within a factor of two, an air store (furniture, surfaces) within a factor of three.
SURVEY_SD = (0.30, 1.0, 0.7, 0.5, 0.7)
# Usual gains a square metre of floor [W/m2] and sun aperture over floor area, as middles, and their spreads.
USUAL_GAIN_W_M2, GAIN_SD = 3.8, 0.8
USUAL_SUN_SHARE, SUN_SD = 0.02, 0.7
DRAWS = 32
WIDEST = 0.40  # half width of the loss over the loss beyond which nothing is worked out from a fit
HELD_BACK = 0.25  # share of a log that the choice of model is not shown


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomLog:
    """A room's log on an even grid.

    Parameters
    ----------
    step_s : float
        Length of a step [s].
    room_c : (step + 1,) float array
        Air temperature at the grid's instants; NaN where not heard [°C].
    outdoor_c : (step + 1,) float array
        Outdoor temperature; NaN where not heard [°C].
    heat_w : (step,) float array
        Mean heat over each step; NaN where not heard [W, or a unit not known].
    clear_sky_w_m2 : (step,) float array
        Horizontal irradiance under a clear sky [W/m2].
    day : (step,) int array
        Local day number of each step, from 0.
    watts_known : bool
        Whether the heat is in watts.
    windows_w_m2 : (step,) float array or None
        Clear-sky irradiance on the planes of the room's windows; None where it has none [W/m2].
    """

    step_s: float
    room_c: Floats
    outdoor_c: Floats
    heat_w: Floats
    clear_sky_w_m2: Floats
    day: Ints
    watts_known: bool = True
    windows_w_m2: Floats | None = None

    def part(self, begin: int, end: int) -> "RoomLog":
        """Return steps [begin, end) as a log of its own."""
        return replace(
            self,
            room_c=self.room_c[begin : end + 1],
            outdoor_c=self.outdoor_c[begin : end + 1],
            heat_w=self.heat_w[begin:end],
            clear_sky_w_m2=self.clear_sky_w_m2[begin:end],
            day=self.day[begin:end],
            windows_w_m2=None if self.windows_w_m2 is None else self.windows_w_m2[begin:end],
        )

    @property
    def known(self) -> Flags:
        """Whether a step has heat and outdoor temperature at both ends, shape (step,)."""
        return ~(np.isnan(self.heat_w) | np.isnan(self.outdoor_c[:-1]) | np.isnan(self.outdoor_c[1:]))


@dataclass(frozen=True, slots=True, kw_only=True)
class Prior:
    """What is known of a room before its log.

    Parameters
    ----------
    room : RoomRc
        From the survey.
    gain_w : float
        Middle of what people and machines give, above 0 [W].
    sun_m2 : float
        Middle of the effective aperture to the clear-sky sun, clouds included, above 0 [m2].
    gain_sd, sun_sd : float
        Spreads of those two, as standard deviations of logarithms.
    thermal_sd : tuple of float
        Spreads of loss, air store, fabric store, coupling and emitter lag, likewise.
    neighbour_w_k, neighbour_c : float
        Conductance to heated neighbours whose temperature no log shows, 0 or more [W/K], and that temperature as
        it was written down [°C].
    """

    room: RoomRc
    gain_w: float
    sun_m2: float
    gain_sd: float = GAIN_SD
    sun_sd: float = SUN_SD
    thermal_sd: tuple[float, ...] = SURVEY_SD
    neighbour_w_k: float = 0.0
    neighbour_c: float = 18.0


def prior_of_room(room: RoomRc, floor_area_m2: float, loss_sd: float = SURVEY_SD[0]) -> Prior:
    """Return usual gains beside a surveyed room, about 4 W/m2 and in nine of ten rooms 1 to 14, and a little sun."""
    return Prior(
        room=room,
        gain_w=USUAL_GAIN_W_M2 * floor_area_m2,
        sun_m2=USUAL_SUN_SHARE * floor_area_m2,
        thermal_sd=(loss_sd, *SURVEY_SD[1:]),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """One quantity with its 95 % range."""

    value: float
    low: float
    high: float

    @property
    def half_width(self) -> float:
        """Half the range over the value (ratio)."""
        return (self.high - self.low) / 2 / self.value


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnEstimate(Estimate):
    """A quantity with its 95 % range and the draws behind it, (draw,), the best estimate first."""

    draws: Floats = field(compare=False, repr=False)


def range_of(values: Floats) -> DrawnEstimate:
    """Return the first draw with the 95 % range of all, shape (draw,)."""
    low, high = np.quantile(values, [0.025, 0.975])
    best = float(values[0])
    return DrawnEstimate(value=best, low=float(min(low, best)), high=float(max(high, best)), draws=values)


def total_of(parts: Sequence[DrawnEstimate]) -> DrawnEstimate:
    """Return a sum, draw by draw: what the parts have in common adds up, what each errs by itself evens out."""
    return range_of(np.sum([part.draws for part in parts], axis=0)) if parts else range_of(np.zeros(1))


def narrowed_by(parts: Sequence[DrawnEstimate]) -> tuple[float, ...]:
    """Return by how much the half width of the sum would shrink if each part alone were known.

    Docs/methods Q3 with a factor of nought, on draws instead of normal widths.
    """
    whole = total_of(parts)
    half = (whole.high - whole.low) / 2
    rest = [range_of(whole.draws - part.draws) for part in parts]
    return tuple(max(0.0, half - (r.high - r.low) / 2) for r in rest)


@dataclass(frozen=True, slots=True, kw_only=True)
class Balance:
    """The plain energy balance beside a fit: mean heat over mean excess temperature.

    ``low_w_k`` counts no gains, ``loss_w_k`` the usual ones, ``high_w_k`` twice the usual.
    """

    mean_heat_w: float
    usual_gain_w: float
    mean_excess_k: float
    loss_w_k: float
    low_w_k: float
    high_w_k: float
    hours: float


DoubtKind = Literal[
    "part of the heat",
    "above the plate",
    "stove in the evening",
    "sensor beside the heater",
    "stamp",
    "cold neighbour",
    "gains beyond belief",
    "steady outdoors",
    "too short for its walls",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Doubt:
    """A reason not to believe a fit.

    Parameters
    ----------
    kind : str
        Its name.
    sentence : str
        What the log shows, and what to do.
    evidence : float
        The number behind it, in the unit that the sentence names.
    forbids_use : bool
        Whether nothing may be worked out from the fit while it stands; else its ranges already allow for it.
    """

    kind: DoubtKind
    sentence: str
    evidence: float
    forbids_use: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomFit:
    """What a log taught.

    Parameters
    ----------
    model : str
        The model chosen on the held-back part.
    watts_known : bool
        If not, only time constants and K per full heat mean something.
    loss_w_k, air_j_k, fabric_j_k, air_fabric_w_k : Learnt
        Steady loss, stores and coupling; ``slow_s`` and ``fast_s`` time constants [s].
    emitter_lag_s : Learnt or None
        Lag of the emitter [s].
    gain_w, sun_m2 : Learnt
        Constant gains and effective sun aperture.
    rooms : tuple of RoomRc
        First the best estimate, then draws from the fit's spread.
    gains_w, suns_m2 : tuple of float
        Gains and aperture, in the order of ``rooms``.
    fitted_c : (step + 1,) float array
        Modelled temperature through the log [°C].
    rmse_k, held_back_rmse_k, mean_rmse_k : float
        Error over the log, of a free run over the held-back part, and of the plain mean there [K].
    candidates : tuple of (ModelKind, float)
        Each model's error on the held-back part [K].
    balance : Balance
        The plain balance beside it.
    hours : float
        Hours of temperature that the fit used.
    full_heat_w : float
        The heater's full heat on the fit's own scale: its watts, or, where watts are not known, the highest
        logged heat on the scale that the survey would need [W].
    heat_scale : float
        Watts on that scale for one unit of the logged heat; 1 where watts are known.
    doubts : tuple of Doubt
        What speaks against believing it.
    narrowing : tuple of (float, float)
        For more days of such a log: how many [d], and the half width of the loss they would bring (ratio); none where
        more of the same would not narrow it.
    """

    model: ModelKind
    watts_known: bool
    loss_w_k: Estimate
    air_j_k: Estimate
    fabric_j_k: Estimate
    air_fabric_w_k: Estimate
    slow_s: Estimate
    fast_s: Estimate
    emitter_lag_s: Estimate | None
    gain_w: Estimate
    sun_m2: Estimate
    rooms: tuple[RoomRc, ...]
    gains_w: tuple[float, ...]
    suns_m2: tuple[float, ...]
    fitted_c: Floats
    rmse_k: float
    held_back_rmse_k: float
    mean_rmse_k: float
    candidates: tuple[tuple[ModelKind, float], ...]
    balance: Balance
    hours: float
    full_heat_w: float
    heat_scale: float
    doubts: tuple[Doubt, ...] = ()
    narrowing: tuple[tuple[float, float], ...] = ()

    @property
    def beats_mean(self) -> bool:
        """Whether the free runs beat the plain mean on the held-back part."""
        return self.held_back_rmse_k < self.mean_rmse_k

    @property
    def is_fit_for_use(self) -> bool:
        """Whether anything may be worked out from it: it beat the mean, its range is narrow enough, nothing forbids it."""
        is_narrow = not self.watts_known or self.loss_w_k.half_width <= WIDEST
        return self.beats_mean and is_narrow and not any(doubt.forbids_use for doubt in self.doubts)

    @property
    def missing(self) -> tuple[str, ...]:
        """What is missing before the fit may be used, a sentence each; none where it may."""
        found = [doubt.sentence for doubt in self.doubts if doubt.forbids_use]
        if not self.beats_mean:
            found.append(
                sentence(
                    "Checked on a part not shown to the fit it was off by {}, the mean by {}: record two weeks or more with nights set back by {}.",
                    kelvin(self.held_back_rmse_k, 2),
                    kelvin(self.mean_rmse_k, 2),
                    kelvin(2),
                )
            )
        if self.watts_known and self.loss_w_k.half_width > WIDEST:
            wide = f"The loss is known to ±{self.loss_w_k.half_width:.0%} only, more than ±{WIDEST:.0%}."
            found.append(
                f"{wide} {self.narrowing[0][0]:.0f} more days like these would bring ±{self.narrowing[0][1]:.0%}."
                if self.narrowing
                else f"{wide} More days like these would not narrow it: log what else gives heat there, or colder weather."
            )
        return tuple(found)


def even_normals(draws: int, dimensions: int) -> Floats:
    """Return evenly spread standard normal draws (draw, dimension), always the same ones.

    Notes
    -----
    An additive recurrence by the powers of the root of x^(d+1) = x + 1, which generalises the golden ratio;
    each column is centred and brought to unit spread, so that few draws keep mean and spread.
    """
    root = 2.0
    for _ in range(40):
        root = (1 + root) ** (1 / (dimensions + 1))
    steps = root ** -np.arange(1.0, dimensions + 1)
    uniform = (0.5 + np.arange(1, draws + 1)[:, None] * steps[None, :]) % 1.0
    normal = ndtri(np.clip(uniform, 1e-6, 1 - 1e-6))
    centred = normal - normal.mean(axis=0)
    return np.asarray(centred / centred.std(axis=0, ddof=1), dtype=np.float64)


def survey_draws(prior: Prior, draws: int = DRAWS) -> tuple[tuple[RoomRc, ...], Floats, Floats]:
    """Return (rooms, gains [W], suns [m2]): the survey first, then draws of how far it may be off."""
    normal = even_normals(draws, len(PARAMETERS) + 2)
    factor = np.exp(normal[:, : len(PARAMETERS)] * np.array(prior.thermal_sd))
    plain = prior.room
    rooms = tuple(
        replace(
            plain,
            air_out_w_k=plain.air_out_w_k * f[0],
            fabric_out_w_k=plain.fabric_out_w_k * f[0],
            air_j_k=plain.air_j_k * f[1],
            fabric_j_k=plain.fabric_j_k * f[2],
            air_fabric_w_k=plain.air_fabric_w_k * f[3],
            emitter_lag_s=plain.emitter_lag_s * f[4],
        )
        for f in factor
    )
    gains = prior.gain_w * np.exp(normal[:, -2] * prior.gain_sd)
    suns = prior.sun_m2 * np.exp(normal[:, -1] * prior.sun_sd)
    return (plain, *rooms), np.append(prior.gain_w, gains), np.append(prior.sun_m2, suns)


def learnt_from(best: float, draws: Sequence[float] | Floats) -> Estimate:
    """Return a best value with the 95 % range of a normal through its draws' logarithms."""
    logs = np.log(np.maximum(np.asarray(draws), 1e-12))
    half = 1.96 * float(logs.std(ddof=1))
    return Estimate(value=best, low=best * float(np.exp(-half)), high=best * float(np.exp(half)))


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredFit:
    """A room's fit with where its log began and on which revision it was made.

    ``log_start_ms`` and ``step_s`` place ``fit.fitted_c`` in time.
    """

    fit: RoomFit
    log_start_ms: int
    step_s: float
    at_ms: int
    revision: int
