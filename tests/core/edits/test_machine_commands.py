"""Commands on machines: settings, labels of cycles and phases, counting."""

import unittest
from datetime import date

from tests.homes import done, small_home
from warmeter.core.edits.cycle_labels import CycleSpan
from warmeter.core.edits.machine_commands import (
    AddCycle,
    AddMachine,
    ChangeMachine,
    ChangeRunWindow,
    CountAnew,
    ForgetCycleLabels,
    ForgetSetting,
    JoinCycles,
    NameCycle,
    NamePhase,
    RejectCycle,
    RetypeCycle,
    SplitCycle,
    UseSetting,
)
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance
from warmeter.core.timegrid import parse_utc

DAY = date(2026, 1, 14)


def at(clock: str) -> int:
    return parse_utc(f"2026-01-14T{clock}:00Z")


RUN, NEXT = CycleSpan(at("10:00"), at("11:00")), CycleSpan(at("11:10"), at("12:00"))


def machine(home: Home) -> Appliance:
    return home.appliance("washer")


def marks(home: Home) -> list[tuple[int, int, bool, str]]:
    """Return what a person has said of the log: start, end, whether it is a cycle, programme; later words win."""
    held: list[tuple[int, int, bool, str]] = []
    for m in machine(home).marks:
        held = [h for h in held if h[1] <= m.start_ms or h[0] >= m.end_ms]
        held.append((m.start_ms, m.end_ms, m.is_cycle, m.programme))
    return sorted(held)


class Machines(unittest.TestCase):
    def test_a_setting_takes_the_place_of_the_one_that_tells_the_same(self) -> None:
        home = done(
            small_home(),
            UseSetting(machine_id="washer", tells="finished", threshold_w=5, wait_min=4),
            UseSetting(machine_id="washer", tells="started", threshold_w=20, wait_min=1),
            UseSetting(machine_id="washer", tells="finished", threshold_w=6, wait_min=2.5, hysteresis_w=1),
        )
        told = {s.tells: (s.threshold_w, s.wait_s, s.hysteresis_w) for s in machine(home).settings}
        self.assertEqual(told, {"started": (20, 60, 0), "finished": (6, 150, 1)})
        left = done(home, ForgetSetting(machine_id="washer", tells="finished"))
        self.assertEqual([s.tells for s in machine(left).settings], ["started"])

    def test_labels_of_cycles(self) -> None:
        named = done(small_home(), NameCycle(machine_id="washer", span=RUN, programme="cotton"))
        self.assertEqual(marks(named), [(*(RUN.start_ms, RUN.end_ms), True, "cotton")])
        split = done(named, SplitCycle(machine_id="washer", span=RUN, time=630))
        self.assertEqual(
            marks(split), [(at("10:00"), at("10:30"), True, "cotton"), (at("10:30"), at("11:00"), True, "cotton")]
        )
        joined = done(named, JoinCycles(machine_id="washer", span=RUN, next=NEXT))
        self.assertEqual(marks(joined), [(RUN.start_ms, NEXT.end_ms, True, "cotton")])
        rejected = done(named, RejectCycle(machine_id="washer", span=RUN))
        self.assertEqual([m[2] for m in marks(rejected)], [False])
        self.assertEqual(marks(done(rejected, ForgetCycleLabels(machine_id="washer", span=RUN))), [])

    def test_a_retyped_cycle_keeps_its_name_and_a_far_one_leaves_none_behind(self) -> None:
        def typed(start: int, end: int) -> RetypeCycle:
            return RetypeCycle(
                machine_id="washer", span=RUN, start_day=DAY, start_time=start, end_day=DAY, end_time=end
            )

        named = done(small_home(), NameCycle(machine_id="washer", span=RUN, programme="cotton"))
        self.assertEqual(marks(done(named, typed(590, 655))), [(at("09:50"), at("10:55"), True, "cotton")])
        far = done(named, typed(900, 960))
        self.assertEqual([(m[0], m[2]) for m in marks(far)], [(at("10:00"), False), (at("15:00"), True)])
        with self.assertRaisesRegex(HomeError, "end after it starts"):
            done(named, typed(660, 660))
        added = done(
            small_home(),
            AddCycle(machine_id="washer", start_day=DAY, start_time=1380, end_day=date(2026, 1, 15), end_time=30),
        )
        self.assertEqual([m[1] - m[0] for m in marks(added)], [90 * 60_000])

    def test_a_phase_s_name_is_given_and_taken_away(self) -> None:
        home = done(small_home(), NamePhase(machine_id="washer", low_w=1800, high_w=2200, name="heating"))
        self.assertEqual([(p.name, p.low_w, p.high_w) for p in machine(home).phase_names], [("heating", 1800, 2200)])
        other = done(home, NamePhase(machine_id="washer", low_w=100, high_w=300, name="spinning"))
        self.assertEqual({p.name for p in machine(other).phase_names}, {"heating", "spinning"})
        gone = done(other, NamePhase(machine_id="washer", low_w=1800, high_w=2200))
        self.assertEqual([p.name for p in machine(gone).phase_names], ["spinning"])

    def test_counting_kind_and_window(self) -> None:
        home = done(
            small_home(),
            CountAnew(machine_id="washer", at_ms=at("10:00")),
            ChangeMachine(machine_id="washer", values={"name": "Old washer", "kind": "dishwasher"}),
            ChangeRunWindow(machine_id="washer", values={"earliest_min": 480, "start_step_min": 30}),
        )
        changed = machine(home)
        self.assertEqual(
            (changed.counted_since_ms, changed.name, changed.kind), (at("10:00"), "Old washer", "dishwasher")
        )
        self.assertEqual((changed.earliest_min, changed.start_step_min, changed.latest_end_min), (480, 30, 1440))
        self.assertIsNone(machine(done(home, CountAnew(machine_id="washer"))).counted_since_ms)
        added = AddMachine(name="Dryer", kind="condenser_dryer").edit(home)
        self.assertEqual((added.home.appliance(added.selected or "").name, len(added.home.appliances)), ("Dryer", 2))


if __name__ == "__main__":
    unittest.main()
