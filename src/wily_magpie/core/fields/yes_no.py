"""Yes or no."""

from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields.base import BLANKNESS, SAME, FieldKind, Relation, Sql, Value

YES = {"yes", "true", "1", "y", "on", "x"}
NO = {"no", "false", "0", "n", "off"}


class YesNo(FieldKind):
    """Yes, no, or not said."""

    name = "yes/no"
    group_steps = ("",)
    fixed_texts = ("yes", "no")
    column_type = "INTEGER"
    signs = SAME
    relations = (Relation.IS, *BLANKNESS)
    is_worded = False

    def read(self, text: str) -> Value:
        word = text.strip().casefold()
        if not word:
            return None
        if word not in YES | NO:
            raise UnreadableValue("no-yes-no", f"“{text.strip()}” is neither yes nor no.", "Write yes or no.")
        return word in YES

    def show(self, value: Value) -> str:
        return "" if value is None else "yes" if value else "no"

    def to_column(self, value: Value) -> object:
        return None if value is None else int(bool(value))

    def from_column(self, stored: object) -> Value:
        return None if stored is None else bool(stored)

    def sort_sql(self, column: str) -> str:
        return column

    def compare(self, relation: Relation, column: str, value: Value) -> Sql:
        return super().compare(relation, column, int(bool(value)))


YES_NO = YesNo()
