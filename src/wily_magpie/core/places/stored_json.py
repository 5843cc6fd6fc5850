"""JSON as it stands in rows of the library: what is damaged is as if nothing stood there, and `check` finds it."""

import json
from typing import Any


def read_object(stored: object) -> dict[str, Any]:
    """An object; an empty one where there is none."""
    found = read(stored)
    return found if isinstance(found, dict) else {}


def read_texts(stored: object) -> dict[str, str]:
    """An object of texts."""
    return {str(key): str(value) for key, value in read_object(stored).items()}


def read_list(stored: object) -> list[Any]:
    """A list; an empty one where there is none."""
    found = read(stored)
    return found if isinstance(found, list) else []


def read(stored: object) -> Any:
    """Whatever stands there; None where it is no JSON."""
    try:
        return json.loads(str(stored))
    except (ValueError, RecursionError):
        return None
