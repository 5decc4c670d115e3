"""How the parts of a bench say that something happened."""

from collections.abc import Callable
from typing import Generic, ParamSpec

P = ParamSpec("P")


class Event(Generic[P]):
    """Something that happens, for everyone who wants to know: a signal without Qt."""

    def __init__(self) -> None:
        self._listeners: list[Callable[P, object]] = []

    def connect(self, listener: Callable[P, object]) -> None:
        self._listeners.append(listener)

    def clear(self) -> None:
        self._listeners.clear()

    def emit(self, *args: P.args, **more: P.kwargs) -> None:
        for listener in tuple(self._listeners):
            listener(*args, **more)
