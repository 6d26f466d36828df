"""A home linked for the first time: its clock, its mappings, and the made-up devices that may play it."""

from dataclasses import replace

from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.rules import Channel, NotificationGroup, Rule, Tell
from warmeter.core.link.usual_topics import usual_commands, usual_mappings
from warmeter.core.live.home_clock import HomeClock
from warmeter.service.app import App
from warmeter.service.live.stand_in import PLAYED_EVENT

DEMO_SPEED = 20.0
DEMO_MAIL = "everybody@bindery.invalid"
REPEAT_S, MOST_TOLD = 1200, 7


def linked(home: Home) -> Home:
    """Return a home whose devices speak and are commanded over Warmeter's own topics, besides what is mapped already."""
    return replace(
        home,
        message_mappings=(*home.message_mappings, *usual_mappings(home)),
        command_mappings=(*home.command_mappings, *usual_commands(home)),
    )


def demo_linked(home: Home) -> Home:
    """Return the demo's home as it is linked: it sends, tells by mail, and asks on until somebody has emptied the washer."""
    if not home.notification_groups:
        raise HomeError("the demo's home tells nobody")
    first, *others = home.notification_groups
    mail = Channel(id="ch-mail", kind="mail", name="Mail to everybody")
    owner = NotificationGroup(
        id="gr-owner", name="The owner", loudness="alarm", channels=(replace(mail, id="ch-owner"),)
    )
    told = replace(
        first, channels=(mail,), next_group_id=owner.id, next_after_s=3000, quiet_from_min=1260, quiet_until_min=420
    )
    rules = tuple(_asking_on(rule) for rule in home.rules)
    # The rule on the paper store's damp needs to hear it.
    devices = tuple(
        replace(d, quantities=("room_temperature", "relative_humidity")) if d.id == "dv-paper" else d
        for d in home.devices
    )
    ready = replace(home, notification_groups=(told, *others, owner), rules=rules, devices=devices)
    return linked(replace(ready, link=replace(home.link, mode="send", group_id=told.id)))


def _asking_on(rule: Rule) -> Rule:
    """Return a rule that tells of a finished appliance until somebody has emptied it; others as they are."""
    if "finished" not in rule.name:
        return rule
    then = tuple(
        replace(s, repeat_s=REPEAT_S, most=MOST_TOLD, until_answered=True, answer="It is emptied")
        if isinstance(s, Tell)
        else s
        for s in rule.then
    )
    return replace(rule, then=then)


def begin_live(app: App, home_id: str, clock: HomeClock) -> None:
    """Let a home be looked after from now on, by its clock."""
    app.live_homes.set_clock(home_id, clock)


def play_devices(app: App, home_id: str, *, is_on: bool, speed: float = DEMO_SPEED) -> None:
    """Let a home's devices be played from its present on, at a speed, or no more."""
    real_ms = app.now_ms()
    live = app.live_homes.find(home_id)
    home_ms = app.heard_until_ms(home_id) if live is None or not live.clock.real_ms else live.clock.home_at(real_ms)
    begin_live(app, home_id, HomeClock(real_ms=real_ms, home_ms=home_ms, speed=speed if is_on else 1.0))
    _, revision = app.homes.load(home_id)
    app.events.add(home_id, PLAYED_EVENT, "", real_ms, "on" if is_on else "off", revision)


def set_speed(app: App, home_id: str, speed: float) -> None:
    """Let a made-up home's clock run at another speed; ``OutOfRange`` beyond 1 to 3,600."""
    live = app.live_homes.find(home_id)
    if live is None:
        raise HomeError("this home is not linked yet; play its devices first")
    app.live_homes.set_clock(home_id, live.clock.at_speed(speed, app.now_ms()))
