"""What the lens shows of a letter that goes to nobody: where each value came from."""

from uvarovite.core.inlay import Own, html_attribute


def lens_mark(text: str, own: Own, fallback: bool) -> str:
    """A person's own values marked, for the lens; never for a message that goes out."""
    kind = "fallback" if fallback else "value"
    return f'<span class="inlay {kind}" data-field="{html_attribute(own.name)}">{text}</span>'
