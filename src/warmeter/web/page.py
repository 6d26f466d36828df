"""The frame around every page: spine, top, status; errors and conflicts in the same frame."""

from collections.abc import Mapping
from contextvars import ContextVar
from dataclasses import dataclass, fields
from datetime import date, timedelta
from pathlib import Path
from typing import Any, ClassVar, Protocol
from urllib.parse import quote, unquote, urlsplit

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from fastapi.templating import Jinja2Templates
from markupsafe import Markup

from warmeter.core.errors import WarmeterError
from warmeter.core.home.document import Home
from warmeter.core.sentence import Measure, Sentence, celsius, kelvin, kelvin_hours
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import (
    FEET_FACTORS,
    FEET_SIGNS,
    METRIC,
    Units,
    area_to,
    difference_sign,
    feet_and_inches,
    kelvin_to,
)
from warmeter.service.app import App, Person
from warmeter.service.limits import ARCHIVE_TOLD, FILE_TOLD
from warmeter.service.matters.summary import OpenLines, open_lines
from warmeter.store.homes import HomeNotFound, HomeUnreadable
from warmeter.store.work import Job
from warmeter.web import format as show
from warmeter.web.abbreviations import abbr
from warmeter.web.ribbon import Ribbon, ribbon_of

# In the order in which they are loaded: of two rules of one weight the later counts.
STYLES = (
    "frame",
    "working",
    "strip",
    "tariff",
    "components",
    "plan",
    "zones",
    "radio",
    "water",
    "ducts",
    "sun",
    "people",
    "signatures",
    "rules",
    "matters",
    "bothers",
    "live",
    "print",
)
TEMPLATES = Jinja2Templates(directory=Path(__file__).parent / "templates")
TEMPLATES.env.trim_blocks = TEMPLATES.env.lstrip_blocks = True
TEMPLATES.env.autoescape = True  # also in the SVG templates, whose ending Jinja would not escape
SPINE, ASIDE, PADDING = 176, 288, 24
DEFAULT_WINDOW = 1280
RETRY_S = 2
FIRST_DAY, LAST_DAY = date(1990, 1, 1), date(2100, 1, 1)


def app_of(request: Request) -> App:
    """Return what every use case is handed."""
    app: App = request.app.state.app
    return app


def person_of(request: Request) -> Person:
    """Return who edits: the name kept for this browser, and its window."""
    name = unquote(request.cookies.get("wm_name", "")).strip()[:80] or "no name given"
    return Person(name, request.headers.get("x-window", "")[:32])


@dataclass(frozen=True, slots=True)
class SpineStep:
    """One step in the spine."""

    key: str
    name: str
    mark: str
    url: str
    is_current: bool
    done: int
    of: int


@dataclass(frozen=True, slots=True)
class DayNav:
    """The day in view with its neighbours."""

    label: str
    before_url: str
    after_url: str
    today_url: str


@dataclass(frozen=True, slots=True)
class Status:
    """The status line."""

    saved: str
    can_undo: bool
    can_redo: bool
    warning: str
    is_danger: bool


@dataclass(frozen=True, slots=True)
class Frame:
    """What surrounds a page of a home."""

    home_id: str
    home_name: str
    as_of: str
    ribbon: Ribbon
    revision: int
    spine: list[SpineStep]
    day: DayNav | None
    status: Status
    person: str
    way_back: str


def told_width(request: Request) -> int:
    """Return the window's width [px] that a page is drawn for, as its request tells it.

    A cookie read by the page itself may be newer than its request's, so the page is told this number.
    """
    text = request.query_params.get("w") or request.cookies.get("wm_width", "")
    return min(max(int(text), 320), 2600) if text.isdecimal() else DEFAULT_WINDOW


# The unit of the page that is being drawn: sentences carry their temperatures, a page says them in its home's unit.
_UNITS: ContextVar[Units] = ContextVar("units", default=METRIC)


def in_page_unit(value: object) -> object:
    """Return what a template prints, a sentence or a measure with its temperatures in the page's unit."""
    if isinstance(value, Sentence):
        return value.in_unit(_UNITS.get())
    return value.text(_UNITS.get()) if isinstance(value, Measure) else value


def difference_typed(value_k: float | None) -> str:
    """Return a difference of temperatures as a field of the page has it, "" for none."""
    return "" if value_k is None else f"{round(kelvin_to(value_k, _UNITS.get().temperature), 6):g}"


def length_typed(value_m: float | None) -> str:
    """Return a length as a field of the page has it, "" for none."""
    if value_m is None:
        return ""
    return feet_and_inches(value_m) if _UNITS.get().length == "ft" else f"{value_m:g}"


def area_typed(value_m2: float | None) -> str:
    """Return an area as a field of the page has it, "" for none."""
    return "" if value_m2 is None else f"{round(area_to(value_m2, _UNITS.get().length), 6):g}"


_ENDINGS = {"_l_min": "L/min", "_m3_h": "m³/h", "_cm2": "cm²", "_pa": "Pa"}


def field_typed(name: str, value: float | None) -> str:
    """Return a number as a field of the page has it, by the unit that its name carries; "" for none."""
    if name.endswith("_m"):
        return length_typed(value)
    if name.endswith("_m2"):
        return area_typed(value)
    unit = "L" if name == "litres" else next((u for end, u in _ENDINGS.items() if name.endswith(end)), "")
    if unit and value is not None:
        return f"{value / FEET_FACTORS[unit] if _UNITS.get().length == 'ft' else value:.4g}"
    return "" if value is None else f"{value:g}"


TEMPLATES.env.finalize = in_page_unit
TEMPLATES.env.globals |= {
    "in_page_unit": in_page_unit,
    "celsius": celsius,
    "kelvin": kelvin,
    "kelvin_hours": kelvin_hours,
    "difference_typed": difference_typed,
    "length_typed": length_typed,
    "field_typed": field_typed,
    "area_typed": area_typed,
    "length_unit": lambda: _UNITS.get().length,
    "water_unit": lambda: FEET_SIGNS["L"] if _UNITS.get().length == "ft" else "L",
    "difference_unit": lambda: difference_sign(_UNITS.get().temperature),
}
TEMPLATES.env.globals["styles"] = STYLES
# What the server answers is drawn in place: requests in turn, refusals where notices stand.
QUEUED = 'hx-sync="body:queue all" hx-status:4xx="target:#notice" hx-status:5xx="target:#notice"'
LIVE = f'hx-target=".wm-live" hx-swap="innerHTML" {QUEUED}'
# Words of ours, no text of anybody.
TEMPLATES.env.globals |= {"queued": Markup(QUEUED), "live": Markup(LIVE)}  # noqa: S704


def is_refused(request: Request) -> bool:
    """Return whether a page says that something was not done: what was typed for it is kept then."""
    return getattr(request.state, "is_refused", False) or "refused" in request.query_params


def here(request: Request) -> str:
    """Return the path of the page that is looked at, with what its address asks for; of a part, that of its page.

    A page from which one goes back hands that on.
    """
    if "back" in request.query_params:
        return request.query_params["back"]
    whole = urlsplit(request.headers.get("hx-current-url", "") or str(request.url))
    return f"{whole.path}?{whole.query}" if whole.query else whole.path


def here_of_home(request: Request, home_id: str, path: str) -> str:
    """Return a path if it is one of a home's pages, "" else: nobody is sent to another place."""
    own = str(request.url_for("as_of", home_id=home_id).path).removesuffix("as-of")
    return path if path.startswith(own) and "//" not in path and "\\" not in path else ""


TEMPLATES.env.globals["here"] = here
TEMPLATES.env.globals["abbr"] = abbr
TEMPLATES.env.globals["is_refused"] = is_refused
TEMPLATES.env.globals["told_width"] = told_width
TEMPLATES.env.globals["file_limit"] = FILE_TOLD
TEMPLATES.env.globals["archive_limit"] = ARCHIVE_TOLD


def strip_width(request: Request, *, has_aside: bool = True) -> int:
    """Return the px that a strip may take in the window."""
    window = told_width(request)
    if window < 900:
        return window - PADDING
    return window - SPINE - PADDING - (ASIDE if has_aside else 0)


def frame_of(
    request: Request, home: Home, revision: int, step: str, on: date | None = None, *, stands: OpenLines | None = None
) -> Frame:
    """Return the frame of a home's page; ``stands`` is what stands open where a page has just worked that out."""
    app = app_of(request)
    revisions, history = app.homes.recent(home.id)
    newest = revisions[0]
    clock, as_of = app.clock(home), app.as_of_ms(home.id)
    stands = stands or open_lines(app, home)
    return Frame(
        home_id=home.id,
        home_name=home.name,
        as_of=_as_of(app, home, step, clock, as_of),
        ribbon=_ribbon(request, home, on or clock.local(as_of).date(), is_of_day=on is not None),
        revision=revision,
        spine=_spine(request, home, step, stands),
        day=None if on is None else _day_nav(request, home, on, as_of),
        status=Status(
            saved=f"revision {newest.number}: {newest.summary}",
            can_undo=any(r.parent > 0 for r in history.done[-1:]),
            can_redo=any(history.undone),
            warning=_warning(stands),
            is_danger=stands.worst is not None and stands.worst.kind == "danger",
        ),
        person=person_of(request).name,
        way_back=_way_back(request, home.id),
    )


def _as_of(app: App, home: Home, step: str, clock: LocalClock, as_of_ms: int) -> str:
    """Return what counts as now in words: on a page that grows by itself the day only, by the home's own clock."""
    live = app.live_homes.find(home.id) if step == "live" else None
    if live is not None:
        day = clock.local(live.clock.home_at(app.now_ms())).date()
        return f"live, {show.day_short(day, home.country)}"
    return f"as of {show.day_short(clock.local(as_of_ms).date(), home.country)}, {show.clock_now(as_of_ms, clock)}"


def _way_back(request: Request, home_id: str) -> str:
    """Return the page that one came from for something that it needed, "" for none; imports lead back themselves."""
    if "/import" in request.url.path or request.url.path.endswith("/as-of"):
        return ""
    return here_of_home(request, home_id, request.query_params.get("back", ""))


def _warning(stands: OpenLines) -> str:
    """Return the worst open line, and how many others there are."""
    if stands.worst is None:
        return ""
    others = stands.open - 1
    return (
        f"{stands.worst.sentence.rstrip('.')}; {others} other line{'s' * (others != 1)} open"
        if others
        else stands.worst.sentence
    )


def _kept_in_view(request: Request) -> str:
    """Return what of the address goes along to another day, each part with an & before it."""
    kept = ("pane", "zone", "low", "high")
    return "".join(f"&{k}={quote(v)}" for k, v in request.query_params.items() if k in kept and v)


def _ribbon(request: Request, home: Home, on: date, *, is_of_day: bool) -> Ribbon:
    """Return the year around the day in view; it leads to the same page, or from pages without a day to the timetable."""
    path = request.url.path if is_of_day else str(request.url_for("timetable", home_id=home.id).path)
    kept = _kept_in_view(request).removeprefix("&") if is_of_day else ""
    return ribbon_of(
        app_of(request),
        home,
        on,
        window=told_width(request),
        url=f"{path}?{kept}" if kept else path,
        stretch=stretch_in_view(request),
    )


def stretch_in_view(request: Request) -> tuple[date, date] | None:
    """Return the stretch of dates that the address asks for, None if it asks for none in order."""
    try:
        first, last = (date.fromisoformat(request.query_params.get(name, "")) for name in ("from", "to"))
    except ValueError:
        return None
    return (first, last) if FIRST_DAY <= first <= last <= LAST_DAY else None


def _spine(request: Request, home: Home, step: str, open_now: OpenLines) -> list[SpineStep]:
    app = app_of(request)
    rooms, fits = len(home.rooms), app.work.fit_stamp(home.id)
    quantities = {(s.record.quantity, s.record.subject) for s in app.readings.series(home.id)}
    stands = {d.id: d.room_id for d in home.devices}
    logged = len({stands.get(s, s) for q, s in quantities if q == "room_temperature"})
    heard = sum(("electric_w", a.id) in quantities for a in home.appliances)
    heated = sum(room.condition == "heated" for room in home.rooms)
    placed = sum(room.condition == "heated" and home.zone_of_room(room.id) is not None for room in home.rooms)
    drawn = sum(room.is_drawn for room in home.rooms)
    tariff = home.newest_tariff
    until = f"priced to {show.day_short(tariff.valid_to, home.country)}" if tariff and tariff.valid_to else "priced"
    aside = f", {open_now.aside} put aside" if open_now.aside else ""
    rows = (
        ("h", "What matters", f"{open_now.open or 'nothing'} open{aside}", "matters", 0, 0),
        (
            "1",
            "Survey",
            f"{drawn}{' of ' if rooms < 10 else '/'}{rooms} drawn, {logged} logged",
            "survey",
            drawn,
            rooms,
        ),
        ("2", "Zones", f"{placed} of {heated} rooms placed", "zones", placed, heated),
        (
            "3",
            "Timetable",
            f"{len(home.zones)} zone{'s' * (len(home.zones) != 1)} written",
            "timetable",
            len(home.zones),
            len(home.zones),
        ),
        ("4", "Warm-up", f"{len(fits)} of {heated} rooms fitted", "warmup", len(fits), heated),
        ("5", "Signatures", f"{heard} of {len(home.appliances)} logged", "signatures", heard, len(home.appliances)),
        ("6", "Tariff", until if tariff else "no tariff yet", "tariff", int(tariff is not None), 1),
        ("7", "Rules", _rules_mark(home), "rules", len(home.rules), len(home.rules)),
        ("9", "Live", *_live_mark(app, home)),
        ("s", "Sheet", "settings to type", "sheet", 0, 0),
    )
    return [
        SpineStep(key, name, mark, str(request.url_for(route, home_id=home.id).path), route == step, done, of)
        for key, name, mark, route, done, of in rows
    ]


def _live_mark(app: App, home: Home) -> tuple[str, str, int, int]:
    """Return what the spine says of Live, its route, and how many of the devices that speak are heard."""
    live = app.live_homes.find(home.id)
    if live is None:
        return "not linked", "live", 0, 0
    heard, of = int(live.told.get("heard", 0)), int(live.told.get("devices", 0))
    return (f"{heard} of {of} heard" if of else "linked"), "live", heard, of


def _rules_mark(home: Home) -> str:
    silent = sum(rule.suspended is not None for rule in home.rules)
    written = f"{len(home.rules)} rule{'s' * (len(home.rules) != 1)}" if home.rules else "none written"
    return f"{written}, {silent} suspended" if silent else written


def _day_nav(request: Request, home: Home, on: date, as_of: int) -> DayNav:
    path, kept = request.url.path, _kept_in_view(request)
    today = app_of(request).clock(home).local(as_of).date()
    return DayNav(
        label=show.day_long(on, home.country),
        before_url=f"{path}?day={on - timedelta(days=1)}{kept}",
        after_url=f"{path}?day={on + timedelta(days=1)}{kept}",
        today_url=f"{path}?day={today}{kept}",
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Page:
    """What every page of a home says: its frame, and a sentence on what was just done."""

    frame: Frame
    notice: str = ""


class View(Protocol):
    """What a template shows: a frozen dataclass, whose fields are the template's words."""

    __dataclass_fields__: ClassVar[dict[str, Any]]


def render(request: Request, name: str, view: View, status: int = 200) -> HTMLResponse:
    """Return a template's page, temperatures in the unit of its home."""
    _UNITS.set(units_of(request) if status < 500 else METRIC)
    request.state.is_refused = status >= 400
    words = {field.name: getattr(view, field.name) for field in fields(view)}
    response = TEMPLATES.TemplateResponse(request, name, words, status_code=status)
    if is_fragment(request) and isinstance(view, Page):
        # The status line stands outside of the part; its revision is what the next edit goes on from.
        # After an edit the steps may have come further.
        outside = ("_status.html", "_spine.html") if request.method == "POST" else ("_status.html",)
        parts = [
            TEMPLATES.get_template(part).render(request=request, frame=view.frame, is_part=True) for part in outside
        ]
        response.body = bytes(response.body) + "".join(parts).encode()
        response.headers["Content-Length"] = str(len(response.body))
        if request.method == "POST":
            response.headers["X-Revision"] = str(view.frame.revision)
    return response


def units_of(request: Request) -> Units:
    """Return the units of the home that an address names, °C and metres if it names none that can be read."""
    home_id = request.path_params.get("home_id")
    try:
        return app_of(request).homes.load(home_id)[0].units if home_id else METRIC
    except (WarmeterError, HomeNotFound, HomeUnreadable):
        return METRIC


def is_fragment(request: Request) -> bool:
    """Return whether a part of the page is asked for, not the whole."""
    return "hx-request" in request.headers and request.headers.get("hx-request-type") != "full"


@dataclass(frozen=True, slots=True, kw_only=True)
class ErrorPage:
    """An error: what, what was kept, what next, and the request's number in the log."""

    title: str
    why: str
    then: str
    kept: str
    id: str
    faults: Mapping[str, str]


@dataclass(frozen=True, slots=True, kw_only=True)
class ConflictPage:
    """Another window saved meanwhile."""

    latest: int
    is_fragment: bool
    back: str


def error_page(
    request: Request,
    status: int,
    title: str,
    why: str,
    then: str,
    kept: str = "Everything as it was.",
    faults: Mapping[str, str] | None = None,
) -> Response:
    """Return an error: what, what was kept, what next; ``faults`` has the sentences of single fields."""
    view = ErrorPage(title=title, why=why, then=then, kept=kept, id=request.state.id, faults=faults or {})
    return render(request, "_error.html" if is_fragment(request) else "error.html", view, status)


def away_page(request: Request) -> Response:
    """Return the news that the database is being restarted; what only shows something tries again by itself."""
    title, why = "The database is being restarted", "It ended, and is brought back; that takes a few seconds."
    if request.method in ("GET", "HEAD"):
        answer = error_page(request, 503, title, why, "Wait: this page tries again by itself.")
        answer.headers["Refresh"] = str(RETRY_S)
    else:
        kept = "All that was said to be saved. Whether this was is not known."
        then = "Go back in a few seconds, look whether it was saved, and send it again if it was not."
        answer = error_page(request, 503, title, why, then, kept)
    answer.headers["Retry-After"] = str(RETRY_S)
    return answer


def conflict_page(request: Request, latest: int) -> Response:
    """Return the news that another window saved meanwhile."""
    view = ConflictPage(latest=latest, is_fragment=is_fragment(request), back=request.headers.get("referer", "/"))
    return render(request, "_conflict.html" if is_fragment(request) else "conflict.html", view, 409)


def back_to(request: Request, route: str, home_id: str, notice: str = "", **query: str) -> RedirectResponse:
    """Return to a page of a home after a change, with a sentence for it."""
    pairs = {**query, **({"notice": notice} if notice else {})}
    tail = "?" + "&".join(f"{k}={quote(v)}" for k, v in pairs.items()) if pairs else ""
    return RedirectResponse(str(request.url_for(route, home_id=home_id).path) + tail, status_code=303)


def day_in_view(request: Request, home: Home) -> date:
    """Return the day that the address asks for, else tomorrow as the home's clock sees it."""
    text = request.query_params.get("day", "")
    try:
        asked = date.fromisoformat(text)
    except ValueError:
        asked = date.min
    if not FIRST_DAY <= asked <= LAST_DAY:
        app = app_of(request)
        return app.clock(home).local(app.as_of_ms(home.id)).date() + timedelta(days=1)
    return asked


@dataclass(frozen=True, slots=True)
class JobView:
    """A job as the status line shows it."""

    id: int
    sentence: str
    percent: int
    is_over: bool
    state: str


def job_view(job: Job | None, subject: str = "") -> JobView | None:
    """Return a job for a page, None if there is none worth showing."""
    if job is None or (job.is_over and job.state == "done"):
        return None
    name = f"{subject}: " if subject else ""
    return JobView(job.id, f"{name}{job.sentence}", job.percent, job.is_over, job.state)
