"""The sheet as ready strings."""

from dataclasses import dataclass

from warmeter.core.explain.settings_sheet import FinishLine, HeatingStart, RunStart, SetbackSaving, SettingsSheet
from warmeter.core.forecast.day_forecast import DayForecast
from warmeter.core.units import MIN_PER_DAY
from warmeter.core.warmup.lead import Lead
from warmeter.web import format as show
from warmeter.web.receiver_words import fields_words, setpoint_words
from warmeter.web.signatures.words import setting_sentence


@dataclass(frozen=True, slots=True)
class SheetSetting:
    """One setting with its reason."""

    where: str
    key: str
    value: str
    type_in: str
    reason: str
    rounding: str


@dataclass(frozen=True, slots=True)
class SheetView:
    """The sheet."""

    title: str
    starts: list[SheetSetting]
    finishes: list[SheetSetting]
    runs: list[SheetSetting]
    savings: list[str]
    weather: str


def sheet_view(sheet: SettingsSheet, forecast: DayForecast) -> SheetView:
    """Return a day's sheet."""
    return SheetView(
        title=show.day_long(forecast.day.date, forecast.home.country),
        starts=[_start(forecast, s) for s in sheet.starts],
        finishes=[_finish(f) for f in sheet.finishes],
        runs=[_run(forecast, r) for r in sheet.runs],
        savings=[_saving_words(saving, forecast.home.currency) for saving in sheet.savings],
        weather=forecast.outdoor.origin,
    )


def _saving_words(saving: SetbackSaving, currency: str) -> str:
    """Return what setbacks save; money and energy may go different ways where the hours have different prices."""
    against = "against holding the highest setpoint all day"
    energy = f"{show.number(abs(saving.kwh.value), 1)} kWh of {saving.carrier}"
    use = "save" if saving.kwh.value >= 0 else "take"
    if saving.cost is None:
        where = "Tariff" if saving.carrier == "electricity" else "Survey, Heating"
        return (
            f"The setbacks {use} {energy} on a day like this, {against}; {saving.carrier} has no price yet: type it under "
            f"{where}."
        )
    saves_money = saving.cost.value >= 0
    ends = (saving.cost.low, saving.cost.high) if saves_money else (-saving.cost.high, -saving.cost.low)
    money, low, high = (show.money(x, currency) for x in (abs(saving.cost.value), *ends))
    told = f"The setbacks {'save' if saves_money else 'cost'} {money} on a day like this ({low} to {high})"
    if saves_money and use == "save":
        return f"{told} and {energy}, {against}."
    joined = "and" if saves_money == (use == "save") else "though they"
    return f"{told}, {joined} {use} {energy}, {against}."


def _lead_span(lead: Lead) -> str:
    return show.lead_span(show.duration(lead.low or 0), None if lead.high is None else show.duration(lead.high))


def _start(forecast: DayForecast, start: HeatingStart) -> SheetSetting:
    home, unit = forecast.home, show.temperature_unit(forecast.home)
    asked = f"{show.temperature(start.block.setpoint_c, home)} {unit}"
    wanted = setpoint_words(start.typed) or asked
    due = show.clock_time(start.block.start_min)
    if start.measure_first:
        return SheetSetting(
            start.room.zone.name,
            f"{start.room.zone.id}.{start.block.index}",
            "measure first",
            f"no start is printed for {wanted} at {due}; hold, or set back by little, until it is measured",
            f"As far as is known of {start.room.room.name} the lead time is {_lead_span(start.lead)}: that is longer than the setback period it "
            "serves. Log its temperature, outdoors and its heater for two weeks with nights set back by "
            f"{show.difference(2, home, 0)} {show.difference_unit(home)} or more.",
            "",
        )
    if start.start_min is None or start.lead.best is None:
        return SheetSetting(
            start.room.zone.name,
            f"{start.room.zone.id}.{start.block.index}",
            "not reached in time" if start.lead.reach_c is None else "heater too small",
            f"hold {wanted}, or let it fall less",
            f"12 h of full heat do not bring {wanted} by {due}."
            if start.lead.reach_c is None
            else f"At full heat for ever it would hold {show.temperature(start.lead.reach_c, home)} {unit} in this weather: no start "
            f"brings {wanted} by {due}. Ask less, or see to a larger heater or a smaller loss.",
            "",
        )
    evening = " the evening before" if start.day_before else ""
    reason = (
        f"{start.block.level_name} {wanted} at {due}: about {show.duration(start.lead.best)} of lead time, "
        f"{_lead_span(start.lead)}; enough in 80 % of outcomes: {show.duration(start.exact_min or 0)}."
    )
    if len(start.room.zone.room_ids) > 1:
        reason += f" {start.room.room.name} needs it first of this zone's rooms."
    if asked != wanted:
        reason += f" The timetable asks {asked}; the heater's own step makes it {wanted}."
    for lost in start.typed.lost:
        reason += f" Cannot be held by {start.typed.receiver.name}: {lost}"
    rounding = f"Rounded earlier to the heater's {start.room.heater.step_min} min"
    if start.rounding_cost is not None:
        cost = show.money(start.rounding_cost, home.currency, 2, is_signed=True)
        rounding += f": margin and rounding change the day's cost by {cost} against the best estimate"
    return SheetSetting(
        start.room.zone.name,
        f"{start.room.zone.id}.{start.block.index}",
        show.clock_time(start.start_min),
        f"set {_typed(start)} from {show.clock_time(start.start_min)}{evening}",
        reason,
        rounding + ".",
    )


def _typed(start: HeatingStart) -> str:
    """Return what is set: the setpoint, with its mode where there are modes; on, where a receiver only switches."""
    if start.typed.setpoint is None:
        return f"{start.typed.receiver.name} on"
    return fields_words(start.typed) if start.typed.receiver.has_modes else setpoint_words(start.typed)


def _finish(line: FinishLine) -> SheetSetting:
    handed, verdict = line.sentence, line.sentence.verdict
    setting = handed.setting
    reason = (
        f"Judged as it is typed, over {verdict.asked} runs recorded: {verdict.missed} messages missed, {verdict.false} sent too early, "
        f"{'–' if verdict.late_s is None else show.duration(verdict.late_s / 60)} after the end."
    )
    if handed.start_s:
        reason += (
            f" On a plug that knows no start duration its message would have come {handed.without_start.false} times too early "
            f"and been missed {handed.without_start.missed} times."
        )
    return SheetSetting(
        line.record.appliance.name,
        line.record.appliance.id,
        f"{show.number(setting.threshold_w, 0)} W, {show.number(setting.wait_s / 60, 0)} min",
        setting_sentence(f"the {line.record.appliance.name.lower()}", "finished", setting, handed.start_s),
        reason,
        f"Rounded from {show.number(line.exact.threshold_w, 1)} W and {show.number(line.exact.wait_s / 60, 1)} min to the plug's steps.",
    )


def _run(forecast: DayForecast, run: RunStart) -> SheetSetting:
    currency, schedule = forecast.home.currency, run.schedule
    at = show.clock_time(schedule.cheapest.start_min % MIN_PER_DAY)
    next_day = " next day" if schedule.cheapest.start_min >= 1440 else ""
    planned = schedule.planned.start_min
    return SheetSetting(
        run.record.appliance.name,
        f"start.{run.record.appliance.id}",
        at,
        f"start the run at {at}{next_day}",
        f"{show.money(schedule.cheapest.cost, currency)} a run; planned now {show.clock_time(planned % MIN_PER_DAY)} for "
        f"{show.money(schedule.planned.cost, currency)}, most expensive {show.clock_time(schedule.dearest.start_min % MIN_PER_DAY)} "
        f"for {show.money(schedule.dearest.cost, currency)}.",
        f"Starts every {run.record.appliance.start_step_min} min between "
        f"{show.clock_time(run.record.appliance.earliest_min)} and the latest end {show.clock_time(run.record.appliance.latest_end_min % MIN_PER_DAY or 1440)} were tried.",
    )
