"""Pages and edits through the application, read by element."""

import hashlib
import re
import unittest
from collections.abc import Iterator
from dataclasses import replace
from html.parser import HTMLParser
from pathlib import Path
from typing import ClassVar
from unittest import mock

from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

import warmeter.web
from tests.homes import small_home
from tests.logs import START_MS, machine_csv, room_csv
from tests.served import fresh_app
from warmeter.core.home.document import Home
from warmeter.core.timegrid import from_ms
from warmeter.core.wording import THIN
from warmeter.service.app import Person
from warmeter.service.homes import editing
from warmeter.service.readings import logs
from warmeter.service.rules import rule_tuning
from warmeter.web.app import MODULES, create_app

WEB = Path(warmeter.web.__file__).parent
ANN = Person("Ann")
DAY = "2026-01-12"
PLACE = "20260112.{}"


def plain_spaces(html: str) -> str:
    """Return markup with any white space as one space; thin spaces stay."""
    return re.sub(r"[ \t\r\n]+", " ", html)


class Elements(HTMLParser):
    """Every element with its attributes and the text in it."""

    def __init__(self, html: str) -> None:
        super().__init__()
        self.found: list[tuple[str, dict[str, str]]] = []
        self.texts: list[str] = []
        # As a browser takes it: any white space is one space.
        self.feed(plain_spaces(html))

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        """Keep an element."""
        self.found.append((tag, {k: v or "" for k, v in attrs}))

    def handle_data(self, data: str) -> None:
        """Keep a text."""
        self.texts.append(data)

    def of(self, tag: str) -> Iterator[dict[str, str]]:
        """Yield the attributes of every element of a tag."""
        return (a for t, a in self.found if t == tag)

    def by_id(self, wanted: str) -> dict[str, str]:
        """Return the attributes of the element with an id."""
        return next(a for _, a in self.found if a.get("id") == wanted)


class Case(unittest.TestCase):
    room_log: ClassVar[str] = ""
    machine_log: ClassVar[str] = ""

    @classmethod
    def setUpClass(cls) -> None:
        Case.room_log = Case.room_log or room_csv(7)
        Case.machine_log = Case.machine_log or machine_csv(4)

    def setUp(self) -> None:
        self.app = fresh_app()
        editing.create_home(self.app, self.home(), ANN)
        self.client = TestClient(create_app(self.app), base_url="http://127.0.0.1:8470")

    @classmethod
    def home(cls) -> Home:
        """Return the home that a test begins with."""
        return small_home()

    def with_logs(self) -> None:
        """Read in a room's and a machine's log."""
        for name, content in (("room.csv", self.room_log), ("machine.csv", self.machine_log)):
            upload = logs.keep_upload(self.app, name, [content.encode()])
            home, _ = self.app.homes.load("home1")
            logs.take(self.app, "home1", upload, logs.proposal(self.app, home, upload).suggested, ANN)

    def get(self, path: str, status: int = 200) -> Elements:
        """Return a page's elements."""
        answer = self.client.get(path)
        self.assertEqual(answer.status_code, status, answer.text[:400])
        return Elements(answer.text)

    def post(self, path: str, status: int = 200, **fields: object):  # type: ignore[no-untyped-def]
        """Send a part's edit."""
        answer = self.client.post(
            path, data={k: str(v) for k, v in fields.items()}, headers={"HX-Request": "true"}, follow_redirects=False
        )
        self.assertEqual(answer.status_code, status, answer.text[:400])
        return answer


class AllRoutes(Case):
    PAGES = (
        "/",
        "/homes/new",
        "/you",
        "/homes/home1/survey",
        "/homes/home1/import",
        f"/homes/home1/timetable?day={DAY}",
        "/homes/home1/warmup",
        "/homes/home1/signatures",
        "/homes/home1/tariff",
        f"/homes/home1/sheet?day={DAY}",
        "/homes/home1/home.json",
        f"/homes/home1/strip.svg?day={DAY}",
    )

    def test_every_page_answers_with_logs(self) -> None:
        self.with_logs()
        for path in self.PAGES:
            with self.subTest(path):
                self.get(path)

    def test_every_page_answers_without_logs_and_teaches(self) -> None:
        for path in self.PAGES:
            with self.subTest(path):
                status = 422 if path.startswith("/homes/home1/strip.svg") else 200
                page = self.get(path, status)
                if "/signatures" in path or "/warmup" in path:
                    self.assertIn("record", page.texts)

    def test_looking_changes_nothing_and_queues_nothing(self) -> None:
        self.with_logs()
        named = {"home_id": "home1", "room_id": "study", "zone_id": "z-study", "appliance_id": "washer"}
        before, looked = self.app.homes.stamp("home1"), 0
        with mock.patch.object(rule_tuning, "MOST_AT_ONCE", 0):
            for module in MODULES:
                for route in module.router.routes:
                    if isinstance(route, APIRoute) and "GET" in (route.methods or ()):
                        path = re.sub(r"{(\w+)[^}]*}", lambda m: named.get(m.group(1), "1"), route.path)
                        looked += self.client.get(f"{path}?pane=tune&day={DAY}").status_code == 200
        self.assertGreater(looked, 20)
        self.assertEqual(self.app.homes.stamp("home1"), before)

    def test_no_inline_script_or_style_in_any_template(self) -> None:
        for path in (WEB / "templates").rglob("*.html"):
            text = path.read_text(encoding="utf-8")
            self.assertIsNone(re.search(r"<script(?![^>]*\bsrc=)|\sstyle=|\son[a-z]+=\"|<style", text), str(path))

    def test_templates_can_be_read(self) -> None:
        for path in (WEB / "templates").rglob("*.html"):
            for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
                self.assertLessEqual(len(line), 120, f"{path.name}:{number}")
                blocks = re.findall(r"<(?:section|table|tbody|thead|tr|ul|ol|h[1-6]|div)\b", line)
                self.assertLessEqual(len(blocks), 1, f"{path.name}:{number}")

    def test_every_link_is_by_the_name_of_its_route(self) -> None:
        for path in (*(WEB / "templates").rglob("*.html"), *(WEB / "templates").rglob("*.svg")):
            text = path.read_text(encoding="utf-8")
            self.assertIsNone(re.search(r'="/(?!static/|")', text), path.name)
        for path in WEB.rglob("*.py"):
            text = re.sub(r"@router.*", "", path.read_text(encoding="utf-8"))
            self.assertIsNone(re.search(r'"/homes/', text), path.name)

    def test_no_macro_stands_twice(self) -> None:
        texts = [path.read_text(encoding="utf-8") for path in (WEB / "templates").rglob("*.html")]
        names = [name for text in texts for name in re.findall(r"\{%-? macro (\w+)", text)]
        self.assertEqual(len(set(names)), len(names), sorted(names))

    def test_every_template_is_used(self) -> None:
        source = "".join(
            p.read_text(encoding="utf-8") for p in [*WEB.rglob("*.py"), *(WEB / "templates").rglob("*.html")]
        )
        for path in (WEB / "templates").rglob("*.html"):
            name = path.relative_to(WEB / "templates").as_posix()
            self.assertIn(name, source)

    def test_missing_homes_days_and_figures_are_told_plainly(self) -> None:
        self.with_logs()
        for path, status in (
            ("/homes/none/survey", 404),
            ("/nowhere", 404),
            ("/homes/home1/timetable/working/nothing", 422),
            ("/homes/home1/import/0000000000000000", 422),
            ("/homes/home1/timetable?day=yesterday", 200),
            ("/homes/home1/timetable/working/lead.z-study.0", 422),
            ("/homes/home1/timetable?day=0001-01-01", 200),
        ):
            with self.subTest(path):
                page = self.get(path, status)
                if status != 200:
                    self.assertIn("kept", page.texts)


class Markup(Case):
    @classmethod
    def home(cls) -> Home:
        bad = '<script>alert(1)</script><b onclick="x">&'
        home = small_home()
        return replace(
            home,
            name=bad,
            rooms=(replace(home.rooms[0], name=bad),),
            zones=(replace(home.zones[0], name=bad),),
            heaters=(replace(home.heaters[0], name=bad),),
            levels=tuple(replace(x, name=bad) for x in home.levels),
            appliances=(replace(home.appliances[0], name=bad),),
            tariffs=(
                replace(home.tariffs[0], name=bad, rates=tuple(replace(r, name=bad) for r in home.tariffs[0].rates)),
            ),
        )

    def test_names_are_shown_as_text_everywhere(self) -> None:
        lines = self.room_log.replace("Study ", "").splitlines()
        upload = logs.keep_upload(self.app, "<img src=x>.csv", ["\n".join(lines).encode()])
        plan = logs.proposal(self.app, self.home(), upload).suggested
        logs.take(self.app, "home1", upload, plan, Person("<i>Eve</i>"))
        for path in AllRoutes.PAGES:
            if path.endswith("json"):
                continue
            with self.subTest(path):
                page = self.get(path)
                self.assertTrue(all("src" in a for a in page.of("script")))
                self.assertFalse(
                    list(page.of("img")) + list(page.of("i")) + [a for _, a in page.found if "onclick" in a]
                )


class Safety(Case):
    def test_headers_are_strict(self) -> None:
        headers = self.client.get("/").headers
        self.assertIn("default-src 'none'", headers["content-security-policy"])
        self.assertNotIn("unsafe", headers["content-security-policy"])
        self.assertEqual(headers["x-content-type-options"], "nosniff")

    def test_foreign_hosts_and_sites_are_refused(self) -> None:
        self.assertEqual(self.client.get("/", headers={"host": "evil.example"}).status_code, 403)
        for headers in (
            {"origin": "http://evil.example"},
            {"origin": "null"},
            {"sec-fetch-site": "cross-site"},
            {"origin": "http://127.0.0.1:9999"},
        ):
            with self.subTest(headers):
                answer = self.client.post("/homes/home1/undo", data={"base": "1"}, headers=headers)
                self.assertEqual(answer.status_code, 403)
        self.assertEqual(self.app.homes.load("home1")[1], 1)

    def test_styles_and_scripts_come_compressed_and_are_kept_by_the_browser_for_good(self) -> None:
        shown = self.client.get("/", headers={"Accept-Encoding": "gzip"})
        self.assertEqual((shown.headers["content-encoding"], shown.headers["cache-control"]), ("gzip", "no-store"))
        page = shown.text
        paths = re.findall(r'(?:href|src)="(/static/[^"]+)"', page)
        self.assertGreater(len(paths), 12)
        total = 0
        for path in paths:
            answer = self.client.get(path, headers={"Accept-Encoding": "gzip"})
            self.assertEqual(answer.status_code, 200, path)
            self.assertIn("immutable", answer.headers["cache-control"], path)
            total += answer.num_bytes_downloaded
        self.assertLess(total, 130_000)
        plain = self.client.get(paths[1].partition("?")[0])
        self.assertEqual(plain.headers["cache-control"], "no-cache")

    def test_static_files_stay_in_their_folder(self) -> None:
        for path in ("/static/../app.py", "/static/%2e%2e/app.py", "/static/css/../../app.py"):
            self.assertIn(self.client.get(path).status_code, (403, 404))

    def test_shipped_files_are_those_that_were_checked_in(self) -> None:
        static = WEB / "static"
        lines = (static / "SHA256SUMS").read_text(encoding="utf-8").splitlines()
        listed = {name: digest for digest, name in (line.split() for line in lines)}
        there = {
            p.relative_to(static).as_posix() for folder in ("vendor", "fonts") for p in (static / folder).iterdir()
        }
        self.assertEqual(there, set(listed))
        for name, digest in listed.items():
            self.assertEqual(hashlib.sha256((static / name).read_bytes()).hexdigest(), digest, name)

    def test_every_class_of_a_template_has_a_rule(self) -> None:
        """What Bulma was cut to follows the templates: a class that it lost, or one of nobody, is seen here."""
        shipped = "".join(p.read_text(encoding="utf-8") for p in (WEB / "static").rglob("*.css"))
        ruled = set(re.findall(r"\.([a-zA-Z][\w-]*)", shipped))
        for path in (WEB / "templates").rglob("*.html"):
            written = re.findall(r'class="([^"{]*)"', path.read_text(encoding="utf-8"))
            named = {name for words in written for name in words.split() if not name.startswith("wm-")}
            self.assertEqual(named - ruled, set(), path.name)

    def test_shipped_files_have_their_licences(self) -> None:
        names = {p.name for p in (WEB / "static").rglob("*")}
        self.assertTrue({"LICENSE.bulma", "LICENSE.htmx", "OFL-b612-mono.txt", "OFL-noto-sans-math.txt"} <= names)


class Timetable(Case):
    def setUp(self) -> None:
        super().setUp()
        self.with_logs()

    def day(self) -> list[int]:
        return [p.start_min for p in self.app.homes.load("home1")[0].zones[0].timetables[0].usual]

    def test_a_block_moves_by_time_or_minute_and_the_strip_follows(self) -> None:
        path = f"/homes/home1/timetable/start?day={DAY}"
        page = Elements(self.post(path, base=3, zone_id="z-study", block=PLACE.format(1), start="6.30").text)
        self.assertEqual(self.day(), [0, 390, 1320])
        self.assertEqual(page.by_id("h-edge-z-study-20260112.1")["data-value"], "390")
        self.post(
            f"/homes/home1/timetable/minute?day={DAY}", base=4, zone_id="z-study", block=PLACE.format(1), minute=405
        )
        self.assertEqual(self.day()[1], 405)

    def test_own_setpoints_in_fahrenheit_keep_their_grid(self) -> None:
        self.post(
            f"/homes/home1/timetable/setpoint?day={DAY}",
            base=3,
            zone_id="z-study",
            block=PLACE.format(1),
            setpoint_c="21,5",
        )
        self.assertEqual(self.app.homes.load("home1")[0].zones[0].timetables[0].usual[1].own_setpoint_c, 21.5)
        self.post(
            f"/homes/home1/timetable/setpoint?day={DAY}",
            base=4,
            zone_id="z-study",
            block=PLACE.format(1),
            setpoint_c="20",
        )
        self.assertIsNone(
            self.app.homes.load("home1")[0].zones[0].timetables[0].usual[1].own_setpoint_c,
            "the level's own number is none of its own",
        )

    def test_split_merge_level_run_and_undo(self) -> None:
        steps = (
            ("split", {"zone_id": "z-study", "block": PLACE.format(1)}, 3),
            ("level", {"zone_id": "z-study", "block": PLACE.format(2), "level_id": "idle"}, 4),
            ("merge", {"zone_id": "z-study", "block": PLACE.format(2)}, 5),
            ("run", {"appliance_id": "washer", "minute": 95}, 6),
        )
        for name, fields, base in steps:
            self.post(f"/homes/home1/timetable/{name}?day={DAY}", base=base, **fields)
        home, revision = self.app.homes.load("home1")
        self.assertEqual((revision, home.appliances[0].start_min), (7, 95))
        self.post("/homes/home1/undo", 204, base=7)
        self.assertEqual(self.app.homes.load("home1")[0].appliances[0].start_min, 1080)

    def test_nonsense_is_refused_and_nothing_lost(self) -> None:
        for name, fields in (
            ("start", {"zone_id": "z-study", "block": "yesterday", "start": "06:00"}),
            ("start", {"zone_id": "z-study", "block": PLACE.format(1), "start": "soon"}),
            ("setpoint", {"zone_id": "z-study", "block": PLACE.format(1), "setpoint_c": "hot"}),
            ("setpoint", {"zone_id": "z-study", "block": PLACE.format(1), "setpoint_c": "90"}),
            ("level", {"zone_id": "z-study", "block": PLACE.format(1), "level_id": "party"}),
            ("merge", {"zone_id": "z-study", "block": PLACE.format(9)}),
            ("split", {"zone_id": "cellar", "block": PLACE.format(0)}),
            ("run", {"appliance_id": "toaster", "minute": 5}),
        ):
            with self.subTest(name=name, fields=fields):
                self.post(f"/homes/home1/timetable/{name}?day={DAY}", 422, base=3, **fields)
        self.assertEqual(self.app.homes.load("home1")[1], 3)

    def test_a_second_window_is_told_and_nothing_is_overwritten(self) -> None:
        self.post(
            f"/homes/home1/timetable/start?day={DAY}", base=3, zone_id="z-study", block=PLACE.format(1), start="06:00"
        )
        answer = self.post(
            f"/homes/home1/timetable/start?day={DAY}",
            409,
            base=3,
            zone_id="z-study",
            block=PLACE.format(1),
            start="09:00",
        )
        self.assertIn("revision 4", answer.text)
        self.assertEqual(self.day()[1], 360)

    def test_workings_open_for_every_figure(self) -> None:
        page = self.get(f"/homes/home1/timetable?day={DAY}")
        figures = [a["hx-get"] for a in page.of("button") if "/working/" in a.get("hx-get", "")]
        self.assertGreaterEqual(len(figures), 5)
        for path in figures:
            with self.subTest(path):
                opened = self.get(path)
                self.assertTrue(any(t.startswith("Method") for t in opened.texts))

    def test_days_of_23_and_25_hours_are_drawn_so(self) -> None:
        for on, hours in (("2026-03-29", 23), ("2026-10-25", 25)):
            page = self.get(f"/homes/home1/timetable?day={on}&low=2&high=9")
            self.assertEqual(page.by_id("strip-day")["data-length"], str(hours * 60))

    def test_the_strip_is_drawn_for_its_width_in_whole_px_an_hour(self) -> None:
        for window in (1280, 700, 480, 1920):
            page = self.get(f"/homes/home1/timetable?day={DAY}&w={window}")
            strip = page.by_id("strip-day")
            self.assertEqual(int(strip["data-plot"]) % 24, 0)
            self.assertLessEqual(int(strip["width"]), window)

    def test_ids_do_not_repeat(self) -> None:
        page = self.get(f"/homes/home1/timetable?day={DAY}")
        ids = [a["id"] for _, a in page.found if "id" in a]
        self.assertEqual(sorted(ids), sorted(set(ids)))


class Forms(Case):
    GOOD: ClassVar[dict[str, str]] = {
        "name": "Mill Loft",
        "latitude": "52,1",
        "longitude": "-1.5",
        "zone": "Europe/London",
        "country": "GB",
        "currency": "GBP",
        "temperature_unit": "F",
        "guard_low": "50",
        "guard_high": "86",
        "source": "heat_pump",
        "cop.7": "3.4",
        "cop.-7": "2,2",
        "room1_name": "Attic",
        "room1_area": "18",
        "room1_height": "2.4",
        "room1_built": "1978_1994",
        "room1_mass": "light",
        "room1_walls": "3",
        "room1_heater": "radiator",
        "room1_watts": "1500",
        "room1_roof": "on",
        "appliance": "Dryer",
    }

    def test_a_home_of_ones_own(self) -> None:
        answer = self.client.post("/homes/new", data=self.GOOD, follow_redirects=False)
        self.assertEqual(answer.status_code, 303)
        made = next(line for line in self.app.homes.lines() if line.name == "Mill Loft")
        home, _ = self.app.homes.load(made.id)
        self.assertAlmostEqual(home.guard.low_c, 10.0)
        self.assertEqual(home.sources[0].cop_points, ((-7.0, 2.2), (7.0, 3.4)))
        assert home.rooms[0].described is not None
        self.assertEqual(
            (home.rooms[0].described.has_roof, len(home.zones), home.appliances[0].name), (True, 1, "Dryer")
        )

    def test_wrong_fields_say_so_and_nothing_typed_is_lost(self) -> None:
        for field, value, why in (
            ("name", "", "missing"),
            ("latitude", "north", "number"),
            ("zone", "Atlantis", "Europe/London"),
            ("room1_area", "-4", "Between"),
            ("cop.7", "99", "Between"),
            ("country", "England", "letters"),
            ("guard_low", "95", "below the upper"),
            ("room1_walls", "2.5", "whole"),
            ("room1_watts", "", "missing"),
            ("currency", "XXX", "list"),
        ):
            with self.subTest(field):
                answer = self.client.post("/homes/new", data={**self.GOOD, field: value})
                self.assertEqual(answer.status_code, 422)
                page = Elements(answer.text)
                self.assertIn(why, answer.text)
                self.assertEqual(page.by_id("f-room1_name")["value"], "Attic")
        self.assertEqual(len(self.app.homes.lines()), 1)

    def test_rooms_levels_and_machines_are_changed(self) -> None:
        room = {
            "base": "1",
            "room_name": "Den",
            "room_area": "25",
            "room_height": "2.6",
            "room_built": "2016_on",
            "room_mass": "heavy",
            "room_walls": "1",
            "room_heater": "warm_floor",
            "room_watts": "1800",
            "room_step_k": "1",
            "room_step_min": "30",
        }
        self.client.post("/homes/home1/rooms/study", data=room)
        self.client.post("/homes/home1/levels/in-use", data={"base": "2", "name": "At work", "heating_c": "19"})
        self.client.post("/homes/home1/appliances/washer", data={"base": "3", "earliest_min": "06:30"})
        home, revision = self.app.homes.load("home1")
        self.assertEqual(
            (revision, home.rooms[0].name, home.zones[0].name, home.levels[0].heating_c), (4, "Den", "Den", 19.0)
        )
        self.assertEqual((home.heaters[0].step_min, home.appliances[0].earliest_min), (30, 390))
        for path, data in (
            ("rooms/study", {**room, "base": "4", "room_area": "0"}),
            ("levels/in-use", {"base": "4", "name": "x", "heating_c": "99"}),
        ):
            self.client.post(f"/homes/home1/{path}", data=data)
        self.assertEqual(self.app.homes.load("home1")[1], 4)

    def test_rooms_and_machines_are_added_later(self) -> None:
        room = {
            "base": "1",
            "new_name": "Hall",
            "new_area": "9",
            "new_height": "2.4",
            "new_built": "2016_on",
            "new_mass": "light",
            "new_walls": "1",
            "new_heater": "electric_panel",
            "new_watts": "700",
        }
        self.assertEqual(self.client.post("/homes/home1/rooms", data={**room, "new_area": "big"}).status_code, 422)
        self.client.post("/homes/home1/rooms", data=room)
        self.client.post("/homes/home1/appliances", data={"base": "2", "name": "Kiln"})
        home, revision = self.app.homes.load("home1")
        self.assertEqual(
            (revision, [r.name for r in home.rooms], home.appliances[-1].name), (3, ["Study", "Hall"], "Kiln")
        )
        zone = home.zone_of_room(home.rooms[1].id)
        assert zone is not None
        self.assertEqual([home.level(p.level_id).name for p in zone.timetables[0].usual], ["In use", "Asleep"])
        self.assertEqual(home.heaters[1].source_id, home.heaters[0].source_id)
        self.assertIn("missing", self.client.post("/homes/home1/appliances", data={"base": "3", "name": ""}).text)
        self.assertEqual(self.app.homes.load("home1")[1], 3)

    def test_the_name_of_this_browser_signs_its_changes(self) -> None:
        self.client.post("/you", data={"name": "Zoë"})
        self.client.post("/homes/home1/levels/in-use", data={"base": "1", "name": "In use", "heating_c": "19"})
        self.assertEqual(self.app.homes.revisions("home1")[0].author, "Zoë")


class Import(Case):
    def test_a_meter_with_missing_hours_is_told_in_the_homes_units(self) -> None:
        """A month of hours of half a kWh, of which a day and an hour lack: no joules, no "outdoors"."""
        hours = [k for k in range(30 * 24) if not (200 <= k < 224 or k == 500)]
        lines = ["time,Grid import kWh", *(f"{from_ms(START_MS + k * 3_600_000):%Y-%m-%d %H:%M},0.5" for k in hours)]
        page = " ".join(self.get(self.upload(("\n".join(lines) + "\n").encode())).texts)
        self.assertRegex(page, "25 intervals of .* are missing, in 2 stretches")
        self.assertIn(f"{0.5 * len(hours):.1f} kWh, mean 500 W", page.replace("\u2009", ""))
        self.assertIn("The meter", page)
        self.assertNotIn("1800000", page.replace("\u2009", ""))

    def upload(self, content: bytes, name: str = "log.csv") -> str:
        answer = self.client.post(
            "/homes/home1/import/upload", files={"file": (name, content, "text/csv")}, follow_redirects=False
        )
        self.assertEqual(answer.status_code, 303)
        return str(answer.headers["location"])

    def test_choose_map_see_and_take(self) -> None:
        path = self.upload(self.room_log.encode())
        page = self.get(path)
        self.assertIn("What was found", page.texts)
        fields = {
            "base": "1",
            "decimal": ".",
            "clock": "home",
            "date_format": "year-month-day",
            "repeated_hour": "ask",
            "c1_quantity": "-",
        }
        answer = self.client.post(f"{path}/take", data=fields)
        self.assertIn(f"2{THIN}016 readings imported", answer.text)
        quantities = {s.record.quantity for s in self.app.readings.series("home1")}
        self.assertEqual(quantities, {"heat_w", "outdoor_temperature"})

    def test_values_that_differ_are_told_before_and_taken_only_if_asked(self) -> None:
        hours = [f"{from_ms(START_MS + k * 3_600_000):%Y-%m-%d %H:%M}" for k in range(72)]

        def log(warmer_from: int) -> bytes:
            values = [21.0 if k >= warmer_from else 20.0 for k in range(72)]
            lines = [f"{at},{value}" for at, value in zip(hours, values, strict=True)]
            return "\n".join(["time,outdoor temperature °C", *lines]).encode()

        first = self.upload(log(72))
        self.assertNotIn('id="differing"', self.client.get(first).text)
        self.client.post(f"{first}/take", data={"base": "1"})
        second = self.upload(log(60))
        self.assertIn(
            "12 values differ from what is stored at the same time", plain_spaces(self.client.get(second).text)
        )
        kept = self.client.post(f"{second}/take", data={"base": "2"})
        self.assertIn("12 differ from what is there at the same time; what was there is kept", kept.text)
        third = self.upload(log(60))
        taken = self.client.post(f"{third}/take", data={"base": "2", "replaces": "yes"})
        self.assertIn("12 of them stand in place of others", taken.text)
        (series,) = self.app.readings.series("home1")
        self.assertEqual(self.app.readings.readings(series.id).value[58:62].tolist(), [20.0, 20.0, 21.0, 21.0])

    def test_a_mapping_that_cannot_be_is_told_and_can_be_fixed(self) -> None:
        path = self.upload(self.room_log.encode())
        wrong = {"decimal": ".", "clock": "home", "date_format": "epoch", "repeated_hour": "ask", "offset_min": "0"}
        self.assertEqual(self.client.post(path, data=wrong).status_code, 200)
        nothing = {**wrong, "date_format": "year-month-day", "c1_quantity": "-", "c2_quantity": "-", "c3_quantity": "-"}
        answer = self.client.post(path, data=nothing)
        self.assertIn("Nothing yet", answer.text)
        refused = self.client.post(f"{path}/take", data=nothing)
        self.assertEqual(refused.status_code, 422)
        self.assertIn("no column is mapped", refused.text)

    def test_no_table_no_mapping(self) -> None:
        self.get(self.upload(b"hello\nworld\n"), 422)
        self.assertIn("empty", self.client.get(self.upload(b"")).text)


class Results(Case):
    def test_fit_signature_and_sheet_give_three_settings(self) -> None:
        self.with_logs()
        answer = self.client.post("/homes/home1/warmup/fit", data={"room_id": "study"})
        self.assertIn("Learnt against surveyed", answer.text)
        self.assertIn("chosen", answer.text)
        page = self.get("/homes/home1/signatures")
        used = page.by_id("use-proposed")
        self.assertIsNotNone(used)
        sheet = self.get(f"/homes/home1/sheet?day={DAY}")
        ids = {a.get("id") for _, a in sheet.found}
        self.assertTrue({"set-start-1", "set-finish-1", "set-run-1"} <= ids)
        for wanted in (
            "1. When heating must start",
            "2. When an appliance has finished",
            "3. When it is cheapest to run",
        ):
            self.assertIn(wanted, sheet.texts)
        self.get("/homes/home1/warmup/working/study")

    def test_heat_of_unknown_unit_gives_times_but_no_watts_or_money(self) -> None:
        upload = logs.keep_upload(self.app, "log.csv", [self.room_log.encode()])
        plan = logs.proposal(self.app, small_home(), upload).suggested
        heat = next(c for c in plan.columns if c.quantity == "heat_w")
        plan = logs.changed_mapping(plan, {plan.columns.index(heat): replace(heat, quantity="heat_relative", unit="1")})
        logs.take(self.app, "home1", upload, plan, ANN)
        self.client.post("/homes/home1/warmup/fit", data={"room_id": "study"})
        page = self.client.get("/homes/home1/warmup").text
        self.assertIn("unit of this heat is not known", page)
        self.assertNotIn("W/K", page)
        day = self.get(f"/homes/home1/timetable?day={DAY}")
        self.assertFalse([a for a in day.of("button") if a.get("id") in ("fig-cost", "fig-saving", "fig-electricity")])
        self.get("/homes/home1/warmup/working/study", 422)
