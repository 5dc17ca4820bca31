"""The one table of actions: menus, command finder, shortcut help and tests are made from it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from nimble_quake.session.host import Host
from nimble_quake.session.moving import pin_tools
from nimble_quake.session.verbs import carry, effects, glass, grouping, items, maps, sounds
from nimble_quake.shot.paths import kind_of

Run = Callable[[Host], object]
"""Takes the window, or what stands in for it in a test."""


@dataclass(frozen=True)
class Action:
    """Something a person can do. `enabled` is asked when its menu opens."""

    id: str
    title: str
    menu: str
    run: Run
    shortcut: str = ""
    enabled: Run = lambda host: True
    group: int = 0
    """Actions of another group are parted by a line in their menu."""
    called: str = ""
    """What people also call it, in words that the command finder looks for too."""


def _can_undo(host: Host) -> bool:
    return bool(host.session.history.past)


def _can_redo(host: Host) -> bool:
    return bool(host.session.history.future)


def _has_plate(host: Host) -> bool:
    return bool(host.session.selection.plate)


def _has_quake(host: Host) -> bool:
    return bool(host.session.selection.quake)


def _has_effect(host: Host) -> bool:
    return bool(host.session.selection.finish or host.session.selection.quake)


def _has_map(host: Host) -> bool:
    return bool(host.session.selection.map)


def _has_sound(host: Host) -> bool:
    return bool(host.session.shot.sounds)


def _has_beats(host: Host) -> bool:
    return bool(host.session.shot.beats)


def _has_aimed_effect(host: Host) -> bool:
    return kind_of(host.session.selection.aimed or "plates/none") == "effect"


def _has_step(host: Host) -> bool:
    return bool(host.session.selection.step)


ACTIONS: tuple[Action, ...] = (
    Action("new", "New shot …", "File", lambda h: h.files.new_shot(), "Ctrl+N"),
    Action("open", "Open …", "File", lambda h: h.files.open_shot(), "Ctrl+O"),
    Action("find-missing", "Find missing files in a folder …", "File", lambda h: h.files.find_missing(), "", group=1),
    Action("save", "Save", "File", lambda h: h.files.save(), "Ctrl+S", group=1),
    Action("save-as", "Save as …", "File", lambda h: h.files.save_as(), "Ctrl+Shift+S", group=1),
    Action("save-copy", "Save a copy …", "File", lambda h: h.files.save_copy(), group=1),
    Action("render", "Render …", "File", lambda h: h.dialogs.show_render(), "Ctrl+R", group=2),
    Action("queue", "Render queue …", "File", lambda h: h.dialogs.show_queue(), "Ctrl+Alt+R", group=2),
    Action("preferences", "Preferences …", "File", lambda h: h.dialogs.show_preferences(), "Ctrl+,", group=3),
    Action("quit", "Quit", "File", lambda h: h.close(), "Ctrl+Q", group=4),
    Action("undo", "Undo", "Edit", lambda h: h.session.undo(), "Ctrl+Z", _can_undo),
    Action("redo", "Redo", "Edit", lambda h: h.session.redo(), "Ctrl+Shift+Z", _can_redo),
    Action("cut", "Cut", "Edit", lambda h: h.carrying.cut(), "Ctrl+X", group=1),
    Action("copy", "Copy", "Edit", lambda h: h.carrying.copy(), "Ctrl+C", group=1, called="duplicate, effect, preset"),
    Action("paste", "Paste", "Edit", lambda h: h.carrying.paste(), "Ctrl+V", group=1),
    Action(
        "paste-linked", "Paste, its maps shared", "Edit", lambda h: h.carrying.paste(links=True), "Ctrl+Alt+V", group=1
    ),
    Action(
        "paste-values", "Paste values only", "Edit", lambda h: h.carrying.paste_values(), "Ctrl+Alt+Shift+V", group=1
    ),
    Action("commands", "Find a command …", "Edit", lambda h: h.show_commands(), "Ctrl+K", group=2),
    Action("shot-settings", "Size, rate and length …", "Shot", lambda h: h.files.shot_settings(), "Ctrl+Shift+N"),
    Action(
        "starters",
        "Starters …",
        "Shot",
        lambda h: h.beginning.show(),
        "Ctrl+Alt+N",
        group=1,
        called="template, preset, transition, example, start page",
    ),
    Action("keep-starter", "Keep the shot as a starter …", "Shot", lambda h: h.beginning.keep(), "", group=1),
    Action(
        "samples",
        "Open a sample …",
        "Shot",
        lambda h: h.show_board("samples"),
        "Ctrl+Shift+O",
        group=1,
        called="transition, template, example",
    ),
    Action("new-map", "New map", "Map", lambda h: maps.new_map(h.session), "Ctrl+M"),
    Action("add-step", "Add a step …", "Map", lambda h: h.show_board(), "Ctrl+Shift+M"),
    Action("use-recipe", "Use a recipe …", "Map", lambda h: h.show_board("recipes"), "Ctrl+B"),
    Action("open-recipe", "Recipe from a file …", "Map", lambda h: h.files.maps.ask_recipe()),
    Action("keep-recipe", "Keep the map as a recipe", "Map", lambda h: h.files.maps.keep(), "", _has_map, 1),
    Action("save-recipe", "Save the map as a recipe file …", "Map", lambda h: h.files.maps.save(), "", _has_map, 1),
    Action("copy-map", "Copy the map", "Map", lambda h: h.files.maps.copy(), "Ctrl+Shift+C", _has_map, 1),
    Action("paste-map", "Paste a map", "Map", lambda h: h.files.maps.paste(), "Ctrl+Shift+V", group=1),
    Action(
        "duplicate-map",
        "Duplicate the map",
        "Map",
        lambda h: items.duplicate_item(h.session, h.session.selection.map),
        "",
        _has_map,
        1,
    ),
    Action(
        "remove-map",
        "Remove the map",
        "Map",
        lambda h: items.remove_item(h.session, h.session.selection.map),
        "",
        _has_map,
        1,
    ),
    Action(
        "duplicate-step",
        "Duplicate the step",
        "Map",
        lambda h: items.duplicate_item(h.session, h.session.selection.step),
        "",
        _has_step,
        2,
    ),
    Action(
        "vary-step", "Variations of the step …", "Map", lambda h: h.show_board("vary"), "Ctrl+Shift+B", _has_step, 2
    ),
    Action(
        "solo-step",
        "Show the step alone, or all",
        "Map",
        lambda h: h.map_bay.toggle_solo(h.session.selection.step),
        "Ctrl+Shift+A",
        _has_step,
        2,
    ),
    Action(
        "bracket-step",
        "Put the step into a bracket",
        "Map",
        lambda h: items.put_in_bracket(h.session, h.session.selection.step),
        "Ctrl+G",
        _has_step,
        2,
    ),
    Action(
        "free-step",
        "Take the step out of its bracket",
        "Map",
        lambda h: items.take_out(h.session, h.session.selection.step),
        "Ctrl+Shift+G",
        _has_step,
        2,
    ),
    Action(
        "switch-step",
        "Switch the step on or off",
        "Map",
        lambda h: items.switch(h.session, h.session.selection.step),
        "",
        _has_step,
        2,
    ),
    Action(
        "remove-step",
        "Remove the step",
        "Map",
        lambda h: items.remove_item(h.session, h.session.selection.step),
        "",
        _has_step,
        2,
    ),
    Action("new-quake", "Add a quake …", "Effect", lambda h: h.show_board("quake"), "Ctrl+Shift+K", _has_plate),
    Action("new-finish", "Add a finish …", "Effect", lambda h: h.show_board("finish"), "Ctrl+Shift+F", _has_plate),
    Action(
        "remove-with-maps",
        "Remove the effect and the maps only it reads",
        "Effect",
        lambda h: carry.remove_with_maps(h.session, h.session.selection.aimed),
        "",
        _has_aimed_effect,
    ),
    Action("draw-mask", "Draw a mask", "Effect", lambda h: effects.draw_mask(h.session), "Ctrl+Alt+M", _has_plate),
    Action(
        "trace-mask",
        "Draw a mask by its corners",
        "Effect",
        lambda h: h.drawing.begin_mask(),
        "Ctrl+Alt+Shift+M",
        _has_plate,
        called="polygon, lasso, roto, cut out",
    ),
    Action(
        "cover",
        "Cover the gaps of the plate",
        "Effect",
        lambda h: h.cover(h.session.selection.plate),
        "",
        _has_plate,
        2,
    ),
    Action(
        "see-upto",
        "See the plate up to this quake, or whole",
        "Effect",
        lambda h: h.frames.show_upto(h.session.selection.quake),
        "",
        _has_quake,
        2,
    ),
    Action(
        "all-needles",
        "Needles and distances of all effects together, or of one",
        "Effect",
        lambda h: h.frames.toggle_whole_warp(),
        "",
        group=2,
    ),
    Action(
        "flip-side",
        "Flip between side A and side B",
        "Effect",
        lambda h: effects.flip(h.session),
        "Ctrl+Shift+D",
        _has_quake,
    ),
    Action(
        "span",
        "Give the effect a span, or let it act always",
        "Effect",
        lambda h: pin_tools.give_span(h.session, h.session.selection.finish or h.session.selection.quake),
        "Ctrl+Shift+E",
        _has_effect,
        1,
    ),
    Action(
        "duplicate-quake",
        "Duplicate the quake",
        "Effect",
        lambda h: items.duplicate_item(h.session, h.session.selection.quake),
        "",
        _has_quake,
        1,
    ),
    Action(
        "switch-quake",
        "Switch the quake on or off",
        "Effect",
        lambda h: items.switch(h.session, h.session.selection.quake),
        "Ctrl+E",
        _has_quake,
        1,
    ),
    Action(
        "remove-quake",
        "Remove the quake",
        "Effect",
        lambda h: items.remove_item(h.session, h.session.selection.quake),
        "",
        _has_quake,
        1,
    ),
    Action("new-text", "New text", "Plate", lambda h: items.new_plate(h.session, "text"), "Ctrl+T"),
    Action("new-fill", "New fill", "Plate", lambda h: items.new_plate(h.session, "fill")),
    Action(
        "make-glass",
        "Make it glass",
        "Plate",
        lambda h: glass.make_glass(h.session, h.session.selection.plate),
        "",
        _has_plate,
    ),
    Action("draw-shape", "Draw a shape", "Plate", lambda h: h.drawing.begin_shape(), "Ctrl+Shift+R"),
    Action("new-lens", "New lens on all beneath", "Plate", lambda h: items.new_plate(h.session, "lens"), "Ctrl+L"),
    Action("new-file", "Picture, SVG or clip from a file …", "Plate", lambda h: h.files.ask_media(), "Ctrl+I"),
    Action(
        "duplicate-plate",
        "Duplicate the plate",
        "Plate",
        lambda h: items.duplicate_item(h.session, h.session.selection.plate),
        "Ctrl+D",
        _has_plate,
        1,
    ),
    Action(
        "live-copy",
        "Live copy of the plate",
        "Plate",
        lambda h: grouping.live_copy(h.session, h.session.selection.plate),
        "Ctrl+Alt+D",
        _has_plate,
        1,
    ),
    Action(
        "group-plates",
        "Put the plate into a group",
        "Plate",
        lambda h: grouping.group(h.session, h.session.selection.plate),
        "Ctrl+Alt+G",
        _has_plate,
        1,
    ),
    Action(
        "free-plate",
        "Take the plate out of its group",
        "Plate",
        lambda h: grouping.take_out(h.session, h.session.selection.plate),
        "",
        _has_plate,
        1,
    ),
    Action(
        "ungroup-plates",
        "Take the group apart",
        "Plate",
        lambda h: grouping.ungroup(h.session, h.session.selection.plate),
        "",
        _has_plate,
        1,
    ),
    Action(
        "switch-plate",
        "Switch the plate on or off",
        "Plate",
        lambda h: items.switch(h.session, h.session.selection.plate),
        "",
        _has_plate,
        1,
    ),
    Action(
        "lock-plate",
        "Lock or free the plate",
        "Plate",
        lambda h: items.lock(h.session, h.session.selection.plate),
        "",
        _has_plate,
        1,
    ),
    Action(
        "split-plate",
        "Split the plate by its mask: subject and rest",
        "Plate",
        lambda h: grouping.split(h.session, h.session.selection.plate),
        "",
        _has_plate,
        1,
    ),
    Action(
        "lay-on-plane",
        "Lay the plates on a plane",
        "Plate",
        lambda h: grouping.lay_on_plane(h.session, h.session.selection.plate),
        "Ctrl+Alt+L",
        _has_plate,
        2,
    ),
    Action("track", "Track the clip …", "Plate", lambda h: h.show_tracking(), "Ctrl+Alt+T", _has_plate, 4),
    Action(
        "pin-plate",
        "Pin the plate to the picked points",
        "Plate",
        lambda h: h.tracking.pin(),
        "Ctrl+Alt+P",
        _has_plate,
        4,
    ),
    Action("throw-points", "Throw the picked points out", "Plate", lambda h: h.tracking.throw_out(), "", _has_plate, 4),
    Action(
        "throw-weak-points",
        "Throw short and uncertain points out",
        "Plate",
        lambda h: h.tracking.throw_out_short(),
        "",
        _has_plate,
        4,
    ),
    Action("take-points-back", "Take all points back", "Plate", lambda h: h.tracking.take_back(), "", _has_plate, 4),
    Action(
        "crop-bars",
        "Crop the dark bars of the plate",
        "Plate",
        lambda h: items.crop_bars(h.session, h.session.selection.plate),
        "",
        _has_plate,
        2,
    ),
    Action(
        "sequence",
        "Use the whole sequence of numbered pictures",
        "Plate",
        lambda h: items.as_sequence(h.session, h.session.selection.plate),
        "",
        _has_plate,
        2,
    ),
    Action(
        "fill-frame",
        "Fill the frame with the plate",
        "Plate",
        lambda h: items.fill_frame(h.session, h.session.selection.plate),
        "Ctrl+Shift+J",
        _has_plate,
        2,
    ),
    Action(
        "centre-x",
        "Centre across",
        "Plate",
        lambda h: items.centre(h.session, h.session.selection.plate, "x"),
        "Ctrl+Shift+X",
        _has_plate,
        2,
    ),
    Action(
        "centre-y",
        "Centre down",
        "Plate",
        lambda h: items.centre(h.session, h.session.selection.plate, "y"),
        "Ctrl+Shift+Y",
        _has_plate,
        2,
    ),
    Action(
        "remove-plate",
        "Remove the plate",
        "Plate",
        lambda h: items.remove_item(h.session, h.session.selection.plate),
        "",
        _has_plate,
        3,
    ),
    Action("play", "Play or pause", "Time", lambda h: h.frames.toggle(), "Space"),
    Action("frame-back", "One frame back", "Time", lambda h: h.session.set_frame(h.session.frame - 1), "Ctrl+Left"),
    Action("frame-on", "One frame on", "Time", lambda h: h.session.set_frame(h.session.frame + 1), "Ctrl+Right"),
    Action("to-start", "To the start", "Time", lambda h: h.session.set_frame(0), "Home"),
    Action("to-end", "To the end", "Time", lambda h: h.session.set_frame(h.session.shot.length - 1), "End"),
    Action("set-pin", "Set or take away a pin here", "Time", lambda h: h.time.set_pin(), "K", group=1),
    Action("pin-back", "To the pin before", "Time", lambda h: h.time.to_pin(-1), "Ctrl+Up", group=1),
    Action("pin-on", "To the next pin", "Time", lambda h: h.time.to_pin(1), "Ctrl+Down", group=1),
    Action(
        "ease-pins",
        "Ease pins in and out",
        "Time",
        lambda h: h.time.shape("eased", (0.42, 0.0, 0.58, 1.0)),
        "Ctrl+Alt+E",
        group=2,
    ),
    Action("smooth-pins", "Smooth pins", "Time", lambda h: h.time.shape("smooth", None), "Ctrl+Alt+S", group=2),
    Action("hold-pins", "Hold after pins", "Time", lambda h: h.time.shape("hold", None), "Ctrl+Alt+H", group=2),
    Action("smooth-all", "Smooth all pins of the shot", "Time", lambda h: pin_tools.smooth_all(h.session), group=2),
    Action("ease-box", "Draw the ease of pins …", "Time", lambda h: h.time.open_ease_box(), group=2),
    Action("reverse-pins", "Reverse pins", "Time", lambda h: h.time.reshape(pin_tools.reverse), group=4),
    Action("repeat-pins", "Repeat pins to the end", "Time", lambda h: h.time.reshape(pin_tools.repeat), group=4),
    Action(
        "simplify-pins",
        "Take pins away that are not needed",
        "Time",
        lambda h: h.time.reshape(pin_tools.simplify),
        group=4,
    ),
    Action("marker", "Set a marker here", "Time", lambda h: h.time.mark(), "M", group=3),
    Action("add-sound", "Add a sound …", "Sound", lambda h: h.files.ask_sound(), "Ctrl+Shift+U"),
    Action(
        "clip-sound",
        "Take the sound of the clip",
        "Sound",
        lambda h: sounds.add_clip_sound(h.session, h.session.selection.plate),
        "",
        _has_plate,
    ),
    Action("add-band", "Add a band", "Sound", lambda h: sounds.add_band(h.session), "Ctrl+Alt+B", _has_sound, 1),
    Action("find-beats", "Find the beats", "Sound", lambda h: h.hearing.find_beats(hits=False), "", _has_sound, 2),
    Action("find-hits", "Find every hit", "Sound", lambda h: h.hearing.find_beats(hits=True), "", _has_sound, 2),
    Action("tap-beat", "Tap a beat here", "Sound", lambda h: sounds.tap_beat(h.session), "Ctrl+Alt+K", group=2),
    Action(
        "steady-beats", "Make the beats steady", "Sound", lambda h: sounds.steady_beats(h.session), "", _has_beats, 2
    ),
    Action("halve-beats", "Every other beat", "Sound", lambda h: sounds.halve_beats(h.session), "", _has_beats, 2),
    Action("double-beats", "Twice as many beats", "Sound", lambda h: sounds.double_beats(h.session), "", _has_beats, 2),
    Action(
        "beats-earlier",
        "Beats one frame earlier",
        "Sound",
        lambda h: sounds.move_beats(h.session, -1),
        "",
        _has_beats,
        2,
    ),
    Action(
        "beats-later", "Beats one frame later", "Sound", lambda h: sounds.move_beats(h.session, 1), "", _has_beats, 2
    ),
    Action("clear-beats", "Take all beats away", "Sound", lambda h: sounds.clear_beats(h.session), "", _has_beats, 2),
    Action("seamless", "Seamless loop …", "Time", lambda h: h.dialogs.show_seamless(h.focus_value), group=5),
    Action("fit", "Show the whole frame", "View", lambda h: h.view_state.show_all(), "Ctrl+0"),
    Action("whole", "One pixel on one pixel", "View", lambda h: h.show_whole(), "Ctrl+1"),
    Action("show", "Show the picture alone", "View", lambda h: h.show_picture_alone(), "F11", called="full screen"),
    Action("wide-map", "Map bay over the whole width", "View", lambda h: h.toggle_wide("map"), "F6", group=1),
    Action(
        "wide-picture", "Picture bay over the whole width", "View", lambda h: h.toggle_wide("picture"), "F7", group=1
    ),
    Action("theme", "Light or dark theme", "View", lambda h: h.dialogs.toggle_theme(), group=2),
    Action("shortcuts", "Shortcuts", "Help", lambda h: h.dialogs.show_shortcuts(), "F1"),
    Action("about", "About Nimble Quake", "Help", lambda h: h.dialogs.show_about()),
)

MENUS = ("File", "Edit", "Shot", "Map", "Effect", "Plate", "Time", "Sound", "View", "Help")
