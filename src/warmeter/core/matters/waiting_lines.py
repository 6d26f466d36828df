"""What is not known yet, and what waits: for a log, a fit, a price, a battery."""

from collections.abc import Iterator
from datetime import timedelta

from warmeter.core.matters.evidence import HomeEvidence
from warmeter.core.matters.line import MatterLine
from warmeter.core.wording import day_short

SOON_DAYS, LOW_BATTERY = 60, 20


def waiting_lines(evidence: HomeEvidence) -> Iterator[MatterLine]:
    """Yield what is not known and what waits."""
    yield from _rooms(evidence)
    yield from _machines(evidence)
    yield from _prices(evidence)
    yield from _batteries(evidence)
    yield from _tests_due(evidence)
    yield from _exercises_due(evidence)
    yield from _tasks_due(evidence)


def _rooms(evidence: HomeEvidence) -> Iterator[MatterLine]:
    home = evidence.home
    for room_id, why in evidence.fit_problems:
        yield MatterLine(
            key=f"fit:{room_id}",
            kind="unknown",
            sentence=f"The log of {home.room(room_id).name} does not tell its heat loss",
            why=why,
            minutes=10,
            step="warmup",
            part_id=room_id,
        )
    for room_id in evidence.unfitted:
        yield MatterLine(
            key=f"unfitted:{room_id}",
            kind="waits",
            sentence=f"{home.room(room_id).name} has a log that no fit has read",
            why="Its heat loss, thermal mass and lead times follow from it.",
            minutes=2,
            step="warmup",
            part_id=room_id,
        )
    heated = [room for room in home.rooms if room.condition == "heated"]
    silent = [room for room in heated if room.id not in evidence.logged]
    if silent:
        names = ", ".join(room.name for room in silent[:4]) + (
            f" and {len(silent) - 4} more" if len(silent) > 4 else ""
        )
        yield MatterLine(
            key="silent-rooms",
            kind="unknown",
            sentence=f"{len(silent)} of {len(heated)} heated rooms {'were' if len(silent) > 1 else 'was'} never logged",
            why=f"{names}: loss and lead times are as surveyed only.",
            minutes=10,
            step="import_log",
        )


def _machines(evidence: HomeEvidence) -> Iterator[MatterLine]:
    for machine in evidence.home.appliances:
        if machine.id not in evidence.logged:
            yield MatterLine(
                key=f"silent:{machine.id}",
                kind="waits",
                sentence=f"{machine.name} waits for a log of its power",
                why="A metering plug at 10 s to 60 s over two or three runs.",
                minutes=10,
                step="import_log",
                part_id=machine.id,
            )


def _prices(evidence: HomeEvidence) -> Iterator[MatterLine]:
    home = evidence.home
    tariff = home.newest_tariff
    if tariff is None:
        yield MatterLine(
            key="no-tariff",
            kind="waits",
            sentence="There is no price of electricity",
            why="Without one nothing here has an amount.",
            minutes=5,
            step="tariff",
        )
        return
    ends = tariff.valid_to
    if ends is not None and ends <= evidence.today + timedelta(days=SOON_DAYS):
        has_ended = ends < evidence.today
        yield MatterLine(
            key="tariff-ends",
            kind="wrong" if has_ended else "waits",
            sentence=f"Prices {'ended on' if has_ended else 'are typed only to'} {day_short(ends, home.country)}",
            why="After that the last ones are reckoned with.",
            minutes=20,
            step="tariff",
        )
    if evidence.price_gap:
        yield MatterLine(
            key="price-gap",
            kind="wrong",
            sentence="The tariff has hours without a price",
            why=evidence.price_gap,
            minutes=10,
            step="tariff",
        )


def _batteries(evidence: HomeEvidence) -> Iterator[MatterLine]:
    for device in evidence.home.devices:
        if device.is_in_service and device.battery_pct is not None and device.battery_pct <= LOW_BATTERY:
            chains = [chain.name for chain in evidence.home.safety_chains if device.id in chain.device_ids]
            yield MatterLine(
                key=f"battery:{device.id}",
                kind="danger" if chains else "waits",
                sentence=f"{device.name} is down to {device.battery_pct} % of its battery",
                why=f"The alarm path {chains[0]} goes through it." if chains else "A new one before it falls silent.",
                minutes=5,
                step="devices",
                part_id=device.id,
            )


def _exercises_due(evidence: HomeEvidence) -> Iterator[MatterLine]:
    """Yield the valves that were not seen to work for longer than they should."""
    home, today = evidence.home, evidence.today
    late = [
        d
        for d in home.devices
        if d.is_in_service
        and d.exercise is not None
        and d.exercise.worked_on is not None
        and d.exercise.worked_on + timedelta(days=d.exercise.every_days) < today
    ]
    if late:
        yield MatterLine(
            key="exercise-due",
            kind="waits",
            sentence=f"{late[0].name} {f'and {len(late) - 1} more valves wait' if len(late) > 1 else 'waits'} to be worked",
            why="A valve that is not worked for weeks sticks, most of all over the summer.",
            minutes=2 * len(late),
            step="devices",
            part_id=late[0].id,
        )


def _tasks_due(evidence: HomeEvidence) -> Iterator[MatterLine]:
    """Yield what waits for somebody and is past its day."""
    home, today = evidence.home, evidence.today
    for task in home.tasks:
        if task.done_on is not None or task.due_on is None or task.due_on >= today:
            continue
        chased = f", asked again {len(task.chased_on)} times" if task.chased_on else ""
        yield MatterLine(
            key=f"task-due:{task.id}",
            kind="waits",
            sentence=f"{task.what} was due on {day_short(task.due_on, home.country)}",
            why=f"It waits for {task.asked}{chased}." if task.asked else "Nobody was asked yet.",
            minutes=5,
            step="tasks",
            part_id=task.id,
        )


def _tests_due(evidence: HomeEvidence) -> Iterator[MatterLine]:
    """Yield the tests of fault-current devices and of water's alarm paths whose day has passed."""
    home, today = evidence.home, evidence.today
    for circuit in home.circuits:
        last = max((test.on for test in circuit.trip_tests), default=None)
        if last is not None and last + timedelta(days=home.electrical_practice.trip_every_days) < today:
            yield MatterLine(
                key=f"trip-due:{circuit.id}",
                kind="waits",
                sentence=f"The fault-current device of {circuit.name} waits for its test",
                why=f"It was tested last on {day_short(last, home.country)}.",
                minutes=5,
                step="circuits",
                part_id=circuit.id,
            )
    every = timedelta(days=home.water_practice.test_every_days)
    for chain in home.safety_chains:
        last = max((test.on for test in chain.tests), default=None)
        if chain.kind == "leak" and last is not None and last + every < today:
            yield MatterLine(
                key=f"test-due:{chain.id}",
                kind="waits",
                sentence=f"The alarm path {chain.name} waits for its self-test",
                why=f"It was tested last on {day_short(last, home.country)}; a valve that is never worked sticks.",
                minutes=5,
                step="water",
                part_id=chain.id,
            )
