"""``warmeter fit``, ``lead``, ``cycles`` and ``cheapest``: the computations on files, without a database."""

import argparse
import json
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np

from warmeter.core.building.heating import full_heat_w
from warmeter.core.building.losses import prior_of
from warmeter.core.building.window_sun import windows_w_m2
from warmeter.core.errors import NotKnowable, ReadingError
from warmeter.core.home.document import Home
from warmeter.core.home.log_subjects import log_subjects
from warmeter.core.home.machines import CYCLES_BY_ITSELF
from warmeter.core.quantity import QUANTITIES
from warmeter.core.readings.bill_table import looks_like_bill, table_of_bill
from warmeter.core.readings.column_proposal import ColumnProposal
from warmeter.core.readings.csvlog import Column, ImportMapping, ReadLog
from warmeter.core.readings.log_proposal import propose_mapping
from warmeter.core.readings.logtable import read
from warmeter.core.readings.record_log import looks_like_records, table_of
from warmeter.core.readings.resample import mean_over_steps, value_at
from warmeter.core.signature.cycles import activity, cycle_features
from warmeter.core.signature.recommending import propose
from warmeter.core.signature.standby_states import KWH_A_YEAR_PER_W
from warmeter.core.signature.tuner import asked_of, handed_over
from warmeter.core.tariff.cheapest_start import cheapest_start, starts_by_cost
from warmeter.core.tariff.prices import prices_between
from warmeter.core.thermal.identify import fit_room
from warmeter.core.thermal.room_fit import RoomFit, RoomLog
from warmeter.core.thermal.simulate import OnOff, compile_rooms
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import J_PER_KWH, S_PER_DAY
from warmeter.core.warmup.lead import lead_from_floor, measure_first
from warmeter.core.weather.sun import clear_sky_w_m2, sun_position
from warmeter.store.codec import home_from_json

Answer = dict[str, Any]
LOOKED_AT = 2_000


def run(options: argparse.Namespace) -> int:
    """Run one command and print its answer."""
    home = read_home(options.home)
    log = read_mapped_log(options, home)
    answer = {"fit": _fit, "lead": _lead, "cycles": _cycles, "cheapest": _cheapest}[options.command](options, home, log)
    if options.json:
        print(json.dumps(answer, indent=1))
    else:
        _print(answer)
    return 1 if answer.get("is_fit_for_use") is False or answer.get("measure_first") else 0


def _print(answer: Answer) -> None:
    """Print an answer a line each; doubts and what is missing as their sentences."""
    for key, value in answer.items():
        if key in ("doubts", "missing"):
            for each in value:
                print(f"{key}: {each['sentence'] if key == 'doubts' else each}")
        else:
            print(f"{key}: {value}")


def read_home(path: Path) -> Home:
    """Return the home of a file; ``ReadingError`` if it is none."""
    try:
        return home_from_json(path.read_bytes())
    except ValueError as error:
        raise ReadingError(f"{path} is no home of Warmeter: {error}") from error


def log_lines(path: Path) -> list[str]:
    """Return a log's lines, those of the table that records or a bill make."""
    text = path.read_text(encoding="utf-8-sig", errors="replace")
    if looks_like_records(text[:65_536]):
        text = table_of(text)
    elif looks_like_bill(text[:65_536].splitlines()):
        text = table_of_bill(text)
    return text.splitlines()


def read_mapped_log(options: argparse.Namespace, home: Home) -> ReadLog:
    """Return the log of a file, its columns by a mapping file or as proposed; what is not sure is told beside."""
    lines = log_lines(options.log)
    proposal = propose_mapping(lines[:LOOKED_AT], log_subjects(home))
    mapping = _mapped(proposal.suggested, options.map) if options.map else proposal.suggested
    if not options.map:
        for each in (
            *(a.sentence for a in proposal.asks),
            *(_assumed(c) for c in proposal.columns if c.asks and c.column.quantity),
        ):
            print(each, file=sys.stderr)
    return read(lines, mapping, LocalClock(home.time_zone))


def _assumed(proposal: ColumnProposal) -> str:
    """Return what is taken of a column though it is not sure."""
    label = QUANTITIES[proposal.column.quantity].label
    return f"“{proposal.column.heading}” is taken for {label}, which is not sure: {proposal.why}"


def _mapped(mapping: ImportMapping, path: Path) -> ImportMapping:
    """Return a plan with what a mapping file says: settings, and columns by heading."""
    try:
        wanted = json.loads(path.read_text(encoding="utf-8"))
        columns = wanted.pop("columns", {})
        changed = [
            Column(index=c.index, heading=c.heading, **columns.get(c.heading, {})) if columns else c
            for c in mapping.columns
        ]
        settings = {k: v for k, v in asdict(mapping).items() if k != "columns"} | wanted
        return ImportMapping(**settings, columns=tuple(changed))
    except (json.JSONDecodeError, TypeError, AttributeError) as error:
        raise ReadingError(f"{path} is no mapping: {error}") from error


def _named(parts: Any, wanted: str, kind: str) -> Any:
    for part in parts:
        if not wanted or wanted in (part.id, part.name):
            return part
    raise ReadingError(f"the home has no {kind} {wanted!r}")


def _series(log: ReadLog, quantity: str, subject: str) -> Any:
    for each in log.series:
        if each.record.quantity == quantity and each.record.subject == subject:
            return each.record, each.readings.in_stored_unit(each.record)
    return None


def room_log_of(log: ReadLog, home: Home, room_id: str) -> RoomLog:
    """Return a room's even log of a file.

    Raises
    ------
    NotKnowable
        If the file holds no room temperature, outdoor temperature or heat.
    """
    inside, outside = _series(log, "room_temperature", room_id), _series(log, "outdoor_temperature", "")
    watts = _series(log, "heat_w", room_id)
    heat = watts or _series(log, "heat_relative", room_id)
    if inside is None or outside is None or heat is None:
        raise NotKnowable(
            "The log does not hold room temperature, outdoor temperature and heat.",
            "Record all three, or map their columns.",
        )
    step = next((s for s in (300, 600, 900, 1800, 3600) if s >= max(inside[0].step_s, heat[0].step_s)), 3600)
    start = int(inside[1].at_ms[0]) // (step * 1000) * step * 1000
    steps = int((int(inside[1].at_ms[-1]) - start) // (step * 1000))
    grid = start + np.arange(steps + 1, dtype=np.int64) * step * 1000
    elevation, _ = sun_position(
        grid[:-1] + step * 500, latitude_deg=home.place.latitude_deg, longitude_deg=home.place.longitude_deg
    )
    days, _ = LocalClock(home.time_zone).local_minutes(grid[:-1])
    return RoomLog(
        step_s=float(step),
        room_c=value_at(inside[1], inside[0], grid),
        outdoor_c=value_at(outside[1], outside[0], grid),
        heat_w=mean_over_steps(heat[1], heat[0], start, float(step), steps),
        clear_sky_w_m2=clear_sky_w_m2(elevation),
        day=days - int(days[0]),
        watts_known=watts is not None,
        windows_w_m2=windows_w_m2(home, home.room(room_id), grid[:-1] + step * 500),
    )


def _fitted(options: argparse.Namespace, home: Home, log: ReadLog) -> tuple[Any, Any, RoomFit]:
    room = _named(home.rooms, options.room, "room")
    heater = home.heater_of(room.id)
    heat_w = full_heat_w(home, room.id) if heater else None
    fit = fit_room(room_log_of(log, home, room.id), prior_of(home, room), full_heat_w=heat_w or 1000.0, plate_w=heat_w)
    return room, heater, fit


def _fit(options: argparse.Namespace, home: Home, log: ReadLog) -> Answer:
    room, _, fit = _fitted(options, home, log)
    answer: Answer = {
        "room": room.name,
        "model": fit.model,
        "watts_known": fit.watts_known,
        "is_fit_for_use": fit.is_fit_for_use,
        "held_back_rmse_k": fit.held_back_rmse_k,
        "mean_rmse_k": fit.mean_rmse_k,
        "rmse_k": fit.rmse_k,
        "slow_time_constant_s": asdict(fit.slow_s),
        "fast_time_constant_s": asdict(fit.fast_s),
        "doubts": [{"kind": d.kind, "sentence": d.sentence, "forbids_use": d.forbids_use} for d in fit.doubts],
    }
    if not fit.is_fit_for_use:
        return answer | {"missing": list(fit.missing)}
    if fit.watts_known:
        answer |= {
            "loss_w_k": asdict(fit.loss_w_k),
            "air_store_j_k": asdict(fit.air_j_k),
            "fabric_store_j_k": asdict(fit.fabric_j_k),
            "unlogged_gain_w": asdict(fit.gain_w),
            "plain_balance_w_k": asdict(fit.balance),
            "more_days": [{"days": days, "half_width": half} for days, half in fit.narrowing],
        }
    return answer


def _lead(options: argparse.Namespace, home: Home, log: ReadLog) -> Answer:
    room, heater, fit = _fitted(options, home, log)
    if heater is None:
        raise NotKnowable(f"{room.name} has no heater.", "Add it to the home.")
    doubts = [{"kind": d.kind, "sentence": d.sentence, "forbids_use": d.forbids_use} for d in fit.doubts]
    if not fit.is_fit_for_use:
        return {"room": room.name, "is_fit_for_use": False, "doubts": doubts, "missing": list(fit.missing)}
    heat_w = full_heat_w(home, room.id) if fit.watts_known else fit.full_heat_w
    control = OnOff(
        full_heat_w=heat_w, band_k=heater.band_k, min_on_steps=heater.min_on_min, min_off_steps=heater.min_off_min
    )
    lead = lead_from_floor(
        compile_rooms(fit.rooms, heat_w, 60.0),
        control,
        floor_c=options.setback_c,
        target_c=options.target_c,
        outdoor_c=options.outdoor_c,
        gain_w=np.array(fit.gains_w),
        hours_of_fall=options.hours,
    )
    is_unknown = measure_first(lead, 60 * options.hours)
    return {
        "room": room.name,
        # A range longer than the gap that it serves holds no setting.
        "lead_min": None if is_unknown else lead.best,
        "lead_low_min": lead.low,
        "lead_high_min": lead.high,
        "lead_cautious_min": None if is_unknown else lead.cautious,
        "measure_first": is_unknown,
        "too_late_share": lead.late_share,
        "is_fit_for_use": True,
        "doubts": doubts,
    }


def _power(options: argparse.Namespace, home: Home, log: ReadLog) -> tuple[Any, Any, float]:
    machine = _named(home.appliances, options.machine, "machine")
    found = _series(log, "electric_w", machine.id)
    if found is None:
        raise NotKnowable(f"The log holds no power of {machine.name}.", "Map its column to electric power.")
    record, readings = found
    step = float(record.step_s or 10)
    steps = int((int(readings.at_ms[-1]) - int(readings.at_ms[0])) / 1000 // step) + 1
    return machine, mean_over_steps(readings, record, int(readings.at_ms[0]), step, steps), step


def _cycles(options: argparse.Namespace, home: Home, log: ReadLog) -> Answer:
    machine, power, step = _power(options, home, log)
    found = activity(power, step)
    day = (np.arange(power.size) * step // S_PER_DAY).astype(np.int64)
    proposal = propose(power, step, found, day)
    sentence = handed_over(power, step, asked_of("finished", found, day, power, step), proposal.setting)
    return {
        "machine": machine.name,
        "standby_w": found.learnt.rest.level_w,
        "standby_kwh_year": found.learnt.rest.level_w * KWH_A_YEAR_PER_W,
        "runs": [
            {
                "start_s": cycle.start * step,
                "end_s": cycle.end * step,
                "is_whole": cycle.is_whole,
                "energy_kwh": cycle_features(power[cycle.start : cycle.end], step).energy_kwh,
            }
            for cycle in found.cycles
        ],
        "threshold_w": proposal.setting.threshold_w,
        "wait_s": proposal.setting.wait_s,
        "start_s": sentence.start_s,
        "missed": sentence.verdict.missed,
        "false": sentence.verdict.false,
        "false_without_start": sentence.without_start.false,
        "late_s": sentence.verdict.late_s,
        "safe_threshold_w": list(proposal.safe_w),
        "safe_wait_s": list(proposal.safe_s),
    }


def _cheapest(options: argparse.Namespace, home: Home, log: ReadLog) -> Answer:
    machine, power, step = _power(options, home, log)
    if machine.kind in CYCLES_BY_ITSELF:
        raise NotKnowable(f"{machine.name} starts and stops by itself.", "Only what a person starts is given a start.")
    whole = activity(power, step).whole
    tariff = home.tariff_on(options.day)
    if not whole or tariff is None:
        raise NotKnowable("A whole run and a tariff are needed.", "Record a run; give the home a tariff.")
    by_energy = sorted(whole, key=lambda r: float(np.nansum(power[r.start : r.end])))
    run = by_energy[len(by_energy) // 2]
    watts = np.nan_to_num(power[run.start : run.end])
    profile = np.bincount(
        (np.arange(watts.size) * step // 60).astype(np.int64), weights=watts * step / J_PER_KWH
    ).astype(np.float64)
    clock = LocalClock(home.time_zone)
    day = clock.day(options.day)
    end_ms = clock.day_of(day.end_ms).end_ms
    prices = prices_between(tariff, clock, day.start_ms, end_ms)
    starts = starts_by_cost(
        prices.by_step,
        profile,
        1,
        earliest_min=machine.earliest_min,
        latest_end_min=machine.latest_end_min,
        start_step_min=machine.start_step_min,
    )
    best = cheapest_start(starts)
    return {
        "machine": machine.name,
        "run_kwh": float(profile.sum()),
        "run_min": int(profile.size),
        "start_min": best.start_min,
        "cost": str(best.cost),
        "dearest_cost": str(max(s.cost for s in starts)),
        "currency": tariff.currency,
    }
