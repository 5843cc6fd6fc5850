"""The sentence by itself: its words are pressed, its menus and choosers answered; the question that comes out is read as CQL."""

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QMenu, QPushButton, QWidget
from pytestqt.qtbot import QtBot

from wily_magpie.core.entries.layout import LayoutKind
from wily_magpie.core.places.api import PlaceInfo
from wily_magpie.core.query import cql
from wily_magpie.core.query.nodes import Question, Words
from wily_magpie.core.session.session import Session
from wily_magpie.qt.stations.sources.chooser import ConditionChooser, WordsChooser
from wily_magpie.qt.stations.sources.sentence import Sentence

PATIENCE_MS = 15_000
LEFT = Qt.MouseButton.LeftButton


class Asked:
    """A sentence over Sources, with what it told."""

    def __init__(self, qtbot: QtBot, place: PlaceInfo) -> None:
        self.qtbot, self.place = qtbot, place
        self.sentence = Sentence(lambda field, take: take([f"{field.key} one", f"{field.key} two"]))
        self.told: list[Question] = []
        self.layouts: list[LayoutKind] = []
        self.sentence.changed.connect(self.told.append)
        self.sentence.layout_chosen.connect(self.layouts.append)
        qtbot.addWidget(self.sentence)
        self.sentence.resize(900, 200)
        self.sentence.show()

    def show(self, text: str) -> None:
        """Shows a question."""
        self.sentence.show_question(self.place, cql.parse(text, self.place.askable))

    def button(self, text: str, which: int = 0) -> QPushButton:
        """One of the words that can be pressed."""
        found = [one for one in self.sentence.words.findChildren(QPushButton) if one.text() == text and one.isVisible()]
        assert len(found) > which, (text, self.words())
        return found[which]

    def words(self) -> list[str]:
        """All that can be pressed."""
        return [one.text() for one in self.sentence.words.findChildren(QPushButton) if one.isVisible()]

    def press(self, text: str, which: int = 0) -> None:
        """Presses a word."""
        self.qtbot.mouseClick(self.button(text, which), LEFT)

    def pick(self, *texts: str) -> None:
        """Chooses a line of the menu that is open, through the menus in it."""
        menu = next(one for one in reversed(self.sentence.findChildren(QMenu)) if one.isVisible())
        open_menu = menu
        for text in texts[:-1]:
            inner = next(one.menu() for one in menu.actions() if one.text() == text)
            assert inner is not None
            menu = inner
        next(one for one in menu.actions() if one.text() == texts[-1]).trigger()
        open_menu.close()

    def lines(self) -> list[str]:
        """The lines of the menu that is open."""
        menu = next(one for one in reversed(self.sentence.findChildren(QMenu)) if one.isVisible())
        told = [one.text() for one in menu.actions() if not one.isSeparator()]
        menu.close()
        return told

    def chooser(self) -> QWidget:
        """The chooser that is open."""
        made = self.sentence.chooser
        assert made is not None
        assert made.isVisible()
        return made

    def asked(self) -> str:
        """The question that it told last."""
        return cql.write(self.told[-1])


@pytest.fixture
def asked(qtbot: QtBot, session: Session) -> Asked:
    return Asked(qtbot, session.overview.place("collection:1"))


Act = Callable[[Asked], None]


def pressed(word: str, *lines: str, which: int = 0) -> Act:
    """Presses a word and chooses from its menu."""

    def act(asked: Asked) -> None:
        asked.press(word, which)
        if lines:
            asked.pick(*lines)

    return act


ORDER: dict[str, tuple[str, Act, str]] = {
    "the other way round": ("sortBy title", pressed("A to Z by"), "sortBy title/descending"),
    "by another field": ("sortBy title", pressed("title", "Published"), "sortBy published/descending"),
    "by a further one": ("sortBy title", pressed("+ then", "Price"), "sortBy title price/descending"),
    "by one less": ("sortBy title price", pressed("price", "Not by this one"), "sortBy title"),
    "in no order": ("sortBy title", pressed("title", "In the order kept"), ""),
    "in one again": ("", pressed("in the order kept", "Title"), "sortBy title"),
    "in groups": ("sortBy title", pressed("+ group", "Status"), "sortBy status/group title"),
    "in groups by year": (
        "sortBy title", pressed("+ group", "Published", "By year"), "sortBy published/group=year title",
    ),
    "in groups of numbers": (
        "sortBy title", pressed("+ group", "Price", "In ranges of 10"), "sortBy price/group=10 title",
    ),
    "in two levels": (
        "sortBy status/group title", pressed("+ within", "Kind"), "sortBy status/group kind/group title",
    ),
    "in groups by another field": ("sortBy status/group title", pressed("status", "Kind"), "sortBy kind/group title"),
    "in no groups": ("sortBy status/group title", pressed("status", "Do not group"), "sortBy title"),
}  # fmt: skip


@pytest.mark.parametrize("case", ORDER)
def test_what_is_sorted_and_grouped_by_is_pressed(asked: Asked, case: str) -> None:
    before, act, after = ORDER[case]
    asked.show(before)
    act(asked)
    assert asked.asked() == after
    assert len(asked.told) == 1


def test_a_field_is_not_offered_twice_and_long_ones_not_at_all(asked: Asked) -> None:
    asked.show("sortBy title price")
    asked.press("+ then")
    offered = asked.lines()
    assert "Title" not in offered
    assert "Price" not in offered
    assert "Description" not in offered
    assert "Changed" in " ".join(offered)
    asked.show("sortBy status/group title")
    asked.press("+ within")
    assert "Status" not in asked.lines()
    asked.show("sortBy status/group kind/group title")
    assert "+ within" not in asked.words()


TWO = 'status = "to read" and kind = paper sortBy title'
THREE = 'status = "to read" and kind = paper and site = Tide sortBy title'
FILTER: dict[str, tuple[str, Act, str]] = {
    "joined by or": (TWO, pressed("and", "Join these by “or”"), 'status = "to read" or kind = paper sortBy title'),
    "turned round": (
        'status = "to read" and kind = paper sortBy title', pressed("and", "Not this"),
        'status = "to read" not kind = paper sortBy title',
    ),
    "taken out": (TWO, pressed("and", "Take it out"), 'status = "to read" sortBy title'),
    "in brackets": (
        THREE, pressed("and", "This and the one before, joined by “or”", which=1),
        'status = "to read" and (kind = paper or site = Tide) sortBy title',
    ),
    "taken out by its cross": (TWO, pressed("×"), "kind = paper sortBy title"),
}  # fmt: skip


@pytest.mark.parametrize("case", FILTER)
def test_parts_are_joined_turned_round_and_taken_out(asked: Asked, case: str) -> None:
    before, act, after = FILTER[case]
    asked.show(before)
    act(asked)
    assert asked.asked() == after


def test_a_part_that_is_negated_is_turned_round_again(asked: Asked) -> None:
    asked.show('status = "to read" not kind = paper sortBy title')
    asked.press("not")
    assert asked.asked() == TWO


def test_a_way_of_looking_is_chosen_and_the_one_in_force_is_ticked(asked: Asked) -> None:
    asked.show("sortBy title")
    asked.press("as a table")
    menu = next(one for one in asked.sentence.findChildren(QMenu) if one.isVisible())
    assert [one.text() for one in menu.actions() if one.isChecked()] == ["As a table"]
    asked.pick("In lanes")
    assert asked.layouts == [LayoutKind.LANES]
    assert asked.told == []


def test_a_condition_is_added_changed_and_taken_out(asked: Asked) -> None:
    asked.show("sortBy title")
    asked.press("+ where")
    asked.pick("Status")
    chooser = asked.chooser()
    assert isinstance(chooser, ConditionChooser)
    chooser.options.setCurrentText("to read")
    asked.qtbot.mouseClick(chooser.apply, LEFT)
    assert asked.asked() == 'status = "to read" sortBy title'
    asked.press("to read")
    chooser = asked.chooser()
    assert isinstance(chooser, ConditionChooser)
    out = next(one for one in chooser.findChildren(QPushButton) if one.text() == "Take this condition out")
    asked.qtbot.mouseClick(out, LEFT)
    assert asked.asked() == "sortBy title"


def test_what_is_no_condition_is_said_and_nothing_is_asked(asked: Asked) -> None:
    asked.show("sortBy title")
    asked.press("+ where")
    asked.pick("Price")
    chooser = asked.chooser()
    assert isinstance(chooser, ConditionChooser)
    asked.qtbot.mouseClick(chooser.apply, LEFT)
    assert chooser.problem.text().startswith("A value is missing.")
    chooser.line.setText("twelve")
    asked.qtbot.mouseClick(chooser.apply, LEFT)
    assert "twelve" in chooser.problem.text()
    assert chooser.isVisible()
    assert asked.told == []
    chooser.line.setText("12")
    asked.qtbot.mouseClick(chooser.apply, LEFT)
    assert asked.asked() == "price = 12 sortBy title"


def test_values_that_there_are_come_into_a_list_one_by_one(asked: Asked) -> None:
    asked.show("tags any mill sortBy title")
    asked.press("mill")
    chooser = asked.chooser()
    assert isinstance(chooser, ConditionChooser)
    assert chooser.many.text() == "mill"
    for wanted in ("tags one", "tags two", "tags one"):
        chooser.adding.setCurrentIndex(chooser.adding.findText(wanted))
        chooser.adding.activated.emit(chooser.adding.currentIndex())
    assert chooser.many.text() == "mill; tags one; tags two"
    asked.qtbot.mouseClick(chooser.apply, LEFT)
    assert asked.asked() == 'tags any "mill; tags one; tags two" sortBy title'


def test_words_are_asked_for_one_after_another_or_anywhere(asked: Asked) -> None:
    asked.show('"tide mill" sortBy title')
    piece = next(one for one in asked.words() if "tide mill" in one)
    asked.press(piece)
    chooser = asked.chooser()
    assert isinstance(chooser, WordsChooser)
    chooser.line.setText("  ")
    asked.qtbot.mouseClick(chooser.apply, LEFT)
    assert chooser.problem.text().startswith("Words are missing.")
    chooser.line.setText("  moon   mill ")
    chooser.phrase.setChecked(not chooser.phrase.isChecked())
    asked.qtbot.mouseClick(chooser.apply, LEFT)
    first = asked.told[-1].filter
    asked.press(next(one for one in asked.words() if "moon mill" in one))
    chooser = asked.chooser()
    assert isinstance(chooser, WordsChooser)
    chooser.phrase.setChecked(not chooser.phrase.isChecked())
    asked.qtbot.mouseClick(chooser.apply, LEFT)
    second = asked.told[-1].filter
    assert {first, second} == {Words("moon mill", is_phrase=True), Words("moon mill", is_phrase=False)}
    asked.press(next(one for one in asked.words() if "moon mill" in one))
    chooser = asked.chooser()
    out = next(one for one in chooser.findChildren(QPushButton) if one.text() == "Take this condition out")
    asked.qtbot.mouseClick(out, LEFT)
    assert asked.asked() == "sortBy title"


def test_the_question_is_written_as_text_and_what_is_none_says_where(asked: Asked) -> None:
    asked.show("sortBy title")
    sentence = asked.sentence
    sentence.toggle_text()
    assert sentence.text.text() == "sortBy title"
    sentence.text.setText("price >> 12")
    asked.qtbot.keyClick(sentence.text, Qt.Key.Key_Return)
    assert sentence.problem.isVisible()
    assert asked.told == []
    sentence.text.setText("price > 12 sortBy price")
    asked.qtbot.keyClick(sentence.text, Qt.Key.Key_Return)
    assert asked.asked() == "price > 12 sortBy price"
    assert not sentence.problem.isVisible()
    sentence.toggle_text()
    assert not sentence.text.isVisible()


def test_what_was_changed_last_is_taken_back_by_its_own_keys(asked: Asked) -> None:
    asked.show(TWO)
    asked.press("and")
    asked.pick("Take it out")
    asked.press("A to Z by")
    assert asked.asked() == 'status = "to read" sortBy title/descending'
    for wanted in ('status = "to read" sortBy title', TWO):
        asked.qtbot.keyClick(asked.button("to read"), Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        assert asked.asked() == wanted
