"""All checks of all rules of a home."""

from warmeter.core.home.document import Home
from warmeter.core.rule.checks import acting_checks, asking_checks, people_checks, timetable_checks, watch_checks
from warmeter.core.rule.checks.rule_finding import NO_EVIDENCE, Case, Evidence, RuleFinding
from warmeter.core.rule.ruleset import in_order
from warmeter.core.rule.signals import offered

CHECKS = (
    watch_checks.urgent_but_late,
    acting_checks.wrong_thing_shut,
    people_checks.alarm_swallowed,
    watch_checks.never_or_always,
    watch_checks.never_heard,
    timetable_checks.level_never_set,
    acting_checks.contradiction,
    timetable_checks.against_timetable,
    acting_checks.nothing_puts_back,
    acting_checks.step_never_comes,
    acting_checks.blind_device,
    acting_checks.short_cycles,
    acting_checks.level_for_what_cools,
    acting_checks.acts_on_more,
    acting_checks.other_room,
    people_checks.cold_for_the_frail,
    people_checks.door_by_presence,
    people_checks.dark_on_the_way,
    asking_checks.unsafe_without_answer,
    asking_checks.answer_without_effect,
    people_checks.no_guard,
    watch_checks.crossing_or_state,
    watch_checks.no_hysteresis,
    watch_checks.no_wait,
    watch_checks.clock_change,
)


def rule_findings(home: Home, evidence: Evidence = NO_EVIDENCE) -> list[RuleFinding]:
    """Return everything that the checks find on a home's rules, in the order of the rules, the graver first."""
    found: list[RuleFinding] = []
    known = frozenset(each.signal for each in offered(home))
    for rule in home.rules:
        case = Case(home=home, rule=rule, known=known, evidence=evidence)
        found += [finding for check in CHECKS for finding in check(case)]
    _, circle = in_order(home.rules)
    found += [
        Case(home=home, rule=rule, known=known).finding(
            "circle",
            "watch.0.0.of",
            "It looks at a fact that hangs, over other rules, on what it marks itself: it is not run. Take one of the facts out.",
            severity="danger",
        )
        for rule in circle
    ]
    place = {rule.id: k for k, rule in enumerate(home.rules)}
    grave = ("danger", "warning", "note")
    return sorted(found, key=lambda f: (place[f.rule_id], grave.index(f.severity)))
