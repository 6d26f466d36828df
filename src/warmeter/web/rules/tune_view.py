"""A rule's two slots as a map: good where it catches what it should and is seldom needless."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from warmeter.core.errors import NotKnowable
from warmeter.core.rule.tuning import Knob, place_of_now
from warmeter.service.rules.replays import Replay
from warmeter.service.rules.rule_tuning import ITSELF, MARKED, Goal, SweepAsked, Tuned, is_long, tuned, usual_knobs
from warmeter.web import format as show
from warmeter.web.rules.slots import Option, seconds_text, value_text
from warmeter.web.rules.wording import RuleWording
from warmeter.web.strip.grid_map import BOTTOM, TOP, Area, MapWord

WIDTH, HEIGHT, LEFT_PX = 520, 250, 76


@dataclass(frozen=True, slots=True, kw_only=True)
class TuneView:
    """The map, what it was held against, what is proposed, and the same in numbers."""

    areas: list[Area]
    marks: list[Area]
    words: list[MapWord]
    width: int
    height: int
    up: Knob
    across: Knob
    knobs: list[Knob]
    against: list[Option]
    goal: Goal
    asked: str
    sentence: str
    take_up: str
    take_across: str
    now: str
    columns: list[str]
    rows: list[tuple[str, list[tuple[str, str]]]]
    missing: str = ""
    is_long: bool = False


def long_sweep(wording: RuleWording, replay: Replay, goal: Goal, up: str, across: str) -> SweepAsked | None:
    """Return what a sweep would be asked that takes so long that it is a job; None where it is done at once.

    Raises
    ------
    NotKnowable
        If the rule has fewer than two numbers.
    """
    if not is_long(wording.rule, replay.scope):
        return None
    first, second, _ = usual_knobs(wording.rule, up, across)
    return SweepAsked(
        rule_id=wording.rule.id,
        up=first.key,
        across=second.key,
        goal=goal,
        start_ms=replay.scope.start_ms,
        end_ms=replay.scope.end_ms,
        revision=0,
    )


def tune_view(
    wording: RuleWording, replay: Replay, goal: Goal, up: str, across: str, kept: Callable[[SweepAsked], Tuned | None]
) -> TuneView:
    """Return the tuning pane of a rule over the replayed stretch; of a long sweep what ``kept`` has, else that it is long.

    Raises
    ------
    NotKnowable
        If the rule has fewer than two numbers.
    """
    first, second, knobs = usual_knobs(wording.rule, up, across)
    asked = long_sweep(wording, replay, goal, up, across)
    try:
        found = tuned(wording.rule, replay.scope, goal, first.key, second.key) if asked is None else kept(asked)
        if found is None:
            return _empty(wording, first, second, knobs, goal, "", is_long=True)
    except NotKnowable as error:
        return _empty(wording, first, second, knobs, goal, str(error))
    return _view(wording, found, knobs)


def _against(wording: RuleWording) -> list[Option]:
    states = [
        (f"{s.quantity}:{s.subject_id or ''}", f"{o.name} {o.states[1]}")
        for s, o in wording.signals.items()
        if o.states
    ]
    return [(ITSELF, "what it watches, without its wait"), (MARKED, "what was marked below"), *states]


def _empty(
    wording: RuleWording, up: Knob, across: Knob, knobs: list[Knob], goal: Goal, why: str, *, is_long: bool = False
) -> TuneView:
    return TuneView(
        areas=[],
        marks=[],
        words=[],
        width=WIDTH,
        height=HEIGHT,
        up=up,
        across=across,
        knobs=knobs,
        against=_against(wording),
        goal=goal,
        asked="",
        sentence="",
        take_up="",
        take_across="",
        now="",
        columns=[],
        rows=[],
        missing=why,
        is_long=is_long,
    )


def knob_text(wording: RuleWording, knob: Knob, value: float) -> str:
    """Return a number of a slot in words."""
    if knob.kind == "time":
        return seconds_text(value) or "0 s"
    unit = next((o.unit for s, o in wording.signals.items() if s.quantity == knob.quantity), "")
    return value_text(wording.home, unit, value, is_difference=knob.kind == "difference")


def _view(wording: RuleWording, found: Tuned, knobs: list[Knob]) -> TuneView:
    tried, is_good = found.map, found.is_good
    rows, columns = is_good.shape
    cell_w, cell_h = (WIDTH - LEFT_PX) / columns, (HEIGHT - BOTTOM - TOP) / rows
    areas = []
    for u in range(rows):
        for a in range(columns):
            errors = int(tried.missed[u, a]) + int(tried.needless[u, a])
            css = "" if is_good[u, a] else "wm-map-is-bad" if errors <= max(tried.events / 2, 2) else "wm-map-is-worse"
            if css:
                areas.append(_area(a, u, rows, cell_w, cell_h, css, _told(wording, found, u, a)))
    marks = []
    if found.middle is not None:
        title = f"proposed: {_told(wording, found, found.middle.up, found.middle.across)}"
        marks.append(_area(found.middle.across, found.middle.up, rows, cell_w, cell_h, "wm-map-best", title))
    now = place_of_now(tried)
    marks.append(_area(now[1], now[0], rows, cell_w, cell_h, "wm-map-mine", f"set now: {_told(wording, found, *now)}"))
    middle = found.middle
    return TuneView(
        areas=areas,
        marks=marks,
        words=_words(wording, found, rows, cell_w, cell_h),
        width=WIDTH,
        height=HEIGHT,
        up=tried.up,
        across=tried.across,
        knobs=knobs,
        against=_against(wording),
        goal=found.goal,
        asked=_asked(found),
        sentence=_sentence(wording, found),
        take_up="" if middle is None else f"{tried.up_values[middle.up]:g}",
        take_across="" if middle is None else f"{tried.across_values[middle.across]:g}",
        now=_told(wording, found, *now),
        columns=[knob_text(wording, tried.across, v) for v in tried.across_values.tolist()],
        rows=[
            (
                knob_text(wording, tried.up, float(tried.up_values[u])),
                [
                    (f"{tried.missed[u, a]} · {tried.needless[u, a]}", "" if is_good[u, a] else "is-bad")
                    for a in range(columns)
                ],
            )
            for u in range(rows)
        ],
    )


def _area(a: int, u: int, rows: int, cell_w: float, cell_h: float, css: str, title: str) -> Area:
    return Area(
        f"{LEFT_PX + a * cell_w:.1f}",
        f"{TOP + (rows - 1 - u) * cell_h:.1f}",
        f"{cell_w:.1f}",
        f"{cell_h:.1f}",
        css,
        title,
    )


def _words(wording: RuleWording, found: Tuned, rows: int, cell_w: float, cell_h: float) -> list[MapWord]:
    tried = found.map
    every = max(1, -(-tried.across_values.size // 7))
    words = [
        MapWord(
            f"{LEFT_PX + (a + 0.5) * cell_w:.0f}", str(HEIGHT - 6), "wm-ax wm-mid", knob_text(wording, tried.across, v)
        )
        for a, v in enumerate(tried.across_values.tolist())
        if a % every == 0
    ]
    return words + [
        MapWord(
            str(LEFT_PX - 6),
            f"{TOP + (rows - u - 0.5) * cell_h + 4:.0f}",
            "wm-ax wm-end",
            knob_text(wording, tried.up, v),
        )
        for u, v in enumerate(tried.up_values.tolist())
        if u % 2 == 0
    ]


def _told(wording: RuleWording, found: Tuned, u: int, a: int) -> str:
    """Return a setting with what it came to."""
    tried = found.map
    late = float(tried.late_s[u, a])
    words = f"{tried.up.name} {knob_text(wording, tried.up, float(tried.up_values[u]))}, "
    words += f"{tried.across.name} {knob_text(wording, tried.across, float(tried.across_values[a]))}: "
    words += f"{int(tried.missed[u, a])} of {tried.events} missed, {int(tried.needless[u, a])} needless"
    return words if np.isnan(late) else f"{words}, told after {seconds_text(late) or '0 s'}"


def _asked(found: Tuned) -> str:
    weeks = show.number(found.map.weeks, 1)
    return f"{found.map.events} to catch in {weeks} weeks; good catches all, with at most {found.goal.needless_a_week:g} needless a week"


def _sentence(wording: RuleWording, found: Tuned) -> str:
    if found.middle is None:
        return "No setting tried meets the goal: allow more needless times, or watch something else."
    steps = found.middle.steps
    robust = (
        "on the edge of the good region"
        if steps <= 1
        else f"{steps - 1} step{'s' * (steps > 2)} inside the good region"
    )
    return f"In the middle: {_told(wording, found, found.middle.up, found.middle.across)}; {robust}."
