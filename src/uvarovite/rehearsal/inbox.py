"""The inbox page: captured messages as the recipient's mail program would show them, with headers and source.

Pictures are not fetched and links do not lead anywhere from the list, so looking here counts as no response.
"""

from email.message import EmailMessage
from typing import Annotated

from fastapi import FastAPI, Form, HTTPException
from fastapi.responses import HTMLResponse, RedirectResponse, Response
from jinja2 import Environment, PackageLoader, StrictUndefined

from uvarovite.rehearsal.account import Account
from uvarovite.rehearsal.mailbox import Captured, Mailbox
from uvarovite.rehearsal.names import Published
from uvarovite.rehearsal.scenarios import SCENARIOS
from uvarovite.rehearsal.world import World

_TEMPLATES = Environment(
    loader=PackageLoader("uvarovite.rehearsal"), autoescape=True, undefined=StrictUndefined, trim_blocks=True
)
_VIEWS = (("letter", "As it is read"), ("text", "Plain text"), ("source", "Source"))
_HEADERS = ("From", "To", "Subject", "Date", "List-Id", "List-Unsubscribe", "List-Unsubscribe-Post", "Message-ID")
# What a letter may do in its frame, whatever stands in it.
_GUARD = (
    "<meta http-equiv='Content-Security-Policy' content=\"default-src 'none'; style-src 'unsafe-inline'\">"
    "<base target='_blank'>"
)


def _page(template: str, **told: object) -> HTMLResponse:
    return HTMLResponse(_TEMPLATES.get_template(template).render(**told))


def _text_of(mail: EmailMessage, kind: str) -> str:
    part = mail.get_body((kind,))
    return str(part.get_content()) if part is not None else ""


def _attached(mail: EmailMessage) -> list[tuple[str, str]]:
    names = [part.get_filename() or "without a name" for part in mail.iter_attachments()]
    return [("Attached", ", ".join(names))] if names and mail.get_content_type() == "multipart/mixed" else []


def _message_page(captured: Captured, view: str) -> HTMLResponse:
    mail = captured.parsed()
    text = captured.raw().decode("utf-8", errors="replace") if view == "source" else _text_of(mail, "plain")
    return _page(
        "message.html",
        title=captured.subject,
        number=captured.number,
        headers=[(name, str(mail[name])) for name in _HEADERS if mail[name] is not None] + _attached(mail),
        views=_VIEWS,
        view=view,
        letter=None if view in ("source", "text") else _GUARD + _text_of(mail, "html"),
        text=text,
    )


def inbox_app(mailbox: Mailbox, world: World, account: Account, published: Published) -> FastAPI:
    """The inbox as a web application, with two pages to play the world: what the name server tells, and the scenario."""
    app = FastAPI(title="Rehearsal inbox", docs_url=None, redoc_url=None, openapi_url=None)

    @app.get("/", response_class=HTMLResponse)
    def show_list(search: str = "") -> HTMLResponse:
        return _page(
            "list.html",
            title="Rehearsal inbox",
            total=len(mailbox),
            messages=mailbox.latest(search, 200),
            search=search,
            scenario=world.scenario,
        )

    @app.get("/m/{number}", response_class=HTMLResponse)
    def show_message(number: int, view: str = "letter") -> HTMLResponse:
        captured = mailbox.get(number)
        if captured is None:
            raise HTTPException(404, "There is no such message.")
        return _message_page(captured, view)

    @app.get("/names", response_class=HTMLResponse)
    def show_names() -> HTMLResponse:
        return _page("names.html", title="Names", published=sorted(published.items()))

    @app.post("/names")
    def publish(name: Annotated[str, Form(max_length=253)], text: Annotated[str, Form(max_length=2_000)]) -> Response:
        published[name.strip().rstrip(".").lower()] = text.strip().strip('"')
        return RedirectResponse("/names", status_code=303)

    @app.get("/messages.json")
    def as_json(search: str = "", limit: int = 200) -> list[dict[str, object]]:
        return [
            {
                "number": one.number,
                "recipient": one.recipient,
                "subject": one.subject,
                "received_at": one.received_at.isoformat(),
            }
            for one in mailbox.latest(search, min(limit, 20_000))
        ]

    @app.get("/world", response_class=HTMLResponse)
    def show_world() -> HTMLResponse:
        return _page(
            "world.html",
            title="World",
            scenarios=SCENARIOS.values(),
            now=world.scenario.name,
            seed=world.seed,
            account=account.told(),
        )

    @app.post("/world")
    def play(scenario: Annotated[str, Form(max_length=40)]) -> Response:
        if scenario not in SCENARIOS:
            raise HTTPException(404, "There is no such scenario.")
        world.scenario = SCENARIOS[scenario]
        return RedirectResponse("/world", status_code=303)

    @app.get("/account.json")
    def account_told() -> dict[str, object]:
        return {"scenario": world.scenario.name, "seed": world.seed, **account.told()}

    @app.get("/taken.json")
    def taken_told() -> list[tuple[float, str, str]]:
        return [(one.at, one.recipient, one.message_id) for one in account.taken]

    return app
