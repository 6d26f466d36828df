"""Loading the demo into an empty database, through the same import that a person uses."""

from dataclasses import replace
from pathlib import Path
from typing import Any

from warmeter.core.home.document import Home
from warmeter.core.readings.csvlog import ImportMapping
from warmeter.service.app import App, Person, QueuedOnly, system_now_ms
from warmeter.service.homes.editing import create_home
from warmeter.service.live.setting_up import DEMO_MAIL, demo_linked, play_devices
from warmeter.service.readings import logs
from warmeter.simulators import demo
from warmeter.simulators.cottage import cottage_logs
from warmeter.simulators.faults import as_found
from warmeter.simulators.ferry_energy import METER_FILE
from warmeter.simulators.ferry_house import FILE_NAME, ferry_house, ferry_meter
from warmeter.simulators.wiring_faults import orchard_as_found
from warmeter.store.codec import home_from_json
from warmeter.store.engine import open_engine

DEMO = Person("Demo")
DEMO_HOMES = ("sail-loft", "terrace-nine", "weir-cottage", "orchard-row")


def demo_home(name: str) -> Home:
    """Return a made-up home as surveyed, with every fault mended."""
    return home_from_json((demo.BUILDING_LOG.parent / f"{name}.json").read_bytes())


def load_demo_into(url: str, uploads: str, is_live: bool) -> bool:
    """Load the demo homes into an empty database of an address, as ``load_demo`` does."""
    engine = open_engine(url)
    try:
        app = App(engine=engine, uploads=Path(uploads), jobs=QueuedOnly(), now_ms=system_now_ms)
        return load_demo(app, is_live=is_live)
    finally:
        engine.dispose()


def load_demo(app: App, *, is_live: bool = False) -> bool:
    """Load the demo homes and queue their fits; return whether the database was empty.

    With ``is_live`` the devices of the first are played, and it is looked after.
    """
    if app.homes.lines():
        return False
    home = demo.with_wants(as_found(demo_home("sail-loft")))
    if is_live:
        home = demo_linked(home)
    create_home(app, home, DEMO, "Sail Loft Bindery, as found on the walk (demo)")
    for log in (
        demo.outdoor_log_csv(),
        demo.room_log_csv(),
        demo.machine_log_csv(),
        demo.meter_log_csv(),
        demo.damp_log_csv(),
    ):
        _read_in(app, home, log.file_name, log.text.encode())
    if is_live:
        play_devices(app, home.id, is_on=True)
        for channel in (c for group in home.notification_groups for c in group.channels):
            app.live_homes.set_address(home.id, channel.id, DEMO_MAIL)
    for other, words in (
        (orchard_as_found(demo_home("orchard-row")), "Orchard Row, as found on the walk (demo)"),
        (demo_home("terrace-nine"), "Terrace Nine, surveyed (demo)"),
        (demo_home("weir-cottage"), "Weir Cottage, surveyed, with thirty rules (demo)"),
    ):
        create_home(app, other, DEMO, words)
    for log in cottage_logs(other):
        _read_in(app, other, log.file_name, log.text.encode())
    ferry, people_log = ferry_house()
    create_home(app, ferry, DEMO, "Ferry House, surveyed, with its people (demo)")
    _read_in(app, ferry, FILE_NAME, people_log.encode())
    _read_in(app, ferry, METER_FILE, ferry_meter().encode())
    hall = demo.building()
    create_home(app, hall, DEMO, "A real building's log, survey guessed (example)")
    _read_in(app, hall, "heated-building.csv", demo.BUILDING_LOG.read_bytes(), as_hall=True)
    for each in (home, other, hall):
        heat = ("heat_w", "heat_relative")
        logged = {s.record.subject for s in app.readings.series(each.id) if s.record.quantity in heat}
        for room in (r for r in each.rooms if r.id in logged):
            _, revision = app.homes.load(each.id)
            app.jobs.submit(app.work.enqueue(each.id, "fit", room.id, revision, app.now_ms()))
    return True


def _read_in(app: App, home: Home, file_name: str, data: bytes, *, as_hall: bool = False) -> None:
    upload = logs.keep_upload(app, file_name, [data])
    mapping = logs.proposal(app, home, upload).suggested
    if as_hall:
        mapping = _hall_plan(mapping)
    logs.take(app, home.id, upload, mapping, DEMO)


def _hall_plan(mapping: ImportMapping) -> ImportMapping:
    """Return the plan for the building: its heat has no known unit, its water temperature is left out."""
    heat = {"quantity": "heat_relative", "unit": "1", "subject": "rm-hall"}
    warmth = {"quantity": "room_temperature", "unit": "°C", "subject": "rm-hall"}
    outdoors = {"quantity": "outdoor_temperature", "unit": "°C", "subject": ""}
    left_out = {"quantity": ""}
    wanted: dict[str, dict[str, Any]] = {
        "Ph": {**heat, "kind": "mean", "stamp": "start"},
        "Ti": {**warmth, "kind": "instant", "stamp": "instant"},
        "Ta": {**outdoors, "kind": "instant", "stamp": "instant"},
    }
    return replace(mapping, columns=tuple(replace(c, **wanted.get(c.heading, left_out)) for c in mapping.columns))
