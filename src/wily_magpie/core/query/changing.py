"""Changing a filter at one place: each part is known by its path, the numbers of the parts that lead to it.

A negation is not a part of its own: it belongs to what it negates.
"""

from wily_magpie.core.query.nodes import And, Node, Not, Or

Path = tuple[int, ...]


def bare(node: Node) -> Node:
    """A part without its negation."""
    return node.part if isinstance(node, Not) else node


def part_at(node: Node, path: Path) -> Node:
    """The part at a path, with its negation."""
    for number in path:
        inner = bare(node)
        node = inner.parts[number] if isinstance(inner, And | Or) else inner
    return node


def put(node: Node | None, path: Path, new: Node | None) -> Node | None:
    """A filter with another part at a path; None takes it out, and brackets that hold only one part go with it."""
    if not path or node is None:
        return new
    inner = bare(node)
    if not isinstance(inner, And | Or):
        return node
    at, *rest = path
    parts = [
        put(part, tuple(rest), new) if number == at else part for number, part in enumerate(inner.parts)
    ]  # fmt: skip
    left = tuple(part for part in parts if part is not None)
    changed = None if not left else left[0] if len(left) == 1 else type(inner)(left)
    if changed is None or not isinstance(node, Not):
        return changed
    return changed.part if isinstance(changed, Not) else Not(changed)


def add(node: Node | None, path: Path, new: Node, joint: type[And] | type[Or]) -> Node:
    """A filter with one more part beside what stands at a path, joined by and, or by or."""
    if node is None:
        return new
    there = part_at(node, path)
    joined = joint((*there.parts, new)) if isinstance(there, joint) else joint((there, new))
    return put(node, path, joined) or joined


def negate(node: Node, path: Path) -> Node:
    """A filter with the part at a path turned round."""
    there = part_at(node, path)
    return put(node, path, there.part if isinstance(there, Not) else Not(there)) or there


def join_otherwise(node: Node, path: Path) -> Node:
    """A filter in which the parts at a path are joined by or instead of and, or the other way round."""
    there = part_at(node, path)
    inner = bare(there)
    if not isinstance(inner, And | Or):
        return node
    other = Or(inner.parts) if isinstance(inner, And) else And(inner.parts)
    return put(node, path, Not(other) if isinstance(there, Not) else other) or other


def into_brackets(node: Node, path: Path) -> Node:
    """A filter in which a part and the one before it stand in brackets of their own, joined by the other word."""
    *outside, at = path
    there = part_at(node, tuple(outside))
    inner = bare(there)
    if at == 0 or not isinstance(inner, And | Or) or len(inner.parts) < 3:
        return node
    other = Or if isinstance(inner, And) else And
    pair = other((inner.parts[at - 1], inner.parts[at]))
    parts = type(inner)((*inner.parts[: at - 1], pair, *inner.parts[at + 1 :]))
    return put(node, tuple(outside), Not(parts) if isinstance(there, Not) else parts) or parts
