"""The words of the shell, as data: what `--help` tells and the parser is made of, with nothing else loaded."""

from wily_magpie.core.catalogue import Act, Argument, Where

LIBRARY = Argument(("--library",), "the library's folder; made if it is not there", "path", "DIR")
PAGES = Argument(("pages",), metavar="FILE|ADDRESS", count="+")
SETTINGS = Argument(("values",), metavar="FIELD=VALUE", count="*")
IN = Argument(("--in",), "a place, by its name or key; of a notes folder also its path", metavar="PLACE", to="place")
NAME, NAMES = Argument(("name",), metavar="NAME"), Argument(("names",), metavar="NAME", count="*")
ADDRESS = Argument(("--address",), "where a saved file came from", metavar="URL", default="")
LIVE = Argument(("--live",), "open addresses in the web engine, without a window, so that their scripts run", "flag")
REPLIES = Argument(("--replies",), "with all replies of a discussion", "flag")


def word(name: str, title: str, *arguments: Argument, only_looks: bool = False, parts: tuple[Act, ...] = ()) -> Act:
    """A word of the shell over a library."""
    return Act(name, title, where=Where.SHELL, only_looks=only_looks, arguments=arguments, parts=parts)


TEMPLATE_PARTS = (
    word("list", "print the templates in the order in which they are tried, one object each", only_looks=True),
    word("show", "print one as JSON", NAME, only_looks=True),
    word(
        "try", "print what a page would give, one object a field; nothing is kept",
        Argument(("page",), metavar="ADDRESS|FILE"),
        Argument(("--template",), "instead of the one whose match rules take the page", metavar="NAME"),
        only_looks=True,
    ),
    word(
        "sample", "keep a page as a sample of a template, and accept what it gives now",
        NAME, Argument(("page",), metavar="ADDRESS|FILE"),
    ),
    word("test", "hold templates against what was accepted; ends with 1 where anything differs", NAMES, only_looks=True),
    word(
        "export", "print templates as JSON; without a name all of them: the capture settings as a whole",
        NAMES, Argument(("--samples",), "with their sample pages and what was accepted", "flag"), only_looks=True,
    ),
    word(
        "import", "show what a file of templates would bring in; with --yes, bring it in",
        Argument(("file",), metavar="FILE|-"), Argument(("--yes",), "bring it in", "flag"),
    ),
)  # fmt: skip

LIST_PARTS = (
    word(
        "update", "fill the lists of notes, one JSON object a note; with --check, only say which would change, and end with 1 then",
        Argument(("--check",), "write nothing; end with 1 where something would change", "flag"),
        Argument(("--in",), "the notes of a notes folder or of a folder in one, by its path; of a collection, the lists over it",
                 metavar="PLACE|FOLDER", to="place"),
        Argument(("--edits",), "what becomes of what somebody wrote into a list: it stays and the list too; it goes below the list;"
                 " it goes", choices=("leave", "beside", "over"), default="leave"),
    ),
)  # fmt: skip

COMPANION_PARTS = (
    word(
        "install", "write what browsers need to reach the program, and say what is left to you",
        Argument(("--browser",), "instead of all that are found; may be given several times", metavar="NAME", count="append",
                 default=()),
        Argument(("--library",), "where pages go while no window is open; else the usual one", "path", "DIR"),
        Argument(("--profile",), "the folder of settings of a browser of Chromium's family, where it is not the usual one",
                 "path", "DIR"),
    ),
    word("status", "print how it stands, one object a browser", only_looks=True),
    word("try", "start the host as a browser would, and print which library it answers for", only_looks=True),
    word("remove", "take away all that was written"),
    word("serve", "be the host of a browser, on its pipes; browsers start it by themselves",
         Argument(("--library",), "where pages go", "path", "DIR")),
)  # fmt: skip

WITHOUT_LIBRARY = ("demo", "demo-web", "extract", "markdown", "companion")
"""Words that open no library, or one of their own."""

WORDS = (
    word(
        "demo", "open the demo library with the stand-in web",
        Argument(("--reset",), "make the demo library anew first", "flag"),
        Argument(("--guard",), "say where the window waits for a disk, instead of waiting", "flag"),
        Argument(("--library",), "another folder for the demo library", "path", "DIR"),
    ),
    word(
        "demo-web", "only run the stand-in web; prints its address",
        Argument(("--port",), "instead of a free one", "number", "N", default=0),
        Argument(("--list",), "print the addresses of all its pages, one a line, and end", "flag"),
    ),
    word(
        "extract", "print what pages say, one JSON object a page", PAGES,
        Argument(("--findings",), "one object a finding instead: path, name, value, origin, element", "flag"),
        Argument(("--format",), "markdown: the text alone", choices=("json", "markdown"), default="json"),
        Argument(("--blocks",), "all blocks too, with those left out and the reason", "flag"), REPLIES,
        Argument(("--addresses",), "lines of: file path, TAB, the address it came from", "path", "TSV"), ADDRESS, LIVE,
    ),
    word(
        "markdown", "turn HTML files into Markdown, one JSON object a file",
        Argument(("files",), metavar="FILE", count="+"),
        Argument(("--address",), "what relative links are held against", metavar="URL", default=""),
    ),
    word(
        "capture", "keep pages, one JSON object a capture",
        Argument(("addresses",), metavar="ADDRESS|FILE", count="*"), LIBRARY,
        Argument(("--from",), "a list of addresses: a text, CSV, bookmarks, OPML, .url or .desktop file; - reads standard input",
                 metavar="FILE|-", to="source"),
        Argument(("--template",), "instead of the one whose match rules take the page", metavar="NAME", default=""),
        Argument(("--to",), "instead of the place that the template names", metavar="PLACE", default=""),
        Argument(("--set",), "may be given several times", metavar="FIELD=VALUE", count="append", default=()),
        Argument(("--mark",), "mark a passage; may be given several times", metavar="TEXT", count="append", default=()),
        Argument(("--lenient",), "leave out values of fields that a place does not have, and say so", "flag"), REPLIES, ADDRESS, LIVE,
        Argument(("--update",), "write a page that is already kept into its entry again", "flag"),
    ),
    word(
        "find", "print the entries that answer a question",
        Argument(("query",), "in CQL; without one: all of the place", metavar="QUERY", count="?", default=""), LIBRARY, IN,
        Argument(("--view",), "what a kept view asks; a QUERY narrows it further", metavar="NAME"),
        Argument(("--format",), choices=("table", "json", "csv", "markdown", "citations"), default="table"),
        only_looks=True,
    ),
    word(
        "marks", "print the marks of entries; without a question, a view or a place, of the whole library",
        Argument(("query",), "in CQL", metavar="QUERY", count="?", default=""), LIBRARY, IN,
        Argument(("--view",), "of the entries of a view", metavar="NAME"),
        Argument(("--format",), "annotations: of the W3C's data model", choices=("markdown", "jsonl", "annotations"),
                 default="markdown"),
        only_looks=True,
    ),
    word(
        "places", "print the places with their fields, one JSON object each", LIBRARY,
        Argument(("--use",), "a notes folder that was set up elsewhere is to be used here", metavar="PLACE"),
        Argument(("--takes",), "what a field of the place --in is taken for when a page is kept: link=address, or =nothing",
                 metavar="FIELD=WHAT", count="append", default=()),
        Argument(("--in",), "that place; else the first", metavar="PLACE", to="place"),
        only_looks=True,
    ),
    word(
        "add", "add an entry or note", SETTINGS, LIBRARY,
        Argument(("--to",), "a place, or the path of a notes folder; else the first", metavar="PLACE", to="place"),
    ),
    word(
        "set", "set fields of an entry or note",
        Argument(("entry",), "its number, its title, or the path of a note", metavar="ENTRY"),
        Argument(("values",), "FIELD= blanks it; body=TEXT sets the text", metavar="FIELD=VALUE", count="+"), LIBRARY, IN,
    ),
    word(
        "write", "write into a note or a journal page",
        Argument(("text",), "- reads it from standard input", metavar="TEXT|-"), LIBRARY,
        Argument(("--note",), "from the notes folder on", metavar="PATH", one_of="target"),
        Argument(
            ("--journal",), "the journal page of a day; else today's", metavar="DATE", count="?", blank="", one_of="target"
        ),
        Argument(("--in",), "a notes folder, or its path; else the first one", metavar="PLACE", to="place"),
        Argument(("--heading",), "below this heading", metavar="H", default=""),
        Argument(("--at",), "of the note, or of what stands below the heading", choices=("top", "end"), default="end"),
        Argument(("--make-heading",), "make it where it is missing", "number", "LEVEL", choices=(1, 2, 3, 4, 5, 6)),
        Argument(("--existing",), "fail where the note is not there, instead of making it", "flag"),
    ),
    word(
        "templates", "list, try, test, export and import templates", LIBRARY, only_looks=True, parts=TEMPLATE_PARTS
    ),
    word("lists", "keep the living lists of notes filled: update", LIBRARY, parts=LIST_PARTS),
    word("companion", "connect your own browsers: install, status, try, remove", only_looks=True, parts=COMPANION_PARTS),
    word("steps", "print what was done, the latest first, one JSON object a step", LIBRARY, only_looks=True),
    word("check", "look for faults in the library, one JSON object each", LIBRARY, only_looks=True),
    word("backup", "copy the library into a folder, and check the copy", Argument(("to",), "", "path", "DIR"), LIBRARY),
    word(
        "restore", "show what a copy of the library holds; with --yes, bring it back and move aside what is there",
        Argument(("copy",), "the folder that was copied to", "path", "DIR"), LIBRARY,
        Argument(("--yes",), "bring it back", "flag"),
    ),
)  # fmt: skip
"""All words, in the order in which they are told."""
MODULES = {
    "add": "places",
    "set": "places",
    "write": "places",
    "steps": "places",
    "check": "places",
    "backup": "places",
}
"""The module of a word, where it has another name."""
