"""What stands in the front panel: dials and slots, one file each."""
