"""Structured data as pages declare it."""

from collections.abc import Mapping
from typing import Any


def types_of(item: Mapping[str, Any]) -> list[str]:
    """The types of an item without their addresses."""
    kinds = item.get("@type")
    return [str(kind).rsplit("/", 1)[-1] for kind in (kinds if isinstance(kinds, list) else [kinds]) if kind]
