"""The text of a page with what belongs to its kind: put before it, behind it, or beside it to be taken in."""

import html
import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace

from wily_magpie.core.pages import tree
from wily_magpie.core.pages.blocks import kept_blocks
from wily_magpie.core.pages.budget import Budget
from wily_magpie.core.pages.extractors import letters
from wily_magpie.core.pages.findings.media import Chapter, chapters
from wily_magpie.core.pages.findings.offers import Fact, product_facts
from wily_magpie.core.pages.findings.sources import Sources, main_items, texts
from wily_magpie.core.pages.page import ANSWERS, REPLIES, Block, Content
from wily_magpie.core.pages.shapes.posts import Post, as_html
from wily_magpie.core.pages.structured import types_of

OPENING = 60
"""Letters of a paragraph by which it is known in a text."""
LEAST_SHOWN = 150
"""Letters of a text below which one that is only declared is believed instead, if it is that long itself."""


@dataclass
class TableSchema:
    """What a kind adds, as HTML; and the posts that are offered beside the text."""

    before: list[str] = field(default_factory=list)
    after: list[str] = field(default_factory=list)
    beside: list[tuple[Post, str]] = field(default_factory=list)


def shaped(content: Content, kind: str, sources: Sources, posts: list[Post]) -> Content:
    """The content with what its kind adds; what stands in the text already is not added again."""
    shape = TableSchema()
    rules = RULES.get(kind, ())
    told = letters(content.text) if rules else ""
    for rule in rules:
        rule(sources, content, told, shape)
    add_posts(kind, posts, shape)
    before, after = (blocks_of("".join(parts), sources.address) for parts in (shape.before, shape.after))
    beside = [block for post, reason in shape.beside for block in made(post, reason, sources.address)]
    if not (before or after or beside):
        return content
    first = next((at for at, block in enumerate(content.blocks) if block.is_kept), 0)
    at = first + 1 if content.blocks and content.blocks[first].kind == "heading" else first
    return Content.of_blocks((*content.blocks[:at], *before, *content.blocks[at:], *after, *beside))


def blocks_of(source: str, address: str) -> list[Block]:
    """The blocks of HTML that we put together; they have no place in the page."""
    if not source:
        return []
    part = tree.fragment(source)
    return [replace(block, path="", score=1.0) for _, block in kept_blocks(part, address, {}, Budget())]


def made(post: Post, reason: str, address: str) -> list[Block]:
    """A post as a block that can be taken in; none where nothing of it is left."""
    blocks = blocks_of(post.html(), address)[:1]
    return [replace(block, path=post.path, is_kept=False, reason=reason) for block in blocks]


def video(sources: Sources, content: Content, told: str, shape: TableSchema) -> None:
    """The player, the description and the chapters of a video or an episode."""
    player = sources.best("player")
    if player and not any(block.kind == "player" and block.is_kept for block in content.blocks):
        title = sources.best("title")
        shape.before.append(f'<iframe src="{html.escape(player)}" title="{html.escape(title)}"></iframe>')
    for item, _ in main_items(sources)[:2]:
        for text in list(texts(item.get("description")))[:1]:
            shape.before += [f"<p>{html.escape(line)}</p>" for line in paragraphs(text) if is_new(line, told)]
    listed: list[Chapter] = chapters(sources)
    missing = [chapter for chapter in listed if chapter.time not in content.text]
    if listed and len(missing) > len(listed) / 2:
        rows = "".join(f"<li>{linked(f'{one.time} {one.name}', one.address)}</li>" for one in listed)
        shape.after.append(f"<h2>Chapters</h2><ul>{rows}</ul>")


def product(sources: Sources, content: Content, told: str, shape: TableSchema) -> None:
    """The price and what else can be said of a thing in a table."""
    tables = letters(" ".join(block.text for block in content.blocks if block.kind == "table" and block.is_kept))
    facts: list[Fact] = [fact for fact in product_facts(sources) if letters(fact.value) not in tables]
    if facts:
        rows = "".join(f"<tr><td>{html.escape(f.name)}</td><td>{html.escape(f.value)}</td></tr>" for f in facts)
        shape.after.append(f"<table><thead><tr><th>Fact</th><th>Value</th></tr></thead><tbody>{rows}</tbody></table>")


def article(sources: Sources, content: Content, told: str, shape: TableSchema) -> None:
    """The declared text, where the page shows hardly any: it may be put together by a script that has not run."""
    if len(told) >= LEAST_SHOWN:
        return
    bodies = (text for item, _ in main_items(sources)[:8] for text in texts(item.get("articleBody")))
    body = max(bodies, key=len, default="")
    if len(letters(body)) >= LEAST_SHOWN:
        shape.before.append(as_html(body))


def paper(sources: Sources, content: Content, told: str, shape: TableSchema) -> None:
    """The abstract, where the text lacks it."""
    abstract = sources.best("abstract")
    if abstract and is_new(abstract, told):
        shape.before.append(f"<h2>Abstract</h2><p>{html.escape(abstract)}</p>")


def data_set(sources: Sources, content: Content, told: str, shape: TableSchema) -> None:
    """The files and the licence, where the text lacks them."""
    linked_there = " ".join(block.markdown for block in content.blocks if block.is_kept)
    rows = []
    for one in (one for one in sources.found if one.name == "file" and one.value not in linked_there):
        name = one.value.rsplit("/", 1)[-1] or one.value
        about = sources.about.get(one.value, "")
        rows.append(
            f'<li><a href="{html.escape(one.value)}">{html.escape(name)}</a>{f" ({html.escape(about)})" if about else ""}</li>'
        )
    if rows:
        shape.after.append(f"<h2>Files</h2><ul>{''.join(dict.fromkeys(rows))}</ul>")
    licence = sources.best("license")
    if licence and licence not in linked_there and letters(licence) not in told:
        shape.after.append(f"<p>Licence: {linked(licence, licence if licence.startswith('http') else '')}</p>")


def recipe(sources: Sources, content: Content, told: str, shape: TableSchema) -> None:
    """What is needed and what is done, where the text lacks it."""
    for item, _ in main_items(sources)[:4]:
        if "Recipe" not in types_of(item):
            continue
        needed = list(texts(item.get("recipeIngredient")))
        if needed and sum(letters(one) in told for one in needed) < len(needed) / 2:
            shape.after.append(
                f"<h2>Ingredients</h2><ul>{''.join(f'<li>{html.escape(one)}</li>' for one in needed)}</ul>"
            )
        steps = [line for text in texts(item.get("recipeInstructions"), "text") for line in paragraphs(text)]
        if steps and sum(not is_new(one, told) for one in steps) < len(steps) / 2:
            shape.after.append(f"<h2>Method</h2><ol>{''.join(f'<li>{html.escape(one)}</li>' for one in steps)}</ol>")
        return


def question(sources: Sources, content: Content, told: str, shape: TableSchema) -> None:
    """The question's own text, where it is only declared."""
    for item, _ in sources.items:
        if {"Question", "DiscussionForumPosting", "SocialMediaPosting"} & set(types_of(item)):
            for text in list(texts(item.get("text") or item.get("articleBody")))[:1]:
                plain = tree.squash(re.sub(r"<[^>]+>", " ", text))
                shape.before += [f"<p>{html.escape(line)}</p>" for line in paragraphs(plain) if is_new(line, told)]
            return


def add_posts(kind: str, posts: list[Post], shape: TableSchema) -> None:
    """The accepted answer as part of the text; all others beside it."""
    accepted = next((post for post in posts if post.is_accepted), None) if kind == "question" else None
    if accepted is not None:
        shape.after.append(f"<h2>Accepted answer</h2>{accepted.html()}")
    shape.beside += [(post, ANSWERS if kind == "question" else REPLIES) for post in posts if post is not accepted]


def paragraphs(text: str) -> list[str]:
    """The lines of a declared text that are no time marks of chapters."""
    lines = (tree.squash(line) for line in re.split(r"\n+", text))
    return [line for line in lines if line and not re.match(r"(?:\d{1,2}:)?\d{1,2}:\d\d\b", line)]


def is_new(text: str, told: str) -> bool:
    """Whether a paragraph does not stand in the text yet."""
    opening = letters(text)[:OPENING]
    return bool(opening) and opening not in told


def linked(text: str, address: str) -> str:
    """A text as a link, if there is an address."""
    return f'<a href="{html.escape(address)}">{html.escape(text)}</a>' if address else html.escape(text)


Rule = Callable[[Sources, Content, str, TableSchema], None]
RULES: dict[str, tuple[Rule, ...]] = {
    "article": (article,),
    "video": (video,),
    "podcast episode": (video,),
    "product": (product,),
    "paper": (paper,),
    "data set": (data_set,),
    "recipe": (recipe,),
    "question": (question,),
    "discussion": (question,),
}
