"""People from other databases: how they are reached, and when they are pulled."""
