"""A list of functions to call when something happened. Called on the thread that emits, in order of joining."""

from __future__ import annotations

from collections.abc import Callable


class Signal:
    """Something others can listen to."""

    def __init__(self) -> None:
        self._listeners: list[Callable[..., object]] = []

    def connect(self, listener: Callable[..., object]) -> None:
        """Call `listener` whenever this is emitted."""
        self._listeners.append(listener)

    def disconnect(self, listener: Callable[..., object]) -> None:
        """Stop calling `listener`."""
        if listener in self._listeners:
            self._listeners.remove(listener)

    def emit(self, *notify: object) -> None:
        """Tell all listeners."""
        for listener in list(self._listeners):
            listener(*notify)
