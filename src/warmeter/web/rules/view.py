"""The rules page as data: sentences, what each came to, and the chosen one in full."""

from collections.abc import Mapping
from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule
from warmeter.core.rule.checks.all_rules import rule_findings
from warmeter.core.rule.checks.rule_finding import Evidence, RuleFinding
from warmeter.core.rule.signals import offered
from warmeter.service.rules.replays import Replay, RuleReplay
from warmeter.service.rules.rule_saving import RuleSaving
from warmeter.web import format as show
from warmeter.web.rules.replay_strip import WHY_HELD, all_rules_strip, rule_strip, span_text
from warmeter.web.rules.sentence import limits_of, sentence_of
from warmeter.web.rules.slots import RuleSentence, Slot
from warmeter.web.rules.wording import Names, names_of, rule_wording
from warmeter.web.strip.draw import DrawnStrip


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleRow:
    """A rule in the list: number, sentence, what it came to, whether it is chosen."""

    rule: Rule
    number: int
    sentence: RuleSentence
    came_to: str
    is_chosen: bool
    is_suspended: str = ""
    findings: tuple[RuleFinding, ...] = ()

    @property
    def wrong_parts(self) -> set[str]:
        """The slots that findings are about."""
        return {finding.part for finding in self.findings}


@dataclass(frozen=True, slots=True, kw_only=True)
class RulesView:
    """The page.

    Parameters
    ----------
    rows : list of RuleRow
        In order.
    chosen : RuleRow or None
        The rule in full, with its limits, the slot that is open, and its strip.
    """

    rows: list[RuleRow]
    chosen: RuleRow | None
    limits: RuleSentence | None
    open_slot: Slot | None
    strip: DrawnStrip | None
    summary: str
    stretch: str
    findings: int
    all_strip: DrawnStrip | None = None
    all_summary: str = ""


def rules_view(
    home: Home,
    replay: Replay | None,
    evidence: Evidence,
    *,
    chosen_id: str,
    slot_id: str,
    width: int,
    shows_all: bool = False,
    saving: RuleSaving | None = None,
) -> RulesView:
    """Return the page for a chosen rule and an open slot."""
    rules = home.rules
    chosen = next((rule for rule in rules if rule.id == chosen_id), None)
    found_all, names = rule_findings(home, evidence), names_of(home)
    rows = [
        _row(names, number, rule, replay, is_chosen=rule is chosen, findings=found_all)
        for number, rule in enumerate(rules, 1)
    ]
    mine = next((row for row in rows if row.is_chosen), None)
    limits = limits_of(rule_wording(home, chosen, names)) if chosen else None
    slots = [*(mine.sentence.slots if mine else ()), *(limits.slots if limits else ())]
    strip, summary = None, ""
    found = replay.rules.get(chosen.id) if replay and chosen else None
    if chosen is not None and replay is not None and found is not None and mine is not None:
        strip = rule_strip(rule_wording(home, chosen, names), replay, found, width, ago=mine.number)
        is_told = saving is not None and not found.unheard
        summary = _summary(home, found) + (f" · {saving_text(home, saving)}" if saving is not None and is_told else "")
    return RulesView(
        rows=rows,
        chosen=mine,
        limits=limits,
        open_slot=next((slot for slot in slots if slot.id == slot_id), None),
        strip=strip,
        summary=summary,
        stretch=_stretch(home, replay),
        findings=sum(f.severity != "note" for f in found_all),
        all_strip=all_rules_strip(home, replay, width) if shows_all and replay is not None else None,
        all_summary="" if replay is None else _set_summary(replay),
    )


def _set_summary(replay: Replay) -> str:
    """Return the whole set's figures over the stretch in one line."""
    fired = sum(len(found.rule_run.firings) for found in replay.rules.values())
    held = sum(len(found.rule_run.held_back) for found in replay.rules.values())
    told = sum(len(found.notices) for found in replay.rules.values())
    nights = sum(found.nights for found in replay.rules.values())
    idle = sum(not found.rule_run.firings for found in replay.rules.values())
    words = f"{show.number(fired)} times triggered, {show.number(held)} suppressed, {show.number(told)} messages sent"
    return f"{words}, {nights} nights woken, {idle} rules never triggered"


def _row(
    names: Names, number: int, rule: Rule, replay: Replay | None, *, is_chosen: bool, findings: list[RuleFinding]
) -> RuleRow:
    home, wording = names.home, rule_wording(names.home, rule, names)
    found = replay.rules.get(rule.id) if replay else None
    return RuleRow(
        rule=rule,
        number=number,
        sentence=sentence_of(wording, is_open=is_chosen),
        came_to="" if found is None else _came_to(home, found),
        is_chosen=is_chosen,
        is_suspended=_suspended(home, rule, replay),
        findings=tuple(f for f in findings if f.rule_id == rule.id),
    )


def _suspended(home: Home, rule: Rule, replay: Replay | None) -> str:
    if rule.suspended is None:
        return ""
    until = rule.suspended.until_ms
    when = "until a person ends it"
    if until is not None and replay is not None:
        when = f"until {show.moment(until, replay.scope.clock, home.country)}"
    who = f" by {rule.suspended.by}" if rule.suspended.by else ""
    return f"Suspended {when}{who}: {rule.suspended.why}"


def _came_to(home: Home, found: RuleReplay) -> str:
    """Return in a few words what became of a rule over the stretch."""
    fired = len(found.rule_run.firings)
    if not fired and found.unheard:
        names = {each.signal: each.name for each in offered(home)}
        unheard = " and ".join(names.get(signal, signal.quantity) for signal in found.unheard)
        return f"No data was received of {unheard}: what it would have done is not known"
    if not fired and not found.rule_run.held_back:
        return "Was not triggered"
    held = len(found.rule_run.held_back)
    parts = [f"Triggered {show.number(fired)} time{'s' * (fired != 1)}"] if fired else []
    if held:
        parts.append(f"{'suppressed' if fired else 'Suppressed'} {show.number(held)}")
    if found.notices:
        parts.append(f"told {show.number(len(found.notices))}")
    if found.nights:
        parts.append(f"{found.nights} night{'s' * (found.nights != 1)} woken")
    return ", ".join(parts)


def _summary(home: Home, found: RuleReplay) -> str:
    """Return the chosen rule's figures over the stretch in one line."""
    words = [_came_to(home, found)]
    whys: Mapping[str, int] = found.held_back
    if whys:
        words.append("; ".join(f"{WHY_HELD[why]} {count}" for why, count in sorted(whys.items(), key=lambda w: -w[1])))
    if found.held_min:
        words.append(f"held {span_text(found.held_min)} in all, {span_text(found.longest_min)} at the longest")
    if found.rule_run.ignored_ms:
        words.append(f"came true again meanwhile {len(found.rule_run.ignored_ms)}")
    if found.chatter.most_in_window > 6:
        words.append(f"up to {found.chatter.most_in_window} switches in ten minutes")
    return " · ".join(words)


def saving_text(home: Home, saving: RuleSaving) -> str:
    """Return what a rule would have saved in words, with its range."""
    heat = saving.heat_kwh
    word = "less" if heat.value >= 0 else "more"
    low, high = sorted((abs(heat.low), abs(heat.high)))
    text = f"about {show.number(abs(heat.value), 1)} kWh of heat {word} in {' and '.join(saving.rooms)} ({show.number(low, 1)} to {show.number(high, 1)})"
    if saving.cost is not None:
        text += f", {show.money(abs(saving.cost.value), home.currency)}"
    text += ", windows taken as shut"
    return text + (f"; {' and '.join(saving.unfitted)} not fitted" if saving.unfitted else "")


def _stretch(home: Home, replay: Replay | None) -> str:
    if replay is None:
        return ""
    clock = replay.scope.clock
    first, last = clock.local(replay.scope.start_ms).date(), clock.local(replay.scope.end_ms - 1).date()
    return f"{show.day_long(first, home.country)} to {show.day_long(last, home.country)}"
