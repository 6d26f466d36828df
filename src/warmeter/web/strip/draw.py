"""A strip's geometry: lanes to SVG marks, 1 unit = 1 px, nothing scaled."""

import json
import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from markupsafe import Markup, escape

from warmeter.core.arrays import Floats, true_runs
from warmeter.web.strip.lanes import Axis, Bracket, Curve, Hold, Lane, StripBlock, StripView, Wedge
from warmeter.web.strip.thin import thinned

LEFT, RIGHT, AXIS = 104, 88, 24
NARROW_LEFT, NARROW_RIGHT, NARROW_BELOW_PX = 84, 76, 540
_UNSAFE = re.compile("[&<>\"']")


@dataclass(frozen=True, slots=True)
class Mark:
    """One SVG element with ready attributes."""

    tag: str
    attributes: dict[str, str]
    text: str = ""
    title: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """A drawing without a crosshair, ready for its template."""

    id: str
    title: str
    width: int
    height: int
    marks: list[Mark]

    @property
    def svg(self) -> Markup:
        """The SVG."""
        size = {"width": str(self.width), "height": str(self.height), "viewBox": f"0 0 {self.width} {self.height}"}
        own = {"class": "wm-drawing", "id": f"drawing-{self.id}", "role": "img", "aria-label": self.title, **size}
        return Markup("\n".join((f"<svg{_attributes(own)}>", *map(_written, self.marks), "</svg>")))  # noqa: S704


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnStrip:
    """A strip ready for its template."""

    id: str
    title: str
    width: int
    height: int
    marks: list[Mark]
    attributes: dict[str, str] = field(default_factory=dict)

    @property
    def has_handles(self) -> bool:
        """Whether keys reach a handle in it; where none is, its box must be reached itself to be scrolled."""
        return any(mark.attributes.get("tabindex") == "0" for mark in self.marks)

    @property
    def svg(self) -> Markup:
        """The SVG, written in one go: a week of ten rooms has thousands of attributes."""
        size = {"width": str(self.width), "height": str(self.height), "viewBox": f"0 0 {self.width} {self.height}"}
        own = {"class": "wm-strip", "id": f"strip-{self.id}", "data-strip": self.id, **size}
        own |= {"role": "group", "aria-label": self.title, **self.attributes}
        lines = [f"<svg{_attributes(own)}>", *map(_written, self.marks), "</svg>"]
        return Markup("\n".join(lines))  # noqa: S704  (escaped above)


def _written(mark: Mark) -> str:
    title = f"<title>{_safe(mark.title)}</title>" if mark.title else ""
    return f"<{mark.tag}{_attributes(mark.attributes)}>{title}{_safe(mark.text)}</{mark.tag}>"


def _attributes(attributes: dict[str, str]) -> str:
    return "".join([f' {name}="{_safe(value)}"' for name, value in attributes.items()])


def _safe(text: str) -> str:
    return str(escape(text)) if _UNSAFE.search(text) else text


def _f(value: float) -> str:
    text = f"{value:.1f}"
    return text[:-2] if text.endswith(".0") else text


@dataclass(frozen=True, slots=True)
class _Frame:
    view: StripView
    left: int
    right: int

    @property
    def plot(self) -> int:
        return self.view.width - self.left - self.right

    def x(self, at: float) -> float:
        return self.left + at / self.view.axis.length * self.plot


@dataclass(frozen=True, slots=True)
class _Box:
    frame: _Frame
    lane: Lane
    top: float

    @property
    def bottom(self) -> float:
        return self.top + self.lane.height

    def y(self, value: float) -> float:
        share = (value - self.lane.low) / (self.lane.high - self.lane.low)
        return self.bottom - min(max(share, 0.0), 1.0) * (self.lane.height - 4)


def draw(view: StripView) -> DrawnStrip:
    """Return a strip's marks in drawing order."""
    narrow = view.width < NARROW_BELOW_PX
    frame = _Frame(view, NARROW_LEFT if narrow else view.left or LEFT, NARROW_RIGHT if narrow else view.right or RIGHT)
    height = AXIS + sum(lane.height for lane in view.lanes) + 1
    marks = [*_ahead(frame, height), *_grid(frame, height)]
    top = float(AXIS)
    tables: list[dict[str, object]] = []
    over: list[Mark] = []
    for number, lane in enumerate(view.lanes):
        box = _Box(frame, lane, top)
        marks += _lane(box, number)
        over += _handles(box)
        tables.append({"y": _f(top), "zone": lane.zone_key, "rows": [[list(r[0]), r[1], r[2]] for r in lane.table]})
        top = box.bottom
    marks += over
    marks += _axis(frame)
    marks += _crosshair(frame, height)
    attributes = {
        **view.attributes,
        "data-left": str(frame.left),
        "data-plot": str(frame.plot),
        "data-length": _f(view.axis.length),
        "data-step": _f(view.axis.table_step),
        "data-times": json.dumps(list(view.axis.table_times), ensure_ascii=False),
        "data-clocks": json.dumps(list(view.axis.clock_names)),
        "data-tables": json.dumps(tables, ensure_ascii=False),
        "data-at": _f(_first_at(view.axis)),
    }
    return DrawnStrip(
        id=view.id, title=view.title, width=view.width, height=int(height), marks=marks, attributes=attributes
    )


def _ahead(frame: _Frame, height: int) -> Iterator[Mark]:
    """Yield the sunk ground of what is still to come."""
    begin = frame.view.axis.ahead_from
    if begin is not None:
        x = frame.x(begin)
        size = {"x": _f(x), "y": str(AXIS), "width": _f(frame.left + frame.plot - x), "height": str(height - AXIS)}
        yield Mark("rect", {"class": "wm-ahead", **size})


def _grid(frame: _Frame, height: int) -> Iterator[Mark]:
    for at, is_major in frame.view.axis.grid:
        x = round(frame.x(at)) + 0.5
        css = "wm-grid wm-major" if is_major else "wm-grid"
        yield Mark("path", {"class": css, "d": f"M{_f(x)} {AXIS}V{height}"})


def _axis(frame: _Frame) -> Iterator[Mark]:
    axis = frame.view.axis
    yield Mark("path", {"class": "wm-edge", "d": f"M0 {AXIS - 0.5}H{frame.view.width}"})
    now_x = None if axis.now is None else frame.x(axis.now)
    for at, label in axis.numerals:
        x = frame.x(at)
        if now_x is not None and abs(x - now_x) < 36:
            continue
        yield Mark("text", {"class": "wm-ax wm-mid", "x": _f(x), "y": "14"}, label)
        yield Mark("path", {"class": "wm-tick", "d": f"M{_f(round(x) + 0.5)} 19V{AXIS}"})
    if axis.now is not None and now_x is not None:
        yield Mark("text", {"class": "wm-ax wm-ink wm-mid", "x": _f(now_x), "y": "14"}, axis.now_label)


def _first_at(axis: Axis) -> float:
    """Return where the crosshair stands first."""
    return axis.crosshair if axis.crosshair is not None else (axis.now or 0.0)


def _crosshair(frame: _Frame, height: int) -> Iterator[Mark]:
    axis, strip = frame.view.axis, frame.view.id
    name = next((name for start, name in reversed(axis.clock_names) if start <= _first_at(axis)), "")
    if axis.now is not None:
        x = round(frame.x(axis.now)) + 0.5
        yield Mark("path", {"class": "wm-now", "d": f"M{_f(x)} {AXIS}V{height}"})
    yield Mark("path", {"class": "wm-xh", "id": f"{strip}-xh", "d": f"M0 {AXIS}V{height}", "visibility": "hidden"})
    yield Mark(
        "rect",
        {
            "class": "wm-xtag",
            "id": f"{strip}-xtag",
            "y": "3",
            "width": "44",
            "height": "16",
            "rx": "2",
            "visibility": "hidden",
        },
    )
    yield Mark("text", {"class": "wm-xtext wm-mid", "id": f"{strip}-xtext", "y": "15"})
    yield Mark(
        "text", {"class": "wm-n wm-strong wm-end", "id": f"{strip}-xhead", "x": str(frame.view.width - 34), "y": "14"}
    )
    yield Mark(
        "text", {"class": "wm-soft wm-end", "id": f"{strip}-xclock", "x": str(frame.view.width), "y": "14"}, name
    )


def _lane(box: _Box, number: int) -> Iterator[Mark]:
    lane, frame, width = box.lane, box.frame, box.frame.view.width
    yield from _gutter(box)
    yield from _fills(box)
    yield from _price_steps(box)
    for block in lane.blocks:
        yield _block_fill(box, block)
    if lane.blocks:
        yield _profile(box)
    for block in lane.ceilings:
        yield from _ceiling(box, block)
    for wedge in lane.wedges:
        yield from _wedge(box, wedge)
    for hold in lane.holds:
        yield from _hold(box, hold)
    yield from _stretches(box)
    for curve in lane.curves:
        yield from _curve(box, curve)
    for at, value in lane.dots:
        yield Mark("circle", {"class": "wm-dot", "cx": _f(frame.x(at)), "cy": _f(box.y(value)), "r": "2.8"})
    yield from _levels(box)
    for block in lane.blocks:
        yield from _block_label(box, block)
    for bracket in lane.brackets:
        yield from _bracket(box, bracket)
    yield from _ticks(box)
    for line, _row in enumerate(lane.table):
        y = box.top + (20 if lane.height >= 40 else lane.height / 2 + 4) + 18 * line
        prefix = f"{frame.view.id}-v{number}-{line}"
        yield Mark("text", {"class": "wm-soft", "id": f"{prefix}-w", "x": str(width - frame.right + 6), "y": _f(y)})
        yield Mark("text", {"class": "wm-n wm-end", "id": prefix, "x": str(width - 30), "y": _f(y)})
        yield Mark("text", {"class": "wm-soft", "id": f"{prefix}-u", "x": str(width - 26), "y": _f(y)})
    yield Mark("path", {"class": "wm-lane-rule", "d": f"M0 {_f(box.bottom - 0.5)}H{width}"})


def _gutter(box: _Box) -> Iterator[Mark]:
    lane = box.lane
    first = 20 if lane.height >= 40 else lane.height / 2 + 4
    css, x = ("wm-soft", "10") if lane.is_part else ("wm-name", "0")
    yield Mark("text", {"class": css, "x": x, "y": _f(box.top + first)}, lane.name)
    if lane.left_note:
        at = {"x": str(box.frame.left - 8), "y": _f(box.top + first)}
        yield Mark("text", {"class": "wm-soft wm-end", **at}, lane.left_note)
    if lane.note and lane.height >= 40:
        yield Mark("text", {"class": "wm-soft", "x": "0", "y": _f(box.top + first + 16)}, lane.note)
    for value, label in lane.axis:
        y = round(box.y(value)) + 0.5
        yield Mark("text", {"class": "wm-ax wm-end", "x": str(box.frame.left - 8), "y": _f(y + 4)}, label)
        yield Mark("path", {"class": "wm-tick", "d": f"M{box.frame.left - 5} {_f(y)}h5"})


def _points(box: _Box, curve: Curve) -> Iterator[Floats]:
    """Yield the unbroken pieces of a curve as (point, 2) px, no more than one point a px."""
    px_per_value = curve.step / box.frame.view.axis.length * box.frame.plot
    every = max(1, int(1 / px_per_value))
    values = curve.values[::every]
    place = box.frame.left + (curve.start / curve.step + np.arange(values.size) * every) * px_per_value
    lane = box.lane
    share = np.clip((values - lane.low) / (lane.high - lane.low), 0.0, 1.0)
    points = np.column_stack([place, box.bottom - share * (lane.height - 4)])
    heard = ~np.isnan(values)
    for begin, end in zip(*true_runs(heard), strict=True):
        yield points[begin:end]


def _line(points: Floats) -> str:
    return "L".join(f"{x:.1f} {y:.1f}" for x, y in thinned(points).tolist())


def _curve(box: _Box, curve: Curve) -> Iterator[Mark]:
    pieces = ["M" + _line(points) for points in _points(box, curve) if len(points) > 1]
    if pieces:
        yield Mark("path", {"class": curve.css, "d": "".join(pieces)})


def _fills(box: _Box) -> Iterator[Mark]:
    for curve in box.lane.fills:
        pieces = [
            f"M{_f(points[0, 0])} {_f(box.bottom)}L{_line(points)}L{_f(points[-1, 0])} {_f(box.bottom)}Z"
            for points in _points(box, curve)
            if len(points) > 1
        ]
        if pieces:
            yield Mark("path", {"class": curve.css, "d": "".join(pieces)})


def _price_steps(box: _Box) -> Iterator[Mark]:
    if not box.lane.steps:
        return
    line, before = "", None
    for step in box.lane.steps:
        x0, x1, y = box.frame.x(step.start), box.frame.x(step.end), box.y(step.value)
        yield Mark(
            "rect", {"class": "wm-pr", "x": _f(x0), "y": _f(y), "width": _f(x1 - x0), "height": _f(box.bottom - y)}
        )
        for number, (low, high) in enumerate(pairwise((*step.parts, step.value))):
            top, foot = box.y(high), box.y(low)
            yield Mark(
                "rect",
                {
                    "class": f"wm-pr{number + 2}",
                    "x": _f(x0),
                    "y": _f(top),
                    "width": _f(x1 - x0),
                    "height": _f(max(0.0, foot - top)),
                },
            )
        line += f"{'L' if step.start == before else 'M'}{_f(x0)} {_f(y)}L{_f(x1)} {_f(y)}"
        before = step.end
    yield Mark("path", {"class": "wm-prl", "d": line})
    for step in box.lane.steps:
        if box.frame.x(step.end) - box.frame.x(step.start) >= 36:
            y = box.y(step.value)
            text_y = y + 14 if box.bottom - y >= 18 else y - 5
            yield Mark(
                "text",
                {"class": "wm-n wm-prt wm-halo", "x": _f(box.frame.x(step.start) + 6), "y": _f(text_y)},
                step.label,
            )


def _block_fill(box: _Box, block: StripBlock) -> Mark:
    x0, x1, y = box.frame.x(block.start), box.frame.x(block.end), box.y(block.value)
    attributes = {
        "class": f"wm-blk wm-h{block.hatch}",
        "x": _f(x0),
        "y": _f(y),
        "width": _f(x1 - x0),
        "height": _f(box.bottom - y),
    }
    if block.key:
        attributes |= {"data-block": block.key, "data-start": _f(block.start), "data-end": _f(block.end)}
    return Mark("rect", attributes)


def _profile(box: _Box) -> Mark:
    line = [
        f"{_f(box.frame.x(at))} {_f(box.y(block.value))}"
        for block in box.lane.blocks
        for at in (block.start, block.end)
    ]
    return Mark("path", {"class": "wm-setline", "d": "M" + "L".join(line)})


def _block_label(box: _Box, block: StripBlock) -> Iterator[Mark]:
    x0, x1 = box.frame.x(block.start), box.frame.x(block.end)
    short = block.label.rsplit(" ", 1)[-1]
    wide = x1 - x0 >= max(88, 7 * len(block.label) + 10)
    if wide:
        yield Mark("text", {"class": "wm-halo", "x": _f(x0 + 6), "y": _f(box.bottom - 6)}, block.label)
    elif x1 - x0 >= 36:
        yield Mark("text", {"class": "wm-n wm-mid wm-halo", "x": _f((x0 + x1) / 2), "y": _f(box.bottom - 6)}, short)


def _wedge(box: _Box, wedge: Wedge) -> Iterator[Mark]:
    x0, x1 = box.frame.x(max(wedge.start, 0.0)), box.frame.x(wedge.end)
    low, high = box.y(wedge.low), box.y(wedge.high)
    yield Mark(
        "path",
        {
            "class": "wm-cwedge" if wedge.is_cooling else "wm-wedge",
            "d": f"M{_f(x0)} {_f(low)}L{_f(x1)} {_f(low)}L{_f(x1)} {_f(high)}Z",
        },
    )
    if wedge.label and x0 - box.frame.left > 8 * len(wedge.label):
        yield Mark("text", {"class": "wm-ht wm-end wm-halo", "x": _f(x0 - 4), "y": _f(low - 5)}, wedge.label)


def _ceiling(box: _Box, block: StripBlock) -> Iterator[Mark]:
    """Yield a cooling limit, hatched from above, with its number where there is room."""
    x0, x1, y = box.frame.x(block.start), box.frame.x(block.end), box.y(block.value)
    css = f"wm-cblk wm-c{block.hatch}"
    size = {"x": _f(x0), "y": _f(box.top), "width": _f(x1 - x0), "height": _f(y - box.top)}
    yield Mark("rect", {"class": css, **size})
    yield Mark("path", {"class": "wm-coolline", "d": f"M{_f(x0)} {_f(y)}H{_f(x1)}"})
    if block.label and x1 - x0 >= 40 and y - box.top >= 12:
        yield Mark("text", {"class": "wm-n wm-ct wm-end wm-halo", "x": _f(x1 - 5), "y": _f(box.top + 13)}, block.label)


def _hold(box: _Box, hold: Hold) -> Iterator[Mark]:
    x0, x1, y = box.frame.x(hold.start), box.frame.x(hold.end), box.y(hold.value)
    size = {"x": _f(x0), "y": _f(y), "width": _f(max(x1 - x0, 2)), "height": _f(box.bottom - y - 1)}
    yield Mark("rect", {"class": "wm-hold", **size}, title=hold.title)
    if x1 - x0 >= 7 * len(hold.label):
        yield Mark("text", {"class": "wm-strong wm-halo", "x": _f(x0 + 5), "y": _f(y + 13)}, hold.label)


def _stretches(box: _Box) -> Iterator[Mark]:
    for stretch in box.lane.stretches:
        x0, x1 = box.frame.x(stretch.start), box.frame.x(stretch.end)
        is_bar = "wm-bar" in stretch.css
        inset = 6 if is_bar else 0
        yield Mark(
            "rect",
            {
                "class": stretch.css,
                "x": _f(x0),
                "y": _f(box.top + inset),
                "width": _f(max(x1 - x0, 1)),
                "height": _f(min(8, box.lane.height - 12) if is_bar else box.lane.height - 1),
            },
        )
        if stretch.label and x1 - x0 > 7 * len(stretch.label):
            y = box.bottom - 5
            yield Mark("text", {"class": "wm-soft wm-mid wm-halo", "x": _f((x0 + x1) / 2), "y": _f(y)}, stretch.label)


def _levels(box: _Box) -> Iterator[Mark]:
    for level in box.lane.levels:
        y = _f(round(box.y(level.value)) + 0.5)
        yield Mark("path", {"class": level.css, "d": f"M{box.frame.left} {y}h{box.frame.plot}"})
        if level.label:
            x = str(box.frame.left + box.frame.plot - 6)
            yield Mark("text", {"class": "wm-ht wm-end wm-halo", "x": x, "y": _f(float(y) - 4)}, level.label)


def _bracket(box: _Box, bracket: Bracket) -> Iterator[Mark]:
    x0, x1, y = box.frame.x(bracket.start), box.frame.x(bracket.end), box.top + 10.5
    path = f"M{_f(x0)} {_f(y - 4)}V{_f(y + 4)}M{_f(x0)} {_f(y)}H{_f(x1)}M{_f(x1)} {_f(y - 4)}V{_f(y + 4)}"
    path += "".join(f"M{_f(box.frame.x(at))} {_f(y - 3)}V{_f(y + 3)}" for at in bracket.notches)
    yield Mark("path", {"class": "wm-brk", "d": path})
    anchor_end = x1 + 6 + 7 * max(len(bracket.label), len(bracket.note)) > box.frame.left + box.frame.plot
    x, css = (x0 - 6, " wm-end") if anchor_end else (x1 + 6, "")
    if bracket.label:
        yield Mark("text", {"class": f"wm-halo wm-strong{css}", "x": _f(x), "y": _f(box.top + 15)}, bracket.label)
    if bracket.note and box.lane.height >= 40:
        yield Mark("text", {"class": f"wm-soft wm-halo{css}", "x": _f(x), "y": _f(box.top + 31)}, bracket.note)


def _ticks(box: _Box) -> Iterator[Mark]:
    y = box.top + box.lane.height / 2
    for tick in box.lane.ticks:
        x = box.frame.x(tick.at)
        if tick.is_false:
            path = f"M{_f(x - 4)} {_f(y - 4)}L{_f(x + 4)} {_f(y + 4)}M{_f(x + 4)} {_f(y - 4)}L{_f(x - 4)} {_f(y + 4)}"
            yield Mark("path", {"class": "wm-falsex", "d": path})
        elif tick.is_hollow:
            size = {"x": _f(x - 2.5), "y": _f(y - 9), "width": "5", "height": "18"}
            yield Mark("rect", {"class": "wm-heldback", **size}, title=tick.title)
        elif tick.is_ahead:
            yield Mark("path", {"class": "wm-later", "d": f"M{_f(x)} {_f(y - 7)}V{_f(y + 7)}"}, title=tick.title)
        elif tick.is_notice:
            yield Mark("path", {"class": "wm-notifies", "d": f"M{_f(x)} {_f(box.bottom - 9)}V{_f(box.bottom - 1)}"})
        else:
            yield Mark("path", {"class": "wm-fired", "d": f"M{_f(x)} {_f(y - 7)}V{_f(y + 7)}"}, title=tick.title)


def _handles(box: _Box) -> Iterator[Mark]:
    """Yield the handles of blocks and runs, drawn over all lanes; each has a stable id and is a slider."""
    order = {} if box.lane.is_in_tab_order else {"tabindex": "-1"}
    for block in box.lane.blocks:
        if not block.key:
            continue
        x0, x1, y = box.frame.x(block.start), box.frame.x(block.end), box.y(block.value)
        if not block.is_first:
            yield _slider(
                f"edge-{block.key}",
                "edge",
                block.edge_label,
                block.start,
                {"x": _f(x0 - 3), "y": _f(y + (box.bottom - y) / 2 - 9), "width": "6", "height": "18", **order},
            )
        yield _slider(
            f"top-{block.key}",
            "top",
            block.top_label,
            block.value,
            {
                "x": _f((x0 + x1) / 2 - 9),
                "y": _f(y - 3),
                "width": "18",
                "height": "6",
                **order,
                "data-scale": _f((box.lane.height - 4) / (box.lane.high - box.lane.low)),
            },
        )
    for bracket in box.lane.brackets:
        if bracket.key:
            yield from _bracket_handles(box, bracket)
    for step in box.lane.steps:
        if step.edge_key:
            geometry = {"x": _f(box.frame.x(step.start) - 3), "y": _f(box.top + 3), "width": "6"}
            yield _slider(
                f"price-{step.edge_key}",
                "price",
                step.edge_label,
                step.start,
                {**geometry, "height": _f(box.lane.height - 6)},
            )


def _bracket_handles(box: _Box, bracket: Bracket) -> Iterator[Mark]:
    """Yield the handles of a run: one that moves it whole, or one at each end."""
    ends = (("begin", bracket.start, "Start"), ("end", bracket.end, "End")) if bracket.has_two_ends else ()
    for kind, at, word in ends or (("run", bracket.start, "Start"),):
        yield _slider(
            f"{kind}-{bracket.key}",
            kind,
            f"{word} of {bracket.label or 'the cycle'}",
            at,
            {"x": _f(box.frame.x(at) - 3), "y": _f(box.top + 2), "width": "6", "height": "17"},
        )


def _slider(key: str, kind: str, label: str, value: float, geometry: dict[str, str]) -> Mark:
    return Mark(
        "rect",
        {
            "class": f"wm-hnd wm-hnd-{kind}",
            "id": f"h-{key}",
            "tabindex": "0",
            "role": "slider",
            "aria-label": label,
            "aria-valuenow": _f(value),
            "data-kind": kind,
            "data-key": key.split("-", 1)[1],
            "data-value": f"{value:g}",
            **geometry,
        },
        title=label,
    )
