"""The timetable's panes, acts, files and previews through the application."""

import json
import re
from dataclasses import replace
from datetime import date

from tests.homes import small_home
from tests.web.test_pages import DAY, PLACE, Case, Elements
from warmeter.core.home.document import Home
from warmeter.core.home.plant import SplitUnit
from warmeter.core.home.presets import FIRST_KINDS
from warmeter.core.timegrid import LocalClock
from warmeter.core.timetable.timetable_file import timetable_file
from warmeter.service.timetable.timetable_files import FILE_ADAPTER
from warmeter.web.ribbon import ribbon_of
from warmeter.web.timetable.routes import PANES
from warmeter.web.timetable.writing import weekdays_text

LONDON = LocalClock("Europe/London")


def home_with_kinds() -> Home:
    """Return the small home with kinds of day, saving levels, and a zone that can cool."""
    home = small_home()
    levels = tuple(replace(x, is_saving=x.id != "in-use", cooling_c=26.0 + k) for k, x in enumerate(home.levels))
    split = replace(home.heaters[0], kind="split_unit", split=SplitUnit(cooling_w=2000.0))
    return replace(home, day_kinds=FIRST_KINDS, levels=levels, heaters=(split,))


def ids_of(page: Elements) -> set[str]:
    """Return the ids on a page."""
    return {a["id"] for _, a in page.found if "id" in a}


class Panes(Case):
    @classmethod
    def home(cls) -> Home:
        return home_with_kinds()

    def stored(self) -> Home:
        return self.app.homes.load("home1")[0]

    def act(self, name: str, status: int = 200, /, **fields: object) -> Elements:
        base = self.app.homes.load("home1")[1]
        path = f"/homes/home1/timetable/{name}?day={DAY}&low=-3&high=5"
        answer = self.client.post(
            path,
            data={"base": base, "zone_id": "z-study", **fields},
            headers={"HX-Request": "true", "Origin": "http://127.0.0.1:8470"},
        )
        self.assertEqual(answer.status_code, status, answer.text[:600])
        return Elements(answer.text)

    def test_every_pane_opens_with_and_without_weather_and_on_odd_days(self) -> None:
        for pane in PANES:
            for query in ("&low=-3&high=5", "", "&low=-3&high=5&zone=none", "&scope=date&low=1&high=2"):
                for day in (DAY, "2026-03-29", "2026-10-25", "nonsense"):
                    with self.subTest(pane=pane, query=query, day=day):
                        self.get(f"/homes/home1/timetable?pane={pane}&day={day}{query}")

    def test_without_weather_the_week_still_leads_to_the_other_panes(self) -> None:
        page = self.get(f"/homes/home1/timetable?pane=week&day={DAY}")
        self.assertLessEqual({f"pane-{key}" for key in PANES}, ids_of(page))
        kept = {a["name"]: a["value"] for a in page.of("input") if a.get("type") == "hidden"}
        self.assertEqual(kept["on"], DAY)
        form = next(a for a in page.of("form") if "timetable/weather" in a.get("action", ""))
        self.assertIn("pane=week", form["action"])

    def test_typed_temperatures_that_do_not_hold_are_said_and_kept(self) -> None:
        for low, high in (("abc", "5"), ("9", "-5"), ("9", ""), ("-90", "5")):
            with self.subTest(low=low, high=high):
                page = self.get(f"/homes/home1/timetable?pane=week&day={DAY}&low={low}&high={high}")
                self.assertIn("not-taken", ids_of(page))
                before = self.app.homes.load("home1")
                self.act("weather", 422, on=DAY, low_c=low, high_c=high)
                self.assertEqual(self.app.homes.load("home1"), before)
        self.assertNotIn("not-taken", ids_of(self.get(f"/homes/home1/timetable?pane=week&day={DAY}&low=-3&high=5")))

    def test_weather_typed_for_a_day_holds_on_every_page_until_it_is_left_to_the_log(self) -> None:
        path = f"/homes/home1/timetable?day={DAY}"
        self.assertIn("Nothing says how cold", self.client.get(path).text)
        self.act("weather", on=DAY, low_c="-3", high_c="5")
        for page in ("timetable", "sheet"):
            self.assertNotIn("Nothing says how cold", self.client.get(f"/homes/home1/{page}?day={DAY}").text)
        field = self.get(path).by_id("weather-low")
        self.assertEqual(field["value"] if field else None, "−3.0")
        self.act("weather", on=DAY, low_c="", high_c="")
        self.assertIn("Nothing says how cold", self.client.get(path).text)

    def test_figures_of_every_pane_open(self) -> None:
        for pane in ("day", "week", "gaps"):
            page = self.get(f"/homes/home1/timetable?pane={pane}&day={DAY}&low=-3&high=5")
            opened = [a["hx-get"] for a in page.of("button") if "/working/" in a.get("hx-get", "")]
            self.assertTrue(opened, pane)
            for path in opened:
                with self.subTest(path):
                    self.get(path)
        self.get("/homes/home1/timetable/working/damp.z-study", 422)
        self.get("/homes/home1/timetable/working/gap.study.9?low=-3&high=5", 422)

    def test_the_week_shows_seven_days_and_a_handle_for_each_block(self) -> None:
        page = self.get(f"/homes/home1/timetable?pane=week&day={DAY}&low=-3&high=5")
        strip = page.by_id("strip-day")
        self.assertEqual(strip["data-length"], str(7 * 1440))
        self.assertEqual(len(json.loads(strip["data-times"])), 7 * 48)
        tops = [a["data-key"] for a in page.of("rect") if a.get("data-kind") == "top"]
        self.assertEqual(len(tops), len(set(tops)), "periods over midnight stand once")
        self.assertIn("z-study-20260118.1", tops)
        spring = self.get("/homes/home1/timetable?pane=week&day=2026-03-29&low=3&high=9").by_id("strip-day")
        self.assertEqual(spring["data-length"], str(7 * 1440 - 60))

    def test_the_clock_s_name_follows_the_change_of_the_day(self) -> None:
        for day, names in (
            (DAY, [[0, "GMT"]]),
            ("2026-03-29", [[0, "GMT"], [60, "BST"]]),
            ("2026-10-25", [[0, "BST"], [120, "GMT"]]),
        ):
            with self.subTest(day):
                strip = self.get(f"/homes/home1/timetable?day={day}&low=1&high=8").by_id("strip-day")
                self.assertEqual(json.loads(strip["data-clocks"]), names)

    def test_an_edge_dragged_in_the_week_moves_the_day_it_stands_on(self) -> None:
        base = self.app.homes.load("home1")[1]
        self.client.post(
            f"/homes/home1/timetable/minute?day={DAY}&pane=week&scope=date&low=-3&high=5",
            data={"base": base, "zone_id": "z-study", "block": "20260114.1", "minute": 2 * 1440 + 480},
            headers={"HX-Request": "true", "Origin": "http://127.0.0.1:8470"},
        )
        plan = self.stored().zones[0].timetables[0].profile("2026-01-14")
        assert plan is not None
        self.assertEqual([p.start_min for p in plan.points], [0, 480, 1320])

    def test_acts_on_days_levels_and_dates(self) -> None:
        steps: tuple[tuple[str, dict[str, str], str], ...] = (
            ("block", {"level_id": "idle", "start": "09:00", "end": "11:30"}, "Study: Idle 09:00 to 11:30"),
            (
                "block",
                {"level_id": "idle", "start": "23:00", "end": "01:00", "setpoint_c": "15"},
                "Idle 23:00 to 01:00",
            ),
            ("copy", {"to.sat": "on", "to.day-off": "on"}, "day copied to Saturdays, Day off"),
            ("copy", {"other": "2026-02-14"}, "day copied to 2026-02-14"),
            ("hand-back", {"timetable_id": "tt1", "key": "sat"}, "Saturdays no longer written apart"),
            ("clear", {}, "day cleared"),
            (
                "lv-heating",
                {"level_id": "in-use", "heating_c": "24.5"},
                "In use: heating 24.5 °C, and cooling gives way",
            ),
            ("lv-cooling", {"level_id": "idle", "cooling_c": ""}, "Idle: cooling limit none"),
            ("lv-name", {"level_id": "idle", "name": "Nobody"}, "Level Idle is called Nobody"),
            ("lv-fan", {"level_id": "in-use", "fan": "low"}, "In use: fan low"),
            ("lv-saving", {"level_id": "in-use"}, "In use is meant to save"),
            ("lv-add", {"name": "Yoga"}, "Level Yoga added"),
            ("lv-own", {"level_id": "asleep", "heating_c": "16.5"}, "Study: own numbers at Asleep"),
            ("lv-own", {"level_id": "asleep", "fan": "off"}, "Study: own numbers at Asleep"),
            ("lv-gap", {"gap_k": "3", "reason": "slow sensors"}, "keep 3 K apart"),
            ("tt-add", {"name": "Guests", "zone_id": "*"}, "timetable Guests added"),
            (
                "period",
                {"timetable": "Guests", "from_date": "2026-05-01", "to_date": "2026-05-04"},
                "Guests from 2026-05-01",
            ),
            ("switch", {"timetable": "Guests", "zone_id": "*"}, "switched to Guests"),
            ("switch", {"timetable": "", "zone_id": "*"}, "switched back"),
            ("period-away", {"index": "0"}, "dates removed"),
            ("kind-add", {"name": "Market day"}, "Kind of day Market day added"),
            ("weekday", {"weekday": "2", "kind_id": "day-off"}, "Weekdays"),
            ("special", {"on": "2026-05-01", "kind_id": "day-off"}, "2026-05-01 is Day off"),
            ("kind-away", {"kind_id": "workday"}, "Kind of day Workday removed"),
            (
                "hand-rule",
                {"low_c": "15", "high_c": "22", "step_k": "0.5", "longest_h": "4"},
                "what may be changed by hand",
            ),
        )
        for name, fields, words in steps:
            with self.subTest(name=name, fields=fields):
                self.act(name, **fields)
                self.assertIn(words, self.app.homes.revisions("home1")[0].summary)
        timetable = next(t for t in self.stored().zones[0].timetables if t.name == "Guests")
        self.act("tt-rename", timetable_id=timetable.id, name="Visitors")
        self.act("tt-remove", timetable_id=timetable.id)
        level = self.stored().levels[-1]
        self.act("lv-up", level_id=level.id)
        self.act("lv-remove", level_id=level.id)

    def test_nonsense_is_refused_and_nothing_changes(self) -> None:
        before = self.stored()
        for name, fields in (
            ("block", {"level_id": "idle", "start": "soon", "end": "11:30"}),
            ("block", {"level_id": "party", "start": "09:00", "end": "11:30"}),
            ("copy", {}),
            ("copy", {"other": "someday"}),
            ("copy-zone", {}),
            ("hand-back", {"timetable_id": "tt1", "key": "sat"}),
            ("everywhere", {"block": PLACE.format(9)}),
            ("lv-heating", {"level_id": "in-use", "heating_c": "cosy"}),
            ("lv-heating", {"level_id": "none", "heating_c": "20"}),
            ("lv-fan", {"level_id": "in-use", "fan": "gale"}),
            ("lv-name", {"level_id": "in-use", "name": ""}),
            ("lv-remove", {"level_id": "in-use"}),
            ("tt-remove", {"timetable_id": "tt1"}),
            ("period", {"timetable": "Every day"}),
            ("period", {"timetable": "Nowhere", "from_date": "2026-05-01"}),
            ("period", {"timetable": "Every day", "from_date": "2026-05-09", "to_date": "2026-05-01"}),
            ("period-away", {"index": "4"}),
            ("special", {"on": ""}),
            ("special", {"on": "2026-02-31"}),
            ("kind-away", {"kind_id": "none"}),
            ("hand-rule", {"low_c": "22", "high_c": "20"}),
            ("hand/lay", {}),
            ("hand/lay", {"setpoint_c": "99", "end": "next"}),
            ("hand/lay", {"steps": "1", "end": "until"}),
            ("hand/lay", {"steps": "1", "end": "whenever"}),
            ("hand/forget", {"number": "7"}),
            ("hand/habit", {"habit": "none"}),
            ("hand/dance", {}),
            ("compare", {"first": "2026-01-01"}),
            ("compare", {"first": "2026-01-01", "last": "2026-01-05", "variants.now": "on"}),
            ("nothing", {}),
        ):
            with self.subTest(name=name, fields=fields):
                self.act(name, 422, **fields)
        self.assertEqual(self.stored(), before)

    def test_a_block_is_shown_before_it_is_laid(self) -> None:
        path = f"/homes/home1/timetable/preview?day={DAY}&low=-3&high=5&zone_id=z-study&level_id=idle"
        words = " ".join(self.get(f"{path}&start=12:00&end=14:30").texts)
        self.assertIn("lasts 2 h 30 min, until 14:30", words)
        self.assertIn("then In use 20.0", words)
        self.assertIn("kWh", words)
        over = " ".join(self.get(f"{path}&start=23:00&end=02:00").texts)
        self.assertIn("lasts 3 h 00 min, until 02:00 on Tue", over)
        self.get(f"{path}&start=23:00&end=late", 422)
        self.assertEqual(self.app.homes.load("home1")[1], 1)

    def test_by_hand_is_laid_listed_explained_and_ended(self) -> None:
        self.act("hand/lay", setpoint_c="22", at="10:00", end="for", length="2", reason="a cold")
        page = self.act("hand/lay", steps="1", at="11:00", end="until", until="12:30")
        self.assertEqual(self.app.homes.load("home1")[1], 1)
        why = " ".join(self.get(f"/homes/home1/timetable/why?day={DAY}&zone=z-study&time=11:30").texts)
        self.assertIn("by hand", why)
        self.assertIn("23.0", why)
        self.assertIn("as found", why)
        self.assertIn("From 12:30 timetable, In use", why)
        page = self.get(f"/homes/home1/timetable?pane=hand&day={DAY}")
        self.assertIn("a cold", page.texts)
        numbers = [a["id"].removeprefix("forget-") for a in page.of("button") if a.get("id", "").startswith("forget-")]
        self.act("hand/forget", number=numbers[0])
        strip = self.get(f"/homes/home1/timetable?day={DAY}&low=-3&high=5")
        self.assertEqual(sum("wm-hold" in a.get("class", "") for a in strip.of("rect")), 2)

    def test_a_habit_is_proposed_on_the_page_and_taken(self) -> None:
        for day in ("2026-01-12", "2026-01-13", "2026-01-14"):
            self.client.post(
                f"/homes/home1/timetable/hand/lay?day={day}",
                data={"zone_id": "z-study", "setpoint_c": "22", "at": "16:00", "end": "for", "length": "1.5"},
                headers={"HX-Request": "true", "Origin": "http://127.0.0.1:8470"},
            )
        self.app.homes.set_as_of("home1", LONDON.instant(date(2026, 1, 16), 0))
        page = self.get(f"/homes/home1/timetable?pane=hand&day={DAY}")
        key = next(a["value"] for a in page.of("input") if a.get("name") == "habit")
        self.act("hand/habit", habit=key)
        starts = [p.start_min for p in self.stored().zones[0].timetables[0].usual]
        self.assertEqual(starts, [0, 420, 960, 1050, 1320])

    def test_revisions_are_named_compared_restored_and_the_strip_tells_the_difference(self) -> None:
        self.act("start", block=PLACE.format(1), start="05:00")
        post = {"headers": {"Origin": "http://127.0.0.1:8470"}, "follow_redirects": False}
        self.client.post("/homes/home1/revisions/name", data={"number": 1, "name": "As tested"}, **post)
        day = self.get(f"/homes/home1/timetable?day={DAY}&low=-3&high=5")
        self.assertIn("change-cost", [a.get("id") for _, a in day.found])
        self.assertTrue(any("As tested" in t for t in day.texts))
        listed = self.get("/homes/home1/revisions?old=1")
        self.assertTrue(any("05:00 In use" in t for t in listed.texts))
        self.client.post("/homes/home1/revisions/restore", data={"base": 2, "number": 1}, **post)
        self.assertEqual(self.stored(), home_with_kinds())
        again = self.get(f"/homes/home1/timetable?day={DAY}&low=-3&high=5")
        self.assertNotIn("change-cost", [a.get("id") for _, a in again.found])
        self.assertEqual(self.client.post("/homes/home1/redo", data={"base": 3}, **post).status_code, 422)
        self.client.post("/homes/home1/undo", data={"base": 3}, **post)
        page = self.get("/homes/home1/revisions")
        self.assertIn("redo", [a.get("id") for _, a in page.found])
        self.client.post("/homes/home1/redo", data={"base": 4}, **post)
        self.assertEqual(self.stored(), home_with_kinds())

    def test_files_go_out_and_come_in_after_a_look(self) -> None:
        for kind, words in (("json", "warmeter-timetable/1"), ("csv", "zone,timetable"), ("ics", "BEGIN:VCALENDAR")):
            answer = self.client.get(f"/homes/home1/timetable.{kind}?day={DAY}")
            self.assertEqual(answer.status_code, 200)
            self.assertIn(words, answer.text)
            looked = self.client.post(
                f"/homes/home1/timetable-file?day={DAY}",
                files={"file": (f"t.{kind}", answer.content)},
                headers={"Origin": "http://127.0.0.1:8470"},
            )
            self.assertEqual(looked.status_code, 200, looked.text[:400])
            if kind != "ics":
                self.assertIn("Nothing: the home is written like that already", looked.text)
        self.assertEqual(self.client.get("/homes/home1/timetable.pdf").status_code, 404)
        file = replace(
            timetable_file(self.stored()), levels=tuple(replace(x, heating_c=18.0) for x in self.stored().levels)
        )
        looked = self.client.post(
            f"/homes/home1/timetable-file?day={DAY}",
            files={"file": ("t.json", FILE_ADAPTER.dump_json(file))},
            headers={"Origin": "http://127.0.0.1:8470"},
        )
        token = next(a["value"] for a in Elements(looked.text).of("input") if a.get("name") == "token")
        taken = self.client.post(
            f"/homes/home1/timetable-take?day={DAY}",
            data={"base": 1, "token": token, "name": "t.json"},
            headers={"Origin": "http://127.0.0.1:8470"},
            follow_redirects=False,
        )
        self.assertEqual(taken.status_code, 303)
        self.assertEqual({x.heating_c for x in self.stored().levels}, {18.0})
        bad = self.client.post(
            "/homes/home1/timetable-file", files={"file": ("t.csv", b"")}, headers={"Origin": "http://127.0.0.1:8470"}
        )
        self.assertEqual(bad.status_code, 422)
        self.assertEqual(self.client.get("/formats/warmeter-timetable-1.schema.json").status_code, 200)

    def test_a_comparison_is_asked_and_shown_with_lanes_of_difference(self) -> None:
        self.act("compare", first="2026-01-05", last="2026-01-18", **{"variants.now": "on", "variants.hold": "on"})
        page = self.get(f"/homes/home1/timetable?pane=compare&day={DAY}")
        self.assertIn("compared", [a.get("id") for _, a in page.found])
        strip = page.by_id("strip-season")
        self.assertEqual(len(json.loads(strip["data-tables"])), 3)
        self.assertEqual(len(json.loads(strip["data-times"])), 14)
        chosen = self.get(f"/homes/home1/timetable?pane=compare&day={DAY}&from=2026-02-01&to=2026-02-09")
        self.assertEqual(chosen.by_id("compare-first")["value"], "2026-02-01")

    def test_what_each_level_saves_comes_after_the_page(self) -> None:
        words = " ".join(self.get(f"/homes/home1/timetable/level-savings?day={DAY}&low=-3&high=5").texts)
        self.assertIn("Asleep", words)
        self.assertIn("a week", words)
        none = " ".join(self.get(f"/homes/home1/timetable/level-savings?day={DAY}").texts)
        self.assertIn("Nothing says how cold", none)

    def test_the_ribbon_stands_on_every_page_with_its_caret_on_the_day(self) -> None:
        for path in ("survey", "zones", f"timetable?day={DAY}", "warmup", "signatures", "tariff", "revisions"):
            ribbon = self.get(f"/homes/home1/{path}").by_id("ribbon")
            self.assertEqual(ribbon["role"], "slider")
        caret = int(self.get(f"/homes/home1/timetable?day={DAY}").by_id("ribbon")["aria-valuenow"])
        self.assertEqual(caret, (date.fromisoformat(DAY) - date(2025, 7, 1)).days)


class PanesInFahrenheit(Case):
    @classmethod
    def home(cls) -> Home:
        return replace(home_with_kinds(), temperature_unit="F")

    def test_a_device_is_given_settings_that_it_has(self) -> None:
        for finest, settings in (("", {"68", "61"}), ("&finest=0.5", {"68", "61"}), ("&finest=2", {"68", "60", "62"})):
            with self.subTest(finest):
                page = self.get(f"/homes/home1/timetable?pane=carry&day={DAY}&low=20&high=40{finest}")
                lines = [t for t in page.texts if re.fullmatch(r"\d+\.\d °F", t)]
                self.assertTrue(lines)
                self.assertLessEqual({t.removesuffix(" °F").removesuffix(".0") for t in lines}, settings)

    def test_a_setpoint_between_whole_degrees_is_told_with_its_tenth(self) -> None:
        page = self.get(f"/homes/home1/timetable?pane=dates&day={DAY}")
        self.assertTrue(any("Asleep 60.8 °F" in t for t in page.texts), page.texts)


class Ribbons(Case):
    def test_a_day_without_readings_is_a_tick_and_a_cold_one_stands(self) -> None:
        self.with_logs()
        home, _ = self.app.homes.load("home1")
        ribbon = ribbon_of(self.app, home, date(2026, 1, 7), window=1280, url="/")
        cold = ribbon.cold.count("M")
        self.assertEqual(cold, 7)
        self.assertEqual(ribbon.unknown.count("M"), 365 - cold)
        self.assertEqual((ribbon.px, ribbon.width), (2, 730))
        self.assertEqual(ribbon_of(self.app, home, date(2026, 1, 7), window=420, url="/").px, 1)
        hot = replace(home, place=replace(home.place, latitude_deg=-30.0))
        self.assertEqual(ribbon_of(self.app, hot, date(2026, 1, 7), window=1280, url="/").first, "2026-01-01")


class Words(Case):
    def test_weekdays_read_as_spans(self) -> None:
        for days, words in (
            ((), "by date only"),
            (tuple(range(7)), "every day"),
            ((0, 1, 2, 3, 4), "Mon to Fri"),
            ((5, 6), "Sat, Sun"),
            ((0, 2, 4), "Mon, Wed, Fri"),
        ):
            self.assertEqual(weekdays_text(days), words)
