"""For people with accounts: JSON over HTTP under /api. The front end's client is generated from its OpenAPI."""
