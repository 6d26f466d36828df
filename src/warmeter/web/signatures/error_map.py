"""Every threshold and waiting time tried, as a map: hatched where it errs, blank where it is safe."""

from dataclasses import dataclass

import numpy as np

from warmeter.core.arrays import Floats
from warmeter.core.signature.recommending import SettingProposal
from warmeter.core.signature.tuner import ErrorMap, Setting
from warmeter.web import format as show
from warmeter.web.signatures.words import wait, watts
from warmeter.web.strip.grid_map import BOTTOM, LEFT, TOP, Area, MapWord

FEW_SHARE = 0.5  # of the cycles: beyond, a setting is told to err worse
WAIT_MARKS = (10.0, 60.0, 300.0, 1800.0, 7200.0, 28_800.0)
WATT_MARKS = (1.0, 3.0, 10.0, 30.0, 100.0, 300.0, 1000.0)
ROWS, COLUMNS = 6, 6


@dataclass(frozen=True, slots=True)
class Cell:
    """One setting in the plain table."""

    errors: str
    late: str
    css: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MapView:
    """The map and, in plain numbers, a table of some of it."""

    width: int
    height: int
    areas: list[Area]
    marks: list[Area]
    words: list[MapWord]
    waits: list[str]
    rows: list[tuple[str, list[Cell]]]
    tried: str


class _Scale:
    """Places of thresholds and waits on the map [px], both logarithmic."""

    def __init__(self, tried: ErrorMap, width: int, height: int) -> None:
        self.tried, self.width, self.height = tried, width - LEFT, height - BOTTOM - TOP
        self.log_w, self.log_s = np.log(tried.thresholds_w), np.log(tried.waits_s)

    def _place(self, value: float, logs: Floats, size: float) -> float:
        half = (logs[-1] - logs[0]) / max(logs.size - 1, 1) / 2 or 0.5
        return float((np.log(max(value, 1e-9)) - logs[0] + half) / (logs[-1] - logs[0] + 2 * half) * size)

    def x(self, wait_s: float) -> float:
        return LEFT + min(max(self._place(wait_s, self.log_s, self.width), 0), self.width)

    def y(self, threshold_w: float) -> float:
        return TOP + self.height - min(max(self._place(threshold_w, self.log_w, self.height), 0), self.height)


def map_view(proposal: SettingProposal, proposed: Setting, mine: Setting | None, width: int, height: int) -> MapView:
    """Return the map of a question for a size [px]."""
    tried = proposal.map
    scale = _Scale(tried, width, height)
    marks = [_mark(scale, proposed, "wm-map-best", "proposed")]
    if mine is not None:
        marks.append(_mark(scale, mine, "wm-map-mine", "set now"))
    words = [
        MapWord(
            f"{scale.x(s):.0f}", str(height - 6), f"wm-ax {'wm-end' if scale.x(s) > width - 24 else 'wm-mid'}", wait(s)
        )
        for s in WAIT_MARKS
        if tried.waits_s[0] <= s <= tried.waits_s[-1]
    ]
    words += [
        MapWord(str(LEFT - 6), f"{scale.y(w) + 4:.0f}", "wm-ax wm-end", watts(w))
        for w in WATT_MARKS
        if tried.thresholds_w[0] <= w <= tried.thresholds_w[-1]
    ]
    columns = _spread(tried.waits_s.size, COLUMNS)
    rows = [_row(tried, t, columns) for t in _spread(tried.thresholds_w.size, ROWS)]
    return MapView(
        width=width,
        height=height,
        areas=_areas(tried, scale),
        marks=marks,
        words=words,
        waits=[wait(float(tried.waits_s[w])) for w in columns],
        rows=rows,
        tried=show.number(tried.missed.size),
    )


def _spread(size: int, count: int) -> list[int]:
    return sorted({round(k) for k in np.linspace(0, size - 1, min(count, size))})


def _css(errors: int, asked: int) -> str:
    if errors == 0:
        return ""
    return "is-bad" if errors <= FEW_SHARE * max(asked, 1) else "is-worse"


def _areas(tried: ErrorMap, scale: _Scale) -> list[Area]:
    """Return the hatched parts, neighbours of a row that err alike as one."""
    found = []
    cell_w, cell_h = scale.width / tried.waits_s.size, scale.height / tried.thresholds_w.size
    for t in range(tried.thresholds_w.size):
        kinds = [_css(int(e), tried.asked) for e in tried.errors[t]]
        start = 0
        for w in range(1, len(kinds) + 1):
            if w == len(kinds) or kinds[w] != kinds[start]:
                if kinds[start]:
                    y = TOP + scale.height - (t + 1) * cell_h
                    found.append(
                        Area(
                            f"{LEFT + start * cell_w:.1f}",
                            f"{y:.1f}",
                            f"{(w - start) * cell_w:.1f}",
                            f"{cell_h:.1f}",
                            f"wm-map-{kinds[start]}",
                        )
                    )
                start = w
    return found


def _mark(scale: _Scale, setting: Setting, css: str, word: str) -> Area:
    x, y = scale.x(setting.wait_s), scale.y(setting.threshold_w)
    title = f"{word}: {watts(setting.threshold_w)} W for {wait(setting.wait_s)}"
    return Area(f"{x - 6:.1f}", f"{y - 6:.1f}", "12", "12", css, title)


def _row(tried: ErrorMap, t: int, columns: list[int]) -> tuple[str, list[Cell]]:
    cells = []
    for w in columns:
        missed, false, late = int(tried.missed[t, w]), int(tried.false[t, w]), float(tried.late_s[t, w])
        words = "never" if np.isnan(late) else f"+{wait(late)}"
        cells.append(Cell(f"{missed} · {false}", words, _css(missed + false, tried.asked)))
    return f"{watts(float(tried.thresholds_w[t]))} W", cells
