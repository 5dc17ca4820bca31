"""The whole command line as it is declared: for the manual page and the completion of shells."""

from __future__ import annotations

import importlib
from dataclasses import dataclass
from typing import Any

import typer
from typer.main import get_command

from nimble_quake.cli.main import COMMANDS
from nimble_quake.export.formats import formats

VALUES = {
    "--quality": ("best", "good", "small"),
    "--alpha": ("straight", "premultiplied"),
    "--edge": ("empty", "hold", "wrap", "mirror"),
    "--filter": ("nearest", "linear", "cubic"),
    "--fit": ("contain", "cover", "stretch", "centre", "tile"),
    "--progress": ("bars", "plain", "json", "none"),
}
"""What some options take."""


@dataclass(frozen=True)
class Option:
    """An option or an argument. `metavar`: what it takes; empty for a switch."""

    names: tuple[str, ...]
    metavar: str
    help: str

    @property
    def values(self) -> tuple[str, ...]:
        """What it can be, where that is known."""
        if "--format" in self.names:
            return tuple(format.key for format in formats())
        return next((VALUES[name] for name in self.names if name in VALUES), ())


@dataclass(frozen=True)
class Command:
    """A subcommand."""

    name: str
    about: str
    arguments: tuple[Option, ...]
    options: tuple[Option, ...]


def commands() -> list[Command]:
    """Return all subcommands with what they take."""
    return [_command(name, module) for name, (module, _) in COMMANDS.items()]


def _command(name: str, module: str) -> Command:
    app = typer.Typer(add_completion=False)
    app.command(name)(importlib.import_module(f"nimble_quake.cli.{module}").run)
    found = get_command(app)
    arguments, options = [], []
    for param in found.params:
        if param.param_type_name == "argument":
            arguments.append(Option((), str(param.name or ""), str(getattr(param, "help", "") or "")))
        else:
            options.append(_option(param))
    return Command(name, str(found.help or "").strip(), tuple(arguments), tuple(options))


def _option(param: Any) -> Option:
    takes = "" if param.is_flag else str(param.name).upper()
    return Option(tuple(param.opts), takes, str(param.help or ""))
