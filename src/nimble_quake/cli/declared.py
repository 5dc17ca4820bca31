"""The whole command line as it is declared: for the manual page and the completion of shells."""

from __future__ import annotations

import importlib
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from typing import get_args, get_type_hints

import click

from nimble_quake.cli.main import COMMANDS
from nimble_quake.cli.progress import WAYS
from nimble_quake.cli.words import command
from nimble_quake.export.data import TITLES, WHOLE
from nimble_quake.export.formats import formats
from nimble_quake.operators.registry import FAMILIES, registry
from nimble_quake.params.kinds import Choice
from nimble_quake.quakes.push import Push
from nimble_quake.samples import samples
from nimble_quake.session.fronts.making import SHAPES, TIMES
from nimble_quake.session.starting import starters

_ACROSS = Push.declared["x_from"]
CHANNELS = tuple(option.value for option in _ACROSS.options) if isinstance(_ACROSS, Choice) else ()
VALUES: dict[str, tuple[str, ...]] = {
    "--quality": ("best", "good", "small"),
    "--alpha": ("straight", "premultiplied"),
    "--edge": ("empty", "hold", "wrap", "mirror"),
    "--filter": ("nearest", "linear", "cubic"),
    "--fit": ("contain", "cover", "stretch", "centre", "tile"),
    "--x-from": CHANNELS,
    "--y-from": CHANNELS,
    "--transparent": ("rest", "black", "white", "as-is"),
    "--progress": tuple(WAYS),
    "--times": TIMES,
    "--shape": SHAPES,
    "--what": tuple(sort if sort in WHOLE else f"{sort}:" for sort in TITLES),
}
"""What some options take. A word that ends in a colon goes on with a name."""
FILES = ("-o", "--sound", "starter")
"""Options and arguments that take a file among other things."""


@dataclass(frozen=True)
class Option:
    """An option or an argument. `metavar`: what it takes; empty for a switch."""

    names: tuple[str, ...]
    metavar: str
    help: str
    file: bool = False
    """It takes a file."""
    known: tuple[str, ...] = ()
    """What an argument can be, where that is known."""

    @property
    def values(self) -> tuple[str, ...]:
        """What it can be, where that is known."""
        if "--format" in self.names:
            return tuple(format.key for format in formats())
        return self.known or next((VALUES[name] for name in self.names if name in VALUES), ())


def _arguments(command: str) -> tuple[str, ...]:
    """What the argument of a command can be, where that is no file."""
    if command == "demo":
        return tuple(samples())
    if command == "list":
        return (*FAMILIES, "starter", *(operator.kind for operator in registry().all()))
    if command in ("make", "slots"):
        return tuple(starter.name for starter in starters.shipped())
    return ("bash", "zsh", "fish") if command == "completion" else ()


@dataclass(frozen=True)
class Command:
    """A subcommand."""

    name: str
    about: str
    arguments: tuple[Option, ...]
    options: tuple[Option, ...]


@cache
def commands() -> tuple[Command, ...]:
    """Return all subcommands with what they take."""
    return tuple(_command(name, module) for name, (module, _) in COMMANDS.items())


def _command(name: str, module: str) -> Command:
    run = importlib.import_module(f"nimble_quake.cli.{module}").run
    found, hints = command(name, run), get_type_hints(run)
    arguments, options = [], []
    for param in found.params:
        hint, help = hints[str(param.name)], param.help or ""
        file = Path in (hint, *get_args(hint))
        if isinstance(param, click.Argument):
            arguments.append(Option((), str(param.name), help, file or param.name in FILES, _arguments(name)))
        elif isinstance(param, click.Option):
            options.append(_option(param, help, file=file))
    return Command(name, str(found.help or "").strip(), tuple(arguments), tuple(options))


def _option(param: click.Option, help: str, *, file: bool) -> Option:
    takes = "" if param.is_flag else str(param.name).upper()
    return Option(tuple(param.opts), takes, help, file or param.opts[0] in FILES)
