"""A run on its way: what workers do, what is shown of it, what one person was sent."""
