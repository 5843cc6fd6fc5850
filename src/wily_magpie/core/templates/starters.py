"""The templates that every library begins with, in the order in which they are tried: one for each kind of page."""

from wily_magpie.core.entries.insert_position import InsertPosition, NoteTarget
from wily_magpie.core.templates.match import Condition, MatchRule
from wily_magpie.core.templates.rules import Rule
from wily_magpie.core.templates.template import Body, Template


def found(*names: str) -> Rule:
    """From findings, the first that there is."""
    return Rule("finding", names)


def reckoned(expression: str) -> Rule:
    """From an expression."""
    return Rule("expression", (expression,))


COMMON = {
    "address": found("address"),
    "authors": found("authors"),
    "published": found("published"),
    "site": found("site"),
    "kind": found("kind"),
    "tags": found("keywords"),
    "language": found("language"),
    "description": found("description"),
    "picture": Rule("picture", ("lead",)),
    "captured": reckoned("now"),
}
AMOUNT = reckoned("page.price | number")
WITH_DESCRIPTION = Body("nothing", before="{{ page.markdown or page.description }}")
LATER = "Plain link for later"


def of_kind(*kinds: str) -> tuple[MatchRule, ...]:
    """Rules for kinds of page and types of schema.org."""
    return tuple(MatchRule((Condition("structured type is", kind),)) for kind in kinds)


def starter(name: str, kinds: tuple[str, ...], more: dict[str, Rule], body: Body | None = None, status: str = "to read",
            asks: tuple[str, ...] = ()) -> Template:  # fmt: skip
    """A template for the sources, with what all of them fill."""
    return Template(
        name,
        "Sources",
        of_kind(*kinds),
        fields={**COMMON, **more},
        body=body or Body(),
        status=status,
        asks=asks,
        starter=name,
    )


def kind(fixed: str) -> dict[str, Rule]:
    """The kind as it is found, else this one."""
    return {"kind": reckoned(f"page.kind or '{fixed}'")}


def starters() -> list[Template]:
    """One for each kind of page that the reader knows; the article takes every other page."""
    article = starter(
        "Article", ("Article", "NewsArticle", "BlogPosting", "article", "reference work"), kind("article")
    )
    later = Template(
        LATER,
        "Sources",
        (),
        fields={"address": found("address"), "site": found("site"), "captured": reckoned("now")},
        body=Body("nothing", after="- [{{ page.title or page.address }}]({{ page.address }}), {{ now | date }}"),
        way=NoteTarget("For later.md", InsertPosition()),
        status="to read",
        keeps_pictures=False,
        starter=LATER,
    )
    return [
        starter("Object of a collection", ("VisualArtwork", "ArchiveComponent", "object"), {
            **kind("object"), "published": found("VisualArtwork.dateCreated", "published"),
        }),
        starter("Book or product with a price", ("Product", "Book", "product"), {
            "kind": reckoned("page.kind or 'product'"), "price": AMOUNT, "currency": found("currency"),
        }),
        starter("Video", ("VideoObject", "video"), {
            "kind": Rule("fixed", ("video",)), "duration": found("duration"), "site": found("channel", "site"),
        }, WITH_DESCRIPTION, "to watch"),
        starter("Podcast episode", ("PodcastEpisode", "podcast episode"), {
            **kind("podcast episode"), "duration": found("duration"), "site": found("channel", "site"),
        }, WITH_DESCRIPTION),
        starter("Paper", ("ScholarlyArticle", "paper"), {
            **kind("paper"), "site": found("journal", "site"), "description": found("abstract", "description"),
        }),
        starter("Question", ("QAPage", "Question", "question"), {
            **kind("question"), "description": found("Question.acceptedAnswer.text", "description"),
        }),
        starter("Discussion", ("DiscussionForumPosting", "discussion"), kind("discussion")),
        starter("Event", ("Event", "event"), {
            **kind("event"), "published": found("start", "published"), "price": AMOUNT,
        }),
        starter("Recipe", ("Recipe", "recipe"), {
            **kind("recipe"), "duration": found("Recipe.totalTime", "duration"),
        }),
        starter("Data set", ("Dataset", "data set"), {
            **kind("data set"), "site": found("publisher", "site"),
        }),
        starter("E-mail", ("EmailMessage", "e-mail"), kind("e-mail")),
        Template("Article", "Sources", (*article.match, MatchRule((Condition("any page"),))), fields=article.fields,
                 status="to read", starter="Article"),
        later,
    ]  # fmt: skip
