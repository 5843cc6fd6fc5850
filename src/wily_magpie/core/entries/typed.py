"""What a person typed into a field, as a value of it."""

from wily_magpie.core.entries.field import TITLE, Field
from wily_magpie.core.errors import UnreadableValue, UserError
from wily_magpie.core.fields import Value


def typed(field: Field, text: str, title_pattern: str = "") -> tuple[Value, str]:
    """The value of what a person typed into a field, and a warning or "".

    Args:
        title_pattern: of the place; where it has one, titles are not written.

    Raises:
        UnreadableValue: it is none; the field is named.
        UserError: the field cannot be written, or a title would be blank.
    """
    if not field.is_writable:
        raise UserError("worked-out", f"{field.label} is worked out from other fields.", "Change those instead.")
    if field.key == TITLE.key and title_pattern:
        raise UserError(
            "title-made", "Titles are made from other fields here.", "Change those, or the title's pattern."
        )
    try:
        value, warning = field.kind.take(text)
    except UnreadableValue as error:
        raise UnreadableValue(error.slug, f"{field.label}: {error.message}", error.way_out) from error
    if field.key == TITLE.key and value is None:
        raise UserError("no-title", "A title cannot be blank.", "Write one.")
    return value, warning
