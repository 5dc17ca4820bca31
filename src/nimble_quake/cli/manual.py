"""`nimble-quake manual`: the manual page in roff, made from the declarations."""

from __future__ import annotations

from nimble_quake import __version__
from nimble_quake.cli.declared import Command, Option, commands


def run() -> int:
    """Print the manual page. Example: nimble-quake manual > nimble-quake.1"""
    print(page(), end="")
    return 0


def page() -> str:
    """Return the page as `man` reads it (man-pages(7))."""
    lines = [
        f'.TH NIMBLE-QUAKE 1 "" "nimble-quake {__version__}" "User Commands"',
        ".SH NAME",
        r"nimble-quake \- animated displacement maps that shake, ripple and bend text, logos and clips",
        ".SH SYNOPSIS",
        ".B nimble-quake",
        r"[\fISHOT\fR]",
        ".br",
        ".B nimble-quake",
        r"\fICOMMAND\fR [\fIOPTION\fR]...",
        ".SH DESCRIPTION",
        "With a shot (.nquake) or nothing the window is opened. All else is a command.",
        ".SH COMMANDS",
    ]
    for command in commands():
        lines += _section(command)
    lines += [
        ".SH EXIT STATUS",
        "0 for done, 1 for work that failed, 2 for what cannot be done as it was asked. Errors are one line on stderr.",
        ".SH ENVIRONMENT",
        ".TP",
        ".B NIMBLE_QUAKE_HOME",
        "A folder for preferences and the render queue, in place of the user's own.",
    ]
    return "\n".join(lines) + "\n"


def _section(command: Command) -> list[str]:
    taken = " ".join(_plain(argument.metavar.upper()) for argument in command.arguments)
    lines = [f".SS {command.name} {taken}".rstrip(), _plain(command.about)]
    for option in (*command.arguments, *command.options):
        lines += [".TP", _named(option), _plain(option.help) + _choices(option)]
    return lines


def _named(option: Option) -> str:
    names = ", ".join(rf"\fB{_plain(name)}\fR" for name in option.names)
    takes = rf"\fI{_plain(option.metavar.upper())}\fR" if option.metavar else ""
    return f"{names} {takes}".strip()


def _choices(option: Option) -> str:
    return f" One of {_plain(', '.join(option.values))}." if option.values and "…" in option.help else ""


def _plain(text: str) -> str:
    """Text that roff takes as it is."""
    escaped = text.replace("\\", r"\e").replace("-", r"\-").replace("\n", " ")
    return "\\&" + escaped if escaped.startswith((".", "'")) else escaped
