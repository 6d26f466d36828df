"""What is asked turned into commands: written down, sent, confirmed, sent again, given up."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping
from warmeter.core.home.rules import Blinds, Dim, Rule, ShutOff, Switch, TimedRun
from warmeter.core.live.asked_now import AskedValue, command_for
from warmeter.core.live.command_run import CommandRun, after_restart, expected_of, heard, next_step, payload_of, sent
from warmeter.links.link_port import Publish
from warmeter.service.app import App
from warmeter.service.live.shown import ConfirmingSeries
from warmeter.store.live_commands import KeptCommand, KeptFiring
from warmeter.store.live_readings import HeardReading

SAME = 1e-6
EDITED = "edited"  # why a firing ended whose rule was edited or removed
NOT_TOLD_AGAIN = ("confirmed", "unconfirmed", "sent", "waiting", "said", "lost")


@dataclass(frozen=True, slots=True, kw_only=True)
class LostCommand:
    """A command that was not confirmed after all its tries."""

    command: KeptCommand
    mapping: CommandMapping


def taken_up(app: App, home: Home) -> None:
    """Settle the commands that were open when the program ended: what may have gone out and toggles is not sent again."""
    mappings = {mapping.id: mapping for mapping in home.command_mappings}
    for command in app.live_commands.open(home.id):
        mapping = mappings.get(command.run.mapping_id)
        if mapping is not None:
            settled = after_restart(command.run, mapping)
            if settled is not command.run:
                app.live_commands.keep(command.id, settled)


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """What is known where something is asked.

    Parameters
    ----------
    newest : mapping
        The last command of each target and what it does.
    anew : frozenset of str
        Targets that began anew, so that what they had confirmed no longer holds.
    rooms_c : mapping of str to float or None
        By heater: its room's temperature [°C].
    witnesses : mapping of str to float
        By command: what its witness shows now, in the quantity's unit.
    """

    newest: Mapping[tuple[str, str], KeptCommand]
    anew: frozenset[str]
    rooms_c: Mapping[str, float | None]
    witnesses: Mapping[str, float]


def ask(
    app: App, home: Home, wanted: Sequence[AskedValue], known: Known, *, now_ms: int, home_ms: int, is_sent: bool
) -> int:
    """Write down a command for each target that is asked something else than by its last one; return how many.

    Parameters
    ----------
    now_ms, home_ms : int
        Now, by the machine's clock and by the home's [ms UTC].
    is_sent : bool
        Whether it is to be sent, or only said.
    """
    count = 0
    for asked in wanted:
        mapping = command_for(home, asked)
        if mapping is None:
            continue
        before = known.newest.get((asked.target_id, asked.does))
        is_same = asked.target_id not in known.anew
        is_same &= before is not None and abs(before.run.value - asked.value) < SAME
        if asked.is_start and before is not None and before.at_ms < asked.from_ms:
            is_same = False
        if before is not None and is_same and _stands(before, is_sent=is_sent):
            continue
        run = CommandRun(
            mapping_id=mapping.id,
            target_id=asked.target_id,
            value=asked.value,
            reason=asked.reason,
            made_ms=now_ms,
            state="waiting" if is_sent else "said",
            expects=expected_of(
                mapping, asked.value, known.rooms_c.get(asked.target_id), known.witnesses.get(mapping.id)
            ),
        )
        app.live_commands.add(home.id, KeptCommand(id=0, does=asked.does, kind=asked.kind, at_ms=home_ms, run=run))
        count += 1
    return count


def _stands(before: KeptCommand, *, is_sent: bool) -> bool:
    """Return whether a command of the same value makes another one needless."""
    return before.run.state in NOT_TOLD_AGAIN and (before.run.state != "said" or not is_sent)


def carry_on(
    app: App, home: Home, confirming: ConfirmingSeries, shown: Sequence[HeardReading], publish: Publish, now_ms: int
) -> list[LostCommand]:
    """Send what waits, confirm what was heard, give up what was not; return the lost ones."""
    mappings = {mapping.id: mapping for mapping in home.command_mappings}
    lost: list[LostCommand] = []
    for command in app.live_commands.open(home.id):
        mapping = mappings.get(command.run.mapping_id)
        if mapping is None:
            app.live_commands.keep(command.id, replace(command.run, state="overtaken"))
            continue
        run = heard(command.run, mapping, confirming.shown(mapping.id, shown))
        if run is not command.run:
            app.live_commands.keep(command.id, run)
            continue
        step = next_step(run, mapping, now_ms)
        if step == "give up":
            app.live_commands.keep(command.id, replace(run, state="lost"))
            lost.append(LostCommand(command=command, mapping=mapping))
        elif step == "send":
            _send(app, command, run, mapping, publish, now_ms)
    return lost


def _send(
    app: App, command: KeptCommand, run: CommandRun, mapping: CommandMapping, publish: Publish, now_ms: int
) -> None:
    """Send a command once; a toggle is written down as sent before it goes, so that no restart presses it twice."""
    gone = sent(run, mapping, now_ms)
    if mapping.is_toggle:
        app.live_commands.keep(command.id, gone)
    if not publish(mapping.topic, payload_of(mapping, run.value), is_once=mapping.is_toggle):
        if mapping.is_toggle:
            app.live_commands.keep(command.id, run)
    elif not mapping.is_toggle:
        app.live_commands.keep(command.id, gone)


def switched_targets(rule: Rule) -> tuple[str, ...]:
    """Return what a rule's steps switch, each once."""
    steps = (s for s in rule.then if isinstance(s, Switch | TimedRun | ShutOff | Blinds | Dim))
    return tuple(dict.fromkeys(target_id for step in steps for target_id in step.target_ids))


def released(
    home: Home, wanted: Sequence[AskedValue], newest: Mapping[tuple[str, str], KeptCommand], kept: Sequence[KeptFiring]
) -> list[AskedValue]:
    """Return what targets go back to that a rule asked something of, and that nothing asks anything of now.

    Parameters
    ----------
    kept : sequence of KeptFiring
        Firings in order of time.

    Notes
    -----
    The base is the state in which the target was found when the rule fired. Where that was never heard, what was
    switched on goes off; what was switched off stays so. What was shut stays shut until a person opens it, also when
    its rule is edited or removed, and a rule that puts nothing back leaves what it did.
    """
    standing = {(asked.target_id, asked.does) for asked in wanted}
    rules = {rule.id: rule for rule in home.rules}
    found: list[AskedValue] = []
    for (target_id, does), command in newest.items():
        if does in ("setpoint", "cooling") or (target_id, does) in standing or command.kind in ("base", "by_hand"):
            continue
        firing = next((f for f in reversed(kept) if target_id in f.targets and f.at_ms <= command.at_ms), None)
        if firing is None or not _is_put_back(rules.get(firing.rule_id), firing, command):
            continue
        state = firing.found.get(target_id)
        if state is None and command.run.value <= 0:
            continue
        found.append(
            AskedValue(
                target_id=target_id,
                does="share" if does == "share" else "switch",
                value=0.0 if state is None else state,
                kind="base",
                reason=AS_FOUND if state is not None else NOT_KNOWN,
                from_ms=command.at_ms,
            )
        )
    return found


AS_FOUND = "put back as it was found"
NOT_KNOWN = "put back: off, as nothing was received of how it was found"


def _is_put_back(rule: Rule | None, firing: KeptFiring, command: KeptCommand) -> bool:
    """Return whether what a firing switched goes back once nothing asks for it.

    Of a rule that is gone or edited nobody knows any more what it meant by off: it may have shut the water.
    """
    if rule is None or firing.why == EDITED:
        return command.run.value > 0
    target_id = command.run.target_id
    steps = [
        s for s in rule.then if isinstance(s, Switch | TimedRun | ShutOff | Blinds | Dim) and target_id in s.target_ids
    ]
    if any(isinstance(step, ShutOff) for step in steps):
        return False
    is_timed = any(isinstance(step, TimedRun) for step in steps)
    return is_timed or rule.put_back is not None or bool(rule.as_long_as)
