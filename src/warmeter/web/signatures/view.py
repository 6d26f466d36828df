"""A machine's page: the stretch in view, a question with its map, the cycles; all ready strings."""

from dataclasses import dataclass, replace
from decimal import Decimal
from typing import Annotated

from annotated_types import Ge, Le
from fastapi import Request

from warmeter.core.appliance.machine_record import MachineRecord
from warmeter.core.appliance.setting_question import answer_of
from warmeter.core.edits.cycle_labels import CycleSpan
from warmeter.core.edits.machine_commands import WaitMin
from warmeter.core.errors import NotKnowable
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Asking, Watts
from warmeter.core.home.presets import TELLS_LABEL
from warmeter.core.signature.cycles import Cycle
from warmeter.core.signature.phases import Phase
from warmeter.core.signature.tuner import Setting
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH, MS_PER_DAY, MS_PER_MIN
from warmeter.service.app import App
from warmeter.service.signatures.machines import compared_witness, cost_between, machine_record
from warmeter.web import format as show
from warmeter.web.form_reader import read_query
from warmeter.web.form_texts import cycle_span
from warmeter.web.signatures.question_view import QuestionView, drawn_settings, question_view
from warmeter.web.signatures.stretch import SettingTells, Shown, energy_kwh, phase_name, span_of_cycle, stretch_strip
from warmeter.web.signatures.words import wait, watts
from warmeter.web.strip.draw import DrawnStrip

AROUND = 0.35  # of a cycle's length is shown on either side of it
LEAST_SHOWN_MIN = 3.0
ROWS = 12
HOT_W, HOT_SHARE, LOW_SHARE, LOW_TIMES = 800.0, 0.5, 0.02, 8.0


@dataclass(frozen=True, slots=True)
class CyclePiece:
    """A phase as a bar in the table [px] and in words."""

    x: str
    width: str
    css: str
    title: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CycleRow:
    """A cycle in the table."""

    key: str
    programme: str
    started: str
    length: str
    kwh: str
    peak: str
    cost: str
    pieces: list[CyclePiece]
    false: str
    verdict: str
    is_shown: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class PhaseRow:
    """A phase of the chosen cycle."""

    name: str
    started: str
    length: str
    mean: str
    kwh: str
    low_w: str
    high_w: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ChosenView:
    """The chosen cycle, with what its forms need."""

    span: str
    end_ms: int
    following: str
    programme: str
    start_day: str
    start_time: str
    end_day: str
    end_time: str
    middle_time: str
    features: list[tuple[str, str]]
    phases: list[PhaseRow]
    is_corrected: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SignatureView:
    """A machine's page."""

    strip: DrawnStrip
    question: QuestionView
    cycles: list[CycleRow]
    summary: str
    chosen: ChosenView | None
    standby: str
    learnt: str
    doubt: str
    zooms: list[tuple[str, str, dict[str, str]]]
    today: str
    states: list[tuple[str, str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """What the address asks for."""

    tells: Asking
    cycle: str
    start_ms: int | None
    end_ms: int | None
    try_w: float | None
    try_min: float | None
    hysteresis_w: float

    @property
    def tried(self) -> Setting | None:
        """The setting that is tried out, None if it is not whole."""
        if self.try_w is None or self.try_min is None:
            return None
        return Setting(threshold_w=self.try_w, wait_s=60 * self.try_min, hysteresis_w=self.hysteresis_w)


@dataclass(frozen=True, slots=True)
class _Tried:
    """A setting that is tried out."""

    try_w: Watts | None = None
    try_min: WaitMin | None = None
    hysteresis: Annotated[float, Ge(0), Le(5000)] = 0.0


def asked_by(request: Request) -> Asked:
    """Return what an address asks for; what cannot be read is left out."""
    typed = request.query_params

    tried = read_query(_Tried, dict(typed.items()))
    first, last = (typed.get(name, "") for name in ("from", "to"))
    has_stretch = first.isdecimal() and last.isdecimal() and int(last) - int(first) >= LEAST_SHOWN_MIN * MS_PER_MIN
    return Asked(
        tells=next((t for t in TELLS_LABEL if t == typed.get("tells")), "finished"),
        cycle=typed.get("cycle", ""),
        start_ms=int(first) if has_stretch else None,
        end_ms=int(last) if has_stretch else None,
        try_w=tried.try_w,
        try_min=tried.try_min,
        hysteresis_w=tried.hysteresis,
    )


def signature_view(app: App, record: MachineRecord, home: Home, asked: Asked, *, width: int) -> SignatureView:
    """Return a machine's page."""
    clock = app.clock(home)
    chosen = _chosen(record, asked)
    shown = _shown(record, asked, chosen)
    answer = answer_of(record, asked.tells, hysteresis_w=asked.hysteresis_w, tried=asked.tried)
    told, off_w = drawn_settings(answer), record.found.learnt.setting.off_w
    return SignatureView(
        strip=stretch_strip(
            app, record, home, shown, told, off_w if answer.threshold_w is None else answer.threshold_w, width
        ),
        question=question_view(record, answer, asked.hysteresis_w, compared_witness(app, home, record, answer)),
        cycles=_rows(app, record, home, clock, chosen, told),
        summary=_summary(record),
        chosen=_chosen_view(app, record, home, clock, chosen) if chosen else None,
        standby=_standby(record),
        learnt=_estimate(record),
        doubt=_doubt(record, home, clock),
        zooms=_zooms(record, shown, chosen),
        today=_today(record, clock, home),
        states=[
            (f"{watts(s.level_w)} W", f"{watts(s.low_w)} to {watts(s.high_w)} W", f"{show.number(s.hours, 1)} h")
            for s in record.states()
        ],
    )


def last_run_strip(app: App, home: Home, machine_id: str, width: int) -> DrawnStrip | None:
    """Return the last whole run of an appliance with when the setting in use tells its end, only to look at; None without
    one.
    """
    try:
        record = machine_record(app, home, machine_id)
    except NotKnowable:
        return None
    answer = answer_of(record, "finished")
    if not record.found.whole or answer.in_use is None:
        return None
    shown = replace(_around(record, record.found.whole[-1]), chosen=None)
    told = drawn_settings(answer)[:1]
    return stretch_strip(app, record, home, shown, told, answer.in_use.setting.threshold_w, width)


def _chosen(record: MachineRecord, asked: Asked) -> Cycle | None:
    """Return the cycle the address names, else one near it, else the last; None of none."""
    cycles = record.found.cycles
    if not cycles:
        return None
    try:
        wanted = cycle_span(asked.cycle)
    except ValueError:
        return cycles[-1]
    middle = (wanted[0] + wanted[1]) / 2
    spans = [span_of_cycle(record, c) for c in cycles]
    exact = next((c for c, s in zip(cycles, spans, strict=True) if s == wanted), None)
    return exact or min(zip(cycles, spans, strict=True), key=lambda p: abs((p[1][0] + p[1][1]) / 2 - middle))[0]


def _shown(record: MachineRecord, asked: Asked, chosen: Cycle | None) -> Shown:
    if asked.start_ms is not None and asked.end_ms is not None:
        return Shown(start_ms=asked.start_ms, end_ms=asked.end_ms, chosen=chosen)
    if chosen is None:
        return Shown(start_ms=record.start_ms, end_ms=record.at_ms(record.power_w.size), chosen=None)
    return _around(record, chosen)


def _around(record: MachineRecord, chosen: Cycle) -> Shown:
    """Return a cycle with what is around it."""
    start, end = span_of_cycle(record, chosen)
    around = max(AROUND * (end - start), LEAST_SHOWN_MIN * MS_PER_MIN)
    wait_ms = min(record.found.learnt.setting.wait_s * 1500, end - start)
    return Shown(start_ms=round(start - around), end_ms=round(end + max(around, wait_ms)), chosen=chosen)


def _zooms(record: MachineRecord, shown: Shown, chosen: Cycle | None) -> list[tuple[str, str, dict[str, str]]]:
    """Return links that move along the log: id, word, and what changes in the address."""
    length, first, last = shown.end_ms - shown.start_ms, record.start_ms, record.at_ms(record.power_w.size)
    middle = (shown.start_ms + shown.end_ms) // 2

    def about(size: int) -> dict[str, str]:
        return {"from": str(middle - size // 2), "to": str(middle + size // 2)}

    def moved(by: int) -> dict[str, str]:
        return {"from": str(shown.start_ms + by), "to": str(shown.end_ms + by)}

    least = round(LEAST_SHOWN_MIN * MS_PER_MIN)
    found = [
        ("zoom-earlier", "earlier", moved(-length // 2)),
        ("zoom-later", "later", moved(length // 2)),
        ("zoom-in", "closer", about(max(length // 2, least))),
        ("zoom-out", "wider", about(min(2 * length, 2 * (last - first)))),
        ("zoom-day", "a day", about(MS_PER_DAY)),
        ("zoom-all", "all of it", {"from": str(first), "to": str(last)}),
    ]
    if chosen:
        found.append(("zoom-cycle", "the run", {"from": "", "to": ""}))
    return found


def _doubt(record: MachineRecord, home: Home, clock: LocalClock) -> str:
    """Return what is doubtful about the log, "" if nothing is."""
    moved = record.moved()
    if moved is None:
        return ""
    on = clock.local(record.at_ms(record.found.cycles[moved.cycle].start)).date()
    return (
        f"From {show.day_long(on, home.country)} on its runs draw {show.number(moved.after_w)} W in the mean instead of "
        f"{show.number(moved.before_w)} W: was the plug moved to another appliance? Import the later part for that appliance, "
        "and judge settings on one appliance's log."
    )


def _summary(record: MachineRecord) -> str:
    cycles = record.found.cycles
    total = energy_kwh(record, cycles)
    return (
        f"latest {min(ROWS, len(cycles))} of {show.number(len(cycles))}, "
        f"in all {show.number(total, 2)} kWh in {show.number(record.days, 0)} days"
    )


def _rows(
    app: App, record: MachineRecord, home: Home, clock: LocalClock, chosen: Cycle | None, told: list[SettingTells]
) -> list[CycleRow]:
    """Return the latest cycles, and the chosen one among its neighbours where it is older."""
    cycles = list(record.found.cycles)
    last = len(cycles)
    if chosen is not None and chosen in cycles[: max(0, last - ROWS)]:
        last = min(len(cycles), cycles.index(chosen) + ROWS // 2)
    part = cycles[max(0, last - ROWS) : last][::-1]
    longest = max((c.end - c.start for c in part), default=1)
    mine = told[0] if len(told) > 1 else None
    return [_row(app, record, home, clock, c, c is chosen, longest, mine) for c in part]


def _row(
    app: App,
    record: MachineRecord,
    home: Home,
    clock: LocalClock,
    cycle: Cycle,
    is_shown: bool,
    longest: int,
    mine: SettingTells | None,
) -> CycleRow:
    features, local = record.features(cycle), clock.local(record.at_ms(cycle.start))
    false = sum(cycle.start < t < cycle.end for t in mine.verdict.false_at) if mine else 0
    verdict = "cut by the log" if not cycle.is_whole else ("corrected" if cycle.origin == "corrected" else "found")
    return CycleRow(
        key=span_of_cycle(record, cycle).text,
        programme=cycle.programme,
        started=f"{show.day_short(local.date(), home.country)} {local:%H:%M}",
        length=_length(features.duration_s),
        kwh=show.number(features.energy_kwh, 2 if features.energy_kwh >= 0.1 else 3),
        peak=show.number(features.peak_w, 0),
        cost=_small(cost_between(app, home, record, cycle.start, cycle.end), home.currency),
        pieces=_pieces(record, cycle, features.peak_w, longest),
        false=str(false) if mine else "",
        verdict=verdict,
        is_shown=is_shown,
    )


def _length(seconds: float) -> str:
    """Return h:mm, or m:ss for less than ten minutes."""
    whole = round(seconds)
    if whole < 600:
        return f"0:{whole // 60:02d}:{whole % 60:02d}"
    minutes = round(seconds / 60)
    return f"{minutes // 60}:{minutes % 60:02d}"


def _small(cost: Decimal | None, currency: str) -> str:
    return "–" if cost is None else show.small_money(float(cost), currency)


def _css(mean_w: float, peak_w: float, idle_w: float) -> str:
    """Return how a phase is filled: as heat, as work, or as low work, a few times what it draws idle."""
    if mean_w >= max(HOT_W, HOT_SHARE * peak_w):
        return "wm-ph-hot"
    return "wm-ph-low" if mean_w < max(LOW_TIMES * idle_w, LOW_SHARE * peak_w) else "wm-ph-work"


def _pieces(record: MachineRecord, cycle: Cycle, peak_w: float, longest: int) -> list[CyclePiece]:
    names, scale = record.appliance.phase_names, 108 / max(longest, 1)
    return [
        CyclePiece(
            f"{(p.start - cycle.start) * scale:.1f}",
            f"{max((p.end - p.start) * scale, 0.6):.1f}",
            _css(p.mean_w, peak_w, record.found.learnt.idle_w),
            f"{phase_name(p.mean_w, names) or 'phase'} {wait((p.end - p.start) * record.step_s)}",
        )
        for p in record.phases(cycle)
    ]


def _chosen_view(app: App, record: MachineRecord, home: Home, clock: LocalClock, cycle: Cycle) -> ChosenView:
    start, end = span_of_cycle(record, cycle)
    first, last, middle = (clock.local(at) for at in (start, end, (start + end) // 2))
    cycles = list(record.found.cycles)
    place = cycles.index(cycle)
    following = span_of_cycle(record, cycles[place + 1]).text if place + 1 < len(cycles) else ""
    f = record.features(cycle)
    features = [
        ("energy", f"{show.number(f.energy_kwh, 3)} kWh"),
        ("cost at its hours", show.money(cost_between(app, home, record, cycle.start, cycle.end), home.currency)),
        ("mean", f"{show.number(f.mean_w)} W"),
        ("peak", f"{show.number(f.peak_w)} W"),
        ("duty, mean of peak", f"{show.number(100 * f.load_factor)} %"),
        ("above 1 kW", wait(f.time_above_high_s)),
        ("longest pause", wait(cycle.longest_pause_s)),
    ]
    return ChosenView(
        span=CycleSpan(start, end).text,
        end_ms=end,
        following=following,
        programme=cycle.programme,
        start_day=str(first.date()),
        start_time=f"{first:%H:%M}",
        end_day=str(last.date()),
        end_time=f"{last:%H:%M}",
        middle_time=f"{middle:%H:%M}",
        features=features,
        phases=[_phase_row(record, clock, p) for p in record.phases(cycle)][:14],
        is_corrected=cycle.origin == "corrected",
    )


def _phase_row(record: MachineRecord, clock: LocalClock, phase: Phase) -> PhaseRow:
    seconds = (phase.end - phase.start) * record.step_s
    return PhaseRow(
        name=phase_name(phase.mean_w, record.appliance.phase_names),
        started=f"{clock.local(record.at_ms(phase.start)):%H:%M:%S}",
        length=wait(seconds),
        mean=show.number(phase.mean_w, 0 if phase.mean_w >= 10 else 1),
        kwh=show.number(phase.mean_w * seconds / J_PER_KWH, 3),
        low_w=f"{0.7 * phase.mean_w:.0f}",
        high_w=f"{max(1.4 * phase.mean_w, 0.7 * phase.mean_w + 1):.0f}",
    )


def _standby(record: MachineRecord) -> str:
    rest = record.found.learnt.rest
    return (
        f"{show.number(rest.level_w, 1)} W at rest ({show.number(rest.low_w, 1)} to {show.number(rest.high_w, 1)}), "
        f"{show.number(100 * rest.share)} % of the time"
    )


def _estimate(record: MachineRecord) -> str:
    """Return in words how the cycles were told apart."""
    learnt = record.found.learnt
    pause = (
        f"it pauses up to {wait(learnt.longest_pause_s)} inside a run"
        if learnt.longest_pause_s
        else "it never pauses inside a run"
    )
    ticks = " Short bursts after the end count for no work." if learnt.has_ticks else ""
    return (
        f"Runs are told apart by {watts(learnt.setting.off_w)} W and {wait(learnt.setting.wait_s)} of quiet: idle it draws "
        f"up to {watts(learnt.idle_w)} W, at work {watts(learnt.work_w)} W and more; {pause}, and rests "
        f"{wait(learnt.shortest_rest_s)} at the least between two.{ticks}"
    )


def _counted_words(record: MachineRecord, since_ms: int) -> str:
    counted = record.counted(since_ms)
    starts = "1 start" if counted.starts == 1 else f"{show.number(counted.starts)} starts"
    return f"{starts}, {wait(counted.run_s)} of work, {show.number(counted.energy_kwh, 2)} kWh"


def _today(record: MachineRecord, clock: LocalClock, home: Home) -> str:
    """Return run time, starts and energy of the log's last day, and since they were set back."""
    last_day = clock.day_of(record.at_ms(record.power_w.size - 1)).start_ms
    since = record.appliance.counted_since_ms
    begun = "the first reading" if since is None else show.moment(since, clock, home.country)
    return (
        f"Last day of the log: {_counted_words(record, last_day)}. "
        f"Since {begun}: {_counted_words(record, record.start_ms if since is None else since)}."
    )
