"""Roles and values for assistive technology."""
