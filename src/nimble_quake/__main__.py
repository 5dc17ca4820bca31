"""`python -m nimble_quake`."""

from nimble_quake.cli.main import entry

entry()
