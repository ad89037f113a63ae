"""How bright the parts of each subject are, for the share of it that clips."""

from functools import lru_cache

import numpy as np
import numpy.typing as npt

from rapzel.core.subjects.drawn import Subject
from rapzel.core.subjects.pen import View

_HIGH = 160  # pixels for the subject's height: a share is good to a tenth of a percent


@lru_cache(maxsize=8)
def reflectances(subject: Subject) -> npt.NDArray[np.float64]:
    """Reflectances of equal areas of a subject [0 … 1], from dark to light; what it stands before is left out."""
    view = View(_HIGH / 1.1, int(_HIGH * 1.7), _HIGH)
    front: npt.NDArray[np.float64] = np.full((view.height, view.width), np.nan)
    for layer in subject.draw(view, 1.0):
        # What is in front hides what is behind it.
        covered = layer.cover > 0.5
        front[covered] = (layer.lit / np.maximum(layer.cover, 1e-6))[covered]
    return np.sort(front[~np.isnan(front)])
