"""A panel's page: a lamp typed in, its state and presses by the log, its trial; what is wrong with it is found."""

from dataclasses import replace

from tests.drawn import drawn_home
from tests.web.test_pages import ANN, Case, plain_spaces
from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.readings.csvlog import Column, ImportMapping
from warmeter.core.timegrid import parse_utc
from warmeter.service.readings import logs

START_MS = parse_utc("2026-06-01T00:00:00Z")


class PanelByItsLog(Case):
    @classmethod
    def home(cls) -> Home:
        """Return a home with a panel, a sensor that sees a lamp, and a relay that presses."""
        home = drawn_home(id="home1")
        more = (
            Device(id="box", name="Pool box", kind="controller", room_id="den"),
            Device(id="eye", name="SPA lamp sensor", kind="lamp_sensor", room_id="den"),
            Device(id="finger", name="SPA presser", kind="relay", room_id="den"),
        )
        return replace(home, time_zone="UTC", devices=(*home.devices, *more))

    def send(self, command: str, **values: str) -> None:
        text = self.client.get("/homes/home1/panel?device=box").text
        base = text.split('data-revision="')[1].split('"')[0]
        url = f"/homes/home1/panel/{command}?device=box"
        answer = self.client.post(url, data={"base": base, "id": "box", **values})
        self.assertEqual(answer.status_code, 200, answer.text[:300])

    def page(self) -> str:
        return plain_spaces(self.client.get("/homes/home1/panel?device=box&mood=deaf").text)

    def function_id(self) -> str:
        return self.app.homes.load("home1")[0].device("box").panel[0].id

    def bring(self) -> None:
        """Import a lamp that comes on after the first press, and does not answer the second."""
        lamp = [(0, 0), (600, 1), (600.5, 0), (601, 1), (601.5, 0), (602, 1), (7200, 1)]
        press = [(0, 0), (599, 1), (599.5, 0), (3000, 1), (3000.5, 0)]
        for name, quantity, subject, rows in (
            ("lamp", "is_lit", "eye", lamp),
            ("press", "is_pressed", "finger", press),
        ):
            lines = [f"time,{name}", *(f"{START_MS + round(1000 * t)},{value}" for t, value in rows)]
            upload = logs.keep_log(self.app, f"{name}.csv", ["\n".join(lines).encode()])
            column = Column(index=1, heading=name, quantity=quantity, unit="1", subject=subject, kind="held")
            mapping = ImportMapping(
                delimiter=",",
                decimal=".",
                heading_line=1,
                time_column=0,
                date_format="epoch",
                clock="utc",
                columns=(column,),
            )
            logs.take(self.app, "home1", upload, mapping, ANN)

    def test_from_its_name_to_its_state_by_the_log(self) -> None:
        self.assertTrue("Enter its lamps" in self.page())
        self.send("add", name="SPA")
        self.assertTrue("not logged" in self.page())
        self.send("set", function_id=self.function_id(), lamp_sensor_id="eye", presser_id="finger")
        self.bring()
        page = self.page()
        self.assertTrue(">steady<" in page)
        self.assertTrue("01/06: 2" in page)
        # The press that changed nothing is counted against those that could be looked after.
        self.assertTrue("1 of 2" in page)

    def test_a_trial_says_what_looking_first_comes_to(self) -> None:
        self.send("add", name="SPA")
        self.assertTrue("Looking first: 6 presses" in self.page())

    def test_what_is_wrong_with_it_is_found(self) -> None:
        self.send("add", name="SPA")
        self.send("set", function_id=self.function_id(), watch_s="0.5", presser_id="finger")
        page = self.page()
        self.assertTrue("its dark half would be taken for off" in page)
        self.assertTrue("nothing sees its lamp" in page)
        self.send("remove", function_id=self.function_id())
        self.assertTrue("Enter its lamps" in self.page())
