"""`nimble-quake`: the entry point, and the one place where errors become a line and an exit code."""

from __future__ import annotations

import difflib
import gc
import signal
import sys
import warnings
from collections.abc import Sequence
from pathlib import Path

import click

from nimble_quake import __version__
from nimble_quake.cli.loading import loaded
from nimble_quake.cli.words import HELP_OPTIONS, command
from nimble_quake.errors import BadInput, NimbleQuakeError, one_line

COMMANDS = {
    "open": ("open_window", "Open the window, with a shot or a new one."),
    "demo": ("demo", "Open a sample shot; without a display, render it and a picture of the window."),
    "render": ("render", "Render a shot."),
    "queue": ("queue", "List the render queue, or change it."),
    "make": ("make", "Fill a starter and render it, or a whole table of them."),
    "slots": ("slots", "List what of a starter can be filled and turned."),
    "frame": ("frame", "Render one frame."),
    "displace": ("displace", "Push a picture by a map."),
    "collect": ("collect", "Copy a shot with all its media into a folder or zip."),
    "check": ("check", "Read a shot, try a few frames, list all that is wrong."),
    "list": ("list_operators", "List what there is."),
    "farm-keys": ("farm_keys", "Make keys for machines that render together."),
    "manual": ("manual", "Print the manual page."),
    "completion": ("completion", "Print a completion script for bash, zsh or fish."),
    "schema": ("schema", "Print the JSON Schema of shot files."),
}
"""Each command's module and the first sentence of its help. A module is imported when its command is given."""
ABOUT = """Animated displacement maps that shake, ripple and bend text, logos and clips.

`nimble-quake [SHOT]` opens the window, `--version` says which this is."""


class _Commands(click.Group):
    """All commands, listed as they stand above; only the one that was given has its options."""

    def __init__(self, given: str) -> None:
        found = [
            command(name, loaded(f"nimble_quake.cli.{module}").run)
            if name == given
            else click.Command(name, short_help=about)
            for name, (module, about) in COMMANDS.items()
        ]
        super().__init__("nimble-quake", found, help=ABOUT, context_settings=dict(HELP_OPTIONS))

    def list_commands(self, _: click.Context) -> list[str]:
        return list(COMMANDS)


def _refuse_wrong_verb(given: list[str]) -> None:
    """Raise BadInput where what is to be opened is no file, and looks like a command."""
    word = given[1] if given[0] == "open" and len(given) > 1 else ""
    near = difflib.get_close_matches(word, COMMANDS, 1, 0.6)
    if near and not Path(word).suffix and not Path(word).exists():
        raise BadInput(f'there is no command "{word}"', cure=f"did you mean {near[0]}?")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command line. Returns 0 for done, 1 for failed work, 2 for bad input; never shows a traceback."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if given in (["--version"], ["-V"]):
        print(f"nimble-quake {__version__}")
        return 0
    if not given or (given[0] not in COMMANDS and not given[0].startswith("-")):
        given = ["open", *given]
    try:
        _refuse_wrong_verb(given)
        done = _Commands(given[0])(given, standalone_mode=False, prog_name="nimble-quake")
        return done if isinstance(done, int) else 0
    except NimbleQuakeError as wrong:
        return _say(wrong.line(), wrong.exit_code)
    except Ended as stop:
        return _say("stopped", stop.code)
    except (KeyboardInterrupt, click.Abort):
        return _say("stopped", 128 + signal.SIGINT)
    except MemoryError:
        return _say("there is not enough memory - render smaller (--size 50%)", 1)
    except OSError as wrong:
        return _say(f"{wrong.filename or ''}: {wrong.strerror or wrong}".lstrip(": "), 1)
    except click.ClickException as wrong:
        return _say(wrong.format_message(), 2)
    except Exception as wrong:  # the last net: a fault of ours is still one line
        return _say(f"something went wrong in Nimble Quake itself ({type(wrong).__name__}: {wrong})", 1)


def _say(line: str, code: int) -> int:
    print("nimble-quake: " + one_line(line), file=sys.stderr)
    return code


class Ended(BaseException):
    """Somebody asked us to end: with the exit code that shells and batch systems know (128 + signal)."""

    def __init__(self, number: int) -> None:
        super().__init__()
        self.code = 128 + number


def end_as_asked() -> None:
    """Let Ctrl+C, SIGTERM and SIGHUP end a command so that nothing is left; what is ignored stays ignored."""

    def end(number: int, _: object) -> None:
        signal.signal(number, signal.SIG_IGN)  # once is enough: what tidies up is not stopped
        raise Ended(number)

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        if signal.getsignal(number) is not signal.SIG_IGN:
            signal.signal(number, end)


SELDOM = 10_000
"""So many new objects before garbage is looked for: modules and classes that are loaded are many, and are none."""


def entry() -> None:
    """The console script."""
    gc.set_threshold(SELDOM)
    end_as_asked()
    if not sys.warnoptions:
        warnings.simplefilter("ignore")  # a library's remarks are for its developers
    sys.exit(main())
