"""Routes of the rules: the page, its acts, the rules to start from."""

from dataclasses import replace
from datetime import timedelta
from typing import Annotated

from fastapi import APIRouter, Depends, File, Form, Request, UploadFile
from fastapi.responses import Response

from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.rule_conditions import Signal
from warmeter.core.starters.catalogue import STARTERS
from warmeter.core.starters.starter import ALARM_CAUTION
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY
from warmeter.service.homes.editing import edit_home
from warmeter.service.homes.homefile import joined
from warmeter.service.rules.replays import Replay, replay
from warmeter.service.rules.rule_evidence import drop_of, evidence_of, with_never
from warmeter.service.rules.rule_saving import RuleSaving, rule_saving
from warmeter.service.rules.rule_signals import FACT_EVENT
from warmeter.service.rules.rule_tuning import Goal, SweepAsked, Tuned, ask_sweep, kept_sweep
from warmeter.service.rules.rules_file import read_rules, rules_json, with_rules_of
from warmeter.web import format as show
from warmeter.web.forms import Fields, form_fields
from warmeter.web.page import (
    app_of,
    back_to,
    frame_of,
    is_fragment,
    job_view,
    person_of,
    render,
    stretch_in_view,
    strip_width,
)
from warmeter.web.rules.acts import ACTS, fix_act, starter_act
from warmeter.web.rules.notifications_view import LOUD, NotificationLine, fact_lines, notification_lines
from warmeter.web.rules.replay_strip import zones_of
from warmeter.web.rules.sentence import KINDS
from warmeter.web.rules.sheet_view import instructions
from warmeter.web.rules.tune_view import TuneView, long_sweep, tune_view
from warmeter.web.rules.view import rules_view
from warmeter.web.rules.wording import rule_wording
from warmeter.web.survey.acting import perform

router = APIRouter()
KEPT = ("rule", "slot", "pane", "from", "to", "up", "across", "against", "over_min", "needless")
USUAL_DAYS, LONGEST_DAYS = 7, 400
FOLDS = ("name",)
ADDS = (
    ("watch", "and watch"),
    ("watch_or", "or watch"),
    ("only_while", "only while"),
    ("only_while_or", "or while"),
    ("as_long_as", "as long as"),
    ("put_back", "put back when"),
    ("back_or", "or when"),
    ("back_after", "put back after"),
    ("back_at", "put back at"),
)
STEPS = (
    ("set_level", "set a level"),
    ("set_point", "set a temperature"),
    ("lower", "lower or raise"),
    ("switch", "switch"),
    ("timed_run", "run for a time"),
    ("blinds", "move blinds"),
    ("shut_off", "shut off"),
    ("mark_fact", "mark a fact"),
    ("tell", "tell"),
)


def replayed(request: Request, home: Home, chosen_id: str) -> Replay | None:
    """Return the rules over the stretch in view, by default the week up to the last reading; None without readings."""
    app = app_of(request)
    if not home.rules or app.readings.bounds(home.id) is None:
        return None
    clock = app.clock(home)
    stretch = stretch_in_view(request)
    last = clock.local(app.as_of_ms(home.id)).date()
    first, last = stretch if stretch is not None else (last - timedelta(days=USUAL_DAYS - 1), last)
    start, end = clock.instant(first, 0), clock.instant(last + timedelta(days=1), 0)
    if stretch is None:
        end = min(end, app.as_of_ms(home.id) + 1)
    return replay(
        app,
        home,
        max(start, end - LONGEST_DAYS * MS_PER_DAY),
        end,
        _drawn_beside(home, chosen_id, request.query_params.get("against", "")),
    )


def _drawn_beside(home: Home, chosen_id: str, against: str) -> list[Signal]:
    """Return the temperatures of the rooms that the chosen rule acts on, and what may say what it should have caught."""
    rule = next((rule for rule in home.rules if rule.id == chosen_id), None)
    rooms = [zone.room_ids[0] for zone in (zones_of(home, rule) if rule else []) if zone.room_ids]
    found = [Signal(quantity="room_temperature", subject_id=room) for room in rooms]
    sensor = Goal(against=against).sensor
    return found if sensor is None else [*found, sensor]


def rules_page(request: Request, home_id: str, changed: dict[str, str] | None = None) -> Response:
    """Return the page or its part; ``changed`` stands instead of what the address says."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in KEPT and v} | (changed or {})
    if "rule" not in query and home.rules:
        query["rule"] = home.rules[0].id
    found = replayed(request, home, query.get("rule", ""))
    as_of = app.as_of_ms(home.id)
    context = {
        "frame": frame_of(request, home, revision, "rules"),
        "home": home,
        "query": {k: v for k, v in query.items() if v},
        "view": rules_view(
            home,
            found,
            with_never(evidence_of(app, home), home, found),
            chosen_id=query.get("rule", ""),
            slot_id=query.get("slot", ""),
            width=strip_width(request, has_aside=False),
            shows_all=query.get("pane") == "all",
            saving=_saving(request, home, found, query.get("rule", "")),
        ),
        "starters": [(s, s.places(home)) for s in STARTERS] if query.get("pane") == "start" or not home.rules else [],
        "kinds": KINDS,
        "adds": ADDS,
        "steps": STEPS,
        "zooms": _zooms(request, home),
        "tune": _tune(request, home, revision, found, query) if query.get("pane") == "tune" else None,
        "marks": _marks(app.clock(home), home, query.get("rule", "")),
        "job": job_view(app.work.latest_of_kind(home.id, "sweep"), "Tune") if query.get("pane") == "tune" else None,
        "told": _told(home, found, query.get("rule", "")),
        "facts": fact_lines(home, found) if query.get("pane") == "people" else [],
        "loud": LOUD,
        "clock_time": show.clock_time,
        "alarm_caution": ALARM_CAUTION,
        "now_ms": as_of,
        "today": str(app.clock(home).local(as_of).date()),
        "person": person_of(request).name,
        "notice": request.query_params.get("notice", ""),
    }
    return render(request, "rules/_page.html" if is_fragment(request) else "rules/page.html", context)


def goal_of(query: dict[str, str]) -> Goal:
    """Return what tuning is held against, by the address; what cannot be read is as usual."""
    typed, usual = Fields(query), Goal()
    least = typed.number("over_min", 0, 10_080, default=usual.least_s / 60)
    needless = typed.number("needless", 0, 1000, default=usual.needless_a_week)
    if typed.errors:
        return usual
    return Goal(against=query.get("against") or usual.against, least_s=round(60 * least), needless_a_week=needless)


def _tune(request: Request, home: Home, revision: int, found: Replay | None, query: dict[str, str]) -> TuneView | None:
    rule = next((rule for rule in home.rules if rule.id == query.get("rule")), None)
    if rule is None or found is None:
        return None
    app, wording = app_of(request), rule_wording(home, rule)

    def kept(asked: SweepAsked) -> Tuned | None:
        return kept_sweep(app, home.id, rule, replace(asked, revision=revision))

    try:
        return tune_view(wording, found, goal_of(query), query.get("up", ""), query.get("across", ""), kept)
    except NotKnowable:
        return None


def _saving(request: Request, home: Home, found: Replay | None, rule_id: str) -> RuleSaving | None:
    """Return what the chosen rule would have saved, None where that cannot be known."""
    rule = next((rule for rule in home.rules if rule.id == rule_id), None)
    replayed_rule = found.rules.get(rule_id) if found else None
    if rule is None or found is None or replayed_rule is None:
        return None
    try:
        return rule_saving(app_of(request), home, rule, replayed_rule.rule_run, found.scope)
    except NotKnowable:
        return None


def _told(home: Home, found: Replay | None, rule_id: str) -> list[NotificationLine]:
    rule = next((rule for rule in home.rules if rule.id == rule_id), None)
    if rule is None or found is None or rule_id not in found.rules:
        return []
    return notification_lines(rule_wording(home, rule), found)


def _marks(clock: LocalClock, home: Home, rule_id: str) -> list[tuple[str, int]]:
    rule = next((rule for rule in home.rules if rule.id == rule_id), None)
    return [
        (f"{show.moment(m.start_ms, clock, home.country)} to {show.clock_now(m.end_ms, clock)}", m.start_ms)
        for m in (rule.marks if rule else ())
    ]


def _zooms(request: Request, home: Home) -> list[tuple[str, str, str]]:
    """Return stretches to look at, as (id, word, changes of the address)."""
    app = app_of(request)
    bounds = app.readings.bounds(home.id)
    if bounds is None:
        return []
    clock = app.clock(home)
    last = clock.local(app.as_of_ms(home.id)).date()
    first = clock.local(bounds[0]).date()
    stretch = stretch_in_view(request)
    rows = [("week", "week", last - timedelta(days=6), last), ("month", "month", last - timedelta(days=29), last)]
    if (last - first).days > 31:
        rows.append(("year", "all", max(first, last - timedelta(days=LONGEST_DAYS - 1)), last))
    if stretch is not None:
        days = (stretch[1] - stretch[0]).days + 1
        rows.insert(0, ("earlier", "earlier", stretch[0] - timedelta(days=days), stretch[0] - timedelta(days=1)))
        rows.insert(1, ("later", "later", stretch[1] + timedelta(days=1), stretch[1] + timedelta(days=days)))
    else:
        rows.insert(0, ("earlier", "earlier", last - timedelta(days=13), last - timedelta(days=7)))
    return [(f"zoom-{key}", word, f"from={a}&to={b}") for key, word, a, b in rows]


@router.get("/homes/{home_id}/rules", name="rules")
def rules(request: Request, home_id: str) -> Response:
    """Show the rules and what they came to."""
    return rules_page(request, home_id)


@router.get("/homes/{home_id}/rules/sheet", name="rules_sheet")
def rules_sheet(request: Request, home_id: str) -> Response:
    """Show the rules as numbered instructions."""
    home, revision = app_of(request).homes.load(home_id)
    context = {"frame": frame_of(request, home, revision, "rules"), "home": home, "rows": instructions(home)}
    return render(request, "rules/sheet.html", context)


@router.get("/homes/{home_id}/rules.json", name="rules_json")
def rules_as_json(request: Request, home_id: str) -> Response:
    """Save the rules as a file."""
    home, _ = app_of(request).homes.load(home_id)
    headers = {"Content-Disposition": f'attachment; filename="{home.id}-rules.json"'}
    return Response(rules_json(home), media_type="application/json", headers=headers)


@router.post("/homes/{home_id}/rules/read", name="rules_read")
def rules_from_json(
    request: Request, home_id: str, base: Annotated[int, Form()], file: Annotated[UploadFile, File()]
) -> Response:
    """Add the rules of a file to those of the home."""
    try:
        content = read_rules(joined(iter(lambda: file.file.read(65_536), b"")))
        words = f"{len(content.rules)} rules read from {file.filename or 'a file'}"
        edit_home(app_of(request), home_id, base, person_of(request), words, lambda home: with_rules_of(home, content))
    except HomeError as error:
        return back_to(request, "rules", home_id, str(error)[:400])
    return back_to(request, "rules", home_id, f"{len(content.rules)} rules added; undo takes them back.")


@router.post("/homes/{home_id}/rules-fact", name="rules_fact")
def rules_fact(request: Request, home_id: str, fields: Annotated[Fields, Depends(form_fields)]) -> Response:
    """Keep what a person marks of a fact, from an instant on."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    word, on, minute = fields.text("word", least=1), fields.day("day"), fields.clock("time")
    is_so = fields.choice("is", ("true", "false"))
    if fields.errors or on is None:
        return back_to(
            request, "rules", home_id, "A fact is marked from a day and a time on. Nothing was marked.", pane="people"
        )
    at = app.clock(home).instant(on, minute)
    app.events.add(home_id, FACT_EVENT, word, at, is_so, revision)
    said = (
        f"“{word}” is {'so' if is_so == 'true' else 'not so'} from {show.moment(at, app.clock(home), home.country)} on"
    )
    return back_to(request, "rules", home_id, said, pane="people")


@router.post("/homes/{home_id}/rules-sweep", name="rules_sweep")
def rules_sweep(request: Request, home_id: str) -> Response:
    """Queue the long sweep of two numbers that the address says, as the page that shows it does."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in KEPT and v} | {"pane": "tune"}
    rule, found = home.rule(query.get("rule", "")), replayed(request, home, query.get("rule", ""))
    if found is not None:
        numbers = goal_of(query), query.get("up", ""), query.get("across", "")
        asked = long_sweep(rule_wording(home, rule), found, *numbers)
        if asked is not None:
            ask_sweep(app, home.id, replace(asked, revision=revision))
    return back_to(request, "rules", home_id, **query)


@router.post("/homes/{home_id}/rules/{act}", name="rule_act")
def rule_act(request: Request, home_id: str, act: str, fields: Annotated[Fields, Depends(form_fields)]) -> Response:
    """Do one act on a rule."""
    app = app_of(request)
    acts = dict(ACTS) | {"start": starter_act(lambda home, room_id: drop_of(app, home, room_id))}
    if act == "fix":
        acts["fix"] = fix_act(evidence_of(app, app.homes.load(home_id)[0]))
    done = perform(request, home_id, fields, acts, act, FOLDS)
    keeps_pane = act in ("name", "tune", "mark", "unmark", "chain", "chain-out")
    changed = {"slot": ""} if keeps_pane else {"slot": "", "pane": ""}
    if done.at is not None:
        changed |= {"rule": done.at}
    if is_fragment(request):
        return rules_page(request, home_id, changed)
    return back_to(request, "rules", home_id, **{k: v for k, v in changed.items() if v})
