"""What a word is worth: matched changes against every way of pairing, and shares that do not count the usual twice."""

import itertools
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from warmeter.core.presence.agreement import agreed_trust, chance_in, evened_share
from warmeter.core.presence.witness_trust import matched_pairs, same_pairs, witness_trust
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN


def best_pairs(true_at: list[int], told_at: list[int], window: int) -> list[tuple[int, int]]:
    """Return the best pairing by trying all of them."""
    found: list[tuple[int, int, list[tuple[int, int]]]] = []
    for size in range(min(len(true_at), len(told_at)) + 1):
        for mine in itertools.combinations(range(len(true_at)), size):
            for theirs in itertools.permutations(range(len(told_at)), size):
                pairs = list(zip(mine, theirs, strict=True))
                apart = [abs(told_at[j] - true_at[i]) for i, j in pairs]
                if all(a <= window for a in apart):
                    found.append((-size, sum(apart), pairs))
    return min(found)[2]


class Trust(unittest.TestCase):
    @given(
        st.lists(st.integers(0, 40), max_size=4, unique=True),
        st.lists(st.integers(0, 40), max_size=4, unique=True),
        st.integers(0, 15),
    )
    def test_changes_are_paired_as_the_best_of_all_ways(
        self, true_at: list[int], told_at: list[int], window: int
    ) -> None:
        true_at, told_at = sorted(true_at), sorted(told_at)
        found = matched_pairs(np.array(true_at, dtype=np.int64), np.array(told_at, dtype=np.int64), window)
        self.assertEqual(found, best_pairs(true_at, told_at, window))

    def test_ten_minutes_late_out_and_at_once_in(self) -> None:
        truth = np.repeat(np.array([TRUE, FALSE, TRUE], dtype=np.int8), 100)
        said = truth.copy()
        said[100:110] = TRUE
        found = witness_trust(said, truth, 20)
        self.assertEqual(found.late_out.median_min, 10.0)
        self.assertEqual(found.late_in.median_min, 0.0)
        self.assertAlmostEqual(found.right_in.share or 0, 200 / 210)
        self.assertEqual(found.right_out.share, 1.0)

    def test_a_copy_is_told_and_silence_is_no_agreement(self) -> None:
        rng = np.random.default_rng(1)
        one = np.repeat(rng.integers(0, 2, 60) * 2, 10).astype(np.int8)
        other = np.where(rng.random(600) < 0.5, UNKNOWN, one).astype(np.int8)
        pairs = {(p.one, p.other): p for p in same_pairs([one, one.copy(), other], 0.9)}
        self.assertTrue(pairs[0, 1].is_same)
        self.assertFalse(pairs[0, 2].is_same)

    def test_a_share_evened_out_is_how_much_likelier_the_word_is_when_it_is_true(self) -> None:
        # Said in all of 900 minutes in and in all of 100 minutes out: it says nothing, though it is right nine times in ten.
        self.assertEqual(evened_share(900, 900, 100, 100), 0.5)
        self.assertAlmostEqual(evened_share(810, 900, 10, 100) or 0, 0.9)
        self.assertIsNone(evened_share(0, 900, 0, 100))


class Agreement(unittest.TestCase):
    def setUp(self) -> None:
        rng = np.random.default_rng(7)
        lengths = rng.integers(120, 600, 120)
        self.truth = np.concatenate(
            [np.full(n, TRUE if k % 2 else FALSE, dtype=np.int8) for k, n in enumerate(lengths)]
        )
        self.rng = rng

    def heard(self, wrong: float, silent: float) -> np.ndarray:
        """Return a witness that is wrong, and silent, in stretches of half an hour."""
        parts = -(-self.truth.size // 30)
        is_wrong = np.repeat(self.rng.random(parts) < wrong, 30)[: self.truth.size]
        is_silent = np.repeat(self.rng.random(parts) < silent, 30)[: self.truth.size]
        return np.where(is_silent, UNKNOWN, np.where(is_wrong, TRUE - self.truth, self.truth)).astype(np.int8)

    def test_a_poor_witness_is_found_among_good_ones_from_the_same_first_trust(self) -> None:
        said = [self.heard(0.03, 0.1), self.heard(0.05, 0.3), self.heard(0.35, 0.1)]
        found = agreed_trust(said, [(0.8, 0.8)] * 3)
        for k, wrong in enumerate((0.03, 0.05, 0.35)):
            for share in found[k]:
                self.assertAlmostEqual(share, 1 - wrong, delta=0.06)

    def test_together_they_are_right_more_often_than_the_best(self) -> None:
        wrongs = (0.1, 0.12, 0.15)
        said = [self.heard(wrong, 0.1) for wrong in wrongs]
        chance = chance_in(said, agreed_trust(said, [(0.8, 0.8)] * 3))
        right = float(((chance >= 0.5) == (self.truth == TRUE)).mean())
        self.assertGreater(right, 0.93)

    def test_nothing_said_is_nothing_known(self) -> None:
        silent = np.full(500, UNKNOWN, dtype=np.int8)
        self.assertTrue(np.allclose(chance_in([silent], [(0.9, 0.9)]), 0.5))


if __name__ == "__main__":
    unittest.main()
