"""The program without a window: the open shot, selection, playhead, preferences, and the table of actions."""
