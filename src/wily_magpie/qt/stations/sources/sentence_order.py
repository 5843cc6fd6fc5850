"""The end of the sentence: what is sorted by and grouped by, each with its own buttons."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Protocol

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QMenu, QPushButton, QWidget

from wily_magpie.core.entries.field import Field
from wily_magpie.core.query.askable import CHANGED
from wily_magpie.core.query.nodes import Grouping, Question, SortKey
from wily_magpie.core.query.sentence import STEP_WORDS, group_words, sort_words
from wily_magpie.qt.actions import add_choice

MOST_GROUPS = 2
LEADING = ("newest", "oldest", "largest", "smallest", "first", "last")
"""Words of an order behind which "first" is said."""


class Sentenced(Protocol):
    """What shows words and buttons, and a question that can be changed."""

    question: Question

    def add_words(self, text: str) -> None:
        """Words that nobody can press."""

    def add_button(self, name: str, text: str, act: Callable[[QPushButton], object], tip: str = "") -> QPushButton:
        """A word that can be pressed."""

    def fields(self) -> tuple[Field, ...]:
        """Of the place."""

    def tell(self, question: Question) -> None:
        """Shows another question and says so."""


class OrderWords:
    """Adds them to a sentence."""

    def __init__(self, sentence: Sentenced, parent: QWidget) -> None:
        self.sentence, self.parent = sentence, parent

    def add(self) -> None:
        """Adds the words of the question that the sentence shows."""
        sentence, question = self.sentence, self.sentence.question
        sentence.add_words("·")
        for number, key in enumerate(question.sort):
            if number:
                sentence.add_words("then")
            direction, label = sort_words(key)
            sentence.add_button("verb", direction, partial(self.turn_sort, number), "The other way round")
            sentence.add_button("piece", label, partial(self.ask_sort, number), "Sort by another field")
            if direction in LEADING:
                sentence.add_words("first")
        if question.sort:
            add = sentence.add_button("add", "+ then", partial(self.ask_sort, len(question.sort)), "Sort further")
            add.setAccessibleName("Sort further")
        else:
            sentence.add_button("add", "in the order kept", partial(self.ask_sort, 0), "Sort")
        for number, group in enumerate(question.groups):
            sentence.add_words("· grouped by" if not number else "and within by")
            label, step = group_words(group)
            ask = partial(self.ask_group, number)
            sentence.add_button("piece", label, ask, "Group by another field, or otherwise")
            if step:
                sentence.add_button("verb", step, ask, "Group by another field, or otherwise")
        if len(question.groups) < MOST_GROUPS:
            word = "+ within" if question.groups else "+ group"
            sentence.add_button("add", word, partial(self.ask_group, len(question.groups)), "Group the entries")

    def turn_sort(self, number: int, _button: QPushButton) -> None:
        """Sorts the other way round by one key."""
        keys = list(self.sentence.question.sort)
        keys[number] = replace(keys[number], descending=not keys[number].descending)
        self.sentence.tell(replace(self.sentence.question, sort=tuple(keys)))

    def put_sort(self, number: int, field: Field | None) -> None:
        """Puts a key in the place of another, behind them, or takes it out."""
        keys = list(self.sentence.question.sort)
        if field is None:
            del keys[number : number + 1]
        else:
            keys[number : number + 1] = [SortKey(field, field.kind.is_dated or field.kind.is_sized)]
        self.sentence.tell(replace(self.sentence.question, sort=tuple(keys)))

    def ask_sort(self, number: int, button: QPushButton) -> None:
        """Asks for the field to sort by."""
        sort = self.sentence.question.sort
        first = "" if number >= len(sort) else "In the order kept" if len(sort) == 1 else "Not by this one"
        taken = {key.field.key for at, key in enumerate(sort) if at != number}
        fields = [f for f in (*self.sentence.fields(), CHANGED) if not f.kind.is_long and f.key not in taken]
        menu = self.menu(first, lambda: self.put_sort(number, None))
        for field in fields:
            add_choice(menu, field.label, partial(self.put_sort, number, field))
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))

    def put_group(self, number: int, group: Grouping | None) -> None:
        """Puts a level in the place of another, within it, or takes it out."""
        groups = list(self.sentence.question.groups)
        groups[number : number + 1] = [] if group is None else [group]
        self.sentence.tell(replace(self.sentence.question, groups=tuple(groups)))

    def ask_group(self, number: int, button: QPushButton) -> None:
        """Asks for the field to group by, and how."""
        groups = self.sentence.question.groups
        taken = {one.field.key for at, one in enumerate(groups) if at != number}
        menu = self.menu("Do not group" if number < len(groups) else "", lambda: self.put_group(number, None))
        for field in self.sentence.fields():
            steps = field.kind.group_steps if field.key != "title" else ("letter",)
            if not steps or field.key in taken:
                continue
            inner = menu.addMenu(field.label) if len(steps) > 1 else menu
            for step in steps:
                label = field.label if len(steps) == 1 else self.step_words(step)
                add_choice(inner or menu, label, partial(self.put_group, number, Grouping(field, step)))
        menu.popup(button.mapToGlobal(QPoint(0, button.height())))

    @staticmethod
    def step_words(step: str) -> str:
        """How a step stands in a menu."""
        if not step:
            return "Value by value"
        return f"In ranges of {step}" if step[:1].isdigit() else f"By {STEP_WORDS.get(step, step)}"

    def menu(self, first: str, act: Callable[[], object]) -> QMenu:
        """A menu that begins with what takes the choice back."""
        menu = QMenu(self.parent)
        if first:
            add_choice(menu, first, act)
            menu.addSeparator()
        return menu
