"""Fonts, icons and the style sheet for Qt's own widgets."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from PyQt6.QtCore import QByteArray, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QAbstractButton, QApplication, QLabel

from nimble_quake.desktop.theme.roles import DARK, Roles, colour, roles, use
from nimble_quake.media.drawing.faces import FONTS

ICONS = Path(__file__).parent / "icons"
BASE, STRONG = "Barlow Medium", "Barlow SemiBold"


def font(pixels: int = 12, *, strong: bool = False) -> QFont:
    """Return the interface face; figures are tabular, so that numbers do not dance."""
    return QFont(_face(pixels, strong))


@lru_cache(maxsize=32)
def _face(pixels: int, strong: bool) -> QFont:
    face = QFont(STRONG if strong else BASE)
    face.setPixelSize(pixels)
    face.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    face.setFeature(QFont.Tag("tnum"), 1)
    return face


@lru_cache(maxsize=256)
def _icon_data(name: str, tint: str) -> bytes:
    return (ICONS / f"{name}.svg").read_text(encoding="utf-8").replace("currentColor", tint).encode()


def paint_icon(painter: QPainter, name: str, rect: QRectF, tint: QColor) -> None:
    """Draw one of our line icons."""
    device = painter.device()
    ratio = device.devicePixelRatioF() if device is not None else 1.0
    picture = _painted(name, tint.rgba(), round(rect.width() * ratio), round(rect.height() * ratio))
    painter.drawPixmap(rect, picture, QRectF(picture.rect()))


@lru_cache(maxsize=512)
def _painted(name: str, rgba: int, wide: int, tall: int) -> QPixmap:
    """An icon drawn once at its size in pixels; drawing it from its lines costs more than all the rest of a row."""
    tint = QColor.fromRgba(rgba)
    picture = QPixmap(max(1, wide), max(1, tall))
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setOpacity(tint.alphaF())
    _drawn_by(name, tint.name()).render(painter, QRectF(picture.rect()))
    painter.end()
    return picture


@lru_cache(maxsize=256)
def _drawn_by(name: str, tint: str) -> QSvgRenderer:
    """An icon read once; reading costs more than drawing."""
    return QSvgRenderer(QByteArray(_icon_data(name, tint)))


def icon(name: str, role: str = "text", size: int = 16) -> QIcon:
    """Return one of our line icons in a role's colour, for Qt's own buttons; dimmed when off."""
    return _made_icon(name, colour(role).rgba(), colour("dim").rgba(), size)


@lru_cache(maxsize=256)
def _made_icon(name: str, usual: int, off: int, size: int) -> QIcon:
    made = QIcon()
    for mode, rgba in ((QIcon.Mode.Normal, usual), (QIcon.Mode.Disabled, off)):
        tint = QColor.fromRgba(rgba)
        for ratio in (1, 2):
            picture = QPixmap(size * ratio, size * ratio)
            picture.fill(Qt.GlobalColor.transparent)
            painter = QPainter(picture)
            paint_icon(painter, name, QRectF(0, 0, size * ratio, size * ratio), tint)
            painter.end()
            picture.setDevicePixelRatio(ratio)
            made.addPixmap(picture, mode)
    return made


def give_icon(button: QAbstractButton, name: str, role: str = "text") -> None:
    """Give a button one of our icons; it follows the theme from then on."""
    button.setProperty("icon_name", name)
    button.setProperty("icon_role", role)
    button.setIcon(icon(name, role))


def tone(label: QLabel, role: str) -> None:
    """Give a label a role's colour; it follows the theme from then on."""
    if label.property("tone") != role:
        label.setProperty("tone", role)
        style = label.style()
        if style is not None and label.testAttribute(Qt.WidgetAttribute.WA_WState_Polished):  # else it will be
            style.unpolish(label)
            style.polish(label)


def prepare(app: QApplication) -> None:
    """Give the application our fonts and the style all themes are drawn by; once."""
    for file in sorted(FONTS.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(file))
    app.setStyle("Fusion")
    app.setFont(font())


def apply(app: QApplication, theme: str) -> None:
    """Give the application a theme's palette and style sheet, and its buttons' icons their new colours."""
    if app.property("prepared") is None:
        prepare(app)
        app.setProperty("prepared", True)
    found = use(theme)
    app.setPalette(_palette(found))
    app.setStyleSheet(_sheet(found))
    for widget in app.allWidgets():
        if isinstance(widget, QAbstractButton) and widget.property("icon_name"):
            widget.setIcon(icon(widget.property("icon_name"), widget.property("icon_role")))


def _palette(r: Roles) -> QPalette:
    made = QPalette()
    role = QPalette.ColorRole
    pairs = {
        role.Window: r.panel,
        role.WindowText: r.text,
        role.Base: r.raised,
        role.AlternateBase: r.panel,
        role.Text: r.text,
        role.Button: r.raised,
        role.ButtonText: r.text,
        role.Highlight: r.chalk,
        role.HighlightedText: r.panel if r.chalk == "#3a3834" else r.ink,
        role.ToolTipBase: r.window,
        role.ToolTipText: r.text,
        role.PlaceholderText: r.quiet,
        role.Link: r.lagoon_text,
        role.Mid: r.line,
        role.Dark: r.line,
        role.Light: r.raised,
    }
    for key, value in pairs.items():
        made.setColor(key, QColor(value))
    for key in (role.WindowText, role.Text, role.ButtonText):
        made.setColor(QPalette.ColorGroup.Disabled, key, QColor(r.dim))
    return made


def _sheet(r: Roles) -> str:
    return f"""
    {_tones(r)}
    QMainWindow, QDialog {{ background: {r.window}; }}
    QToolTip {{ background: {r.window}; color: {r.text}; border: 1px solid {r.line}; padding: 4px; }}
    QMenuBar {{ background: transparent; spacing: 0; }}
    QMenuBar::item {{ padding: 6px 9px; background: transparent; border-radius: 3px; }}
    QMenuBar::item:selected {{ background: {r.raised}; }}
    QMenu {{ background: {r.panel}; border: 1px solid {r.line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 26px 5px 12px; border-radius: 3px; }}
    QMenu::item:selected {{ background: {r.raised}; }}
    QMenu::item:disabled {{ color: {r.dim}; }}
    QMenu::separator {{ height: 1px; background: {r.line}; margin: 4px 8px; }}
    QPushButton, QToolButton {{ background: {r.raised}; border: 1px solid {r.raised}; border-radius: 3px;
        padding: 2px 8px; min-height: 18px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {r.line}; }}
    QPushButton:pressed, QToolButton:pressed {{ background: {r.line}; }}
    QPushButton:focus, QToolButton:focus {{ border: 1px solid {r.chalk}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {r.dim}; }}
    QPushButton[row="true"] {{ min-height: 14px; }}
    QPushButton[main="true"] {{ background: {r.chalk}; color: {r.panel if r.chalk == "#3a3834" else r.ink};
        border-color: {r.chalk}; padding: 2px 14px; }}
    QPushButton[main="true"]:focus {{ border: 1px solid {r.text}; }}
    QToolButton[bare="true"] {{ background: transparent; border-color: transparent; padding: 2px; }}
    QToolButton[bare="true"]:hover {{ background: {r.raised}; }}
    QToolButton:checked, QPushButton:checked {{ background: {r.line}; border-bottom: 2px solid {r.chalk}; }}
    QToolButton#play {{ background: {r.chalk}; border-radius: 3px; }}
    QToolButton#play:focus {{ border: 1px solid {r.text}; }}
    SignPill {{ background: rgba(18,18,18,228); border-radius: 3px; }}
    SignPill QLabel {{ color: {DARK.text}; }}
    SignPill QToolButton[bare="true"]:hover {{ background: {DARK.raised}; }}
    QDialogButtonBox, QMessageBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
    QFileDialog QToolButton {{ padding: 2px; min-width: 18px; }}
    QFrame#drop {{ border: 1px dashed {r.rail}; border-radius: 3px; }}
    QPushButton#file {{ text-align: left; }}
    QLabel#clock {{ background: {r.plot}; border-radius: 3px; color: {r.text}; }}
    QToolButton::menu-indicator {{ image: none; }}
    QLineEdit, QPlainTextEdit, QSpinBox, QDoubleSpinBox {{ background: {r.raised}; border: 1px solid {r.raised};
        border-radius: 3px; padding: 0 5px; selection-background-color: {r.chalk};
        selection-color: {r.panel if r.chalk == "#3a3834" else r.ink}; }}
    QLineEdit:focus, QPlainTextEdit:focus, QSpinBox:focus {{ background: {r.edited}; border: 1px solid {r.chalk}; }}
    QLineEdit[wrong="true"] {{ border: 1px solid {r.fault}; border-bottom: 3px double {r.fault};
        color: {r.fault_text}; }}
    QComboBox {{ background: {r.raised}; border: 1px solid {r.raised}; border-radius: 3px; padding: 0 0 0 5px; }}
    QComboBox:hover {{ border-color: {r.line}; }}
    QComboBox:focus {{ border: 1px solid {r.chalk}; }}
    QComboBox:disabled {{ color: {r.dim}; }}
    QComboBox::drop-down {{ border: 0; width: 14px; }}
    QComboBox::down-arrow {{ image: url({(ICONS / _arrow(r)).as_posix()}); width: 10px; height: 10px; }}
    QComboBox QAbstractItemView {{ background: {r.panel}; border: 1px solid {r.line}; outline: 0; padding: 2px;
        selection-background-color: {r.raised}; selection-color: {r.text}; }}
    QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {r.line}; border-radius: 3px;
        background: {r.raised}; }}
    QCheckBox::indicator:checked {{ background: {r.chalk}; border: 1px solid {r.chalk};
        image: url({(ICONS / _tick(r)).as_posix()}); }}
    QCheckBox:focus {{ outline: 0; }}
    QCheckBox::indicator:focus {{ border-color: {r.chalk}; }}
    QScrollArea {{ background: transparent; border: 0; }}
    QScrollBar:vertical {{ background: transparent; width: 9px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {r.rail}; border-radius: 3px; min-height: 24px; margin: 1px 2px; }}
    QScrollBar:horizontal {{ background: transparent; height: 9px; }}
    QScrollBar::handle:horizontal {{ background: {r.rail}; border-radius: 3px; min-width: 24px; margin: 2px 1px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
    QSlider::groove:horizontal {{ height: 2px; background: {r.rail}; }}
    QSlider::sub-page:horizontal {{ background: {r.chalk}; }}
    QSlider::handle:horizontal {{ width: 8px; margin: -6px 0; background: {r.chalk}; border-radius: 2px; }}
    QProgressBar {{ background: {r.raised}; border: 0; border-radius: 3px; height: 8px; text-align: center; }}
    QProgressBar::chunk {{ background: {r.lagoon}; border-radius: 3px; }}
    QSplitter::handle {{ background: {r.window}; }}
    QListView, QTreeView {{ background: {r.panel}; border: 0; outline: 0; }}
    QListView::item:selected {{ background: {r.raised}; color: {r.text}; }}
    """


def _tones(r: Roles) -> str:
    """A rule for each text role; `tone` names the one a label has."""
    roles = ("quiet", "dim", "brass_text", "ember_text", "lagoon_text", "fault_text", "good")
    return "\n".join(f'QLabel[tone="{role}"] {{ color: {getattr(r, role)}; }}' for role in roles)


def _tick(r: Roles) -> str:
    return "tick-light.svg" if r.text == "#1e1e1e" else "tick-dark.svg"


def _arrow(r: Roles) -> str:
    return "chooser-dark.svg" if r.text == "#1e1e1e" else "chooser-light.svg"


__all__ = ["apply", "font", "give_icon", "icon", "paint_icon", "roles", "tone"]
