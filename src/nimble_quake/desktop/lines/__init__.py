"""The lines above and below: commands, status, work under way."""
