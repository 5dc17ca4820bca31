"""`nimble-quake completion SHELL`: what a shell needs to complete our words, made from the declarations."""

from __future__ import annotations

from typing import Annotated

from nimble_quake.cli.declared import commands
from nimble_quake.cli.words import Argument
from nimble_quake.errors import BadInput


def run(shell: Annotated[str, Argument("bash, zsh or fish")] = "bash") -> int:
    """Print a completion script. Example: nimble-quake completion fish | source"""
    if shell not in SHELLS:
        raise BadInput(f'there is no completion for "{shell}"', cure="use bash, zsh or fish")
    print(SHELLS[shell](), end="")
    return 0


def for_bash() -> str:
    """Return a script for bash: words of a command, what an option takes, files with any name."""
    return f"""_nimble_quake() {{
    local here=${{COMP_WORDS[COMP_CWORD]}} before=${{COMP_WORDS[COMP_CWORD-1]}} words="" files=""
    if [ "$COMP_CWORD" -eq 1 ]; then
        words="{_commands()}" files=1
    else
        case "$before" in
{_cases(_after_options(), '        {0}) words="{1}" files={2} ;;')}
        *) case "$here" in
        -*) case "${{COMP_WORDS[1]}}" in
{_cases(_options(), '        {0}) words="{1}" ;;')}
        esac ;;
        *) case "${{COMP_WORDS[1]}}" in
{_cases(_given(), '        {0}) words="{1}" files={2} ;;')}
        esac ;;
        esac ;;
        esac
    fi
    here=${{here#[\\"\\']}} here=${{here//\\\\/}}
    mapfile -t COMPREPLY < <(
        [ -n "$words" ] && compgen -W "$words" -- "$here"
        [ -n "$files" ] && compgen -f -- "$here"
    )
    case "${{COMPREPLY[*]}}" in *:) compopt -o nospace 2>/dev/null ;; esac
}}
complete -o filenames -F _nimble_quake nimble-quake
"""


def for_zsh() -> str:
    """Return the same for zsh; as a file of its path it completes at the first key already."""
    return f"""#compdef nimble-quake
_nimble_quake() {{
    local here=${{words[CURRENT]}} before=${{words[CURRENT-1]}} command=${{words[2]}}
    if (( CURRENT == 2 )); then compadd -- {_commands()}; _files; return; fi
    case $before in
{_cases(_after_options(), "    {0}) _nimble_quake_offer '{2}' {1}; return ;;")}
    esac
    if [[ $here == -* ]]; then
        case $command in
{_cases(_options(), "        {0}) compadd -- {1} ;;")}
        esac
        return
    fi
    case $command in
{_cases(_given(), "    {0}) _nimble_quake_offer '{2}' {1} ;;")}
    esac
}}
_nimble_quake_offer() {{
    local files=$1; shift
    (( $# )) && compadd -- "$@"
    [[ -n $files ]] && _files
    return 0
}}
if [[ ${{funcstack[1]}} == _nimble-quake ]]; then _nimble_quake "$@"; else compdef _nimble_quake nimble-quake; fi
"""


Case = tuple[str, str, str]
"""What stands there, the words that can follow, and 1 where files can."""


def _commands() -> str:
    return " ".join(command.name for command in commands())


def _cases(cases: list[Case], line: str) -> str:
    return "\n".join(line.format(*case) for case in cases)


def _after_options() -> list[Case]:
    """What follows an option that takes something."""
    found = {
        "|".join(option.names): (" ".join(option.values), "1" if option.file else "")
        for command in commands()
        for option in command.options
        if option.metavar
    }
    return [(names, *what) for names, what in sorted(found.items())]


def _options() -> list[Case]:
    """The options of each command."""
    return [(c.name, " ".join(name for option in c.options for name in option.names), "") for c in commands()]


def _given() -> list[Case]:
    """What each command itself is given."""
    found = []
    for command in commands():
        words = " ".join(dict.fromkeys(value for argument in command.arguments for value in argument.values))
        found.append((command.name, words, "1" if any(argument.file for argument in command.arguments) else ""))
    return found


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
