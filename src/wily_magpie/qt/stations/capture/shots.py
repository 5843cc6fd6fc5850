"""Pictures that a person takes of the live page, which go along with its slip."""

from collections.abc import Callable
from typing import TYPE_CHECKING

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
        self, view: "Callable[[], PageView | None]", keep: Callable[[bytes], None], told: Callable[[str], None]
    ) -> None:
        self.view, self.keep, self.told = view, keep, told
        self.under_way: object = None

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
