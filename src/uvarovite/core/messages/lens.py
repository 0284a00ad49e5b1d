"""What the lens shows of a letter that goes to nobody: where each value came from."""

from uvarovite.core.inlay import Own, html_attribute


def lens_mark(text: str, own: Own, fallback: bool, raw: str) -> str:
    """A person's own values marked, for the lens; never for a message that goes out.

    Each says which field it is of, what is kept there, and where in the words it stands: part, begin and end.
    """
    kind = "fallback" if fallback else "value"
    told = f"{own.name}: {raw}" if raw else f"{own.name}: blank"
    place = f'data-part="{html_attribute(own.part)}" data-from="{own.span.start}" data-to="{own.span.end}"'
    return (
        f'<span class="inlay {kind}" data-field="{html_attribute(own.name)}" {place} title="{html_attribute(told)}">'
        f"{text}</span>"
    )
