"""`nimble-quake`: the entry point, and the one place where errors become a line and an exit code."""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence

import typer

from nimble_quake import __version__
from nimble_quake.cli import check, demo, displace, frame, list_operators, open_window, render, schema
from nimble_quake.errors import NimbleQuakeError

app = typer.Typer(
    name="nimble-quake",
    help="Animated displacement maps that shake, ripple and bend text, logos and clips. "
    "`nimble-quake [SHOT]` opens the window.",
    no_args_is_help=False,
    add_completion=False,
    pretty_exceptions_enable=False,
)
COMMANDS: dict[str, Callable[..., int]] = {
    "open": open_window.run,
    "demo": demo.run,
    "render": render.run,
    "frame": frame.run,
    "displace": displace.run,
    "check": check.run,
    "list": list_operators.run,
    "schema": schema.run,
}
for _name, _function in COMMANDS.items():
    app.command(_name)(_function)


def main(arguments: Sequence[str] | None = None) -> int:
    """Run a command line. Returns 0 for done, 1 for failed work, 2 for bad input; never shows a traceback."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    if given in (["--version"], ["-V"]):
        print(f"nimble-quake {__version__}")
        return 0
    if not given or (given[0] not in COMMANDS and not given[0].startswith("-")):
        given = ["open", *given]
    try:
        done = app(given, standalone_mode=False, prog_name="nimble-quake")
        return done if isinstance(done, int) else 0
    except NimbleQuakeError as wrong:
        return _say(wrong.line(), wrong.exit_code)
    except typer.Exit as leave:
        return leave.exit_code
    except (KeyboardInterrupt, typer.Abort):
        return _say("stopped", 1)
    except MemoryError:
        return _say("there is not enough memory - render smaller (--size 50%)", 1)
    except OSError as wrong:
        return _say(f"{wrong.filename or ''}: {wrong.strerror or wrong}".lstrip(": "), 1)
    except Exception as wrong:  # the last net: a fault of ours is still one line
        if hasattr(wrong, "format_message"):  # the command line's own complaints, whichever click raised them
            return _say(wrong.format_message(), 2)
        return _say(f"something went wrong in Nimble Quake itself ({type(wrong).__name__}: {wrong})", 1)


def _say(line: str, code: int) -> int:
    print("nimble-quake: " + " ".join(line.split()), file=sys.stderr)
    return code


def entry() -> None:
    """The console script."""
    sys.exit(main())
