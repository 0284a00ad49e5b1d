"""What criteria name, and the read-only views for SQL by hand."""
