"""Logs: what is taken, what not and why; gaps, repeats, clock changes, units, resampling."""

import itertools
import unittest
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np

from tests.logs import suggested
from warmeter.core.errors import ReadingError
from warmeter.core.readings.csvlog import Column, ImportMapping, number
from warmeter.core.readings.logtable import read
from warmeter.core.readings.record import Kind, Readings, SeriesRecord, Stamp
from warmeter.core.readings.resample import mean_over_steps, usual_step_s, value_at
from warmeter.core.timegrid import LocalClock, to_ms

LONDON = LocalClock("Europe/London")
ROOMS, MACHINES = [("r1", "Study"), ("r2", "Küche")], [("m1", "Washer")]


def plan_of(*columns: Column, **settings_: Any) -> ImportMapping:
    """Return a plain plan for a comma table with one heading line."""
    plain = ImportMapping(
        delimiter=",",
        decimal=".",
        heading_line=1,
        time_column=0,
        date_format="year-month-day",
        clock="home",
        columns=columns,
    )
    return replace(plain, **settings_)


STUDY = Column(index=1, heading="Study", quantity="room_temperature", unit="°C", subject="r1")


def taken(
    lines: list[str], plan: ImportMapping | None = None, clock: LocalClock = LONDON
) -> tuple[list[float], list[tuple[str, int, str]]]:
    """Return (values of the first series, what was noted)."""
    found = read(["time,Study", *lines], plan or plan_of(STUDY), clock)
    return found.series[0].readings.value.tolist(), [(r.outcome, r.first, r.reason) for r in found.refusals]


class Lines(unittest.TestCase):
    def test_good_lines_are_taken_and_nothing_noted(self) -> None:
        self.assertEqual(taken(["2026-01-05 00:00,20.1", "2026-01-05 00:05,20.2"]), ([20.1, 20.2], []))

    def test_bad_lines_are_left_out_with_line_and_reason(self) -> None:
        for bad, why in (
            ("2026-13-05 00:05,20.2", "no date"),
            ("2026-01-05 25:05,20.2", "time of day"),
            ("soon,20.2", "not a date"),
            ("2026-01-05 00:05,warm", "not a number"),
            ("2026-01-05 00:05,225.3", "cannot be"),
            ("2026-01-05 00:05", "cut"),
            ("2026-01-05 00:05,inf", "not a number"),
        ):
            with self.subTest(bad):
                values, notes = taken(["2026-01-05 00:00,20.1", bad, "2026-01-05 00:10,20.3"])
                self.assertEqual(values, [20.1, 20.3])
                self.assertEqual(notes[0][:2], ("refused", 3))
                self.assertIn(why, notes[0][2])

    def test_empty_cells_are_gaps_without_a_word(self) -> None:
        for nothing in ("", "nan", "unavailable", "-", "N/A"):
            self.assertEqual(taken([f"2026-01-05 00:00,{nothing}", "2026-01-05 00:05,20"]), ([20.0], []))

    def test_same_time_same_value_is_taken_once(self) -> None:
        values, notes = taken(["2026-01-05 00:00,20.1"] * 3)
        self.assertEqual(values, [20.1])
        self.assertEqual(notes[0][0], "taken once")

    def test_same_time_other_value_keeps_the_first(self) -> None:
        values, notes = taken(["2026-01-05 00:00,20.1", "2026-01-05 00:00,21.5"])
        self.assertEqual(values, [20.1])
        self.assertEqual(notes[0][:2], ("refused", 3))

    def test_newest_first_files_are_turned_round(self) -> None:
        self.assertEqual(taken(["2026-01-05 00:10,3", "2026-01-05 00:05,2", "2026-01-05 00:00,1"])[0], [1.0, 2.0, 3.0])

    def test_a_gap_is_noted_with_its_length(self) -> None:
        lines = [f"2026-01-05 {h:02d}:{m:02d},20" for h in (0, 1, 9) for m in range(0, 60, 5)]
        _, notes = taken(lines)
        self.assertEqual([n[0] for n in notes], ["gap"])
        self.assertIn("7 h 05 min", notes[0][2])

    def test_plans_that_cannot_be_are_refused(self) -> None:
        for columns, why in (
            ((), "no column"),
            ((STUDY, replace(STUDY, index=2)), "same room temperature"),
            ((replace(STUDY, subject=""),), "needs a room"),
        ):
            with self.assertRaisesRegex(ReadingError, why):
                read(["time,a,b", "2026-01-05 00:00,1,2"], plan_of(*columns), LONDON)

    def test_sums_without_even_steps_are_refused(self) -> None:
        heat = Column(index=1, heading="h", quantity="heat_w", unit="Wh", kind="sum", stamp="end", subject="r1")
        with self.assertRaisesRegex(ReadingError, "even steps"):
            read(
                ["t,h", "2026-01-05 00:00,1", "2026-01-05 00:07,2", "2026-01-05 00:30,2", "2026-01-05 02:30,2"],
                plan_of(heat),
                LONDON,
            )


class Clocks(unittest.TestCase):
    def at(self, lines: list[str], plan: ImportMapping, clock: LocalClock = LONDON) -> list[int]:
        at_ms: list[int] = read(["time,Study", *lines], plan, clock).series[0].readings.at_ms.tolist()
        return at_ms

    def test_summer_time_local_utc_and_fixed_offsets(self) -> None:
        noon = to_ms(datetime(2026, 7, 1, 11, tzinfo=UTC))
        for settings_, text in (
            ({"clock": "home"}, "2026-07-01 12:00"),
            ({"clock": "utc"}, "2026-07-01 11:00"),
            ({"clock": "offset", "offset_min": 600}, "2026-07-01 21:00"),
            ({"clock": "in file"}, "2026-07-01T13:00:00+02:00"),
            ({"clock": "in file"}, "2026-07-01 11:00Z"),
            ({"date_format": "epoch"}, str(noon // 1000)),
            ({"date_format": "epoch"}, str(noon)),
            ({"date_format": "day/month/year"}, "1.7.2026 12:00"),
            ({"date_format": "month/day/year"}, "07/01/2026 12:00"),
        ):
            with self.subTest(text):
                self.assertEqual(self.at([f"{text},20"], plan_of(STUDY, **settings_)), [noon])

    def test_hours_by_twelve_are_those_by_twenty_four(self) -> None:
        for text, hour, minute in (
            ("12:00 AM", 0, 0),
            ("12:05 am", 0, 5),
            ("01:30 AM", 1, 30),
            ("11:59 a.m.", 11, 59),
            ("12:00 PM", 12, 0),
            ("12:45pm", 12, 45),
            ("1:05 PM", 13, 5),
            ("11:59:30 p.m.", 23, 59),
        ):
            wanted = to_ms(datetime(2026, 1, 5, hour, minute, tzinfo=UTC)) + (30_000 if ":30 p" in text else 0)
            with self.subTest(text):
                self.assertEqual(
                    self.at([f"1/5/2026 {text},20"], plan_of(STUDY, date_format="month/day/year")), [wanted]
                )

    def test_a_day_by_twelve_hours_rises_from_midnight_to_midnight(self) -> None:
        day = [datetime(2026, 1, 5) + timedelta(minutes=10 * k) for k in range(144)]
        lines = [f"{at:%m/%d/%Y %I:%M %p},{20 + k % 7}" for k, at in enumerate(day)]
        found = self.at(lines, plan_of(STUDY, date_format="month/day/year"))
        self.assertEqual(found, [to_ms(at.replace(tzinfo=UTC)) for at in day])

    def test_no_clock_by_twelve_shows_thirteen_or_nought(self) -> None:
        taken = read(
            ["time,Study", "1/5/2026 13:00 PM,20", "1/5/2026 0:30 AM,20", "1/5/2026 1:00 PM,20"],
            plan_of(STUDY, date_format="month/day/year"),
            LONDON,
        )
        self.assertEqual(taken.series[0].readings.at_ms.size, 1)
        self.assertEqual(sum("no time of day" in refusal.reason for refusal in taken.refusals), 2)

    def test_the_date_form_and_the_clock_column_are_seen_with_hours_by_twelve(self) -> None:
        lines = ["When,Study °F", "12/31/2025 11:50 PM,68", "1/1/2026 12:00 AM,68.2", "1/13/2026 1:10 PM,69"]
        plan = suggested(lines, rooms=ROOMS, machines=MACHINES)
        self.assertEqual((plan.date_format, plan.columns[0].unit), ("month/day/year", "°F"))
        apart = ["Date,Time,Study", "1/13/2026,1:10 PM,20", "1/14/2026,11:00 AM,21"]
        self.assertEqual(suggested(apart, rooms=ROOMS, machines=MACHINES).clock_column, 1)

    def test_a_repeated_hour_is_split_by_its_order(self) -> None:
        for clock, first, texts in (
            (LONDON, datetime(2026, 10, 25, 0, 0, tzinfo=UTC), ["01:00", "01:30", "01:00", "01:30"]),
            (
                LocalClock("Australia/Lord_Howe"),
                datetime(2026, 4, 4, 14, 30, tzinfo=UTC),
                ["01:30", "01:45", "01:30", "01:45"],
            ),
        ):
            on = "2026-10-25" if clock is LONDON else "2026-04-05"
            at = self.at([f"{on} {t},20" for t in texts], plan_of(STUDY), clock)
            self.assertEqual(at[0], to_ms(first))
            step = at[1] - at[0]
            self.assertEqual([b - a for a, b in itertools.pairwise(at)], [step] * 3)

    def test_a_repeated_hour_that_stands_once_waits_for_a_choice(self) -> None:
        lines = ["2026-10-25 00:30,19", "2026-10-25 01:30,20", "2026-10-25 02:30,21"]
        values, notes = taken(lines)
        self.assertEqual(values, [19.0, 21.0])
        self.assertIn("choose", notes[0][2])
        first, second = (self.at(lines, plan_of(STUDY, repeated_hour=c))[1] for c in ("first", "second"))
        self.assertEqual(second - first, 3_600_000)

    def test_a_skipped_time_is_refused(self) -> None:
        values, notes = taken(["2026-03-29 00:30,19", "2026-03-29 01:30,20", "2026-03-29 02:30,21"])
        self.assertEqual(values, [19.0, 21.0])
        self.assertIn("skips", notes[0][2])


class Guesses(unittest.TestCase):
    def test_a_european_logger_is_understood(self) -> None:
        lines = [
            "Logger 9; Serial 40117",
            "Zeit;Küche Temp °C;Study Heat kWh;Außen;Bat",
            "13/10/2025 00:00;21,4;0,25;8,1;2,9",
            "13/10/2025 00:15;21,3;0,20;8,0;2,9",
        ]
        plan = suggested(lines, rooms=ROOMS, machines=MACHINES)
        self.assertEqual(
            (plan.delimiter, plan.decimal, plan.heading_line, plan.date_format), (";", ",", 2, "day/month/year")
        )
        found = {c.heading: (c.quantity, c.unit, c.kind, c.subject) for c in plan.columns}
        self.assertEqual(found["Küche Temp °C"], ("room_temperature", "°C", "instant", "r2"))
        self.assertEqual(found["Study Heat kWh"], ("heat_w", "kWh", "sum", "r1"))
        self.assertEqual(found["Außen"][0], "outdoor_temperature")
        self.assertEqual(found["Bat"][0], "")

    def test_a_name_of_this_home_and_a_word_say_together_what_a_column_is(self) -> None:
        for heading, rooms, machines, expected in (
            ("Washer", ROOMS, MACHINES, ("electric_w", "W", "mean")),
            ("Washer vibration", ROOMS, MACHINES, ("machine_is_on", "1", "held")),
            ("Washer water temp", ROOMS, MACHINES, ("water_temperature", "°C", "instant")),
            ("Washer kWh", ROOMS, MACHINES, ("electric_w", "kWh", "sum")),
            ("Study", ROOMS, MACHINES, ("room_temperature", "°C", "instant")),
            ("Study humidity", ROOMS, MACHINES, ("relative_humidity", "%", "instant")),
            ("Study heat", ROOMS, MACHINES, ("heat_w", "W", "mean")),
            ("energy kWh", ROOMS, MACHINES, ("grid_import_w", "kWh", "sum")),
            ("plug W", ROOMS, (), ("", "", "instant")),
        ):
            lines = [f"time,{heading}", "2026-01-01 00:00,21", "2026-01-01 00:10,20"]
            (column,) = suggested(lines, rooms=rooms, machines=machines).columns
            with self.subTest(heading):
                self.assertEqual(column.quantity, expected[0])
                if column.quantity:
                    self.assertEqual((column.unit, column.kind), expected[1:])

    def test_offsets_and_seconds_are_seen(self) -> None:
        self.assertEqual(
            suggested(["t,Washer", "2026-01-01T00:00:00Z,3"], rooms=ROOMS, machines=MACHINES).clock, "in file"
        )
        plan = suggested(["1767225600,3", "1767225610,4"], rooms=ROOMS, machines=MACHINES)
        self.assertEqual((plan.date_format, plan.heading_line), ("epoch", 0))

    def test_what_is_no_table_is_refused_with_an_example(self) -> None:
        for lines in ([], ["hello"], ["a,b", "c,d"]):
            with self.assertRaisesRegex(ReadingError, "2026-01-20 06:45"):
                suggested(lines, rooms=ROOMS, machines=MACHINES)

    def test_typed_numbers(self) -> None:
        for text, decimal, value in (
            ("1.234,5", ",", 1234.5),
            ("\u22123.5", ".", -3.5),
            ("1e3", ".", 1000.0),
            (".5", ".", 0.5),
        ):
            self.assertEqual(number(text, decimal), value)
        for text in ("", "1,5", "--3", "0x10"):
            with self.assertRaises(ReadingError):
                number(text, ".")


def record(kind: Kind, stamp: Stamp = "start", step_s: int = 60, unit: str = "W", hold: int = 600) -> SeriesRecord:
    """Return a record of heat."""
    return SeriesRecord(
        quantity="heat_w", unit=unit, kind=kind, stamp=stamp, step_s=step_s, longest_hold_s=hold, subject="r1"
    )


def readings(at_s: list[float], values: list[float]) -> Readings:
    """Return readings at seconds."""
    return Readings(np.array([round(t * 1000) for t in at_s], dtype=np.int64), np.array(values, dtype=float))


class Resampling(unittest.TestCase):
    def test_means_sums_counters_and_held_values_of_one_power_agree(self) -> None:
        at = [60.0 * k for k in range(11)]
        for name, rec, values in (
            ("mean from start", record("mean"), [120.0] * 11),
            ("mean to end", record("mean", "end"), [120.0] * 11),
            ("sum", record("sum", unit="J"), [7200.0] * 11),
            ("counter", record("counter", unit="J"), [7200.0 * k for k in range(11)]),
            ("held", record("held", step_s=0), [120.0] * 11),
        ):
            with self.subTest(name):
                np.testing.assert_allclose(mean_over_steps(readings(at, values), rec, 60_000, 120.0, 4), 120.0)

    def test_means_on_their_own_grid_stay_as_they_are_and_off_it_are_shared_out(self) -> None:
        at, values = [0.0, 60.0, 180.0, 240.0], [10.0, 20.0, 40.0, 50.0]
        own = mean_over_steps(readings(at, values), record("mean"), -60_000, 60.0, 6)
        np.testing.assert_array_equal(own, [np.nan, 10.0, 20.0, np.nan, 40.0, 50.0])
        between = mean_over_steps(readings(at, values), record("mean"), 30_000, 60.0, 4)
        np.testing.assert_allclose(between, [15.0, np.nan, np.nan, 45.0])

    def test_uneven_means_keep_the_energy(self) -> None:
        rec = record("held", step_s=0, hold=10_000)
        found = mean_over_steps(readings([0, 37, 250, 600], [100.0, 0.0, 300.0, 0.0]), rec, 0, 300.0, 2)
        self.assertAlmostEqual(float(found.sum()) * 300, 37 * 100 + (600 - 250) * 300)

    def test_nothing_speaks_longer_than_its_hold(self) -> None:
        rec = record("held", step_s=0, hold=600)
        found = mean_over_steps(readings([0, 3600], [100.0, 100.0]), rec, 0, 600.0, 6)
        self.assertEqual(np.isnan(found).tolist(), [False, True, True, True, True, True])

    def test_a_counter_that_falls_is_a_reset_not_a_negative(self) -> None:
        rec = record("counter", unit="J")
        found = mean_over_steps(readings([0, 60, 120, 180], [0, 600, 0, 600]), rec, 0, 60.0, 3)
        np.testing.assert_allclose(found, [10.0, np.nan, 10.0])

    def test_a_step_half_heard_is_a_gap(self) -> None:
        self.assertTrue(np.isnan(mean_over_steps(readings([0], [50.0]), record("mean"), 0, 120.0, 1))[0])

    def test_temperatures_lie_on_straight_lines_but_not_over_gaps(self) -> None:
        rec = SeriesRecord(
            quantity="room_temperature",
            unit="°C",
            kind="instant",
            stamp="instant",
            step_s=300,
            longest_hold_s=900,
            subject="r1",
        )
        values = readings([0, 600, 6000], [20.0, 22.0, 18.0])
        found = value_at(values, rec, np.array([-1, 0, 300, 600, 3000, 6000, 6001]) * 1000)
        np.testing.assert_allclose(found, [np.nan, 20, 21, 22, np.nan, 18, np.nan])

    def test_held_values_keep_their_step(self) -> None:
        rec = record("held", step_s=0, hold=600)
        found = value_at(readings([0, 500], [1.0, 5.0]), rec, np.array([0, 499, 500, 1100, 1101]) * 1000)
        np.testing.assert_allclose(found, [1, 1, 5, 5, np.nan])

    def test_usual_step(self) -> None:
        self.assertEqual(usual_step_s(np.array([0, 300, 600, 905, 1205]) * 1000), 300)
        self.assertEqual(usual_step_s(np.array([0, 10, 500, 777]) * 1000), 0)
