"""Starters: the shapes that a new collection can begin with."""

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import FieldPlan, Settings
from wily_magpie.core.fields import Option
from wily_magpie.core.places.api import PlaceSettings

STATUSES = (
    Option("to read", "brass"),
    Option("to watch", "brass"),
    Option("reading", "petrol"),
    Option("read", "moss"),
    Option("quoted", "slate"),
    Option("left aside", "rule"),
)
SOURCE_KINDS = tuple(Option(kind) for kind in ("article", "video", "paper", "product", "object"))
SOURCE_FIELDS = (
    FieldPlan("status", "Status", "choice", STATUSES),
    FieldPlan("kind", "Kind", "choice", SOURCE_KINDS),
    FieldPlan("authors", "Authors", "people"),
    FieldPlan("published", "Published", "date"),
    FieldPlan("site", "Site", "text"),
    FieldPlan("tags", "Tags", "choices"),
    FieldPlan("address", "Address", "address"),
    FieldPlan("files", "Files", "files"),
    FieldPlan("description", "Description", "long text"),
    FieldPlan("summary", "Summary", "long text"),
    FieldPlan("language", "Language", "text"),
    FieldPlan("picture", "Lead picture", "address"),
    FieldPlan("duration", "Duration", "duration"),
    FieldPlan("price", "Price", "number"),
    FieldPlan("currency", "Currency", "text"),
    FieldPlan("captured", "Captured", "date"),
)
NO_DECIMALS = Settings(precision=0)


UNSAID = PlaceSettings()


@dataclass(frozen=True)
class Starter:
    """A collection to begin with: its fields, its settings, its views as (name, question)."""

    name: str
    about: str
    fields: tuple[FieldPlan, ...]
    settings: PlaceSettings = UNSAID
    views: tuple[tuple[str, str], ...] = ()


STARTERS = (
    Starter(
        "Sources for a book",
        "All that was read, seen and heard for a longer text.",
        SOURCE_FIELDS,
        PlaceSettings(
            "What was read, seen and heard.", "",
            ("if kind is not e-mail and kind is not interview: address or files must be there",),
        ),
        (
            ("To read", 'status = "to read" sortBy captured/descending'),
            ("Last two weeks", "captured within P14D sortBy captured/descending"),
            ("Without a summary", 'summary = "" sortBy captured/descending'),
        ),
    ),
    Starter(
        "Papers",
        "Articles of journals, with what a bibliography wants of them.",
        (
            FieldPlan("status", "Status", "choice", STATUSES),
            FieldPlan("authors", "Authors", "people"),
            FieldPlan("published", "Published", "date"),
            FieldPlan("journal", "Journal", "text"),
            FieldPlan("volume", "Volume", "text"),
            FieldPlan("issue", "Issue", "text"),
            FieldPlan("pages", "Pages", "text"),
            FieldPlan("doi", "DOI", "text"),
            FieldPlan("address", "Address", "address"),
            FieldPlan("files", "Files", "files"),
            FieldPlan("abstract", "Abstract", "long text"),
            FieldPlan("captured", "Captured", "date"),
        ),
        PlaceSettings("", "", ("authors and published must be there", "doi or address or files must be there")),
        (("To read", 'status = "to read" sortBy published/descending'),),
    ),
    Starter(
        "Objects",
        "Things in museums, archives and landscapes.",
        (
            FieldPlan("kind", "Kind", "choice"),
            FieldPlan("made", "Made", "date"),
            FieldPlan("makers", "Makers", "people"),
            FieldPlan("material", "RuleContext", "choices"),
            FieldPlan("size", "Size", "amount"),
            FieldPlan("holder", "Where it is kept", "text"),
            FieldPlan("number", "Its number there", "text"),
            FieldPlan("seen", "Seen by me", "yes/no"),
            FieldPlan("address", "Address", "address"),
            FieldPlan("files", "Pictures and files", "files"),
        ),
        PlaceSettings("", "", ("if seen is yes: files",)),
        (("By holder", "sortBy holder/group title"),),
    ),
    Starter(
        "Products to compare",
        "Things to buy, side by side.",
        (
            FieldPlan("verdict", "Verdict", "choice", (Option("likely", "moss"), Option("perhaps", "brass"), Option("no", "rule"))),
            FieldPlan("maker", "Maker", "text"),
            FieldPlan("price", "Price", "amount", settings=Settings(precision=2)),
            FieldPlan("weight", "Weight", "amount"),
            FieldPlan("rating", "Rating", "number", settings=Settings(precision=1)),
            FieldPlan("address", "Address", "address"),
            FieldPlan("picture", "Picture", "address"),
            FieldPlan("remarks", "Remarks", "long text"),
            FieldPlan("captured", "Seen on", "date"),
        ),
        PlaceSettings("", "", ("price and address must be there",)),
        (("Cheapest first", "sortBy price"),),
    ),
    Starter(
        "People",
        "Who appears, who was asked, who is to be thanked.",
        (
            FieldPlan("role", "Role", "choice"),
            FieldPlan("born", "Born", "date"),
            FieldPlan("died", "Died", "date"),
            FieldPlan("living", "Living", "yes/no"),
            FieldPlan("contact", "How to reach", "text"),
            FieldPlan("address", "Address", "address"),
            FieldPlan("remarks", "Remarks", "long text"),
        ),
    ),
    Starter(
        "Places",
        "Towns, houses, landscapes.",
        (
            FieldPlan("kind", "Kind", "choice"),
            FieldPlan("country", "Country", "choice"),
            FieldPlan("position", "Position", "text", settings=Settings(description="Latitude and longitude.")),
            FieldPlan("visited", "Visited", "date"),
            FieldPlan("address", "Address", "address"),
            FieldPlan("files", "Pictures and files", "files"),
            FieldPlan("remarks", "Remarks", "long text"),
        ),
    ),
    Starter(
        "Chapters of a text",
        "The parts of what is being written, and how far each is.",
        (
            FieldPlan("number", "Number", "number", settings=NO_DECIMALS),
            FieldPlan(
                "state", "State", "choice",
                (Option("planned", "rule"), Option("drafting", "brass"), Option("drafted", "petrol"), Option("revised", "moss")),
            ),
            FieldPlan("words", "Words", "number", settings=NO_DECIMALS),
            FieldPlan("due", "Due", "date"),
            FieldPlan("question", "Its question", "long text"),
        ),
        PlaceSettings("", "", ()),
        (("In order", "sortBy number"),),
    ),
    Starter("Empty", "A title, and whatever fields you add.", ()),
)  # fmt: skip


def starter(name: str) -> Starter | None:
    """The starter of that name."""
    return next((one for one in STARTERS if one.name.casefold() == name.casefold()), None)
