"""The choice between the two sides of an item."""

from __future__ import annotations

from collections.abc import Callable

from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.session.state import Session
from nimble_quake.session.states.sides import flip_side, side_of


class SidesChoice(Segments):
    """A and B of the item at `path()`, a map's steps all together."""

    def __init__(self, session: Session, region: str, path: Callable[[], str], wide: int = 44) -> None:
        super().__init__((("A", "A"), ("B", "B")), region, "Side")
        self.session, self.path = session, path
        self.setToolTip("Two sets of values: set one up on each side, and flip between them")
        self.setFixedWidth(wide)
        self.chosen.connect(lambda side: flip_side(session, path(), side))

    def refresh(self) -> None:
        """Show the side the item is on."""
        side = side_of(self.session.shot, self.path())
        self.setEnabled(bool(side))
        if side:
            self.show_value(side)
