"""The one layer between what people write and what Rapzel counts with: read, shown and stepped by quantity.

No application reads a number, a time or a length by itself (a contract test holds this): a person who likes feet would
be read in metres there.
"""

from rapzel.ui.inputs.fields import QuantityField
from rapzel.ui.inputs.quantities import QUANTITIES, Quantity, read, shown

__all__ = ["QUANTITIES", "Quantity", "QuantityField", "read", "shown"]
