"""The inbox page: captured messages as the recipient's mail program would show them, with headers and source.

Pictures are not fetched and links do not lead anywhere from the list, so looking here counts as no response.
"""

import html
from email.message import EmailMessage

from fastapi import FastAPI, HTTPException
from fastapi.responses import HTMLResponse

from uvarovite.rehearsal.mailbox import Captured, Mailbox
from uvarovite.rehearsal.providers import PROVIDERS

_STYLE = """
body{margin:0;font:15px/1.5 'Atkinson Hyperlegible Next',system-ui,sans-serif;color:#18211c;background:#faf8f2}
header{background:#4f4f86;color:#fff;padding:10px 22px;display:flex;gap:18px;align-items:baseline}
header a{color:#fff;text-decoration:none;font-weight:700} header span{opacity:.85}
main{max-width:1080px;margin:18px auto;padding:0 20px}
input{font:inherit;padding:6px 10px;border:1px solid #cbc6b6;border-radius:4px;width:320px}
table{border-collapse:collapse;width:100%;background:#fff;border:1px solid #e3dfd3;margin-top:12px}
td,th{text-align:left;padding:6px 12px;border-bottom:1px solid #e3dfd3;vertical-align:top}
th{font-weight:600;color:#4d5a52} td.t{white-space:nowrap;font-variant-numeric:tabular-nums;color:#4d5a52}
a{color:#1b7350} pre{background:#fff;border:1px solid #e3dfd3;padding:12px;overflow:auto;white-space:pre-wrap}
iframe{width:100%;height:560px;border:1px solid #e3dfd3;background:#fff}
.soft{color:#4d5a52} dl{display:grid;grid-template-columns:max-content 1fr;gap:2px 14px} dt{color:#4d5a52} dd{margin:0}
nav.tabs{display:flex;gap:14px;margin:14px 0 10px} nav.tabs a.here{font-weight:700;color:#18211c;text-decoration:none}
"""


def _page(title: str, body: str) -> HTMLResponse:
    return HTMLResponse(
        f"<!doctype html><html lang='en'><head><meta charset='utf-8'><title>{html.escape(title)}</title>"
        f"<meta name='viewport' content='width=device-width'><style>{_STYLE}</style></head><body>"
        f"<header><a href='/'>Rehearsal inbox</a><span>Nothing here has left this machine.</span></header>"
        f"<main>{body}</main></body></html>"
    )


def _text_of(mail: EmailMessage, kind: str) -> str:
    part = mail.get_body((kind,))
    return str(part.get_content()) if part is not None else ""


def _list_page(mailbox: Mailbox, search: str) -> HTMLResponse:
    rows = "".join(
        f"<tr><td class='t'>{one.received_at:%H:%M:%S}</td><td>{html.escape(one.recipient)}</td>"
        f"<td>{html.escape(one.from_name)}</td>"
        f"<td><a href='/m/{one.number}'>{html.escape(one.subject or '(no subject)')}</a></td></tr>"
        for one in mailbox.latest(search, 200)
    )
    manners = "".join(f"<dt>{name}</dt><dd>{provider.manner}</dd>" for name, provider in PROVIDERS.items())
    empty = "<p class='soft'>Nothing has arrived yet. Release a campaign, or send a test to yourself.</p>"
    table = f"<table><tr><th>arrived</th><th>to</th><th>from</th><th>subject</th></tr>{rows}</table>" if rows else empty
    return _page(
        "Rehearsal inbox",
        f"<h1>{len(mailbox):,} messages</h1><form><input name='search' value='{html.escape(search, quote=True)}' "
        f"placeholder='Recipient or subject' aria-label='Recipient or subject' autofocus></form>{table}"
        f"<h2>How the providers behave</h2><dl>{manners}<dt>all others</dt><dd>accept everything</dd></dl>",
    )


def _message_page(captured: Captured, view: str) -> HTMLResponse:
    mail = captured.parsed()
    tabs = "".join(
        f"<a class='{'here' if view == key else ''}' href='/m/{captured.number}?view={key}'>{words}</a>"
        for key, words in (("letter", "As it is read"), ("text", "Plain text"), ("source", "Source"))
    )
    names = ("From", "To", "Subject", "Date", "List-Id", "List-Unsubscribe", "List-Unsubscribe-Post", "Message-ID")
    headers = "".join(
        f"<dt>{name}</dt><dd>{html.escape(str(mail[name]))}</dd>" for name in names if mail[name] is not None
    )
    if view == "source":
        shown = f"<pre>{html.escape(captured.raw().decode('utf-8', errors='replace'))}</pre>"
    elif view == "text":
        shown = f"<pre>{html.escape(_text_of(mail, 'plain'))}</pre>"
    else:
        guarded = (
            "<meta http-equiv='Content-Security-Policy' content=\"default-src 'none'; style-src 'unsafe-inline'\">"
            "<base target='_blank'>" + _text_of(mail, "html")
        )
        frame = html.escape(guarded, quote=True)
        shown = f"<iframe sandbox='allow-popups allow-popups-to-escape-sandbox' title='The message' srcdoc=\"{frame}\"></iframe>"
        shown += (
            "<p class='soft'>Pictures are not fetched here, so looking does not count as opening. Links are live.</p>"
        )
    return _page(
        captured.subject,
        f"<h1>{html.escape(captured.subject)}</h1><dl>{headers}</dl><nav class='tabs'>{tabs}</nav>{shown}",
    )


def inbox_app(mailbox: Mailbox) -> FastAPI:
    """The inbox as a web application."""
    app = FastAPI(title="Rehearsal inbox", docs_url=None, redoc_url=None, openapi_url=None)

    @app.get("/", response_class=HTMLResponse)
    def show_list(search: str = "") -> HTMLResponse:
        return _list_page(mailbox, search)

    @app.get("/m/{number}", response_class=HTMLResponse)
    def show_message(number: int, view: str = "letter") -> HTMLResponse:
        captured = mailbox.get(number)
        if captured is None:
            raise HTTPException(404, "There is no such message.")
        return _message_page(captured, view)

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

    return app
