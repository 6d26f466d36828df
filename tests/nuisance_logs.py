"""One made-up log for each nuisance, as the apps of cheap devices write them: other headings and steps in each."""

import numpy as np

from tests.logs import START_MS, room_csv
from warmeter.core.timegrid import from_ms
from warmeter.simulators.machines.labelled import labelled_log

QUARTER_MS, MINUTE_MS = 900_000, 60_000


def plug_csv(days: float = 10) -> str:
    """Return a washing machine's plug every 10 s, without the machine's name."""
    power = labelled_log("washer", 404, 10, days=days, fault="").power_w
    lines = ["Date;Power (W)"]
    lines += [
        f"{from_ms(START_MS + k * 10_000):%d.%m.%Y %H:%M:%S};{str(round(float(w), 1)).replace('.', ',')}"
        for k, w in enumerate(power)
        if not np.isnan(w)
    ]
    return "\n".join(lines) + "\n"


def cold_room_csv() -> str:
    """Return a fortnight of a room with its heat and outdoors."""
    return room_csv(14, "Parlour")


def warm_room_csv(over_k: float = 0.0, sun_w: float = 0.0, mean_c: float = 4.0, days: int = 10) -> str:
    """Return a den every ten minutes: its thermostat asks so much over 20 °C by day and 16 °C at night, sun from 13 to 16.

    Air and walls are two stores.
    """
    air, walls, is_on = 18.0, 18.0, False
    lines = ["Zeit;Den temperature (°C);Outdoor temperature (°C);Den heat (W)"]
    for k in range(days * 144):
        hour = (k / 6) % 24
        outdoor = mean_c + 4.0 * float(np.cos(2 * np.pi * (hour - 14) / 24))
        asked = 20.0 + over_k if 6.5 <= hour < 22 else 16.0
        heated = 0.0
        for _ in range(10):
            is_on = air < asked + (0.2 if is_on else -0.2)
            heat = 1500.0 if is_on else 0.0
            gain = sun_w if 13 <= hour < 16 else 0.0
            flow = 150.0 * (air - walls)
            air += (heat + gain - 40.0 * (air - outdoor) - flow) / (60.0 * 90.0)
            walls += flow / (60.0 * 1500.0)
            heated += heat / 10
        stamp = f"{from_ms(START_MS + k * 600_000):%d.%m.%Y %H:%M}"
        values = f"{air:.1f};{outdoor:.1f};{heated:.0f}".replace(".", ",")
        lines.append(f"{stamp};{values}")
    return "\n".join(lines) + "\n"


def meter_csv(days: int = 14, floor_w: float = 95.0) -> str:
    """Return a meter's quarter hours [kWh]: a floor all night, more by day."""
    rng, lines = np.random.default_rng(8), ["Interval start,Usage (kWh)"]
    for k in range(days * 96):
        hour = (k % 96) / 4
        use = floor_w + (rng.uniform(50, 900) if 6 <= hour < 23 else rng.uniform(0, 6))
        lines.append(f"{from_ms(START_MS + k * QUARTER_MS):%Y-%m-%d %H:%M},{use / 4000:.4f}")
    return "\n".join(lines) + "\n"


def leak_csv() -> str:
    """Return what a leak sensor reported: dry, once wet for twenty minutes."""
    at = [(0, "dry"), (60 * 30, "wet"), (60 * 30 + 20, "dry"), (60 * 40, "dry")]
    return "\n".join(["time,Leak", *(f"{from_ms(START_MS + m * MINUTE_MS):%Y-%m-%d %H:%M},{word}" for m, word in at)])


def window_csv(days: int = 7) -> str:
    """Return a bath's window and heat every minute: open each morning from 7:10 for half an hour while it is heated."""
    lines = ["time,Window,Bath temperature °C,Heater power W"]
    for k in range(days * 1440):
        minute = k % 1440
        is_open = 430 <= minute < 460
        heat = 1200 if 380 <= minute < 500 else 0
        warm = 21.0 - (3.0 * (minute - 430) / 30 if is_open else 0.0)
        lines.append(
            f"{from_ms(START_MS + k * MINUTE_MS):%Y-%m-%d %H:%M},{'open' if is_open else 'closed'},{warm:.1f},{heat}"
        )
    return "\n".join(lines) + "\n"
