"""Undo and redo as labelled snapshots that share what did not change."""

from __future__ import annotations

from dataclasses import dataclass, field

from nimble_quake.shot.model import Shot

MOST = 400
"""How many steps back are kept."""


@dataclass
class History:
    """The shot now, its past and its undone future. A gesture (a drag) becomes one step when it is committed."""

    now: Shot
    past: list[tuple[str, Shot]] = field(default_factory=list)
    future: list[tuple[str, Shot]] = field(default_factory=list)
    _before: tuple[str, Shot] | None = None

    def edit(self, label: str, shot: Shot) -> None:
        """Make a shot the present one, as one step."""
        self.commit()
        if shot == self.now:
            return
        self._remember(label, self.now)
        self.now = shot

    def begin(self, label: str) -> None:
        """Start a gesture; changes until its commit make one step."""
        self.commit()
        self._before = (label, self.now)

    def change(self, shot: Shot) -> None:
        """Change the present shot inside a gesture."""
        self.now = shot

    def commit(self) -> None:
        """End the gesture; without a change it leaves no trace."""
        before, self._before = self._before, None
        if before is not None and before[1] != self.now:
            self._remember(*before)

    def abort(self) -> None:
        """End the gesture and go back to where it began."""
        before, self._before = self._before, None
        if before is not None:
            self.now = before[1]

    @property
    def gesturing(self) -> bool:
        """Whether a gesture is under way."""
        return self._before is not None

    def undo(self) -> str | None:
        """Go one step back. Returns its label, or None where there is nothing to undo."""
        self.commit()
        if not self.past:
            return None
        label, shot = self.past.pop()
        self.future.append((label, self.now))
        self.now = shot
        return label

    def redo(self) -> str | None:
        """Go one step forward again. Returns its label, or None."""
        self.commit()
        if not self.future:
            return None
        label, shot = self.future.pop()
        self.past.append((label, self.now))
        self.now = shot
        return label

    def _remember(self, label: str, shot: Shot) -> None:
        self.past.append((label, shot))
        del self.past[:-MOST]
        self.future.clear()
