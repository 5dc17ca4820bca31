"""Menus, forms and dialogs for how a value moves."""
