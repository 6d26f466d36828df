"""In, out or not known as three-valued truth, and changes that must last before they are taken on."""

from collections.abc import Mapping
from typing import Literal

import numpy as np

from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth, from_changes

PresenceState = Literal["in", "out", "not_known"]
STATE_VALUE: Mapping[PresenceState, int] = {"in": TRUE, "out": FALSE, "not_known": UNKNOWN}
STATE_OF: Mapping[int, PresenceState] = {value: state for state, value in STATE_VALUE.items()}


def lasting(raw: Truth, least_ms: Mapping[PresenceState, int], initial: PresenceState) -> Truth:
    """Return a state that changes only to what has been so all through a minimum duration.

    Parameters
    ----------
    raw : Truth
        What the witnesses come to, to its end inclusive if that is one past the last instant.
    least_ms : mapping
        How long each state must have lasted before it is taken on [ms]; 0 at once.
    initial : str
        What holds at the start; replaced at once by a state without a minimum.

    References
    ----------
    docs/methods N1: a raw change in the very millisecond in which a minimum ends comes first.
    """
    state = STATE_VALUE[initial]
    at, value = [int(raw.at_ms[0])], [state]
    ends = np.append(raw.at_ms[1:], raw.end_ms)
    for begin, end, wanted in zip(raw.at_ms.tolist(), ends.tolist(), raw.value.tolist(), strict=True):
        due = begin + least_ms[STATE_OF[wanted]]
        if wanted != state and due < end:
            at.append(due)
            value.append(wanted)
            state = wanted
    return from_changes(np.array(at, dtype=np.int64), np.array(value, dtype=np.int8), at[0], raw.end_ms)
