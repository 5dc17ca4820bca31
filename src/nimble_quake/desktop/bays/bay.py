"""A bay: a viewer with its views, the list of what makes its picture, and the settings of what is chosen there."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from nimble_quake.desktop.bays.row_list import RowList, scrolled
from nimble_quake.desktop.pacing import paced
from nimble_quake.desktop.settings.panel import SettingsPanel
from nimble_quake.desktop.viewers.frames import Frames
from nimble_quake.desktop.viewers.view_state import ViewState
from nimble_quake.desktop.viewers.viewer import Viewer
from nimble_quake.desktop.widgets.chooser import Chooser
from nimble_quake.desktop.widgets.parts import BODY, Region, bare, line
from nimble_quake.desktop.widgets.segments import Segments
from nimble_quake.render.shown.request import BenchResponse
from nimble_quake.session.state import Session

NARROW, SMALL = 490, 400
"""Widths (px) below which the views become a list, and below which buttons lose words."""
QUICK = 0.1
"""Seconds within which rows are not shown anew: faster numbers cannot be read, and the next frame comes first."""


class Bay(Region):
    """What the map bay and the picture bay share. Each says what differs: its heads, its list, what it shows."""

    wide_asked = pyqtSignal()
    list_widths = (126, 168, 206)
    """Widths of the list in a small, a narrow and a wide bay."""

    def __init__(
        self,
        region: str,
        word: str,
        session: Session,
        frames: Frames,
        state: ViewState,
        views: Sequence[tuple[str, ...]],
    ) -> None:
        """views: (key, word) of each, and a longer word for where they are a list."""
        super().__init__(region, f"{word} bay")
        self.session, self.frames = session, frames
        self.viewer = Viewer(f"{word} viewer", state)
        self.viewer.notes.append(self.paint_over)
        self.views = Segments([(key, short) for key, short, *_ in views], region, f"{word} view", boxed=False)
        self.views.chosen.connect(self.choose_view)
        self.narrow_views = Chooser(f"{word} view")
        for key, *words in views:
            self.narrow_views.addItem(words[-1], key)
        self.narrow_views.setFixedWidth(104)
        self.narrow_views.activated.connect(lambda n: self.choose_view(self.narrow_views.itemData(n)))
        self.wide_button = bare(
            "wide", f"Give the {word.lower()} bay the whole width", self.wide_asked.emit, toggles=True
        )
        self.zoom_label = QLabel()
        self.settings = SettingsPanel(session, region, names=62)
        self._rows_soon = QTimer(self)
        self._rows_soon.setSingleShot(True)
        self._rows_soon.setInterval(int(QUICK * 1000))
        self._rows_soon.timeout.connect(self.refresh_rows)

    def put_together(
        self, head: QWidget, foot: Sequence[QWidget | int | None], rows: RowList, heads: tuple[QWidget, QWidget]
    ) -> None:
        """Lay the bay out. head: above the viewer. foot: beside the views. heads: over the list and the settings."""
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 0)
        outer.setSpacing(0)
        framed = QHBoxLayout()
        framed.setContentsMargins(8, 0, 8, 0)
        framed.addWidget(self.viewer)
        outer.addWidget(head)
        outer.addLayout(framed, 1)
        outer.addWidget(line(self.views, self.narrow_views, None, *foot))
        outer.addWidget(self._body(rows, heads))
        self._join()

    def _body(self, rows: RowList, heads: tuple[QWidget, QWidget]) -> QWidget:
        body = QWidget()
        body.setProperty("tab_first", True)
        body.setFixedHeight(BODY)
        self._lower = body
        row = QHBoxLayout(body)
        row.setContentsMargins(8, 0, 4, 0)
        row.setSpacing(10)
        self._list = QWidget()
        self._list.setFixedWidth(self.list_widths[-1])
        left, right = QVBoxLayout(self._list), QVBoxLayout()
        for column, top, below in ((left, heads[0], scrolled(rows)), (right, heads[1], self.settings)):
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(2)
            column.addWidget(top)
            column.addWidget(below, 1)
        row.addWidget(self._list)
        row.addLayout(right, 1)
        return body

    def _join(self) -> None:
        self.viewer.state.changed.connect(self.show_zoom)
        self.session.changed.connect(paced(self, self.session, self.show_changes))
        self.session.selected.connect(self.refresh)
        self.session.moved.connect(self.show_moment)

    def refresh(self) -> None:
        """Show the document and what is selected in it."""
        self.viewer.size_of_shot = (self.session.shot.width, self.session.shot.height)
        self.show_zoom()

    def show_changes(self, found: set[str]) -> None:
        """Show what of the document has changed (paths, SHAPE, SETTINGS)."""
        raise NotImplementedError

    def show_moment(self) -> None:
        """Show what the frame at the playhead changes."""
        raise NotImplementedError

    def refresh_rows(self) -> None:
        """Show the list of what makes the picture."""
        raise NotImplementedError

    def show_costs(self, response: BenchResponse) -> None:
        """Show soon what the steps of a frame took, where it tells."""
        if response.costs and not self.frames.playing and not response.request.coarse:
            self._rows_soon.start()

    def show_view(self, view: str) -> None:
        """Ask for another view of the picture."""
        raise NotImplementedError

    def handled(self, path: str) -> str:
        """Return the path whose handles are shown: none while a shot of its own is tried."""
        return "" if self.frames.other_shot else path

    def paint_over(self, painter: QPainter, viewer: Viewer) -> None:
        """Paint what lies over the picture."""

    def fit_width(self, *, narrow: bool, small: bool) -> None:
        """Show fewer words in a narrow bay, and icons only in a small one."""

    def choose_view(self, view: str) -> None:
        """Show the picture in another way."""
        self.show_view(view)
        self.views.show_value(view)
        self.narrow_views.setCurrentIndex(self.narrow_views.findData(view))
        self.frames.ask()

    def show_zoom(self) -> None:
        """Say how large the picture is shown."""
        self.zoom_label.setText(f"{self.viewer.zoom() * 100:.0f} %")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        narrow, small = self.width() < NARROW, self.width() < SMALL
        self.views.setVisible(not narrow)
        self.narrow_views.setVisible(narrow)
        self._list.setFixedWidth(self.list_widths[0 if small else 1 if narrow else 2])
        self.fit_width(narrow=narrow, small=small)
        self.show_zoom()


def shown_row(head: QWidget) -> QHBoxLayout:
    """Return the layout of a line of widgets."""
    row = head.layout()
    assert isinstance(row, QHBoxLayout)
    return row
