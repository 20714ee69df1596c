"""Values that may be one number or many."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
# One number, or many in any shape.
Values = float | Sequence[float] | NDArray[Any]
# A float where every input was one, else an array of their common shape.
Same = Any
