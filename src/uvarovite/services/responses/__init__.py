"""What comes back: through links, and by mail."""
