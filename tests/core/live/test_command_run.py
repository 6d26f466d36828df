"""A command on its way: confirmed by a reading, sent again, given up; a toggle once; a witness that can tell or cannot."""

import unittest
from dataclasses import replace

from warmeter.core.errors import HomeError, OutOfRange
from warmeter.core.home.links import CommandMapping
from warmeter.core.live.chain_timing import ChainTiming
from warmeter.core.live.command_run import (
    CommandRun,
    ShownState,
    after_restart,
    expected_of,
    heard,
    next_step,
    payload_of,
    sent,
)
from warmeter.core.live.home_clock import HomeClock
from warmeter.core.live.on_off_control import LEAST_OFF_MS, LEAST_ON_MS, SwitchedState, switched

VALVE = CommandMapping(
    id="c", target_id="valve", does="setpoint", topic="v/set", confirm_quantity="setpoint", within_s=20, tries=3
)
ASKED = CommandRun(mapping_id="c", target_id="valve", value=20.5, reason="In use", made_ms=1000)


class Sending(unittest.TestCase):
    def test_it_is_confirmed_by_the_first_reading_that_shows_it(self) -> None:
        self.assertEqual(next_step(ASKED, VALVE, 1000), "send")
        run = sent(ASKED, VALVE, 1000)
        before, other, right = ShownState(900, 20.5), ShownState(1500, 18.0), ShownState(2800, 20.5)
        self.assertEqual(heard(run, VALVE, (before, other)).state, "sent")
        done = heard(run, VALVE, (before, other, right))
        self.assertEqual((done.state, done.delay_ms), ("confirmed", 1800))

    def test_it_is_sent_three_times_with_longer_waits_then_given_up(self) -> None:
        run, times = sent(ASKED, VALVE, 1000), [1000]
        for now in range(1000, 400_000, 500):
            step = next_step(run, VALVE, now)
            if step == "send":
                run = sent(run, VALVE, now)
                times.append(now)
            elif step == "give up":
                break
        self.assertEqual(times, [1000, 21_000, 61_000])
        self.assertEqual((step, now), ("give up", 141_000))

    def test_a_toggle_is_sent_once_whatever_happens(self) -> None:
        lamp = replace(VALVE, does="switch", is_toggle=True, confirm_quantity="is_on", template="TOGGLE")
        run = sent(ASKED, lamp, 1000)
        self.assertEqual({next_step(run, lamp, now) for now in range(1000, 300_000, 1000)}, {"nothing", "give up"})
        self.assertEqual(after_restart(ASKED, lamp).state, "sent")
        self.assertEqual(after_restart(ASKED, VALVE).state, "waiting")

    def test_what_nothing_confirms_is_over_as_it_is_sent(self) -> None:
        self.assertEqual(sent(ASKED, replace(VALVE, confirm_quantity=""), 1000).state, "unconfirmed")

    def test_a_witness_tells_of_a_setpoint_only_beyond_a_kelvin(self) -> None:
        split = replace(VALVE, confirm_quantity="electric_w", witness_from=60.0)
        for asked, room, is_cooling, expected in (
            (22.0, 19.0, False, True),
            (16.0, 19.0, False, False),
            (19.5, 19.0, False, None),
            (24.0, 28.0, True, True),
            (22.0, None, False, None),
        ):
            with self.subTest(asked=asked, room=room):
                self.assertIs(
                    expected_of(replace(split, does="cooling" if is_cooling else "setpoint"), asked, room), expected
                )
        # What runs already says nothing of this command.
        self.assertIsNone(expected_of(split, 22.0, 19.0, 400.0))
        self.assertIs(expected_of(split, 22.0, 19.0, 3.0), True)
        on = replace(ASKED, expects=True)
        run = sent(on, split, 0)
        self.assertEqual(heard(run, split, (ShownState(500, 2.0),)).state, "sent")
        self.assertEqual(heard(run, split, (ShownState(500, 640.0),)).state, "confirmed")
        self.assertEqual(sent(replace(ASKED, expects=None), split, 0).state, "unconfirmed")

    def test_what_is_sent(self) -> None:
        self.assertEqual(payload_of(VALVE, 20.5), "20.5")
        self.assertEqual(payload_of(VALVE, 21.0), "21")
        switch = replace(VALVE, does="switch", template='{"state": "{value}"}')
        self.assertEqual(payload_of(switch, 1.0), '{"state": "ON"}')
        self.assertEqual(payload_of(replace(VALVE, does="share"), 0.35), "35")
        self.assertEqual(payload_of(replace(VALVE, does="text"), 0.0, "Leak"), "Leak")
        with self.assertRaisesRegex(HomeError, "value"):
            replace(VALVE, template="on")


class OnAndOff(unittest.TestCase):
    def test_a_band_and_least_times(self) -> None:
        off = SwitchedState(is_on=False, since_ms=0)
        on = SwitchedState(is_on=True, since_ms=0)
        late = max(LEAST_ON_MS, LEAST_OFF_MS)
        for room, before, now, expected in (
            (19.4, off, late, True),
            (19.6, off, late, False),
            (20.4, on, late, True),
            (20.5, on, late, False),
            (20.5, on, LEAST_ON_MS - 1, True),
            (19.0, off, LEAST_OFF_MS - 1, False),
            (None, on, late, False),
            (19.0, None, 0, True),
        ):
            with self.subTest(room=room, now=now):
                self.assertIs(switched(20.0, 1.0, room, before, now), expected)


class Clocks(unittest.TestCase):
    def test_a_made_up_clock_runs_fast_and_goes_on_when_its_speed_changes(self) -> None:
        clock = HomeClock(real_ms=1000, home_ms=500_000, speed=60)
        self.assertEqual(clock.home_at(3000), 620_000)
        self.assertEqual(clock.real_at(620_000), 3000)
        slower = clock.at_speed(10, 3000)
        self.assertEqual((slower.home_at(3000), slower.home_at(4000)), (620_000, 630_000))
        self.assertTrue(clock.is_made_up)
        with self.assertRaises(OutOfRange):
            clock.at_speed(5000, 0)


class Paths(unittest.TestCase):
    def test_seconds_from_felt_to_told_to_shut(self) -> None:
        whole = ChainTiming(begun_ms=0, felt_ms=5000, told_ms=7200, sent_ms=5400, shut_ms=9100)
        self.assertEqual((whole.told_s, whole.shut_s, whole.failed), (2.2, 1.9, ""))
        self.assertTrue(whole.is_whole)
        # Shut before anybody was told counts as at once.
        self.assertEqual(replace(whole, shut_ms=6000).shut_s, 0.0)

    def test_what_did_not_come_is_named(self) -> None:
        whole = ChainTiming(begun_ms=0, felt_ms=5000, told_ms=7200, sent_ms=5400, shut_ms=9100)
        for lacking, words in (
            (replace(whole, felt_ms=None), "no report"),
            (replace(whole, told_ms=None), "nobody was told"),
            (replace(whole, sent_ms=None, shut_ms=None), "no command"),
            (replace(whole, shut_ms=None), "obeyed"),
        ):
            with self.subTest(words):
                self.assertIn(words, lacking.failed)
        alone = ChainTiming(begun_ms=0, felt_ms=5000, told_ms=7200, answers=False)
        self.assertTrue(alone.is_whole)
        self.assertFalse(replace(whole, shut_ms=None).is_over(60_000))
        self.assertTrue(replace(whole, shut_ms=None).is_over(11 * 60_000))
