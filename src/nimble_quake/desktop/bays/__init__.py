"""The map bay, the coupling and the picture bay: lists, settings, signs."""
