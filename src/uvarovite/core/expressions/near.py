"""Near misses: trees for the people whom a single condition keeps out, so that a wrong condition shows itself.

A condition is taken for met (one that must not hold: for not met) where it stands, whatever groups it stands in; whoever
is in then, and is not in as it is, misses by that condition alone. A group of which any may hold misses as a whole.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from uvarovite.core.expressions.tree import All, AnyOf, Node, Not

_TRUE = All(children=())


@dataclass(frozen=True, slots=True, kw_only=True)
class NearMissTree:
    """`condition` is what somebody lacks, `people` a tree that chooses those who lack nothing else."""

    condition: Node
    people: Node


def near_misses(node: Node) -> Iterator[NearMissTree]:
    """For each condition by which somebody can miss alone, in the order of the text."""
    if isinstance(node, All) and not node.children:
        return
    for condition, forced in _forced(node, lambda replaced: replaced, wanted=True):
        # What is everybody, or nobody, tells nothing about the condition.
        if not _is_everybody(forced):
            yield NearMissTree(condition=condition, people=All(children=(forced, Not(child=node))))


def _forced(node: Node, put: Callable[[Node], Node], *, wanted: bool) -> Iterator[tuple[Node, Node]]:
    """(what is lacking, the whole tree as if it were not lacking) for each condition in a node.

    `put` gives the whole tree with another node in this one's place; `wanted` is what the node should be.
    """
    truth: Node = _TRUE if wanted else Not(child=_TRUE)
    match node:
        case All(children=children) if len(children) > 1 and wanted:
            for place, child in enumerate(children):
                yield from _forced(child, _putter(node, place, put), wanted=True)
        case AnyOf(children=children) if len(children) > 1 and not wanted:
            for place, child in enumerate(children):
                yield from _forced(child, _putter(node, place, put), wanted=False)
        case All(children=children) | AnyOf(children=children) if len(children) > 1:
            # Any one of them would do, or spoil it: the group is lacking as a whole, and within it what its groups lack.
            yield (node if wanted else Not(child=node)), put(truth)
            for place, child in enumerate(children):
                if isinstance(child, All | AnyOf):
                    yield from _forced(child, _putter(node, place, put), wanted=wanted)
        case All(children=(child,)) | AnyOf(children=(child,)):
            yield from _forced(child, put, wanted=wanted)
        case Not(child=All() | AnyOf() as child):
            yield from _forced(child, lambda replaced: put(Not(child=replaced)), wanted=not wanted)
        case _:
            yield (node if wanted else Not(child=node)), put(truth)


def _putter(group: All | AnyOf, place: int, put: Callable[[Node], Node]) -> Callable[[Node], Node]:
    def put_child(replaced: Node) -> Node:
        children = (*group.children[:place], replaced, *group.children[place + 1 :])
        return put(type(group)(children=children))

    return put_child


def _is_everybody(node: Node) -> bool:
    """Does a tree hold for everybody, by its form alone?"""
    match node:
        case All(children=children):
            return all(_is_everybody(child) for child in children)
        case AnyOf(children=children):
            return any(_is_everybody(child) for child in children)
        case Not(child=Not(child=child)):
            return _is_everybody(child)
        case _:
            return False
