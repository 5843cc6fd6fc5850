"""Everything that can be done, once: its name, its keys, where it holds, what it wants to be told.

Menus, context menus, the finder, tool tips, the list of keys and the words of the shell are made from it.
"""

from dataclasses import field
from enum import StrEnum

from wily_magpie.core.dataclass import dataclass


class Where(StrEnum):
    """Where a command can be used, as it stands above its group in the list of keys."""

    ANYWHERE = "Anywhere"
    CAPTURE = "Capture"
    READ = "Read"
    SOURCES = "Sources"
    TABLE = "In the table of Sources"
    PLACES = "In the list of places"
    ENTRY = "In an entry that is open whole"
    REVIEW = "Review"
    TEMPLATES = "Templates"
    BENCH = "On the bench"
    TRAY = "In the tray"
    SHELL = "In a shell"


@dataclass(frozen=True)
class Argument:
    """What a command of the shell is told.

    Attributes:
        names: flags such as "--in", or the one name of a positional argument.
        about: a sentence; "" where the name says it.
        kind: of its value.
        count: "" for one, "?" for at most one, "*" for any number, "+" for at least one, "append" for a flag given several times.
        default: what holds where it is not given; blank: what stands for a flag without a value.
        to: under which name the value is found; "" for the flag's own.
        one_of: arguments of the same word exclude one another, and one of them is needed.
    """

    names: tuple[str, ...]
    about: str = ""
    kind: str = "text"
    metavar: str = ""
    choices: tuple[str | int, ...] = ()
    count: str = ""
    default: object = None
    blank: object = None
    to: str = ""
    one_of: str = ""


@dataclass(frozen=True)
class Act:
    """A command.

    Attributes:
        id: stable name; in the shell, the word itself.
        title: what people read; about: a sentence more, for a tool tip.
        keys: the first is shown.
        group: of the menu (`MENU`); "": it has no place in the one menu.
        only_looks: whether it changes nothing, and so also answers of a library that may not be written to.
        parts: of a word of the shell, the words that follow it.
    """

    id: str
    title: str
    keys: tuple[str, ...] = ()
    where: Where = Where.ANYWHERE
    group: str = ""
    about: str = ""
    only_looks: bool = False
    arguments: tuple[Argument, ...] = ()
    parts: "tuple[Act, ...]" = field(default=())

    @property
    def tip(self) -> str:
        """What a button that does it tells."""
        said = self.about or self.title
        return f"{said} ({self.keys[0]})" if self.keys else said


def find_act(acts: tuple[Act, ...], name: str) -> Act:
    """The command of an id; KeyError where there is none, which is a fault of ours."""
    found = next((act for act in acts if act.id == name), None)
    if found is None:
        raise KeyError(name)
    return found


def act(name: str, title: str, *keys: str, where: Where = Where.ANYWHERE, group: str = "", about: str = "") -> Act:
    """A command of the window."""
    return Act(name, title, keys, where, group, about)


MENU = {
    "edit": "", "capture": "Capture", "read": "Read", "marks": "Marks", "sources": "Sources", "notes": "Notes",
    "templates": "Templates", "go": "Go to", "library": "Library", "end": "",
}  # fmt: skip
"""The groups of the menu, in its order, and what each is called; one without a name stands in the menu itself."""
CAPTURE, READ, SOURCES, TABLE = Where.CAPTURE, Where.READ, Where.SOURCES, Where.TABLE
PLACES, TEMPLATES = Where.PLACES, Where.TEMPLATES
WINDOW_ACTS: tuple[Act, ...] = (
    act("undo", "Undo", "Ctrl+Z", group="edit"),
    act("redo", "Redo", "Ctrl+Shift+Z", "Ctrl+Y", group="edit"),
    act("steps", "Steps: what was done, and back to a point", "Ctrl+Shift+H", group="edit"),
    act("keep", "Keep the slip", "Ctrl+Return", "Ctrl+Enter", where=CAPTURE, group="capture"),
    act("keep-open", "Keep the slip and open it", "Ctrl+Shift+Return", where=CAPTURE, group="capture"),
    act("keep-second", "Keep a second one", where=CAPTURE, group="capture"),
    act("later", "Keep only the address", where=CAPTURE, group="capture"),
    act(
        "drop-habit", "Pages like this no more where the last one went", "Ctrl+Shift+K", where=CAPTURE, group="capture",
        about="They go where their template says",
    ),
    act(
        "take-clipboard", "Take what is in the clipboard", "Ctrl+Shift+V", group="capture",
        about="An address, several, or a piece of text, from every station",
    ),
    act("capture-list", "Capture a list …", group="capture", about="Addresses in a text, a table, bookmarks, OPML; e-mails"),
    act(
        "read-again", "Read the page again", "F5", where=CAPTURE, group="capture",
        about="Fill the slip anew from the page as it stands; what you typed stays",
    ),
    act(
        "take-proposals", "Take what is proposed", "Ctrl+Space", where=CAPTURE, group="capture",
        about="Of the field that the keyboard is in, else of all: from what was filed before",
    ),
    act("empty-filing", "Forget what filing has learned", group="library",
        about="Proposals for fields begin anew with what is kept from now on"),
    act("mark", "Mark what is chosen in the page", "Ctrl+M", where=CAPTURE, group="marks"),
    act("mark-as", "Mark as one of the kinds", where=CAPTURE),
    act(
        "mark-mode", "Marking mode", "F8", where=CAPTURE, group="marks",
        about="A click marks a sentence or a picture; arrows go from block to block, the keys 1 to 9 mark",
    ),
    act("save-marks", "Save the marks as a file …", where=SOURCES, group="marks"),
    act("mark-kinds", "Kinds of mark …", group="marks"),
    act("update-known", "Update the kept entry from the page …", where=CAPTURE, group="capture"),
    act("address", "Go to the address line", "Ctrl+L", group="go"),
    act("station-1", "Go to Capture", "Ctrl+1", group="go"),
    act("station-2", "Go to Read", "Ctrl+2", group="go"),
    act("station-3", "Go to Sources", "Ctrl+3", group="go"),
    act("station-4", "Go to Review", "Ctrl+4", group="go"),
    act("station-5", "Go to Templates", "Ctrl+5", group="go"),
    act("full-screen", "Full screen", "F11", group="end"),
    act("previous", "Previous entry", "Alt+Left", where=READ, group="read"),
    act("next", "Next entry", "Alt+Right", where=READ, group="read"),
    act("part-before", "Part before", "Alt+PgUp", where=READ, group="read", about="Of a long text"),
    act("next-part", "Next part", "Alt+PgDown", where=READ, group="read", about="Of a long text; Space at the end does the same"),
    act("find-in-text", "Find in the text", "Ctrl+F", where=READ, group="read"),
    act("next-hit", "Next hit", "F3", where=READ, group="read"),
    act("previous-hit", "Hit before", "Shift+F3", where=READ, group="read"),
    act("done", "Done: set its status, and on to the next", "Ctrl+D", where=READ, group="read",
        about="The status that it gets is set in Settings"),
    act("not-now", "Not now: to the end of the queue", "Alt+End", where=READ, group="read"),
    act("leave-aside", "Leave aside, and on to the next", "Ctrl+Shift+D", where=READ, group="read",
        about="The status that it gets is set in Settings"),
    act("fold-queue", "Fold the queue away", "F9", where=READ, group="read"),
    act("larger-letters", "Larger letters", "Ctrl++", "Ctrl+=", where=READ, group="read"),
    act("smaller-letters", "Smaller letters", "Ctrl+-", where=READ, group="read"),
    act("speak", "Read aloud, or stop", "Ctrl+Shift+R", where=READ, group="read",
        about="From what is chosen, or what is seen first; where the system can speak"),
    act("text-cursor", "Text cursor", "F7", where=READ, group="read",
        about="Choose words with Shift and the arrows; the keys 1 to 9 mark them, Return opens the mark at the cursor"),
    act("fields-beside", "Fields of the entry, beside its text", "Ctrl+E", where=READ, group="read",
        about="Opened, the tags have the keyboard"),
    act("marks-list", "Marks of the entry, beside its text", "F6", where=READ, group="marks"),
    act("copy-quotation", "Copy as quotation", "Ctrl+Shift+C", where=READ, group="marks",
        about="What is chosen, or the open mark, with its source"),
    act("marks-to-journal", "Write the mark into today's page", "Ctrl+Shift+J", where=READ, group="marks",
        about="Of the journal of a notes folder, with the quotation and its source"),
    act("copy-plain", "Copy as plain text with the source", where=READ, group="read"),
    act("summary-beside", "Your own summary, beside the text", "Ctrl+Shift+E", where=READ, group="read"),
    act("marks-desk", "All marks: of what is shown, of a place, of the library", "Shift+F6", group="marks",
        about="Looked through, quoted, gathered for a chapter and written into it"),
    act("add-to-chapter", "Add the mark to a chapter", "Ctrl+Return", "Ctrl+Enter", where=READ, group="marks",
        about="The chosen marks, or the open one, to what is gathered for a chapter"),
    act("note-from-marks", "New note from the mark", "Ctrl+N", where=READ, group="marks",
        about="With the quotation and its source; of the chosen marks, or the open one"),
    act("to-found", "Back to what was found", "Alt+Home", where=READ, group="read"),
    act("new-entry", "New entry by hand", "Ctrl+N", where=SOURCES, group="sources"),
    act("keep-view", "Keep the question as a view", "Ctrl+S", where=SOURCES, group="sources"),
    act("rename-view", "Rename the view", "F2", where=PLACES, group="sources"),
    act("copy-view", "Copy the view", "Ctrl+Shift+D", where=PLACES, group="sources"),
    act("view-up", "Put the view further up", "Ctrl+Shift+Up", where=PLACES),
    act("view-down", "Put the view further down", "Ctrl+Shift+Down", where=PLACES),
    act("delete-view", "Delete the view", "Delete", where=PLACES, group="sources"),
    act("question-text", "Show the question as text", "Ctrl+E", where=SOURCES, group="sources"),
    act("add-condition", "Add a condition", "Ctrl+Shift+A", where=SOURCES, group="sources"),
    act(
        "open-whole", "Open the entry whole", "F4", where=SOURCES, group="sources",
        about="All fields, the text beside its preview, what refers here, what happened",
    ),
    act("trash", "Open the trash", where=SOURCES, group="sources"),
    act("setup", "Set up this place", "F7", where=SOURCES, group="sources"),
    act("journal", "Today's page of the journal", "Ctrl+J", group="notes",
        about="Made as the notes folder has it where there is none yet; with a calendar, and a line to write into it"),
    act("write-journal", "Write into today's page …", group="notes"),
    act("list-into-note", "Put this view into a note …", "Ctrl+Shift+L", where=SOURCES, group="notes",
        about="As a living list: ordinary Markdown that is kept filled"),
    act("new-home", "New home page …", group="notes", about="A note with living lists over what there is"),
    act("mirror", "Keep a collection in step with notes …", group="notes",
        about="Each entry a note of the folder; what is changed on one side goes to the other. A look first"),
    act("move-note", "Rename or move the note", "Ctrl+Shift+M", where=SOURCES, group="notes",
        about="Links to it follow; several chosen notes go to a folder"),
    act("new-place", "New place", "Ctrl+Shift+N", where=SOURCES, group="sources"),
    act("fold", "Fold the chosen entry away", "F9", where=SOURCES, group="sources"),
    act("table-into", "Take a table from a file into this place …", where=SOURCES, group="sources"),
    act("add-folder", "Add a notes folder", group="notes"),
    act("read-entry", "Read", "Space", where=TABLE),
    act("set-field", "Set a field of the chosen entries", where=TABLE),
    act("fill-down", "Fill down", "Ctrl+D", where=TABLE),
    act("blank", "Blank the cells", "Del", where=TABLE),
    act("copy-cells", "Copy the cells", "Ctrl+C", where=TABLE),
    act("copy-markdown", "Copy as a Markdown table", where=TABLE),
    act("copy-citations", "Copy as citation lines", where=TABLE),
    act("paste-cells", "Paste cells", "Ctrl+V", where=TABLE),
    act("delete-entries", "Delete the chosen entries", "Ctrl+Del", where=TABLE),
    act("fit-column", "Fit the column", where=TABLE),
    act("name-column", "Name the column", where=TABLE),
    act("sum-column", "What stands at the column's foot", where=TABLE),
    act("hide-column", "Hide the column", where=TABLE),
    act("pin-columns", "Pin up to this column", where=TABLE),
    act("unpin-columns", "Unpin the columns", where=TABLE),
    act("show-column", "Show a hidden column", where=TABLE),
    act("new-template", "New template", "Ctrl+Shift+T", where=TEMPLATES, group="templates"),
    act("propose", "Propose rules for the template", where=TEMPLATES, group="templates"),
    act("copy-template", "Copy the template", where=TEMPLATES, group="templates"),
    act("delete-template", "Delete the template", where=TEMPLATES, group="templates"),
    act("back-to-starter", "Back to the template's starter", where=TEMPLATES, group="templates"),
    act("template-fields", "Fields of all templates", where=TEMPLATES, group="templates"),
    act("bring-in", "Bring templates in", where=TEMPLATES, group="templates"),
    act("bring-one-out", "Bring this template out", where=TEMPLATES, group="templates"),
    act("bring-out", "Bring all capture settings out", where=TEMPLATES, group="templates"),
    act("copy-library", "Copy the library", group="library", about="Copy all that is kept into a folder, and check the copy"),
    act("restore", "Bring a copy of the library back", group="library"),
    act("settings", "Settings", "Ctrl+,", group="end"),
    act("keys", "List of keys", "F1", group="end"),
    act("find", "Find a command", "Ctrl+K", group="end"),
    act("quit", "Quit", "Ctrl+Q", group="end"),
)  # fmt: skip
"""The commands of the window, in the order that those of a group have in the menu."""
