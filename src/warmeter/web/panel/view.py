"""A panel as ready strings: its lamps and buttons, what their logs say, a trial as lanes."""

from dataclasses import dataclass

from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.panels import BlinkMeans, PanelFunction
from warmeter.core.panel.lamp_state import LampState
from warmeter.core.panel.panel_trial import PanelTrial
from warmeter.core.panel.pressing import Because
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_H, MS_PER_MIN, S_PER_MIN
from warmeter.core.wording import day_short
from warmeter.service.panel.panel_log import TRIAL_MS, WANTED_MIN, FunctionLog
from warmeter.web import format as show

STATE_WORDS: dict[LampState, str] = {"off": "off", "blinking": "blinking", "steady": "steady", "unknown": "not known"}
BLINK_WORDS: dict[BlinkMeans, str] = {"between": "in between", "on": "on", "off": "off"}
BECAUSE_WORDS: dict[Because, str] = {
    "as wanted": "as wanted",
    "not known": "its state is not known",
    "between": "it stands in between",
    "looks after a press": "a press is looked after",
    "too many": "too many presses an hour",
    "does nothing": "its presses do nothing",
}
LEFT_PX, LANE_PX, TOP_PX = 92, 24, 18


@dataclass(frozen=True, slots=True, kw_only=True)
class FunctionRow:
    """A lamp with its button, and what its log says."""

    function: PanelFunction
    state: str
    since: str
    presses: str
    unanswered: str
    is_bad: bool
    is_on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialLane:
    """A lane of a trial: bars [px] with a class, and its total."""

    name: str
    y: int
    bars: list[tuple[float, float, str]]
    ticks: list[float]
    total: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialView:
    """Both ways tried on a panel, drawn."""

    width: int
    height: int
    hours: list[tuple[float, str]]
    lanes: list[TrialLane]
    sentence: str


def function_row(home: Home, function: PanelFunction, log: FunctionLog, clock: LocalClock, at: str) -> FunctionRow:
    """Return a lamp with its button as a row."""
    unanswered, many = "", False
    if log.unanswered is not None:
        lost, looked = log.unanswered
        unanswered = f"{lost} of {looked}"
        many = lost > 0
    return FunctionRow(
        function=function,
        state="not logged" if log.state is None else STATE_WORDS[log.state],
        since="" if log.since_ms is None else show.moment(log.since_ms, clock, home.country),
        presses=""
        if log.presses is None
        else ", ".join(f"{day_short(day, home.country)}: {count}" for day, count in log.presses if count)
        or "none in seven days",
        unanswered=unanswered,
        is_bad=many,
        is_on=function.id == at,
    )


def lamp_sensors(home: Home) -> list[Device]:
    """Return the devices that can see a lamp."""
    return [d for d in home.devices if d.is_in_service and d.kind == "lamp_sensor"]


def pressers(home: Home) -> list[Device]:
    """Return the devices that can press a button."""
    return [d for d in home.devices if d.is_in_service and d.kind in ("relay", "infrared_sender")]


def trial_view(looks: PanelTrial, blind: PanelTrial, width: int) -> TrialView:
    """Return both ways of a trial in a picture of a width [px]."""
    inner = width - LEFT_PX - 60

    def x(at_ms: float) -> float:
        return round(LEFT_PX + inner * at_ms / TRIAL_MS, 1)

    def bars(stretches: tuple[tuple[int, int], ...], kind: str) -> list[tuple[float, float, str]]:
        return [(x(begin), round(max(0.5, x(end) - x(begin)), 1), kind) for begin, end in stretches]

    wanted = tuple((begin * MS_PER_MIN, end * MS_PER_MIN) for begin, end in WANTED_MIN)
    ends = [at for at, _ in looks.states[1:]] + [TRIAL_MS]
    unknown = tuple((at, end) for (at, state), end in zip(looks.states, ends, strict=True) if state == "unknown")
    rows: list[tuple[str, list[tuple[float, float, str]], tuple[int, ...], str]] = [
        ("wanted on", bars(wanted, "wanted"), (), ""),
        ("looks first", bars(looks.on, "on"), looks.presses_ms, _wrong(looks)),
        ("not known", bars(unknown, "unknown"), (), f"{looks.unknown_s:.0f} s"),
        ("presses blindly", bars(blind.on, "on"), blind.presses_ms, _wrong(blind)),
    ]
    lanes = [
        TrialLane(name=name, y=TOP_PX + LANE_PX * place, bars=own, ticks=[x(at) for at in presses], total=total)
        for place, (name, own, presses, total) in enumerate(rows)
    ]
    told = "; ".join(
        f"after {at / MS_PER_MIN:.0f} min somebody is told: {BECAUSE_WORDS[why]}" for at, why in looks.told
    )
    return TrialView(
        width=width,
        height=TOP_PX + LANE_PX * len(rows) + 4,
        hours=[(x(hour * MS_PER_H), f"{hour} h") for hour in range(TRIAL_MS // MS_PER_H + 1)],
        lanes=lanes,
        sentence=f"Looking first: {len(looks.presses_ms)} presses, {_minutes(looks)} min other than wanted. Blindly at each "
        f"change: {len(blind.presses_ms)} presses, {_minutes(blind)} min{'; ' + told if told else ''}.",
    )


def _minutes(trial: PanelTrial) -> str:
    return show.number(trial.wrong_s / S_PER_MIN, 1 if trial.wrong_s < 10 * S_PER_MIN else 0)


def _wrong(trial: PanelTrial) -> str:
    return f"{_minutes(trial)} min"
