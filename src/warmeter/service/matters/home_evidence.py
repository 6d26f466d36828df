"""All that the list of what matters looks at, gathered once for a home's revision, logs and fits."""

from datetime import timedelta

from warmeter.core.building.checks.findings import findings_of
from warmeter.core.errors import NotKnowable
from warmeter.core.forecast.tariff_year import first_gap
from warmeter.core.home.document import Home
from warmeter.core.matters.all_lines import home_matters
from warmeter.core.matters.evidence import HomeEvidence, PredictedCold
from warmeter.core.matters.ranking import Matters
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.service.app import App
from warmeter.service.cache import Cache
from warmeter.service.forecast.day_forecasts import day_forecast
from warmeter.service.matters.heat_evidence import climate_year, heated_rooms
from warmeter.service.matters.idle_evidence import idle_hours
from warmeter.service.matters.machine_evidence import night_base, resting_machines, started_machines
from warmeter.service.matters.summary import logged_subjects
from warmeter.service.readings.room_logs import heat_series
from warmeter.service.rules.rule_evidence import evidence_of
from warmeter.service.signatures.standby import home_standby

_EVIDENCE: Cache[HomeEvidence] = Cache(16)


def matters(app: App, home: Home, revision: int) -> Matters:
    """Return what matters in a home now."""
    evidence = home_evidence(app, home, revision)
    return home_matters(evidence, {each.key for each in home.put_aside if each.holds_on(evidence.today)})


def home_evidence(app: App, home: Home, revision: int) -> HomeEvidence:
    """Return what is known of a home; kept until its document, logs, fits or changes by hand are others."""
    imports = app.readings.import_stamp(home.id)
    key = str(app.engine.url), home, revision, imports, repr(app.work.fit_stamp(home.id)), app.as_of_ms(home.id)
    return _EVIDENCE.get(key, lambda: _gathered(app, home, revision))


def _gathered(app: App, home: Home, revision: int) -> HomeEvidence:
    clock, as_of = app.clock(home), app.as_of_ms(home.id)
    today, climate, tariff = clock.local(as_of).date(), climate_year(app, home), home.newest_tariff
    logged = logged_subjects(app, home)
    fits = app.work.fits(home.id)
    heated = [room.id for room in home.rooms if room.condition == "heated"]
    plugs_w = sum(profile.now_w for profile in home_standby(app, home).machines)
    return HomeEvidence(
        home=home,
        today=today,
        findings=tuple(findings_of(home)),
        rule_findings=tuple(rule_findings(home, evidence_of(app, home))),
        cold=_cold(app, home, revision),
        climate=climate,
        rooms=heated_rooms(app, home, climate),
        idle=idle_hours(app, home),
        resting=resting_machines(app, home),
        started=started_machines(app, home),
        night=night_base(app, home, plugs_w),
        fit_problems=tuple((key, fits[key].fit.missing[0]) for key in heated if key in fits and fits[key].fit.missing),
        unfitted=tuple(
            key for key in heated if key not in fits and key in logged and heat_series(app, home.id, key)[0]
        ),
        logged=logged,
        price_gap="" if tariff is None else first_gap(tariff, home.time_zone, clock.day(today).start_ms),
    )


def _cold(app: App, home: Home, revision: int) -> tuple[PredictedCold, ...]:
    """Return the rooms that tomorrow is predicted to leave under their protection limit."""
    on = app.clock(home).local(app.as_of_ms(home.id)).date() + timedelta(days=1)
    try:
        forecast = day_forecast(app, home, revision, on)
    except NotKnowable:
        return ()
    found = []
    for room in forecast.rooms:
        under = room.under
        if under is None:
            continue
        found.append(
            PredictedCold(
                room_id=room.room.id,
                room_name=room.room.name,
                limit_c=under.limit_c,
                lowest_c=under.lowest_c,
                share=under.share,
            )
        )
    return tuple(found)
