"""Edits: each is a pure function (shot, ...) -> shot; one verb a file."""
