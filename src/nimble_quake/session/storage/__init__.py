"""What is kept on this machine: preferences, lost work, recipes."""
