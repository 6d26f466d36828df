"""Commands on sources of heat and on heaters."""

from dataclasses import dataclass, replace
from typing import Annotated

from annotated_types import Ge, Le

from warmeter.core.edits.edit import UNSET, Edit, FieldsOf, Unset, Values
from warmeter.core.edits.home_edits import swapped
from warmeter.core.edits.ids import new_id
from warmeter.core.errors import HomeError
from warmeter.core.home.document import Home
from warmeter.core.home.part import Id, Unit
from warmeter.core.home.plant import Heater, HeaterKind, Source, SourceKind, SplitUnit

WATER_J_LK = 4186.0
SOURCE_NAME: dict[SourceKind, str] = {"direct": "direct electric", "heat_pump": "heat pump", "boiler": "boiler"}
SOURCE_FIELDS = (
    "name",
    "flow_c",
    "spread_k",
    "most_w",
    "least_w",
    "hysteresis_k",
    "efficiency",
    "fuel",
    "fuel_kwh",
    "fuel_price",
    "cop_points",
    "differential_kpa",
)
HEATER_FIELDS = (
    "name",
    "rated_heat_w",
    "exponent",
    "rated_excess_k",
    "band_k",
    "step_k",
    "step_min",
    "min_on_min",
    "min_off_min",
    "free_floor_m2",
    "surface_limit_c",
    "clearance_m",
    "length_m",
    "source_id",
    "pipe_loss_kpa",
    "kv_m3_h",
)
SPLIT_FIELDS = (
    "cop",
    "heat_slope_1_k",
    "cop_slope_1_k",
    "cooling_w",
    "eer",
    "cooling_slope_1_k",
    "eer_slope_1_k",
    "degradation",
    "fan_steps",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class AddSource:
    """Add a source of a kind, with what is usual for it."""

    kind: SourceKind

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        is_pump = self.kind == "heat_pump"
        source = Source(
            id=new_id(),
            name=SOURCE_NAME[self.kind].capitalize(),
            kind=self.kind,
            cop_points=((-7.0, 2.4), (2.0, 3.0), (7.0, 3.6)) if is_pump else (),
            flow_c=None if self.kind == "direct" else 45.0 if is_pump else 65.0,
            spread_k=5.0 if is_pump else 10.0,
        )
        return Edit(replace(home, sources=(*home.sources, source)), f"{source.name} added", source.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeSource:
    """Type a source's figures; ``litres`` of water circulate, and leaving it empty forgets them."""

    id: Id
    values: Annotated[Values, FieldsOf(Source, SOURCE_FIELDS)]
    litres: Annotated[float, Ge(1), Le(5000), Unit("L")] | Unset | None = UNSET

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        values = dict(self.values)
        if not isinstance(self.litres, Unset):
            values["water_j_k"] = None if self.litres is None else self.litres * WATER_J_LK
        changed = replace(home.source(self.id), **values)
        return Edit(replace(home, sources=swapped(home.sources, changed)), f"{changed.name} changed", self.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class RemoveSource:
    """Remove a source that nothing hangs on."""

    id: Id

    def edit(self, home: Home) -> Edit:
        """Return the home without it."""
        source = home.source(self.id)
        if any(system.source_id == source.id for system in home.ducts):
            raise HomeError(f"ducts hang on {source.name}; give them another source first")
        if any(h.source_id == source.id for h in home.heaters):
            raise HomeError(f"heaters hang on {source.name}; give them another source first")
        left = tuple(s for s in home.sources if s.id != source.id)
        return Edit(replace(home, sources=left), f"{source.name} removed", "")


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeHeater:
    """Type a heater's figures; those of its plate for cold and efficiency only count for a split unit."""

    id: Id
    values: Annotated[Values, FieldsOf(Heater, HEATER_FIELDS)]
    plate: Annotated[Values, FieldsOf(SplitUnit, SPLIT_FIELDS)]

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        heater = home.heater(self.id)
        split = heater.split and replace(heater.split, **self.plate)
        return _with_heater(home, replace(heater, **self.values, split=split))


def _with_heater(home: Home, heater: Heater) -> Edit:
    home.source(heater.source_id)
    return Edit(replace(home, heaters=swapped(home.heaters, heater)), f"{heater.name} changed", heater.id)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeHeaterKind:
    """Change what kind a heater is; its plate stays where it still means something."""

    id: Id
    kind: HeaterKind

    def edit(self, home: Home) -> Edit:
        """Return the home with it changed."""
        heater = home.heater(self.id)
        split = heater.split or SplitUnit() if self.kind == "split_unit" else None
        return _with_heater(home, replace(heater, kind=self.kind, split=split))
