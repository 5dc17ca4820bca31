"""Files on disk, whatever they hold: which may be read, and how one is written so that it is whole or not there."""
