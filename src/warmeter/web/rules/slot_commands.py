"""A slot of a rule's sentence, filled or taken out, as a command on the home."""

from dataclasses import replace

from warmeter.core.edits.edit import Command
from warmeter.core.edits.rule_commands import ChangeVerb, FillSlot, LookAt, TakeOutPart
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Rule
from warmeter.core.rule.parts import GONE, condition_at, place_of
from warmeter.web.form_reader import Texts
from warmeter.web.rules.condition_words import condition_on
from warmeter.web.rules.sentence import limits_of, sentence_of
from warmeter.web.rules.slot_types import Subject, Verb
from warmeter.web.rules.slots import Slot
from warmeter.web.rules.wording import rule_wording


def slots_of(home: Home, rule: Rule) -> dict[str, Slot]:
    """Return every slot of a rule by its id."""
    wording = rule_wording(home, rule)
    return {slot.id: slot for part in (sentence_of(wording, is_open=True), limits_of(wording)) for slot in part.slots}


def _slot(home: Home, texts: Texts) -> tuple[Rule, Slot]:
    rule = home.rule(texts.get("rule_id", ""))
    slot = slots_of(home, rule).get(texts.get("slot", ""))
    if slot is None:
        raise HomeError(GONE)
    return rule, slot


def fill_slot(home: Home, texts: Texts) -> Command:
    """Return the command that fills a slot with what was typed; ``WarmeterError`` says what is wrong with that."""
    rule, slot = _slot(home, texts)
    command = slot_command(home, rule, slot, texts)
    changed = command.edit(home).home
    now = slots_of(changed, changed.rule(rule.id)).get(slot.id)
    words = f"{slot.title} is {now.text} (was {slot.text})" if now else f"{slot.title} changed"
    return replace(command, words=words)


def slot_command(home: Home, rule: Rule, slot: Slot, texts: Texts) -> FillSlot | LookAt | ChangeVerb:
    """Return the command that a slot's type makes of what was typed."""
    values = slot.type.read(texts, home)
    place = place_of(slot.path)
    if isinstance(slot.type, Subject) and place is not None:
        before = condition_at(rule, place)
        if before is None:
            raise HomeError(GONE)
        return LookAt(rule_id=rule.id, path=slot.path, condition=condition_on(home, before, values["subject"]))
    if isinstance(slot.type, Verb):
        return ChangeVerb(rule_id=rule.id, path=slot.path, **values)
    return FillSlot(rule_id=rule.id, path=slot.path, values=values)


def take_out(home: Home, texts: Texts) -> Command:
    """Return the command that takes out what a slot stands for."""
    rule, slot = _slot(home, texts)
    if slot.removal is None:
        raise HomeError("this part of the sentence must stand; change it, or remove the whole rule")
    words = f"{slot.text} removed"
    return TakeOutPart(rule_id=rule.id, path=slot.removal.path, field=slot.removal.field, words=words)
