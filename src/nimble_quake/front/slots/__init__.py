"""What the next user puts in, one file a sort."""
