"""The document: immutable values, paths into it, edits (one verb a file) and its history."""
