"""What acts at a moment, with which numbers, and what each result depends on."""
