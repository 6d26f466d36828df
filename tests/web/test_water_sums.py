"""Sums about water on their page: as by hand, in both units, wrong fields told; radiator valves by the pump's pressure."""

from dataclasses import replace
from math import log, pi

from tests.drawn import drawn_home
from tests.homes import small_home
from tests.web.test_water_circuits import Pages
from warmeter.core.building.heating import heating_of
from warmeter.core.explain.water_sums import CondensateSum, FillingSum, HeatUpSum, PipeSum, SurfaceSum


class Sums(Pages):
    def test_a_pipe_by_hand(self) -> None:
        freezes, held = PipeSum(start_c=8.0, around_c=-5.0, insulation_mm=0.0).figures()
        r = log(22 / 22) / (2 * pi * 0.036) + 1 / (2 * pi * 0.011 * 10)
        c = pi / 4 * (0.020**2 * 4.2e6 + (0.022**2 - 0.020**2) * 3.4265e6)
        self.assertAlmostEqual(freezes.value or 0.0, r * c * log(13 / 5) / 60)
        self.assertAlmostEqual(held.value or 0.0, 10 / r)
        self.assertIsNone(PipeSum(around_c=2.0).figures()[0].value, "it does not freeze there")

    def test_the_others_by_hand(self) -> None:
        self.assertAlmostEqual(FillingSum(litres=150.0, flow_l_min=12.0).figures()[0].value or 0.0, 12.5)
        self.assertEqual(CondensateSum(room_pct=20.0).figures()[0].value, 0.0, "dry air drips nothing")
        # Air as moist as the surface takes nothing.
        self.assertAlmostEqual(SurfaceSum(water_c=25.0, air_c=25.0, air_pct=100.0).figures()[0].value or 0.0, 0.0)
        plain = HeatUpSum(litres=100.0, now_c=10.0, wanted_c=60.0, power_w=3000.0, loss_w_k=0.0).figures()[0]
        self.assertAlmostEqual(plain.value or 0.0, 100 * 0.998 * 4186 * 50 / 3000 / 3600)
        self.assertIsNone(HeatUpSum(power_w=100.0).figures()[0].value, "it never gets there")

    def test_typed_on_the_page(self) -> None:
        self.keep(small_home())
        page = self.page("water/sums")
        for words in ("Still water comes to freezing after", "What drips off a cold coil", "hard stop at 165 L"):
            self.assertTrue(words in page, words)
        page = self.page("water/sums?sum=filling&litres=300&flow_l_min=10")
        self.assertTrue("= 30 min; hard stop at 330 L or 33 min" in page)
        page = self.page("water/sums?sum=pipe&outer_mm=20&inner_mm=22&start_c=warm")
        self.assertTrue("Write a temperature" in page)
        page = self.page("water/sums?sum=pipe&outer_mm=20&inner_mm=22")
        self.assertTrue("inner diameter must be between" in page)
        self.keep(replace(small_home(), temperature_unit="F", length_unit="ft"))
        page = self.page("water/sums")
        self.assertTrue('value="50"' in page and "volume, gal" in page and "Alarm at 41 °F" in page)


class RadiatorValves(Pages):
    def test_kv_by_hand_and_a_loud_valve(self) -> None:
        home = drawn_home()
        source = replace(home.sources[0], differential_kpa=10.0)
        heaters = (replace(home.heaters[0], kv_m3_h=0.05, pipe_loss_kpa=2.0), *home.heaters[1:])
        home = replace(home, sources=(source,), heaters=heaters)
        own = heating_of(home, home.room("den")).balance[0]
        assert own.litres_h is not None and own.kv_m3_h is not None and own.drop_kpa is not None
        self.assertAlmostEqual(own.kv_m3_h, own.litres_h / 1000 / (8 / 100) ** 0.5)
        self.assertAlmostEqual(own.drop_kpa, 100 * (own.litres_h / 1000 / 0.05) ** 2)
        bare = replace(home, sources=(replace(source, differential_kpa=1.0),))
        self.assertIsNone(heating_of(bare, bare.room("den")).balance[0].kv_m3_h, "the pipes take all of it")
        self.keep(home)
        page = self.page("heating")
        self.assertTrue(">kv</th>" in page and f"{own.drop_kpa:.1f} kPa" in page)
