"""By what alerts are told: mail, web hooks, lamps and speech, beside the work of the one who looks after the home."""

import logging
from collections.abc import Callable, Hashable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

from warmeter.core.home.document import Home
from warmeter.core.home.links import CommandMapping
from warmeter.core.home.rules import Channel, NotificationGroup
from warmeter.core.live.command_run import payload_of
from warmeter.links.link_port import Publish
from warmeter.links.mail import MailServer, NotSent, send_mail
from warmeter.links.web_hook import post_hook
from warmeter.service.logfile import note
from warmeter.store.engine import DatabaseAway, DatabaseBusy

AT_ONCE = 4


class Senders:
    """Threads that deliver, so that a server that does not answer holds up nothing else; alarms wait behind nothing but alarms."""

    def __init__(self) -> None:
        self._loud = ThreadPoolExecutor(AT_ONCE, "alarm")
        self._other = ThreadPoolExecutor(AT_ONCE, "message")
        self._under_way: set[Hashable] = set()

    def deliver(self, key: Hashable, send: Callable[[], None], *, is_loud: bool) -> None:
        """Deliver what is not under way already; what was not ended is to be asked for again."""
        if key not in self._under_way:
            self._under_way.add(key)
            (self._loud if is_loud else self._other).submit(self._sent, key, send)

    def close(self) -> None:
        """End what is under way, and begin nothing more."""
        for each in (self._loud, self._other):
            each.shutdown(wait=True, cancel_futures=True)

    def _sent(self, key: Hashable, send: Callable[[], None]) -> None:
        try:
            send()
        except (DatabaseAway, DatabaseBusy) as error:
            note("telling not kept", level=logging.WARNING, error=error)
        except Exception as error:
            note("telling broke", level=logging.ERROR, error=error)
        finally:
            self._under_way.discard(key)


@dataclass(frozen=True, slots=True, kw_only=True)
class Delivery:
    """By what an alert can be told: the mail server, the link, the address of the page; without senders at once."""

    mail: MailServer | None
    publish: Publish
    page_url: str
    now_ms: Callable[[], int]
    senders: Senders | None = field(default=None, compare=False)


def sent_by(home: Home, group: NotificationGroup, channel: Channel, address: str, text: str, by: Delivery) -> str:
    """Send words by a channel; return why that did not work, "" if it did."""
    try:
        if channel.kind == "mail":
            if by.mail is None:
                return "no mail server is set"
            if not address:
                return "it has no address"
            urgent = group.loudness == "alarm"
            send_mail(by.mail, address, text, f"{text}\n\nAnswer on {by.page_url}\n", is_urgent=urgent)
        elif channel.kind == "web_hook":
            post_hook(address, {"home": home.id, "group": group.name, "loudness": group.loudness, "text": text})
        else:
            return _commanded(home.command_mappings, channel, text, by)
    except NotSent as error:
        return str(error)
    return ""


def _commanded(mappings: Sequence[CommandMapping], channel: Channel, text: str, by: Delivery) -> str:
    """Let a lamp or a sounder go on, or a speaker speak; return why that did not work, "" if it did."""
    does = "text" if channel.kind == "speech" else "switch"
    mapping = next((m for m in mappings if m.target_id == channel.device_id and m.does == does), None)
    if mapping is None:
        return "its device has no command for it"
    is_taken = by.publish(mapping.topic, payload_of(mapping, 1.0, text), is_once=mapping.is_toggle)
    return "" if is_taken else "the link to the devices is down"
