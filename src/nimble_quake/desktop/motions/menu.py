"""What a tremor mark opens: the motion of a value."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QPoint, QTimer
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QMenu, QWidget

from nimble_quake.desktop.motions.dialogs import DriverDialog, FormulaDialog, RateDialog
from nimble_quake.desktop.motions.picking import Picking
from nimble_quake.desktop.widgets.parts import add_question
from nimble_quake.motion.driver import drivers
from nimble_quake.motion.kinds import ANCHORS, Layered, is_moving, keys_of
from nimble_quake.operators.front.bringing import kind_for
from nimble_quake.session.moving import gestures, motions
from nimble_quake.session.state import Session
from nimble_quake.session.verbs import front
from nimble_quake.shot.edits.keys import keys_at
from nimble_quake.shot.edits.set_value import set_value
from nimble_quake.shot.paths import kind_of, node_path, path_in, real_path

ASKED = ("rate", "formula")
"""Motions besides the drivers that a dialog asks for."""


def motion_menu(session: Session, path: str, parent: QWidget) -> QMenu:
    """Return the menu of a value's motion: pins, kinds of motion, gestures, what lies over it, its default."""
    menu = QMenu(parent)
    menu.setToolTipsVisible(True)
    path = real_path(session.shot, path)
    raw, param = session.raw(path), session.param(path)
    if param is None:
        return menu
    if param.animatable:
        keys = keys_of(raw)
        here = keys is not None and any(key.frame == session.frame for key in keys.keys)
        menu.addAction("Take the pin away here" if here else "Set a pin here", lambda: session.start_moving(path))
        menu.addSeparator()
        _add_kinds(menu, session, path, parent)
        if param.size:
            menu.addSeparator()
            _add_layers(menu, session, path, parent)
            _add_gestures(menu, session, path)
        if keys is not None:
            _add_anchors(menu, session, path, keys.anchor)
        if is_moving(raw) and param.size:
            menu.addAction("Bake to pins", lambda: motions.bake(session, path))
        menu.addSeparator()
    _add_front(menu, session, path)
    label = f"Back to default: {session.label_of(path)}"
    menu.addAction("Back to its default", lambda: session.edit(label, set_value(session.shot, path, None)))
    add_question(menu, session.help_asked.emit, path)
    return menu


def _add_front(menu: QMenu, session: Session, path: str) -> None:
    """A value brought to the front as a dial, or put behind one that is there; what is at the front already taken."""
    param = session.param(path)
    kind = kind_for(param) if param is not None else None
    if kind is None or kind_of(path) == "front":
        return
    for node in front.dials_of(session, path):
        dial = path_in("front", node.id)
        menu.addAction(f"Take from behind {session.name_of(dial)}", partial(front.let_go, session, dial, path))
    if not front.dials_of(session, path):
        menu.addAction("Bring to the front", partial(front.bring, session, path))
        alike = [node for node in front.in_front(session) if node.kind == kind.kind and not kind.fills_plate]
        inner = menu.addMenu("Go along with") if alike else None
        for node in alike if inner is not None else ():
            dial = path_in("front", node.id)
            if inner is not None:
                inner.addAction(session.name_of(dial), partial(front.put_behind, session, dial, path))
    menu.addSeparator()


def _add_kinds(menu: QMenu, session: Session, path: str, parent: QWidget) -> None:
    param = session.param(path)
    assert param is not None
    now = motions.kind_of_motion(session.raw(path))
    for kind, title in motions.motion_kinds(param).items():
        asked = kind in ASKED or kind in drivers()
        action = menu.addAction(f"{title} …" if asked else title, partial(choose_motion, session, path, kind, parent))
        assert action is not None
        action.setCheckable(True)
        action.setChecked(kind == now)
        if kind in drivers():
            action.setToolTip(drivers()[kind].help)
    if param.size:
        menu.addAction("Follow the value I click on", partial(pick_followed, session, path, parent))


def _add_layers(menu: QMenu, session: Session, path: str, parent: QWidget) -> None:
    """What lies over a value: each to be changed or taken off; and what can be laid over it."""
    raw = session.raw(path)
    for number, motion in enumerate(raw.over if isinstance(raw, Layered) else ()):
        said = motion.driver.said()
        title = f"{motion.driver.title}{f', {said}' if said else ''}"
        inner = menu.addMenu(f"Over it: {title}")
        assert inner is not None
        inner.addAction("Change …", partial(change_layer, session, path, number, parent))
        inner.addAction("Take it off", partial(motions.take_off, session, path, number))
    inner = menu.addMenu("Lay over it")
    assert inner is not None
    for kind, driver in drivers().items():
        action = inner.addAction(f"{driver.title} …", partial(lay_over, session, path, kind, parent))
        assert action is not None
        action.setToolTip(driver.help)


def _add_anchors(menu: QMenu, session: Session, path: str, now: str) -> None:
    """What becomes of the pins' times where the shot, or what they belong to, gets another length."""
    inner = menu.addMenu("With another length")
    assert inner is not None
    for anchor, title in ANCHORS.items():
        action = inner.addAction(title, partial(motions.keep_from, session, path, anchor))
        assert action is not None
        action.setCheckable(True)
        action.setChecked(anchor == now)


def _add_gestures(menu: QMenu, session: Session, path: str) -> None:
    inner = menu.addMenu("Gesture")
    assert inner is not None
    inner.setToolTipsVisible(True)
    first, *others = gestures.ranges(session, path)
    head = inner.addAction(f"Over {first.words}:")
    assert head is not None
    head.setEnabled(False)
    _Preview(inner, session, path, first)
    inner.addSeparator()
    for over in others:
        some = inner.addMenu(f"Over {over.words}")
        assert some is not None
        some.setToolTipsVisible(True)
        _Preview(some, session, path, over)
    inner.addSeparator()
    stagger = inner.addAction("Stagger over the selected", partial(gestures.stagger, session, path))
    assert stagger is not None
    stagger.setToolTip("The others get this value's pins, each a little later")


class _Preview:
    """Shows a gesture in the picture while the pointer is over its name; choosing it makes it one step."""

    def __init__(self, menu: QMenu, session: Session, path: str, over: gestures.Over) -> None:
        self.session, self.path, self.over, self.before = session, path, over, session.shot
        self.trying = self.chosen = False
        self.names: dict[QAction, str] = {}
        for name, gesture in gestures.GESTURES.items():
            action = menu.addAction(gesture.title, partial(self.choose, name))
            assert action is not None
            action.setToolTip(gesture.help)
            action.hovered.connect(partial(self.show, name))
            self.names[action] = name
        menu.hovered.connect(lambda action: None if action in self.names else self.leave())
        menu.aboutToHide.connect(lambda: QTimer.singleShot(0, self.leave))

    def show(self, name: str) -> None:
        """Try a gesture."""
        if self.chosen:
            return
        if not self.trying:
            self.session.begin("Gesture")
            self.before, self.trying = self.session.shot, True
        self.session.change(self.before)
        self.session.change(gestures.with_gesture(self.session, self.path, gestures.GESTURES[name], self.over))

    def leave(self) -> None:
        """Leave all as it was."""
        if self.trying and not self.chosen:
            self.trying = False
            self.session.abort()

    def choose(self, name: str) -> None:
        """Put a gesture down."""
        if self.trying:
            self.trying = False
            self.session.abort()
        self.chosen = True
        gesture = gestures.GESTURES[name]
        shot = gestures.with_gesture(self.session, self.path, gesture, self.over)
        self.session.edit(f"{gesture.title}: {self.session.label_of(self.path)}", shot)
        self.session.pins_put.emit({(self.path, key.frame) for key in keys_at(shot, self.path)})
        if not gesture.beats:
            self.session.message.emit("Drag the ends of its line under the markers to make it longer or shorter")


def click_mark(session: Session, path: str, parent: QWidget) -> None:
    """A click on a tremor mark: a still value gets its first pin here, a moving one shows its motion."""
    if is_moving(session.raw(path)):
        motion_menu(session, path, parent).exec(parent.mapToGlobal(QPoint(0, parent.height())))
    else:
        session.start_moving(path)


def region_of(path: str, session: Session) -> str:
    """Return the colour of the region a value belongs to."""
    kind = kind_of(path)
    if kind == "effect":
        return "ember" if session.is_quake(node_path(path)) else "lagoon"
    return {"map": "brass", "step": "brass", "plate": "lagoon"}.get(kind, "chalk")


def choose_motion(session: Session, path: str, kind: str, parent: QWidget) -> None:
    """Give a value another kind of motion; all but still and keys are asked for."""
    param, region = session.param(path), region_of(path, session)
    if param is None:
        return
    if kind == "rate":
        RateDialog(session, path, param, region, parent).exec()
    elif kind == "formula":
        FormulaDialog(session, path, param, region, parent).exec()
    elif kind in drivers():
        DriverDialog(session, path, param, kind, region, parent).exec()
    else:
        motions.set_motion(session, path, kind)


def lay_over(session: Session, path: str, kind: str, parent: QWidget) -> None:
    """Lay a further motion over a value, asking for its settings."""
    param = session.param(path)
    if param is not None:
        DriverDialog(session, path, param, kind, region_of(path, session), parent, over=True).exec()


def change_layer(session: Session, path: str, number: int, parent: QWidget) -> None:
    """Change one of the motions that are laid over a value."""
    raw, param = session.raw(path), session.param(path)
    if isinstance(raw, Layered) and param is not None:
        kind = raw.over[number].driver.kind
        DriverDialog(session, path, param, kind, region_of(path, session), parent, number, over=True).exec()


def pick_followed(session: Session, path: str, parent: QWidget) -> None:
    """Let a value follow the one that is clicked next."""
    Picking(parent.window() or parent, partial(motions.follow, session, path), session.message.emit)
