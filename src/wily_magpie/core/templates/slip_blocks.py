"""What becomes of a slip's text when blocks of its page are taken in or out, or come late."""

from collections.abc import Sequence
from dataclasses import replace

from wily_magpie.core.pages.page import CAME_LATE, Content
from wily_magpie.core.templates.slip import Slip, body_of


def shown_content(slip: Slip) -> Content:
    """The blocks of a slip's page as they are ticked: none where its template takes nothing of the page's text."""
    content = slip.reading.content
    if slip.takes_content or slip.is_body_typed or slip.known is not None:
        return content
    return content.with_ticks([False] * len(content.blocks))


def with_blocks(slip: Slip, numbers: Sequence[int], *, is_kept: bool) -> Slip:
    """The slip with some blocks of the page taken into its text, or out of it; what a person wrote in the text stays."""
    before = shown_content(slip)
    content = before.with_blocks(numbers, is_kept=is_kept)
    changed = slip.with_reading(replace(slip.reading, content=content))
    if slip.is_body_typed or not slip.takes_content:
        body = slip.body
        for number in numbers:
            if is_kept and not before.blocks[number].is_kept:
                body = in_place(body, content, number)
            elif not is_kept:
                body = without(body, before.blocks[number].markdown)
    else:
        body = body_of(slip.template, changed.context)[0]
    return replace(changed, body=body, is_body_typed=True)


def with_late_blocks(slip: Slip, before: Content, *, are_taken: bool) -> Slip:
    """The slip of a page that was read again, whose text a person has settled: what came since is seen to be new.

    Args:
        before: the content of the reading before.
        are_taken: whether these blocks are taken into the text at once.
    """
    if not slip.is_body_typed:
        return slip
    there = {block.markdown for block in before.blocks if not block.reason or block.is_kept}
    content = slip.reading.content
    late = [
        at
        for at, block in enumerate(content.blocks)
        if block.markdown and not block.reason and not block.is_kept and block.markdown not in there
    ]
    if not late:
        return slip
    many = f"{len(late)} blocks" if len(late) > 1 else "One block"
    if are_taken:
        taken = with_blocks(slip, late, is_kept=True)
        return replace(
            taken, told=(*slip.told, f"{many} that came late {'are' if len(late) > 1 else 'is'} in your text now.")
        )
    blocks = tuple(replace(one, reason=CAME_LATE) if at in late else one for at, one in enumerate(content.blocks))
    return slip.with_reading(replace(slip.reading, content=replace(content, blocks=blocks)))


def without(body: str, block: str) -> str:
    """A text without one block, where that still stands in it."""
    return body.replace(block, "", 1).replace("\n\n\n\n", "\n\n").strip("\n") if block else body


def in_place(body: str, content: Content, number: int) -> str:
    """A text with one block put behind the nearest block before it that still stands there; else at its end."""
    block = content.blocks[number].markdown
    for before in reversed(content.blocks[:number]):
        if before.is_kept and before.markdown and before.markdown in body:
            at = body.index(before.markdown) + len(before.markdown)
            return f"{body[:at]}\n\n{block}{body[at:]}"
    return f"{body.rstrip()}\n\n{block}".strip()
