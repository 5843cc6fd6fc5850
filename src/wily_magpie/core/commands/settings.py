"""Commands over a library's own settings."""

from wily_magpie.core.commands.command import Progress, StepCommand
from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.places.library.library import Library
from wily_magpie.core.settings.known import LIBRARY_SETTINGS, find_setting


@dataclass(frozen=True)
class ForgetHabit(StepCommand[None]):
    """Forgets where pages of a site and a kind went last.

    Attributes:
        habit: as `templates.slip.habit_of` names it.
    """

    habit: str

    def label(self, _library: Library) -> str:
        return f"Forget the {self.habit}"

    def do(self, library: Library, _progress: Progress) -> None:
        library.settings.set(self.habit, None)


@dataclass(frozen=True)
class SetSetting(StepCommand[None]):
    """Sets a setting of the library to what a person wrote; "" for what is usual."""

    name: str
    text: str

    def label(self, _library: Library) -> str:
        return f"Set “{find_setting(LIBRARY_SETTINGS, self.name).title}”"

    def do(self, library: Library, _progress: Progress) -> None:
        setting = find_setting(LIBRARY_SETTINGS, self.name)
        value = setting.read(self.text)
        library.settings.set(self.name, None if value == setting.default else setting.kind.show(value))
