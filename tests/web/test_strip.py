"""The strip's geometry and the numbers on it."""

import unittest
from datetime import date

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from tests.homes import small_home
from warmeter.core.figure import Figure, Input, Sensitivity
from warmeter.core.thermal.room_fit import Estimate
from warmeter.web import format as show
from warmeter.web.strip.draw import AXIS, LEFT, RIGHT, Mark, draw
from warmeter.web.strip.lanes import (
    Axis,
    Bracket,
    Curve,
    Lane,
    ReferenceLine,
    StripBlock,
    StripStep,
    StripStretch,
    StripView,
    Tick,
    Wedge,
)
from warmeter.web.strip.thin import thinned
from warmeter.web.timetable.lanes import fitting_width, hatch_step
from warmeter.web.working import working_view

DAY = Axis(length=1440.0, grid=[(0.0, True)], numerals=[(0.0, "00")], table_times=["00:00"])


def marks_of(lane: Lane, width: int = 792, axis: Axis = DAY) -> list[Mark]:
    """Return the marks of a strip with one lane."""
    return draw(StripView(id="s", title="t", axis=axis, lanes=[lane], width=width)).marks


def of_class(marks: list[Mark], name: str) -> list[Mark]:
    """Return the marks of a class."""
    return [mark for mark in marks if name in mark.attributes.get("class", "").split()]


def numbers(path: str) -> np.ndarray:
    """Return a path's points."""
    text = path.replace("M", " ").replace("L", " ").replace("Z", " ")
    return np.array([float(x) for x in text.split()]).reshape(-1, 2)


class Geometry(unittest.TestCase):
    def test_a_curve_runs_over_the_plot_from_gutter_to_gutter(self) -> None:
        lane = Lane(
            name="x", height=44, low=0.0, high=10.0, curves=(Curve(values=np.linspace(0, 10, 1441), css="wm-temp"),)
        )
        points = numbers(of_class(marks_of(lane), "wm-temp")[0].attributes["d"])
        self.assertEqual(points[0, 0], LEFT)
        self.assertAlmostEqual(points[-1, 0], 792 - RIGHT, delta=3)
        self.assertEqual((points[0, 1], points[-1, 1]), (AXIS + 44, AXIS + 4))

    def test_a_straight_line_needs_two_points_and_a_gap_breaks_it(self) -> None:
        values = np.linspace(0, 10, 1441)
        whole = of_class(
            marks_of(Lane(name="x", low=0.0, high=10.0, curves=(Curve(values=values, css="wm-temp"),))), "wm-temp"
        )
        self.assertEqual(len(numbers(whole[0].attributes["d"])), 2)
        values[600:700] = np.nan
        parted = of_class(
            marks_of(Lane(name="x", low=0.0, high=10.0, curves=(Curve(values=values, css="wm-temp"),))), "wm-temp"
        )
        self.assertEqual(parted[0].attributes["d"].count("M"), 2)

    def test_an_empty_curve_draws_nothing(self) -> None:
        lane = Lane(
            name="x",
            curves=(Curve(values=np.full(10, np.nan), css="wm-temp"),),
            fills=(Curve(values=np.full(10, np.nan), css="wm-pw"),),
        )
        self.assertFalse(of_class(marks_of(lane), "wm-temp") + of_class(marks_of(lane), "wm-pw"))

    @settings(deadline=None, derandomize=True, max_examples=60)
    @given(st.lists(st.floats(0, 100), min_size=3, max_size=80))
    def test_thinning_stays_within_its_tolerance(self, heights: list[float]) -> None:
        points = np.column_stack([np.arange(len(heights), dtype=float) * 2, heights])
        kept = thinned(points, 0.5)
        self.assertTrue((kept[[0, -1]] == points[[0, -1]]).all())
        between = np.interp(points[:, 0], kept[:, 0], kept[:, 1])
        slopes = np.abs(np.gradient(between, points[:, 0])).max() if len(points) > 2 else 0
        self.assertLessEqual(float(np.abs(between - points[:, 1]).max()), 0.5 * np.hypot(1, slopes) * 3 + 0.5)

    def test_values_beyond_the_lane_are_cut_at_its_edge(self) -> None:
        lane = Lane(
            name="x",
            height=44,
            low=0.0,
            high=10.0,
            curves=(Curve(values=np.array([-50.0, 50.0]), css="wm-temp", step=1440.0),),
        )
        points = numbers(of_class(marks_of(lane), "wm-temp")[0].attributes["d"])
        self.assertEqual(points[:, 1].tolist(), [AXIS + 44, AXIS + 4])

    def test_whole_px_an_hour_for_every_day_length(self) -> None:
        for hours in (23.0, 23.5, 24.0, 24.5, 25.0):
            for available in (400, 668, 792, 1072, 1600):
                width = fitting_width(available, hours)
                self.assertLessEqual(width, max(available, 260))
                plot = width - (160 if available < 600 else LEFT + RIGHT)
                self.assertAlmostEqual(plot / hours, round(plot / hours), delta=0.03)

    def test_warmer_is_denser(self) -> None:
        steps = [hatch_step(c) for c in (5.0, 14.0, 16.5, 18.0, 19.5, 20.0, 21.0, 24.0)]
        self.assertEqual(steps, [1, 2, 3, 4, 5, 6, 7, 8])


class Parts(unittest.TestCase):
    block = StripBlock(
        start=420, end=1320, value=20.0, label="In use 20.0", key="z-1", edge_label="start", top_label="setpoint"
    )
    first = StripBlock(start=0, end=420, value=16.0, label="Asleep 16.0", key="z-0", is_first=True)

    def test_handles_are_sliders_with_stable_ids_and_the_first_has_no_edge(self) -> None:
        lane = Lane(name="Study", height=72, low=10.0, high=23.0, blocks=(self.first, self.block))
        handles = {m.attributes["id"]: m.attributes for m in of_class(marks_of(lane), "wm-hnd")}
        self.assertEqual(set(handles), {"h-top-z-0", "h-edge-z-1", "h-top-z-1"})
        edge = handles["h-edge-z-1"]
        self.assertEqual(
            (edge["role"], edge["tabindex"], edge["aria-valuenow"], edge["data-value"]), ("slider", "0", "420", "420")
        )
        x = LEFT + 420 / 1440 * 600
        self.assertAlmostEqual(float(edge["x"]) + 3, x)

    def test_labels_give_way_as_blocks_narrow(self) -> None:
        def texts(end: float) -> list[str]:
            block = StripBlock(start=0, end=end, value=20.0, label="In use 20.0")
            return [
                m.text
                for m in marks_of(Lane(name="x", height=72, low=10.0, high=23.0, blocks=(block,)))
                if m.text.endswith("20.0")
            ]

        self.assertEqual((texts(600), texts(120), texts(40)), (["In use 20.0"], ["20.0"], []))

    def test_a_wedge_leans_into_its_block(self) -> None:
        wedge = Wedge(start=360, end=420, low=16.0, high=20.0, label="60 min")
        marks = marks_of(Lane(name="x", height=72, low=10.0, high=23.0, wedges=(wedge,)))
        points = numbers(of_class(marks, "wm-wedge")[0].attributes["d"])
        self.assertEqual(points[1, 0], points[2, 0])
        self.assertLess(points[0, 0], points[1, 0])
        self.assertLess(points[2, 1], points[1, 1])
        self.assertTrue(of_class(marks, "wm-ht"))

    def test_price_steps_carry_their_number_where_it_fits(self) -> None:
        steps = (
            StripStep(start=0, end=360, value=0.1, label="10.0"),
            StripStep(start=360, end=380, value=0.3, label="30.0"),
        )
        marks = marks_of(Lane(name="Price", high=0.4, steps=steps))
        self.assertEqual([m.text for m in of_class(marks, "wm-prt")], ["10.0"])
        self.assertEqual(len(of_class(marks, "wm-pr")), 2)

    def test_brackets_ticks_bars_and_levels(self) -> None:
        lane = Lane(
            name="Run",
            height=44,
            brackets=(Bracket(start=100, end=200, label="0.7 kWh", note="£0.20", key="m", notches=(120.0,)),),
            ticks=(Tick(at=210), Tick(at=150, is_false=True)),
            stretches=(StripStretch(start=0, end=50, css="wm-bar"),),
            levels=(ReferenceLine(value=0.5, css="wm-thr", label="6 W"),),
        )
        marks = marks_of(lane)
        for name, count in (
            ("wm-brk", 1),
            ("wm-fired", 1),
            ("wm-falsex", 1),
            ("wm-bar", 1),
            ("wm-thr", 1),
            ("wm-hnd-run", 1),
        ):
            self.assertEqual(len(of_class(marks, name)), count, name)

    def test_a_label_at_the_right_edge_turns_to_the_left(self) -> None:
        def anchor(start: float) -> bool:
            marks = marks_of(
                Lane(name="Run", height=44, brackets=(Bracket(start=start, end=start + 60, label="Washing machine"),))
            )
            return any("wm-end" in m.attributes["class"] for m in marks if m.text == "Washing machine")

        self.assertEqual((anchor(100), anchor(1350)), (False, True))

    def test_numerals_give_way_to_now(self) -> None:
        axis = Axis(
            length=1440.0,
            grid=[],
            numerals=[(600.0, "10"), (840.0, "14")],
            now=620.0,
            now_label="now 10:20",
            table_times=["x"],
        )
        texts = [m.text for m in marks_of(Lane(name="x"), axis=axis)]
        self.assertIn("now 10:20", texts)
        self.assertIn("14", texts)
        self.assertNotIn("10", texts)


class Numbers(unittest.TestCase):
    def test_minus_thousands_signs_and_dashes(self) -> None:
        for value, decimals, signed, text in (
            (-1234.56, 1, False, "\u22121\u2009234.6"),
            (0.04, 1, False, "0.0"),
            (-0.04, 1, True, "0.0"),
            (3.0, 0, True, "+3"),
            (None, 1, False, "–"),
        ):
            self.assertEqual(show.number(value, decimals, is_signed=signed), text)

    def test_money_by_currency(self) -> None:
        self.assertEqual(show.money(-2.5, "GBP"), "\u2212£2.50")
        self.assertEqual(show.money(2.5, "EUR", is_signed=True), "+€2.50")
        self.assertEqual(show.money(1234.5, "SEK"), "1\u2009234.50\u2009SEK")
        self.assertEqual((show.small_money(0.268, "GBP"), show.small_money(2.681, "SEK")), ("26.8", "2.68"))
        self.assertEqual(show.money(None, "GBP"), "–")

    def test_times_and_durations(self) -> None:
        self.assertEqual([show.clock_time(m) for m in (0, 405, 1440)], ["00:00", "06:45", "24:00"])
        self.assertEqual([show.duration(m) for m in (85, 119.6, 185)], ["85 min", "2 h 00 min", "3 h 05 min"])

    def test_dates_as_the_country_writes_them(self) -> None:
        on = date(2026, 1, 5)
        self.assertEqual([show.day_short(on, c) for c in ("GB", "US", "SE")], ["05/01", "01/05", "01-05"])
        self.assertEqual(show.day_long(on, "US"), "Mon Jan 5, 2026")


class Workings(unittest.TestCase):
    def test_a_figure_in_fahrenheit_with_hand_calculation_and_sways(self) -> None:
        home = small_home()
        figure = Figure(
            key="lead.z.1",
            title="Lead",
            unit="min",
            value=None,
            low=30.0,
            high=None,
            decimals=0,
            formula="f",
            substituted="s",
            method="B5",
            inputs=(Input(symbol="θ", name="room", value=20.0, unit="°C", decimals=1, origin="measured"),),
            alternatives=(
                Figure(
                    key="hand",
                    title="By hand",
                    unit="GBP",
                    value=-1.5,
                    decimals=2,
                    formula="f",
                    substituted="s",
                    method="E1",
                ),
            ),
            sensitivities=(Sensitivity(assumption="colder", change=-12.0),),
        )
        from_home = working_view(
            figure, type(home)(**{**{f: getattr(home, f) for f in home.__dataclass_fields__}, "temperature_unit": "F"})
        )
        self.assertEqual(
            (from_home.value, from_home.about), ("not reached in time", "about 30, or not reached in time")
        )
        self.assertEqual(
            (from_home.inputs[0].value, from_home.inputs[0].unit, from_home.inputs[0].mark), ("68.0", "°F", "m")
        )
        self.assertEqual(from_home.alternatives[0].value, "\u2212£1.50")
        self.assertEqual(from_home.sensitivities, [("colder", "\u221212", "min")])

    def test_a_range_in_words(self) -> None:
        self.assertEqual(show.span(Estimate(value=2.0, low=1.25, high=3.0), 1), "1.2 to 3.0")
