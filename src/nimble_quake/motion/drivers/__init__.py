"""Drivers: what moves a value by itself, one file each."""
