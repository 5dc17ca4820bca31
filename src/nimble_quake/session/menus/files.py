"""Actions on shots as files, editing, the shot itself."""

from __future__ import annotations

from nimble_quake.session.menus.action import Action, can_redo, can_undo

FILES: tuple[Action, ...] = (
    Action("new", "New shot …", "File", lambda h: h.files.new_shot(), "Ctrl+N"),
    Action("open", "Open …", "File", lambda h: h.files.open_shot(), "Ctrl+O"),
    Action("find-missing", "Find missing files in a folder …", "File", lambda h: h.files.find_missing(), "", group=1),
    Action("save", "Save", "File", lambda h: h.files.save(), "Ctrl+S", group=1),
    Action("save-as", "Save as …", "File", lambda h: h.files.save_as(), "Ctrl+Shift+S", group=1),
    Action("save-copy", "Save a copy …", "File", lambda h: h.files.save_copy(), group=1),
    Action(
        "collect",
        "Collect the shot with its media …",
        "File",
        lambda h: h.files.collect(),
        group=1,
        called="package, archive, zip, gather, hand over",
    ),
    Action("render", "Render …", "File", lambda h: h.dialogs.show_render(), "Ctrl+R", group=2),
    Action(
        "batch",
        "A clip for each row of a table …",
        "File",
        lambda h: h.dialogs.show_batch(),
        group=2,
        called="batch, spreadsheet, csv, data driven",
    ),
    Action("queue", "Render queue …", "File", lambda h: h.dialogs.show_queue(), "Ctrl+Alt+R", group=2),
    Action("preferences", "Preferences …", "File", lambda h: h.dialogs.show_preferences(), "Ctrl+,", group=3),
    Action("quit", "Quit", "File", lambda h: h.close(), "Ctrl+Q", group=4),
    Action("undo", "Undo", "Edit", lambda h: h.session.undo(), "Ctrl+Z", can_undo),
    Action("redo", "Redo", "Edit", lambda h: h.session.redo(), "Ctrl+Shift+Z", can_redo),
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
    Action(
        "keep-state", "Keep this state …", "Shot", lambda h: h.picture_bay.states.keep(), called="snapshot, version"
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
)
