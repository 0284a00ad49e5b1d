"""The simulated world: providers, people, an SMTP server and an inbox page. It knows the application by the wire alone."""
