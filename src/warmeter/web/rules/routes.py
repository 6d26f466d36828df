"""Routes of the rules: the page, its commands, the rules to start from."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from datetime import date, timedelta
from typing import Annotated, Literal

from annotated_types import Ge, Le
from fastapi import APIRouter, Depends, File, Form, Request, UploadFile
from fastapi.responses import Response

from warmeter.core.edits.edit import Apply, Command
from warmeter.core.edits.rule_commands import (
    AcceptFix,
    AddRulePart,
    AddWait,
    ChangeNotificationGroup,
    ChangeRule,
    MarkEvent,
    MoveRule,
    MoveStep,
    RemoveNotificationGroup,
    RemoveRule,
    ResumeRule,
    SuspendRule,
    TuneRule,
    UnmarkEvent,
    WriteRule,
)
from warmeter.core.errors import HomeError, NotKnowable
from warmeter.core.home.conditions.condition import Signal
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Name, TimeOfDay
from warmeter.core.home.presets import LOUDNESS_LABEL, RULE_LABEL
from warmeter.core.home.rules import Loudness, RuleKind
from warmeter.core.starters.catalogue import STARTERS
from warmeter.core.starters.rule_ways import COMPARED
from warmeter.core.starters.start_rule import StartRule
from warmeter.core.starters.starter import ALARM_CAUTION, Starter
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY
from warmeter.service.homes.homefile import joined
from warmeter.service.rules.replays import Replay, replay
from warmeter.service.rules.rule_evidence import drop_of, evidence_of, with_never
from warmeter.service.rules.rule_saving import RuleSaving, rule_saving
from warmeter.service.rules.rule_signals import ANSWER_EVENT, FACT_EVENT
from warmeter.service.rules.rule_tuning import Goal, SweepAsked, Tuned, ask_sweep, kept_sweep
from warmeter.service.rules.rules_file import read_rules, rules_json, with_rules_of
from warmeter.web import format as show
from warmeter.web.form_reader import FormError, Texts, form_texts, read_form, read_query
from warmeter.web.page import (
    JobView,
    Page,
    app_of,
    back_to,
    frame_of,
    is_fragment,
    job_view,
    person_of,
    render,
    stretch_in_view,
    strip_width,
    units_of,
)
from warmeter.web.rules.notifications_view import FactLine, NotificationLine, fact_lines, notification_lines
from warmeter.web.rules.questions_view import QuestionLine, question_lines
from warmeter.web.rules.replay_strip import zones_of
from warmeter.web.rules.sheet_view import Instruction, instructions
from warmeter.web.rules.slot_commands import fill_slot, take_out
from warmeter.web.rules.tune_view import TuneView, long_sweep, tune_view
from warmeter.web.rules.view import RulesView, rules_view
from warmeter.web.rules.wording import rule_wording
from warmeter.web.saving import Commands, command_named, save

router = APIRouter()
COMMANDS: Commands = {
    "new": WriteRule,
    "start": StartRule,
    "add": AddRulePart,
    "name": ChangeRule,
    "move": MoveRule,
    "step-order": MoveStep,
    "wait": AddWait,
    "delete": RemoveRule,
    "fix": AcceptFix,
    "chain": ChangeNotificationGroup,
    "chain-out": RemoveNotificationGroup,
    "tune": TuneRule,
    "mark": MarkEvent,
    "unmark": UnmarkEvent,
    "suspend": SuspendRule,
    "resume": ResumeRule,
}
OF_SLOTS = {"fill": fill_slot, "take-out": take_out}
KEPT = ("rule", "slot", "pane", "from", "to", "up", "across", "against", "over_min", "needless")
USUAL_DAYS, LONGEST_DAYS = 7, 400
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
    ("dim", "dim lamps"),
    ("shut_off", "shut off"),
    ("mark_fact", "mark a fact"),
    ("tell", "tell"),
    ("ask", "ask"),
)


def replayed(request: Request, home: Home, chosen_id: str) -> Replay | None:
    """Return the rules over the stretch in view, by default the week up to the last reading; None without readings."""
    app = app_of(request)
    if not home.rules or app.readings.bounds(home.id) is None:
        return None
    clock = app.clock(home)
    stretch = stretch_in_view(request)
    last = clock.local(app.heard_until_ms(home.id)).date()
    first, last = stretch if stretch is not None else (last - timedelta(days=USUAL_DAYS - 1), last)
    start, end = clock.instant(first, 0), clock.instant(last + timedelta(days=1), 0)
    if stretch is None:
        end = min(end, app.heard_until_ms(home.id) + 1)
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


@dataclass(frozen=True, slots=True, kw_only=True)
class RulesPage(Page):
    """All rules, one of them open."""

    home: Home
    query: dict[str, str]
    view: RulesView
    starters: list[tuple[Starter, list[tuple[str, str]]]]
    compared: tuple[str, ...]
    kinds: Mapping[RuleKind, str]
    adds: tuple[tuple[str, str], ...]
    steps: tuple[tuple[str, str], ...]
    zooms: list[tuple[str, str, dict[str, str]]]
    tune: TuneView | None
    marks: list[tuple[str, int]]
    job: JobView | None
    told: list[NotificationLine]
    facts: list[FactLine]
    questions: list[QuestionLine]
    now_time: str
    loud: Mapping[Loudness, str]
    clock_time: Callable[[int], str]
    alarm_caution: str
    now_ms: int
    today: str
    person: str


def rules_page(request: Request, home_id: str, changed: dict[str, str] | None = None) -> Response:
    """Return the page or its part; ``changed`` stands instead of what the address says."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    query = {k: v for k, v in request.query_params.items() if k in KEPT and v} | (changed or {})
    if "rule" not in query and home.rules:
        query["rule"] = home.rules[0].id
    found = replayed(request, home, query.get("rule", ""))
    as_of = app.heard_until_ms(home.id)
    context = RulesPage(
        frame=frame_of(request, home, revision, "rules"),
        home=home,
        query={k: v for k, v in query.items() if v},
        view=rules_view(
            home,
            found,
            with_never(evidence_of(app, home), home, found),
            chosen_id=query.get("rule", ""),
            slot_id=query.get("slot", ""),
            width=strip_width(request, has_aside=False),
            shows_all=query.get("pane") == "all",
            saving=_saving(request, home, found, query.get("rule", "")),
        ),
        starters=[(s, s.places(home)) for s in STARTERS] if query.get("pane") == "start" or not home.rules else [],
        compared=COMPARED,
        kinds=RULE_LABEL,
        adds=ADDS,
        steps=STEPS,
        zooms=_zooms(request, home),
        tune=_tune(request, home, revision, found, query) if query.get("pane") == "tune" else None,
        marks=_marks(app.clock(home), home, query.get("rule", "")),
        job=job_view(app.work.latest_of_kind(home.id, "sweep"), "Tune") if query.get("pane") == "tune" else None,
        told=_told(home, found, query.get("rule", "")),
        facts=fact_lines(home, found) if query.get("pane") == "people" else [],
        questions=question_lines(home, found, app.events.of_kind(home_id, ANSWER_EVENT), app.clock(home))
        if query.get("pane") == "people"
        else [],
        now_time=show.clock_now(as_of, app.clock(home)),
        loud=LOUDNESS_LABEL,
        clock_time=show.clock_time,
        alarm_caution=ALARM_CAUTION,
        now_ms=as_of,
        today=str(app.clock(home).local(as_of).date()),
        person=person_of(request).name,
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "rules/_page.html" if is_fragment(request) else "rules/page.html", context)


@dataclass(frozen=True, slots=True)
class _GoalForm:
    """What tuning is held against, as it is typed."""

    over_min: Annotated[float, Ge(0), Le(10_080)] | None = None
    needless: Annotated[float, Ge(0), Le(1000)] | None = None


def goal_of(query: dict[str, str]) -> Goal:
    """Return what tuning is held against, by the address; what cannot be read is as usual."""
    typed, usual = read_query(_GoalForm, query), Goal()
    return Goal(
        against=query.get("against") or usual.against,
        least_s=usual.least_s if typed.over_min is None else round(60 * typed.over_min),
        needless_a_week=usual.needless_a_week if typed.needless is None else typed.needless,
    )


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


def _zooms(request: Request, home: Home) -> list[tuple[str, str, dict[str, str]]]:
    """Return stretches to look at, as (id, word, changes of the address)."""
    app = app_of(request)
    bounds = app.readings.bounds(home.id)
    if bounds is None:
        return []
    clock = app.clock(home)
    last = clock.local(app.heard_until_ms(home.id)).date()
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
    return [(f"zoom-{key}", word, {"from": str(a), "to": str(b)}) for key, word, a, b in rows]


@router.get("/homes/{home_id}/rules", name="rules")
def rules(request: Request, home_id: str) -> Response:
    """Show the rules and what they came to."""
    return rules_page(request, home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RulesSheetPage(Page):
    """The rules as numbered instructions."""

    home: Home
    rows: list[Instruction]


@router.get("/homes/{home_id}/rules/sheet", name="rules_sheet")
def rules_sheet(request: Request, home_id: str) -> Response:
    """Show the rules as numbered instructions."""
    home, revision = app_of(request).homes.load(home_id)
    context = RulesSheetPage(frame=frame_of(request, home, revision, "rules"), home=home, rows=instructions(home))
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
        save(request, home_id, {"base": str(base)}, Apply(change=lambda h: with_rules_of(h, content), summary=words))
    except HomeError as error:
        return back_to(request, "rules", home_id, show.error_words(error, units_of(request))[:400])
    return back_to(request, "rules", home_id, f"{len(content.rules)} rules added; undo takes them back.")


@dataclass(frozen=True, slots=True, kw_only=True)
class _FactForm:
    """A fact that is marked so, or not so, from a day and a time on."""

    word: Name
    day: date
    time: TimeOfDay
    is_so: Literal["true", "false"]


@router.post("/homes/{home_id}/rules-fact", name="rules_fact")
def rules_fact(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Keep what a person marks of a fact, from an instant on."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    try:
        fact = read_form(_FactForm, texts)
    except FormError:
        return back_to(
            request, "rules", home_id, "A fact is marked from a day and a time on. Nothing was marked.", pane="people"
        )
    clock = app.clock(home)
    at_ms = clock.instant(fact.day, fact.time)
    app.events.add(home_id, FACT_EVENT, fact.word, at_ms, fact.is_so, revision)
    said = f"“{fact.word}” is {'so' if fact.is_so == 'true' else 'not so'}"
    return back_to(
        request, "rules", home_id, f"{said} from {show.moment(at_ms, clock, home.country)} on", pane="people"
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _AnswerForm:
    """What somebody answered to the question of a rule, and when."""

    rule_id: Id
    label: Name
    day: date
    time: TimeOfDay


@router.post("/homes/{home_id}/rules-answer", name="rules_answer")
def rules_answer(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Keep what somebody answered to the question of a rule."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    try:
        given = read_form(_AnswerForm, texts)
    except FormError:
        return back_to(
            request, "rules", home_id, "An answer has a day, a time and its words. Nothing was kept.", pane="people"
        )
    rule = home.rule(given.rule_id)
    if rule.question is None or given.label not in {answer.label for answer in rule.question.answers}:
        return back_to(
            request, "rules", home_id, "That answer is not offered any more. Nothing was kept.", pane="people"
        )
    clock = app.clock(home)
    at_ms = clock.instant(given.day, given.time)
    app.events.add(home_id, ANSWER_EVENT, rule.id, at_ms, given.label, revision)
    when = show.moment(at_ms, clock, home.country)
    return back_to(request, "rules", home_id, f"{rule.name}: “{given.label}” at {when}", pane="people")


@router.post("/homes/{home_id}/rules-answer/{number}/remove", name="rules_answer_remove")
def rules_answer_remove(request: Request, home_id: str, number: int) -> Response:
    """Remove an answer that was entered by mistake."""
    is_gone = not app_of(request).events.remove(home_id, number, ANSWER_EVENT)
    words = "This answer is not there any more." if is_gone else "The answer is removed."
    return back_to(request, "rules", home_id, words, pane="people")


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


@router.post("/homes/{home_id}/rules/{command}", name="rule_edit")
def rule_edit(request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Do one command on a rule."""
    selected = save(request, home_id, texts, lambda home: _command(request, home, texts, command)).selected
    keeps_pane = command in ("name", "tune", "mark", "unmark", "chain", "chain-out")
    changed = {"slot": ""} if keeps_pane else {"slot": "", "pane": ""}
    if selected is not None:
        changed |= {"rule": selected}
    if is_fragment(request):
        return rules_page(request, home_id, changed)
    return back_to(request, "rules", home_id, **{k: v for k, v in changed.items() if v})


def _command(request: Request, home: Home, texts: Texts, name: str) -> Command:
    """Return the command of a form, with what the logs say where it needs that."""
    if name in OF_SLOTS:
        return OF_SLOTS[name](home, texts)
    command = read_form(command_named(COMMANDS, name), texts, home.units)
    if isinstance(command, AcceptFix):
        return replace(command, evidence=evidence_of(app_of(request), home))
    if isinstance(command, StartRule) and command.starter == "drop":
        return replace(command, drop_k=drop_of(app_of(request), home, command.place))
    return command
