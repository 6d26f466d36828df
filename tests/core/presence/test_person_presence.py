"""Votes of witnesses against a walk from second to second, and what nobody may conclude from silence."""

import unittest
from math import log

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from warmeter.core.presence.person_presence import (
    NONE,
    WitnessReports,
    age_ms,
    door_motion_reports,
    person_presence,
    sure_votes,
)
from warmeter.core.presence.presence_states import PresenceState
from warmeter.core.truth.truth import FALSE, TRUE, UNKNOWN

AT_ONCE: dict[PresenceState, int] = {"in": 0, "out": 0, "not_known": 0}
S = 1000


def witness(
    key: str, rows: list[tuple[int, int]], *, trust: float = 0.9, age_s: int = 7200, same: str = ""
) -> WitnessReports:
    return WitnessReports(
        id=key,
        at_ms=np.array([t * S for t, _ in rows], dtype=np.int64),
        says=np.array([word for _, word in rows], dtype=np.int8),
        trust_in=trust,
        trust_out=trust,
        age_in_ms=age_s * S,
        age_out_ms=age_s * S,
        same_as=same,
    )


def state_at(witnesses: list[WitnessReports], at_s: int, end_s: int = 100_000, sure: float = 0.8) -> int:
    found = person_presence(witnesses, sure=sure, least_ms=AT_ONCE, initial="not_known", start_ms=0, end_ms=end_s * S)
    return int(found.state.at(np.array([at_s * S]))[0])


class Votes(unittest.TestCase):
    def test_a_silent_telephone_is_never_out(self) -> None:
        phone = witness("phone", [(0, TRUE)], age_s=3600)
        self.assertEqual([state_at([phone], t) for t in (0, 3599, 3600, 90_000)], [TRUE, TRUE, UNKNOWN, UNKNOWN])

    def test_two_trusted_ones_that_contradict_leave_it_open_and_the_better_one_decides(self) -> None:
        one = witness("one", [(0, TRUE)])
        self.assertEqual(state_at([one, witness("other", [(0, FALSE)])], 10), UNKNOWN)
        self.assertEqual(state_at([one, witness("other", [(0, FALSE)], trust=0.55)], 10), TRUE)

    def test_two_weak_ones_may_suffice_but_not_two_that_are_the_same(self) -> None:
        # ln(0.7/0.3) = 0.85 each: 1.69 together, beyond ln 4 = 1.39.
        two = [witness(key, [(0, TRUE)], trust=0.7) for key in ("a", "b")]
        self.assertEqual(state_at(two[:1], 10), UNKNOWN)
        self.assertEqual(state_at(two, 10), TRUE)
        same = [witness(key, [(0, TRUE)], trust=0.7, same="a") for key in ("a", "b")]
        self.assertEqual(state_at(same, 10), UNKNOWN)

    def test_the_bar_of_votes_is_that_of_the_probability(self) -> None:
        self.assertAlmostEqual(sure_votes(0.8), log(4))

    def test_an_age_is_of_the_newest_report_that_says_the_state(self) -> None:
        both = [witness("a", [(0, TRUE)]), witness("b", [(600, TRUE)])]
        self.assertEqual(age_ms(both, TRUE, 1000 * S), 400 * S)
        self.assertIsNone(age_ms(both, FALSE, 1000 * S))
        self.assertIsNone(age_ms(both, UNKNOWN, 1000 * S))

    @given(
        st.lists(st.tuples(st.integers(0, 2), st.integers(0, 120), st.sampled_from([TRUE, FALSE, NONE])), max_size=12),
        st.tuples(*[st.sampled_from([0.5, 0.6, 0.7, 0.9, 1.0])] * 3),
        st.tuples(*[st.integers(1, 60)] * 3),
        st.tuples(*[st.integers(0, 20)] * 3),
    )
    def test_a_walk_from_second_to_second_says_the_same(
        self, events: list[tuple[int, int, int]], trust: tuple[float, ...], age: tuple[int, ...], least: tuple[int, ...]
    ) -> None:
        by_witness = [sorted([(t, word) for k, t, word in events if k == own], key=lambda r: r[0]) for own in range(3)]
        witnesses = [witness(str(k), rows, trust=trust[k], age_s=age[k]) for k, rows in enumerate(by_witness)]
        least_s = dict(zip(("in", "out", "not_known"), least, strict=True))
        end = 200
        found = person_presence(
            witnesses,
            sure=0.8,
            least_ms={key: value * S for key, value in least_s.items()},  # type: ignore[misc]
            initial="not_known",
            start_ms=0,
            end_ms=end * S,
        )
        names = {TRUE: "in", FALSE: "out", UNKNOWN: "not_known"}
        state, raw_before, since = UNKNOWN, None, 0
        for second in range(end):
            odds = 1.0
            for k, rows in enumerate(by_witness):
                standing = [(t, word) for t, word in rows if t <= second]
                if standing and standing[-1][1] != NONE and second < standing[-1][0] + age[k]:
                    p = min(0.99, max(0.5, trust[k]))
                    odds *= p / (1 - p) if standing[-1][1] == TRUE else (1 - p) / p
            raw = TRUE if odds >= 4 - 1e-6 else FALSE if odds <= 0.25 + 1e-6 else UNKNOWN
            if raw != raw_before:
                raw_before, since = raw, second
            if raw != state and second - since >= least_s[names[raw]]:
                state = raw
            self.assertEqual(int(found.state.at(np.array([second * S]))[0]), state, second)


class Doors(unittest.TestCase):
    def told(self, events: list[tuple[int, str]]) -> list[tuple[int, int]]:
        at, says = door_motion_reports(
            [(t * S, word) for t, word in events], within_ms=60 * S, cancel_ms=120 * S, end_ms=10_000 * S
        )
        return [(int(t) // S, int(word)) for t, word in zip(at, says, strict=True)]

    def test_motion_then_door_and_nothing_more_is_out_when_the_time_is_over(self) -> None:
        self.assertEqual(self.told([(50, "motion"), (100, "door")]), [(220, FALSE)])

    def test_door_then_motion_is_in_at_the_motion(self) -> None:
        self.assertEqual(self.told([(100, "door"), (130, "motion")]), [(130, TRUE)])

    def test_the_post_is_no_leaving(self) -> None:
        self.assertEqual(self.told([(50, "motion"), (100, "door"), (150, "motion")]), [(150, TRUE)])

    def test_a_door_that_nobody_came_to_says_nothing(self) -> None:
        self.assertEqual(self.told([(10, "motion"), (100, "door")]), [])


if __name__ == "__main__":
    unittest.main()
