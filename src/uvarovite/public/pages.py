"""The pages that recipients see: templates, filled in by their language and their organisation's look."""

from typing import Any
from zoneinfo import ZoneInfo

from fastapi.responses import HTMLResponse
from jinja2 import Environment, PackageLoader, StrictUndefined

from uvarovite.core.messages.look import Look, theme_of
from uvarovite.core.responses.signing_up import TRAP
from uvarovite.public.words import PAGE_WORDS, words_in
from uvarovite.services.responses.leaving import LeavePage
from uvarovite.services.responses.preferences import PreferencePage
from uvarovite.services.responses.signing_up import ConfirmPage, FormPage
from uvarovite.services.responses.visits import VISITS_WINDOW

UNCACHED = {"Cache-Control": "no-store", "Referrer-Policy": "no-referrer"}
_POLICY = "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'"

_TEMPLATES = Environment(
    loader=PackageLoader("uvarovite.public"), autoescape=True, undefined=StrictUndefined, trim_blocks=True
)


def _page(
    template: str,
    *,
    title: str,
    language: str,
    look: Look | None,
    organisation: str = "",
    status: int = 200,
    **filled: Any,
) -> HTMLResponse:
    page = _TEMPLATES.get_template(template).render(
        title=title,
        language=language,
        direction=PAGE_WORDS[language].direction,
        theme=theme_of(look or Look()),
        organisation=organisation,
        **filled,
    )
    return HTMLResponse(page, status, headers={**UNCACHED, "Content-Security-Policy": _POLICY})


def not_ours() -> HTMLResponse:
    """A link that leads nowhere: nobody can tell whose language it was."""
    return _page(
        "page.html",
        title="This link is not complete",
        more="It may have been cut off on its way. Open it from the message again, or answer the message and say what "
        "you would like.",
        language="en",
        look=None,
        status=404,
    )


def try_again(accept_language: str | None, status: int) -> HTMLResponse:
    """Not now: what was asked for was not done, and pressing again is the way to it."""
    language, words = words_in(accept_language)
    page = _page("page.html", title=words.busy, more=words.busy_more, language=language, look=None, status=status)
    page.headers["Retry-After"] = str(int(VISITS_WINDOW.total_seconds()))
    return page


def leave_page(page: LeavePage, token: str, *, stayed: bool = False) -> HTMLResponse:
    """The question whether somebody wants to leave a topic, or that they have left it, or that they took that back."""
    language, words = words_in(page.language)
    names = {"organisation": page.organisation, "topic": page.topic}
    if stayed:
        title, more, button, label = words.stayed, words.stayed_more, "", ""
    elif page.left:
        title, more, button, label = words.left, words.left_more, "stay", words.stay
    else:
        title, more, button, label = words.question, words.explain, "leave", words.leave
    return _page(
        "leaving.html",
        title=title.format(**names),
        more=more.format(**names),
        language=language,
        look=page.look,
        organisation=page.organisation,
        said=page.left or stayed,
        button=button if page.may_choose or button == "leave" else "",
        label=label.format(**names),
        words=words,
        preferences_url=f"/u/{token}/preferences" if page.may_choose else "",
    )


def leave_wording(page: LeavePage) -> str:
    """What the page said to whoever left: it is the evidence."""
    return words_in(page.language)[1].leave.format(topic=page.topic)


def preference_page(page: PreferencePage) -> HTMLResponse:
    """What somebody gets, and how often, to be changed."""
    language, words = words_in(page.language)
    languages = [(code, one.name) for code, one in sorted(PAGE_WORDS.items(), key=lambda pair: pair[1].name)]
    if (page.language or "") not in PAGE_WORDS:
        # One that there are no words in here stays what it is.
        languages.insert(0, (page.language or "", page.language or "—"))
    until = page.paused_until.astimezone(ZoneInfo(page.time_zone)).strftime(words.day) if page.paused_until else ""
    return _page(
        "preferences.html",
        title=words.preferences.format(organisation=page.organisation),
        language=language,
        look=page.look,
        page=page,
        words=words,
        languages=languages,
        paused_until=until,
    )


def preference_wording(page: PreferencePage) -> str:
    """What the page said to whoever saved it: it is the evidence."""
    words = words_in(page.language)[1]
    return f"{words.topics} · {words.how_often} · {words.save}"


def form_page(page: FormPage) -> HTMLResponse:
    """A form by which somebody signs up; or that it was sent in, whatever it was."""
    language, words = words_in(page.language)
    look, organisation = page.look, page.organisation
    if page.sent:
        more = words.look_there_more.format(organisation=organisation)
        return _page(
            "confirming.html", title=words.look_there, language=language, look=look, organisation=organisation,
            more=more, said=True, button="",
        )  # fmt: skip
    faults = {"": "", "topic": words.choose_topic, "address": words.wrong_address}
    return _page(
        "signing_up.html",
        title=page.title,
        language=language,
        look=look,
        organisation=organisation,
        status=422 if page.fault else 200,
        page=page,
        words=words,
        fault=faults[page.fault],
        trap=TRAP,
    )


def confirm_page(page: ConfirmPage) -> HTMLResponse:
    """The question whether somebody meant to sign up, or that they have confirmed it."""
    language, words = words_in(page.language)
    told = {"organisation": page.organisation, "topics": ", ".join(page.topics)}
    if page.late:
        title, more, button = words.too_late, words.too_late_more, ""
    elif page.confirmed:
        title, more, button = words.confirmed, words.confirmed_more, ""
    else:
        title, more, button = words.confirm, words.confirm_more, words.yes
    return _page(
        "confirming.html",
        title=title.format(**told),
        language=language,
        look=page.look,
        organisation=page.organisation,
        more=more.format(**told),
        said=page.confirmed,
        button=button,
    )
