"""What is on now and why, what comes next, what was sent, who waits for an answer, what has gone quiet, in words."""

from collections.abc import Mapping
from dataclasses import dataclass

from warmeter.core.home.devices import Device
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.rooms import Room
from warmeter.core.live.command_run import PERCENT, STATE_WORDS
from warmeter.core.live.planned_now import planned_starts
from warmeter.core.rule.parts import conditions_of
from warmeter.core.rule.signals import main_signal
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_DAY, MS_PER_MIN, MS_PER_S, S_PER_MIN
from warmeter.service.live.live_now import AHEAD_MS, AlertNow, LiveNow, ZoneLive, unknown_topics
from warmeter.service.live.run_now import RunNow
from warmeter.service.live.sensor_faults import SensorFault
from warmeter.store.live_commands import KeptCommand
from warmeter.web import format as show
from warmeter.web.devices.sensor_log_view import FLAG_WORDS
from warmeter.web.floor_plan.draw import MARGIN_PX, FloorPlanPicture, draw_storey
from warmeter.web.signatures.stretch import phase_name
from warmeter.web.timetable.lanes import cool_hatch_step, hatch_step

NBSP = "\u00a0"  # between a number and its unit
MOST_NEXT, MOST_SENT, MOST_ON, MOST_QUIET = 7, 6, 12, 6
PLAN_WIDTH, PLAN_HEIGHT, PLAN_MARGIN, MOST_STOREYS = 340, 190, 6, 3
WHY = {
    "timetable": "timetable",
    "rule": "rule",
    "window_lock": "a window is open",
    "safety": "safety",
    "by_hand": "changed by hand",
    "plan": "plan of the day",
    "presence": "nobody in",
    "base": "as it was found",
    "guard": "protection limit",
    "lockout": "locked by its plant",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class WaitingAlert:
    """An alert that waits: its letter, what it says, how it is told, the buttons that answer it, its ticks as px."""

    id: int
    letter: str
    text: str
    since: str
    told: str
    answers: tuple[tuple[str, str], ...]
    ticks: tuple["TellingTick", ...]
    is_danger: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TellingTick:
    """When an alert was told, or will be: its place [px], and its time where there is room for it."""

    x: float
    is_ahead: bool
    time: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OnRow:
    """What a zone or a device does now, and because of what."""

    name: str
    does: str
    because: str
    zone_id: str = ""
    is_by_hand: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class TimedRow:
    """A time, what happens or happened at it, and why or how."""

    time: str
    what: str
    why: str
    is_warned: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class QuietRow:
    """A part of the home that has gone quiet, or soon will."""

    id: str
    letter: str
    name: str
    sentence: str
    is_quiet: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomNow:
    """A room on the floor plan: its outline, what it has and what is asked, a letter where something is wrong."""

    name: str
    path: str
    hatch: str
    x: float
    y: float
    measured: str
    asked: str
    is_cooled: bool
    letter: str
    is_old: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RoomsNow:
    """A storey's floor plan with its rooms as they are."""

    name: str
    plan: FloorPlanPicture
    rooms: tuple[RoomNow, ...]
    view_box: str
    width: int
    height: int


@dataclass(frozen=True, slots=True, kw_only=True)
class LiveView:
    """The live page's words and rows."""

    lead: str
    mode: str
    is_looked_after: bool
    waits: tuple[WaitingAlert, ...]
    on: tuple[OnRow, ...]
    next: tuple[TimedRow, ...]
    sent: tuple[TimedRow, ...]
    quiet: tuple[QuietRow, ...]
    unknown: int
    rooms: tuple[RoomsNow, ...]
    status: str
    version: int


def live_view(now: LiveNow, clock: LocalClock) -> LiveView:
    """Return the live page's words."""
    home, waiting = now.home, _open(now)
    letters = {each.alert.cause: _letter(number) for number, each in enumerate(waiting)}
    quiet = _quiet(now, letters, clock)
    told = now.live.told
    heard = f"{now.heard} of {len(now.devices)} heard in their rhythm" if now.devices else "no data received yet"
    mode = home.link.mode
    words = {"off": "not followed: only what comes in is kept", "say": "only says, sends nothing", "send": "sends"}
    link = "" if told.get("is_connected") else f" · {told.get('why') or 'the link is down'}"
    lead = f"{words[mode]} · {heard}{link}"
    if not now.is_looked_after:
        lead = "nobody looks after it: the program that does is starting, or has ended"
    return LiveView(
        lead=lead,
        mode=mode,
        is_looked_after=now.is_looked_after,
        waits=tuple(_wait(each, number, now, clock) for number, each in enumerate(waiting)),
        on=_on(now, clock),
        next=_next(now, clock),
        sent=tuple(_sent(now, command, clock) for command in now.commands if command.kind)[:MOST_SENT],
        quiet=quiet,
        unknown=len(unknown_topics(home, now.topics)),
        rooms=_rooms(now, _rooms_letters(now, quiet, letters)),
        status=_status(now),
        version=now.live.version,
    )


def _status(now: LiveNow) -> str:
    told = now.live.told
    parts = [f"{told.get('messages', 0)} messages since the start", f"{told.get('kept', 0)} readings kept"]
    for key, word in (
        ("known", "known already"),
        ("refused", "refused"),
        ("late", "out of order"),
        ("other_homes", "of other homes"),
        ("unknown", "of unknown senders"),
        ("dropped", "dropped in a flood"),
    ):
        if told.get(key):
            parts.append(f"{told[key]} {word}")
    return ", ".join(parts)


def _open(now: LiveNow) -> list[AlertNow]:
    """Return the alerts that wait, dangers first, then the oldest."""
    rows = [each for each in now.alerts if each.run.is_open]
    return sorted(rows, key=lambda each: (not each.alert.detail.get("is_safety"), each.alert.begun_ms))


def _letter(number: int) -> str:
    return chr(ord("a") + number % 26)


def _wait(each: AlertNow, number: int, now: LiveNow, clock: LocalClock) -> WaitingAlert:
    alert, run = each.alert, each.run
    groups = {group.id: group.name for group in now.home.notification_groups}
    names = list(dict.fromkeys(groups.get(t.group_id, "a group that is gone") for t in run.told))
    told = [f"Told {len(run.told)} time{'s' * (len(run.told) != 1)}" + (f" ({', '.join(names)})" if names else "")]
    if run.to_come:
        first = run.to_come[0]
        minutes = (first.at_ms - now.now_ms) / MS_PER_MIN
        told.append(f"next at {show.clock_now(first.at_ms, clock)}, in {show.duration(minutes)}")
        further = next((t for t in run.to_come if t.is_escalated and groups.get(t.group_id) not in names), None)
        if further is not None:
            told.append(f"{groups.get(further.group_id, '')} from {show.clock_now(further.at_ms, clock)} on")
    if alert.ended_ms is not None:
        told.append("its cause is over")
    answers = [("done", str(alert.detail.get("answer") or "It is done"))]
    answers = [("said", label) for label in alert.detail.get("answers", [])] or answers
    return WaitingAlert(
        id=alert.id,
        letter=_letter(number),
        text=alert.text,
        since=show.clock_now(alert.begun_ms, clock),
        told="; ".join(told) + ".",
        answers=tuple(answers),
        ticks=_tick_places(each, now, clock),
        is_danger=bool(alert.detail.get("is_safety")),
    )


TICK_WIDTH, TICK_MARGIN, TIME_WIDTH = 320.0, 18.0, 40.0


def _tick_places(each: AlertNow, now: LiveNow, clock: LocalClock) -> tuple[TellingTick, ...]:
    """Return where an alert's tellings stand on a line of 320 px, the last of them and every one that has room by its time."""
    tellings = [*each.run.told[-6:], *each.run.to_come[:6]]
    if not tellings:
        return ()
    first = tellings[0].at_ms
    last = max(tellings[-1].at_ms, first + MS_PER_MIN)
    places = [TICK_MARGIN + (TICK_WIDTH - 2 * TICK_MARGIN) * (t.at_ms - first) / (last - first) for t in tellings]
    ticks, free = [], 0.0
    for place, telling in zip(places, tellings, strict=True):
        has_room = place >= free and (telling is tellings[-1] or places[-1] - place >= TIME_WIDTH)
        if has_room:
            free = place + TIME_WIDTH
        time = show.clock_now(telling.at_ms, clock) if has_room else ""
        ticks.append(TellingTick(x=round(place, 1), is_ahead=telling.at_ms > now.now_ms, time=time))
    return tuple(ticks)


def _on(now: LiveNow, clock: LocalClock) -> tuple[OnRow, ...]:
    home = now.home
    rows = [_zone_row(now, zone, clock) for zone in now.zones if home.following(zone.zone)]
    rows += [_run_row(run, clock) for run in now.machines]
    names = part_names(home.command_targets)
    for (target_id, does), command in now.newest.items():
        if does in ("setpoint", "cooling") or command.run.value <= 0 or command.kind == "base":
            continue
        value = "on" if does == "switch" else f"{PERCENT * command.run.value:.0f} %"
        since = show.clock_now(command.at_ms, clock)
        rows.append(OnRow(name=names.get(target_id, "gone"), does=f"{value} since {since}", because=command.run.reason))
    for reading in ("grid_import_w",):
        value_w = now.values.fresh(reading, "", now.now_ms)
        if value_w is not None:
            rows.append(OnRow(name="From the grid", does=f"{value_w:.0f} W", because="as the meter tells"))
    return tuple(rows[:MOST_ON])


def _run_row(run: RunNow, clock: LocalClock) -> OnRow:
    """Return what an appliance does: its stage by the words given to its powers, and how long it goes on."""
    stage = phase_name(run.phase_w, run.appliance.phase_names) or f"{run.power_w:.0f} W"
    progress, since = run.progress, show.clock_now(run.begun_ms, clock)
    if progress is None:
        return OnRow(name=run.appliance.name, does=f"{stage}, since {since}", because=run.why)
    low, high = (show.duration(minutes) for minutes in (progress.low_min, progress.high_min))
    does = f"{stage}, about {show.duration(progress.left_min)} left"
    because = f"since {since}; {low} to {high} left, as {progress.runs} of its past runs went"
    return OnRow(name=run.appliance.name, does=does, because=because)


def _zone_row(now: LiveNow, live: ZoneLive, clock: LocalClock) -> OnRow:
    home, decision = now.home, live.asked.now
    room_c = now.values.fresh("room_temperature", live.zone.room_ids[0], now.now_ms)
    asked = show.temperature(decision.value, home)
    unit = show.temperature_unit(home)
    verb = "asks for"
    if room_c is not None:
        verb = (
            "holds"
            if abs(room_c - decision.value) < 0.5
            else ("warms to" if room_c < decision.value else "rests above")
        )
    cooled = _cooled(now, live)
    if cooled is not None:
        return OnRow(
            name=live.zone.name, does=value_words(home, cooled), because=cooled.run.reason, zone_id=live.zone.id
        )
    until = live.asked.then
    because = f"{WHY.get(decision.claim.kind, decision.claim.kind)}: {decision.claim.reason}"
    if decision.guard is not None:
        because = f"{decision.guard.reason}; {because}"
    if until is not None:
        because += f", until {show.clock_now(until.at_ms, clock)}"
    return OnRow(
        name=live.zone.name,
        does=f"{verb} {asked}{NBSP}{unit}",
        because=because,
        zone_id=live.zone.id,
        is_by_hand=decision.claim.kind == "by_hand",
    )


def _cooled(now: LiveNow, live: ZoneLive) -> KeptCommand | None:
    """Return the command by which a zone's unit was asked to cool, if it was asked that last."""
    for heater_id in now.home.following(live.zone):
        cooled, heated = now.newest.get((heater_id, "cooling")), now.newest.get((heater_id, "setpoint"))
        if cooled is not None and (heated is None or cooled.at_ms > heated.at_ms):
            return cooled
    return None


def _next(now: LiveNow, clock: LocalClock) -> tuple[TimedRow, ...]:
    """Return what is laid for the hours ahead, if nothing changes."""
    home, unit = now.home, show.temperature_unit(now.home)
    rows: list[tuple[int, str, str]] = []
    for zone in now.zones:
        then = zone.asked.then
        if then is not None and home.following(zone.zone):
            what = f"{zone.zone.name} to {show.temperature(then.value, home)}{NBSP}{unit}"
            rows.append((then.at_ms, what, f"{WHY.get(then.claim.kind, '')}: {then.claim.reason}"))
    for start in planned_starts(home, clock, now.now_ms, now.now_ms + AHEAD_MS):
        rows.append((start.at_ms, f"{start.name} starts", WHY["plan"]))
    groups = {group.id: group.name for group in home.notification_groups}
    for each in now.alerts:
        if each.run.to_come:
            telling = each.run.to_come[0]
            who = groups.get(telling.group_id, "a group that is gone")
            rows.append((telling.at_ms, f"{who} told again", each.alert.text))
    rows.sort()
    return tuple(
        TimedRow(time=show.clock_now(at_ms, clock), what=what, why=why) for at_ms, what, why in rows[:MOST_NEXT]
    )


def _sent(now: LiveNow, command: KeptCommand, clock: LocalClock) -> TimedRow:
    names = part_names(now.home.command_targets)
    return TimedRow(
        time=f"{clock.local(command.at_ms):%H:%M:%S}",
        what=f"{names.get(command.run.target_id, 'gone')} {value_words(now.home, command)}",
        why=state_words(command),
        is_warned=command.run.state == "lost",
    )


def value_words(home: Home, command: KeptCommand) -> str:
    """Return what a command asks, in words."""
    if command.does in ("setpoint", "cooling"):
        verb = "cools to" if command.does == "cooling" else "to"
        return f"{verb} {show.temperature(command.run.value, home)}{NBSP}{show.temperature_unit(home)}"
    if command.does == "share":
        return f"to {PERCENT * command.run.value:.0f} %"
    return "on" if command.run.value > 0 else "off"


def state_words(command: KeptCommand) -> str:
    """Return what became of a command, with its delay and its tries."""
    run = command.run
    words = STATE_WORDS[run.state]
    if run.delay_ms is not None:
        words += f" in {run.delay_ms / MS_PER_S:.1f}{NBSP}s"
    if len(run.sent_ms) > 1:
        words += f", sent {len(run.sent_ms)} times"
    return words


def _quiet(now: LiveNow, letters: Mapping[str, str], clock: LocalClock) -> tuple[QuietRow, ...]:
    """Return what has gone quiet, by the letter of its alert if that waits, else by one that comes after those."""
    names = part_names(now.home.devices, now.home.rooms, now.home.appliances)
    rows, number = [], len(letters)
    for each in sorted((d for d in now.devices if d.is_quiet), key=lambda d: d.last_ms):
        minutes = (now.now_ms - each.last_ms) / MS_PER_MIN
        usual = "" if each.rhythm_s is None else f", usually every {show.duration(each.rhythm_s / S_PER_MIN)}"
        letter = letters.get(f"quiet:{each.device_id}")
        if letter is None:
            letter, number = _letter(number), number + 1
        rows.append(
            QuietRow(
                id=each.device_id,
                letter=letter,
                name=names.get(each.device_id, "gone"),
                sentence=f"no data received for {show.duration(minutes)}{usual}; last at {show.moment(each.last_ms, clock, now.home.country)}",
                is_quiet=True,
            )
        )
    for device in now.home.devices:
        sentence = "; ".join(each for each in (_faults(now, device), _battery(now, device, clock)) if each)
        if sentence:
            rows.append(QuietRow(id=device.id, letter="", name=device.name, sentence=sentence, is_quiet=False))
    return tuple(rows[:MOST_QUIET])


DRIFT_WORDS = "drifts away from the others of its room"
WEAK_DBM = -90.0


def _faults(now: LiveNow, device: Device) -> str:
    """Return what is wrong with a sensor's readings and its signal, "" if nothing is."""
    faults: list[SensorFault] = now.live.told.get("sensors", {}).get(device.id, [])
    said = [DRIFT_WORDS if fault == "drift" else FLAG_WORDS[fault] for fault in faults]
    strength_dbm = now.values.fresh("radio_strength", device.id, now.now_ms)
    if strength_dbm is not None and strength_dbm < WEAK_DBM:
        said.append(f"its signal is weak, {strength_dbm:.0f} dBm")
    return "; ".join(said)


LOW_BATTERY_PCT, SOON_MS = 20.0, 30 * MS_PER_DAY


def _battery(now: LiveNow, device: Device, clock: LocalClock) -> str:
    """Return what is to be said of a battery that is low, or will be empty within a month, "" for others."""
    battery, end = now.values.of("battery", device.id), now.batteries.get(device.id)
    if battery is None or not device.is_in_service:
        return ""

    def day(at_ms: int) -> str:
        return show.day_short(clock.local(at_ms).date(), now.home.country)

    if end is not None and end.at_ms - now.now_ms <= SOON_MS:
        late = "much later" if end.late_ms is None else day(end.late_ms)
        return f"battery at {battery.value:.0f} %, empty about {day(end.at_ms)} ({day(end.early_ms)} to {late})"
    return f"battery at {battery.value:.0f} %" if battery.value <= LOW_BATTERY_PCT else ""


def _rooms_letters(now: LiveNow, quiet: tuple[QuietRow, ...], letters: Mapping[str, str]) -> dict[str, str]:
    """Return the letters of rooms: of what has gone quiet in them, then of what rules that wait watch in them."""
    home = now.home
    places = {device.id: device.room_id or "" for device in home.devices}
    found: dict[str, str] = {}
    for row in quiet:
        if row.is_quiet:
            found.setdefault(places.get(row.id, row.id), row.letter)
    for rule in home.rules:
        letter = next((letters[cause] for cause in letters if cause.split(":")[1] == rule.id), None)
        signals = (main_signal(condition) for _, condition in conditions_of(rule, "watch"))
        for subject in (each.subject_id for each in signals if letter and each is not None and each.subject_id):
            found.setdefault(places.get(subject, subject), letter or "")
    return found


def _rooms(now: LiveNow, letters: dict[str, str]) -> tuple[RoomsNow, ...]:
    """Return the storeys that are drawn, with what their rooms have and what is asked of them."""
    home = now.home
    drawn = [room for room in home.rooms if room.is_drawn and room.condition != "outdoors"]
    storeys = list(dict.fromkeys(room.storey_id or "" for room in drawn))[:MOST_STOREYS]
    names = part_names(home.storeys)
    return tuple(
        _storey(now, storey_id, names.get(storey_id, ""), [r for r in drawn if r.storey_id == storey_id], letters)
        for storey_id in storeys
    )


def _storey(now: LiveNow, storey_id: str, name: str, rooms: list[Room], letters: dict[str, str]) -> RoomsNow:
    plan = draw_storey(
        now.home,
        storey_id,
        width=PLAN_WIDTH + 2 * MARGIN_PX,
        height=PLAN_HEIGHT + 2 * MARGIN_PX,
        kinds=(),
        room_ids=[room.id for room in rooms],
        picture_id=f"rooms-{storey_id}",
    )
    left, top = plan.edges_x[0] - plan.left_m, plan.edges_y[0] - plan.top_m
    width = (plan.edges_x[-1] - plan.edges_x[0]) * plan.scale + 2 * PLAN_MARGIN
    height = (plan.edges_y[-1] - plan.edges_y[0]) * plan.scale + 2 * PLAN_MARGIN
    shapes = {shape.id: shape for shape in plan.rooms}
    return RoomsNow(
        name=name,
        plan=plan,
        rooms=tuple(_room(now, r, shapes[r.id].path, shapes[r.id].x, shapes[r.id].y, letters) for r in rooms),
        view_box=f"{left * plan.scale - PLAN_MARGIN:.0f} {top * plan.scale - PLAN_MARGIN:.0f} {width:.0f} {height:.0f}",
        width=round(width),
        height=round(height),
    )


def _hatch(asked: float | None, *, is_cooled: bool) -> str:
    """Return how a room is hatched by what is asked of it, "" where nothing is."""
    if asked is None:
        return ""
    return f"c{cool_hatch_step(asked)}" if is_cooled else f"h{hatch_step(asked)}"


def _room(now: LiveNow, room: Room, path: str, x: float, y: float, letters: dict[str, str]) -> RoomNow:
    home = now.home
    value = now.values.of("room_temperature", room.id)
    zone = next((z for z in now.zones if room.id in z.zone.room_ids), None)
    is_old = value is not None and now.values.fresh("room_temperature", room.id, now.now_ms) is None
    asked = None if zone is None or not home.following(zone.zone) else zone.asked.now.value
    cooled = None if zone is None else _cooled(now, zone)
    if cooled is not None:
        asked = cooled.run.value
    return RoomNow(
        name=room.name,
        path=path,
        hatch=_hatch(asked, is_cooled=cooled is not None),
        x=x,
        y=y,
        measured="" if value is None else show.temperature(value.value, home),
        asked="" if asked is None else show.temperature(asked, home),
        is_cooled=cooled is not None,
        letter=letters.get(room.id, ""),
        is_old=is_old,
    )
