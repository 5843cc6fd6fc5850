"""Addresses of the web (URLs)."""

from urllib.parse import urlsplit

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import ADDRESS_SIGNS, BLANKNESS, PARTS, FieldKind, Relation, Value


class Address(FieldKind):
    """An absolute http or https address."""

    name = "address"
    is_address = True
    signs = ADDRESS_SIGNS
    is_short = False
    relations = (*PARTS, Relation.IS, Relation.BEGINS, Relation.SAME, *BLANKNESS)

    def read(self, text: str) -> Value:
        text = text.strip()
        if not text:
            return None
        try:
            parts = urlsplit(text)
            good = parts.scheme in ("http", "https") and bool(parts.hostname) and not any(c.isspace() for c in text)
        except ValueError:
            good = False
        if not good or "\0" in text:
            raise UnreadableValue(
                "no-address", f"“{text[:200]}” is not a web address.", "An address begins with http:// or https://."
            )
        return text


ADDRESS = Address()
