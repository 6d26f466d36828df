"""Cutting a plug or leaving it on: 8760 h of the machine's rest against 8760 h of the plug."""

import unittest
from decimal import Decimal

from warmeter.core.errors import OutOfRange
from warmeter.core.saving.standby_switching import CutFacts, CutOrLeave, cut_or_leave


def chosen(rest_w: float, share: str = "1", plug_w: float = 0.5, facts: CutFacts | None = None) -> CutOrLeave:
    return cut_or_leave(
        rest_w=rest_w,
        rest_share=Decimal(share),
        plug_own_w=plug_w,
        price_per_kwh=Decimal("0.30"),
        facts=facts or CutFacts(),
    )


class Switching(unittest.TestCase):
    def test_the_plug_listens_all_year_and_the_machine_rests_for_its_share(self) -> None:
        found = chosen(2.0, "0.9")
        self.assertEqual((found.leave_kwh, found.cut_kwh), (Decimal("15.768"), Decimal("4.38")))
        self.assertEqual((found.better, found.saved_money), ("cut", Decimal("11.388") * Decimal("0.30")))

    def test_a_machine_that_draws_less_than_the_plug_is_left_on(self) -> None:
        self.assertEqual([chosen(watts).better for watts in (0.4, 0.5, 0.6)], ["leave", "leave", "cut"])
        self.assertLess(chosen(0.4).saved_money or 0, 0)

    def test_what_must_stay_on_is_never_cut_and_a_hot_drum_not_early(self) -> None:
        self.assertEqual(chosen(50.0, facts=CutFacts(must_stay_on=True)).better, "never cut")
        self.assertTrue(CutFacts(cools_down=True).is_unsafe_early and CutFacts(locks_door=True).is_unsafe_early)
        self.assertFalse(CutFacts(loses_clock=True, restarts_by_hand=True).is_unsafe_early)

    def test_without_a_price_there_is_no_money_and_wrong_watts_are_refused(self) -> None:
        found = cut_or_leave(rest_w=2.0, rest_share=Decimal(1), plug_own_w=0.5, price_per_kwh=None, facts=CutFacts())
        self.assertEqual((found.leave_money, found.saved_money, found.better), (None, None, "cut"))
        for rest_w, plug_w in ((1000.1, 0.5), (-0.1, 0.5), (2.0, 20.1)):
            with self.subTest(rest_w=rest_w, plug_w=plug_w), self.assertRaises(OutOfRange):
                chosen(rest_w, plug_w=plug_w)


if __name__ == "__main__":
    unittest.main()
