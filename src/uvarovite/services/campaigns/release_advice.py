"""What is worth a look before a release, beyond the words of the message."""

from collections.abc import Iterator
from zoneinfo import ZoneInfo

from uvarovite.core.campaigns.release_advice import HEAVY, domain_in_name
from uvarovite.core.contacts import FieldMap
from uvarovite.core.messages.look import contrasts
from uvarovite.services.campaigns.release_checks import CampaignParts, Check, release_check
from uvarovite.services.messages.composing import theme_now
from uvarovite.services.messages.pictures import weight_of_pictures
from uvarovite.services.organisation.facts import require_organisation
from uvarovite.store.campaigns import campaigns as store
from uvarovite.store.database import Transaction
from uvarovite.store.messages import subject_of_version


def release_advice(tx: Transaction, parts: CampaignParts, fields: FieldMap) -> list[Check]:
    """Advice on a campaign whose message is chosen and can be sent."""
    return [
        check for find in (_same_subject, _foreign_sender, _faint, _heavy_pictures) for check in find(tx, parts, fields)
    ]


def _same_subject(tx: Transaction, parts: CampaignParts, fields: FieldMap) -> Iterator[Check]:
    """Another campaign's last message on this topic; what one campaign sends again is for others."""
    if parts.topic is None or parts.version is None:
        return
    last = store.last_run_of_topic(tx, parts.topic.id or 0, besides=parts.campaign.id or 0)
    if last is None:
        return
    subject = subject_of_version(tx, last.message_version_id)
    if " ".join(subject.split()).casefold() == " ".join(parts.version.content.subject.split()).casefold():
        day = last.released_at.astimezone(ZoneInfo(require_organisation(tx).time_zone))
        yield release_check("same_subject", campaign=last.name, day=f"{day:%-d %B %Y}")


def _foreign_sender(tx: Transaction, parts: CampaignParts, fields: FieldMap) -> Iterator[Check]:
    if parts.sender and (domain := domain_in_name(parts.sender.name, parts.sender.address)):
        yield release_check("foreign_sender", domain=domain, own=parts.sender.address.rpartition("@")[2])


def _faint(tx: Transaction, parts: CampaignParts, fields: FieldMap) -> Iterator[Check]:
    found = [one for one in contrasts(theme_now(require_organisation(tx))) if not one.enough]
    if found:
        worst = min(found, key=lambda one: one.ratio)
        yield release_check("faint", what=worst.what, ratio=f"{worst.ratio:.1f}")


def _heavy_pictures(tx: Transaction, parts: CampaignParts, fields: FieldMap) -> Iterator[Check]:
    heaviest = weight_of_pictures(tx, parts.version.content, fields) if parts.version else 0
    if heaviest > HEAVY:
        yield release_check("heavy_pictures", size=f"{heaviest / (1 << 20):.1f}")
