"""Yes or no."""

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, FieldKind, Relation, Value

YES = {"yes", "true", "1", "y", "on", "x"}
NO = {"no", "false", "0", "n", "off"}


class YesNo(FieldKind):
    """Yes, no, or not said."""

    name = "yes/no"
    column_type = "INTEGER"
    relations = (Relation.IS, *BLANKNESS)

    def read(self, text: str) -> Value:
        word = text.strip().casefold()
        if not word:
            return None
        if word not in YES | NO:
            raise UnreadableValue("no-yes-no", f"“{text.strip()}” is neither yes nor no.", "Write yes or no.")
        return word in YES

    def show(self, value: Value) -> str:
        return "" if value is None else "yes" if value else "no"


YES_NO = YesNo()
