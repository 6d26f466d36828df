"""Routes of messages: who is told by what, who next if nobody answers, a test by one press, what mail was sent."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Len
from fastapi import APIRouter, Depends, Request
from fastapi.responses import Response

from warmeter.core.edits.link_commands import AddChannel, RemoveChannel, SetGroupChain, SetTellAnswer
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, part_names
from warmeter.core.home.rules import ChannelKind, Tell
from warmeter.core.link.mapping_choice import MappingChooser
from warmeter.core.link.usual_topics import presence_topic
from warmeter.core.live.silence import SilentKind, told_within
from warmeter.core.units import MS_PER_S, S_PER_MIN
from warmeter.service.app import App
from warmeter.service.live.chain_test import TEST_EVENT, try_channels
from warmeter.service.live.live_now import heard_devices, home_now_ms
from warmeter.service.live.places import mail_told
from warmeter.service.live.self_test import RunningTest, begin_test, running_tests, write_test
from warmeter.service.live.stand_in import MAILBOX, mails_taken
from warmeter.web import format as show
from warmeter.web.form_reader import Texts, form_texts, read_form
from warmeter.web.page import Page, app_of, back_to, frame_of, is_fragment, person_of, render
from warmeter.web.saving import Commands, save_form

router = APIRouter()
COMMANDS: Commands = {"add": AddChannel, "remove": RemoveChannel, "chain": SetGroupChain, "tell": SetTellAnswer}
KIND_WORDS: Mapping[ChannelKind, str] = {
    "mail": "mail",
    "web_hook": "web hook",
    "lamp": "lamp or sound, by command",
    "speech": "speech, as a text command",
}
MOST_MAILS = 8


@dataclass(frozen=True, slots=True, kw_only=True)
class ChannelRow:
    """A channel of a group: what kind, whose, its address shortened."""

    id: str
    name: str
    kind: str
    address: str
    needs_address: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class GroupRow:
    """A group: how loud, its quiet hours, its channels, who is told next, when it was last tried."""

    id: str
    name: str
    loudness: str
    quiet: str
    channels: tuple[ChannelRow, ...]
    tells_all: bool
    next_group_id: str
    next_after_min: str
    tried: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TellRow:
    """A step of a rule that tells: whom, and whether until somebody answers."""

    rule_id: str
    rule: str
    number: int
    group: str
    until_answered: bool
    answer: str
    repeat_min: str
    most: int


@dataclass(frozen=True, slots=True, kw_only=True)
class PathRow:
    """An alarm path: its last test, and the one that is under way."""

    id: str
    name: str
    last: str
    running: str
    is_running: bool


SILENCE_WORDS: dict[SilentKind, str] = {
    "sensor": "{name} is silent",
    "power": "the home has no power, and Warmeter runs on",
    "link": "the link to the devices is down",
    "warmeter": "Warmeter itself does not run",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class SilenceRow:
    """Something that falls silent, who is told, and within what."""

    what: str
    who: str
    within: str


@dataclass(frozen=True, slots=True, kw_only=True)
class MessagesPage(Page):
    """Who is told of what, and how."""

    home: Home
    query: dict[str, str]
    tab: str
    groups: tuple[GroupRow, ...]
    tells: tuple[TellRow, ...]
    paths: tuple[PathRow, ...]
    silences: tuple[SilenceRow, ...]
    kinds: Mapping[ChannelKind, str]
    speakers: tuple[tuple[str, str], ...]
    mail: str
    mails: tuple[tuple[str, str, str], ...]


def messages_page(request: Request, home_id: str) -> Response:
    """Return the messages page, or its part."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    addresses = app.live_homes.addresses(home_id)
    clock = app.clock(home)
    tried = {event.subject: event for event in app.events.of_kind(home_id, TEST_EVENT)}
    groups = []
    for group in home.notification_groups:
        quiet = "none"
        if group.quiet_from_min is not None and group.quiet_until_min is not None:
            quiet = f"{show.clock_time(group.quiet_from_min)} to {show.clock_time(group.quiet_until_min)}"
            quiet += ", but it is told all the same" if group.passes_quiet else ""
        event = tried.get(group.id)
        groups.append(
            GroupRow(
                id=group.id,
                name=group.name,
                loudness=group.loudness,
                quiet=quiet,
                channels=tuple(
                    ChannelRow(
                        id=channel.id,
                        name=channel.name,
                        kind=KIND_WORDS[channel.kind],
                        address=addresses.get(channel.id, ""),
                        needs_address=channel.kind in ("mail", "web_hook"),
                    )
                    for channel in group.channels
                ),
                tells_all=group.tells_all,
                next_group_id=group.next_group_id or "",
                next_after_min=f"{group.next_after_s / S_PER_MIN:g}",
                tried="" if event is None else f"{show.moment(event.at_ms, clock, home.country)}: {event.detail}",
            )
        )
    names = {group.id: group.name for group in home.notification_groups}
    tells = tuple(
        TellRow(
            rule_id=rule.id,
            rule=rule.name,
            number=number,
            group=names.get(step.group_id, "a group that is gone"),
            until_answered=step.until_answered,
            answer=step.answer,
            repeat_min="" if step.repeat_s is None else f"{step.repeat_s / S_PER_MIN:g}",
            most=step.most,
        )
        for rule in home.rules
        for number, step in enumerate(rule.then)
        if isinstance(step, Tell)
    )
    page = MessagesPage(
        frame=frame_of(request, home, revision, "live"),
        home=home,
        query={},
        tab="messages",
        groups=tuple(groups),
        tells=tells,
        paths=_path_rows(app, home),
        silences=_silence_rows(app, home),
        kinds=KIND_WORDS,
        speakers=tuple(part_names(home.devices).items()),
        mail=mail_told(app.uploads.parent),
        mails=tuple(mails_taken(app.uploads.parent / MAILBOX, MOST_MAILS)),
        notice=request.query_params.get("notice", ""),
    )
    return render(request, "live/_messages.html" if is_fragment(request) else "live/messages.html", page)


def _path_rows(app: App, home: Home) -> tuple[PathRow, ...]:
    running = running_tests(app, home)
    rows = []
    for chain in home.safety_chains:
        test = chain.tests[-1] if chain.tests else None
        last = "never tested"
        if test is not None:
            told = "told to nobody" if test.told_s is None else f"told in {test.told_s:g} s"
            shut = "" if test.shut_s is None else f", shut {test.shut_s:g} s later"
            last = f"{show.day_short(test.on, home.country)}: {told}{shut}{'; ' + test.failed if test.failed else ''}"
        now = running.get(chain.id)
        rows.append(
            PathRow(
                id=chain.id,
                name=chain.name,
                last=last,
                running="" if now is None else _timing_words(now),
                is_running=now is not None,
            )
        )
    return tuple(rows)


def _silence_rows(app: App, home: Home) -> tuple[SilenceRow, ...]:
    devices = heard_devices(MappingChooser(home), app.live_homes.topics(home.id), home_now_ms(app, home.id))
    names = part_names(home.devices)
    groups = part_names(home.notification_groups)
    rows = []
    for each in told_within(home, devices):
        what = SILENCE_WORDS[each.kind].format(name=names.get(each.device_id, ""))
        who = groups.get(each.group_id, "the page only: choose whom to tell under Links")
        within = "cannot be noticed: nothing was received from it yet"
        if each.within_ms is not None:
            seconds = each.within_ms / MS_PER_S
            within = f"{seconds:.0f} s" if seconds < 2 * S_PER_MIN else show.duration(seconds / S_PER_MIN)
        if each.kind == "warmeter":
            who = f"whoever listens to {presence_topic(home.id)}: what does not run tells nobody itself"
        rows.append(SilenceRow(what=what, who=who, within=within))
    return tuple(rows)


def _timing_words(test: RunningTest) -> str:
    """Return how far a test has come."""
    timing = test.timing
    if timing.felt_ms is None:
        return "waits for its sensor: wet it with a cloth, or cool it, now"
    parts = ["felt"]
    parts += [] if timing.told_s is None else [f"told after {timing.told_s:.1f} s"]
    parts += [] if timing.sent_ms is None else ["sent"]
    parts += [] if timing.shut_s is None else [f"obeyed {timing.shut_s:.1f} s later"]
    return ", ".join(parts) + (
        "" if timing.is_whole else "; nothing more came in time: save it so" if test.is_over else "; still waiting"
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class PathForm:
    """An alarm path whose test begins, or is written down."""

    chain_id: Id
    act: Literal["begin", "write", "look"]


@router.post("/homes/{home_id}/live/path-test", name="live_path_test")
def live_path_test(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Begin the test of an alarm path, look how far it has come, or write down what was measured."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    form = read_form(PathForm, texts)
    if form.act == "begin":
        begin_test(app, home, revision, form.chain_id)
    elif form.act == "write":
        write_test(app, home, revision, form.chain_id, person_of(request))
    return messages_page(request, home_id)


@router.get("/homes/{home_id}/live/messages", name="live_messages")
def live_messages(request: Request, home_id: str) -> Response:
    """Show who is told of what."""
    return messages_page(request, home_id)


@router.post("/homes/{home_id}/live/messages/{command}", name="messages_edit")
def messages_edit(
    request: Request, home_id: str, command: str, texts: Annotated[Texts, Depends(form_texts)]
) -> Response:
    """Do one command on messages."""
    save_form(request, home_id, texts, COMMANDS, command)
    return messages_page(request, home_id) if is_fragment(request) else back_to(request, "live_messages", home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddressForm:
    """The address of a channel; empty forgets it."""

    id: Id
    address: Annotated[str, Len(0, 400)] = ""


@router.post("/homes/{home_id}/live/address", name="live_address")
def live_address(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Keep the address of a channel, beside the home's document."""
    app = app_of(request)
    form = read_form(AddressForm, texts)
    home, _ = app.homes.load(home_id)
    channel = next((c for g in home.notification_groups for c in g.channels if c.id == form.id), None)
    if channel is None:
        raise HomeError("this channel is not there any more")
    address = form.address.strip()
    if address and channel.kind == "mail" and ("@" not in address or any(c.isspace() for c in address)):
        raise HomeError("an address for mail has one @ and no space, such as owner@home.example")
    if address and channel.kind == "web_hook" and not address.startswith(("http://", "https://")):
        raise HomeError("the address of a web hook begins with http:// or https://")
    app.live_homes.set_address(home_id, form.id, address)
    return messages_page(request, home_id)


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialGroupForm:
    """The group whose channels are tried."""

    group_id: Id


@router.post("/homes/{home_id}/live/try", name="live_try")
def live_try(request: Request, home_id: str, texts: Annotated[Texts, Depends(form_texts)]) -> Response:
    """Send a test by every channel of a group."""
    app = app_of(request)
    home, revision = app.homes.load(home_id)
    try_channels(app, home, read_form(TrialGroupForm, texts).group_id, revision)
    return messages_page(request, home_id)
