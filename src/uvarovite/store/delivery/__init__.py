"""The queue: batches, deliveries, permits, and what wakes a worker."""
