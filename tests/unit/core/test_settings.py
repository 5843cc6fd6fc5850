"""Settings: typed, the person's in a TOML file, a library's in the library."""

from pathlib import Path

import pytest

from helpers import undo
from wily_magpie.core.commands.settings import SetSetting
from wily_magpie.core.errors import EnvironmentFailure, UserError
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.session.session import Session
from wily_magpie.core.settings.known import (
    LIBRARY_SETTINGS,
    LOOK,
    MOST_PICTURES,
    NOTICE_PACE,
    PERSON_SETTINGS,
    READING_SIZE,
    number_of,
)
from wily_magpie.core.settings.person import PersonSettings


def test_every_setting_has_a_sentence_and_a_default_that_it_takes() -> None:
    for setting in (*PERSON_SETTINGS, *LIBRARY_SETTINGS):
        assert setting.about.endswith(".")
        assert setting.read(setting.kind.show(setting.default)) == setting.default
        assert setting.read("") == setting.default
        assert setting.field.label == setting.title


@pytest.mark.parametrize(
    ("name", "text", "said"),
    [
        ("look", "purple", "It can be: system, light, dark"),
        ("reading_size_pt", "big", "is not a number"),
        ("reading_size_pt", "200", "It can be 8 to 32"),
        ("reading_size_pt", "-3", "It can be 8 to 32"),
        ("colour", "red", "There are: look, reading_face, reading_size_pt"),
    ],
)
def test_what_is_no_value_is_said_and_nothing_is_written(tmp_path: Path, name: str, text: str, said: str) -> None:
    settings = PersonSettings(tmp_path / "settings.toml")
    with pytest.raises(UserError, match=said):
        settings.set(name, text)
    assert not settings.path.exists()


def test_the_file_is_a_persons_own(tmp_path: Path) -> None:
    path = tmp_path / "config" / "settings.toml"
    path.parent.mkdir()
    path.write_text('# mine\nlook = "dark"  # at night\nsomething_else = [1, 2]\n')
    settings = PersonSettings(path)
    assert (settings.value(LOOK), settings.value(READING_SIZE)) == ("dark", 13.5)
    settings.set("reading_size_pt", "15")
    assert path.read_text() == '# mine\nlook = "dark"  # at night\nsomething_else = [1, 2]\nreading_size_pt = 15.0\n'
    settings.set("look", "system")
    assert "look" not in path.read_text()
    assert PersonSettings(path).value(READING_SIZE) == 15.0


@pytest.mark.parametrize("text", ["look = dark", "look = 1\nlook = 2", "\x00", "[[["])
def test_a_file_that_cannot_be_read_is_left_alone_and_said(tmp_path: Path, text: str) -> None:
    path = tmp_path / "settings.toml"
    path.write_text(text)
    settings = PersonSettings(path)
    assert str(path) in settings.fault
    assert settings.value(LOOK) == "system"
    with pytest.raises(EnvironmentFailure, match="cannot be read"):
        settings.set("look", "dark")
    assert path.read_text() == text


@pytest.mark.parametrize("raw", ['look = "purple"', "notice_letters_a_second = true", 'notice_letters_a_second = "a"'])
def test_a_value_that_is_none_is_as_usual(tmp_path: Path, raw: str) -> None:
    (tmp_path / "settings.toml").write_text(raw)
    settings = PersonSettings(tmp_path / "settings.toml")
    assert (settings.value(LOOK), settings.value(NOTICE_PACE)) == ("system", 12.0)


def test_a_librarys_settings_are_steps_and_go_with_it(session: Session) -> None:
    session.do(SetSetting("pictures_a_page", "3"))
    assert number_of(MOST_PICTURES, session.overview.settings) == 3
    assert session.reader.steps()[0].label == "Set “Pictures a page”"
    with pytest.raises(UserError, match="It can be 0 to 500"):
        session.do(SetSetting("pictures_a_page", "501"))
    folder = session.folder
    session.close()
    again = Session(folder, Fetcher())
    assert number_of(MOST_PICTURES, again.overview.settings) == 3
    undo(again)
    assert number_of(MOST_PICTURES, again.overview.settings) == 40
    again.do(SetSetting("pictures_a_page", "40"))
    assert again.overview.settings == {}, "what is usual is not written down"
    again.close()
