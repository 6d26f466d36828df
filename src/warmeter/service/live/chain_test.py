"""A group's channels tried by one press, and safety chains by a made-up report: what came of it, with its seconds."""

import time
from dataclasses import dataclass

from warmeter.core.home.document import Home
from warmeter.links.link_port import DirectLink
from warmeter.links.mqtt_link import MqttLink
from warmeter.service.app import App
from warmeter.service.live.delivery import Delivery, sent_by
from warmeter.service.live.places import broker_address, read_places
from warmeter.service.live.telling import group_of

TEST_EVENT = "channels tried"
CONNECT_S = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ChannelTrial:
    """What became of a channel that was tried: how long it took [s], or why it did not work."""

    name: str
    seconds: float
    why: str


def try_channels(app: App, home: Home, group_id: str, revision: int) -> tuple[ChannelTrial, ...]:
    """Send a test by each channel of a group, and keep what came of it as an event."""
    group = group_of(home, group_id)
    if group is None:
        return ()
    folder = app.uploads.parent
    places, address = read_places(folder), broker_address(folder)
    link = None
    if address is not None and any(channel.kind in ("lamp", "speech") for channel in group.channels):
        link = MqttLink(address, f"trial-{home.id}", (), app.now_ms)
        link.start()
        link.wait_connected(CONNECT_S)
    delivery = Delivery(
        mail=None if places is None else places.mail,
        publish=(link or DirectLink(is_connected=False)).publish,
        page_url="" if places is None else places.page_url,
        now_ms=app.now_ms,
    )
    addresses = app.live_homes.addresses(home.id)
    trials = []
    for channel in group.channels:
        begun = time.monotonic()
        why = sent_by(
            home, group, channel, addresses.get(channel.id, ""), f"{home.name}: a test of {group.name}", delivery
        )
        trials.append(ChannelTrial(name=channel.name, seconds=time.monotonic() - begun, why=why))
    if link is not None:
        link.stop()
    told = "; ".join(t.why or f"{t.seconds:.1f} s" for t in trials)
    app.events.add(home.id, TEST_EVENT, group.id, app.now_ms(), told, revision)
    return tuple(trials)
