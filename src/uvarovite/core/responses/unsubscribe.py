"""Requests to leave."""


def is_one_click(body: bytes) -> bool:
    """Is this the body of a one-click unsubscribe (RFC 8058 section 3.2)? Form-encoded or multipart form data."""
    compact = body.replace(b"\r", b"").strip()
    if compact == b"List-Unsubscribe=One-Click":
        return True
    return b'name="List-Unsubscribe"' in compact and b"\nOne-Click\n" in compact
