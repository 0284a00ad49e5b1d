"""asyncio shells around the network."""
