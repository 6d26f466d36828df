"""From motion to a room in use (N3)."""

from collections.abc import Sequence

import numpy as np

from warmeter.core.arrays import Floats, Ints


def use_by_motion(sensors: Sequence[tuple[Ints, Floats]], empty_after_s: int | None) -> tuple[Ints, Floats]:
    """Return when a room is in use and when it is not any more, by its motion sensors that tell on and off.

    Parameters
    ----------
    sensors : sequence of ((report,) int array, (report,) float array)
        Each sensor's reports, rising [ms UTC], 1 while somebody moves; a repeated report is a sign of life.
    empty_after_s : int or None
        How long after the last sensor's off the room is empty [s]; None never says so.

    Returns
    -------
    (report,) int array, (report,) float array
        1 from a motion on, 0 from the end of the wait on [ms UTC]; what is said again is told again.

    Notes
    -----
    Docs/methods N3. A motion at the very end of the wait continues the use; what repeats the last word of its sensor
    (on while on, off while off) is told as a sign of life and does not begin the wait anew.
    """
    rows = sorted(
        (int(t), k, v >= 0.5) for k, (at, value) in enumerate(sensors) for t, v in zip(at, value, strict=True)
    )
    moving = [False] * len(sensors)
    found: list[tuple[int, float]] = []
    empty_at: int | None = None
    for at, sensor, is_on in rows:
        if empty_at is not None and at > empty_at:
            found.append((empty_at, 0.0))
            empty_at = None
        was_any, moving[sensor] = any(moving), is_on
        if is_on:
            found.append((at, 1.0))
            empty_at = None
        elif was_any and not any(moving) and empty_after_s is not None:
            empty_at = at + 1000 * empty_after_s
        elif not any(moving) and empty_at is None and empty_after_s is not None and found and found[-1][1] == 0.0:
            found.append((at, 0.0))
    if empty_at is not None:
        found.append((empty_at, 0.0))
    return np.array([at for at, _ in found], dtype=np.int64), np.array([value for _, value in found])
