"""Routes of the homes: list, new, export, and who you are."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Depends, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from warmeter.core.edits.private_witnesses import shareable
from warmeter.core.errors import HomeError
from warmeter.core.home.plant import HeaterKind
from warmeter.core.home.presets import BUILT, HEATER_LABEL, MASS_LABEL
from warmeter.core.home.rooms import Built
from warmeter.core.thermal.survey import MassClass
from warmeter.service.health import health_of
from warmeter.service.homes import keeping
from warmeter.service.homes.demo import DEMO_HOMES, demo_home
from warmeter.service.homes.editing import create_home
from warmeter.service.homes.homefile import bring_in
from warmeter.store.codec import home_to_json
from warmeter.store.homes import HomeLine
from warmeter.web.form_reader import FormError, Texts, form_texts
from warmeter.web.homes.example_view import ExampleView, example_view
from warmeter.web.homes.form import COP_AT_C, CURRENCIES, MOST_ROOMS, read_home
from warmeter.web.homes.listing import AT_ONCE, ListedHome, listed_homes
from warmeter.web.page import app_of, person_of, render

router = APIRouter()
MOST_DIGITS = 6
_FIRST = {
    "country": "GB",
    "zone": "Europe/London",
    "currency": "GBP",
    "temperature_unit": "C",
    "source": "direct",
    **{
        f"room{k}_{name}": value
        for k in range(1, MOST_ROOMS + 1)
        for name, value in (
            ("height", "2.5"),
            ("built", "1950_1977"),
            ("mass", "medium"),
            ("walls", "2"),
            ("heater", "electric_panel"),
        )
    },
}


@dataclass(frozen=True, slots=True, kw_only=True)
class HomesPage:
    """The list of homes."""

    rows: list[ListedHome]
    count: int
    page: int
    last: int
    away: list[tuple[HomeLine, int]]
    example: ExampleView
    examples: Mapping[str, str]


@router.get("/", name="homes")
def homes(request: Request) -> Response:
    """Show all homes."""
    app = app_of(request)
    lines = app.homes.lines()
    last = max(0, (len(lines) - 1) // AT_ONCE)
    text = request.query_params.get("page", "")
    page = min(int(text), last) if text.isdecimal() and text.isascii() and len(text) < MOST_DIGITS else 0
    view = HomesPage(
        rows=listed_homes(app, lines[page * AT_ONCE : (page + 1) * AT_ONCE]),
        count=len(lines),
        page=page,
        last=last,
        away=keeping.taken_away(app),
        example=example_view(),
        examples={key: demo_home(key).name for key in DEMO_HOMES},
    )
    return render(request, "homes/list.html", view)


@router.post("/homes/example", name="copy_example")
def copy_example(request: Request, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Make a home of an example's survey."""
    key = texts.get("example", "")
    if key not in DEMO_HOMES:
        raise HomeError("there is no such example; choose one of the list")
    data = home_to_json(demo_home(key))
    home_id = bring_in(app_of(request), data, person_of(request), f"{key}.json")
    return RedirectResponse(str(request.url_for("matters", home_id=home_id).path), status_code=303)


@router.get("/health", name="health")
def health(request: Request) -> Response:
    """Tell how things are, for whoever watches; 503 if something needs a look."""
    found = health_of(app_of(request))
    return JSONResponse(asdict(found), 200 if found.is_well else 503)


@dataclass(frozen=True, slots=True, kw_only=True)
class NewHomePage:
    """The short form of a new home."""

    t: Mapping[str, str]
    errors: dict[str, str]
    built: Mapping[Built, str]
    mass: Mapping[MassClass, str]
    heaters: Mapping[HeaterKind, str]
    currencies: dict[str, str]
    cops: tuple[int, int, int, int]
    rooms: range


def _form(request: Request, texts: Texts, errors: dict[str, str], status: int = 200) -> Response:
    view = NewHomePage(
        t=texts,
        errors=errors,
        built={k: p.label for k, p in BUILT.items()},
        mass=MASS_LABEL,
        heaters=HEATER_LABEL,
        currencies={c: c for c in CURRENCIES},
        cops=COP_AT_C,
        rooms=range(1, MOST_ROOMS + 1),
    )
    return render(request, "homes/new.html", view, status)


@router.get("/homes/new", name="new_home")
def new_home(request: Request) -> Response:
    """Show the short form."""
    empty = {"empty": "1"} if request.query_params.get("empty") else {}
    return _form(request, dict(_FIRST) | empty, {})


@router.post("/homes/new", name="create_home")
def make_home(request: Request, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Make a home of the form, or show it again with what is wrong."""
    try:
        home = read_home(texts)
    except FormError as error:
        return _form(request, texts, error.errors, 422)
    create_home(app_of(request), home, person_of(request))
    return RedirectResponse(str(request.url_for("survey", home_id=home.id).path), status_code=303)


@router.get("/homes/{home_id}/home.json", name="export_home")
def export_home(request: Request, home_id: str) -> Response:
    """Save a home's document."""
    home, _ = app_of(request).homes.load(home_id)
    return Response(
        home_to_json(shareable(home), indent=1),
        media_type="application/json",
        headers={"Content-Disposition": 'attachment; filename="home.json"'},
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class YouPage:
    """The name that this browser's changes carry."""

    name: str


@router.get("/you", name="you")
def you(request: Request) -> Response:
    """Ask for the name that this browser's changes carry."""
    return render(request, "homes/you.html", YouPage(name=person_of(request).name))


@router.post("/you", name="set_you")
def set_you(texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Keep the name in this browser."""
    response = RedirectResponse("/", status_code=303)
    response.set_cookie("wm_name", quote(texts.get("name", "").strip()[:80]), samesite="strict", max_age=31_536_000)
    return response
