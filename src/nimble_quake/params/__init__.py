"""Parameter kinds: each declares once what a value is, its limits, unit and help."""
