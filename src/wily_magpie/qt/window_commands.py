"""What the commands of the window do; what a station has is asked of it when the command is used, which may build it."""

from collections.abc import Callable
from functools import partial

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.settings.known import ASIDE_STATUS, DONE_STATUS, READING_SIZE
from wily_magpie.qt.actions import Commands
from wily_magpie.qt.bridge import Bridge
from wily_magpie.qt.station_context import Buttons
from wily_magpie.qt.station_stack import CAPTURE, READ, SOURCES, TEMPLATES, StationStack
from wily_magpie.qt.undoing import Undoing


@dataclass(frozen=True)
class WindowActs:
    """What the window itself does."""

    undoing: Undoing
    go: Callable[[int], object]
    focus_address: Callable[[], object]
    open_steps: Callable[[], object]
    open_settings: Callable[[], object]
    open_keys: Callable[[], object]
    copy_library: Callable[[], object]
    open_restore: Callable[[], object]
    open_finder: Callable[[], object]
    quit: Callable[[], object]
    take_clipboard: Callable[[], object]
    ask_list: Callable[[], object]
    say: Callable[[str, Buttons], object]
    turn_full: Callable[[], object]
    show_marks: Callable[[], object]


def bind_all(commands: Commands, bridge: Bridge, stack: StationStack, acts: WindowActs) -> None:
    """Binds them all."""
    bind_window(commands, bridge, acts)
    bind_capture(commands, stack)
    bind_read(commands, stack)
    bind_sources(commands, bridge, stack, acts.go)
    bind_templates(commands, bridge, stack)


def bind_window(commands: Commands, bridge: Bridge, acts: WindowActs) -> None:
    """Those that can be had anywhere."""
    commands.bind("undo", acts.undoing.undo, lambda: bridge.overview.undo is not None, acts.undoing.undo_label)
    commands.bind("redo", acts.undoing.redo, lambda: bridge.overview.redo is not None, acts.undoing.redo_label)
    commands.bind("steps", acts.open_steps)
    commands.bind("address", acts.focus_address)
    for number in range(5):
        commands.bind(f"station-{number + 1}", partial(acts.go, number))
    commands.bind("settings", acts.open_settings)
    commands.bind("mark-kinds", acts.open_settings)
    commands.bind("marks-desk", acts.show_marks)
    commands.bind("keys", acts.open_keys)
    commands.bind("copy-library", acts.copy_library)
    commands.bind("restore", acts.open_restore, lambda: not bridge.overview.is_read_only)
    commands.bind("find", acts.open_finder)
    commands.bind("take-clipboard", acts.take_clipboard, lambda: not bridge.overview.is_read_only)
    emptied = "What filing had learned is forgotten; it begins anew with what is kept from now on."

    def empty() -> None:
        from wily_magpie.core.commands.upkeep import EmptyFiling  # not at a start

        bridge.do(EmptyFiling(), lambda _none: acts.say(emptied, ()))

    commands.bind("empty-filing", empty, lambda: not bridge.overview.is_read_only)
    commands.bind("capture-list", acts.ask_list, lambda: not bridge.overview.is_read_only)
    commands.bind("full-screen", acts.turn_full)
    commands.bind("quit", acts.quit)


def bind_capture(commands: Commands, stack: StationStack) -> None:
    """Those of the slip and the live page."""

    def has_slip() -> bool:
        return stack.currentIndex() == CAPTURE and stack.capture.card.foot.keep.isEnabled()

    def may_read_again() -> bool:
        return stack.currentIndex() == CAPTURE and stack.capture.read_again.isEnabled()

    commands.bind("keep", lambda: stack.capture.card.ask_to_keep(), has_slip)
    commands.bind("keep-open", lambda: stack.capture.card.ask_to_keep(is_opened=True), has_slip)
    commands.bind(
        "keep-second",
        lambda: stack.capture.card.foot.keep_second.click(),
        lambda: has_slip() and stack.capture.card.foot.keep_second.isVisible(),
    )
    commands.bind(
        "update-known",
        lambda: stack.capture.card.update_asked.emit(),
        lambda: has_slip() and stack.capture.card.foot.update_entry.isVisible(),
    )
    commands.bind(
        "later",
        lambda: stack.capture.model.keep_address(),
        lambda: stack.is_built(CAPTURE) and bool(stack.capture.address),
    )
    commands.bind(
        "drop-habit",
        lambda: stack.capture.making.drop_habit(),
        lambda: has_slip() and stack.capture.card.head.habit_strip.isVisible(),
    )
    commands.bind("take-proposals", lambda: stack.capture.card.fields.take_proposals(), has_slip)
    commands.bind("read-again", lambda: stack.capture.read_again.click(), may_read_again)
    commands.bind("mark", lambda: stack.capture.marking.mark_chosen(), may_read_again)
    commands.bind("mark-mode", lambda: stack.capture.marking.toggle(), may_read_again)


def bind_read(commands: Commands, stack: StationStack) -> None:
    """Those of the Read station."""
    commands.bind("previous", lambda: stack.read.turn(-1), lambda: stack.currentIndex() == READ)
    commands.bind("next", lambda: stack.read.turn(1), lambda: stack.currentIndex() == READ)

    def is_here() -> bool:
        return stack.currentIndex() == READ

    def has_text() -> bool:
        return is_here() and stack.read.shows_text

    for name, step in (("part-before", -1), ("next-part", 1)):
        commands.bind(name, partial(lambda step: stack.read.text.turn(step), step), has_text)
    commands.bind("find-in-text", lambda: stack.read.find_words(), has_text)
    commands.bind("next-hit", lambda: stack.read.find_next(1), has_text)
    commands.bind("previous-hit", lambda: stack.read.find_next(-1), has_text)

    def may_set() -> bool:
        return has_text() and not stack.read.desk.overview.is_read_only

    commands.bind("done", lambda: stack.read.finish(DONE_STATUS), may_set)
    commands.bind("leave-aside", lambda: stack.read.finish(ASIDE_STATUS), may_set)
    commands.bind("not-now", lambda: stack.read.postpone(), has_text)
    commands.bind("fold-queue", lambda: stack.read.fold_queue(), has_text)
    commands.bind("larger-letters", lambda: stack.read.look_panel.step(READING_SIZE, 1), has_text)
    commands.bind("smaller-letters", lambda: stack.read.look_panel.step(READING_SIZE, -1), has_text)
    commands.bind("text-cursor", lambda: stack.read.marking.toggle_cursor(), has_text)
    commands.bind("speak", lambda: stack.read.text.speak(), lambda: has_text() and bool(stack.read.text.engines))
    commands.bind("marks-list", lambda: stack.read.bar.marks.click(), has_text)
    commands.bind("fields-beside", lambda: stack.read.bar.fields.click(), has_text)
    commands.bind("copy-quotation", lambda: stack.read.copy_quotation(), is_here)

    commands.bind("copy-plain", lambda: stack.read.with_marks(partial(stack.read.using.copy, is_plain=True)), is_here)
    commands.bind("summary-beside", lambda: stack.read.write_summary(), has_text)

    def may_use() -> bool:
        return is_here() and not stack.read.desk.overview.is_read_only

    commands.bind("add-to-chapter", lambda: stack.read.with_marks(stack.read.using.add), may_use)
    commands.bind("marks-to-journal", lambda: stack.read.with_marks(stack.read.using.into_journal), may_use)
    commands.bind("note-from-marks", lambda: stack.read.with_marks(stack.read.using.new_note), may_use)
    commands.bind(
        "to-found",
        lambda: stack.read.desk.show_found(),
        lambda: stack.currentIndex() == READ and stack.read.looked_for is not None,
    )


def bind_sources(commands: Commands, bridge: Bridge, stack: StationStack, go: Callable[[int], object]) -> None:
    """Those of the Sources station."""

    def is_here() -> bool:
        return stack.currentIndex() == SOURCES

    def may_change() -> bool:
        return is_here() and not bridge.overview.is_read_only

    def may_anywhere() -> bool:
        return not bridge.overview.is_read_only

    commands.bind("new-entry", lambda: stack.sources.new_entry(), may_change)
    commands.bind("keep-view", lambda: stack.sources.views.ask_name(), may_change)
    commands.bind(
        "rename-view", lambda: stack.sources.views.ask_rename(), lambda: may_change() and stack.sources.views.has_chosen
    )
    commands.bind(
        "table-into",
        lambda: stack.sources.pages.ask_table(stack.sources.place) if stack.sources.place is not None else None,
        lambda: may_change() and stack.sources.place is not None,
    )
    has_view = lambda: may_change() and stack.sources.views.has_chosen  # noqa: E731
    commands.bind("copy-view", lambda: stack.sources.views.copy(), has_view)
    commands.bind("view-up", lambda: stack.sources.places.shift(-1), has_view)
    commands.bind("view-down", lambda: stack.sources.places.shift(1), has_view)
    commands.bind(
        "delete-view", lambda: stack.sources.views.delete(), lambda: may_change() and stack.sources.views.has_chosen
    )
    commands.bind("question-text", lambda: stack.sources.sentence.toggle_text(), is_here)
    commands.bind("add-condition", lambda: stack.sources.sentence.ask_new(), is_here)
    commands.bind("open-whole", lambda: stack.sources.pages.open_chosen_whole(), is_here)
    commands.bind("trash", lambda: stack.sources.pages.open_trash(), is_here)
    commands.bind("setup", lambda: stack.sources.pages.open_setup(), may_change)
    commands.bind("journal", lambda: open_today(stack, lambda: go(SOURCES)))
    commands.bind("write-journal", lambda: stack.sources.notes.ask_journal(), may_anywhere)
    commands.bind("list-into-note", lambda: stack.sources.notes.put_list(), may_change)
    commands.bind("mirror", lambda: stack.sources.notes.ask_mirror(), may_anywhere)
    commands.bind("new-home", lambda: stack.sources.notes.ask_home(), may_anywhere)
    commands.bind("move-note", lambda: stack.sources.ask_move_chosen(), may_change)
    commands.bind("new-place", lambda: stack.sources.pages.open_new_place(), may_change)
    commands.bind("fold", lambda: stack.sources.fold_panel(), is_here)
    commands.bind("add-folder", lambda: stack.sources.notes.ask_folder(), may_anywhere)


def open_today(stack: StationStack, go: Callable[[], object]) -> None:
    """Opens today's page of the notes folder that is shown, or of the first one."""
    folder = stack.sources.notes.folder_now()
    if folder:
        go()
        stack.sources.pages.open_day(folder)


def bind_templates(commands: Commands, bridge: Bridge, stack: StationStack) -> None:
    """Those of the Templates station."""

    def may_change() -> bool:
        return stack.currentIndex() == TEMPLATES and not bridge.overview.is_read_only

    commands.bind("new-template", lambda: stack.templates.open_new(), may_change)
    commands.bind("propose", lambda: stack.templates.bench.propose(), may_change)
    commands.bind("copy-template", lambda: stack.templates.copy(), may_change)
    commands.bind("delete-template", lambda: stack.templates.delete(), may_change)
    commands.bind("back-to-starter", lambda: stack.templates.back_to_starter(), may_change)
    commands.bind("template-fields", lambda: stack.templates.open_fields(), lambda: stack.currentIndex() == TEMPLATES)
    commands.bind("bring-in", lambda: stack.templates.ask_import(), may_change)
    commands.bind(
        "bring-one-out",
        lambda: stack.templates.ask_export(is_whole=False),
        lambda: stack.currentIndex() == TEMPLATES,
    )
    commands.bind(
        "bring-out", lambda: stack.templates.ask_export(is_whole=True), lambda: stack.currentIndex() == TEMPLATES
    )
