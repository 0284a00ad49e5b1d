"""Proofs: the fewest recipients who together show everything that a message can look like.

Choosing the fewest is set cover, for which no quick way is known; the greedy choice is at most 1 + ln(n) times as many, n
being the features of who shows most (Chvátal, "A greedy heuristic for the set-covering problem", 1979). The rarest
feature comes first: whoever shows it has to be among them in any case.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from uvarovite.core.messages.features import Features

# As many as a person looks at with care.
MOST_PROOFS = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Proof:
    """A recipient to look at, by place, and the features that nobody before them shows, by place."""

    recipient: int
    shows: tuple[int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """Recipients whose messages show the same features: one of them, and how many there are."""

    recipient: int
    people: int


def choose_proofs(features: Features, most: int = MOST_PROOFS) -> tuple[Proof, ...]:
    """At most so many recipients, who together show as many features as can be; all, where `most` allows it.

    The same features give the same proofs. Somebody is there in any case, where there are recipients.
    """
    shapes, example, _ = _shapes(features)
    if not len(shapes):
        return ()
    missing = np.ones(shapes.shape[1], dtype=np.bool_)
    commonness = shapes.sum(axis=0)
    chosen: list[Proof] = []
    while len(chosen) < most and missing.any():
        rarest = np.flatnonzero(missing)[commonness[missing].argmin()]
        showing = np.flatnonzero(shapes[:, rarest])
        gains = shapes[np.ix_(showing, missing)].sum(axis=1)
        best = showing[gains.argmax()]
        shows = np.flatnonzero(shapes[best] & missing)
        chosen.append(Proof(recipient=int(example[best]), shows=tuple(int(place) for place in shows)))
        missing &= ~shapes[best]
    return tuple(chosen) or (Proof(recipient=int(example[0]), shows=()),)


def shapes_of(features: Features) -> tuple[Shape, ...]:
    """The groups of recipients who show the same, largest first."""
    _, example, people = _shapes(features)
    order = np.lexsort((example, -people))
    return tuple(Shape(recipient=int(example[one]), people=int(people[one])) for one in order)


def _shapes(features: Features) -> tuple[NDArray[np.bool_], NDArray[np.intp], NDArray[np.intp]]:
    """The different rows, the first recipient of each, and how many have it; in the order of the recipients."""
    has = features.has
    if not has.size:
        count = min(len(has), 1)
        return has[:count], np.zeros(count, dtype=np.intp), np.full(count, len(has), dtype=np.intp)
    packed = np.ascontiguousarray(np.packbits(has, axis=1))
    keys = packed.view(np.dtype((np.void, packed.shape[1]))).ravel()
    _, first, people = np.unique(keys, return_index=True, return_counts=True)
    order = np.argsort(first)
    return has[first[order]], first[order], people[order]
