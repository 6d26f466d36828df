"""The signatures page: cycles at any zoom, corrections, questions with their map, settings, files."""

import csv
import io
import re
import unittest
from dataclasses import replace
from urllib.parse import parse_qs, urlencode, urlsplit

import numpy as np

from tests.logs import START_MS
from tests.web.test_pages import Case, Elements
from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.edits.cycle_labels import CycleSpan
from warmeter.core.home.machines import CycleMark
from warmeter.core.home.presets import TELLS_LABEL
from warmeter.core.signature.tuner import Setting
from warmeter.core.timegrid import from_ms
from warmeter.core.water.store import WarmWater
from warmeter.service.app import Person
from warmeter.service.readings import logs
from warmeter.service.signatures.machines import machine_record
from warmeter.simulators.machines.labelled import labelled_log
from warmeter.simulators.machines.tub_water import tub_water
from warmeter.web.form_texts import cycle_span
from warmeter.web.signatures.words import setting_sentence, setting_words, wait

PAGE = "/homes/home1/signatures"


class WithMachine(Case):
    def read_in(self, text: str) -> None:
        """Read in a log as guessed."""
        home, _ = self.app.homes.load("home1")
        upload = logs.keep_upload(self.app, "x.csv", [text.encode()])
        logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, Person("Ann"))

    def setUp(self) -> None:
        super().setUp()
        self.with_logs()

    def act(self, act: str, **fields: str) -> Elements:
        """Do an act as the page's script does and return the redrawn part."""
        _, base = self.app.homes.load("home1")
        data = {"base": str(base), "machine_id": "washer", **fields}
        answer = self.client.post(f"{PAGE}/{act}", data=data, headers={"HX-Request": "true"})
        self.assertEqual(answer.status_code, 200, answer.text)
        return Elements(answer.text)

    def record(self) -> MachineRecord:
        """Return what the log says now."""
        return machine_record(self.app, self.app.homes.load("home1")[0], "washer")

    def spans(self) -> list[tuple[int, int]]:
        """Return the cycles' stretches [ms]."""
        record = self.record()
        return [(record.at_ms(c.start), record.at_ms(c.end)) for c in record.found.cycles]


class Cycles(WithMachine):
    def test_cycles_are_listed_newest_first_with_the_last_one_drawn(self) -> None:
        page = self.get(PAGE)
        keys = [a["id"].removeprefix("cycle-") for a in page.of("a") if a.get("id", "").startswith("cycle-")]
        self.assertEqual([cycle_span(k) for k in keys], self.spans()[::-1][:12])
        shown = page.by_id(f"cycle-{keys[0]}")
        self.assertEqual(shown.get("aria-current"), "true")
        self.assertTrue(page.by_id("strip-log"))

    def test_each_cycle_can_be_drawn_and_any_stretch(self) -> None:
        page = self.get(PAGE)
        links = [a["href"] for a in page.of("a") if a.get("id", "").startswith(("cycle-", "zoom-"))]
        self.assertGreaterEqual(len(links), 8)
        for link in links[:14]:
            drawn = self.get(PAGE + link.replace("&amp;", "&"))
            self.assertTrue(drawn.by_id("strip-log"))

    def test_a_stretch_beyond_the_log_and_nonsense_in_the_address_are_drawn(self) -> None:
        for query in (
            "from=0&to=900000000",
            "from=5&to=3",
            "cycle=x",
            "try_w=many&try_min=1",
            "tells=colour",
            "machine=none",
        ):
            self.assertTrue(self.get(f"{PAGE}?{query}").by_id("strip-log"), query)

    def test_an_end_dragged_makes_the_cycle_a_persons_and_undo_brings_it_back(self) -> None:
        before = self.spans()
        page = self.get(PAGE)
        strip = page.by_id("strip-log")
        since = int(strip["data-since"])
        at_min = (before[-1][0] - since) / 60_000 - 5
        self.act("bound", span=strip["data-span"], edge="start", since_ms=str(since), at_min=f"{at_min:.4f}")
        self.assertEqual(self.spans()[-1], (before[-1][0] - 300_000, before[-1][1]))
        self.assertEqual(self.record().found.cycles[-1].origin, "corrected")
        _, base = self.app.homes.load("home1")
        self.client.post("/homes/home1/undo", data={"base": str(base)})
        self.assertEqual(self.spans(), before)

    def test_a_cycle_is_named_split_joined_taken_away_and_given_back(self) -> None:
        before = self.spans()
        first, second = before[0], before[1]
        self.act("name", span=CycleSpan(*first).text, programme="Cotton")
        self.assertEqual(self.record().found.cycles[0].programme, "Cotton")
        middle = (first[0] + first[1]) // 2
        clock = self.app.clock(self.app.homes.load("home1")[0])
        self.act("split", span=CycleSpan(*first).text, time=f"{clock.local(middle):%H:%M}")
        self.assertEqual(len(self.spans()), len(before) + 1)
        parts = self.spans()[:2]
        self.act("join", span=CycleSpan(*parts[0]).text, next=CycleSpan(*parts[1]).text)
        self.assertEqual(self.spans(), before)
        self.act("none", span=CycleSpan(*second).text)
        self.assertEqual(self.spans(), [first, *before[2:]])
        self.act("as-found", span=CycleSpan(*second).text)
        self.assertEqual(self.spans(), before)

    def test_a_cycle_is_corrected_and_added_by_typing(self) -> None:
        home, _ = self.app.homes.load("home1")
        clock, before = self.app.clock(home), self.spans()
        start, end = (clock.local(at) for at in before[0])
        typed = {"start_day": str(start.date()), "end_day": str(end.date()), "end_time": f"{end:%H:%M}"}
        self.act("retype", span=CycleSpan(*before[0]).text, start_time=f"{start:%H:%M}", **typed)
        self.assertEqual(self.spans()[0][0], before[0][0] // 60_000 * 60_000)
        quiet = clock.local((before[0][1] + before[1][0]) // 2)
        later = clock.local((before[0][1] + before[1][0]) // 2 + 600_000)
        self.act(
            "add",
            start_day=str(quiet.date()),
            start_time=f"{quiet:%H:%M}",
            end_day=str(later.date()),
            end_time=f"{later:%H:%M}",
        )
        self.assertEqual(len(self.spans()), len(before) + 1)

    def test_corrections_without_meaning_are_refused_and_nothing_changes(self) -> None:
        before, span = self.spans(), CycleSpan(*self.spans()[0]).text
        _, base = self.app.homes.load("home1")
        for act, fields in (
            ("bound", {"span": span, "edge": "end", "since_ms": "0", "at_min": "1"}),
            (
                "retype",
                {"span": span, "start_day": "2026-01-06", "start_time": "12:00", "end_day": "", "end_time": "12:00"},
            ),
            (
                "retype",
                {
                    "span": span,
                    "start_day": "2026-01-06",
                    "start_time": "13:00",
                    "end_day": "2026-01-06",
                    "end_time": "12:00",
                },
            ),
            ("split", {"span": span, "time": "03:33"}),
            ("name", {"span": "yesterday", "programme": "x"}),
            ("name", {"span": span, "programme": "x" * 90}),
            ("phase", {"name": "heat", "low_w": "500", "high_w": "100"}),
            ("dance", {}),
        ):
            answer = self.client.post(
                f"{PAGE}/{act}",
                data={"base": str(base), "machine_id": "washer", **fields},
                headers={"HX-Request": "true"},
            )
            self.assertGreaterEqual(answer.status_code, 400, act)
        self.assertEqual(self.spans(), before)
        self.assertEqual(self.app.homes.load("home1")[1], base)

    def test_phases_get_a_name_by_their_power(self) -> None:
        self.act("phase", name="Heat", low_w="1200", high_w="3000")
        self.assertIn("Heat", self.get(PAGE).texts)
        self.act("phase", name="", low_w="1200", high_w="3000")
        self.assertEqual(self.app.homes.load("home1")[0].appliances[0].phase_names, ())

    def test_starts_run_time_and_energy_are_counted_from_a_reset_on(self) -> None:
        record, spans = self.record(), self.spans()
        whole = record.counted(record.start_ms)
        self.assertEqual(whole.starts, len(spans))
        self.assertAlmostEqual(whole.run_s, sum(b - a for a, b in spans) / 1000, places=6)
        later = record.counted(spans[1][1])
        self.assertEqual(later.starts, len(spans) - 2)
        self.act("count-anew", at_ms=str(spans[1][1]))
        self.assertIn(f"{len(spans) - 2} starts", " ".join(self.get(PAGE).texts).split("Since")[1])
        self.act("count-anew")
        self.assertIsNone(self.app.homes.load("home1")[0].appliances[0].counted_since_ms)

    def test_cycles_are_saved_as_a_table(self) -> None:
        answer = self.client.get(f"{PAGE}/washer/cycles.csv")
        rows = list(csv.DictReader(io.StringIO(answer.text)))
        record = self.record()
        self.assertEqual(len(rows), len(record.found.cycles))
        total = sum(record.features(c).energy_kwh for c in record.found.cycles)
        self.assertAlmostEqual(sum(float(r["energy_kwh"]) for r in rows), total, places=4)
        self.assertRegex(rows[0]["start"], r"^2026-01-\d\dT\d\d:\d\d:\d\d\+00:00$")


class Questions(WithMachine):
    def test_the_proposed_setting_is_taken_and_then_judged_faultless(self) -> None:
        page = self.get(PAGE)
        names = ("threshold_w", "wait_min", "hysteresis_w", "tells")
        hidden = {a["name"]: a["value"] for a in page.of("input") if a.get("type") == "hidden" and a["name"] in names}
        self.act("use", **hidden)
        text = " ".join(self.get(PAGE).texts)
        self.assertRegex(text, r"Set now: +\S+ W for \S+ (s|min): of \d+, 0 messages missed, 0 false messages")

    def test_every_question_has_a_map_a_sentence_and_reasons(self) -> None:
        for tells in TELLS_LABEL:
            page = self.get(f"{PAGE}?tells={tells}")
            with self.subTest(tells):
                self.assertEqual(page.by_id(f"tells-{tells}").get("aria-current"), "true")
                self.assertEqual(len([a for a in page.of("rect") if a.get("class") == "wm-map-best"]), 1)
                self.assertTrue(page.by_id("sentence"))
                self.assertIn("stands in the middle", " ".join(page.texts))

    def test_a_rash_setting_is_shown_with_its_errors_and_forgotten_again(self) -> None:
        page = self.act("use", tells="finished", threshold_w="60", wait_min="1", hysteresis_w="0")
        self.assertTrue([a for _, a in page.found if "wm-falsex" in a.get("class", "")])
        self.assertTrue([a for a in page.of("rect") if a.get("class") == "wm-map-mine"])
        self.act("forget", tells="finished")
        self.assertEqual(self.app.homes.load("home1")[0].appliances[0].settings, ())

    def test_settings_of_several_questions_stand_beside_each_other(self) -> None:
        self.act("use", tells="finished", threshold_w="6", wait_min="5")
        self.act("use", tells="started", threshold_w="8,5", wait_min="0.5")
        machine = self.app.homes.load("home1")[0].appliances[0]
        self.assertEqual(
            {(s.tells, s.threshold_w, s.wait_s) for s in machine.settings},
            {("finished", 6.0, 300.0), ("started", 8.5, 30.0)},
        )

    def test_a_setting_can_be_tried_without_being_set(self) -> None:
        page = self.get(f"{PAGE}?{urlencode({'try_w': '5', 'try_min': '4'})}")
        self.assertTrue(page.by_id("tried"))
        self.assertEqual(self.app.homes.load("home1")[0].appliances[0].settings, ())

    def test_nonsense_settings_change_nothing(self) -> None:
        _, base = self.app.homes.load("home1")
        for fields in ({"threshold_w": "-1"}, {"wait_min": "99999"}, {"threshold_w": "low"}, {"tells": "colour"}):
            data = {"base": str(base), "machine_id": "washer", "tells": "finished", "threshold_w": "6", "wait_min": "5"}
            answer = self.client.post(f"{PAGE}/use", data={**data, **fields}, headers={"HX-Request": "true"})
            self.assertGreaterEqual(answer.status_code, 400)
        self.assertEqual(self.app.homes.load("home1")[0].appliances[0].settings, ())

    def test_the_map_in_numbers_agrees_with_its_hatching(self) -> None:
        html = self.client.get(PAGE).text
        cells = re.findall(r'<td class="([^"]*)">(\d+) · (\d+)<small>', html)
        self.assertEqual(len(cells), 36)
        for css, missed, false in cells:
            self.assertEqual(bool(css), int(missed) + int(false) > 0)


class Witnesses(WithMachine):
    def test_a_vibration_sensor_is_tuned_too_and_the_better_witness_named(self) -> None:
        record = self.record()
        lines = ["time,Washer vibration"]
        for cycle in record.found.cycles:
            lines += [
                f"{from_ms(record.at_ms(s)):%Y-%m-%d %H:%M:%S},{v}" for s, v in ((cycle.start, 1), (cycle.end, 0))
            ]
        self.read_in("\n".join(lines) + "\n")
        text = " ".join(self.get(PAGE).texts)
        self.assertIn("Its vibration sensor or contact, waiting", text)
        self.assertIn("The better witness is", text)

    def test_a_plug_that_moved_is_told(self) -> None:
        record = self.record()
        start = record.at_ms(record.power_w.size) + 60_000
        kettle = labelled_log("kettle", 3, 30, days=4, fault="").power_w
        lines = ["time,Washer power W"]
        lines += [f"{from_ms(start + k * 30_000):%Y-%m-%d %H:%M:%S},{w:.1f}" for k, w in enumerate(kettle) if w == w]
        self.assertEqual([a for _, a in self.get(PAGE).found if a.get("id") == "doubt"], [])
        self.read_in("\n".join(lines) + "\n")
        self.assertTrue(self.get(PAGE).by_id("doubt"))


class Water(WithMachine):
    def test_a_tub_tells_its_loss_its_time_to_warm_up_and_its_cautions(self) -> None:
        self.act("new", name="Tub", kind="tub")
        tub = self.app.homes.load("home1")[0].appliances[1]
        page = f"{PAGE}?machine={tub.id}"
        power = labelled_log("tub", 5, 60, days=6, fault="").power_w
        truth = WarmWater(volume_l=1100, loss_w_k=24.0)
        water, _ = tub_water(np.random.default_rng(5), power, 60.0, truth, start_c=36.0, mean_air_c=6.0)
        lines = ["time,Tub power W,Tub water temperature °C"]
        lines += [
            f"{from_ms(START_MS + k * 60_000):%Y-%m-%d %H:%M},{'' if w != w else f'{w:.1f}'},{water[k]:.1f}"
            for k, w in enumerate(power)
        ]
        self.read_in("\n".join(lines) + "\n")
        text = " ".join(self.get(page).texts)
        litres = re.search(r"stores the heat of (\d[\u2009\d]*) L", text)
        assert litres is not None
        self.assertAlmostEqual(float(litres[1].replace("\u2009", "")), 1100, delta=120)
        self.assertIn("sanitiser", text)
        self.assertIn("at 50 °C within minutes", text)
        hot = " ".join(self.get(f"{page}&water_now=20&water_target=43&water_around=5").texts)
        self.assertIn("43 °C is too hot for a tub", hot)
        never = " ".join(self.get(f"{page}&water_now=20&water_target=95&water_around=-40").texts)
        self.assertRegex(never, "it is ready after|never gets there")

    def test_a_tub_without_its_temperature_says_what_to_record(self) -> None:
        self.act("change", kind="tub", name="Washer")
        self.assertIn("No water temperature of Washer has been imported", " ".join(self.get(PAGE).texts))


class Savings(WithMachine):
    def test_something_wasted_is_reckoned_with_its_working(self) -> None:
        query = urlencode(
            {"pane": "always-on", "waste_w": "120", "waste_h": "6", "waste_days": "180", "waste_cost": "25"}
        )
        text = " ".join(self.get(f"{PAGE}?{query}").texts)
        self.assertIn("120 W × 6 h × 180 days / 1000 = 129.6 kWh a year; × 25.0 p/kWh = £32.40", text)
        self.assertIn("pays back in 0.77 years", text)
        # An annuity of 32.40 over ten years at 3 % less 25; and over three at 10 % a cost of 90 is never back.
        self.assertIn("it brings £251.38 more than it costs in today's money", text)
        dear = {"waste_cost": "90", "waste_years": "3", "waste_discount": "10"}
        never = " ".join(self.get(f"{PAGE}?{query}&{urlencode(dear)}").texts)
        self.assertIn("it costs £9.43 more than it brings in", never)

    def test_nonsense_in_the_address_is_left_out(self) -> None:
        page = self.get(
            f"{PAGE}?{urlencode({'pane': 'always-on', 'waste_w': 'lots', 'loads': 'many', 'switch_cost': '-'})}"
        )
        self.assertTrue(page.by_id("always-on"))
        self.assertFalse([a for _, a in page.found if a.get("id") == "wasted"])


class Machines(WithMachine):
    def test_a_machine_is_added_renamed_and_given_its_kind(self) -> None:
        self.act("new", name="Kettle", kind="kettle")
        self.act("change", name="Washer upstairs", kind="washer")
        machines = self.app.homes.load("home1")[0].appliances
        self.assertEqual([(m.name, m.kind) for m in machines], [("Washer upstairs", "washer"), ("Kettle", "kettle")])
        page = self.get(f"{PAGE}?machine={machines[1].id}")
        self.assertIn("No power of Kettle has been imported.", page.texts)

    def test_a_form_without_script_leads_back_to_the_page(self) -> None:
        _, base = self.app.homes.load("home1")
        data = {"base": str(base), "machine_id": "washer", "tells": "finished", "threshold_w": "6", "wait_min": "5"}
        answer = self.client.post(f"{PAGE}/use", data=data, follow_redirects=False)
        self.assertEqual(answer.status_code, 303)
        self.assertEqual(parse_qs(urlsplit(answer.headers["location"]).query)["machine"], ["washer"])

    def test_a_mark_outside_the_log_does_no_harm(self) -> None:
        home, base = self.app.homes.load("home1")
        marks = (CycleMark(start_ms=1000, end_ms=5000), CycleMark(start_ms=10**14, end_ms=10**14 + 5))
        changed = replace(home, appliances=(replace(home.appliances[0], marks=marks),))
        record = machine_record(self.app, changed, "washer")
        self.assertEqual(len(record.found.cycles), len(self.record().found.cycles))
        self.assertGreater(base, 0)


class Words(unittest.TestCase):
    def test_settings_and_waits_in_words(self) -> None:
        self.assertEqual(setting_words(Setting(threshold_w=6.0, wait_s=360.0)), "6 W for 6 min")
        self.assertEqual(setting_words(Setting(threshold_w=6.4, wait_s=45.0)), "6.4 W for 45 s")
        self.assertEqual([wait(s) for s in (90, 330, 7200, 7500)], ["1.5 min", "5.5 min", "2 h", "2 h 05 min"])

    def test_every_question_has_a_sentence_with_its_numbers(self) -> None:
        setting = Setting(threshold_w=12.0, wait_s=300.0, hysteresis_w=3.0)
        for tells in TELLS_LABEL:
            text = setting_sentence("the washer", tells, setting)
            self.assertIn("5 min", text)
            self.assertRegex(text, "1[25] W")


if __name__ == "__main__":
    unittest.main()
