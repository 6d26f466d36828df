"""A home's clock: the machine's own, or that of a made-up home that runs faster."""

from dataclasses import dataclass

from warmeter.core.errors import OutOfRange

SLOWEST, FASTEST = 1.0, 3600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class HomeClock:
    """Maps the machine's time to the home's.

    Parameters
    ----------
    real_ms, home_ms : int
        An instant of the machine's clock, and what the home's showed at it [ms UTC].
    speed : float
        How many times as fast the home's runs, 1 to 3,600.
    """

    real_ms: int = 0
    home_ms: int = 0
    speed: float = 1.0

    def __post_init__(self) -> None:
        if not SLOWEST <= self.speed <= FASTEST:
            raise OutOfRange("speed", self.speed, SLOWEST, FASTEST)

    @property
    def is_made_up(self) -> bool:
        """Whether it is not the machine's own."""
        return self.speed != 1.0 or self.real_ms != self.home_ms

    def home_at(self, real_ms: int) -> int:
        """Return what it shows at an instant of the machine's clock [ms UTC]."""
        return self.home_ms + round((real_ms - self.real_ms) * self.speed)

    def real_at(self, home_ms: int) -> int:
        """Return when it shows an instant, by the machine's clock [ms UTC]."""
        return self.real_ms + round((home_ms - self.home_ms) / self.speed)

    def at_speed(self, speed: float, real_ms: int) -> "HomeClock":
        """Return it going on at another speed from an instant of the machine's clock on; ``OutOfRange`` beyond 3,600."""
        return HomeClock(real_ms=real_ms, home_ms=self.home_at(real_ms), speed=speed)
