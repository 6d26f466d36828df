"""A person in, out or not known, by witnesses that vote as far as each is trusted (N1)."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import log

import numpy as np

from warmeter.core.arrays import Bytes, Floats, Ints
from warmeter.core.presence.presence_states import PresenceState, lasting
from warmeter.core.truth.in_sequence import Letter, sequences
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN, Truth, from_changes

LEAST_TRUST, MOST_TRUST = 0.5, 0.99
SLACK = 1e-9
NONE = UNKNOWN


@dataclass(frozen=True, slots=True, kw_only=True)
class WitnessReports:
    """What a witness has said of a person, and how far it is believed.

    Parameters
    ----------
    at_ms : (report,) int array
        When it spoke, not falling [ms UTC]; the later of two at one instant counts.
    says : (report,) int8 array
        ``TRUE`` in, ``FALSE`` out, ``NONE`` takes back what it said.
    trust_in, trust_out : float
        Share of its reports of either kind that are right; clipped to [0.5, 0.99].
    age_in_ms, age_out_ms : int
        How long a report of either kind stands [ms].
    same_as : str
        Witnesses with the same word here cannot be told apart and count as one vote; "" counts alone.
    """

    id: str
    at_ms: Ints
    says: Bytes
    trust_in: float
    trust_out: float
    age_in_ms: int
    age_out_ms: int
    same_as: str = ""

    @property
    def until_ms(self) -> Ints:
        """When each report ends: by its age, or because the witness spoke again."""
        age = np.where(self.says == TRUE, self.age_in_ms, self.age_out_ms)
        return np.asarray(np.minimum(self.at_ms + age, np.append(self.at_ms[1:], np.iinfo(np.int64).max)))

    def standing(self, at_ms: Ints) -> Bytes:
        """Return what it says at instants, ``NONE`` where no report stands, shape as given."""
        if self.at_ms.size == 0:
            return np.full(np.shape(at_ms), NONE, dtype=np.int8)
        place = np.searchsorted(self.at_ms, at_ms, side="right") - 1
        held = (place >= 0) & (at_ms < self.until_ms[np.maximum(place, 0)])
        return np.where(held, self.says[np.maximum(place, 0)], NONE).astype(np.int8)

    def votes(self, at_ms: Ints) -> Floats:
        """Return its vote at instants, ± ln(p / (1 − p)), 0 while it is silent."""
        said = self.standing(at_ms)
        return np.where(
            said == TRUE, trust_vote(self.trust_in), np.where(said == FALSE, -trust_vote(self.trust_out), 0.0)
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonPresence:
    """A person's state over time, and the sum of votes that it comes from; each sum holds until the next."""

    state: Truth
    at_ms: Ints
    log_odds: Floats

    def log_odds_at(self, at_ms: Ints) -> Floats:
        """Return the sum of votes at instants within the stretch, shape as given."""
        return np.asarray(self.log_odds[np.searchsorted(self.at_ms, at_ms, side="right") - 1])


def person_presence(
    witnesses: Sequence[WitnessReports],
    *,
    sure: float,
    least_ms: Mapping[PresenceState, int],
    initial: PresenceState,
    start_ms: int,
    end_ms: int,
) -> PersonPresence:
    """Return a person's state over [start, end).

    Parameters
    ----------
    sure : float
        From which probability on a state is taken, over 0.5 and under 1.
    least_ms : mapping
        Minimum duration of each state [ms].

    Notes
    -----
    No vote stands where no report does: a silent witness is neither in nor out. Witnesses that cannot be told apart
    give the mean of the votes that stand.

    References
    ----------
    docs/methods N1.
    """
    edges = [np.array([start_ms], dtype=np.int64)]
    for witness in witnesses:
        edges += [witness.at_ms, witness.until_ms]
    at = np.unique(np.concatenate(edges))
    at = at[(at >= start_ms) & (at < end_ms)]
    total = np.zeros(at.size)
    for group in _told_apart(witnesses):
        votes = np.stack([witness.votes(at) for witness in group])
        speaking = np.maximum((votes != 0).sum(axis=0), 1)
        total += votes.sum(axis=0) / speaking
    bar = sure_votes(sure) - SLACK
    raw = np.where(total >= bar, TRUE, np.where(total <= -bar, FALSE, UNKNOWN)).astype(np.int8)
    return PersonPresence(
        state=lasting(from_changes(at, raw, start_ms, end_ms), least_ms, initial), at_ms=at, log_odds=total
    )


def sure_votes(sure: float) -> float:
    """Return beyond which sum of votes a state is taken for a probability, ln(p/(1 − p))."""
    return log(sure / (1 - sure))


def age_ms(witnesses: Sequence[WitnessReports], state: int, at_ms: int) -> int | None:
    """Return how long ago the newest report came that stands and says a state; None if there is none."""
    if state == UNKNOWN:
        return None
    now = np.array([at_ms], dtype=np.int64)
    said = [
        at_ms - int(w.at_ms[np.searchsorted(w.at_ms, at_ms, side="right") - 1])
        for w in witnesses
        if w.standing(now)[0] == state
    ]
    return min(said, default=None)


def power_reports(power_w: Floats, on_w: float) -> Bytes:
    """Return what a machine that needs a hand says at each reading: in from ``on_w`` on, else nothing; never out."""
    return np.where(power_w >= on_w, TRUE, NONE).astype(np.int8)


def door_motion_reports(
    events: Sequence[tuple[int, str]], *, within_ms: int, cancel_ms: int, end_ms: int
) -> tuple[Ints, Bytes]:
    """Return what a door and the motion beside it say.

    Parameters
    ----------
    events : sequence of (int, str)
        Instant and ``motion`` or ``door``, in order of time; those of one instant in their order.
    within_ms, cancel_ms : int
        From motion to door and from door to motion at most; motion up to so long after a door is no leaving [ms].

    Returns
    -------
    (report,) int array, (report,) int8 array
        When it spoke [ms UTC]: out when no motion followed in time, in at the motion that follows a door.

    References
    ----------
    docs/methods N1, J11 (latest).
    """
    leaving: list[tuple[int, Letter]] = []
    arriving: list[tuple[int, Letter]] = []
    for at, event in events:
        if event == "motion":
            leaving += [(at, "C"), (at, "A")]
            arriving.append((at, "B"))
        else:
            leaving.append((at, "B"))
            arriving.append((at, "A"))
    left = sequences(leaving, within_ms=within_ms, cancel_ms=cancel_ms, is_first=False, end_ms=end_ms).told
    came = sequences(arriving, within_ms=within_ms, cancel_ms=None, is_first=False, end_ms=end_ms).told
    rows = sorted([(pair.at_ms, 1, FALSE) for pair in left] + [(pair.b_ms, 0, TRUE) for pair in came])
    return np.array([at for at, _, _ in rows], dtype=np.int64), np.array([says for _, _, says in rows], dtype=np.int8)


def trust_vote(trust: float) -> float:
    """Return what a report of a trust weighs, ln(p/(1 − p)) with p kept within 0.5 to 0.99."""
    p = min(MOST_TRUST, max(LEAST_TRUST, trust))
    return log(p / (1 - p))


def _told_apart(witnesses: Sequence[WitnessReports]) -> list[list[WitnessReports]]:
    groups: dict[str, list[WitnessReports]] = {}
    for place, witness in enumerate(witnesses):
        groups.setdefault(witness.same_as or f"\0{place}", []).append(witness)
    return list(groups.values())
