"""The plan of the day carried out at its times: starts, pins, late starts, stores by slots, days on which clocks change."""

import unittest
from dataclasses import replace
from datetime import date

from warmeter.core.home.day_plans import PlannedDay, PlannedPart, WantedRun, WaterStore
from warmeter.core.home.document import Home
from warmeter.core.live.asked_now import AskedValue
from warmeter.core.live.planned_now import planned_starts, starts_asked, stores_asked, with_plan
from warmeter.core.timegrid import LocalClock, parse_utc
from warmeter.core.units import MS_PER_H, MS_PER_MIN
from warmeter.service.homes.demo import demo_home

ON = date(2026, 1, 20)
CLOCK = LocalClock("Europe/Prague")
BEGIN = parse_utc("2026-01-19T23:00:00Z")  # midnight by the wall
H = MS_PER_H


def home_of(run: WantedRun, *planned: PlannedDay) -> Home:
    """Return a home with a wanted run and kept plans."""
    return replace(demo_home("weir-cottage"), wanted_runs=(run,), planned_days=planned)


RUN = WantedRun(id="w1", appliance_id="wc-washer", on=ON, label="cotton")


def plan(slot: int = 9, **changes: object) -> PlannedDay:
    """Return a kept plan in quarters of an hour that starts the run at a slot."""
    return replace(PlannedDay(on=ON, parts=(PlannedPart(part_id="w1", slot=slot),)), **changes)  # type: ignore[arg-type]


class Starts(unittest.TestCase):
    def times(self, home: Home) -> list[int]:
        return [s.at_ms for s in planned_starts(home, CLOCK, BEGIN - 48 * H, BEGIN + 72 * H)]

    def test_a_run_starts_at_its_slot_of_the_local_day(self) -> None:
        home = home_of(RUN, plan())
        (start,) = planned_starts(home, CLOCK, BEGIN, BEGIN + 24 * H)
        self.assertEqual((start.at_ms, start.name), (parse_utc("2026-01-20T01:15:00Z"), "Washing machine, cotton"))
        self.assertEqual(planned_starts(home, CLOCK, start.at_ms + 1, BEGIN + 24 * H), ())

    def test_a_pin_counts_more_and_what_is_no_longer_wanted_is_not_started(self) -> None:
        self.assertEqual(self.times(home_of(replace(RUN, pinned_min=605), plan())), [BEGIN + 10 * H])
        self.assertEqual(self.times(replace(home_of(RUN, plan()), wanted_runs=())), [])
        self.assertEqual(self.times(home_of(replace(RUN, on=date(2026, 1, 21)), plan())), [])
        self.assertEqual(self.times(home_of(RUN, plan(is_infeasible=True))), [])

    def test_on_the_day_on_which_clocks_go_forward_slots_are_counted_in_time_that_passes(self) -> None:
        spring = date(2026, 3, 29)
        run = replace(RUN, on=spring)
        home = home_of(run, plan(12, on=spring))
        # Three hours after midnight of the 29th of March the wall shows four.
        begin = parse_utc("2026-03-28T23:00:00Z")
        (start,) = planned_starts(home, CLOCK, begin, begin + 23 * H)
        self.assertEqual(f"{CLOCK.local(start.at_ms):%H:%M}", "04:00")

    def test_it_is_asked_for_half_an_hour_and_never_of_what_runs_already(self) -> None:
        starts = planned_starts(home_of(RUN, plan()), CLOCK, BEGIN, BEGIN + 24 * H)
        at = starts[0].at_ms
        for minutes, running, asked in ((-1, (), 0), (0, (), 1), (29, (), 1), (30, (), 0), (5, ("wc-washer",), 0)):
            with self.subTest(minutes=minutes, running=running):
                found = starts_asked(starts, running, at + minutes * MS_PER_MIN)
                self.assertEqual(len(found), asked)
                self.assertTrue(all(each.value == 1.0 and each.is_start for each in found))


class Stores(unittest.TestCase):
    def setUp(self) -> None:
        power = (0.0,) * 8 + (3000.0,) * 4 + (0.0,) * 84
        day = PlannedDay(on=ON, parts=(PlannedPart(part_id="tank", power_w=power),))
        self.home = replace(
            demo_home("weir-cottage"), water_stores=(WaterStore(id="tank", name="Tank"),), planned_days=(day,)
        )

    def test_a_tank_is_on_in_the_slots_that_give_it_power_and_off_in_the_rest_of_the_plan(self) -> None:
        wanted = ((-1, None), (0, 0.0), (119, 0.0), (120, 1.0), (179, 1.0), (180, 0.0), (1439, 0.0), (1440, None))
        for minute, value in wanted:
            with self.subTest(minute=minute):
                found = stores_asked(self.home, CLOCK, BEGIN + minute * MS_PER_MIN)
                self.assertEqual([each.value for each in found], [] if value is None else [value])
        (heats,) = stores_asked(self.home, CLOCK, BEGIN + 150 * MS_PER_MIN)
        self.assertEqual((heats.from_ms, heats.until_ms), (BEGIN + 2 * H, BEGIN + 3 * H))

    def test_a_rule_that_asks_something_of_the_tank_counts_more(self) -> None:
        rule = AskedValue(target_id="tank", does="switch", value=0.0, kind="rule", reason="dear", from_ms=0)
        found = with_plan([rule], self.home, (), CLOCK, (), BEGIN + 150 * MS_PER_MIN)
        self.assertEqual(found, [rule])


if __name__ == "__main__":
    unittest.main()
