"""The kinds of file we write, one module each with its FORMAT."""
