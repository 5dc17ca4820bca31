"""Settings panels made from the operators' declarations."""
