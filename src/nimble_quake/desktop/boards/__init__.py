"""Boards that choices are made from."""
