"""Logs that mislead are doubted by name, clean ones are not, and a fit that is not fit for use tells nothing."""

import pickle
import unittest
from dataclasses import replace

from warmeter.core.errors import NotKnowable, OutOfRange
from warmeter.core.thermal.identify import fit_room
from warmeter.core.thermal.room_fit import Doubt, RoomFit
from warmeter.simulators.agreement import Family
from warmeter.simulators.misleading_logs import KINDS, Misleading, misleading_log

SEEDS: dict[Misleading, tuple[Family, int]] = {
    "part of the heat": ("stores", 7100),
    "stove in the evening": ("layers", 7101),
    "sensor beside the heater": ("stores", 7102),
    "stamp": ("layers", 7103),
    "steady outdoors": ("stores", 7104),
    "cold neighbour": ("layers", 7105),
    "clean": ("layers", 7106),
}


def fit_of(kind: Misleading) -> RoomFit:
    """Fit one misleading log."""
    family, seed = SEEDS[kind]
    given = misleading_log(kind, seed, family)
    return fit_room(given.log, given.prior, full_heat_w=given.full_heat_w, plate_w=given.full_heat_w)


class Doubts(unittest.TestCase):
    fits: dict[Misleading, RoomFit]

    @classmethod
    def setUpClass(cls) -> None:
        cls.fits = {kind: fit_of(kind) for kind in SEEDS}

    def test_each_misleading_log_is_doubted_by_its_name_with_what_to_do(self) -> None:
        for kind in KINDS:
            with self.subTest(kind):
                doubt = next((d for d in self.fits[kind].doubts if d.kind == kind), None)
                assert doubt is not None, self.fits[kind].doubts
                self.assertRegex(doubt.sentence, r"(Log|Hang|Import the log|Record)")

    def test_a_clean_log_is_not_doubted(self) -> None:
        self.assertEqual(self.fits["clean"].doubts, ())
        self.assertTrue(self.fits["clean"].is_fit_for_use)
        self.assertEqual(self.fits["clean"].missing, ())

    def test_what_a_range_allows_for_does_not_forbid_the_fit(self) -> None:
        for kind in ("steady outdoors", "cold neighbour"):
            self.assertTrue(all(not d.forbids_use for d in self.fits[kind].doubts if d.kind == kind))

    def test_gains_beside_a_cold_neighbour_have_a_range_that_runs_upwards(self) -> None:
        """What the neighbour draws is taken off: the range may reach below nought, but its ends stay in order."""
        gain = self.fits["cold neighbour"].gain_w
        self.assertTrue(gain.low <= gain.value <= gain.high)
        self.assertLess(gain.low, gain.high)

    def test_a_fit_that_is_not_fit_for_use_says_what_is_missing(self) -> None:
        fit = self.fits["part of the heat"]
        self.assertFalse(fit.is_fit_for_use)
        self.assertTrue(any("heater" in line for line in fit.missing))

    def test_a_range_too_wide_says_how_many_more_days_would_narrow_it(self) -> None:
        fit = self.fits["clean"]
        wide = replace(fit, loss_w_k=replace(fit.loss_w_k, low=0.2 * fit.loss_w_k.value, high=3 * fit.loss_w_k.value))
        self.assertFalse(wide.is_fit_for_use)
        self.assertEqual(fit.narrowing, ())
        self.assertIn("More days like these would not narrow it", " ".join(wide.missing))
        short = replace(wide, narrowing=((7.0, 0.3),))
        self.assertIn("7 more days like these would bring ±30%", " ".join(short.missing))

    def test_half_a_fortnight_says_what_the_other_half_would_bring(self) -> None:
        family, seed = SEEDS["clean"]
        given = misleading_log("clean", seed, family, days=7)
        fit = fit_room(given.log, given.prior, full_heat_w=given.full_heat_w)
        ((days, half),) = fit.narrowing
        self.assertAlmostEqual(days, 7.0)
        self.assertTrue(0.0 < half < fit.loss_w_k.half_width * 1.05)

    def test_a_doubt_that_forbids_forbids(self) -> None:
        doubt = Doubt(kind="stamp", sentence="Import the log again.", evidence=12.0)
        self.assertFalse(replace(self.fits["clean"], doubts=(doubt,)).is_fit_for_use)
        self.assertTrue(replace(self.fits["clean"], doubts=(replace(doubt, forbids_use=False),)).is_fit_for_use)


class Errors(unittest.TestCase):
    def test_refusals_cross_a_process_border(self) -> None:
        for error in (OutOfRange("share", 3.0, 0.0, 1.0), NotKnowable("It is dark.", "Record a day.")):
            again = pickle.loads(pickle.dumps(error))
            self.assertEqual((type(again), str(again)), (type(error), str(error)))
