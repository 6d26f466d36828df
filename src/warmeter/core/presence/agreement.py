"""How far the witnesses of a person bear each other out, minute by minute, seen from both sides of each minute."""

from collections.abc import Sequence

import numpy as np
from numba import njit

from warmeter.core.arrays import Bytes, Flags, Floats
from warmeter.core.presence.person_presence import trust_vote
from warmeter.core.truth.truth import FALSE, TRUE

# A word that stands counts as one new word in so many minutes; people come or go about every four hours.
WORD_MIN, CHANGE_MIN = 30.0, 240.0
# The usual trust counts as so many words when agreement is reckoned.
PRIOR_WORDS, ROUNDS = 60.0, 8


def chance_in(said: Sequence[Bytes], trust: Sequence[tuple[float, float]]) -> Floats:
    """Return the chance that a person is in, in each minute, by all that was said before and after.

    Parameters
    ----------
    said : sequence of (minute,) int8 array
        By witness: ``TRUE``, ``FALSE``, or ``UNKNOWN`` where it is silent, which counts for nothing.
    trust : sequence of (float, float)
        By witness: how often its word for in and for out is right.

    References
    ----------
    docs/methods N1: forward and backward over two states with the votes as odds.
    """
    votes = np.zeros(said[0].size)
    for own, (right_in, right_out) in zip(said, trust, strict=True):
        votes += np.where(own == TRUE, trust_vote(right_in), 0.0) - np.where(own == FALSE, trust_vote(right_out), 0.0)
    return np.asarray(_smoothed(votes / WORD_MIN, 1 / CHANGE_MIN))


def agreed_trust(said: Sequence[Bytes], prior: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Return how often each witness is right by what all of them together come to, from the usual trust on.

    Who is right where two disagree cannot be told from them alone: the usual trust, and what lies before and after,
    decide.
    """
    trust = list(prior)
    if not said:
        return trust
    for _ in range(ROUNDS):
        chance = chance_in(said, trust)
        words = min(float(chance.sum()), float((1 - chance).sum())) / WORD_MIN
        trust = [
            (_share(own == TRUE, chance, words, usual[0]), _share(own == FALSE, 1 - chance, words, usual[1]))
            for own, usual in zip(said, prior, strict=True)
        ]
    return trust


def evened_share(right: float, of_right: float, wrong: float, of_wrong: float) -> float | None:
    """Return the share of a word that would be right if people were in and out equally long; None where it is not said.

    Parameters
    ----------
    right, of_right : float
        Minutes with the word while it was true, and all minutes in which it would have been.
    wrong, of_wrong : float
        The same while it was not.

    Notes
    -----
    Somebody who is in nineteen hours of twenty makes any word for in right that often. As a vote each witness would
    count that again, and together they would never believe anybody out: votes take the share evened out, whose odds
    are how much likelier the word is when it is true.
    """
    true_rate, false_rate = right / max(of_right, 1.0), wrong / max(of_wrong, 1.0)
    return true_rate / (true_rate + false_rate) if true_rate + false_rate else None


def _share(says: Flags, chance: Floats, words: float, usual: float) -> float:
    """Return how often a word is right by the chance that it is, the usual trust counted as so many words."""
    found = evened_share(
        float(chance[says].sum()), float(chance.sum()), float((1 - chance[says]).sum()), float((1 - chance).sum())
    )
    return usual if found is None else (found * words + usual * PRIOR_WORDS) / (words + PRIOR_WORDS)


@njit(cache=True, nogil=True)
def _smoothed(votes, change):  # type: ignore[no-untyped-def]
    """Return P(in) by minute, forward and backward over two states; votes are log odds."""
    n = votes.shape[0]
    forward = np.empty(n)
    p = 0.5
    for k in range(n):
        p = p * (1 - change) + (1 - p) * change
        w = np.exp(votes[k])
        p = p * w / (p * w + 1 - p)
        forward[k] = p
    found = np.empty(n)
    b = 1.0  # odds of what comes after, in over out
    for k in range(n - 1, -1, -1):
        odds = forward[k] / (1 - forward[k]) * b
        found[k] = odds / (1 + odds)
        after = b * np.exp(votes[k])
        b = ((1 - change) * after + change) / (change * after + 1 - change)
    return found
