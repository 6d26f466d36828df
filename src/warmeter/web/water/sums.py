"""Sums about water that stay in the address: pipes in frost, condensate, open surfaces, heating up, fillings."""

from collections.abc import Mapping
from dataclasses import MISSING, dataclass, fields

from fastapi import APIRouter, Request
from fastapi.responses import Response

from warmeter.core.errors import WarmeterError
from warmeter.core.explain.water_sums import SUMS, WaterSum
from warmeter.core.home.document import Home
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, read_form, shown_limit, sign_of, unit_of_field
from warmeter.web.page import Page, app_of, frame_of, render
from warmeter.web.working import WorkingView, working_view

router = APIRouter()
TITLES = {
    "pipe": "A pipe in the cold",
    "condensate": "What drips off a cold coil",
    "surface": "An open surface",
    "heat_up": "A tub or store heated up",
    "filling": "A filling with its hard stop",
}
LABELS = {
    "outer_mm": "outside, mm",
    "inner_mm": "inside, mm",
    "insulation_mm": "insulation, mm",
    "lambda_w_mk": "its λ, W/(m·K)",
    "start_c": "water now",
    "around_c": "around it",
    "room_c": "room",
    "room_pct": "humidity, %",
    "coil_c": "air leaves the coil at",
    "coil_pct": "at humidity, %",
    "flow_m3_h": "air",
    "area_m2": "surface",
    "water_c": "water",
    "air_c": "air",
    "air_pct": "humidity, %",
    "air_m_s": "air moves, m/s",
    "activity": "0.5 quiet to 1.5 bubbling",
    "litres": "volume",
    "now_c": "water now",
    "wanted_c": "wanted",
    "power_w": "power, W",
    "loss_w_k": "loss, W/K",
    "flow_l_min": "flow",
}
CONVERTED = ("°C", "L", "L/min", "m²", "m³/h")


@dataclass(frozen=True, slots=True, kw_only=True)
class SumField:
    """A field of a sum: its label with the home's unit, what was typed or is usual, and what is wrong with it."""

    name: str
    label: str
    value: str
    wrong: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SumView:
    """A sum: its fields and what it comes to, or why it comes to nothing."""

    key: str
    title: str
    fields: list[SumField]
    results: list[WorkingView]
    refused: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterSumsPage(Page):
    """All sums about water."""

    home: Home
    tab: str
    sums: list[SumView]


@router.get("/homes/{home_id}/water/sums", name="water_sums")
def water_sums(request: Request, home_id: str) -> Response:
    """Show the sums, those of one of them as the address says."""
    home, revision = app_of(request).homes.load(home_id)
    texts = dict(request.query_params)
    page = WaterSumsPage(
        frame=frame_of(request, home, revision, "survey"),
        home=home,
        tab="water",
        sums=[_sum(home, key, texts if texts.get("sum") == key else {}) for key in SUMS],
    )
    return render(request, "water/water_sums.html", page)


def _sum(home: Home, key: str, texts: Texts) -> SumView:
    model = SUMS[key]
    errors: Mapping[str, str] = {}
    results: list[WorkingView] = []
    refused = ""
    try:
        results = [working_view(each, home) for each in read_form(model, texts, home.units).figures()]
    except FormError as error:
        errors = error.errors
    except WarmeterError as error:
        refused = show.error_words(error, home.units)
    return SumView(
        key=key, title=TITLES[key], fields=_fields(home, model, texts, errors), results=results, refused=refused
    )


def _fields(home: Home, model: type[WaterSum], texts: Texts, errors: Mapping[str, str]) -> list[SumField]:
    found = []
    for field in fields(model):
        unit = unit_of_field(model, field.name)
        usual = "" if field.default is MISSING else shown_limit(float(field.default), unit, home.units)
        sign = f", {sign_of(unit, home.units)}" if unit in CONVERTED else ""
        found.append(
            SumField(
                name=field.name,
                label=f"{LABELS[field.name]}{sign}",
                value=texts.get(field.name, usual),
                wrong=errors.get(field.name, ""),
            )
        )
    return found
