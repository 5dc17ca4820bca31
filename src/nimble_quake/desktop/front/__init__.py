"""The front panel: slots and dials, in the coupling's place."""
