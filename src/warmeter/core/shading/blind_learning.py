"""The share of the sun that comes through a room's blinds, learnt from days with them up and days with them down."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Flags, Floats
from warmeter.core.errors import NotKnowable
from warmeter.core.shading.blind_days import GAIN, HEAT, OUT, BlindLog, air_responses
from warmeter.core.thermal.room_fit import Estimate
from warmeter.core.thermal.simulate import compile_rooms
from warmeter.core.thermal.survey import RoomRc
from warmeter.core.units import S_PER_DAY

FEWEST_DAYS, FEWEST_SUNNY_DAYS, SUNNY_KWH = 8, 3, 0.5
GAIN_SPREAD_W = 80.0  # how far a day's people and devices wander about their mean
HOURS_SPREAD_W = 150.0  # and how far hours of the day do, alike on all days
HOUR_BLOCKS = 8
NOISE_K = 0.15
PARTS = 6  # each left out once, for the range
WIDEST = 0.3
TWO_SIDED = 1.96


@dataclass(frozen=True, slots=True, kw_only=True)
class LearntBlind:
    """What comes through blinds that are wholly down, as a ratio of the sun, and the days that told it.

    ``sun`` is the sun that came in over what windows and sky were reckoned to let in (ratio).
    """

    lets: Estimate
    sun: Estimate
    up_days: int
    down_days: int


def learnt_blind(log: BlindLog, rooms: tuple[RoomRc, ...], full_heat_w: float) -> LearntBlind:
    """Return which share of the sun a room's blinds let through, as its own log shows.

    The room's answer to sun through open windows and to the sun on covered ones are two courses; how much of each is
    in the measured temperature is found by least squares, beside a gain of each day's own and one of hours alike on all days. Their ratio is the share:
    what is wrong with glass and sky falls out of it.

    Raises
    ------
    NotKnowable
        If there are too few days with sun on open or on covered windows, or the range is too wide.

    References
    ----------
    docs/methods, blinds.
    """
    open_w, covered_w = (log.up_w * (1 - log.down)).sum(axis=0), (log.up_w * log.down).sum(axis=0)
    up_days, down_days = (int((log.by_day_kwh(w) >= SUNNY_KWH).sum()) for w in (open_w, covered_w))
    if log.days < FEWEST_DAYS or min(up_days, down_days) < FEWEST_SUNNY_DAYS:
        raise NotKnowable(
            f"{log.days} days, {up_days} with sun on open and {down_days} with sun on covered windows, tell no share.",
            f"Log {FEWEST_DAYS} days, at least {FEWEST_SUNNY_DAYS} sunny ones with it up and as many with it down.",
        )
    step = compile_rooms(rooms, full_heat_w, log.step_s)
    given, start = _courses(log, open_w, covered_w)
    air = air_responses(step, given, start)
    own, of_draws = _found(log, air[0]), np.array([_found(log, each) for each in air])
    parts = np.array_split(np.arange(log.days), PARTS)
    left_out = np.array([_found(log, air[0], ~np.isin(log.day, part)) for part in parts])
    jackknife = ((PARTS - 1) / PARTS * np.square(left_out - left_out.mean(axis=0)).sum(axis=0)) ** 0.5
    share, sun = own.tolist()
    off, sun_off = (TWO_SIDED * np.hypot(jackknife, of_draws.std(axis=0))).tolist()
    if not off <= WIDEST:
        raise NotKnowable(
            f"The share lies anywhere within {off:.2f} of {share:.2f}.", "Log more sunny days with it up, and down."
        )
    bounds = max(0.0, share - off), min(1.0, share + off)
    return LearntBlind(
        lets=Estimate(value=min(1.0, max(0.0, share)), low=bounds[0], high=bounds[1]),
        sun=Estimate(value=sun, low=max(0.0, sun - sun_off), high=sun + sun_off),
        up_days=up_days,
        down_days=down_days,
    )


def _courses(log: BlindLog, open_w: Floats, covered_w: Floats) -> tuple[Floats, Floats]:
    """Return courses of inputs and their first states: the known ones, the two suns, the fabric's start, hours, days."""
    given = np.zeros((4 + HOUR_BLOCKS + log.days, log.day.size, 4))
    given[0, :, OUT] = (log.outdoor_c[:-1] + log.outdoor_c[1:]) / 2
    given[0, :, HEAT] = log.heat_w
    given[1, :, GAIN], given[2, :, GAIN] = open_w, covered_w
    first = np.searchsorted(log.day, log.day)
    block = ((np.arange(log.day.size) - first) * log.step_s * HOUR_BLOCKS / S_PER_DAY).astype(int)
    for k in range(HOUR_BLOCKS):
        given[4 + k, :, GAIN] = block == k
    for day in range(log.days):
        given[4 + HOUR_BLOCKS + day, :, GAIN] = log.day == day
    start = np.zeros((given.shape[0], 3))
    start[0] = log.room_c[0]
    start[3, 1] = 1.0
    return given, start


def _found(log: BlindLog, air: Floats, counted: Flags | None = None) -> Floats:
    """Return (covered over open sun, open sun over what was reckoned) as a room's temperature holds them (ratios)."""
    rows = np.ones(log.day.size, dtype=bool) if counted is None else counted
    beyond = (log.room_c - air[0])[1:][rows] / NOISE_K
    design = air[1:, 1:][:, rows].T / NOISE_K
    # A mean gain of all days is free; hours and days wander about it.
    design = np.column_stack([design[:, :3], design[:, 3 + HOUR_BLOCKS :].sum(axis=1), design[:, 3:]])
    spread = np.repeat([HOURS_SPREAD_W, GAIN_SPREAD_W], [HOUR_BLOCKS, log.days])
    held = np.hstack([np.zeros((spread.size, 4)), np.diag(1 / spread)])
    found = np.linalg.lstsq(np.vstack([design, held]), np.append(beyond, np.zeros(spread.size)), rcond=None)[0]
    return np.array([found[1] / found[0], found[0]]) if found[0] > 0 else np.full(2, np.nan)
