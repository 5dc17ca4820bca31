"""The main window's regions."""
