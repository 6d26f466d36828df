"""What can be done on the signatures page, one act a form: read, change, and a sentence for the revision."""

from collections.abc import Mapping
from dataclasses import replace

from warmeter.core.edits import cycle_labels
from warmeter.core.edits.home_edits import with_appliance
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.machines import Appliance, Asking, ToldSetting
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN
from warmeter.web import format as show
from warmeter.web.forms import Fields
from warmeter.web.signatures.words import KINDS, TELLS
from warmeter.web.survey.acting import (
    Act,
    Done,
    all_typed_values,
    choice,
    done_or_refuse,
    maybe,
    text,
    typed_values,
    yes,
)

_SPAN = "span"


def _machine(home: Home, fields: Fields) -> Appliance:
    return home.appliance(fields.texts.get("machine", ""))


def span_text(span: cycle_labels.Span) -> str:
    """Return a stretch as forms and addresses carry it."""
    return f"{span[0]}_{span[1]}"


def span_of(typed: str) -> cycle_labels.Span:
    """Return a stretch [ms UTC] that a form or an address carries; ``HomeError`` if it names none."""
    first, _, last = typed.partition("_")
    if not (first.isdecimal() and last.isdecimal() and int(first) < int(last)):
        raise HomeError("this form names no cycle")
    return int(first), int(last)


def _when(home: Home, at_ms: int) -> str:
    clock = LocalClock(home.time_zone)
    return f"{show.day_short(clock.local(at_ms).date(), home.country)} {show.clock_now(at_ms, clock)}"


def _tells(fields: Fields) -> Asking:
    asked = fields.choice("tells", TELLS)
    done_or_refuse(fields)
    return next(t for t in TELLS if t == asked)


def _use(home: Home, fields: Fields) -> Done:
    machine, tells = _machine(home, fields), _tells(fields)
    setting = ToldSetting(
        tells=tells,
        threshold_w=fields.number("threshold_w", 0, 50_000, "W"),
        wait_s=60 * fields.number("wait_min", 0, 10_080, "min"),
        hysteresis_w=fields.number("hysteresis_w", 0, 5000, "W", default=0.0),
    )
    done_or_refuse(fields)
    words = f"{setting.threshold_w:g} W for {setting.wait_s / 60:g} min"
    return Done(cycle_labels.with_setting(home, machine.id, setting), f"{machine.name} {TELLS[tells]}: {words}")


def _forget(home: Home, fields: Fields) -> Done:
    machine, tells = _machine(home, fields), _tells(fields)
    return Done(
        cycle_labels.without_setting(home, machine.id, tells), f"{machine.name}: nothing tells that it {TELLS[tells]}"
    )


def _bound(home: Home, fields: Fields) -> Done:
    """Move one end of a cycle to a minute of the strip in view."""
    machine, span = _machine(home, fields), span_of(fields.texts.get(_SPAN, ""))
    since = fields.whole("since_ms", 0, 2**53)
    at = since + round(fields.number("at_min", -1e7, 1e7) * MS_PER_MIN)
    done_or_refuse(fields)
    moved = (at, span[1]) if fields.texts.get("edge") == "start" else (span[0], at)
    if moved[1] <= moved[0]:
        raise HomeError("a cycle must end after it starts")
    return _one_cycle(home, machine, span, moved)


def _one_cycle(home: Home, machine: Appliance, old: cycle_labels.Span, new: cycle_labels.Span) -> Done:
    programme = _programme_at(machine, old)
    cleared = cycle_labels.without_cycle(home, machine.id, old) if not _overlap(old, new) else home
    return Done(
        cycle_labels.with_cycle(cleared, machine.id, new, programme),
        f"{machine.name}: cycle of {_when(home, new[0])} to {_when(home, new[1])}",
        at=span_text(new),
        fold=f"cycle-{machine.id}-{old[1] if new[1] == old[1] else old[0]}",
    )


def _overlap(a: cycle_labels.Span, b: cycle_labels.Span) -> bool:
    return a[0] < b[1] and b[0] < a[1]


def _programme_at(machine: Appliance, span: cycle_labels.Span) -> str:
    return next((m.programme for m in reversed(machine.marks) if (m.start_ms, m.end_ms) == span), "")


def _typed_span(home: Home, fields: Fields) -> cycle_labels.Span:
    """Return a stretch typed as two dates with times on the home's clock."""
    clock, ends = LocalClock(home.time_zone), []
    for end in ("start", "end"):
        on, minute = fields.day(f"{end}_day"), fields.clock(f"{end}_time")
        if on is None:
            fields.errors[f"{end}_day"] = "A date is missing here"
            continue
        ends.append(clock.instant(on, minute))
    done_or_refuse(fields)
    if ends[1] <= ends[0]:
        raise HomeError("a cycle must end after it starts")
    return ends[0], ends[1]


def _retype(home: Home, fields: Fields) -> Done:
    machine, span = _machine(home, fields), span_of(fields.texts.get(_SPAN, ""))
    return _one_cycle(home, machine, span, _typed_span(home, fields))


def _add(home: Home, fields: Fields) -> Done:
    machine, span = _machine(home, fields), _typed_span(home, fields)
    words = f"{machine.name}: cycle of {_when(home, span[0])} to {_when(home, span[1])} added"
    return Done(cycle_labels.with_cycle(home, machine.id, span), words, at=span_text(span))


def _none(home: Home, fields: Fields) -> Done:
    machine, span = _machine(home, fields), span_of(fields.texts.get(_SPAN, ""))
    words = f"{machine.name}: no cycle at {_when(home, span[0])}"
    return Done(cycle_labels.without_cycle(home, machine.id, span), words, at="")


def _split(home: Home, fields: Fields) -> Done:
    machine, span = _machine(home, fields), span_of(fields.texts.get(_SPAN, ""))
    clock, minute = LocalClock(home.time_zone), fields.clock("time")
    done_or_refuse(fields)
    days = {clock.local(at).date() for at in span}
    inside = [at for day in days if span[0] < (at := clock.instant(day, minute)) < span[1]]
    if not inside:
        raise HomeError(f"a cycle can be split only between {_when(home, span[0])} and {_when(home, span[1])}")
    split = cycle_labels.with_split(home, machine.id, span, inside[0], _programme_at(machine, span))
    return Done(split, f"{machine.name}: cycle split at {_when(home, inside[0])}", at=span_text((span[0], inside[0])))


def _join(home: Home, fields: Fields) -> Done:
    machine, span = _machine(home, fields), span_of(fields.texts.get(_SPAN, ""))
    whole = span[0], span_of(fields.texts.get("next", ""))[1]
    joined = cycle_labels.with_cycle(home, machine.id, whole, _programme_at(machine, span))
    return Done(joined, f"{machine.name}: cycles from {_when(home, whole[0])} on are one", at=span_text(whole))


def _name(home: Home, fields: Fields) -> Done:
    machine, span = _machine(home, fields), span_of(fields.texts.get(_SPAN, ""))
    programme = fields.text("programme", most=80, what="The programme")
    done_or_refuse(fields)
    named = cycle_labels.with_cycle(home, machine.id, span, programme)
    words = f"{machine.name}, cycle of {_when(home, span[0])} named {programme}" if programme else "name taken away"
    return Done(named, words, at=span_text(span))


def _as_found(home: Home, fields: Fields) -> Done:
    machine, span = _machine(home, fields), span_of(fields.texts.get(_SPAN, ""))
    words = f"{machine.name}: cycles about {_when(home, span[0])} as they were found"
    return Done(cycle_labels.as_found(home, machine.id, span), words, at="")


def _phase(home: Home, fields: Fields) -> Done:
    machine = _machine(home, fields)
    name = fields.text("name", most=80, what="The name")
    low, high = fields.number("low_w", 0, 50_000, "W"), fields.number("high_w", 0, 50_000, "W")
    done_or_refuse(fields)
    words = f"{machine.name}: phases of {low:g} to {high:g} W are called {name or 'nothing'}"
    return Done(cycle_labels.with_phase_name(home, machine.id, name, low, high), words)


def _count_anew(home: Home, fields: Fields) -> Done:
    """Count run time, starts and energy from the end of the log on, or again from its first reading."""
    machine, at = _machine(home, fields), fields.whole("at_ms", 0, 2**53, default=0)
    done_or_refuse(fields)
    words = (
        f"{machine.name}: counted from {_when(home, at)} on"
        if at
        else f"{machine.name}: counted from its first reading"
    )
    return Done(with_appliance(home, replace(machine, counted_since_ms=at or None)), words)


_READERS = {
    "name": text(80, least=1),
    "kind": choice(KINDS),
    "loses_clock": maybe(yes),
    "cools_down": maybe(yes),
    "locks_door": maybe(yes),
    "restarts_by_hand": maybe(yes),
}


def _change(home: Home, fields: Fields) -> Done:
    machine = _machine(home, fields)
    changed = replace(machine, **typed_values(home, fields, _READERS))
    return Done(with_appliance(home, changed), f"{changed.name}: {KINDS[changed.kind]}")


def _new(home: Home, fields: Fields) -> Done:
    values = all_typed_values(home, fields, {n: _READERS[n] for n in ("name", "kind")})
    machine = Appliance(id=new_id(), **values)
    return Done(replace(home, appliances=(*home.appliances, machine)), f"{machine.name} added", at=machine.id)


ACTS: Mapping[str, Act] = {
    "use": _use,
    "forget": _forget,
    "bound": _bound,
    "retype": _retype,
    "add": _add,
    "none": _none,
    "split": _split,
    "join": _join,
    "name": _name,
    "as-found": _as_found,
    "phase": _phase,
    "count-anew": _count_anew,
    "change": _change,
    "new": _new,
}
