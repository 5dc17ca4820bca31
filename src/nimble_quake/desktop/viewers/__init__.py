"""Looking at a frame, and what is laid over it: handles, needles, tracked points."""
