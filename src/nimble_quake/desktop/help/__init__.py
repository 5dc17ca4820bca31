"""Help inside: the pages of docs in a window of their own, and which of them is about what lies under the pointer."""
