"""The sheet of proofs of a message: whom to look at, what each of them is there to show, and what was noticed on the way.

It is made of one pass over everybody who is cleared, and kept: who looks at it later sees the people of that moment.
"""

import hashlib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from uvarovite.core.contacts import FieldMap, Record
from uvarovite.core.inlay import InlayContext
from uvarovite.core.messages.feature_words import about_words, feature_words
from uvarovite.core.messages.features import FeatureKind, Features, features_of
from uvarovite.core.messages.footer import Footer
from uvarovite.core.messages.links import plain_links
from uvarovite.core.messages.proofs import choose_proofs, shapes_of
from uvarovite.core.messages.rendered import RenderedMessage
from uvarovite.core.messages.wire import LetterMaker
from uvarovite.core.values import StoredForm, form_of
from uvarovite.core.values.sentences import sentence

# A fallback is for a few; what most people read should be written for them.
_OFTEN = 0.2
# Some mail programs cut what is longer, with the way to leave at its end; in bytes.
MOST_HTML = 102 << 10


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofLine:
    """A person to look at, what nobody before them shows, how many letters are of the same kind, and what they read."""

    contact_id: int
    shows: tuple[str, ...]
    people: int
    digest: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Remark:
    """Something that only all letters together tell: a row of REMARKS, and its facts."""

    key: str
    facts: Mapping[str, str | int] = field(default_factory=dict)

    @property
    def message(self) -> str:
        """It in words."""
        return sentence(REMARKS[self.key], self.facts)


REMARKS: Mapping[str, str] = {
    "fallback_often": "{count} of {people:person reads|people read} the fallback for {about}. "
    "What so many read is better written for them.",
    "some_past": "{about} is a day that is past for {count} of {people:person|people}. Is it meant?",
    "large": "The largest letter has {size} KB; some mail programs cut it after 102.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class ProofSheet:
    """`people` letters differ in so many `ways`; they are of so many `shapes`. `proofs` show the ways, the rarest first."""

    people: int
    ways: int
    shapes: int
    proofs: tuple[ProofLine, ...] = ()
    remarks: tuple[Remark, ...] = ()


PROOF_SHEET_FORM: StoredForm[ProofSheet] = form_of(ProofSheet)


def digest_of(letter: RenderedMessage) -> str:
    """What tells two letters apart, for whoever reads them."""
    attached = [f"{one.name} {one.digest}" for one in letter.attached]
    parts = (letter.subject, letter.preheader, letter.html, letter.text, *attached)
    return hashlib.sha256("\0".join(parts).encode()).hexdigest()


def letter_to(maker: LetterMaker, record: Record, context: InlayContext, footer: Footer) -> RenderedMessage:
    """The letter that a proof shows."""
    return maker.render(record, context, plain_links(), footer)


def make_proof_sheet(
    maker: LetterMaker,
    fields: FieldMap,
    recipients: Iterable[tuple[int, Record, InlayContext]],
) -> ProofSheet:
    """The sheet over all recipients (id, record, context), in one pass that keeps no record but those of the proofs."""
    ids: list[int] = []
    found = features_of(maker.letter_for, _numbered(recipients, ids))
    words = [feature_words(one, fields) for one in found.features]
    common: list[int] = found.has.sum(axis=0, dtype=np.int64).tolist()
    chosen = choose_proofs(found)
    shapes = {shape.recipient: shape.people for shape in shapes_of(found)}
    return ProofSheet(
        people=len(ids),
        ways=len(set(words)),
        shapes=len(shapes),
        proofs=tuple(
            ProofLine(
                contact_id=ids[proof.recipient],
                # The same field in two places is one thing to look at.
                shows=tuple(dict.fromkeys(words[place] for place in sorted(proof.shows, key=lambda one: common[one]))),
                people=shapes[proof.recipient],
            )
            for proof in chosen
        ),
        remarks=tuple(_remarks(found, fields)),
    )


def _numbered(
    recipients: Iterable[tuple[int, Record, InlayContext]], ids: list[int]
) -> Iterator[tuple[Record, InlayContext]]:
    for contact_id, record, context in recipients:
        ids.append(contact_id)
        yield record, context


def _remarks(found: Features, fields: FieldMap) -> Iterator[Remark]:
    people = len(found.has)
    counts: list[int] = found.has.sum(axis=0, dtype=np.int64).tolist()
    told: set[tuple[FeatureKind, str]] = set()
    for one, count in zip(found.features, counts, strict=True):
        if (one.kind, one.about) in told:
            continue
        facts: dict[str, str | int] = {"count": count, "people": people, "about": about_words(one.about, fields)}
        if one.kind is FeatureKind.FALLBACK and count > people * _OFTEN:
            yield Remark(key="fallback_often", facts=facts)
        elif one.kind is FeatureKind.PAST and count < people:
            about = str(facts["about"])
            yield Remark(key="some_past", facts={**facts, "about": about[:1].upper() + about[1:]})
        else:
            continue
        told.add((one.kind, one.about))


def with_letters(sheet: ProofSheet, letters: Mapping[int, RenderedMessage]) -> ProofSheet:
    """The sheet with what each of its people reads, by contact. Who is not there is left out."""
    proofs = tuple(
        replace(one, digest=digest_of(letters[one.contact_id])) for one in sheet.proofs if one.contact_id in letters
    )
    largest = max((len(letters[one.contact_id].html.encode()) for one in proofs), default=0)
    remarks = sheet.remarks
    if largest > MOST_HTML:
        remarks = (*remarks, Remark(key="large", facts={"size": largest >> 10}))
    return replace(sheet, proofs=proofs, remarks=remarks)
