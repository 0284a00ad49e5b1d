"""The pages that recipients see: one template, filled in by their language."""

from fastapi.responses import HTMLResponse
from jinja2 import Environment, PackageLoader, StrictUndefined

from uvarovite.public.words import leave_words
from uvarovite.services.responses.links import VISITS_WINDOW, LeavePage

UNCACHED = {"Cache-Control": "no-store", "Referrer-Policy": "no-referrer"}
_POLICY = "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'"

_TEMPLATES = Environment(
    loader=PackageLoader("uvarovite.public"), autoescape=True, undefined=StrictUndefined, trim_blocks=True
)


def _page(
    *, title: str, words: str, language: str, status: int = 200, organisation: str = "", button: str = ""
) -> HTMLResponse:
    page = _TEMPLATES.get_template("page.html").render(
        title=title, words=words, language=language, organisation=organisation, button=button
    )
    return HTMLResponse(page, status, headers={**UNCACHED, "Content-Security-Policy": _POLICY})


def not_ours() -> HTMLResponse:
    """A link that leads nowhere: nobody can tell whose language it was."""
    return _page(
        title="This link is not complete",
        words="It may have been cut off on its way. Open it from the message again, or answer the message and say what "
        "you would like.",
        language="en",
        status=404,
    )


def try_again(accept_language: str | None, status: int) -> HTMLResponse:
    """Not now: what was asked for was not done, and pressing again is the way to it."""
    language, words = leave_words(accept_language)
    page = _page(title=words.busy, words=words.busy_more, language=language, status=status)
    page.headers["Retry-After"] = str(int(VISITS_WINDOW.total_seconds()))
    return page


def leave_page(page: LeavePage) -> HTMLResponse:
    """The question whether somebody wants to leave a topic, or that they have left it."""
    language, words = leave_words(page.language)
    names = {"organisation": page.organisation, "topic": page.topic}
    title, more = (words.done, words.done_more) if page.left else (words.question, words.explain)
    return _page(
        title=title.format(**names),
        words=more.format(**names),
        language=language,
        organisation=page.organisation,
        button="" if page.left else words.button.format(**names),
    )
