"""Messages over MQTT: heard into a bounded queue, acknowledged only when they are kept."""

import threading
import time
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from queue import Empty, Full, Queue
from typing import Any

from paho.mqtt.client import Client, MQTTMessage
from paho.mqtt.enums import CallbackAPIVersion, MQTTErrorCode, MQTTProtocolVersion

from warmeter.links.link_port import MOST_AT_ONCE, HeardMessage

MAXIMUM_WAITING = 20_000
KEEP_ALIVE_S = 20
RECEIVE_AT_ONCE = 2000
THERE, GONE, STOP_S = "there", "gone", 1.0
AGAIN_S = 1  # what comes while nobody listens lies with the broker alone


@dataclass(frozen=True, slots=True, kw_only=True)
class BrokerAddress:
    """Where a broker listens, and as whom one comes."""

    host: str
    port: int
    user: str
    password: str
    is_encrypted: bool = False


class MqttLink:
    """A connection to a broker that comes back by itself.

    Parameters
    ----------
    address : BrokerAddress
        Where to.
    name : str
        Under which the broker keeps what could not be delivered; one at a time.
    listens : sequence of str
        Topic patterns.
    now_ms : callable
        The machine's clock [ms UTC].
    presence : str
        A topic under which the broker keeps whether this program is there, and says so when it no longer hears it
        (the last will of MQTT 3.1.1, 3.1.2.5); "" for none.
    """

    def __init__(
        self, address: BrokerAddress, name: str, listens: Sequence[str], now_ms: Callable[[], int], presence: str = ""
    ) -> None:
        self._address, self._listens, self._now_ms = address, tuple(listens), now_ms
        self._waiting: Queue[HeardMessage] = Queue(MAXIMUM_WAITING)
        self._lock = threading.Lock()
        self._dropped = 0
        self._connected, self._session = threading.Event(), 0
        self.why = "not yet connected"
        self._client = Client(
            CallbackAPIVersion.VERSION2,
            client_id=name,
            clean_session=False,
            manual_ack=True,
            protocol=MQTTProtocolVersion.MQTTv311,
        )
        self._client.username_pw_set(address.user, address.password)
        if address.is_encrypted:
            self._client.tls_set()
        self._presence = presence
        if presence:
            self._client.will_set(presence, GONE, qos=1, retain=True)
        self._client.max_queued_messages_set(RECEIVE_AT_ONCE)
        self._client.reconnect_delay_set(min_delay=1, max_delay=AGAIN_S)
        self._client.on_connect = self._on_connect
        self._client.on_disconnect = self._on_disconnect
        self._client.on_message = self._on_message
        self._client.on_subscribe = self._on_subscribe

    def start(self) -> None:
        """Connect in the background, and again whenever the connection is lost."""
        self._client.connect_async(self._address.host, self._address.port, keepalive=KEEP_ALIVE_S)
        self._client.loop_start()

    def stop(self) -> None:
        """End the connection; what was not acknowledged is sent again to whoever comes next under this name."""
        if self._presence and self.is_connected:
            with suppress(RuntimeError, ValueError):  # lost in this very moment: the broker says it then
                said = self._client.publish(self._presence, GONE, qos=1, retain=True)
                end = time.monotonic() + STOP_S
                # Where another has taken the connection over, it would come back to say it.
                while self.is_connected and not said.is_published() and time.monotonic() < end:
                    said.wait_for_publish(STOP_S / 20)
        self._client.disconnect()
        self._client.loop_stop()

    @property
    def is_connected(self) -> bool:
        """Whether the broker answers, and has taken the patterns."""
        return self._connected.is_set()

    def wait_connected(self, seconds: float) -> bool:
        """Wait until the broker has taken the patterns; return whether it has."""
        return self._connected.wait(seconds)

    @property
    def dropped(self) -> int:
        """How many messages found no place; those with a receipt are sent again later."""
        return self._dropped

    def listen(self, listens: Sequence[str]) -> None:
        """Listen to other patterns from now on."""
        gone, new = set(self._listens) - set(listens), set(listens) - set(self._listens)
        self._listens = tuple(listens)
        if gone:
            self._client.unsubscribe(sorted(gone))
        if new:
            self._client.subscribe([(pattern, 1) for pattern in sorted(new)])

    def heard(self, wait_s: float, most: int = MOST_AT_ONCE) -> list[HeardMessage]:
        """Return messages that were heard, waiting so long for the first."""
        found: list[HeardMessage] = []
        try:
            found.append(self._waiting.get(timeout=wait_s))
            while len(found) < most:
                found.append(self._waiting.get_nowait())
        except Empty:
            pass
        return found

    def acknowledge(self, messages: Iterable[HeardMessage]) -> None:
        """Tell the broker that messages are kept; those of a connection that has been lost are sent again anyway."""
        for each in messages:
            if each.quality > 0 and each.session == self._session:
                self._client.ack(each.message_id, each.quality)

    def publish(self, topic: str, payload: str, *, is_once: bool = False) -> bool:
        """Send a message with a receipt, or ``is_once`` without one; return whether the connection took it.

        With a receipt a message is sent again after a break until it is received, so that it may come twice: what
        switches by turns goes without.
        """
        if not self.is_connected:
            return False
        sent = self._client.publish(topic, payload, qos=0 if is_once else 1).rc
        # One with a receipt is in the client's hands even where the connection was lost in this very moment.
        return sent == MQTTErrorCode.MQTT_ERR_SUCCESS or (sent == MQTTErrorCode.MQTT_ERR_NO_CONN and not is_once)

    def _on_connect(self, client: Client, _data: Any, _flags: Any, reason: Any, _properties: Any) -> None:
        if reason.is_failure:
            self.why = f"the broker refused: {reason}"
            return
        with self._lock:
            self._session += 1
        self.why = ""
        if self._listens:
            client.subscribe([(pattern, 1) for pattern in self._listens])
        if self._presence:
            client.publish(self._presence, THERE, qos=1, retain=True)
        if not self._listens:
            self._connected.set()

    def _on_subscribe(self, *_: Any) -> None:
        # What is sent before the broker has taken the patterns is not heard.
        self._connected.set()

    def _on_disconnect(self, _client: Client, _data: Any, _flags: Any, reason: Any, _properties: Any) -> None:
        self._connected.clear()
        self.why = f"the connection was lost: {reason}"

    def _on_message(self, _client: Client, _data: Any, message: MQTTMessage) -> None:
        heard = HeardMessage(
            topic=message.topic,
            payload=bytes(message.payload),
            heard_ms=self._now_ms(),
            is_retained=message.retain,
            message_id=message.mid,
            quality=message.qos,
            is_again=message.dup,
            session=self._session,
        )
        try:
            if message.qos:
                # With a receipt nothing is lost: the broker waits while there is no place.
                self._waiting.put(heard, timeout=KEEP_ALIVE_S)
            elif self._waiting.qsize() < MAXIMUM_WAITING // 2:
                self._waiting.put_nowait(heard)
            else:
                self._dropped += 1  # a flood without receipts leaves room for those with one
        except Full:
            self._dropped += 1
