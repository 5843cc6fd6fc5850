"""The templates that every library begins with, in the order in which they are tried."""

from wily_magpie.core.templates.template import MatchRule, Template

COMMON = {
    "address": "page.address",
    "authors": "page.authors",
    "published": "page.published",
    "site": "page.site",
    "kind": "page.kind",
    "status": "'to read'",
    "tags": "page.keywords",
    "language": "page.language",
    "description": "page.description",
    "picture": "page.image",
    "captured": "now",
}


def starters() -> list[Template]:
    """An object with a price, a video, and an article, which takes every other page."""
    priced = [MatchRule("structured type is", kind) for kind in ("Product", "Book", "product")]
    videos = [MatchRule("structured type is", kind) for kind in ("VideoObject", "video")]
    articles = [
        MatchRule("structured type is", kind)
        for kind in ("Article", "NewsArticle", "BlogPosting", "ScholarlyArticle", "article")
    ]
    return [
        Template(
            "Object with a price",
            "Sources",
            tuple(priced),
            "page.title",
            {**COMMON, "kind": "page.kind or 'product'", "price": "page.price | number", "currency": "page.currency"},
            "page.markdown",
        ),
        Template(
            "Video",
            "Sources",
            tuple(videos),
            "page.title",
            {**COMMON, "kind": "'video'", "status": "'to watch'", "duration": "page.duration"},
            "page.markdown or page.description",
        ),
        Template(
            "Article",
            "Sources",
            (*articles, MatchRule("any page", "")),
            "page.title",
            {**COMMON, "kind": "page.kind or 'article'"},
            "page.markdown",
        ),
    ]
