"""Alerts begun and ended: what rules tell and ask, commands that were lost, devices that have gone quiet."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import timedelta
from typing import Any

import numpy as np

from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.rules import Ask, Rule, Tell
from warmeter.core.live.device_health import HeardDevice
from warmeter.core.live.planned_now import PlannedStart
from warmeter.core.live.silence import gone_together
from warmeter.core.quantity import QUANTITIES
from warmeter.core.rule.actions import action_runs_of
from warmeter.core.rule.asking import AskRun
from warmeter.core.rule.conditions import ConditionEvaluator
from warmeter.core.rule.parts import conditions_of
from warmeter.core.rule.ruleset import RuleSetRun
from warmeter.core.rule.run import RuleRun
from warmeter.core.rule.signals import main_signal
from warmeter.core.timegrid import LocalClock
from warmeter.core.truth.track import value_of
from warmeter.core.units import MIN_PER_H, MS_PER_S, celsius_to, temperature_sign
from warmeter.service.app import App
from warmeter.service.live.commanding import LostCommand
from warmeter.store.live_alerts import KeptAlert

MOST_OF_SAFETY = 10_000
TEST_EVERY_DAYS, REMIND_MIN = 7, 10 * MIN_PER_H  # reminded at ten in the morning


class Alerting:
    """Begins each alert once; what was begun before a restart is known to the database."""

    def __init__(self, app: App, home_id: str) -> None:
        self._app, self._home_id = app, home_id
        self._begun: set[tuple[str, int]] = set()
        self._open: set[str] = set()
        self._lasting: dict[str, int] = {}
        self._home: Home
        self._evaluator: ConditionEvaluator | None = None

    def know(self, open_alerts: Sequence[KeptAlert]) -> None:
        """Take note of the alerts that are open: of one cause that waits for an answer no second one is begun."""
        self._open = {alert.cause for alert in open_alerts if alert.detail.get("until_answered")}
        self._lasting = {alert.cause: alert.begun_ms for alert in open_alerts if alert.ended_ms is None}
        self._begun |= {(alert.cause, alert.begun_ms) for alert in open_alerts}

    def begin(self, cause: str, begun_ms: int, text: str, detail: Mapping[str, Any]) -> None:
        """Begin an alert, if it was not begun before, and none of its cause waits for an answer."""
        if (cause, begun_ms) not in self._begun and cause not in self._open:
            self._app.live_alerts.begin(self._home_id, cause, begun_ms, text, detail)
            self._begun.add((cause, begun_ms))

    def of_rules(
        self, home: Home, runs: Mapping[str, RuleRun], found: RuleSetRun, now_ms: int
    ) -> dict[tuple[str, int], int | None]:
        """Begin what rules tell and ask by now; return until when each lasts, None while it does."""
        self._home, self._evaluator, questions = home, found.evaluator, found.questions
        ends: dict[tuple[str, int], int | None] = {}
        for rule in home.rules:
            run = runs.get(rule.id)
            if run is None:
                continue
            for number, step in enumerate(rule.then):
                if isinstance(step, Tell):
                    ends |= self._told(rule, number, step, run, now_ms)
            question, asked = rule.question, questions.get(rule.id)
            if question is not None and asked is not None:
                ends |= self._asked(rule, question, asked, now_ms)
        return ends

    def _words(self, text: str, rule: Rule, at_ms: int) -> str:
        """Return a text with what it leaves to be filled in: the rule, the value that it watches, since when."""
        if "{" not in text:
            return text
        since = f"{self._app.clock(self._home).local(at_ms):%H:%M}"
        filled = text.replace("{rule}", rule.name).replace("{since}", since)
        return filled.replace("{value}", self._value(rule, at_ms)) if "{value}" in filled else filled

    def _value(self, rule: Rule, at_ms: int) -> str:
        signals = (main_signal(condition) for _, condition in conditions_of(rule, "watch"))
        signal = next((each for each in signals if each is not None), None)
        if signal is None or self._evaluator is None:
            return "what it watches"
        value = float(value_of(self._evaluator.heard(signal, rule.limits.stale_s), np.array([at_ms]))[0])
        quantity = QUANTITIES.get(signal.quantity)
        if quantity is None or np.isnan(value):
            return "a value that is not known"
        if quantity.states:
            return quantity.states[int(value)]
        if quantity.unit == "°C":
            unit = self._home.temperature_unit
            return f"{celsius_to(value, unit):.1f} {temperature_sign(unit)}"
        return f"{value:.{quantity.decimals}f} {quantity.unit}"

    def _told(
        self, rule: Rule, number: int, step: Tell, run: RuleRun, now_ms: int
    ) -> dict[tuple[str, int], int | None]:
        ends: dict[tuple[str, int], int | None] = {}
        is_safety = rule.kind == "safety"
        detail = {
            "rule_id": rule.id,
            "group_id": step.group_id,
            "repeat_s": step.repeat_s,
            "most": MOST_OF_SAFETY if is_safety and step.repeat_s else step.most,
            "until_answered": step.until_answered,
            "answer": step.answer,
            "is_safety": is_safety,
        }
        for deed in action_runs_of(rule, run):
            if deed.step is not step or deed.from_ms > now_ms:
                continue
            cause = f"rule:{rule.id}:{number}"
            self.begin(cause, deed.from_ms, self._words(step.text or rule.name, rule, deed.fired_ms), detail)
            # A rule without an end tells once: it is over as it is told.
            until = deed.until_ms if rule.put_back is not None or deed.until_ms is not None else deed.from_ms
            ends[cause, deed.from_ms] = until if until is not None and until <= now_ms else None
        return ends

    def _asked(self, rule: Rule, question: Ask, asked: AskRun, now_ms: int) -> dict[tuple[str, int], int | None]:
        ends: dict[tuple[str, int], int | None] = {}
        detail = {
            "rule_id": rule.id,
            "group_id": question.group_id,
            "answers": [answer.label for answer in question.answers],
            "is_safety": rule.kind == "safety" or question.in_quiet == "send",
        }
        settled = [outcome.at for outcome in asked.outcomes] + list(asked.withdrawn)
        for at_ms in asked.asked:
            if at_ms > now_ms:
                continue
            cause = f"ask:{rule.id}"
            self.begin(cause, at_ms, self._words(question.text or rule.name, rule, at_ms), detail)
            late = at_ms + (question.within_s + question.late_s) * MS_PER_S
            end = min([at for at in settled if at >= at_ms], default=late)
            ends[cause, at_ms] = end if end <= now_ms else None
        return ends

    def of_lost(self, home: Home, lost: Iterable[LostCommand], now_ms: int) -> None:
        """Begin an alert for each command that was given up."""
        names = part_names(home.command_targets)
        for each in lost:
            name = names.get(each.command.run.target_id, "A device")
            tries = len(each.command.run.sent_ms)
            text = (
                f"{name} did not do what was asked: sent {tries} time{'s' * (tries != 1)}, nothing shows that it obeyed"
            )
            self.begin(
                f"command:{each.command.run.target_id}",
                now_ms,
                text,
                {"group_id": home.link.group_id or "", "until_answered": True},
            )

    def of_plan(
        self, home: Home, starts: Iterable[PlannedStart], clock: LocalClock, now_ms: int
    ) -> dict[tuple[str, int], int | None]:
        """Begin an alert for each planned run that a person has to start; return until when each lasts."""
        ends: dict[tuple[str, int], int | None] = {}
        for start in starts:
            cause = f"plan:{start.run_id}"
            text = f"Start {start.name} now: the plan of the day begins it at {clock.local(start.at_ms):%H:%M}"
            self.begin(cause, start.at_ms, text, {"group_id": home.link.group_id or ""})
            ends[cause, start.at_ms] = start.late_ms if start.late_ms <= now_ms else None
        return ends

    def of_silence(
        self, home: Home, devices: Sequence[HeardDevice], link_why: str, now_ms: int
    ) -> dict[tuple[str, int], int | None]:
        """Begin an alert for a link that is down, for devices that fell silent at once, and for each that did alone.

        ``link_why`` is why the link is down, "" while it is not. Of what has one cause one alert is told. Returned is
        until when each lasts.
        """
        names = part_names(home.devices, home.rooms, home.appliances)
        ends: dict[tuple[str, int], int | None] = {}
        together = () if link_why else gone_together(devices)
        if link_why:
            ends |= self._lasts(home, "link", now_ms, f"The link to the devices is down: {link_why}")
        if together:
            text = f"{len(together)} of {len(devices)} devices have gone quiet at once: perhaps the power, or the link to them, is down"
            ends |= self._lasts(home, "quiet:together", now_ms, text)
        among = {each.device_id for each in together}
        for each in devices:
            cause = f"quiet:{each.device_id}"
            is_told = cause in self._lasting
            if each.is_quiet and (is_told or not (link_why or each.device_id in among)):
                text = f"{names.get(each.device_id, 'A device')} has gone quiet"
                ends |= self._lasts(home, cause, each.quiet_from_ms, text)
        return ends

    def of_tests(self, home: Home, clock: LocalClock, since_ms: int, now_ms: int) -> dict[tuple[str, int], int | None]:
        """Begin a reminder for each alarm path that was not tested for a week; return until when each lasts.

        ``since_ms`` is since when the home is followed: a path that was never tested is due a week later.
        """
        ends: dict[tuple[str, int], int | None] = {}
        for chain in home.safety_chains:
            tested = chain.tests[-1].on if chain.tests else None
            due_on = (tested or clock.local(since_ms).date()) + timedelta(days=TEST_EVERY_DAYS)
            due_ms = clock.instant(due_on, REMIND_MIN)
            if now_ms >= due_ms:
                last = "it was never tested" if tested is None else f"it was last tested on {tested:%d %b %Y}"
                ends |= self._lasts(home, f"test:{chain.id}", due_ms, f"{chain.name}: test its alarm path, {last}")
        return ends

    def _lasts(self, home: Home, cause: str, from_ms: int, text: str) -> dict[tuple[str, int], int | None]:
        """Begin an alert that lasts until its cause is over, or go on with the one that is open."""
        begun_ms = self._lasting.get(cause, from_ms)
        self.begin(cause, begun_ms, text, {"group_id": home.link.group_id or ""})
        return {(cause, begun_ms): None}


def end_alerts(
    app: App, open_alerts: Iterable[KeptAlert], ends: Mapping[tuple[str, int], int | None], now_ms: int
) -> None:
    """Keep when the causes of open alerts ended: those of rules that are gone, and devices that are heard again, end now."""
    for alert in open_alerts:
        if alert.ended_ms is not None or alert.cause.startswith("command:"):
            continue
        end = ends.get((alert.cause, alert.begun_ms), now_ms)
        if end is not None:
            app.live_alerts.end(alert.id, end, None)
