"""Commands on links: how messages become readings, how devices are commanded, senders adopted and refused, who is told."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Ge, Le, Len

from warmeter.core.edits.edit import Edit, FieldsOf, Values
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.devices import Identity
from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping, LiveMode, MessageMapping, StateWord
from warmeter.core.home.part import Id, Name, Unit, Word
from warmeter.core.home.rules import Channel, ChannelKind, NotificationGroup, Rule, Tell
from warmeter.core.link.json_path import path_steps
from warmeter.core.link.topic_pattern import check_pattern, check_topic
from warmeter.core.link.usual_topics import usual_commands, usual_mappings
from warmeter.core.quantity import QUANTITIES
from warmeter.core.units import S_PER_MIN, UNITS_OF

MESSAGE_FIELDS = (
    "topic",
    "payload",
    "path",
    "time_path",
    "quantity",
    "subject_id",
    "address_level",
    "unit",
    "scale",
    "offset",
    "kind",
    "rhythm_s",
)
COMMAND_FIELDS = (
    "target_id",
    "does",
    "topic",
    "template",
    "on_word",
    "off_word",
    "is_toggle",
    "confirm_quantity",
    "within_s",
    "tolerance",
    "witness_from",
    "tries",
)
MODE_WORDS: dict[LiveMode, str] = {
    "off": "Rules and timetable are not followed live",
    "say": "What would be sent is only said",
    "send": "Commands are sent",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SetLiveMode:
    """Follow a home live or not, and send or only say."""

    mode: LiveMode

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        return Edit(replace(home, link=replace(home.link, mode=self.mode)), MODE_WORDS[self.mode])


@dataclass(frozen=True, slots=True, kw_only=True)
class SetLinkSettings:
    """Type what is listened to, one pattern a line, and whom to tell of the link's troubles."""

    listens: Annotated[str, Len(0, 4000)] = ""
    group_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it; ``ReadingError`` for a pattern that is none."""
        patterns = tuple(line.strip() for line in self.listens.splitlines() if line.strip())
        for pattern in patterns:
            check_pattern(pattern)
        link = replace(home.link, listens=patterns, group_id=self.group_id or None)
        return Edit(replace(home, link=link), f"Listens to {', '.join(patterns) or 'its own topics'}")


def with_words(mapping: MessageMapping, words: str) -> MessageMapping:
    """Return a mapping with its words as typed, ``on = 1, off = 0``; of a quantity of states those usual if none were.

    Raises
    ------
    HomeError
        If a part is not a word, = and a number.
    """
    states = QUANTITIES[mapping.quantity].states if mapping.quantity in QUANTITIES else ()
    found = [part for part in words.replace("\n", ",").split(",") if part.strip()]
    if not found:
        usual = tuple(StateWord(word=word, value=float(k)) for k, word in enumerate(states))
        return replace(mapping, words=usual)
    typed = []
    for part in found:
        word, sign, value = part.rpartition("=")
        try:
            typed.append(StateWord(word=word.strip()[:40], value=float(value.strip().replace(",", "."))))
        except ValueError as error:
            raise HomeError(f"{part.strip()!r} is no word with its number: write on = 1, off = 0") from error
        if not sign or not word.strip():
            raise HomeError(f"{part.strip()!r} is no word with its number: write on = 1, off = 0")
    return replace(mapping, words=tuple(typed))


def checked(mapping: MessageMapping) -> MessageMapping:
    """Return a mapping whose topic, paths, quantity and unit can be used.

    Raises
    ------
    HomeError
        If its quantity is not known, or its unit does not measure it.
    ReadingError
        If its topic is no pattern, or a path is none.
    """
    check_pattern(mapping.topic)
    for path in (mapping.path, mapping.time_path):
        if path:
            path_steps(path)
    if mapping.quantity not in QUANTITIES:
        raise HomeError("choose what the messages tell")
    if mapping.unit not in UNITS_OF[mapping.quantity]:
        units = ", ".join(UNITS_OF[mapping.quantity])
        raise HomeError(f"{QUANTITIES[mapping.quantity].label} is measured in {units}, not in {mapping.unit}")
    return mapping


def typed_mapping(values: Values, words: str, mapping_id: str) -> MessageMapping:
    """Return a mapping as it was typed; ``HomeError`` or ``ReadingError`` where it cannot be used."""
    given = dict(values)
    quantity = str(given.get("quantity", ""))
    if not given.get("unit") and quantity in QUANTITIES:
        given["unit"] = UNITS_OF[quantity][0]
    # The form of words is checked only when the words are there.
    form = given.get("payload", "number")
    plain = MessageMapping(id=mapping_id, **{**given, "payload": "number" if form == "words" else form})
    return checked(replace(with_words(plain, words), payload=form))


@dataclass(frozen=True, slots=True, kw_only=True)
class KeepMessageMapping:
    """Keep how the messages of a topic become readings; with ``id`` that of one that is there is changed."""

    values: Annotated[Values, FieldsOf(MessageMapping, MESSAGE_FIELDS)]
    words: Annotated[str, Len(0, 400)] = ""
    id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        mapping = typed_mapping(self.values, self.words, self.id or new_id())
        others = tuple(m for m in home.message_mappings if m.id != mapping.id)
        label = QUANTITIES[mapping.quantity].label
        return Edit(replace(home, message_mappings=(*others, mapping)), f"{mapping.topic}: {label}", mapping.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveMessageMapping:
    """Take a topic's messages as readings no more."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        gone = next((m for m in home.message_mappings if m.id == self.id), None)
        if gone is None:
            raise HomeError("this mapping is not there any more")
        left = tuple(m for m in home.message_mappings if m.id != self.id)
        return Edit(replace(home, message_mappings=left), f"{gone.topic}: no longer kept", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class KeepCommandMapping:
    """Keep how a device is commanded; with ``id`` that of one that is there is changed."""

    values: Annotated[Values, FieldsOf(CommandMapping, COMMAND_FIELDS)]
    id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it; ``ReadingError`` for a topic that cannot be sent to."""
        mapping = CommandMapping(id=self.id or new_id(), **dict(self.values))
        check_topic(mapping.topic)
        others = tuple(m for m in home.command_mappings if m.id != mapping.id)
        return Edit(replace(home, command_mappings=(*others, mapping)), f"Commands go to {mapping.topic}", mapping.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveCommandMapping:
    """Command a device no more."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        left = tuple(m for m in home.command_mappings if m.id != self.id)
        if len(left) == len(home.command_mappings):
            raise HomeError("this command is not there any more")
        return Edit(replace(home, command_mappings=left), "A command was removed", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class MapUsualTopics:
    """Map every device in service to Warmeter's own topics, besides what is mapped already."""

    def edit(self, home: Home) -> Edit:
        """Return the home with them."""
        messages, commands = usual_mappings(home), usual_commands(home)
        changed = replace(
            home,
            message_mappings=(*home.message_mappings, *messages),
            command_mappings=(*home.command_mappings, *commands),
        )
        return Edit(changed, f"{len(messages)} topics and {len(commands)} commands of Warmeter's own")


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadoptSender:
    """Take a sender that came under a new name for a device that is known: its topics go on under that name."""

    device_id: Id
    old_word: Annotated[str, Len(1, 80)]
    new_word: Annotated[str, Len(1, 80)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it; ``HomeError`` if no topic of the device bears the old name."""
        device = home.device(self.device_id)
        moved = 0
        mappings = []
        for mapping in home.message_mappings:
            words = mapping.topic.split("/")
            if mapping.subject_id == device.id and self.old_word in words:
                topic = "/".join(self.new_word if word == self.old_word else word for word in words)
                check_pattern(topic)
                mapping, moved = replace(mapping, topic=topic), moved + 1
            mappings.append(mapping)
        if not moved and device.address != self.old_word:
            raise HomeError(f"no topic of {device.name} has {self.old_word!r} in it")
        identity = Identity(address=self.new_word, reason="heard under a new name")
        changed = replace(device, identities=(*device.identities, identity))
        return Edit(
            replace(home, message_mappings=tuple(mappings), devices=swapped(home.devices, changed)),
            f"{device.name} is now heard as {self.new_word}",
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class RefuseSender:
    """Hear a topic, or all under a pattern, no more."""

    topic: Annotated[str, Len(1, 200)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        check_pattern(self.topic)
        refuses = tuple(dict.fromkeys([*home.link.refuses, self.topic]))
        return Edit(replace(home, link=replace(home.link, refuses=refuses)), f"{self.topic} is refused")


@dataclass(frozen=True, slots=True, kw_only=True)
class HearSender:
    """Hear a refused topic again."""

    topic: Annotated[str, Len(1, 200)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        refuses = tuple(topic for topic in home.link.refuses if topic != self.topic)
        return Edit(replace(home, link=replace(home.link, refuses=refuses)), f"{self.topic} is heard again")


def _group(home: Home, group_id: str) -> NotificationGroup:
    found = next((group for group in home.notification_groups if group.id == group_id), None)
    if found is None:
        raise HomeError("this group is not there any more")
    return found


def _with_group(home: Home, group: NotificationGroup, summary: str) -> Edit:
    return Edit(replace(home, notification_groups=swapped(home.notification_groups, group)), summary)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddChannel:
    """Give a group another way in which it is told."""

    group_id: Id
    kind: ChannelKind
    name: Name
    device_id: Word = ""
    person_id: Word = ""

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        group = _group(home, self.group_id)
        channel = Channel(
            id=new_id(),
            kind=self.kind,
            name=self.name,
            device_id=self.device_id or None,
            person_id=self.person_id or None,
        )
        changed = replace(group, channels=(*group.channels, channel))
        return Edit(_with_group(home, changed, "").home, f"{group.name} is told by {self.name}", channel.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveChannel:
    """Tell a group no longer by a channel."""

    group_id: Id
    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        group = _group(home, self.group_id)
        left = tuple(channel for channel in group.channels if channel.id != self.id)
        if len(left) == len(group.channels):
            raise HomeError("this channel is not there any more")
        return _with_group(home, replace(group, channels=left), f"{group.name}: a channel was removed")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetGroupChain:
    """Say who is told next if nobody of a group answers, after how long, and whether by every channel at once."""

    group_id: Id
    next_group_id: Word = ""
    next_after_min: Annotated[float, Ge(0.5), Le(1440), Unit("min")] = 15.0
    tells_all: bool = False

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        group = replace(
            _group(home, self.group_id),
            next_group_id=self.next_group_id or None,
            next_after_s=round(self.next_after_min * S_PER_MIN),
            tells_all=self.tells_all,
        )
        names = {g.id: g.name for g in home.notification_groups}
        then = names.get(self.next_group_id, "")
        words = f"then {then} after {self.next_after_min:g} min" if then else "nobody else"
        return _with_group(home, group, f"{group.name}: {words}")


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTellAnswer:
    """Say whether a rule goes on telling until somebody answers, how often, and the word of the button."""

    rule_id: Id
    number: Annotated[int, Ge(0), Le(19)]
    until_answered: bool = False
    answer: Annotated[str, Len(0, 40)] = ""
    repeat_min: Annotated[float, Ge(1), Le(1440), Unit("min")] | None = None
    most: Annotated[int, Ge(1), Le(100)] = 1

    def edit(self, home: Home) -> Edit:
        """Return the home with it; ``HomeError`` if the step tells nobody."""
        rule = home.rule(self.rule_id)
        step = rule.then[self.number] if self.number < len(rule.then) else None
        if not isinstance(step, Tell):
            raise HomeError("this step tells nobody any more; look at the page again")
        changed = replace(
            step,
            until_answered=self.until_answered,
            answer=self.answer,
            repeat_s=None if self.repeat_min is None else round(self.repeat_min * S_PER_MIN),
            most=self.most,
        )
        then = tuple(changed if k == self.number else each for k, each in enumerate(rule.then))
        words = "tells until answered" if self.until_answered else "tells"
        return Edit(replace(home, rules=_swapped_rule(home.rules, replace(rule, then=then))), f"{rule.name}: {words}")


def _swapped_rule(rules: tuple[Rule, ...], changed: Rule) -> tuple[Rule, ...]:
    return tuple(changed if rule.id == changed.id else rule for rule in rules)
