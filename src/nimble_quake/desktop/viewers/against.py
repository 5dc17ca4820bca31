"""What the picture is compared with: the shot without effects, or a state of it."""

from __future__ import annotations

from nimble_quake.session.state import Session
from nimble_quake.session.states import states
from nimble_quake.shot.model import Shot


class Against:
    """A state of the shot that split and difference compare with; none: the untouched picture."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self.id = ""
        self._made: tuple[Shot, str, Shot] | None = None

    def shot(self) -> Shot | None:
        """Return the shot with the state's values; None where nothing is compared with a state."""
        now = self.session.shot
        if not self.id or states.state(self.session, self.id) is None:
            self.id = ""
            return None
        if self._made is None or self._made[0] is not now or self._made[1] != self.id:
            self._made = (now, self.id, states.seen(self.session, self.id))
        return self._made[2]

    def name(self) -> str:
        """Return what the picture is compared with, in words."""
        found = states.state(self.session, self.id) if self.id else None
        return "untouched" if found is None else found.name
