"""A panel that is worked by its own buttons and read by its lamps: no word comes back from it but light."""

from dataclasses import dataclass
from typing import Annotated, Literal

from annotated_types import Ge, Gt, Le

from warmeter.core.home.part import Document, Id, Name, Unit

BlinkMeans = Literal["on", "off", "between"]
LampS = Annotated[float, Gt(0), Le(600), Unit("s")]


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelFunction(Document):
    """What one lamp of a panel shows, and the button that turns it on and off by turns.

    The lamp blinks with a period of ``blink_s`` and is watched for ``watch_s`` before its state is believed;
    ``blinking_means`` says what blinking stands for. ``lamp_sensor_id`` sees its light, ``presser_id`` presses the
    button; without one a person does. Presses rest ``rest_s`` apart, ``hour_most`` an hour at most, and are looked
    after ``check_s`` later. After ``tries`` presses that changed nothing somebody is told.
    """

    id: Id
    name: Name
    blink_s: LampS = 1.0
    watch_s: LampS = 3.0
    blinking_means: BlinkMeans = "between"
    lamp_sensor_id: Id | None = None
    presser_id: Id | None = None
    rest_s: LampS = 3.0
    hour_most: Annotated[int, Ge(1), Le(60)] = 6
    check_s: LampS = 20.0
    tries: Annotated[int, Ge(1), Le(10)] = 3
