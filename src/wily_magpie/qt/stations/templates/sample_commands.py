"""How sample pages come to a template and go: addresses, files, pages of the library."""

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.pages.address import from_typed
from wily_magpie.core.session.dropping import Dropped
from wily_magpie.core.session.jobs import Job

if TYPE_CHECKING:
    from wily_magpie.qt.stations.templates.bench import Bench

MOST_KEPT = 60


class SampleCommands:
    """The part of the bench for it."""

    def __init__(self, bench: "Bench") -> None:
        self.bench = bench

    def add_address(self) -> None:
        """Adds the page at the address that was typed."""
        if self.add_typed(self.bench.address.text()):
            self.bench.address.clear()

    def add_typed(self, text: str) -> bool:
        """Adds the pages at the addresses in a text, parted by blanks or lines; False where one is none, which is said."""
        try:
            addresses = [from_typed(word) for word in text.split()]
        except MagpieError as error:
            self.bench.desk.complain(error)
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
        template, session = self.bench.template, self.bench.desk.session
        if template is None:
            return
        given = [*addresses, *files]

        def work(job: Job) -> int:
            for done, one in enumerate(given):
                job.step(done, len(given))
                page = session.templating.page_from(one, job)
                session.templating.add_sample(template.name, page)
            return len(given)

        if given:
            self.bench.desk.bridge.start(f"Sample pages of “{template.name}”", work, None, self.bench.desk.complain)

    def fill_menu(self) -> None:
        """Lists the entries whose pages were kept."""
        self.bench.menu.clear()
        pages = self.bench.desk.session.templating.kept_pages(MOST_KEPT)
        for place, entry_id, title in pages:
            action = self.bench.menu.addAction((title if len(title) < 70 else f"{title[:69]}…").replace("&", "&&"))
            if action is not None:
                action.triggered.connect(partial(self.add_kept, place, entry_id))
        if not pages:
            action = self.bench.menu.addAction("No kept pages yet")
            if action is not None:
                action.setEnabled(False)

    def add_kept(self, place: str, entry_id: int) -> None:
        """Adds the page of an entry."""
        if self.bench.template is not None:
            try:
                self.bench.desk.session.templating.add_sample_of(self.bench.template.name, place, entry_id)
            except MagpieError as error:
                self.bench.desk.complain(error)

    def remove_sample(self) -> None:
        """Takes the current sample out."""
        sample = self.bench.current_sample()
        if sample is not None:
            self.bench.desk.session.templating.remove_sample(sample.id)
