"""Devices that send their own time along: clocks that are wrong, and messages that a dead spot kept back."""

import json
from dataclasses import dataclass, field, replace

import numpy as np

from warmeter.core.units import MS_PER_MIN, MS_PER_S
from warmeter.simulators.live_devices import SentMessage

LATE_SHARE, SOONEST_MIN, LATEST_MIN = 0.03, 0.5, 40.0


@dataclass(slots=True)
class DeviceClocks:
    """The clocks of some devices, by how far each is off [s]; some of their messages come late, out of order.

    A message becomes JSON: the value under ``v``, the device's own time under ``t`` [ms UTC].
    """

    rng: np.random.Generator
    off_s: dict[str, float]
    kept_back: list[tuple[int, SentMessage]] = field(default_factory=list)

    def heard(self, sent: list[SentMessage], now_ms: int) -> list[SentMessage]:
        """Return what is heard now of what was sent, and of what was kept back before."""
        found = [message for due_ms, message in self.kept_back if due_ms <= now_ms]
        self.kept_back = [row for row in self.kept_back if row[0] > now_ms]
        for message in sent:
            off_s = self.off_s.get(message.topic.split("/")[2])
            if off_s is None:
                found.append(message)
                continue
            own_ms = message.at_ms + round(off_s * MS_PER_S)
            stamped = replace(message, payload=json.dumps({"v": message.payload, "t": own_ms}))
            if self.rng.random() < LATE_SHARE:
                wait_ms = round(float(self.rng.uniform(SOONEST_MIN, LATEST_MIN)) * MS_PER_MIN)
                self.kept_back.append((now_ms + wait_ms, stamped))
            else:
                found.append(stamped)
        return found
