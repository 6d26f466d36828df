"""Routes of finding, and of the guide and the methods."""

from collections.abc import Iterator
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import Response

from warmeter.core.find.word_search import Findable, found
from warmeter.core.home.device_kinds import DEVICE_LABEL
from warmeter.core.home.document import Home
from warmeter.core.home.presets import HEATER_LABEL, MACHINE_LABEL
from warmeter.core.sentence import in_unit
from warmeter.service.matters.home_evidence import matters
from warmeter.web.bothers.ways import WAYS
from warmeter.web.find.help_texts import HelpSection, guide, methods
from warmeter.web.links import link, url_for
from warmeter.web.matters.view import KIND_WORD, url_of
from warmeter.web.page import Page, app_of, frame_of, is_fragment, render

router = APIRouter()
MOST_REVISIONS = 400
STEPS = (
    ("What matters", "danger wrong unknown money waits list", "matters"),
    ("Survey", "rooms plan walls windows loss draw", "survey"),
    ("Heating", "heaters sources radiators boiler heat pump flow temperature", "heating"),
    ("Devices", "register batteries alarm path calibration", "devices"),
    ("Radio sensors", "capture transmissions heard sender id battery changed neighbours", "radios"),
    ("Zones", "sensors wiring controlled by protection limit", "zones"),
    ("Timetable", "levels periods setback weather", "timetable"),
    ("Warm-up", "lead time fit learn heat loss", "warmup"),
    ("Signatures", "appliances runs standby always on plug", "signatures"),
    ("Tariff", "price rates standing charge", "tariff"),
    ("Rules", "watch tell replay people messages", "rules"),
    ("Sheet", "settings to type print", "sheet"),
    ("Import a log", "csv file readings", "import_log"),
    ("Words and logs", "archive export home file remove", "record"),
    ("Revisions", "undo history changes", "revisions"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class FindPage(Page):
    """What some words lead to."""

    home: Home
    asked: str
    rows: list[Findable]


@dataclass(frozen=True, slots=True, kw_only=True)
class HelpPage:
    """The guide or the methods."""

    title: str
    sections: tuple[HelpSection, ...]


@router.get("/homes/{home_id}/find", name="find")
def find(request: Request, home_id: str) -> Response:
    """Show what some words lead to."""
    home, revision = app_of(request).homes.load(home_id)
    asked = request.query_params.get("q", "")[:200]
    rows = found(_entries(request, home, revision), asked) if asked.strip() else []
    view = FindPage(frame=frame_of(request, home, revision, "find"), home=home, asked=asked, rows=rows)
    return render(request, "find/_rows.html" if is_fragment(request) else "find/page.html", view)


@router.get("/help/guide", name="help_guide")
def help_guide(request: Request) -> Response:
    """Show the guide."""
    return render(request, "find/help.html", HelpPage(title="Guide", sections=guide()))


@router.get("/help/methods", name="help_methods")
def help_methods(request: Request) -> Response:
    """Show the methods."""
    return render(request, "find/help.html", HelpPage(title="Methods", sections=methods()))


def _entries(request: Request, home: Home, revision: int) -> Iterator[Findable]:
    """Yield everything of a home that can be found, parts first."""
    yield from _parts(home)
    for line in matters(app_of(request), home, revision).lines:
        yield Findable(
            sort="what matters",
            name=in_unit(line.sentence, home.units),
            words=f"{KIND_WORD[line.kind]} {in_unit(line.why, home.units)}",
            url=url_of(home, line.step, line.part_id),
        )
    for name, words, route in STEPS:
        yield Findable(sort="page", name=name, words=words, url=link(route, home.id))
    for way in WAYS:
        yield Findable(sort="bothers me", name=way.title, words=way.begins, url=link("bothers", home.id, way=way.key))
    for each in app_of(request).homes.revisions(home.id)[-MOST_REVISIONS:]:
        yield Findable(
            sort="revision",
            name=f"{each.number}: {each.summary}",
            words=f"{each.author} {each.name}",
            url=link("revisions", home.id),
        )
    for page, sections in (("help_methods", methods()), ("help_guide", guide())):
        for section in sections:
            yield Findable(
                sort="method" if page == "help_methods" else "guide",
                name=section.heading,
                words=section.text,
                url=f"{url_for(page)}#{section.anchor}",
            )


def _parts(home: Home) -> Iterator[Findable]:
    for room in home.rooms:
        yield Findable(sort="room", name=room.name, words=room.use, url=link("survey", home.id, at=room.id))
    for zone in home.zones:
        yield Findable(sort="zone", name=zone.name, url=link("zones", home.id, at=zone.id))
    for heater in home.heaters:
        words = HEATER_LABEL[heater.kind]
        yield Findable(sort="heater", name=heater.name, words=words, url=link("heating", home.id, at=heater.id))
    for device in home.devices:
        words = f"{DEVICE_LABEL[device.kind]} {device.make_model} {device.address} {device.channel}"
        yield Findable(sort="device", name=device.name, words=words, url=link("devices", home.id, at=device.id))
    for machine in home.appliances:
        words = MACHINE_LABEL[machine.kind]
        yield Findable(
            sort="appliance", name=machine.name, words=words, url=link("signatures", home.id, machine=machine.id)
        )
    for rule in home.rules:
        yield Findable(sort="rule", name=rule.name, words=rule.intent, url=link("rules", home.id, rule=rule.id))
    for note in home.notes:
        yield Findable(sort="note", name=note.text, words=note.reason, url=link("record", home.id))
