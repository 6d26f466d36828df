"""Alerts told: by the channels of their groups in turn, each telling written down before it is tried."""

import time
from collections.abc import Sequence

from warmeter.core.home.document import Home
from warmeter.core.home.rules import NotificationGroup
from warmeter.core.live.alerts import AlertRun, AlertStep, AlertTerms, Telling, alert_run
from warmeter.core.rule.actions import quiet_of
from warmeter.core.timegrid import LocalClock
from warmeter.core.units import MS_PER_MIN, MS_PER_S
from warmeter.service.app import App
from warmeter.service.live.delivery import Delivery, sent_by
from warmeter.store.live_alerts import KeptAlert, KeptTelling

PAGE = "page"  # every group is told on the page too
MISSED_MS = 10 * MS_PER_MIN
TRYING = "trying"
MOST_STEPS = 6


def group_of(home: Home, group_id: str) -> NotificationGroup | None:
    """Return a group by id, None if it is gone."""
    return next((group for group in home.notification_groups if group.id == group_id), None)


def alert_terms(home: Home, clock: LocalClock, alert: KeptAlert) -> AlertTerms:
    """Return how an alert is told: its group, then those who are told next if nobody answers."""
    detail = alert.detail
    steps: list[AlertStep] = []
    after_ms, group = 0, group_of(home, str(detail.get("group_id", "")))
    while group is not None and len(steps) < MOST_STEPS and all(step.group_id != group.id for step in steps):
        quiet = quiet_of(group, clock, is_safety=bool(detail.get("is_safety")))
        steps.append(AlertStep(group_id=group.id, after_ms=after_ms, quiet=quiet))
        after_ms += group.next_after_s * MS_PER_S
        group = None if group.next_group_id is None else group_of(home, group.next_group_id)
    repeat_s = detail.get("repeat_s")
    return AlertTerms(
        steps=tuple(steps),
        repeat_ms=None if repeat_s is None else int(repeat_s) * MS_PER_S,
        most=int(detail.get("most", 1)),
        until_answered=bool(detail.get("until_answered")),
    )


def run_of(app: App, home: Home, alert: KeptAlert, now_ms: int, ahead_ms: int = 0) -> AlertRun:
    """Return what becomes of an alert up to now [ms, home], and what is to come within so long."""
    answers = app.live_alerts.answers([alert.id]).get(alert.id, [])
    terms = alert_terms(home, app.clock(home), alert)
    return alert_run(alert.begun_ms, alert.ended_ms, terms, answers, now_ms=now_ms, ahead_ms=ahead_ms)


def tell_due(app: App, home: Home, alert: KeptAlert, now_ms: int, by: Delivery) -> None:
    """Tell an alert's groups what is due and was not told yet.

    Notes
    -----
    Of what fell due while nobody looked only the last is told. A telling that was written down and not ended, because
    the program ended in between, is tried again: somebody told twice is better than nobody.
    """
    run = run_of(app, home, alert, now_ms)
    tried = _tried(app, alert)
    for step in {telling.group_id for telling in run.told}:
        mine = [telling for telling in run.told if telling.group_id == step]
        for telling in mine:
            before = tried.get((telling.group_id, telling.at_ms), [])
            if _is_told(before):
                continue
            is_past = now_ms - telling.at_ms > MISSED_MS and not before
            if is_past and (telling is not mine[-1] or _is_over(alert)):
                _missed(app, alert, telling, by)
                continue
            _deliver(app, home, alert, telling, by)
    if run.closed_ms is None or alert.closed_ms is not None:
        return
    # It stays open until everybody was told: what a killed process was telling is told again.
    written = _tried(app, alert)
    if all(_is_told(written.get((telling.group_id, telling.at_ms), [])) for telling in run.told):
        app.live_alerts.end(alert.id, alert.ended_ms, run.closed_ms)


def _tried(app: App, alert: KeptAlert) -> dict[tuple[str, int], list[KeptTelling]]:
    """Return what was written down of an alert's tellings, by group and time."""
    found: dict[tuple[str, int], list[KeptTelling]] = {}
    for each in app.live_alerts.tellings([alert.id]):
        found.setdefault((each.group_id, each.at_ms), []).append(each)
    return found


def _is_told(written: Sequence[KeptTelling]) -> bool:
    """Return whether a telling was written down and ended."""
    return bool(written) and all(each.state != TRYING for each in written)


def _deliver(app: App, home: Home, alert: KeptAlert, telling: Telling, by: Delivery) -> None:
    group = group_of(home, telling.group_id)
    if group is None:
        return
    if by.senders is None:
        _tell(app, home, alert, telling, group, by)
        return
    is_loud = group.loudness == "alarm" or bool(alert.detail.get("is_safety"))
    key = alert.id, telling.group_id, telling.at_ms

    def send() -> None:
        # It may have been told between the look and now.
        if not _is_told(_tried(app, alert).get((telling.group_id, telling.at_ms), [])):
            _tell(app, home, alert, telling, group, by)

    by.senders.deliver(key, send, is_loud=is_loud)


def _is_over(alert: KeptAlert) -> bool:
    """Return whether nobody need be told any more: its cause has ended, and it was no danger and waits for no answer."""
    detail = alert.detail
    return alert.ended_ms is not None and not detail.get("is_safety") and not detail.get("until_answered")


def _missed(app: App, alert: KeptAlert, telling: Telling, by: Delivery) -> None:
    """Write down a telling that fell due while nobody looked, and was overtaken by a later one."""
    if app.live_alerts.claim_telling(alert.id, telling.group_id, PAGE, telling.at_ms, by.now_ms()):
        app.live_alerts.keep_telling(
            alert.id,
            telling.group_id,
            PAGE,
            telling.at_ms,
            state="missed",
            delay_ms=None,
            why="Warmeter was not running",
        )


def _tell(app: App, home: Home, alert: KeptAlert, telling: Telling, group: NotificationGroup, by: Delivery) -> None:
    app.live_alerts.claim_telling(alert.id, group.id, PAGE, telling.at_ms, by.now_ms())
    addresses = app.live_homes.addresses(home.id)
    for channel in group.channels:
        app.live_alerts.claim_telling(alert.id, group.id, channel.id, telling.at_ms, by.now_ms())
        begun = time.monotonic()
        why = sent_by(home, group, channel, addresses.get(channel.id, ""), message_of(home, alert), by)
        delay_ms = round((time.monotonic() - begun) * MS_PER_S)
        app.live_alerts.keep_telling(
            alert.id,
            group.id,
            channel.id,
            telling.at_ms,
            state="down" if why else "told",
            delay_ms=None if why else delay_ms,
            why=why,
        )
        if not why and not group.tells_all:
            break
    app.live_alerts.keep_telling(
        alert.id, group.id, PAGE, telling.at_ms, state="told", delay_ms=0, why="again" if telling.is_again else ""
    )


def message_of(home: Home, alert: KeptAlert) -> str:
    """Return the words of an alert."""
    return f"{home.name}: {alert.text}"
