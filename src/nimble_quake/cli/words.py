"""A command as the function that runs it declares it: each parameter's type, and beside it what it takes.

def run(shot: Annotated[Path, Argument("The shot")], size: Annotated[str, Option(help="Share of its size")] = "100%")
"""

from __future__ import annotations

import inspect
from collections.abc import Callable
from types import NoneType
from typing import Any, TypeAlias, get_args, get_type_hints

import click

Settings: TypeAlias = dict[str, Any]
"""What the library is told of a parameter."""
HELP_OPTIONS = {"help_option_names": ["-h", "--help"]}


class Argument:
    """What a command is given by its place; one with a default may be left out."""

    def __init__(self, help: str) -> None:
        self.help = help

    def declared(self, name: str, settings: Settings) -> click.Parameter:
        """Return it as the library has it."""
        return click.Argument([name], help=self.help, **settings)


class Option:
    """What a command is given by name; left out, the name is the parameter's. A bool is a switch."""

    def __init__(self, *names: str, help: str) -> None:
        self.names, self.help = names, help

    def declared(self, name: str, settings: Settings) -> click.Parameter:
        """Return it as the library has it; a default is shown where it says something."""
        names = self.names or (f"--{name.replace('_', '-')}",)
        shown = bool(settings.get("default")) and "is_flag" not in settings
        return click.Option([*names, name], show_default=shown, help=self.help, **settings)


def command(name: str, run: Callable[..., int]) -> click.Command:
    """Return the command of a function; the function's docstring is its help."""
    hints, given = get_type_hints(run, include_extras=True), inspect.signature(run).parameters
    found = []
    for each, parameter in given.items():
        kind, what = get_args(hints[each])[:2]
        needed = parameter.default is inspect.Parameter.empty
        default = {"required": True} if needed else {"required": False, "default": parameter.default}
        found.append(what.declared(each, _taken(kind) | default))
    return click.Command(name, callback=run, params=found, help=run.__doc__, context_settings=dict(HELP_OPTIONS))


def _taken(kind: object) -> Settings:
    """How a value of a type is read: a switch, one value, or a tuple of as many as are given."""
    kinds = [each for each in get_args(kind) if each not in (NoneType, ...)] or [kind]
    if kinds == [bool]:
        return {"is_flag": True}
    return {"type": kinds[0], "multiple": True} if ... in get_args(kind) else {"type": kinds[0]}
