"""What a question says in the comment of a living list."""

from wily_magpie.core.entries.living_list import quoted
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question


def said_by(question: Question) -> tuple[str, str, str]:
    """Where, sort and group of a list that asks a question."""
    sort = cql.write(Question(None, question.sort)).removeprefix("sortBy ")
    groups = (f"{quoted(one.field.key)}{f'/{one.step}' if one.step else ''}" for one in question.groups)
    return cql.write(Question(question.filter)), sort, ", ".join(groups)
