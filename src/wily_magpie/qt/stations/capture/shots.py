"""Pictures of the live page that go along with its slip: those that a person takes, and the one that a template wants."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.last_asked import LastAsked

if TYPE_CHECKING:
    from wily_magpie.qt.web.page_view import PageView


class Shots:
    """Takes them.

    Args:
        view: gives the live page, once there is one.
        keep: is handed each as a PNG.
        told: is told what is to be done.
    """

    def __init__(
        self,
        bridge: Bridge,
        view: "Callable[[], PageView | None]",
        keep: Callable[[bytes], None],
        told: Callable[[str], None],
    ) -> None:
        self.asking = LastAsked(bridge)
        self.view, self.keep, self.told = view, keep, told
        self.under_way: object = None
        self.is_one_wanted = False
        """Whether any template has a use for a picture of each page."""

    def look_at_templates(self) -> None:
        """Templates may be others."""
        self.asking.ask(lambda reader: reader.templates.wants_screenshot(), self._on_wanted)

    def _on_wanted(self, is_wanted: bool) -> None:
        self.is_one_wanted = is_wanted

    def along(self) -> bytes:
        """What goes along with a page that has just arrived, where a template has a use for it: what is visible."""
        view = self.view()
        return view.picture() if view is not None and self.is_one_wanted else b""

    def take_visible(self) -> None:
        """What is visible."""
        view = self.view()
        if view is not None:
            self.keep(view.picture())

    def take_part(self) -> None:
        """A part, which is drawn with the mouse."""
        from wily_magpie.qt.web.page_shots import PartShot  # with the web engine

        view = self.view()
        if view is not None:
            self.told("Draw the part with the mouse; any key ends it")
            self.under_way = PartShot(view, self.keep)

    def take_whole(self) -> None:
        """The whole page."""
        from wily_magpie.qt.web.page_shots import WholeShot  # as above

        view = self.view()
        if view is not None:
            self.under_way = WholeShot(view, self.keep)
