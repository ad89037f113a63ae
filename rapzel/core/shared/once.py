"""An attribute that is worked out when it is first asked for, and kept.

`functools.cached_property` of Python 3.11 holds a lock of the whole class meanwhile: threads that answer different
people wait for each other, and each attribute takes twice as long. What is kept here follows from frozen values
alone, so that two threads which work it out at once get the same.
"""

from collections.abc import Callable
from typing import Any, Generic, Self, TypeVar, overload

Value = TypeVar("Value")


class once(Generic[Value]):
    """Decorates a method without arguments: `@once`. Read as `property` is, and written as it is."""

    def __init__(self, work: Callable[[Any], Value]) -> None:
        self._work = work
        self._name = work.__name__
        self.__doc__ = work.__doc__

    @overload
    def __get__(self, instance: None, owner: type) -> Self: ...
    @overload
    def __get__(self, instance: object, owner: type) -> Value: ...
    def __get__(self, instance: object | None, owner: type) -> Self | Value:
        """Works the attribute out; later it is found in the instance itself, without asking here."""
        if instance is None:
            return self
        value = self._work(instance)
        instance.__dict__[self._name] = value
        return value
