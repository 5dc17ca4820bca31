"""What the table of actions asks of the window, or of what stands in for it in a test."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from nimble_quake.session.moving.pins import Chosen
from nimble_quake.session.state import Session


class PlayedFrames(Protocol):
    """The frames that are shown."""

    def toggle(self) -> None:
        """Play, or pause."""

    def toggle_shutter(self) -> None:
        """Show the shutter in the preview, or not."""

    def toggle_whole_warp(self) -> None:
        """Let needles and distances show all effects of the plate together, or one quake alone."""

    def show_upto(self, path: str) -> None:
        """Show a plate up to one of its effects, or whole again."""


class Prepared(Protocol):
    """The frames that are computed beforehand."""

    def begin(self) -> None:
        """Prepare the range that plays, and show how far it is."""


class ShownMap(Protocol):
    """The region that shows the map."""

    def toggle_solo(self, path: str) -> None:
        """Show a step alone, or all again."""


class GuideLines(Protocol):
    """The lines over the picture that things are placed by."""

    def toggle(self, name: str) -> None:
        """Show the lines of a name, or hide them."""

    def toggle_snapping(self) -> None:
        """Let what is dragged snap, or not."""

    def add(self, axis: int) -> None:
        """Add an own line: upright (0) or level (1)."""


class KeptStates(Protocol):
    """The states of the shot."""

    def keep(self) -> None:
        """Ask for a name, and keep all values as they are."""


class ShownPicture(Protocol):
    """The region that shows the picture."""

    @property
    def guides(self) -> GuideLines: ...
    @property
    def states(self) -> KeptStates: ...


class TimeRows(Protocol):
    """The region of moving values: pins and markers."""

    def copy(self) -> None:
        """Copy the selected pins."""

    def paste(self) -> None:
        """Set the copied pins at the frame."""

    def set_pin(self) -> None:
        """Set or take away a pin at the frame."""

    def to_pin(self, way: int) -> None:
        """Go to the next pin (1) or the one before (-1)."""

    def shape(self, after: str, curve: tuple[float, float, float, float] | None) -> None:
        """Change how values go on after the selected pins."""

    def open_ease_box(self) -> None:
        """Let the ease of the chosen pins be drawn by hand."""

    def reshape(self, how: Callable[[Session, Chosen], None]) -> None:
        """Reshape the chosen pins, or all of the selected row."""

    def mark(self) -> None:
        """Set a marker at the frame."""


class SharedView(Protocol):
    """Zoom and place of both viewers."""

    def show_all(self) -> None:
        """Show the whole frame."""


class Points(Protocol):
    """The tracked points that are shown over the picture."""

    def pin(self) -> None:
        """Pin the selected plate to the picked points."""

    def throw_out(self) -> None:
        """Throw the picked points out."""

    def throw_out_short(self) -> None:
        """Throw short and uncertain points out."""

    def take_back(self) -> None:
        """Take all points back."""


class Pen(Protocol):
    """What draws in the picture."""

    def begin_shape(self) -> None:
        """Let the next drag draw a shape."""

    def begin_mask(self) -> None:
        """Let clicks set the corners of a new mask."""


class Ear(Protocol):
    """What listens to the sounds."""

    def find_beats(self, *, hits: bool) -> None:
        """Find the beats, or every hit, of the selected sound or band."""


class MapFiles(Protocol):
    """Maps outside the shot."""

    def keep(self) -> None:
        """Keep the selected map in one's own library."""

    def save(self) -> None:
        """Save the selected map as a recipe file."""

    def ask_recipe(self) -> None:
        """Ask for a recipe file to use."""

    def copy(self) -> None:
        """Put the selected map on the clipboard."""

    def paste(self) -> None:
        """Take a map from the clipboard."""


class ShotFiles(Protocol):
    """Shots as files, and what is taken into one."""

    @property
    def maps(self) -> MapFiles: ...
    def new_shot(self) -> None: ...
    def open_shot(self) -> None: ...
    def save(self) -> object: ...
    def save_as(self) -> object: ...
    def save_copy(self) -> object: ...
    def shot_settings(self) -> None: ...
    def ask_media(self) -> None: ...
    def find_missing(self) -> None: ...
    def collect(self) -> None: ...
    def ask_sound(self) -> None: ...


class Page(Protocol):
    """The page one begins from."""

    def show(self) -> None:
        """Show it in the place of the bench."""

    def keep(self) -> None:
        """Keep the open shot as a starter."""

    def keep_selected(self) -> None:
        """Keep what is selected as a starter."""


class Middle(Protocol):
    """The coupling, or the front panel in its place."""

    def toggle(self) -> None:
        """Show the one or the other."""

    def pick(self) -> None:
        """Bring values to the front by clicking on them."""


class Carried(Protocol):
    """The clipboard."""

    def copy(self) -> object:
        """Copy what is meant by the focus."""

    def cut(self) -> None:
        """Copy it, and take it out."""

    def paste(self, *, links: bool = ...) -> None:
        """Paste where the selection says; `links`: maps that are there are shared."""

    def paste_values(self) -> None:
        """Give the selected item the values of the one that was copied."""


class Dialogs(Protocol):
    """The dialogs."""

    def show_render(self) -> object: ...
    def show_queue(self) -> object: ...
    def show_dials(self) -> object: ...
    def show_batch(self) -> object: ...
    def show_seamless(self, show: Callable[[str], None]) -> object: ...
    def show_preferences(self) -> None: ...
    def show_shortcuts(self) -> None: ...
    def show_help(self) -> object: ...
    def show_about(self) -> None: ...
    def toggle_theme(self) -> None: ...


class Host(Protocol):
    """The window, by its parts."""

    @property
    def session(self) -> Session:
        """The open shot, its selection and its history."""

    @property
    def files(self) -> ShotFiles: ...
    @property
    def dialogs(self) -> Dialogs: ...
    @property
    def middle(self) -> Middle: ...
    @property
    def frames(self) -> PlayedFrames: ...
    @property
    def preparing(self) -> Prepared: ...
    @property
    def map_bay(self) -> ShownMap: ...
    @property
    def picture_bay(self) -> ShownPicture: ...
    @property
    def time(self) -> TimeRows: ...
    @property
    def view_state(self) -> SharedView: ...
    @property
    def beginning(self) -> Page: ...
    @property
    def carrying(self) -> Carried: ...
    @property
    def hearing(self) -> Ear: ...
    @property
    def drawing(self) -> Pen: ...
    @property
    def tracking(self) -> Points: ...
    def close(self) -> object: ...
    def cover(self, path: str) -> None: ...
    def focus_value(self, path: str) -> None: ...
    def show_board(self, name: str = ...) -> None: ...
    def show_commands(self) -> None: ...
    def show_help_here(self) -> None: ...
    def show_tracking(self) -> None: ...
    def show_whole(self) -> None: ...
    def show_picture_alone(self) -> None: ...
    def toggle_wide(self, region: str) -> None: ...
