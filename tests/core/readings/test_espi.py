"""Meters' data: ESPI XML, several series in one column, counters, a clock by itself; read safely and never doubled."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.logs import suggested
from warmeter.core.errors import ReadingError
from warmeter.core.readings.espi import looks_like_espi, read_espi
from warmeter.core.readings.logtable import read
from warmeter.core.readings.record import Readings, SeriesRecord, unrolled
from warmeter.core.readings.resample import mean_over_steps
from warmeter.core.timegrid import LocalClock
from warmeter.simulators.machines.corruption import counter_kwh

LONDON = LocalClock("Europe/London")
START_S = 1_767_225_600  # 1 January 2026, 00:00 UTC


def entry(self_link: str, content: str, related: str = "", up: str = "") -> str:
    """Return one Atom entry."""
    links = f'<link rel="self" href="{self_link}"/>'
    links += f'<link rel="related" href="{related}"/>' if related else ""
    links += f'<link rel="up" href="{up}"/>' if up else ""
    return f"<entry>{links}<content>{content}</content></entry>"


def reading_type(number: int, *, flow: int = 1, power: int = 0, uom: int = 72, accumulation: int = 4) -> str:
    """Return an entry of a reading type."""
    words = (
        f"<ReadingType xmlns='http://naesb.org/espi'><accumulationBehaviour>{accumulation}</accumulationBehaviour>"
        f"<flowDirection>{flow}</flowDirection><powerOfTenMultiplier>{power}</powerOfTenMultiplier><uom>{uom}</uom></ReadingType>"
    )
    return entry(f"/type/{number}", words)


def meter(number: int) -> str:
    """Return an entry of a meter reading that links to its type and its blocks."""
    content = "<MeterReading xmlns='http://naesb.org/espi'/>"
    return entry(f"/meter/{number}", content, related=f"/type/{number}").replace(
        "</entry>", f'<link rel="related" href="/meter/{number}/blocks"/></entry>'
    )


def block(number: int, values: list[int], length_s: int = 900) -> str:
    """Return an entry of interval readings."""
    inside = "".join(
        f"<IntervalReading><timePeriod><duration>{length_s}</duration><start>{START_S + k * length_s}</start></timePeriod>"
        f"<value>{v}</value></IntervalReading>"
        for k, v in enumerate(values)
    )
    return entry(
        f"/block/{number}",
        f"<IntervalBlock xmlns='http://naesb.org/espi'>{inside}</IntervalBlock>",
        up=f"/meter/{number}/blocks",
    )


def feed(*entries: str) -> bytes:
    """Return a whole file."""
    return f"<?xml version='1.0'?><feed xmlns='http://www.w3.org/2005/Atom'>{''.join(entries)}</feed>".encode()


class Espi(unittest.TestCase):
    def test_import_and_export_are_two_series_in_their_units(self) -> None:
        data = feed(
            reading_type(1, power=-3),
            meter(1),
            block(1, [250_000, 500_000]),
            reading_type(2, flow=19),
            meter(2),
            block(2, [0, 30]),
        )
        self.assertTrue(looks_like_espi(data))
        found = {s.record.quantity: s for s in read_espi(data).series}
        self.assertEqual(set(found), {"grid_import_w", "grid_export_w"})
        self.assertEqual(found["grid_import_w"].readings.value.tolist(), [250.0, 500.0])
        record = found["grid_import_w"].record
        self.assertEqual((record.unit, record.kind, record.step_s), ("Wh", "sum", 900))
        watts = mean_over_steps(
            found["grid_import_w"].readings.in_stored_unit(record), record, START_S * 1000, 900.0, 2
        )
        np.testing.assert_allclose(watts, [1000.0, 2000.0])

    def test_a_register_is_a_counter_and_power_a_mean(self) -> None:
        for kwargs, kind in (({"accumulation": 3}, "counter"), ({"uom": 38}, "mean")):
            found = read_espi(feed(reading_type(1, **kwargs), meter(1), block(1, [10, 20, 35])))
            self.assertEqual(found.series[0].record.kind, kind)

    def test_one_type_alone_needs_no_links(self) -> None:
        found = read_espi(feed(reading_type(1), block(9, [5, 6])))
        self.assertEqual(found.series[0].readings.value.tolist(), [5.0, 6.0])

    def test_other_units_are_counted_and_left_out(self) -> None:
        found = read_espi(
            feed(reading_type(1), meter(1), block(1, [5]), reading_type(2, uom=119), meter(2), block(2, [7, 8]))
        )
        self.assertEqual(len(found.series), 1)
        self.assertIn("2 intervals", found.refusals[0].reason)

    def test_a_number_that_no_meter_gives_is_told(self) -> None:
        good = feed(reading_type(1), meter(1), block(1, [100, 200])).decode()
        self.assertEqual(read_espi(good.encode()).lines, 2)
        for old, new, why in (
            ("<powerOfTenMultiplier>0<", "<powerOfTenMultiplier>x<", "powerOfTenMultiplier is 'x'"),
            ("<powerOfTenMultiplier>0<", "<powerOfTenMultiplier>²<", "powerOfTenMultiplier"),
            ("<powerOfTenMultiplier>0<", "<powerOfTenMultiplier>99<", "from −12 to 12"),
            ("<value>200<", "<value>nan<", "an interval has no time or no value"),
            ("<value>200<", "<value>1e400<", "an interval has no time or no value"),
            ("<start>", "<start>9999999", "an interval has no time or no value"),
        ):
            self.assertIn(old, good)
            with self.assertRaisesRegex(ReadingError, why):
                read_espi(good.replace(old, new).encode())

    def test_what_could_do_harm_or_is_no_interval_data_is_refused(self) -> None:
        bomb = b"<?xml version='1.0'?><!DOCTYPE x [<!ENTITY a 'ha'><!ENTITY b '&a;&a;&a;'>]><feed>&b;</feed>"
        outside = b"<!DOCTYPE f SYSTEM 'file:///etc/hostname'><feed xmlns='http://www.w3.org/2005/Atom'/>"
        padded = b"<?xml version='1.0'?>" + b" " * 9000 + b"<!DOCTYPE x [<!ENTITY a 'ha'>]><feed>&a;</feed>"
        for data, why in (
            (bomb, "document type"),
            (outside, "document type"),
            (padded, "document type"),
            (feed(reading_type(1))[:-9], "not well formed"),
            (feed(reading_type(1)), "no interval readings"),
            (feed(reading_type(1), block(1, [1])).replace(b"<value>1</value>", b"<value>x</value>"), "no value"),
        ):
            with self.assertRaisesRegex(ReadingError, why):
                read_espi(data)


class Channels(unittest.TestCase):
    LINES = (
        "channel,start,kWh",
        "B1,2026-01-05 00:00:00,0.1",
        "B1,2026-01-05 00:05:00,0.2",
        "E1,2026-01-05 00:00:00,0.5",
        "E1,2026-01-05 00:05:00,0.25",
        "E1,2026-01-05 00:10:00,0.25",
    )

    def test_import_and_export_in_one_column_become_two_series(self) -> None:
        plan = suggested(self.LINES, rooms=[], machines=[])
        found = {s.record.quantity: s for s in read(self.LINES, plan, LONDON).series}
        self.assertEqual(found["grid_export_w"].readings.value.tolist(), [0.1, 0.2])
        self.assertEqual(found["grid_import_w"].readings.value.tolist(), [0.5, 0.25, 0.25])
        self.assertEqual({s.record.kind for s in found.values()}, {"sum"})
        self.assertEqual({s.left_out for s in found.values()}, {0})

    def test_a_time_of_day_in_its_own_column_is_joined_to_its_date(self) -> None:
        lines = (
            "day,from,to,usage kWh",
            "05/01/2026,00:00,00:15,0.5",
            "05/01/2026,00:15,00:30,0.25",
            "05/01/2026,00:30,00:45,x",
        )
        plan = suggested(lines[:3], rooms=[], machines=[])
        self.assertEqual((plan.time_column, plan.clock_column), (0, 1))
        found = read(lines, plan, LONDON)
        self.assertEqual(np.diff(found.series[0].readings.at_ms).tolist(), [900_000])
        self.assertEqual([r.reason for r in found.refusals], ["usage kWh: 'x' is not a number"])


class Counters(unittest.TestCase):
    def record(self, unit: str = "kWh") -> SeriesRecord:
        """Return the record of a counter."""
        return SeriesRecord(
            quantity="electric_w",
            unit=unit,
            kind="counter",
            stamp="instant",
            step_s=900,
            longest_hold_s=21_600,
            subject="m",
        )

    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(st.lists(st.floats(0, 3000), min_size=2, max_size=60), st.floats(0, 99.9))
    def test_power_comes_back_from_a_counter_that_rolls_over(self, power: list[float], start_kwh: float) -> None:
        watts = np.array(power)
        counter = counter_kwh(watts, 900, digits=2, start_kwh=start_kwh)
        first = START_S * 1000
        at = first + np.arange(watts.size) * 900_000
        record = self.record()
        found = mean_over_steps(Readings(at, counter).in_stored_unit(record), record, first, 900.0, watts.size - 1)
        # The counter shows whole watt-hours: two of them in a quarter of an hour are 8 W.
        np.testing.assert_allclose(found, watts[1:], atol=8.0)

    def test_a_reset_is_no_roll_over_and_nothing_is_known_of_its_step(self) -> None:
        record, first = self.record(), START_S * 1000
        at = first + np.arange(5) * 900_000
        counter = np.array([41.0, 41.5, 0.0, 0.25, 0.5])
        self.assertEqual(unrolled(counter).tolist(), counter.tolist())
        found = mean_over_steps(Readings(at, counter).in_stored_unit(record), record, first, 900.0, 4)
        np.testing.assert_allclose(found, [2000.0, np.nan, 1000.0, 1000.0])

    def test_short_counters(self) -> None:
        self.assertEqual(unrolled(np.array([5.0])).tolist(), [5.0])
        self.assertEqual(unrolled(np.array([9.9, 0.1])).tolist(), [9.9, 0.1], "too small a register to say")


class FastAndSlow(unittest.TestCase):
    """Lines alike are read in columns; a quote in every line forces each to be read by itself."""

    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(
        st.lists(
            st.sampled_from(["1.5", "-3", "", "x", "1e2", "nan", "1_0", "70000", " 4 ", "\u22125"]),
            min_size=3,
            max_size=40,
        ),
        st.sampled_from(["%Y-%m-%d %H:%M:%S", "%Y-%m-%dT%H:%M:%SZ", "%Y/%m/%d %H:%M"]),
        st.sampled_from(["2026-03-29 00:40", "2026-10-25 00:20", "2026-02-27 23:30"]),
    )
    def test_both_ways_say_the_same(self, values: list[str], form: str, start: str) -> None:
        first = np.datetime64(start, "m")
        times = [(first + 7 * k).astype("M8[s]").item().strftime(form) for k in range(len(values))]
        odd = {3: "2026-02-30 10:00", 5: "2026-13-01 10:00", 7: "tomorrow"}
        times = [odd.get(k, t) for k, t in enumerate(times)]
        plain = ["time,a power W", *(f"{t},{v}" for t, v in zip(times, values, strict=True))]
        quoted = ["time,a power W", *(f'"{t}","{v}"' for t, v in zip(times, values, strict=True))]
        plan = suggested(["time,a power W", f"{times[0]},1"], rooms=[], machines=[("m", "a")])
        held = replace(plan, columns=tuple(replace(c, kind="held") for c in plan.columns))
        one, other = read(plain, held, LONDON), read(quoted, held, LONDON)
        self.assertEqual(one.refusals, other.refusals)
        self.assertEqual(one.series[0].readings.at_ms.tolist(), other.series[0].readings.at_ms.tolist())
        self.assertEqual(one.series[0].readings.value.tolist(), other.series[0].readings.value.tolist())
        self.assertEqual(one.series[0].left_out, other.series[0].left_out)

    def test_progress_is_told_and_what_it_raises_stops_the_reading(self) -> None:
        lines = [
            "time,a power W",
            *(f"2026-01-05 {k // 3600:02d}:{k // 60 % 60:02d}:{k % 60:02d},1" for k in range(60_000)),
        ]
        plan = suggested(lines[:20], rooms=[], machines=[("m", "a")])
        told: list[int] = []
        read(lines, plan, LONDON, told.append)
        self.assertEqual(told, [50_001, 60_001])

        def stop(_: int) -> None:
            raise InterruptedError

        with self.assertRaises(InterruptedError):
            read(lines, plan, LONDON, stop)


if __name__ == "__main__":
    unittest.main()
