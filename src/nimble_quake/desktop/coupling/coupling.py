"""The coupling: the selected quake, how strongly it moves its plate, and which way."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QLabel, QMenu, QToolButton, QVBoxLayout

from nimble_quake.desktop.coupling.cards import CoupleExtras, KindCard, LinkCard, SharedBy
from nimble_quake.desktop.coupling.graph import CouplingGraph
from nimble_quake.desktop.pacing import paced
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.theme.look import font, tone
from nimble_quake.desktop.widgets.parts import Region, bare, line, linked, title
from nimble_quake.operators.quake import FOOT
from nimble_quake.operators.reading import ReadsMap
from nimble_quake.render.shown.bench import tolerant_job
from nimble_quake.render.shown.reading import MUCH, MapReading
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.render.shown.why import why_by_settings
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import effects, items

NOTHING_HERE = ("No quake here. Add one with “+ Quake” under the picture.", "Choose a plate first.")
"""What is said where no quake is selected: on a plate, and on none."""


class Coupling(Region):
    """How strongly, and which way."""

    front_asked = pyqtSignal()
    """The front panel is to stand in its place."""

    def __init__(self, session: Session) -> None:
        super().__init__("ember", "Coupling")
        self.session = session
        self.card, self.shared = LinkCard(session), SharedBy(session)
        self.kind = KindCard(session)
        self.graph = CouplingGraph(session)
        self._reading: MapReading | None = None
        self.why = QLabel(self.graph)  # where the graph leaves room for it, so that no field moves
        self.why.setWordWrap(True)
        self.why.setFont(font(11))
        self.why.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.why.setMargin(2)
        self.why.setAutoFillBackground(True)
        self.why.hide()
        tone(self.why, "ember_text")
        self.why.setAccessibleName("Why nothing moves")
        self.settings = SettingsPanel(session, "ember", names=50, chips=True)
        self.settings.skip = frozenset({"map"})
        self.settings.wanted = lambda param: param.section != FOOT
        self.settings.under["white"] = self._measure_link
        self.foot = SettingsPanel(session, "ember", names=54)
        self.foot.setAccessibleName("Strength")
        self.foot.wanted = lambda param: param.section == FOOT
        self.foot.setFixedHeight(26)
        self.foot.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.exaggerated = CoupleExtras(session)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 4)
        outer.setSpacing(0)
        more = bare("more", "Duplicate, switch or remove this quake", self._menu)
        self.front_button = linked("‹ Front", "Show the dials and slots of this shot", self.front_asked.emit)
        self.front_button.hide()
        outer.addWidget(line(title("Coupling", "ember"), None, self.front_button, more, height=28))
        body = QVBoxLayout()
        body.setContentsMargins(8, 2, 2, 0)
        body.setSpacing(4)
        for widget in (self.card, self.shared, self.kind, self.graph):
            holder = QVBoxLayout()
            holder.setContentsMargins(0, 0, 6, 0)
            holder.addWidget(widget)
            body.addLayout(holder)
        body.addWidget(self.settings, 1)
        body.addWidget(self.foot)
        extras = QVBoxLayout()
        extras.setContentsMargins(0, 0, 6, 0)
        extras.addWidget(self.exaggerated)
        body.addLayout(extras)
        outer.addLayout(body, 1)
        session.changed.connect(paced(self, session, self._changed))
        session.selected.connect(self.refresh)
        session.moved.connect(self._refresh_values)

    def offer_front(self, there: bool) -> None:
        """Offer the front panel, where the shot has one."""
        self.front_button.setVisible(there)

    def _measure_link(self) -> QToolButton:
        tip = "Takes the level that most of the map has now, or its mean, as rest, and its lightest as white"
        return linked("Measure now", tip, self._measure)

    def _measure(self) -> None:
        if self._reading is not None:
            level, fraction = self._reading.common
            rest = level if fraction > MUCH else self._reading.means[0]
            effects.measure_levels(self.session, self.session.selection.quake, rest, self._reading.lightest)

    def refresh(self) -> None:
        """Show the document."""
        self.settings.show_node(self.session.selection.quake)
        self.foot.show_node(self.session.selection.quake)
        self.kind.refresh()
        self.shared.refresh()
        self.exaggerated.refresh()
        self.card.update()
        self.graph.update()
        if not self.session.selection.quake:
            self._say_nothing_here()
        elif self.why.text() in NOTHING_HERE:
            self._say("")

    def _say_nothing_here(self) -> None:
        self._say(NOTHING_HERE[not self.session.selection.plate])

    def _changed(self, found: set[str]) -> None:
        if found & {"shape"} or self.session.selection.quake in found:
            self.refresh()

    def _refresh_values(self) -> None:
        self.settings.follow()
        self.foot.follow()
        self.graph.update()

    def _say(self, text: str) -> None:
        if self.why.text() != text:
            self.why.setText(text)
            self.why.setToolTip(text)
            self.why.setVisible(bool(text))
            self._place_why()

    def _place_why(self) -> None:
        wide = self.width() - 20
        tall = min(self.why.heightForWidth(wide), 2 * self.why.fontMetrics().lineSpacing() + 8)
        self.why.setGeometry(2, 2, wide, tall)
        self.graph.leave_room(tall - 4 if self.why.text() else 0)

    def show_response(self, response: BenchResponse) -> None:
        """Show a computed frame's histogram, and why nothing moves."""
        reading = response.reading
        if response.request.probe:  # a frame of playback carries no reading: the graph stays
            self._reading = reading
            self.graph.show_map([] if reading is None else reading.bars, rest_of(self.session, response))
            self.graph.show_axes(None if reading is None else reading.two_axes)
        rest, path = self.graph.rest, self.session.selection.quake
        if path:
            picked = self.session.shown(f"{path}/rest_by") == "picked"
            self.settings.stand_in("rest", None if picked else rest)
            why = response.why if response.request.probe else self._why_now()
            self._say(f"Nothing moves: {why[:1].lower()}{why[1:]}." if why else "")
        else:
            self._say_nothing_here()

    def _why_now(self) -> str:
        """Why nothing moves at the playhead, as far as settings tell; a frame of playback knows no more."""
        job = tolerant_job(self.session.engine, self.session.shot, self.session.frame)
        return why_by_settings(job, self.session.selection.quake)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place_why()

    def _menu(self) -> None:
        path = self.session.selection.quake
        if not path:
            return
        menu = QMenu(self)
        menu.addAction("Duplicate this quake", lambda: items.duplicate_item(self.session, path))
        menu.addAction("Switch it on or off", lambda: items.switch(self.session, path))
        menu.addAction("All its settings to default", lambda: items.reset(self.session, path))
        menu.addAction("Remove it", lambda: items.remove_item(self.session, path))
        menu.exec(self.mapToGlobal(self.rect().topRight()))


def rest_of(session: Session, response: BenchResponse) -> float:
    """Return the rest level of the selected quake on its own map; without one, of the map that is shown."""
    if response.reading is not None:
        return response.reading.rest
    quake = session.operator_now(session.selection.quake)
    return quake.rest_level(response.rest) if isinstance(quake, ReadsMap) else response.rest
