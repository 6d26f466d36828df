"""Lamps and buttons: what a lamp says, and that a button that toggles is pressed only when its state is known and other."""

import random
import unittest

import numpy as np

from warmeter.core.home.panels import PanelFunction
from warmeter.core.panel.lamp_state import STATES, LampState, LampWatch, lamp_states
from warmeter.core.panel.panel_trial import panel_trial
from warmeter.core.panel.pressing import PressMemory, press_decision
from warmeter.simulators.panel import MOODS, Mood, SimulatedPanel

SPA = PanelFunction(id="spa", name="SPA", blink_s=1.0, watch_s=3.0, check_s=20.0)
HOUR_MS = 3_600_000


def states_of(reports: list[tuple[float, int]], at: list[float], hold_s: float = 1000.0) -> list[LampState]:
    """Return states at seconds, of reports in seconds, watched for three seconds."""
    found = lamp_states(
        np.array([round(1000 * t) for t, _ in reports], dtype=np.int64),
        np.array([float(v) for _, v in reports]),
        np.array([round(1000 * t) for t in at], dtype=np.int64),
        watch_ms=3000,
        hold_ms=round(1000 * hold_s),
    )
    return [STATES[k] for k in found.tolist()]


class Lamp(unittest.TestCase):
    def test_off_blinking_steady_and_not_known_until_watched(self) -> None:
        reports = [(0, 0), (10, 1), (10.5, 0), (11, 1), (11.5, 0), (12, 1)]
        self.assertEqual(
            states_of(reports, [2.9, 3.0, 10.2, 10.6, 12.5, 14.6, 15.1]),
            # A single change may be a lamp that came on, or one that begins to blink.
            ["unknown", "off", "unknown", "blinking", "blinking", "unknown", "steady"],
        )

    def test_a_silence_within_the_watch_is_not_known(self) -> None:
        reports = [(t / 2, 1) for t in range(20)] + [(20 + t / 2, 1) for t in range(20)]
        self.assertEqual(states_of(reports, [5, 12, 21, 23.5], hold_s=1.0), ["steady", "unknown", "unknown", "steady"])
        self.assertEqual(states_of([], [5.0]), ["unknown"])

    def test_watched_from_reading_to_reading_as_in_a_log(self) -> None:
        """Random lights with gaps, each read a quarter of a second apart: both ways say the same at every reading."""
        chance = random.Random(5)
        for _ in range(40):
            at: list[int] = []
            lit: list[float] = []
            watch, now, light = LampWatch(watch_ms=3000, hold_ms=1000), 0, False
            seen: list[tuple[int, LampState]] = []
            for _ in range(300):
                now += 250
                light = (not light) if chance.random() < chance.choice((0.02, 0.5)) else light
                dark = chance.random() < 0.1
                reading = None if dark else light
                if reading is not None:
                    at.append(now)
                    lit.append(float(reading))
                seen.append((now, watch.read(now, reading)))
            found = lamp_states(
                np.array(at), np.array(lit), np.array([t for t, _ in seen]), watch_ms=3000, hold_ms=1000
            )
            self.assertEqual([STATES[k] for k in found.tolist()], [state for _, state in seen])


class Button(unittest.TestCase):
    def decided(self, wanted: bool, state: LampState, now_s: float = 1000.0, *presses: float, failed: int = 0) -> str:
        memory = PressMemory(presses_ms=tuple(round(1000 * t) for t in presses), failed=failed, is_open=bool(presses))
        return press_decision(SPA, wanted_on=wanted, state=state, now_ms=round(1000 * now_s), memory=memory).act

    def test_pressed_only_when_the_state_is_known_and_other(self) -> None:
        self.assertEqual(self.decided(True, "off"), "press")
        self.assertEqual(self.decided(False, "steady"), "press")
        self.assertEqual(self.decided(True, "steady"), "rest")
        self.assertEqual(self.decided(True, "unknown"), "wait")
        self.assertEqual(self.decided(False, "unknown"), "wait")
        self.assertEqual(self.decided(True, "blinking"), "wait")

    def test_a_press_is_looked_after_and_tried_so_often(self) -> None:
        self.assertEqual(self.decided(True, "off", 1010.0, 1000.0), "wait")
        self.assertEqual(self.decided(True, "off", 1021.0, 1000.0), "press")
        self.assertEqual(self.decided(True, "off", 1021.0, 1000.0, failed=2), "tell")
        self.assertEqual(self.decided(True, "off", 1600.0, *(1000.0 + 60 * k for k in range(6))), "tell")

    def test_blinking_can_mean_on_or_off(self) -> None:
        for means, act in (("on", "rest"), ("off", "press")):
            function = PanelFunction(id="x", name="x", blinking_means=means)  # type: ignore[arg-type]
            found = press_decision(function, wanted_on=True, state="blinking", now_ms=10**6, memory=PressMemory())
            self.assertEqual(found.act, act)


class Trial(unittest.TestCase):
    """On the simulated panel, four hours, on twice: what looking first comes to in every mood."""

    def tried(self, mood: Mood) -> tuple[float, float, int]:
        def wanted(now_ms: int) -> bool:
            return 10 * 60_000 <= now_ms < 80 * 60_000

        looks, blind = (panel_trial(SPA, SimulatedPanel(mood), wanted, 2 * HOUR_MS, how) for how in ("looks", "blind"))
        return looks.wrong_s, blind.wrong_s, len(looks.presses_ms)

    def test_looking_first_keeps_to_what_is_wanted(self) -> None:
        """At most a minute and a half other than wanted, but where the lamp cannot be read or the button is dead."""
        for mood in MOODS:
            with self.subTest(mood):
                looks, blind, presses = self.tried(mood)
                if mood == "dead":
                    self.assertEqual((looks, presses), (70 * 60.0, SPA.tries))
                elif mood == "dim":
                    self.assertEqual(looks, 4 * 60.0 + SPA.watch_s)  # unread until the fourteenth minute, then watched
                else:
                    self.assertLess(looks, 90.0)
                    self.assertLessEqual(presses, 10)
                if mood in ("deaf", "wilful", "shared"):
                    self.assertGreater(blind, 30 * 60.0)
