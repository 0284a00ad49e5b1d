"""A file's rows: staged, compared with who is there, written, taken back."""
