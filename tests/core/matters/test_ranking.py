"""The order of lines, their sum, and what to measure next."""

import unittest
from dataclasses import replace

from warmeter.core.matters.line import MatterKind, MatterLine, MeasureOffer, MoneyDoubt, YearlyMoney
from warmeter.core.matters.ranking import matters_of, money_sum, ranked


def line(
    key: str, kind: MatterKind = "money", value: float | None = None, minutes: int = 10, **causes: float
) -> MatterLine:
    doubts = tuple(MoneyDoubt(cause=cause, down=half, up=half) for cause, half in causes.items())
    money = None if value is None else YearlyMoney(value=value, doubts=doubts)
    return MatterLine(key=key, kind=kind, sentence=key, why="", minutes=minutes, step="survey", money=money)


def offer(key: str, *causes: str, factor: float = 0.5, minutes: int = 10) -> MeasureOffer:
    return MeasureOffer(
        key=key, title=key, how="", causes=causes, factor=factor, minutes=minutes, step="warmup", part_id=""
    )


class Orders(unittest.TestCase):
    def test_kinds_come_first_then_money_then_work(self) -> None:
        lines = [
            line("waits", "waits"),
            line("small", value=5.0),
            line("large", value=50.0),
            line("plain"),
            line("quick fault", "wrong", minutes=5),
            line("slow fault", "wrong", minutes=30),
            line("danger", "danger", minutes=90),
        ]
        self.assertEqual(
            [each.key for each in ranked(lines)],
            ["danger", "quick fault", "slow fault", "large", "small", "plain", "waits"],
        )

    def test_lines_of_one_key_are_one_that_says_both(self) -> None:
        first, second = line("sun", "wrong"), replace(line("sun", "wrong"), sentence="in the evening too")
        (found,) = ranked([first, second])
        self.assertIn("in the evening too", found.why)

    def test_put_aside_leaves_the_list_and_the_sum(self) -> None:
        found = matters_of([line("a", value=10.0, x=2.0), line("b", value=5.0)], [], {"a"})
        self.assertEqual([each.key for each in found.lines], ["b"])
        self.assertEqual([each.key for each in found.aside], ["a"])
        self.assertEqual((found.total.value, found.total.width), (5.0, 0.0))


class Sums(unittest.TestCase):
    def test_one_cause_adds_plainly_several_by_squares(self) -> None:
        same = money_sum([line("a", value=10.0, heat=3.0), line("b", value=20.0, heat=4.0)])
        self.assertEqual((same.value, same.low, same.high), (30.0, 23.0, 37.0))
        apart = money_sum([line("a", value=10.0, one=3.0), line("b", value=20.0, two=4.0)])
        self.assertEqual((apart.low, apart.high), (25.0, 35.0))

    def test_skew_ranges_keep_their_sides(self) -> None:
        skew = YearlyMoney(value=10.0, doubts=(MoneyDoubt(cause="x", down=1.0, up=8.0),))
        found = money_sum([replace(line("a"), money=skew)])
        self.assertEqual((found.low, found.high), (9.0, 18.0))

    def test_measuring_shrinks_every_line_of_its_cause(self) -> None:
        lines = [line("a", value=10.0, heat=3.0), line("b", value=20.0, heat=4.0), line("c", value=1.0, other=24.0)]
        found = matters_of(lines, [offer("log", "heat", factor=0.0), offer("look", "other", factor=0.5, minutes=5)])
        by_key = {each.offer.key: each for each in found.measures}
        # Half widths: √(7² + 24²) = 25; without heat 24; with the other halved √(7² + 12²) = 13.89.
        self.assertAlmostEqual(by_key["log"].narrower, 2 * (25 - 24))
        self.assertAlmostEqual(by_key["look"].narrower, 2 * (25 - (49 + 144) ** 0.5))
        self.assertEqual(by_key["log"].feeds, ("b", "a"))
        self.assertEqual(found.measures[0].offer.key, "look")
        self.assertAlmostEqual(found.together.width, 2 * 12.0)

    def test_what_narrows_nothing_is_not_offered(self) -> None:
        found = matters_of(
            [line("a", value=10.0, heat=3.0)], [offer("idle", "elsewhere"), offer("same", "heat", factor=1.0)]
        )
        self.assertEqual(found.measures, ())
