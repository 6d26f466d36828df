"""Acts on the device register: devices, what they are reached by, chains, notes, replacing."""

from dataclasses import replace
from datetime import date
from typing import get_args

from warmeter.core.building.replacing import replaced
from warmeter.core.edits import floor_plan_edits
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Calibration, Command, Device, Identity, Mode, SafetyChain, Way
from warmeter.core.home.document import Home
from warmeter.core.quantity import QUANTITIES
from warmeter.core.sensing.calibration import calibrate as line_of
from warmeter.web.forms import Fields
from warmeter.web.survey.acting import (
    Act,
    Done,
    Reader,
    celsius,
    choice,
    day,
    done_or_refuse,
    maybe,
    number,
    one_of,
    text,
    typed_values,
    whole,
    yes,
)
from warmeter.web.survey.plan_acts import note_add, note_remove, part_remove

POWER = {"mains": "mains", "battery": "battery", "mains_and_battery": "mains with battery", "wired_bus": "wired bus"}
LOCK = {"none": "has none", "off": "off", "on": "on"}
OWN_TIMETABLE = {"none": "keeps none", "off": "has one, off", "running": "has one, running"}
WAYS: tuple[str, ...] = get_args(Way)
STATES = {"open": "open", "wanted": "wanted", "shut": "shut"}
CHAINS = {"leak": "leak", "frost": "frost", "heat": "heat"}


def _devices(home: Home) -> set[str]:
    return {d.id for d in home.devices}


DEVICE: dict[str, Reader] = {
    "name": text(80, 1),
    "kind": choice(floor_plan_edits.DEVICE_LABEL),
    "make_model": text(80),
    "bus": text(80),
    "channel": text(80),
    "power": choice(POWER),
    "battery_new": day,
    "battery_pct": maybe(whole(0, 100)),
    "battery_read_on": day,
    "hold_s": maybe(number(0, 86_400)),
    "guard_c": maybe(celsius(-30, 60)),
    "guard_read": text(80),
    "guard_read_on": day,
    "child_lock": choice(LOCK),
    "is_two_way": yes,
    "drives_id": one_of(lambda home: {h.id for h in home.heaters}),
    "witness_id": one_of(_devices),
    "fed_by_id": one_of(_devices),
    "works_without_internet": yes,
    "works_without_controller": yes,
    "own_timetable": choice(OWN_TIMETABLE),
    "is_held_open": yes,
}


def _device(home: Home, fields: Fields) -> Device:
    return home.device(fields.text("id", least=1, what="The device"))


def _kept(home: Home, device: Device, summary: str) -> Done:
    return Done(replace(home, devices=floor_plan_edits.swapped(home.devices, device)), summary, device.id)


def device_add(home: Home, fields: Fields) -> Done:
    """Write down a device, in a room or in none."""
    kind = fields.choice("kind", floor_plan_edits.DEVICE_LABEL)
    room = fields.text("room")
    done_or_refuse(fields)
    changed = floor_plan_edits.with_device(home, kind, room or None)
    return Done(changed, f"{changed.devices[-1].name} written down", changed.devices[-1].id)


def device_set(home: Home, fields: Fields) -> Done:
    """Type a device's fields."""
    device = _device(home, fields)
    values = typed_values(home, fields, DEVICE)
    if "room_id" in fields.texts:
        key = fields.texts["room_id"] or None
        if key:
            home.room(key)
        if key != device.room_id:
            values |= {"room_id": key, "at": None}
    if "quantities" in fields.texts:
        values["quantities"] = _quantities(fields.texts["quantities"])
    if "address" in fields.texts and fields.text("address") != device.address and not device.identities:
        values["identities"] = (Identity(address=fields.text("address")),)
    changed = replace(device, **values)
    if changed.id in (changed.witness_id, changed.fed_by_id):
        raise HomeError("a device cannot be its own witness or its own switch")
    return _kept(home, changed, f"{changed.name} changed")


def _quantities(typed: str) -> tuple[str, ...]:
    found = tuple(word for word in typed.replace(",", " ").split() if word)
    strange = [word for word in found if word not in QUANTITIES]
    if strange:
        raise HomeError(f"{strange[0]!r} is no quantity; known are {', '.join(sorted(QUANTITIES))}")
    return found


def device_adopt(home: Home, fields: Fields) -> Done:
    """Give a device a new address: a re-adoption, the former ones are kept."""
    device = _device(home, fields)
    address = fields.text("address", least=1, what="The new address")
    one = Identity(address=address, since=fields.day("since"), reason=fields.text("reason", most=400))
    done_or_refuse(fields)
    return _kept(home, replace(device, identities=(*device.identities, one)), f"{device.name} adopted anew")


def way_add(home: Home, fields: Fields) -> Done:
    """Write down a way to command a device."""
    device = _device(home, fields)
    way, state = fields.choice("way", WAYS), fields.choice("state", STATES)
    one = Command(way=way, by=fields.text("by", least=1, what="By whom"), state=state)  # type: ignore[arg-type]
    done_or_refuse(fields)
    return _kept(home, replace(device, commands=(*device.commands, one)), f"{device.name}: a way to command it")


def way_set(home: Home, fields: Fields) -> Done:
    """Say whether a way is wanted, shut or open, or remove it."""
    device, index = _device(home, fields), fields.whole("index", 0, 99)
    done_or_refuse(fields)
    if index >= len(device.commands):
        raise HomeError("this way is not there any more")
    if fields.texts.get("remove"):
        ways = tuple(c for k, c in enumerate(device.commands) if k != index)
    else:
        state = fields.choice("state", STATES)
        done_or_refuse(fields)
        ways = tuple(
            replace(c, state=state) if k == index else c  # type: ignore[arg-type]
            for k, c in enumerate(device.commands)
        )
    return _kept(home, replace(device, commands=ways), f"{device.name}: a way to command it")


def mode_add(home: Home, fields: Fields) -> Done:
    """Write down a mode in the device's own word, and what it does."""
    device = _device(home, fields)
    one = Mode(word=fields.text("word", least=1, what="The word"), does=fields.text("does", most=400))
    done_or_refuse(fields)
    return _kept(home, replace(device, modes=(*device.modes, one)), f"{device.name}: mode {one.word}")


def mode_remove(home: Home, fields: Fields) -> Done:
    """Remove a mode."""
    device, index = _device(home, fields), fields.whole("index", 0, 99)
    modes = tuple(m for k, m in enumerate(device.modes) if k != index)
    return _kept(home, replace(device, modes=modes), f"{device.name}: a mode removed")


def calibrate(home: Home, fields: Fields) -> Done:
    """Write down a calibration: an offset, or what the device and a reference read."""
    device = _device(home, fields)
    if fields.texts.get("raw", "").strip():
        read = celsius(-60, 100)
        true, raw = float(read(home, fields, "true")), float(read(home, fields, "raw"))
        offset = round(line_of([(raw, true)]).offset, 3)
    else:
        offset = fields.number("offset", -50, 50)
    one = Calibration(offset=offset, on=fields.day("on"), reference=fields.text("reference", most=400))
    done_or_refuse(fields)
    return _kept(
        home, replace(device, calibrations=(*device.calibrations, one)), f"{device.name}: offset {offset:+.2f}"
    )


def calibration_remove(home: Home, fields: Fields) -> Done:
    """Remove a calibration."""
    device, index = _device(home, fields), fields.whole("index", 0, 99)
    left = tuple(c for k, c in enumerate(device.calibrations) if k != index)
    return _kept(home, replace(device, calibrations=left), f"{device.name}: a calibration removed")


def chain_add(home: Home, fields: Fields) -> Done:
    """Write down a chain by its first device."""
    kind = fields.choice("kind", CHAINS)
    first = home.device(fields.text("device", least=1, what="The first device"))
    name = fields.text("name") or f"{kind.capitalize()} chain of {first.name}"[:80]
    done_or_refuse(fields)
    chain = SafetyChain(id=new_id(), name=name, kind=kind, device_ids=(first.id,))  # type: ignore[arg-type]
    return Done(replace(home, safety_chains=(*home.safety_chains, chain)), f"{name} written down", chain.id)


def chain_set(home: Home, fields: Fields) -> Done:
    """Add a device to a chain, take one out, or remove the chain."""
    key = fields.text("id", least=1)
    chain = next((c for c in home.safety_chains if c.id == key), None)
    if chain is None:
        raise HomeError("this chain is not there any more")
    ids = chain.device_ids
    if fields.texts.get("out"):
        ids = tuple(d for d in ids if d != fields.texts["out"])
    elif fields.texts.get("device"):
        device = home.device(fields.texts["device"])
        ids = tuple(dict.fromkeys((*ids, device.id)))
    if fields.texts.get("remove") or not ids:
        return Done(
            replace(home, safety_chains=tuple(c for c in home.safety_chains if c.id != key)),
            f"{chain.name} removed",
            "",
        )
    changed = replace(chain, device_ids=ids)
    return Done(
        replace(home, safety_chains=floor_plan_edits.swapped(home.safety_chains, changed)), f"{chain.name} changed", key
    )


def replace_device(home: Home, fields: Fields) -> Done:
    """Put another device in a device's place everywhere, as one change."""
    old = _device(home, fields)
    other = fields.text("by", least=1, what="The device that takes its place")
    on = fields.day("on")
    done_or_refuse(fields)
    if other.startswith("new:"):
        kind = other.removeprefix("new:")
        if kind not in floor_plan_edits.DEVICE_LABEL:
            raise HomeError("choose the new device's kind from the list")
        home = floor_plan_edits.with_device(home, kind, old.room_id, old.at)
        other = home.devices[-1].id
    changed = replaced(home, old.id, other, on or date.today())
    return Done(changed, f"{old.name} replaced by {changed.device(other).name}", other)


ACTS: dict[str, Act] = {
    "add": device_add,
    "set": device_set,
    "adopt": device_adopt,
    "way-add": way_add,
    "way-set": way_set,
    "mode-add": mode_add,
    "mode-remove": mode_remove,
    "calibrate": calibrate,
    "calibration-remove": calibration_remove,
    "note-add": note_add,
    "note-remove": note_remove,
    "chain-add": chain_add,
    "chain-set": chain_set,
    "replace": replace_device,
    "remove": part_remove,
}
