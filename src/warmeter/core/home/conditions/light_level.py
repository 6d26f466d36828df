"""How light it is outdoors under a clear sky."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import log10
from typing import Annotated, Any, ClassVar, Literal

from annotated_types import Ge, Le

from warmeter.core.home.conditions.dark import Dark
from warmeter.core.home.conditions.in_stretches import InStretches
from warmeter.core.home.conditions.phrase import FieldPlace, Phrase, SubjectPlace, yes_no
from warmeter.core.home.part import Unit
from warmeter.core.truth.calendar_times import Pairs
from warmeter.core.truth.scope import Scope

# From which height of the sun on [°], and the decimal logarithm of the light [lx] as a polynomial of height/90°.
_LIGHT: tuple[tuple[float, tuple[float, float, float, float]], ...] = (
    (20.0, (3.74, 3.97, -4.07, 1.47)),
    (5.0, (3.05, 13.28, -45.98, 64.33)),
    (-0.8, (2.88, 22.26, -207.64, 1034.30)),
    (-5.0, (2.88, 21.81, -258.11, -858.36)),
    (-12.0, (2.70, 12.17, -431.69, -1899.83)),
    (-18.0, (13.84, 262.72, 1447.42, 2797.93)),
)


def clear_sky_lx(height_deg: float) -> float:
    """Return the light of sun and clear sky on the flat [lx] at a height of the sun from −18 to 60 degrees.

    References
    ----------
    P. K. Seidelmann (ed.), Explanatory Supplement to the Astronomical Almanac, 1992, natural illumination.
    """
    height = max(height_deg, -18.0)
    terms = next(terms for low, terms in _LIGHT if height >= low)
    share = height / 90.0
    return float(10.0 ** sum(term * share**power for power, term in enumerate(terms)))


def height_of_light_deg(light_lx: float) -> float:
    """Return the sun's height at which a clear sky gives so much light [°], by halving; from −18 to 60."""
    low, high = -18.0, 60.0
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if log10(clear_sky_lx(middle)) < log10(light_lx) else (low, middle)
    return (low + high) / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class LightLevel(InStretches):
    """It is darker outdoors than so many lux by the sun's height, or not.

    Of a clear sky: clouds take half of it and more, so it is a bound, not a reading.
    """

    SUBJECT: ClassVar[str] = "light_level"
    LIST_PLACE: ClassVar[int] = 9
    NAME: ClassVar[str] = "light outdoors, of a clear sky"
    USUAL: ClassVar[Mapping[str, Any]] = {"light_lx": 500.0}

    light_lx: Annotated[float, Ge(0.001), Le(90_000), Unit("lx")]
    is_darker: bool = True
    kind: Literal["light_level"] = "light_level"

    @property
    def opposite(self) -> "LightLevel":
        """Lighter where it is darker."""
        return replace(self, is_darker=not self.is_darker)

    def phrase(self) -> Phrase:
        """Return its words."""
        return (
            SubjectPlace(text="the light of a clear sky"),
            yes_no("is_darker", "under or over", "is under", "is over", "how"),
            FieldPlace("light_lx", "the light"),
        )

    def stretches(self, scope: Scope) -> Pairs:
        """Return when the sun stands under, or over, the height that gives the light."""
        dark = Dark(below_deg=height_of_light_deg(self.light_lx)).stretches(scope)
        if self.is_darker:
            return dark
        edges = [scope.start_ms, *(edge for stretch in dark for edge in stretch), scope.end_ms]
        return [(begin, until) for begin, until in zip(edges[::2], edges[1::2], strict=True) if until > begin]
