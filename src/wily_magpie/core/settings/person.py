"""The person's settings: a TOML file under XDG_CONFIG_HOME, written whole, with what is not ours left as it is."""

from pathlib import Path
from threading import Lock

from wily_magpie.core.errors import EnvironmentFailure
from wily_magpie.core.fields import Value
from wily_magpie.core.places.atomic import read_bytes, write_bytes
from wily_magpie.core.settings.known import PERSON_SETTINGS, find_setting, value_of
from wily_magpie.core.settings.setting import Setting


class PersonSettings:
    """What the file says. Asking it reads nothing: the file is read once, and written when something is set.

    Attributes:
        fault: why the file could not be read, or "": then all is as usual, and it is not written over.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.fault = ""
        self.raw: dict[str, object] = {}
        self.lock = Lock()
        if not path.exists():
            return
        import tomllib  # here, since it takes long to load, and most have set nothing

        try:
            self.raw = tomllib.loads((read_bytes(path) or b"").decode())
        except (tomllib.TOMLDecodeError, UnicodeDecodeError, EnvironmentFailure) as error:
            self.fault = f"The settings in {path} cannot be read: {error}. All is as usual until the file is mended."

    @property
    def texts(self) -> dict[str, str]:
        """What is set, by name, as text."""
        return {name: str(value) for name, value in self.raw.items()}

    def value(self, setting: Setting) -> Value:
        """What holds."""
        return value_of(setting, self.texts)

    def set(self, name: str, text: str) -> None:
        """Sets one and writes the file.

        Raises:
            UserError: it is no value of that setting.
            EnvironmentFailure: the file cannot be written, or could not be read.
        """
        import tomlkit  # needed only where something is set: it leaves comments and order as they are

        setting = find_setting(PERSON_SETTINGS, name)
        value = setting.read(text)
        if self.fault:
            raise EnvironmentFailure("settings-unread", self.fault, "Mend it in a text editor, or remove it.")
        with self.lock:
            document = tomlkit.parse((read_bytes(self.path) or b"").decode())
            if value == setting.default:
                document.pop(name, None)
            else:
                document[name] = value
            self.path.parent.mkdir(parents=True, exist_ok=True)
            write_bytes(self.path, tomlkit.dumps(document).encode())
            self.raw = dict(document)
