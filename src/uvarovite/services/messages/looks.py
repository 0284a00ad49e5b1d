"""How the organisation's letters look: chosen, looked at before it is saved, and kept with each run that is released."""

from dataclasses import dataclass
from datetime import datetime

from uvarovite.core.accounts import Action, Actor, Permission
from uvarovite.core.expressions import Clock
from uvarovite.core.messages import (
    Button,
    Divider,
    Heading,
    LetterMaker,
    MessageContent,
    Paragraph,
    Passage,
    plain_links,
)
from uvarovite.core.messages.links import picture_problem
from uvarovite.core.messages.look import Contrast, Look, contrasts, theme_of
from uvarovite.core.responses import Keyring
from uvarovite.services.accounts.audit import audit
from uvarovite.services.accounts.permitted import needs
from uvarovite.services.errors import BadInput, Conflict
from uvarovite.services.messages.messages import letterhead_or_first
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.database import Database

# A letter with everything that a look is about.
_SAMPLE = MessageContent(
    subject="A letter",
    blocks=(
        Heading(text="A heading of a letter"),
        Paragraph(
            text=(
                Passage(text="Words of a letter, some of them "),
                Passage(text="bold", bold=True),
                Passage(text=", and "),
                Passage(text="a link in them", link="https://www.example.org"),
                Passage(text="."),
            )
        ),
        Button(label="A button", url="https://www.example.org"),
        Divider(),
        Paragraph(text=(Passage(text="Something said quietly.", colour="quiet"),)),
    ),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class LookView:
    """A look, a letter in it, and how well that can be read. `revision` goes back with a change."""

    look: Look
    revision: int
    html: str
    contrasts: list[Contrast]


@needs(Permission.LOOK)
def look_at(database: Database, actor: Actor, look: Look | None, *, keyring: Keyring, now: datetime) -> LookView:
    """A letter in a look that is not saved, None: in the one that is."""
    with database.transaction() as tx:
        organisation = require_organisation(tx)
        chosen = look or organisation.look or Look()
        letterhead = letterhead_or_first(tx, None, None, keyring)
        context = letterhead.context({}, Clock.at(now, letterhead.time_zone), "")
        theme = theme_of(chosen)
        letter = LetterMaker(_SAMPLE, {}, theme).render({}, context, plain_links(), letterhead.footer(None))
        return LookView(look=chosen, revision=organisation.look_revision, html=letter.html, contrasts=contrasts(theme))


@needs(Permission.SET_UP)
def save_look(database: Database, actor: Actor, look: Look, *, revision: int) -> None:
    """Let letters look so from now on; runs that were released keep how theirs looked. Raises BadInput, Conflict."""
    if look.logo and (fault := picture_problem(look.logo)):
        raise BadInput("logo", fault, field="logo")
    if look.logo and not look.logo_words.strip():
        raise BadInput("logo_words", "Say what the logo shows, for who does not see it: your name.", field="logo_words")
    with database.transaction() as tx:
        organisation = require_organisation(tx)
        if organisation.look_revision != revision:
            raise Conflict("changed", "Somebody else changed this meanwhile; nothing of yours is saved.")
        organisation.look, organisation.look_revision = look, revision + 1
        tx.add(organisation)
        audit(tx, actor, Action.ORGANISATION_CHANGED, what="how letters look")
