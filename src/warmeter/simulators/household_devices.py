"""What is installed in a made-up household, and what it tells: late, silent and wrong, each in its own way."""

import numpy as np

from warmeter.core.arrays import Bytes, Floats, Ints
from warmeter.core.home.devices import Device, DeviceKind, Power
from warmeter.core.home.document import Home, Place
from warmeter.core.home.machines import Appliance
from warmeter.core.home.people import Occupant, Witness
from warmeter.core.home.rooms import Described, Room
from warmeter.core.units import MIN_PER_DAY, MS_PER_MIN, MS_PER_S
from warmeter.simulators.household_life import DOINGS, OUT, PLACE, ROOMS, Doing, Habit, Life

NAMES = ("Orla", "Bram", "Wren", "Tove")
# Chance that a motion sensor notices somebody within a minute, by what they do.
NOTICED: dict[Doing, float] = {"out": 0.0, "moving": 0.9, "sitting": 0.3, "still": 0.05, "asleep": 0.01}
Heard = dict[tuple[str, str], tuple[Ints, Floats]]


class Installed:
    """What is installed in a household, and what it tells."""

    def __init__(self, rng: np.random.Generator, lives: list[Life], guests: Bytes, start_ms: int) -> None:
        self._rng, self._lives, self._guests, self._start_ms = rng, lives, guests, start_ms
        self._minutes = guests.size
        self.heard: Heard = {}
        self._devices: list[Device] = []
        self._pet = float(rng.choice([0.0, 0.0, 0.3, 1.0]))
        self._other_door = float(rng.choice([0.0, 0.0, 0.0, 0.15]))
        self._has_motion = {"hall", "kitchen", "parlour"} | {
            r for r in ("study", "bath", "bedroom") if rng.random() < 0.6
        }
        self._presence_room = str(rng.choice(["parlour", "study", ""], p=[0.5, 0.25, 0.25]))

    def home(self, seed: int, habits: list[Habit]) -> Home:
        """Install everything, and return the home with its people."""
        self._add("door", "Front door", "contact", "hall")
        doors = self._doors()
        self._tell("is_open", "door", doors)
        for room in sorted(self._has_motion):
            self._add(f"motion-{room}", f"Motion {room}", "motion", room, hold_s=float(self._rng.choice([45, 60, 120])))
            self._tell("is_moving", f"motion-{room}", self._motion(room, doors))
        if self._presence_room:
            self._add("presence", "Presence sensor", "presence_sensor", self._presence_room, hold_s=60.0)
            self._tell("is_in", "presence", self._presence())
        has_mattress = self._rng.random() < 0.5
        if has_mattress:
            self._add("mattress", "Bed", "mattress", "bedroom")
            self._tell("is_in_bed", "mattress", self._mattress())
        worker = next((k for k, habit in enumerate(habits) if habit == "office"), None)
        if worker is not None:
            self.heard["electric_w", "desk"] = self._desk(self._lives[worker])
        people = tuple(self._person(k, habit, worker == k, has_mattress and k == 0) for k, habit in enumerate(habits))
        return Home(
            id=f"household-{seed}",
            name=f"Household {seed}",
            place=Place(latitude_deg=51.0, longitude_deg=6.0),
            time_zone="UTC",
            country="NL",
            currency="EUR",
            rooms=tuple(
                Room(
                    id=key,
                    name=name,
                    use=use,
                    described=Described(floor_area_m2=14.0),
                    height_m=2.5,
                    built="1978_1994",
                    mass_class="medium",
                )
                for key, name, use in ROOMS
            ),
            devices=tuple(self._devices),
            appliances=() if worker is None else (Appliance(id="desk", name="Desk screen", kind="computer"),),
            people=people,
        )

    def _person(self, place: int, habit: Habit, has_desk: bool, has_mattress: bool) -> Occupant:
        key = f"person-{place}"
        witnesses = []
        if habit != "school":
            phone = f"phone-{place}"
            self._add(phone, f"{NAMES[place]} telephone", "telephone", None)
            self._tell("is_home", phone, self._telephone(self._lives[place]))
            witnesses.append(Witness(id=f"w-phone-{place}", kind="telephone", device_ids=(phone,)))
        seen = tuple(f"motion-{room}" for room in sorted(self._has_motion))
        witnesses.append(Witness(id=f"w-door-{place}", kind="door_motion", device_ids=("door", *seen)))
        if len(self._lives) == 1:
            witnesses.append(Witness(id=f"w-motion-{place}", kind="motion", device_ids=seen))
        if has_mattress:
            witnesses.append(Witness(id=f"w-bed-{place}", kind="mattress", device_ids=("mattress",)))
        if has_desk:
            witnesses.append(
                Witness(id=f"w-desk-{place}", kind="machine", machine_id="desk", room_id="study", on_w=30.0)
            )
        return Occupant(id=key, name=NAMES[place], witnesses=tuple(witnesses))

    def _add(self, key: str, name: str, kind: DeviceKind, room: str | None, hold_s: float | None = None) -> None:
        power: Power = "battery" if kind in ("contact", "motion", "telephone") else "mains"
        self._devices.append(Device(id=key, name=name, kind=kind, room_id=room, hold_s=hold_s, power=power))

    def _tell(self, quantity: str, subject: str, rows: list[tuple[float, float]]) -> None:
        """Keep reports (minute, value) in order of time."""
        rows = sorted(rows)
        at = self._start_ms + np.array([round(m * MS_PER_MIN / MS_PER_S) * MS_PER_S for m, _ in rows], dtype=np.int64)
        self.heard[quantity, subject] = at, np.array([value for _, value in rows], dtype=np.float64)

    def _doors(self) -> list[tuple[float, float]]:
        """The front door: whoever goes and comes, unless by another door, the post, and two who go together."""
        rng, rows = self._rng, []
        times = {float(m) for life in self._lives for m in (*life.left, *life.came)}
        for at in sorted(times):
            if rng.random() >= self._other_door:
                rows += [(at, 1.0), (at + float(rng.uniform(0.1, 0.5)), 0.0)]
        there = np.stack([life.where for life in self._lives]) != OUT
        for day in range(self._minutes // MIN_PER_DAY):
            at = day * MIN_PER_DAY + int(rng.uniform(540, 1200))
            if rng.random() < 0.6 and there[:, at].any():
                rows += [(at + 0.5, 1.0), (at + 0.9, 0.0)]
        return rows

    def _motion(self, room: str, doors: list[tuple[float, float]]) -> list[tuple[float, float]]:
        """A motion sensor: noticed by what people do, pets, a glimpse of the next room; on for its hold."""
        rng = self._rng
        chance = np.zeros(self._minutes)
        for life in self._lives:
            here = life.where == PLACE[room]
            seen = np.array([NOTICED[d] for d in DOINGS])[life.doing]
            chance = 1 - (1 - chance) * (1 - np.where(here, seen, 0.0))
        if room == "parlour":
            chance = np.where(self._guests == PLACE["parlour"], 1 - (1 - chance) * 0.4, chance)
        chance = 1 - (1 - chance) * (1 - self._pet * 0.01)
        if room != "hall":
            through = np.zeros(self._minutes, dtype=bool)
            for life in self._lives:
                through |= life.where == PLACE["hall"]
            chance = np.where(through, 1 - (1 - chance) * 0.97, chance)
        noticed = list(np.flatnonzero(rng.random(self._minutes) < chance) + rng.uniform(0, 1))
        if room == "hall":
            came = {float(m) for life in self._lives for m in life.came}
            noticed += [at + (0.3 if at in came else -0.1) for at, is_open in doors if is_open]
        hold = next(d.hold_s for d in self._devices if d.id == f"motion-{room}") or 60.0
        return _held([float(m) for m in sorted(noticed)], hold / 60)

    def _presence(self) -> list[tuple[float, float]]:
        """A presence sensor: sees who sits still, loses them at times, and takes a curtain or a pet for somebody."""
        rng = self._rng
        there = np.zeros(self._minutes, dtype=bool)
        for life in self._lives:
            there |= life.where == PLACE[self._presence_room]
        there |= self._guests == PLACE[self._presence_room]
        noticed = there & (rng.random(self._minutes) < 0.8)
        for day in range(self._minutes // MIN_PER_DAY):
            if rng.random() < 0.5:
                at = day * MIN_PER_DAY + int(rng.uniform(0, MIN_PER_DAY))
                noticed[at : at + int(rng.lognormal(2.8, 0.6))] = True
        return _held([float(m) for m in np.flatnonzero(noticed)], 2.0)

    def _mattress(self) -> list[tuple[float, float]]:
        """A mattress: feels who sleeps after a while, loses them when they turn; now and then a pet lies on it."""
        rng = self._rng
        felt = (self._lives[0].where == PLACE["bedroom"]) & (self._lives[0].doing == DOINGS.index("asleep"))
        felt &= rng.random(self._minutes) > 0.004
        if self._pet:
            for day in range(self._minutes // MIN_PER_DAY):
                if rng.random() < 0.2:
                    at = day * MIN_PER_DAY + int(rng.uniform(600, 1000))
                    felt[at : at + int(rng.uniform(20, 120))] = True
        return _held([float(m) + 0.4 for m in np.flatnonzero(felt)], 1.5)

    def _desk(self, life: Life) -> tuple[Ints, Floats]:
        """A screen's plug every five minutes: on while its person is in the study, at times left on."""
        rng = self._rng
        on = life.where == PLACE["study"]
        ends = np.flatnonzero(on[:-1] & ~on[1:])
        for end in ends.tolist():
            if rng.random() < 0.1:
                on[end : end + int(rng.uniform(30, 150))] = True
        at = np.arange(0, self._minutes, 5)
        watts = np.where(on[at], rng.normal(75, 6, at.size), rng.normal(4, 0.3, at.size))
        return self._start_ms + at * MS_PER_MIN, np.maximum(watts, 0.0)

    def _telephone(self, life: Life) -> list[tuple[float, float]]:
        """A telephone: late on leaving, at times forgotten, empty or lost by the net; tells where it is twice an hour."""
        rng = self._rng
        where = np.where(life.where == OUT, 0.0, 1.0)
        forgets = float(rng.choice([0.01, 0.04, 0.1]))
        told = where.copy()
        for left in life.left:
            back = next((m for m in life.came if m > left), self._minutes)
            if rng.random() < forgets:
                told[left:back] = 1.0
            else:
                told[left : min(back, left + int(rng.uniform(3, 14)))] = 1.0
                if back < self._minutes:
                    told[back : back + int(rng.choice([0, 1, 2, 4, 15], p=[0.3, 0.3, 0.2, 0.15, 0.05]))] = 0.0
        for day in range(self._minutes // MIN_PER_DAY):
            if rng.random() < 0.15:
                at = day * MIN_PER_DAY + int(rng.uniform(0, MIN_PER_DAY))
                told[at : at + int(rng.uniform(3, 25))] = 0.0
        silent = np.zeros(self._minutes, dtype=bool)
        for _ in range(int(rng.poisson(self._minutes / MIN_PER_DAY / 6))):
            at = int(rng.uniform(0, self._minutes))
            silent[at : at + int(rng.uniform(120, 700))] = True
        rhythm = int(rng.choice([20, 30, 45]))
        speaks = (np.arange(self._minutes) % rhythm == 0) | np.append(True, told[1:] != told[:-1])
        heard = np.flatnonzero(speaks & ~silent).tolist()
        return [(float(m) + 0.1, float(told[m])) for m in heard]


def _held(noticed: list[float], hold_min: float) -> list[tuple[float, float]]:
    """Return reports of a sensor that is on from when it notices somebody until ``hold_min`` after the last time."""
    rows: list[tuple[float, float]] = []
    until = -1.0
    for at in noticed:
        if at > until:
            rows += [(until, 0.0)] if rows else []
            rows.append((at, 1.0))
        until = at + hold_min
    return [*rows, (until, 0.0)] if rows else rows
