"""A made-up capture of radio sensors: one's own among neighbours, weak ones lost, batteries changed, and what was typed."""

import json
from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.timegrid import from_ms
from warmeter.core.units import MIN_PER_DAY, MIN_PER_H, MS_PER_MIN, MS_PER_S, S_PER_MIN

START_MS = 1_767_657_600_000  # 2026-01-06 00:00 UTC
MODELS = ("TX-mini", "TX-duo", "Plain-3")
OWN_PLACES = (("living room", 20.8, 0.9), ("bedroom", 17.6, 0.8), ("cellar", 12.5, 0.3), ("attic", 15.5, 2.0))
# Where neighbours' sensors are: mean of their means [°C], spread of those, daily swing [K], share of them.
PLACES = (
    (20.5, 1.6, 0.8, 0.6),
    (17.0, 2.0, 0.7, 0.15),
    (4.0, 1.5, 3.5, 0.15),
    (5.0, 1.0, 0.4, 0.06),
    (-18.5, 1.0, 0.8, 0.04),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class RadioScene:
    """A capture with its truth.

    Parameters
    ----------
    lines : tuple of str
        JSON lines.
    own, successor : str
        Ids of one's own sensor before and after its battery was changed; no change is "".
    changed_ms : int
        When it was changed, 0 for never [ms UTC].
    readings : tuple of (int, float)
        When its display was read [ms UTC], and what it showed [°C].
    channel : str
        The channel that is set on it.
    """

    lines: tuple[str, ...]
    own: str
    successor: str
    changed_ms: int
    readings: tuple[tuple[int, float], ...]
    channel: str


def radio_scene(seed: int, neighbours: int, *, hours: float = 30.0, changes_battery: bool = False) -> RadioScene:
    """Return a capture of so many neighbours' sensors and one's own.

    A sensor's display shows what it last sent. Temperatures wander as rooms do, in steps of the thermostat and the day, not
    as any model of the core has them; one typed reading in thirty is off by a tenth.
    """
    rng = np.random.default_rng(seed)
    minutes = int(hours * MIN_PER_H)
    own_place = OWN_PLACES[int(rng.integers(len(OWN_PLACES)))]
    rooms = [_wandering(rng, own_place[1] + rng.normal(0, 0.6), own_place[2], minutes)]
    shares = np.array([place[3] for place in PLACES])
    for kind in rng.choice(len(PLACES), size=neighbours, p=shares / shares.sum()).tolist():
        mean, spread, swing, _ = PLACES[kind]
        rooms.append(_wandering(rng, float(rng.normal(mean, spread)), swing, minutes))
    ids = [f"{value:x}" for value in rng.choice(np.arange(16, 4096), size=neighbours + 4, replace=False).tolist()]
    changed_min = int(rng.integers(minutes // 2, minutes * 3 // 4)) if changes_battery else 0
    rows: list[tuple[int, str]] = []
    shown: list[tuple[int, float]] = []
    channels = [str(int(each)) for each in rng.integers(1, 4, size=neighbours + 1)]
    for number, room in enumerate(rooms):
        is_own = number == 0
        rhythm_s = float(rng.choice([31.0, 47.0, 58.0, 61.0, 90.0])) + float(rng.uniform(-0.5, 0.5))
        lost = 0.08 if is_own else float(rng.uniform(0.05, 0.7))
        strength = -55.0 if is_own else float(rng.uniform(-95, -60))
        sender, model = ids[number], MODELS[int(rng.integers(len(MODELS)))]
        # Some neighbour changes a battery on the same day.
        new_at = changed_min if is_own else int(rng.integers(minutes)) if rng.random() < 0.1 and changes_battery else 0
        follower = ids[neighbours + 1] if is_own else f"{int(rng.integers(4096, 65536)):x}"
        offset = rng.normal(0, 0.15)
        damp = float(np.clip(rng.normal(48, 8), 20, 90))
        for at_s in np.arange(rng.uniform(0, rhythm_s), minutes * S_PER_MIN, rhythm_s):
            at = float(at_s) + float(rng.normal(0, 0.4))
            minute = min(max(int(at // S_PER_MIN), 0), minutes - 1)
            if new_at and new_at <= minute < new_at + 4:
                continue  # its battery is out
            value = round(float(room[minute] + offset), 1)
            if is_own:
                shown.append((round(at * MS_PER_S), value))
            if rng.random() < lost:
                continue
            fields = {
                "time": from_ms(START_MS + round(at * MS_PER_S)).isoformat(timespec="seconds").replace("+00:00", "Z"),
                "model": model,
                "id": follower if new_at and minute >= new_at else sender,
                "channel": int(channels[number]),
                "temperature_C": value,
                "humidity": int(damp + rng.normal(0, 1)),
                "strength": round(strength + float(rng.normal(0, 2)), 1),
            }
            rows += [(round(at * MS_PER_S) + 60 * k, json.dumps(fields)) for k in range(int(rng.integers(1, 4)))]
    rows.sort()
    last = (changed_min or minutes) * MS_PER_MIN
    readings = []
    for share in (0.15, 0.75):
        at_ms = int(last * share + rng.integers(0, 600_000))
        seen = max((each for each in shown if each[0] <= at_ms), key=lambda each: each[0])
        slip = float(rng.choice([-0.1, 0.1])) if rng.random() < 1 / 30 else 0.0
        readings.append((START_MS + at_ms, round(seen[1] + slip, 1)))
    return RadioScene(
        lines=tuple(line for _, line in rows),
        own=ids[0],
        successor=ids[neighbours + 1] if changes_battery else "",
        changed_ms=START_MS + changed_min * MS_PER_MIN if changes_battery else 0,
        readings=tuple(readings),
        channel=channels[0],
    )


def _wandering(rng: np.random.Generator, mean_c: float, swing_k: float, minutes: int) -> Floats:
    """Return a temperature by minute: steps of heating on and off, a day, and a slow walk."""
    at = np.arange(minutes)
    day = swing_k * np.cos(2 * np.pi * (at / MIN_PER_DAY - rng.uniform(0.5, 0.75)))
    setback = np.where((at % MIN_PER_DAY < rng.uniform(330, 420)) & (rng.random() < 0.5), -0.8 * swing_k, 0.0)
    slow = np.convolve(setback, np.ones(90) / 90, mode="same")
    walk = np.cumsum(rng.normal(0, 0.01, minutes))
    saw = 0.15 * np.abs(((at / rng.uniform(18, 45)) % 2) - 1)
    found: Floats = mean_c + day + slow + walk + saw
    return found
