"""The lists of the demo homes: three lines of each reckoned by hand from the files that were imported."""

import unittest
from datetime import datetime, timedelta
from typing import ClassVar
from zoneinfo import ZoneInfo

import numpy as np

from tests.served import fresh_app
from warmeter.core.matters.line import MatterLine
from warmeter.service.app import App
from warmeter.service.homes.demo import DEMO, demo_home
from warmeter.service.homes.editing import create_home
from warmeter.service.matters.home_evidence import home_evidence, matters
from warmeter.service.readings import logs
from warmeter.simulators import demo
from warmeter.simulators.cottage import cottage_logs
from warmeter.simulators.faults import as_found

LONDON, PRAGUE = ZoneInfo("Europe/London"), ZoneInfo("Europe/Prague")
# What a kWh drawn evenly over a year costs: hours of each rate by hand.
LOFT_MEAN = (6 * 365 * 0.142 + 4 * 120 * 5 / 7 * 0.446 + (18 * 365 - 4 * 120 * 5 / 7) * 0.268) / 8760
COTTAGE_MEAN = (8 * 0.13 + 16 * 0.29) / 24


def loft_price(at: datetime) -> float:
    if at.weekday() < 5 and at.month in (11, 12, 1, 2) and 16 <= at.hour < 20:
        return 0.446
    return 0.142 if at.hour < 6 else 0.268


def cottage_price(at: datetime) -> float:
    return 0.13 if at.hour >= 22 or at.hour < 6 else 0.29


def column(text: str, index: int, zone: ZoneInfo) -> tuple[list[datetime], np.ndarray]:
    """Return the local times and the values of a log's column."""
    rows = [line.split(",") for line in text.splitlines()[1:]]
    at = [datetime.fromisoformat(row[0].replace("Z", "+00:00")) for row in rows]
    local = [each.astimezone(zone) if each.tzinfo else each.replace(tzinfo=zone) for each in at]
    return local, np.array([float(row[index]) if row[index] else np.nan for row in rows])


def runs_of(watts: np.ndarray, steps_of_quiet: int) -> list[tuple[int, int]]:
    """Return runs by the plainest rule: over 10 W, parted by so many quiet steps, at least ten minutes long."""
    on = np.flatnonzero(np.nan_to_num(watts) > 10.0)
    edges = np.flatnonzero(np.diff(on) > steps_of_quiet)
    begins, ends = on[np.append(0, edges + 1)], on[np.append(edges, on.size - 1)] + 1
    return [(int(a), int(b)) for a, b in zip(begins, ends, strict=True) if np.nansum(watts[a:b]) > 0]


class DemoLists(unittest.TestCase):
    app: ClassVar[App]

    @classmethod
    def setUpClass(cls) -> None:
        cls.app = fresh_app()
        loft, cottage = as_found(demo_home("sail-loft")), demo_home("weir-cottage")
        for home in (loft, cottage, demo_home("terrace-nine")):
            create_home(cls.app, home, DEMO)
        machines = cottage_logs(cottage)[2]
        files = (demo.room_log_csv(), demo.machine_log_csv(), demo.meter_log_csv())
        for home, log in (*((loft, each) for each in files), (cottage, machines)):
            upload = logs.keep_upload(cls.app, log.file_name, [log.text.encode()])
            logs.take(cls.app, home.id, upload, logs.proposal(cls.app, home, upload).suggested, DEMO)

    def line(self, home_id: str, key: str) -> MatterLine:
        home, revision = self.app.homes.load(home_id)
        return next(line for line in matters(self.app, home, revision).lines if line.key == key)

    def money(self, home_id: str, key: str) -> float:
        line = self.line(home_id, key)
        assert line.money is not None, (line.sentence, line.why)
        return line.money.value

    def standby_by_hand(self, watts: np.ndarray, step_s: float, price: float) -> float:
        """Return what cutting saves: the last week's usual least, all hours outside runs, less half a watt of the plug."""
        week = watts[-round(7 * 86_400 / step_s) :]
        rest = float(np.nanmedian(week[week < 10]))
        busy = sum(b - a for a, b in runs_of(watts, round(360 / step_s))) / np.isfinite(watts).sum()
        return float((rest * (1 - busy) - 0.5) * 8.76 * price)

    def test_what_runs_all_night_in_the_bindery(self) -> None:
        at, kwh = column(demo.meter_log_csv().text, 1, LONDON)
        nights: dict[object, list[float]] = {}
        for when, each in zip(at, kwh, strict=True):
            if 1 <= when.hour < 5:
                nights.setdefault(when.date(), []).append(each * 4000)
        floor = float(np.median([np.quantile(night, 0.1) for night in nights.values()]))
        rest = 0.0
        for index in (1, 2):
            _, watts = column(demo.machine_log_csv().text, index, LONDON)
            week = watts[-30_240:]
            rest += float(np.nanmedian(week[week < 10]))
        self.assertAlmostEqual(self.money("sail-loft", "night"), 0.25 * (floor - rest) * 8.76 * LOFT_MEAN, delta=0.5)

    def test_the_washing_machines_rest(self) -> None:
        _, watts = column(demo.machine_log_csv().text, 1, LONDON)
        self.assertAlmostEqual(
            self.money("sail-loft", "standby:ap-washer"), self.standby_by_hand(watts, 20, LOFT_MEAN), delta=0.4
        )
        for index, key in ((1, "standby:wc-washer"), (2, "standby:wc-dryer")):
            _, watts = column(cottage_logs(demo_home("weir-cottage"))[2].text, index, PRAGUE)
            by_hand = self.standby_by_hand(watts, 60, COTTAGE_MEAN)
            self.assertAlmostEqual(self.money("weir-cottage", key), by_hand, delta=0.4)

    def test_runs_at_expensive_hours(self) -> None:
        for home_id, key, text, zone, step_s, price, window in (
            ("sail-loft", "hour:ap-washer", demo.machine_log_csv().text, LONDON, 20, loft_price, (6, 23)),
            (
                "weir-cottage",
                "hour:wc-washer",
                cottage_logs(demo_home("weir-cottage"))[2].text,
                PRAGUE,
                60,
                cottage_price,
                (0, 24),
            ),
        ):
            with self.subTest(home_id):
                at, watts = column(text, 1, zone)
                over = 0.0
                for begin, end in runs_of(watts, round(1200 / step_s)):
                    if (end - begin) * step_s < 600:
                        continue
                    costs = {}
                    midnight = at[begin].replace(hour=0, minute=0, second=0)
                    length = (end - begin) * step_s / 3600
                    starts = [midnight + timedelta(minutes=m) for m in range(window[0] * 60, window[1] * 60 + 1, 30)]
                    for start in [*starts, at[begin]]:
                        hours = (start - midnight).total_seconds() / 3600
                        if hours + length <= max(window[1], (at[begin] - midnight).total_seconds() / 3600 + length):
                            costs[start] = sum(
                                np.nan_to_num(watts[begin + k])
                                * step_s
                                / 3.6e6
                                * price(start + timedelta(seconds=k * step_s))
                                for k in range(end - begin)
                            )
                    actual = costs[at[begin]]
                    saved = actual - min(costs.values())
                    over += saved if saved > 0.05 * actual else 0.0
                days = len(watts) * step_s / 86_400
                self.assertAlmostEqual(self.money(home_id, key), over * 365 / days, delta=0.1 * over * 365 / days)

    def test_terrace_nine_waits_and_its_sensors_by_hand(self) -> None:
        self.assertEqual(self.line("terrace-nine", "silent:tn-dish").kind, "waits")
        self.assertIn("3 of 3", self.line("terrace-nine", "silent-rooms").sentence)
        home, revision = self.app.homes.load("terrace-nine")
        evidence = home_evidence(self.app, home, revision)
        climate, squares = evidence.climate, 0.0
        assert climate is not None
        for zone in home.zones:
            per_k = 0.0
            for room in (r for r in evidence.rooms if r.zone_id == zone.id):
                for outdoor, share, over in zip(climate.outdoor_c, climate.share, room.heat_over_draw, strict=True):
                    if outdoor + room.gain_w / room.loss_w_k.value < room.mean_c:
                        per_k += room.loss_w_k.value * 8.76 * share * room.price / over
            squares += (0.5 * per_k) ** 2
        line = self.line("terrace-nine", "sensors")
        assert line.money is not None, (line.sentence, line.why)
        self.assertAlmostEqual(line.money.high, squares**0.5, places=6)
        self.assertEqual(line.money.value, 0.0)

    def test_danger_stands_first_and_the_sum_holds_its_lines(self) -> None:
        home, revision = self.app.homes.load("sail-loft")
        found = matters(self.app, home, revision)
        self.assertEqual(found.lines[0].kind, "danger")
        amounts = [line.money for line in found.lines if line.money]
        self.assertAlmostEqual(found.total.value, sum(money.value for money in amounts))
        widest = max(money.high - money.low for money in amounts)
        self.assertGreater(found.total.width, widest)
        self.assertLess(found.total.width, sum(money.high - money.low for money in amounts))
