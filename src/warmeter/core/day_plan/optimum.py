"""The cheapest plan by mixed-integer programming (HiGHS), with how far it can be from the best (docs/methods I9)."""

from dataclasses import dataclass
from math import exp

import numpy as np

from warmeter.core.arrays import Flags, Floats, Ints
from warmeter.core.day_plan.check import checked
from warmeter.core.day_plan.planned_room import add_room
from warmeter.core.day_plan.problem import Charge, DayPlan, HeatStore, PlannedRun, PlanProblem, SlotLoad
from warmeter.core.day_plan.programme import INFEASIBLE, OPTIMAL, Programme, Terms
from warmeter.core.day_plan.run_search import moved_about

# Between plans of one cost the earlier start is taken: so much a slot.
EARLIER = 1e-7


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundPlan:
    """What the search came to.

    Parameters
    ----------
    plan : DayPlan or None
        None where no plan keeps everything, or none was found in the time.
    is_infeasible : bool
        Whether none can.
    gap : float
        How far its cost can be from the least, as a share of it; 0 is proven.
    """

    plan: DayPlan | None
    is_infeasible: bool
    gap: float


def cheapest_plan(
    problem: PlanProblem, *, seconds: float = 60.0, gap: float = 0.0, is_presolved: bool = True
) -> FoundPlan:
    """Return the cheapest plan of a problem.

    Parameters
    ----------
    seconds : float
        The search ends after so long with the best that it has [s], its runs then moved about for a better one.
    gap : float
        How far from the least is near enough (ratio).
    is_presolved : bool
        Whether the problem is first made smaller; without it the search goes another way, to the same end.
    """
    if any(not allowed_starts(problem, run).size for run in problem.runs):
        return FoundPlan(plan=None, is_infeasible=True, gap=0.0)
    model = Programme()
    needs: Terms = [[] for _ in range(problem.slots)]
    watts: dict[str, Terms] = {}
    starts = {run.key: _add_run(model, problem, run, needs, watts) for run in problem.runs}
    on = {load.key: _add_load(model, problem, load, needs, watts) for load in problem.loads}
    charging = {charge.key: _add_charge(model, problem, charge, needs, watts) for charge in problem.charges}
    heating = {store.key: _add_store(model, problem, store, needs, watts) for store in problem.stores}
    rooms = {room.key: add_room(model, problem.hours, room, needs, watts) for room in problem.rooms}
    battery = _add_battery(model, problem, needs)
    _add_order(model, problem, starts)
    _add_apart(model, problem, starts)
    for limit in problem.limits:
        for slot in range(problem.slots):
            terms = [term for key in limit.members for term in watts.get(key, [[]] * problem.slots)[slot]]
            if terms:
                model.row(terms, -np.inf, limit.limit_w)
    _add_grid(model, problem, needs)
    status, values, left = model.solve(seconds, gap, is_presolved=is_presolved)
    if values is None:
        return FoundPlan(plan=None, is_infeasible=status == INFEASIBLE, gap=np.inf)
    plan = DayPlan(
        starts={key: int(allowed[int(np.argmax(values[columns]))]) for key, (allowed, columns) in starts.items()},
        on={key: np.round(values[columns]) > 0 for key, columns in on.items()},
        charge_kw={
            charge.key: sum(
                (
                    np.round(values[columns]) * kw
                    for kw, columns in zip(_steps(charge), charging[charge.key], strict=True)
                ),
                np.zeros(problem.slots),
            )
            for charge in problem.charges
        },
        store_kw={key: np.clip(values[columns], 0.0, None) for key, columns in heating.items()},
        room_kw={key: values[columns] for key, columns in rooms.items()},
        battery_in_kwh=np.zeros(problem.slots) if battery is None else np.clip(values[battery[0]], 0.0, None),
        battery_out_kwh=np.zeros(problem.slots) if battery is None else np.clip(values[battery[1]], 0.0, None),
    )
    if status == OPTIMAL and gap == 0.0:
        return FoundPlan(plan=plan, is_infeasible=False, gap=0.0)
    better = moved_about(problem, plan, {key: allowed for key, (allowed, _) in starts.items()})
    return FoundPlan(plan=better, is_infeasible=False, gap=_gap(problem, plan, better, left))


def _gap(problem: PlanProblem, plan: DayPlan, better: DayPlan, left: float) -> float:
    """Return how far a better plan can be from the least, where a plan was as near to it as ``left`` (ratio)."""
    cost, less = checked(problem, plan).cost, checked(problem, better).cost
    least = cost - left * abs(cost)
    return max(0.0, less - least) / abs(less) if less else left


def allowed_starts(problem: PlanProblem, run: PlannedRun) -> Ints:
    """Return the slots at which a run may start by itself."""
    last = min(run.latest_end, problem.slots) - run.slots
    allowed = [
        start
        for start in range(run.earliest, last + 1)
        if (run.quiet is None or not run.quiet[start : start + run.slots].any())
        and (run.pinned is None or start == run.pinned)
    ]
    return np.array(allowed, dtype=np.int64)


def _add_run(
    model: Programme, problem: PlanProblem, run: PlannedRun, needs: Terms, watts: dict[str, Terms]
) -> tuple[Ints, Ints]:
    allowed = allowed_starts(problem, run)
    columns = model.variables(allowed.size, 0.0, 1.0, is_whole=True)
    model.row([(c, 1.0) for c in columns.tolist()], 1.0, 1.0)
    own: Terms = [[] for _ in range(problem.slots)]
    for start, column in zip(allowed.tolist(), columns.tolist(), strict=True):
        model.cost[column] += EARLIER * start
        for k in range(run.slots):
            needs[start + k].append((column, float(run.profile_kwh[k])))
            own[start + k].append((column, float(run.peak_w[k])))
    watts[run.key] = own
    return allowed, columns


def _add_load(model: Programme, problem: PlanProblem, load: SlotLoad, needs: Terms, watts: dict[str, Terms]) -> Ints:
    columns = model.variables(problem.slots, 0.0, 1.0, is_whole=True)
    begins = model.variables(problem.slots, 0.0, 1.0, is_whole=True)
    own: Terms = [[] for _ in range(problem.slots)]
    for slot in range(problem.slots):
        is_free = load.earliest <= slot < load.latest_end and not (load.quiet is not None and load.quiet[slot])
        column = int(columns[slot])
        if not is_free:
            model.high[column] = 0.0
        model.cost[column] += EARLIER * slot
        needs[slot].append((column, load.slot_kwh))
        own[slot].append((column, 1000.0 * load.slot_kwh / problem.hours))
        before = [] if slot == 0 else [(int(columns[slot - 1]), 1.0)]
        model.row([(int(begins[slot]), 1.0), (column, -1.0), *before], 0.0, np.inf)
        since = range(max(0, slot - load.min_run + 1), slot + 1)
        model.row([*((int(begins[k]), 1.0) for k in since), (column, -1.0)], -np.inf, 0.0)
        if slot > problem.slots - load.min_run:
            model.high[int(begins[slot])] = 0.0
    model.row([(c, 1.0) for c in columns.tolist()], load.slots, load.slots)
    watts[load.key] = own
    return columns


def _steps(charge: Charge) -> tuple[float, ...]:
    return tuple(sorted(set(charge.steps_kw) - {0.0}))


def _add_charge(
    model: Programme, problem: PlanProblem, charge: Charge, needs: Terms, watts: dict[str, Terms]
) -> list[Ints]:
    steps = _steps(charge)
    columns = [model.variables(problem.slots, 0.0, 1.0, is_whole=True) for _ in steps]
    own: Terms = [[] for _ in range(problem.slots)]
    for slot in range(problem.slots):
        for kw, each in zip(steps, columns, strict=True):
            column = int(each[slot])
            if not charge.earliest <= slot < charge.latest_end:
                model.high[column] = 0.0
            model.cost[column] += EARLIER * slot
            needs[slot].append((column, kw * problem.hours))
            own[slot].append((column, 1000.0 * kw))
        model.row([(int(each[slot]), 1.0) for each in columns], 0.0, 1.0)
    amount = [
        (int(each[slot]), kw * problem.hours)
        for kw, each in zip(steps, columns, strict=True)
        for slot in range(problem.slots)
    ]
    model.row(amount, charge.amount_kwh, np.inf)
    watts[charge.key] = own
    return columns


def _add_store(model: Programme, problem: PlanProblem, store: HeatStore, needs: Terms, watts: dict[str, Terms]) -> Ints:
    power = model.variables(problem.slots, 0.0, store.power_kw)
    water = model.variables(problem.slots, -273.0, 1000.0)
    own: Terms = [[] for _ in range(problem.slots)]
    if store.loss_kw_k > 0:
        decay = exp(-store.loss_kw_k * problem.hours / store.kwh_per_k)
        per_kw = (1 - decay) / store.loss_kw_k
    else:
        decay, per_kw = 1.0, problem.hours / store.kwh_per_k
    for slot in range(problem.slots):
        column, level = int(power[slot]), int(water[slot])
        model.low[level], model.high[level] = float(store.low_c[slot]), float(store.high_c[slot])
        needs[slot].append((column, problem.hours))
        own[slot].append((column, 1000.0))
        given = (1 - decay) * float(store.surroundings_c[slot]) - per_kw * float(store.drawn_kwh[slot]) / problem.hours
        terms = [(level, 1.0), (column, -per_kw * store.efficiency)]
        if slot == 0:
            given += decay * store.start_c
        else:
            terms.append((int(water[slot - 1]), -decay))
        model.row(terms, given, given)
    if store.hygiene_c is not None:
        last = problem.slots - 1 if store.hygiene_by is None else store.hygiene_by
        hot = model.variables(last + 1, 0.0, 1.0, is_whole=True)
        model.row([(c, 1.0) for c in hot.tolist()], 1.0, np.inf)
        for slot in range(last + 1):
            room = store.hygiene_c - float(store.low_c[slot])
            if room > 0:
                model.row([(int(water[slot]), 1.0), (int(hot[slot]), -room)], float(store.low_c[slot]), np.inf)
    watts[store.key] = own
    return power


def _add_battery(model: Programme, problem: PlanProblem, needs: Terms) -> tuple[Ints, Ints] | None:
    battery = problem.battery
    if battery is None:
        return None
    most_in, most_out = battery.charge_kw * problem.hours, battery.discharge_kw * problem.hours
    put = model.variables(problem.slots, 0.0, most_in)
    taken = model.variables(problem.slots, 0.0, most_out)
    level = model.variables(problem.slots, battery.reserve_kwh, battery.capacity_kwh)
    is_in = model.variables(problem.slots, 0.0, 1.0, is_whole=True)
    model.low[int(level[-1])] = max(battery.reserve_kwh, battery.end_kwh)
    for slot in range(problem.slots):
        a, b, c, d = int(put[slot]), int(taken[slot]), int(level[slot]), int(is_in[slot])
        needs[slot] += [(a, 1.0), (b, -1.0)]
        terms = [(c, 1.0), (a, -battery.efficiency_in), (b, 1.0 / battery.efficiency_out)]
        given = battery.start_kwh if slot == 0 else 0.0
        if slot:
            terms.append((int(level[slot - 1]), -1.0))
        model.row(terms, given, given)
        model.row([(a, 1.0), (d, -most_in)], -np.inf, 0.0)
        model.row([(b, 1.0), (d, most_out)], -np.inf, most_out)
    return put, taken


def _add_order(model: Programme, problem: PlanProblem, starts: dict[str, tuple[Ints, Ints]]) -> None:
    for run in problem.runs:
        if not run.after:
            continue
        before = problem.run(run.after)
        own_slots, own = starts[run.key]
        other_slots, other = starts[before.key]
        terms = [(int(c), float(t)) for t, c in zip(own_slots, own, strict=True)]
        terms += [(int(c), -float(t)) for t, c in zip(other_slots, other, strict=True)]
        most = np.inf if run.after_within is None else before.slots + run.after_within
        model.row(terms, before.slots, most)
        # Also start by start, which cuts the search short: not before the other may have ended.
        for t, c in zip(own_slots.tolist(), own.tolist(), strict=True):
            ended = [
                (int(o), -1.0)
                for s, o in zip(other_slots.tolist(), other.tolist(), strict=True)
                if s + before.slots <= t
            ]
            model.row([(c, 1.0), *ended], -np.inf, 0.0)


def _add_apart(model: Programme, problem: PlanProblem, starts: dict[str, tuple[Ints, Ints]]) -> None:
    for group in dict.fromkeys(name for run in problem.runs for name in run.apart):
        taken: Terms = [[] for _ in range(problem.slots)]
        for run in problem.runs:
            if group in run.apart:
                for start, column in zip(starts[run.key][0].tolist(), starts[run.key][1].tolist(), strict=True):
                    for slot in range(start, start + run.slots):
                        taken[slot].append((column, 1.0))
        for terms in taken:
            if len(terms) > 1:
                model.row(terms, -np.inf, 1.0)


def _add_grid(model: Programme, problem: PlanProblem, needs: Terms) -> None:
    cap = np.inf if problem.import_cap_kwh is None else problem.import_cap_kwh
    # Where selling pays more than buying costs, only one of the two goes on at a time.
    pays: Flags = problem.export_price > problem.import_price - 1e-12
    most_in, most_out = _most_bought(problem), _most_sold(problem)
    bought = model.variables(problem.slots, 0.0, cap)
    sold = model.variables(problem.slots, 0.0, np.inf)
    peak = None
    if problem.peak is not None:
        peak = int(model.variables(1, problem.peak.so_far_kw, np.inf)[0])
        model.cost[peak] += problem.peak.price_per_kw
    for slot in range(problem.slots):
        a, b = int(bought[slot]), int(sold[slot])
        model.cost[a] += float(problem.import_price[slot])
        model.cost[b] -= float(problem.export_price[slot])
        given = float(problem.base_kwh[slot] - problem.sun_kwh[slot])
        model.row([(a, 1.0), (b, -1.0), *((c, -v) for c, v in needs[slot])], given, given)
        if pays[slot]:
            is_buying = int(model.variables(1, 0.0, 1.0, is_whole=True)[0])
            model.row([(a, 1.0), (is_buying, -float(most_in[slot]))], -np.inf, 0.0)
            model.row([(b, 1.0), (is_buying, float(most_out[slot]))], -np.inf, float(most_out[slot]))
        if peak is not None and problem.peak is not None and problem.peak.counted[slot]:
            model.row([(a, 1.0), (peak, -problem.hours)], -np.inf, 0.0)


def _most_bought(problem: PlanProblem) -> Floats:
    """Return how much could be bought in each slot if everything drew its most [kWh]: bounds that are tight are solved fast."""
    most = sum(float(run.profile_kwh.max()) for run in problem.runs) + sum(load.slot_kwh for load in problem.loads)
    most += sum(max(charge.steps_kw) * problem.hours for charge in problem.charges)
    most += sum(store.power_kw * problem.hours for store in problem.stores)
    most_rooms = sum((room.most_draw_kw for room in problem.rooms), np.zeros(problem.slots))
    if problem.battery is not None:
        most += problem.battery.charge_kw * problem.hours
    return problem.base_kwh + most + most_rooms * problem.hours


def _most_sold(problem: PlanProblem) -> Floats:
    battery = 0.0 if problem.battery is None else problem.battery.discharge_kw * problem.hours
    return problem.sun_kwh + battery
