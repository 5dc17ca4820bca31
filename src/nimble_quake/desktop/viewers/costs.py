"""What each step takes of a frame, so that a slow one is seen in its row."""

from __future__ import annotations

from nimble_quake.render.shown.request import BenchResponse

LEAST = 0.5
"""Milliseconds; a step that takes less says nothing."""
WEIGHT = 0.3
"""How much a new frame counts: one slow frame is no slow step."""


class Costs:
    """Milliseconds by path, of the frames that were computed lately."""

    def __init__(self) -> None:
        self._costs: dict[str, float] = {}

    def take(self, response: BenchResponse) -> None:
        """Count the steps of a frame in. A frame that was kept took nothing, and says nothing."""
        for path, cost in response.costs.items():
            old = self._costs.get(path, cost)
            self._costs[path] = old + (cost - old) * WEIGHT

    def of(self, path: str) -> float:
        """Return what a step takes, in milliseconds."""
        return self._costs.get(path, 0.0)

    def note(self, path: str) -> str:
        """Return it in a few letters; "" where it is next to nothing."""
        cost = self.of(path)
        return "" if cost < LEAST else f"{cost:.1f} ms" if cost < 9.95 else f"{cost:.0f} ms"
