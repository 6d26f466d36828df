"""Devices that fall silent at once are one cause; one alone is its own; who is told, within what."""

import unittest
from dataclasses import replace

from warmeter.core.live.device_health import HeardDevice
from warmeter.core.live.silence import gone_together, told_within
from warmeter.core.units import MS_PER_MIN
from warmeter.service.homes.demo import demo_home

CUT = 1_000 * MS_PER_MIN


def heard_until(ends: dict[str, tuple[float, float]], now_min: float) -> list[HeardDevice]:
    """Return devices by (minutes after the cut at which each was last heard, rhythm in minutes)."""
    return [
        HeardDevice(
            device_id=key,
            last_ms=CUT + round(last * MS_PER_MIN),
            rhythm_s=None if rhythm == 0 else rhythm * 60,
            now_ms=CUT + round(now_min * MS_PER_MIN),
        )
        for key, (last, rhythm) in ends.items()
    ]


# Six fast ones, three slow ones, and a contact that speaks when it is opened only.
ALL = (
    {f"f{k}": (-0.1 * k, 1.0) for k in range(6)}
    | {f"s{k}": (-4.0 - 5 * k, 20.0) for k in range(3)}
    | {"c": (-200.0, 0.0)}
)


class Together(unittest.TestCase):
    def test_a_power_cut_is_one_cause_from_the_first_device_that_counts_as_quiet(self) -> None:
        self.assertEqual(gone_together(heard_until(ALL, 9.0)), ())
        found = {each.device_id for each in gone_together(heard_until(ALL, 10.1))}
        self.assertEqual(found, {f"f{k}" for k in range(6)})
        late = {each.device_id for each in gone_together(heard_until(ALL, 130.0))}
        self.assertGreaterEqual(late, {f"f{k}" for k in range(6)})

    def test_one_that_dies_alone_is_no_cut(self) -> None:
        for dead in ("f0", "s1"):
            speaking = {key: (119.5, rhythm) for key, (_, rhythm) in ALL.items()} | {dead: ALL[dead]}
            devices = heard_until(speaking, 120.0)
            self.assertTrue(any(each.is_quiet for each in devices))
            self.assertEqual(gone_together(devices), ())

    def test_what_died_days_before_counts_for_neither(self) -> None:
        old = {f"o{k}": (-5000.0 - k, 1.0) for k in range(9)}
        speaking = {key: (29.8, rhythm) for key, (_, rhythm) in ALL.items()}
        self.assertEqual(gone_together(heard_until(old | speaking, 30.0)), ())
        found = {each.device_id for each in gone_together(heard_until(old | ALL, 12.0))}
        self.assertEqual(found, {f"f{k}" for k in range(6)})


class Within(unittest.TestCase):
    def test_an_alarm_sensor_that_was_never_heard_cannot_be_missed(self) -> None:
        base = demo_home("sail-loft")
        home = replace(base, link=replace(base.link, group_id=base.notification_groups[0].id))
        devices = heard_until({"dv-leak": (-1.0, 0.0), "dv-meter": (-1.0, 1.0)}, 0.0)
        rows = told_within(home, devices)
        leak = next(each for each in rows if each.device_id == "dv-leak")
        # It tells changes only: six hours.
        self.assertEqual((leak.within_ms, leak.group_id), (6 * 60 * MS_PER_MIN, home.notification_groups[0].id))
        others = [each for each in rows if each.kind == "sensor" and each.device_id != "dv-leak"]
        self.assertTrue(others)
        self.assertTrue(all(each.within_ms is None for each in others))
        last = {each.kind: each for each in rows}
        self.assertEqual((last["warmeter"].group_id, last["link"].within_ms), ("", MS_PER_MIN))


if __name__ == "__main__":
    unittest.main()
