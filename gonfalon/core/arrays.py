"""What the arrays of whole trees hold."""

import numpy as np
from numpy.typing import NDArray

Bits = NDArray[np.uint64]
"""An unsigned integer for each node, with a bit for each column of a plan: typed as the largest there may be."""
Bools = NDArray[np.bool_]
Ints = NDArray[np.intp]
"""Positions in a tree, rows of a sheet, numbers of things: places in some other array."""
