"""Routes of the timetable: the page, its edits, its workings."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date, timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.building.checks.findings import findings_of
from warmeter.core.edits.block_commands import (
    ChangeBlockLevel,
    ChangeBlockSetpoint,
    ChangeHandRule,
    ClearDay,
    CopyDay,
    CopyTimetable,
    DragBlockStart,
    HandBackDay,
    LayBlock,
    MergeBlock,
    MoveBlockStart,
    PlanRun,
    SplitBlock,
    UseSetpointEverywhere,
)
from warmeter.core.edits.calendar_commands import (
    AddDayKind,
    AddOccasion,
    AddPeriod,
    AddTimetable,
    ChangeDayWeather,
    ChangeSpecialDay,
    ChangeWeekdayKind,
    RemoveDayKind,
    RemoveOccasion,
    RemovePeriod,
    RemoveTimetable,
    RenameTimetable,
    SwitchTimetable,
)
from warmeter.core.edits.level_commands import (
    AddLevel,
    ChangeLevelCooling,
    ChangeLevelFan,
    ChangeLevelHeating,
    ChangeZoneNumbers,
    MoveLevelUp,
    RemoveLevel,
    RenameLevel,
    ToggleSaving,
)
from warmeter.core.edits.timetable_edits import SCOPES, Scope
from warmeter.core.edits.zone_commands import ChangeGap
from warmeter.core.errors import HomeError, NotKnowable, WarmeterError
from warmeter.core.explain.damp_figure import damp_figure
from warmeter.core.explain.day_figures import figure_of_day
from warmeter.core.explain.why import why_at
from warmeter.core.forecast.day_forecast import DayForecast, Totals, totals_of
from warmeter.core.home.document import Home
from warmeter.core.home.part import TimeOfDay
from warmeter.core.home.zones import Zone
from warmeter.core.tariff.cheapest_start import RunSchedule
from warmeter.core.units import METRIC, MS_PER_MIN
from warmeter.service.forecast.damp import damp_limits
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.forecast.gaps import day_gaps, gap_figure
from warmeter.service.forecast.level_savings import level_savings
from warmeter.service.forecast.outdoor_forecast import TypedWeather
from warmeter.service.forecast.run_schedules import run_schedule
from warmeter.service.signatures.machines import machine_record
from warmeter.service.timetable.comparisons import latest_comparison, variants_of
from warmeter.service.timetable.device_schedules import device_schedule, own_weeks
from warmeter.service.timetable.manual_overrides import changes_of
from warmeter.web import format as show
from warmeter.web.danger_words import dangers_of, too_small_of
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.page import (
    JobView,
    Page,
    app_of,
    day_in_view,
    frame_of,
    is_fragment,
    job_view,
    render,
    stretch_in_view,
    strip_width,
)
from warmeter.web.public_holidays import public_holidays
from warmeter.web.saving import Commands, command_named, save
from warmeter.web.timetable.compare_view import CompareView, compare_view
from warmeter.web.timetable.dates_view import DatesView, dates_view
from warmeter.web.timetable.device_schedule_view import DeviceScheduleView, device_schedule_view_of, limits_of
from warmeter.web.timetable.gaps_view import RoomBlock, gaps_view
from warmeter.web.timetable.levels_view import LevelsView, guard_rows, levels_view, saving_rows
from warmeter.web.timetable.overrides_view import HandView, hand_view
from warmeter.web.timetable.preview import LaidView, laid_view
from warmeter.web.timetable.view import DayView, day_view
from warmeter.web.timetable.why_view import WhyView, why_view
from warmeter.web.typed import parse_quantity
from warmeter.web.working import WorkingPart, working_view

router = APIRouter()
COMMANDS: Commands = {
    "start": MoveBlockStart,
    "minute": DragBlockStart,
    "setpoint": ChangeBlockSetpoint,
    "everywhere": UseSetpointEverywhere,
    "level": ChangeBlockLevel,
    "split": SplitBlock,
    "merge": MergeBlock,
    "block": LayBlock,
    "copy": CopyDay,
    "copy-zone": CopyTimetable,
    "clear": ClearDay,
    "hand-back": HandBackDay,
    "hand-rule": ChangeHandRule,
    "run": PlanRun,
    "lv-heating": ChangeLevelHeating,
    "lv-cooling": ChangeLevelCooling,
    "lv-name": RenameLevel,
    "lv-fan": ChangeLevelFan,
    "lv-saving": ToggleSaving,
    "lv-add": AddLevel,
    "lv-remove": RemoveLevel,
    "lv-up": MoveLevelUp,
    "lv-own": ChangeZoneNumbers,
    "lv-gap": ChangeGap,
    "tt-add": AddTimetable,
    "tt-rename": RenameTimetable,
    "tt-remove": RemoveTimetable,
    "period": AddPeriod,
    "period-away": RemovePeriod,
    "switch": SwitchTimetable,
    "kind-add": AddDayKind,
    "kind-away": RemoveDayKind,
    "weekday": ChangeWeekdayKind,
    "special": ChangeSpecialDay,
    "occasion": AddOccasion,
    "occasion-away": RemoveOccasion,
    "weather": ChangeDayWeather,
}


@dataclass(frozen=True, slots=True)
class _AskedTime:
    """The time of day that is asked about."""

    time: TimeOfDay = 12 * 60


PANES = {
    "day": "Day",
    "week": "Week",
    "levels": "Levels",
    "dates": "Days and dates",
    "hand": "By hand",
    "gaps": "Setback periods",
    "compare": "Compare",
    "carry": "Files and devices",
}
COLDEST_C, HOTTEST_C = -60.0, 60.0
KEPT_IN_ADDRESS = ("low", "high", "zone", "pane", "scope", "from", "to")


def typed_weather(request: Request, home: Home) -> TypedWeather | None:
    """Return the day's temperatures typed in the address, None if they are not both numbers."""
    try:
        low_c, high_c = (
            parse_quantity(request.query_params.get(name, ""), "°C", home.units) for name in ("low", "high")
        )
    except ValueError:
        return None
    return TypedWeather(low_c, high_c) if COLDEST_C <= low_c <= high_c <= HOTTEST_C else None


def not_taken(request: Request, home: Home) -> str:
    """Return why typed temperatures do not hold, "" where they do or nothing was typed."""
    low, high = (request.query_params.get(name, "").strip() for name in ("low", "high"))
    if not (low or high) or typed_weather(request, home):
        return ""
    ends = " to ".join(show.temperature(c, home, 0) for c in (COLDEST_C, HOTTEST_C))
    return (
        f"Low “{low[:20]}” and high “{high[:20]}” are not taken. Write two numbers "
        f"from {ends} {show.temperature_unit(home)}, the low no higher than the high."
    )


def runs_of(request: Request, forecast: DayForecast) -> list[tuple[MachineRecord, RunSchedule]]:
    """Return the day's machine runs that can be priced."""
    found = []
    for appliance in forecast.home.appliances:
        try:
            record = machine_record(app_of(request), forecast.home, appliance.id)
            found.append((record, run_schedule(app_of(request), forecast.home, record, forecast.day.date)))
        except WarmeterError:
            continue
    return found


def pane_of(request: Request) -> str:
    """Return the part of the page that the address asks for."""
    pane = request.query_params.get("pane", "day")
    return pane if pane in PANES else "day"


def scope_of(request: Request) -> Scope:
    """Return what an edit of the day in view shall change."""
    asked = request.query_params.get("scope", "written")
    return next((scope for scope in SCOPES if scope == asked), "written")


def first_day(request: Request, on: date) -> tuple[date, int]:
    """Return the first day of the strip in view and its days: the day itself, or the week from Monday on."""
    return (on - timedelta(days=on.weekday()), 7) if pane_of(request) == "week" else (on, 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class TimetablePage(Page):
    """The timetable: what every pane needs, and the one in view; ``why`` where nothing can be drawn."""

    home: Home
    day: date
    pane: str
    panes: Mapping[str, str]
    query: Mapping[str, str]
    unit: str
    not_taken: str
    weather_low: str
    weather_high: str
    view: DayView | None = None
    hand: HandView | None = None
    levels: LevelsView | None = None
    dates: DatesView | None = None
    gaps: list[RoomBlock] = field(default_factory=list)
    compare: CompareView | None = None
    carry: DeviceScheduleView | None = None
    job: JobView | None = None
    dangers: list[str] = field(default_factory=list)
    too_small: list[str] = field(default_factory=list)
    why: str = ""
    record: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class SavingsPart:
    """What each level that is meant to save does in a week; ``why`` where that is not known."""

    home: Home
    first: str
    rows: list[tuple[str, str, str]] = field(default_factory=list)
    in_use: str = ""
    why: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class WhyPart:
    """Why a zone asks what it asks."""

    why: WhyView
    home: Home


@dataclass(frozen=True, slots=True, kw_only=True)
class PreviewPart:
    """What a block would do that is not laid yet."""

    laid: LaidView


def timetable_page(request: Request, home_id: str, notice: str = "") -> Response:
    """Return the timetable's page or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    on, pane = day_in_view(request, home), pane_of(request)
    query = {k: v for k, v in request.query_params.items() if k in KEPT_IN_ADDRESS and v} | {"day": str(on)}
    said = next((weather for weather in home.day_weather if weather.on == on), None)
    page = TimetablePage(
        frame=frame_of(request, home, revision, "timetable", on),
        notice=notice or request.query_params.get("notice", ""),
        home=home,
        day=on,
        pane=pane,
        panes=PANES,
        query=query,
        unit=show.temperature_unit(home),
        not_taken=not_taken(request, home),
        weather_low="" if said is None else show.temperature(said.low_c, home),
        weather_high="" if said is None else show.temperature(said.high_c, home),
    )
    if not home.zones:
        why = "No room of this home is in a zone yet, so there is nothing to time."
        return render(request, "timetable/empty.html", replace(page, why=why, record="Draw one under Survey."))
    try:
        page = _with_pane(page, request, revision)
    except NotKnowable as error:
        return render(request, "timetable/empty.html", replace(page, why=error.why, record=error.record))
    return render(request, "timetable/_page.html" if is_fragment(request) else "timetable/page.html", page)


def zone_in_view(request: Request, home: Home) -> Zone:
    """Return the zone that the address asks for, else the first."""
    asked = request.query_params.get("zone", "")
    return next((zone for zone in home.zones if zone.id == asked), home.zones[0])


def _with_pane(page: TimetablePage, request: Request, revision: int) -> TimetablePage:
    """Return a page with what the pane in view shows; ``NotKnowable`` where nothing can be drawn."""
    home, on, pane = page.home, page.day, page.pane
    if pane == "hand":
        return replace(page, hand=hand_view(app_of(request), home, zone_in_view(request, home)))
    if pane == "levels":
        zone = zone_in_view(request, home)
        found = [f for f in findings_of(home) if f.kind == "saves nothing"]
        sentences = [f.sentence + " " + f.fix for f in found]
        guard = guard_rows(home, zone, damp_limits(app_of(request), home).get(zone.id))
        return replace(page, levels=levels_view(home, zone, guard, sentences))
    if pane == "dates":
        return replace(page, dates=dates_view(home, zone_in_view(request, home), on))
    if pane == "gaps":
        app = app_of(request)
        forecast, gaps = day_gaps(app, home, revision, on, typed_weather(request, home))
        return replace(_with_dangers(page, forecast), gaps=gaps_view(home, app.clock(home), gaps))
    if pane == "compare":
        return _with_comparison(page, request)
    if pane == "carry":
        limits, level_id = limits_of(request, home), request.query_params.get("own", "")
        schedule = device_schedule(
            app_of(request), home, revision, zone_in_view(request, home).id, on, limits, typed_weather(request, home)
        )
        return replace(page, carry=device_schedule_view_of(home, schedule, limits, own_weeks(home, level_id), level_id))
    return _with_strip(page, request, revision)


def _with_dangers(page: TimetablePage, forecast: DayForecast) -> TimetablePage:
    return replace(page, dangers=dangers_of(forecast), too_small=too_small_of(forecast))


def _with_comparison(page: TimetablePage, request: Request) -> TimetablePage:
    """Return a page with the comparison: the one that runs, and the newest that is done."""
    app, home, on = app_of(request), page.home, page.day
    done = latest_comparison(app, home.id)
    compared = done[1] if done else None
    stretch = stretch_in_view(request)
    if stretch is None:
        stretch = (compared.asked.first, compared.asked.last) if compared else (on - timedelta(days=13), on)
    width = strip_width(request, has_aside=False)
    view = compare_view(home, app.clock(home), variants_of(app, home), stretch, compared, width)
    return replace(page, compare=view, job=job_view(app.work.latest_of_kind(home.id, "compare"), "Compare"))


def _with_strip(page: TimetablePage, request: Request, revision: int) -> TimetablePage:
    """Return a page with the day or the week in view; ``NotKnowable`` where nothing can be drawn."""
    app, home, on = app_of(request), page.home, page.day
    first, days = first_day(request, on)
    typed = typed_weather(request, home)
    forecast = day_forecast(app, home, revision, first, typed, days)
    if not forecast.rooms:
        raise NotKnowable(
            "No room of this home has a heater yet, so there is nothing to time.", "Add one under Survey."
        )
    kept, kept_name = _kept(request, home, first, typed, days)
    view = day_view(
        forecast,
        runs_of(request, forecast) if days == 1 else [],
        on=on,
        zone_id=request.query_params.get("zone", ""),
        scope=scope_of(request),
        available=strip_width(request),
        notes=[f.room.name for f in forecast.rooms if f.fit is None or not f.fit.fit.is_fit_for_use],
        kept=kept,
        kept_name=kept_name,
    )
    return replace(_with_dangers(page, forecast), view=view)


def _kept(
    request: Request, home: Home, first: date, typed: TypedWeather | None, days: int
) -> tuple[Totals | None, str]:
    """Return the sums of the newest revision that has a name, and that name; None where none differs."""
    app = app_of(request)
    named = app.homes.newest_named(home.id)
    if named is None:
        return None, ""
    before, number = app.homes.load(home.id, named.number)
    if before == home:
        return None, named.name
    try:
        return totals_of(day_forecast(app, before, number, first, typed, days)), named.name
    except WarmeterError:
        return None, named.name


@router.get("/homes/{home_id}/timetable", name="timetable")
def timetable(request: Request, home_id: str) -> Response:
    """Show a day."""
    return timetable_page(request, home_id)


@router.get("/homes/{home_id}/timetable/level-savings", name="level_savings")
def savings(request: Request, home_id: str) -> Response:
    """Show what each level that is meant to save does in the week of the day in view."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    on = day_in_view(request, home)
    first = on - timedelta(days=on.weekday())
    part = SavingsPart(home=home, first=show.day_short(first, home.country))
    try:
        rows = saving_rows(home, level_savings(app, home, revision, first, typed_weather(request, home)))
        part = replace(part, rows=rows, in_use=home.in_use.name if home.in_use else "")
    except NotKnowable as error:
        part = replace(part, why=error.args[0])
    return render(request, "timetable/_savings.html", part)


@router.get("/homes/{home_id}/timetable/why", name="why")
def why(request: Request, home_id: str) -> Response:
    """Show why a zone asks what it asks at a minute of the strip, or at a time of the day in view."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    on = day_in_view(request, home)
    first, days = first_day(request, on)
    clock, zone = app.clock(home), zone_in_view(request, home)
    if request.query_params.get("minute", "").isdecimal():
        at_ms = clock.day(first).start_ms + min(int(request.query_params["minute"]), days * 1500) * MS_PER_MIN
    else:
        at_ms = clock.instant(on, read_form(_AskedTime, dict(request.query_params.items())).time)
    leads: dict[int, float] = {}
    try:
        forecast = day_forecast(app, home, revision, first, typed_weather(request, home), days)
        room = next((room for room in forecast.rooms if room.zone.id == zone.id), None)
        leads = {x.block.from_ms: x.lead.best for x in room.leads if x.lead.best} if room else {}
    except NotKnowable:
        pass  # without weather no warm-up is laid, and the rest is known
    changes = [change for _, change in changes_of(app, home_id)]
    found = why_at(home, zone, clock, changes, at_ms, leads, damp_limits(app, home).get(zone.id))
    return render(request, "timetable/_why.html", WhyPart(why=why_view(home, clock, found), home=home))


@router.get("/homes/{home_id}/timetable/preview", name="preview_block")
def preview_block(request: Request, home_id: str) -> Response:
    """Show how long a block would last, what it would cost and what would follow it; nothing is changed."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    on = day_in_view(request, home)
    texts = {"day": str(on), "scope": scope_of(request), **dict(request.query_params.items())}
    view = laid_view(app, home, revision, read_form(LayBlock, texts, home.units), typed_weather(request, home))
    return render(request, "timetable/_preview.html", PreviewPart(laid=view))


@router.post("/homes/{home_id}/timetable/{command}", name="timetable_edit")
def timetable_edit(
    request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]
) -> Response:
    """Do one command on the timetable, of the day in view unless the form names another."""
    home, _ = app_of(request).homes.load(home_id)
    on = day_in_view(request, home)
    view = {"day": str(on), "strip_day": str(first_day(request, on)[0]), "scope": scope_of(request)}
    if command == "public-holidays":
        year = on.year
        save(request, home_id, texts, lambda h: _holidays_of(h, year))
        return timetable_page(request, home_id)
    kind = command_named(COMMANDS, command)
    # What was dragged is in °C, whatever the home's unit.
    is_celsius = texts.get("unit") == "C"
    save(request, home_id, texts, lambda h: read_form(kind, {**view, **texts}, METRIC if is_celsius else h.units))
    return timetable_page(request, home_id)


def _holidays_of(home: Home, year: int) -> AddOccasion:
    """Return the command that adds a country's public holidays of two years, of the kind of day that Sunday is of.

    Raises
    ------
    HomeError
        If they are not known.
    """
    days = public_holidays(home.country, year)
    if not days:
        raise HomeError(f"the public holidays of {home.country} are not known here: type the dates")
    sunday = next((kind.id for kind in home.day_kinds if 6 in kind.weekdays), "")
    return AddOccasion(name="Public holidays", what="holidays", dates=" ".join(map(str, days)), kind_id=sunday)


@router.get("/homes/{home_id}/timetable/working/{key}", name="day_working")
def day_working(request: Request, home_id: str, key: str) -> Response:
    """Show how a figure of the day was worked out."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    if key.startswith("damp."):
        limit = damp_limits(app, home).get(key.removeprefix("damp."))
        if limit is None:
            raise NotKnowable("No humidity was received here.", "Import a log of relative humidity.")
        return render(request, "_working.html", WorkingPart(working=working_view(damp_figure(limit), home)))
    if key.startswith("gap."):
        found = day_gaps(app, home, revision, day_in_view(request, home), typed_weather(request, home))
        return render(request, "_working.html", WorkingPart(working=working_view(gap_figure(*found, key), home)))
    first, days = first_day(request, day_in_view(request, home))
    forecast = day_forecast(app, home, revision, first, typed_weather(request, home), days)
    figure = figure_of_day(forecast, runs_of(request, forecast), key)
    return render(request, "_working.html", WorkingPart(working=working_view(figure, home)))
