"""A machine's log as strip, table of runs and table of settings, all ready strings."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.signature.thresholds import FinishSetting
from warmeter.core.timegrid import LocalClock
from warmeter.service.machines import MachineRecord, RunLine, rounded_setting
from warmeter.web import format as show
from warmeter.web.strip.draw import Drawn, draw
from warmeter.web.strip.lanes import Axis, Bracket, Curve, Lane, Level, StripView, Tick

AROUND_S = 45 * 60.0
HEATING_W = 1000.0
LOW_SHARE = 3.0  # the lower lane is cut at this many times the threshold


@dataclass(frozen=True, slots=True)
class Cell:
    """One setting in the table of settings."""

    errors: str
    late: str
    css: str


@dataclass(frozen=True, slots=True)
class RunRow:
    """A run in the table."""

    key: int
    started: str
    length: str
    kwh: str
    peak: str
    cost: str
    verdict: str
    is_shown: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SignatureView:
    """A machine's page."""

    strip: Drawn
    runs: list[RunRow]
    waits: list[str]
    grid: list[tuple[str, list[Cell]]]
    proposed: str
    reason: str
    proposed_threshold: str
    proposed_wait: str
    mine: str
    standby: str
    note: str


def _wait(seconds: float) -> str:
    return show.number(seconds / 60, 0 if seconds % 60 == 0 or seconds >= 600 else 1)


def words(setting: FinishSetting) -> str:
    """Return a setting in words."""
    return (
        f"{show.number(setting.threshold_w, 0 if setting.threshold_w >= 10 else 1)} W for {_wait(setting.wait_s)} min"
    )


def signature_view(record: MachineRecord, home: Home, clock: LocalClock, *, shown: int, width: int) -> SignatureView:
    """Return a machine's page with one run drawn."""
    index = shown if 0 <= shown < len(record.runs) else len(record.runs) - 1
    proposal, machine = record.proposal, record.appliance
    rounded = rounded_setting(proposal.setting, machine.threshold_step_w, machine.wait_step_min) if proposal else None
    reason = record.proposal_note
    if proposal and rounded:
        late = proposal.verdict.late_s or 0.0
        reason = (
            f"Rest stays at or below {show.number(proposal.rest_w, 1)} W, work comes back above "
            f"{show.number(proposal.work_w, 1)} W. The longest stretch below the threshold inside a run was "
            f"{show.duration(proposal.longest_pause_s / 60)}; a quarter is added. It makes no error between "
            f"{show.number(proposal.safe_w[0], 1)} and {show.number(proposal.safe_w[1], 0)} W and from "
            f"{_wait(proposal.safe_s[0])} min on, and tells the end {show.duration(late / 60)} late."
        )
    return SignatureView(
        strip=_strip(record, record.runs[index], home, clock, rounded, width),
        runs=[_row(record, k, line, home, clock, k == index) for k, line in enumerate(record.runs)][::-1],
        waits=[_wait(t.setting.wait_s) for t in record.grid[0]] if record.grid else [],
        grid=[_grid_row(record, k, rounded) for k in range(len(record.grid))],
        proposed=words(rounded) if rounded else "",
        reason=reason,
        proposed_threshold=f"{rounded.threshold_w:g}" if rounded else "",
        proposed_wait=f"{rounded.wait_s / 60:g}" if rounded else "",
        mine=_mine(record),
        standby=_standby(record),
        note=record.proposal_note,
    )


def _mine(record: MachineRecord) -> str:
    if record.mine is None:
        return "no setting typed yet"
    verdict = record.mine.verdict
    return (
        f"{words(record.mine.setting)}: of {verdict.runs} runs {verdict.missed} missed, {verdict.false} "
        f"told while it still ran"
    )


def _standby(record: MachineRecord) -> str:
    standby = record.found.standby
    return f"{show.number(standby.mode_w, 1)} W at rest, {show.number(standby.annual_kwh, 0)} kWh a year"


def _grid_row(record: MachineRecord, k: int, rounded: FinishSetting | None) -> tuple[str, list[Cell]]:
    cells = []
    for tried in record.grid[k]:
        verdict, setting = tried.verdict, tried.setting
        errors = verdict.missed + verdict.false
        css = "" if errors == 0 else ("is-bad" if errors <= verdict.runs else "is-worse")
        near = rounded is not None and abs(setting.threshold_w - rounded.threshold_w) < 0.6
        if near and rounded is not None and abs(setting.wait_s - rounded.wait_s) < 31:
            css += " is-best"
        late = "never" if verdict.late_s is None else f"+{_wait(verdict.late_s)} min"
        cells.append(Cell(f"{verdict.missed} · {verdict.false}", late, css))
    return f"{record.grid[k][0].setting.threshold_w:g} W", cells


def _row(record: MachineRecord, k: int, line: RunLine, home: Home, clock: LocalClock, is_shown: bool) -> RunRow:
    local = clock.local(line.start_ms)
    verdict = "cut by the log" if not line.run.is_whole else ""
    if record.mine and line.run.is_whole:
        false = sum(line.run.start < t < line.run.end for t in record.mine.verdict.false_at)
        verdict = f"{false} false" if false else "told rightly"
    return RunRow(
        k,
        f"{show.day_short(local.date(), home.country)} {local:%H:%M}",
        show.duration(line.features.duration_s / 60),
        show.number(line.features.energy_kwh, 2),
        show.number(line.features.peak_w, 0),
        show.money(line.cost, home.currency),
        verdict,
        is_shown,
    )


def _strip(
    record: MachineRecord, line: RunLine, home: Home, clock: LocalClock, rounded: FinishSetting | None, width: int
) -> Drawn:
    step = record.step_s
    begin = max(0, line.run.start - round(AROUND_S / 3 / step))
    end = min(record.power_w.size, line.run.end + round(AROUND_S / step))
    power = record.power_w[begin:end]
    start_ms = record.start_ms + round(begin * step * 1000)
    axis = _axis(power.size, start_ms, step, clock)
    every = int(axis.table_step)
    table = [(["" if np.isnan(v) else show.number(float(v), 1) for v in power[::every]], "W", "")]
    threshold = rounded.threshold_w if rounded else record.found.rest_high_w
    cut = max(LOW_SHARE * threshold, 2 * record.found.standby.mode_w)
    top = max(float(np.nanmax(power)) * 1.08, 1.0)
    mark = 10 ** int(np.floor(np.log10(top)))
    lanes = [
        Lane(
            name="Power",
            note=f"W, {step:.0f} s",
            height=84,
            high=top,
            axis=[(mark, show.number(mark))],
            fills=(Curve(values=power, css="wm-pw"),),
            table=table,
        ),
        Lane(
            name="Low end",
            note=f"W, cut at {cut:.0f}",
            height=64,
            high=cut,
            axis=[(threshold, show.number(threshold, 0))],
            fills=(Curve(values=np.minimum(power, cut), css="wm-pw"),),
            levels=(Level(value=threshold, css="wm-thr", label=f"proposed {threshold:.0f} W" if rounded else ""),),
            table=table,
        ),
        Lane(
            name="Run",
            note="",
            height=44,
            brackets=(
                Bracket(
                    start=line.run.start - begin,
                    end=line.run.end - begin,
                    label=f"{show.number(line.features.energy_kwh, 2)} kWh",
                    note=show.money(line.cost, home.currency),
                    notches=_heat_edges(record, line, begin),
                ),
            ),
        ),
    ]
    lanes += _told_lanes(record, begin, end)
    return draw(StripView(id="run", title=f"{record.appliance.name}, one run", axis=axis, lanes=lanes, width=width))


def _heat_edges(record: MachineRecord, line: RunLine, begin: int) -> tuple[float, ...]:
    """Return where a run's heating begins and ends, as places on its strip."""
    hot = record.power_w[line.run.start : line.run.end] >= HEATING_W
    return tuple(float(k + 1 + line.run.start - begin) for k in np.flatnonzero(np.diff(hot.astype(np.int8))))[:12]


def _told_lanes(record: MachineRecord, begin: int, end: int) -> list[Lane]:
    lanes = []
    pairs = [
        ("Told now", record.mine.verdict if record.mine else None),
        ("Told, proposed", record.proposal.verdict if record.proposal else None),
    ]
    for name, verdict in pairs:
        if verdict is None:
            continue
        ticks = [Tick(at=t - begin, is_false=True) for t in verdict.false_at if begin <= t < end]
        ticks += [Tick(at=t - begin) for t in verdict.told_at if begin <= t < end]
        lanes.append(
            Lane(name=name, height=26, ticks=ticks, table=[([f"{len(verdict.false_at)} false"] * 2000, "", "")])
        )
    return lanes


def _axis(size: int, start_ms: int, step: float, clock: LocalClock) -> Axis:
    minutes = size * step / 60
    every_min = next((m for m in (5, 10, 15, 30, 60, 120) if minutes / m <= 12), 240)
    first = -(-start_ms // (every_min * 60_000)) * every_min * 60_000
    marks = np.arange(first, start_ms + round(size * step * 1000), every_min * 60_000)
    places = [((int(m) - start_ms) / (step * 1000), f"{clock.local(int(m)):%H:%M}") for m in marks]
    every = max(1, size // 600)
    times = [f"{clock.local(start_ms + round(k * step * 1000)):%H:%M}" for k in range(0, size, every)]
    return Axis(
        length=float(size),
        grid=[(at, False) for at, _ in places],
        numerals=places,
        table_step=float(every),
        table_times=times,
        crosshair=size * 0.5,
    )
