"""Footnotes: marks that lead to a note of the same page, and the notes, as [^1] and [^1]: (as most readers of GFM know them)."""

import re

from wily_magpie.core.pages.tree import Element, squash

MARK = re.compile(r"[\[(]?\s*(?:(?:note|n\.|fn)\s*)?(\d{1,3}|[a-z]|[*†‡§¶#]{1,3})\s*[\])]?", re.IGNORECASE)
BACK = re.compile(r"[\s↩↑^⤴⏎︎️\[\]]*(?:back|jump up|zurück|retour)?[\s↩↑^⤴⏎︎️\[\]]*", re.IGNORECASE)
NOTE_TAGS = ("li", "p", "div", "aside", "dd", "section", "td")
MOST_NOTES = 500


def notes_of(root: Element) -> dict[str, str]:
    """The labels of the notes that marks in a text lead to, by the ids of their elements."""
    by_id = {one.get("id"): one for one in root.iter(*NOTE_TAGS) if one.get("id")}
    out: dict[str, str] = {}
    for link in root.iter("a"):
        target = (link.get("href") or "").strip()
        note = by_id.get(target[1:]) if target.startswith("#") else None
        if note is None or target[1:] in out or len(out) >= MOST_NOTES:
            continue
        found = MARK.fullmatch(squash(link.text_content()))
        is_within = any(up is note for up in link.iterancestors())
        if found and not is_within:
            label = found[1] if found[1].isalnum() else str(len(out) + 1)
            out[target[1:]] = label if label not in out.values() else f"{label}-{len(out) + 1}"
    return out


def leads_back(link: Element) -> bool:
    """Whether a link in a note only leads back to its mark."""
    return (link.get("href") or "").strip().startswith("#") and bool(BACK.fullmatch(squash(link.text_content())))


def note(label: str, blocks: list[str]) -> str:
    """A note of some blocks of Markdown."""
    text = "\n\n".join(blocks)
    lines = text.split("\n")
    return "\n".join([f"[^{label}]: {lines[0]}", *(f"    {line}" if line else "" for line in lines[1:])])
