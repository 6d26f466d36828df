"""Figures of the survey against the core's own numbers, with range and inputs."""

import unittest
from dataclasses import replace

from tests.drawn import drawn_home
from tests.figures import decimals_by_unit
from warmeter.core.building.heating import heating_of
from warmeter.core.building.losses import loss_of
from warmeter.core.errors import NotKnowable
from warmeter.core.explain.survey_figures import figure_of_room


class Figures(unittest.TestCase):
    def test_decimals_are_those_of_the_unit(self) -> None:
        for key, expected in (
            ("loss.den", {("W", 0), ("°C", 1), ("W/(m² K)", 2), ("m²", 1), ("1/h", 2), ("m³", 1)}),
            ("output.den", {("W", 0), ("°C", 1)}),
            ("flow.den", {("°C", 1), ("W", 0), ("K", 1)}),
            ("copes.den", {("°C", 1), ("W", 0), ("W/K", 1)}),
        ):
            with self.subTest(key):
                self.assertEqual(decimals_by_unit(figure_of_room(drawn_home(), key)), expected)

    def test_the_arithmetic_mean_overstates_and_begins_with_nothing(self) -> None:
        output = figure_of_room(drawn_home(), "output.den")
        (by_mean,) = output.alternatives
        # 60 over 50 °C in a room at 20 °C: 35 K of mean excess, against the plate's 50 K.
        rated = drawn_home().heaters[0].rated_heat_w
        self.assertAlmostEqual((by_mean.value or 0) / rated, (35.0 / 50.0) ** 1.3, places=6)
        self.assertGreater(by_mean.value or 0, output.value or 0)

    def test_each_figure_is_the_cores_own_with_its_range_and_inputs(self) -> None:
        home = drawn_home()
        den = home.room("den")
        loss, heating = loss_of(home, den), heating_of(home, den)
        for key, value in (
            ("loss.den", loss.total_w),
            ("load.den", loss.safe_w),
            ("output.den", heating.output_w),
            ("flow.den", heating.flow_needed_c),
            ("copes.den", heating.copes_to_c),
        ):
            figure = figure_of_room(home, key)
            self.assertEqual(figure.value, value, key)
            self.assertTrue(figure.formula and figure.substituted and figure.method and figure.inputs)
        figure = figure_of_room(home, "loss.den")
        self.assertEqual((figure.low, figure.high), (loss.low_w, loss.high_w))
        self.assertEqual(len(figure.inputs), 2 + 2 * len(loss.rows))
        changes = [abs(s.change) for s in figure.sensitivities]
        self.assertEqual(changes, sorted(changes, reverse=True))

    def test_a_warmer_neighbour_is_told_beside_the_load(self) -> None:
        home = drawn_home()
        load = figure_of_room(home, "load.study")
        self.assertGreater(load.value or 0, load.alternatives[0].value or 0)
        self.assertIn("−", figure_of_room(home, "loss.study").substituted)
        self.assertIn("Without heat from warmer neighbours", figure_of_room(home, "loss.study").note)

    def test_out_of_reach_is_no_number_and_no_water_no_flow(self) -> None:
        home = drawn_home()
        weak = replace(home, heaters=(replace(home.heaters[0], rated_heat_w=200.0), home.heaters[1]))
        self.assertIsNone(figure_of_room(weak, "flow.den").value)
        dry = replace(home, sources=(replace(home.sources[0], flow_c=None),))
        with self.assertRaises(NotKnowable) as caught:
            figure_of_room(dry, "flow.den")
        self.assertIn("flow temperature", caught.exception.record)


if __name__ == "__main__":
    unittest.main()
