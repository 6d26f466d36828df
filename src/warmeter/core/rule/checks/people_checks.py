"""Checks for people: guests and nights, alarms that nobody hears."""

from collections.abc import Iterator
from dataclasses import replace

from warmeter.core.home.conditions.at_level import AtLevel
from warmeter.core.home.conditions.at_time import AtTime
from warmeter.core.home.conditions.evening import Evening
from warmeter.core.home.conditions.fact import Fact
from warmeter.core.home.conditions.hours import Hours
from warmeter.core.home.conditions.in_state import InState
from warmeter.core.home.document import Home
from warmeter.core.home.part import part_names
from warmeter.core.home.rules import Dim, NotificationGroup, PutBack, Rule, SetLevel, SetPoint, Switch, Tell
from warmeter.core.rule.checks.rule_finding import Case, RuleFinding, targets_of
from warmeter.core.rule.checks.watch_checks import is_urgent
from warmeter.core.rule.parts import conditions_of
from warmeter.core.units import S_PER_H

GUESTS = Fact(word="guests are here", is_true=False)
SEES_PEOPLE = ("is_in", "is_moving", "is_in_bed")
DOOR_WORDS = frozenset({"door", "doors", "doorlock", "lock", "locks", "gate", "gates", "garage"})
# Light that still shows a step on a way through the house (share).
LEAST_ON_A_WAY = 0.2
WAKING = Hours(from_min=420, until_min=1260)


def no_guard(case: Case) -> Iterator[RuleFinding]:
    """Something is turned down because nobody is seen, also for guests, or for people asleep."""
    home, rule = case.home, case.rule
    if not _by_absence(rule, ("is_in", "is_moving")) or not _turns_down(home, rule):
        return
    guards = [c for _, c in conditions_of(rule, "only_while")]
    has_night = any(isinstance(c, Hours | AtLevel | Evening) for c in guards)
    has_guests = any(isinstance(c, Fact) for c in guards)
    if has_night and has_guests:
        return
    what = " and ".join(
        (["people who sleep do not move"] if not has_night else [])
        + (["guests are not known"] if not has_guests else [])
    )
    more = ([] if has_night else [(WAKING,)]) + ([] if has_guests else [(GUESTS,)])
    yield case.finding(
        "no condition",
        "watch.0.0.how",
        f"It turns down where nobody is seen, but {what}.",
        fix="Add the condition",
        rule=replace(rule, only_while=(*rule.only_while, *more), reading="is" if not has_night else rule.reading),
    )


def cold_for_the_frail(case: Case) -> Iterator[RuleFinding]:
    """Heat or cooling goes down while nobody is seen, and somebody lives there who cannot bear or tell heat and cold."""
    frail = [person for person in case.home.people if person.care != "none"]
    if (
        not frail
        or not _by_absence(case.rule, ("is_in", "is_moving", "is_home"))
        or not _turns_down(case.home, case.rule)
    ):
        return
    names = " and ".join(person.name for person in frail)
    yield case.finding(
        "cold for who cannot bear it",
        "watch.0.0.how",
        f"It turns down where nobody is seen, and {names} cannot bear or tell heat and cold: one witness that fails and they "
        "lie in it. Leave out the rooms that they use, or tell somebody instead.",
        severity="danger",
    )


def door_by_presence(case: Case) -> Iterator[RuleFinding]:
    """Something that by its name opens or locks a door is worked where only presence says so."""
    watched = [c for _, c in conditions_of(case.rule, "watch")]
    is_presence = bool(watched) and all(
        isinstance(c, InState) and c.of.quantity in (*SEES_PEOPLE, "is_home") for c in watched
    )
    if not is_presence:
        return
    names = part_names(case.home.devices, case.home.appliances)
    for number, step in enumerate(case.rule.then):
        doors = [names[i] for i in targets_of(step) if i in names and DOOR_WORDS & set(names[i].casefold().split())]
        if doors:
            yield case.finding(
                "door by presence",
                f"then.{number}.targets",
                f"It works {' and '.join(doors)} where nothing but presence says so: a telephone that is lost or a sensor that "
                "errs opens it to anybody, or shuts somebody out. Doors and locks need a person's own act.",
                severity="danger",
            )


def dark_on_the_way(case: Case) -> Iterator[RuleFinding]:
    """Lamps of a way through the house are dimmed so far that somebody could fall."""
    lamps = {d.id: d for d in case.home.devices}
    ways = {room.id for room in case.home.rooms if room.use == "hall"}
    for number, step in enumerate(case.rule.then):
        if not isinstance(step, Dim) or step.share >= LEAST_ON_A_WAY:
            continue
        dark = [lamps[i].name for i in step.target_ids if i in lamps and lamps[i].room_id in ways]
        if dark:
            fixed = replace(step, share=LEAST_ON_A_WAY)
            then = tuple(fixed if k == number else each for k, each in enumerate(case.rule.then))
            yield case.finding(
                "dark on the way",
                f"then.{number}.share",
                f"{' and '.join(dark)} lights a way, and under {100 * LEAST_ON_A_WAY:.0f} % whoever walks there at night may fall.",
                fix=f"Dim it to {100 * LEAST_ON_A_WAY:.0f} %",
                rule=replace(case.rule, then=then),
            )


def _turns_down(home: Home, rule: Rule) -> bool:
    """Return whether a rule saves on heat or switches something off."""
    in_use = home.in_use
    saving = {lv.id for lv in home.levels if lv.is_saving or (in_use is not None and lv.heating_c < in_use.heating_c)}
    return any(
        (isinstance(s, SetLevel) and s.level_id in saving)
        or (isinstance(s, SetPoint) and (s.change_k or 0) < 0)
        or (isinstance(s, Switch) and not s.is_on)
        for s in rule.then
    )


def _by_absence(rule: Rule, quantities: tuple[str, ...]) -> bool:
    return any(
        isinstance(c, InState) and c.of.quantity in quantities and not c.is_on for _, c in conditions_of(rule, "watch")
    )


def alarm_swallowed(case: Case) -> Iterator[RuleFinding]:
    """A notice that falls in quiet hours, and nothing is left of it when they end (J4)."""
    home, rule = case.home, case.rule
    chains = {chain.id: chain for chain in home.notification_groups}
    for number, step in enumerate(rule.then):
        chain = chains.get(step.group_id) if isinstance(step, Tell) else None
        if chain is None or not _is_quiet(chain) or rule.kind == "safety":
            continue
        if is_urgent(rule):
            yield case.finding(
                "alarm swallowed",
                f"then.{number}.chain",
                f"It is urgent, and {chain.name} is not told in its quiet hours: only safety rules go through them.",
                severity="danger",
                fix="Make it a safety rule",
                rule=replace(rule, kind="safety"),
            )
        elif rule.put_back is None and not rule.as_long_as and not _only_awake(rule, chain):
            yield case.finding(
                "alarm swallowed",
                f"then.{number}.chain",
                f"What happens in the quiet hours of {chain.name} is never told: nothing is left of it when they end.",
                fix="Keep it until it is told",
                rule=replace(rule, put_back=PutBack(after_s=12 * S_PER_H)),
            )


def _is_quiet(chain: NotificationGroup) -> bool:
    begin, until = chain.quiet_from_min, chain.quiet_until_min
    return begin is not None and until is not None and begin != until and not chain.passes_quiet


def _only_awake(rule: Rule, chain: NotificationGroup) -> bool:
    """Whether it can only fire outside the chain's quiet hours."""
    begin, until = chain.quiet_from_min or 0, chain.quiet_until_min or 0

    def is_quiet(minute: int) -> bool:
        return begin <= minute < until if begin < until else minute >= begin or minute < until

    times = [c.at_min for _, c in conditions_of(rule, "watch") if isinstance(c, AtTime)]
    conditions = [c for _, c in conditions_of(rule, "watch")]
    if times and all(isinstance(c, AtTime) for c in conditions) and not any(is_quiet(minute) for minute in times):
        return True
    hours = [c for _, c in conditions_of(rule, "only_while") if isinstance(c, Hours)]
    return any(
        h.from_min < h.until_min and not is_quiet(h.from_min) and not is_quiet(h.until_min - 1) and not _spans(h, begin)
        for h in hours
    ) or all(c.is_moment and isinstance(c, AtTime) and not is_quiet(c.at_min) for c in conditions)


def _spans(hours: Hours, quiet_from: int) -> bool:
    return hours.from_min < quiet_from < hours.until_min
