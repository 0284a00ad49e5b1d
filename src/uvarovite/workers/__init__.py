"""The running processes that nobody looks at: sending, and keeping house."""
