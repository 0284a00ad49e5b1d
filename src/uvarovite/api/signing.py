"""Signing keys (DKIM)."""

import asyncio
from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from uvarovite.api.context import Context, MaySetUp
from uvarovite.api.schemas.values import Id
from uvarovite.core.delivery.alignment import DomainWord, dmarc_word, spf_word
from uvarovite.core.delivery.dkim import Algorithm
from uvarovite.services.errors import ServiceRefusal
from uvarovite.services.organisation import signing
from uvarovite.services.organisation.signing import SigningKeyView, SigningView

router = APIRouter(prefix="/api/signing", tags=["organisation"])


class KeyAsk(BaseModel):
    """A key for a domain."""

    domain: str = Field(max_length=253)
    algorithm: Algorithm = Algorithm.RSA


class Signs(BaseModel):
    """Is what is released from now on signed with it?"""

    signs: bool


@router.get("")
def get_signing(actor: MaySetUp, context: Context) -> SigningView:
    """The keys, and the domains that have need of one."""
    return signing.signing_view(context.database, actor)


@router.post("")
def make_key(body: KeyAsk, actor: MaySetUp, context: Context) -> SigningKeyView:
    """Make a key for a domain that messages come from; it signs nothing yet."""
    return signing.make_key(
        context.database,
        actor,
        domain=body.domain,
        algorithm=body.algorithm,
        secret=context.secret,
        now=context.clock(),
    )


@router.post("/{key_id}/look-up")
async def look_up(key_id: Id, actor: MaySetUp, context: Context) -> SigningKeyView:
    """Look the key's record up in the DNS."""
    name = await asyncio.to_thread(signing.record_name, context.database, actor, key_id)
    texts = await context.texts_at(name)
    if texts is None:
        raise ServiceRefusal("silent", "No name server answered. Try it again in a while.")
    return await asyncio.to_thread(
        signing.note_looked_up, context.database, actor, key_id, texts, secret=context.secret, now=context.clock()
    )


@router.get("/domains/{domain}")
async def look_at_domain(
    domain: Annotated[str, Path(max_length=253)], actor: MaySetUp, context: Context
) -> list[DomainWord]:
    """What a domain's own records say of mail from it (SPF and DMARC), as the DNS has them now."""
    ask = await asyncio.to_thread(signing.domain_ask, context.database, actor, domain)
    spf = await context.texts_at(ask.envelope_domain)
    dmarc = await context.texts_at(f"_dmarc.{domain}")
    if spf is None or dmarc is None:
        raise ServiceRefusal("silent", "No name server answered. Try it again in a while.")
    told = dmarc_word(dmarc, from_domain=domain, envelope_domain=ask.envelope_domain, is_signed=ask.is_signed)
    return [spf_word(spf, ask.envelope_domain), told]


@router.put("/{key_id}")
def sign_with(key_id: Id, body: Signs, actor: MaySetUp, context: Context) -> SigningKeyView:
    """Sign what is released from now on with it, or not any more."""
    return signing.sign_with(context.database, actor, key_id, signs=body.signs)
