"""An appliance that has finished: the setting that tells it, and how it would have told over the log."""

import numpy as np

from warmeter.core.appliance.setting_question import SettingAnswer, answer_of
from warmeter.core.errors import NotKnowable
from warmeter.core.home.conditions.machine_does import MachineDoes
from warmeter.core.home.document import Home
from warmeter.core.nuisances.result import DayBars, FoundNumber, More, NuisanceResult
from warmeter.core.signature.tuner import Setting
from warmeter.core.units import S_PER_MIN
from warmeter.service.app import App
from warmeter.service.rules.replays import replay
from warmeter.service.signatures.machines import machine_record
from warmeter.service.signatures.standby import standby_profile

MISSED_AT_95 = 0.05
MORE = (
    More(
        title="A room",
        text="Where it stands: what a leak there would reach, and what wet loads do to the air.",
        step="survey",
        minutes=3,
    ),
    More(
        title="A week of log more",
        text="More runs: how surely the setting tells them is known better.",
        step="import_log",
        minutes=1,
    ),
)
PRICE = More(
    title="A tariff", text="What a run costs, and in which hours it would cost less.", step="tariff", minutes=5
)


def machine_result(app: App, home: Home, machine_id: str) -> NuisanceResult:
    """Return how a machine's finish is told, replayed on its log."""
    machine = home.appliance(machine_id)
    try:
        record = machine_record(app, home, machine_id)
        answer = answer_of(record, "finished")
        rest = standby_profile(app, home, machine)
    except NotKnowable as why:
        return NuisanceResult(sentence=str(why), is_answered=False)
    runs = record.found.whole
    features = [record.features(run) for run in runs]
    by_day = np.zeros(int(record.day[-1]) + 1)
    for run, found in zip(runs, features, strict=True):
        by_day[record.day[run.start]] += found.energy_kwh
    facts = [
        FoundNumber(label="Runs found", value=len(runs)),
        FoundNumber(
            label="Longest run",
            value=max((run.end - run.start) * record.step_s / S_PER_MIN for run in runs) if runs else None,
            unit="min",
        ),
        FoundNumber(label="Electricity of the runs", value=sum(f.energy_kwh for f in features), unit="kWh", decimals=2),
        FoundNumber(label="At rest", value=rest.now_w, unit="W", decimals=1),
    ]
    bars = DayBars(
        label="Runs, by day", unit="kWh", first=record.first_date, values=tuple(float(each) for each in by_day)
    )
    in_use = answer.in_use
    if in_use is None:
        return NuisanceResult(
            sentence=answer.why or "No setting tells its end yet.", is_answered=False, facts=tuple(facts), bars=bars
        )
    verdict, setting = in_use.verdict, in_use.setting
    told = _told(app, home, machine_id)
    people = home.notification_groups[0].name if home.notification_groups else "Nobody"
    late = "" if verdict.late_s is None else f", {verdict.late_s / S_PER_MIN:.0f} min after the end"
    sentence = (
        f"Tell {people} when {machine.name} has drawn {setting.threshold_w:g} W or less for "
        f"{setting.wait_s / S_PER_MIN:g} min: {verdict.missed} missed, {verdict.false} false in {verdict.asked} runs{late}."
        f"{_free_band(answer, setting)}"
    )
    facts += [
        FoundNumber(label="Finish missed", value=verdict.missed, unit=f"of {verdict.asked}"),
        FoundNumber(
            label="Missed at most, at 95 %", value=_at_most(verdict.asked, verdict.missed), unit="%", decimals=1
        ),
        FoundNumber(label="Told, replayed on the log", value=told, unit="times"),
    ]
    more = MORE if home.newest_tariff else (*MORE, PRICE)
    return NuisanceResult(sentence=sentence, is_answered=True, facts=tuple(facts), bars=bars, more=more)


def _free_band(answer: SettingAnswer, setting: Setting) -> str:
    """Return in words between which thresholds the setting in use may move; "" where it is not the proposed one."""
    best = answer.proposed
    if best is None or best.rounded.setting != setting:
        return ""
    low, high = best.proposal.safe_w
    return f" Any threshold from {low:.3g} to {high:.3g} W does as well."


def _at_most(asked: int, missed: int) -> float | None:
    """Return the share [%] that may be missed at most at 95 % where none of so many was; None where one was."""
    return None if missed or not asked else 100 * (1 - MISSED_AT_95 ** (1 / asked))


def _told(app: App, home: Home, machine_id: str) -> float | None:
    """Return how often the rule of a machine would have told over its log; None without one."""
    rule = next(
        (
            r
            for r in home.rules
            if any(isinstance(c, MachineDoes) and c.appliance_id == machine_id for c in r.conditions)
        ),
        None,
    )
    bounds = app.readings.bounds(home.id)
    if rule is None or bounds is None:
        return None
    found = replay(app, home, bounds[0], bounds[1] + 1)
    return float(len(found.rules[rule.id].rule_run.firings))
