"""What is proposed to tell a machine's state."""

import unittest

import numpy as np

from tests.power import STEP, days, washes
from warmeter.core.signature.cycles import activity
from warmeter.core.signature.recommending import better_witness, propose_witness
from warmeter.core.signature.tuner import asked_of


class Witnesses(unittest.TestCase):
    def test_a_contact_or_vibration_is_tuned_alike_and_the_better_one_named(self) -> None:
        power = washes(pauses=(20, 24, 18))
        found = activity(power, STEP)
        asked = asked_of("finished", found, days(power), power, STEP)
        rng = np.random.default_rng(5)
        true = np.zeros(power.size)
        for cycle in found.cycles:
            true[cycle.start : cycle.end] = 1.0
        shaky = np.where(rng.random(power.size) < 0.4, true, 0.0)
        good, bad = propose_witness(true, STEP, asked), propose_witness(shaky, STEP, asked)
        self.assertEqual((good.verdict.errors, bad.verdict.errors), (0, 0))
        self.assertLess(good.setting.wait_s, bad.setting.wait_s)
        self.assertIs(better_witness(bad, good), good)
        deaf = propose_witness(np.zeros(power.size), STEP, asked)
        self.assertEqual(deaf.verdict.missed, 3)
        self.assertIs(better_witness(deaf, bad), bad)


if __name__ == "__main__":
    unittest.main()
