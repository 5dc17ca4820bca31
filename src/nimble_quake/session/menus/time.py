"""Actions on time, sound, what is seen, help."""

from __future__ import annotations

from nimble_quake.session.menus.action import Action, has_beats, has_plate, has_sound
from nimble_quake.session.moving import pin_tools, pins
from nimble_quake.session.verbs import sounds

TIME: tuple[Action, ...] = (
    Action("play", "Play or pause", "Time", lambda h: h.frames.toggle(), "Space"),
    Action(
        "prepare",
        "Prepare the range",
        "Time",
        lambda h: h.preparing.begin(),
        "Shift+Space",
        called="cache, preview, RAM",
    ),
    Action("frame-back", "One frame back", "Time", lambda h: h.session.set_frame(h.session.frame - 1), "Ctrl+Left"),
    Action("frame-on", "One frame on", "Time", lambda h: h.session.set_frame(h.session.frame + 1), "Ctrl+Right"),
    Action("to-start", "To the start", "Time", lambda h: h.session.set_frame(0), "Home"),
    Action("to-end", "To the end", "Time", lambda h: h.session.set_frame(h.session.shot.length - 1), "End"),
    Action(
        "to-middle",
        "To the middle of the range",
        "Time",
        lambda h: h.session.set_frame(pins.middle_of_range(h.session.shot)),
        "Ctrl+Home",
        called="centre, half way",
    ),
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
        has_plate,
    ),
    Action(
        "clips-heard",
        "Hear the clips' own sounds, or not",
        "Sound",
        lambda h: sounds.hear_clips(h.session),
        "",
        has_plate,
        called="cross-fade, audio, mute",
    ),
    Action("add-band", "Add a band", "Sound", lambda h: sounds.add_band(h.session), "Ctrl+Alt+B", has_sound, 1),
    Action("find-beats", "Find the beats", "Sound", lambda h: h.hearing.find_beats(hits=False), "", has_sound, 2),
    Action("find-hits", "Find every hit", "Sound", lambda h: h.hearing.find_beats(hits=True), "", has_sound, 2),
    Action("tap-beat", "Tap a beat here", "Sound", lambda h: sounds.tap_beat(h.session), "Ctrl+Alt+K", group=2),
    Action(
        "steady-beats", "Make the beats steady", "Sound", lambda h: sounds.steady_beats(h.session), "", has_beats, 2
    ),
    Action("halve-beats", "Every other beat", "Sound", lambda h: sounds.halve_beats(h.session), "", has_beats, 2),
    Action("double-beats", "Twice as many beats", "Sound", lambda h: sounds.double_beats(h.session), "", has_beats, 2),
    Action(
        "beats-earlier",
        "Beats one frame earlier",
        "Sound",
        lambda h: sounds.move_beats(h.session, -1),
        "",
        has_beats,
        2,
    ),
    Action(
        "beats-later", "Beats one frame later", "Sound", lambda h: sounds.move_beats(h.session, 1), "", has_beats, 2
    ),
    Action("clear-beats", "Take all beats away", "Sound", lambda h: sounds.clear_beats(h.session), "", has_beats, 2),
    Action("seamless", "Seamless loop …", "Time", lambda h: h.dialogs.show_seamless(h.focus_value), group=5),
    Action("fit", "Show the whole frame", "View", lambda h: h.view_state.show_all(), "Ctrl+0"),
    Action("whole", "One pixel on one pixel", "View", lambda h: h.show_whole(), "Ctrl+1"),
    Action("show", "Show the picture alone", "View", lambda h: h.show_picture_alone(), "F11", called="full screen"),
    Action(
        "shutter",
        "The shutter in the preview",
        "View",
        lambda h: h.frames.toggle_shutter(),
        "Ctrl+Alt+Shift+S",
        called="motion blur",
    ),
    Action("wide-map", "Map bay over the whole width", "View", lambda h: h.toggle_wide("map"), "F6", group=1),
    Action(
        "wide-picture", "Picture bay over the whole width", "View", lambda h: h.toggle_wide("picture"), "F7", group=1
    ),
    Action(
        "guides-thirds", "Thirds", "View", lambda h: h.picture_bay.guides.toggle("thirds"), group=3, called="guides"
    ),
    Action(
        "guides-centre",
        "Centre lines",
        "View",
        lambda h: h.picture_bay.guides.toggle("centre"),
        group=3,
        called="guides",
    ),
    Action(
        "guides-safe", "Safe areas", "View", lambda h: h.picture_bay.guides.toggle("safe"), group=3, called="guides"
    ),
    Action(
        "guide-upright", "Add an upright guide", "View", lambda h: h.picture_bay.guides.add(0), group=3, called="line"
    ),
    Action("guide-level", "Add a level guide", "View", lambda h: h.picture_bay.guides.add(1), group=3, called="line"),
    Action(
        "snapping",
        "Snap in the picture, or not",
        "View",
        lambda h: h.picture_bay.guides.toggle_snapping(),
        group=3,
        called="align, magnet",
    ),
    Action("theme", "Light or dark theme", "View", lambda h: h.dialogs.toggle_theme(), group=2),
    Action("help-here", "Help on what is under the pointer", "Help", lambda h: h.show_help_here(), "F1"),
    Action("help", "All pages", "Help", lambda h: h.dialogs.show_help(), "Shift+F1", called="manual, documentation"),
    Action("shortcuts", "Shortcuts", "Help", lambda h: h.dialogs.show_shortcuts(), "Ctrl+F1", group=1),
    Action("about", "About Nimble Quake", "Help", lambda h: h.dialogs.show_about(), group=1),
)
