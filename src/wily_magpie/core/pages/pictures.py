"""Pictures that a text names."""

from markdown_it import MarkdownIt

PARSER = MarkdownIt("commonmark").enable("table")


def addresses_in(markdown: str) -> list[str]:
    """The addresses of the pictures in a Markdown text, in order, each once."""
    out: list[str] = []
    for token in PARSER.parse(markdown):
        for child in token.children or []:
            if child.type == "image":
                address = str(child.attrs.get("src") or "")
                if address.startswith(("http://", "https://")):
                    out.append(address)
    return list(dict.fromkeys(out))
