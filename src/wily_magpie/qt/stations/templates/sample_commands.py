"""How sample pages come to a template and go: addresses, files, pages of the library."""

from collections.abc import Callable, Sequence
from functools import partial

from PyQt6.QtWidgets import QMenu

from wily_magpie.core.capture.run import CaptureRun, Counter
from wily_magpie.core.commands.templates import AddSample, AddSampleOf, RemoveSample
from wily_magpie.core.entries.dropped import Dropped
from wily_magpie.core.errors import MagpieError
from wily_magpie.core.pages.address import from_typed
from wily_magpie.core.session.jobs import Job
from wily_magpie.core.templates.bench import Sample
from wily_magpie.core.templates.template import Template
from wily_magpie.qt.actions import add_choice
from wily_magpie.qt.station_context import StationContext

MOST_KEPT = 24
LONGEST = 70


class SampleCommands:
    """Over one template.

    Args:
        template: gives the one that is shown.
    """

    def __init__(self, desk: StationContext, template: Callable[[], Template | None]) -> None:
        self.desk, self.template = desk, template

    def add_typed(self, text: str) -> bool:
        """Adds the pages at the addresses in a text, parted by blanks or lines; False where one is none, which is said."""
        try:
            addresses = [from_typed(word) for word in text.split()]
        except MagpieError as error:
            self.desk.complain(error)
            return False
        self.add_pages(addresses, ())
        return True

    def take_dropped(self, dropped: Dropped) -> None:
        """Adds dropped or pasted links and files, and addresses in a text."""
        if not dropped.addresses and not dropped.files:
            self.add_typed(dropped.text)
            return
        self.add_pages([address for address, _ in dropped.addresses], [str(path) for path in dropped.files])

    def add_pages(self, addresses: Sequence[str], files: Sequence[str]) -> None:
        """Gets pages and adds them as samples, in a job."""
        template = self.template()
        if template is None:
            return
        given = [*addresses, *files]

        def work(counter: Counter, job: Job) -> int:
            run = CaptureRun(counter, is_cancelled=job.is_cancelled)
            for done, one in enumerate(given):
                job.tick(done, len(given))
                page = run.page(one)
                counter.do(AddSample(template.name, page, run.reading(page)))
            return len(given)

        if given:
            self.desk.bridge.start(f"Sample pages of “{template.name}”", work)

    def fill_menu(self, menu: QMenu) -> None:
        """Lists the entries whose pages were kept."""
        menu.clear()
        self.desk.bridge.ask(lambda reader: reader.templates.kept_pages(), lambda pages: self.show_kept(menu, pages))

    def show_kept(self, menu: QMenu, pages: list[tuple[str, int, str]]) -> None:
        """The entries whose pages were kept have come."""
        menu.clear()
        for place, entry_id, title in pages[:MOST_KEPT]:
            add = partial(self.add_kept, place, entry_id)
            add_choice(menu, title if len(title) < LONGEST else f"{title[: LONGEST - 1]}…", add)
        said = "" if pages else "No kept pages yet"
        if len(pages) > MOST_KEPT:
            said = f"These are the latest {MOST_KEPT}; others come by their address, at the left"
        if said and (action := menu.addAction(said)) is not None:
            action.setEnabled(False)

    def add_kept(self, place: str, entry_id: int) -> None:
        """Adds the page of an entry."""
        template = self.template()
        if template is not None:
            self.desk.bridge.do(AddSampleOf(template.name, place, entry_id))

    def remove(self, sample: Sample | None) -> None:
        """Takes a sample out."""
        if sample is not None:
            self.desk.bridge.do(RemoveSample(sample.id))
