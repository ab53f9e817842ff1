"""Conversions and named constants. SI inside, with units in the names."""

import numpy as np
import numpy.typing as npt

from .basis import Basis, figure

GRAVITY_MPS2 = figure("units.gravity", 9.80665, "m/s²", Basis.PUBLISHED, "ISO 80000-3, standard acceleration of gravity")
STANDARD_PRESSURE_PA = figure("units.standard_pressure", 101_325.0, "Pa", Basis.PUBLISHED, "ISO 2533, standard atmosphere")
ZERO_C_IN_K = 273.15
KM_PER_MILE = 1.609344
KPA_PER_PSI = 6.894757
J_PER_KWH = 3.6e6
S_PER_H = 3600.0
KMH_PER_MPS = 3.6

Array = npt.NDArray[np.float64]
Flags = npt.NDArray[np.bool_]
Ints = npt.NDArray[np.int64]
Number = float | Array
