"""Speed and memory, each as a ratio to a base measured in the same run: `make bench`."""
