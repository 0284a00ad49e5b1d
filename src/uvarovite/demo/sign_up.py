"""The museum's form on its web site, in two languages, and the message that welcomes who has confirmed."""

from typing import Any

from uvarovite.core.messages import Button, Heading, MessageContent, Paragraph
from uvarovite.core.responses.signing_up import FormWords

SIGN_UP: dict[str, Any] = {
    "name": "Web site",
    "title": "Walks and news by e-mail",
    "intro": "We write when there is something to see: about once a month of walks, four times a year of the museum.",
    "wording": "Yes, write to me about what I have ticked. I can leave at any time, by the link in each message.",
    "asks": ("first_name", "last_name", "town"),
    "language": "en",
    "others": (
        FormWords(
            language="de",
            title="Wanderungen und Neues per E-Mail",
            intro="Wir schreiben, wenn es etwas zu sehen gibt: etwa einmal im Monat von Wanderungen, viermal im Jahr vom Museum.",
            wording="Ja, schreiben Sie mir zu dem, was ich angekreuzt habe. Ich kann mich jederzeit abmelden, mit dem Link in "
            "jeder Nachricht.",
        ),
    ),
}
SIGN_UP_TOPICS = ("field_walks", "museum_news")
WELCOME_NAME = "Welcome"
WELCOME = MessageContent(
    subject="Welcome@{if first_name is not blank}, @{first_name}@{end}",
    preheader="Where the museum is, and what is on",
    blocks=(
        Heading(text="Good to have you"),
        Paragraph(text='Dear @{first_name else "friend of the museum"},'),
        Paragraph(
            text="thank you for signing up. The museum is open from Wednesday to Sunday, from ten to five; the walks begin at its "
            "door, whatever the weather."
        ),
        Button(label="What is on", url="https://skarnmuseum.example/what-is-on"),
    ),
)
