"""`nimble-quake completion SHELL`: what a shell needs to complete our words, made from the declarations."""

from __future__ import annotations

from typing import Annotated

import typer

from nimble_quake.cli.declared import commands
from nimble_quake.errors import BadInput


def run(shell: Annotated[str, typer.Argument(help="bash, zsh or fish")] = "bash") -> int:
    """Print a completion script. Example: nimble-quake completion fish | source"""
    if shell not in SHELLS:
        raise BadInput(f'there is no completion for "{shell}"', cure="use bash, zsh or fish")
    print(SHELLS[shell](), end="")
    return 0


def for_bash() -> str:
    """Return a script for bash: words of a command, then files."""
    words, values = [], []
    for command in commands():
        names = " ".join(name for option in command.options for name in option.names)
        words.append(f'        {command.name}) words="{names}" ;;')
        for option in command.options:
            if option.values:
                values.append(f'        {"|".join(option.names)}) words="{" ".join(option.values)}" ;;')
    all_commands = " ".join(command.name for command in commands())
    return f"""_nimble_quake() {{
    local here=${{COMP_WORDS[COMP_CWORD]}} before=${{COMP_WORDS[COMP_CWORD-1]}} words=""
    if [ "$COMP_CWORD" -eq 1 ]; then
        words="{all_commands}"
    else
        case "$before" in
{chr(10).join(sorted(set(values)))}
        *) case "${{COMP_WORDS[1]}}" in
{chr(10).join(words)}
        esac ;;
        esac
    fi
    COMPREPLY=($(compgen -W "$words" -- "$here"))
    if [ ${{#COMPREPLY[@]}} -eq 0 ]; then COMPREPLY=($(compgen -f -- "$here")); fi
}}
complete -o filenames -F _nimble_quake nimble-quake
"""


def for_zsh() -> str:
    """Return the same for zsh, which can read bash's."""
    return f"#compdef nimble-quake\nautoload -U +X bashcompinit && bashcompinit\n{for_bash()}"


def for_fish() -> str:
    """Return lines for fish, with the help of each word."""
    start = "complete -c nimble-quake"
    lines = []
    for command in commands():
        first = command.about.split(". ")[0]
        lines.append(f"{start} -n __fish_use_subcommand -a {command.name} -d {_quoted(first)}")
        for option in command.options:
            shown = " ".join(f"-l {name[2:]}" if name.startswith("--") else f"-s {name[1:]}" for name in option.names)
            takes = f" -x -a {_quoted(' '.join(option.values))}" if option.values else " -r" if option.metavar else ""
            seen = f"-n '__fish_seen_subcommand_from {command.name}'"
            lines.append(f"{start} {seen} {shown}{takes} -d {_quoted(option.help)}")
    return "\n".join(lines) + "\n"


def _quoted(text: str) -> str:
    return "'" + text.replace("\\", "\\\\").replace("'", "\\'").replace("\n", " ") + "'"


SHELLS = {"bash": for_bash, "zsh": for_zsh, "fish": for_fish}
