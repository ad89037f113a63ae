"""Values that a device can be set to: whole steps of its resolution."""


def settled(value: float, step: float) -> float:
    """The nearest value in whole steps; the value itself where the step is 0, which is not known or any."""
    if step:
        return round(round(value / step) * step, 9)
    return value
