"""What stands in the air: boxes, carriers, open wheels and snow, as factors on the drag area."""

import math
from dataclasses import dataclass

from ..basis import Basis, figure

ROOF_BOX = figure("extras.roof_box", 1.30, "", Basis.FROM_MEMORY, "drag area with a roof box, + 25–35 %")
REAR_CARRIER = figure("extras.rear_carrier", 1.10, "", Basis.FROM_MEMORY, "drag area with bicycles behind, + 10 %")
COVERS_OFF = figure("extras.covers_off", 1.05, "", Basis.FROM_MEMORY, "drag area with the wheel covers off, + 5 %")
WINDOW = figure("extras.window", 1.04, "", Basis.FROM_MEMORY, "drag area with the front windows a hand open, + 3–5 %")
SNOW = figure("extras.snow", 1.10, "", Basis.FROM_MEMORY, "drag area with snow left on the car, + 10 %")


@dataclass(frozen=True)
class Extras:
    """What is on the car."""

    roof_box: bool = False
    rear_carrier: bool = False
    covers_off: bool = False
    snow: bool = False
    windows: bool = False

    @property
    def drag_factor(self) -> float:
        """Factor on the drag area, 1 for a clean car."""
        on_car = (
            (ROOF_BOX, self.roof_box),
            (REAR_CARRIER, self.rear_carrier),
            (COVERS_OFF, self.covers_off),
            (SNOW, self.snow),
            (WINDOW, self.windows),
        )
        return math.prod(factor for factor, on in on_car if on)
