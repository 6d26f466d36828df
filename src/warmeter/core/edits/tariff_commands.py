"""Commands on tariffs."""

from dataclasses import dataclass, replace

from warmeter.core.edits.edit import Edit
from warmeter.core.home.document import Home, Tariff


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeTariff:
    """Put a tariff in the place of the last one."""

    tariff: Tariff

    def edit(self, home: Home) -> Edit:
        """Return the home with it."""
        changed = replace(home, tariffs=(*home.tariffs[:-1], self.tariff))
        return Edit(changed, f"Tariff {self.tariff.name}: {len(self.tariff.rates)} rates")
