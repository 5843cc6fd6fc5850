"""Proposed mappings: rules for the fields of a place, and fields for a page that has no place yet.

A field is matched with what sample pages offer by its name (its words against those that each finding is known by, else by
likeness) and by its kind (whether the values can be read as such). Nothing of the web is asked.
"""

import re
from collections.abc import Collection, Mapping, Sequence
from contextlib import suppress

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.entries.field import Field, FieldPlan
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import KINDS
from wily_magpie.core.pages.page import LABELLED
from wily_magpie.core.templates.rule_context import RuleContext
from wily_magpie.core.templates.rules import Rule, give

LEAST_SHARE, MOST_SHOWN_FIELDS, LONGEST_SHORT = 0.5, 20, 200
SYNONYMS: Mapping[str, str] = {
    "title": "title headline name heading",
    "subtitle": "subtitle standfirst",
    "authors": "authors author by writer writers creator creators byline people who maker artist",
    "published": "published date year publication when issued dated day created made",
    "modified": "modified updated changed",
    "site": "site source website newspaper host outlet platform where from",
    "publisher": "publisher press house",
    "description": "description abstract about teaser lead blurb",
    "language": "language lang",
    "address": "address url link web webpage page href",
    "image": "image picture photo cover illustration thumbnail",
    "icon": "icon favicon",
    "kind": "kind type category genre form medium",
    "doi": "doi",
    "isbn": "isbn",
    "issn": "issn",
    "arxiv": "arxiv preprint",
    "journal": "journal periodical magazine",
    "volume": "volume vol",
    "issue": "issue number no",
    "pages": "pages pp",
    "price": "price cost amount costs",
    "currency": "currency",
    "availability": "availability stock available",
    "rating": "rating stars score",
    "duration": "duration length runtime minutes time",
    "start": "start begins starts from when",
    "end": "end ends until",
    "place": "place location venue city",
    "license": "license licence rights",
    "section": "section rubric department",
    "keywords": "keywords keyword tags tag subjects subject topics topic",
    "abstract": "abstract",
    "player": "player embed",
    "channel": "channel uploader",
    "file": "file download data",
    "recipient": "recipient to",
    "word_count": "words",
    "reading_minutes": "reading",
}
BY_KIND = {"people": "authors", "date": "published", "address": "address"}
"""What a field of a kind most likely wants, where its name tells nothing."""
SURE, LIKELY, LEAST_LIKENESS, LEAST_CERTAINTY = 1.0, 0.75, 0.62, 0.35
NEVER_FROM_PAGE = ("status", "chapter", "summary", "notes", "comment", "comments", "mine", "done", "quoted")
"""Words of fields that a person fills."""
FOR_FIELDS: tuple[tuple[str, str, str], ...] = (
    ("authors", "Authors", "people"), ("published", "Published", "date"), ("site", "Site", "text"),
    ("kind", "Kind", "choice"), ("journal", "Journal", "text"), ("volume", "Volume", "text"), ("issue", "Issue", "text"),
    ("pages", "Pages", "text"), ("doi", "DOI", "text"), ("isbn", "ISBN", "text"), ("price", "Price", "amount"),
    ("availability", "Availability", "text"), ("rating", "Rating", "number"), ("duration", "Duration", "duration"),
    ("channel", "Channel", "text"), ("start", "Start", "date"), ("end", "End", "date"), ("place", "Place", "text"),
    ("license", "Licence", "text"), ("publisher", "Publisher", "text"), ("keywords", "Tags", "choices"),
    ("description", "Description", "long text"), ("language", "Language", "text"), ("image", "Lead picture", "address"),
    ("recipient", "Recipient", "people"),
)  # fmt: skip
"""(finding, label, kind) of the fields that a new collection may have."""
KEYS = {"keywords": "tags", "image": "picture"}


@dataclass(frozen=True)
class Proposal:
    """A rule for a field.

    Attributes:
        certainty: 0 to 1.
        why: in words.
    """

    rule: Rule
    certainty: float
    why: str


def propose(fields: Sequence[Field], samples: Sequence[RuleContext]) -> dict[str, Proposal]:
    """Rules for the fields of a place, by key; those for which nothing fits are left out."""
    out: dict[str, Proposal] = {}
    for field in fields:
        if field.is_writable:
            found = usual(field) or from_samples(field, samples)
            if found is not None:
                out[field.key] = found
    return out


def words_of(field: Field) -> list[str]:
    """The words of a field's label and key."""
    return list(dict.fromkeys(re.findall(r"[^\W\d_]+", f"{field.label} {field.key}".casefold())))


def usual(field: Field) -> Proposal | None:
    """What goes by the name alone: the moment of capture, pictures, what a person fills."""
    words = words_of(field)
    if field.key == "title":
        return Proposal(Rule("finding", ("title",)), SURE, "the title")
    if field.kind.is_dated and {"captured", "capture", "seen", "retrieved", "accessed", "added"} & set(words):
        return Proposal(Rule("expression", ("now",)), SURE, "the moment of capture")
    if field.kind.holds_files:
        return None
    if set(words) & set(NEVER_FROM_PAGE):
        default = field.options[0].name if field.kind.has_spine and field.options else ""
        return Proposal(Rule("question", (default,) if default else ()), LIKELY, "what a person says")
    return None


def from_samples(field: Field, samples: Sequence[RuleContext]) -> Proposal | None:
    """The name that fits best, with those that mean the same behind it."""
    names = list(dict.fromkeys([*SYNONYMS, *(one.name for context in samples for one in context.offers)]))
    rated = sorted(
        ((likeness(field, name) * (0.4 + 0.6 * fitting(field, name, samples)), name) for name in names), reverse=True
    )
    exact = [one for one in rated if one[1] in words_of(field) and fitting(field, one[1], samples) > 0]
    rated = list(dict.fromkeys([*exact, *rated]))
    best, name = rated[0] if rated else (0.0, "")
    if best < LEAST_CERTAINTY:
        return by_kind(field, samples)
    if field.kind.is_address and name == "image":
        return Proposal(Rule("picture", ("lead",)), round(best, 2), "the lead picture")
    if name == "price" and field.kind.has_unit:
        return Proposal(
            Rule("expression", ("page.price | amount(page.currency)",)), round(best, 2), "price and currency"
        )
    if field.kind.is_number and name in ("price", "rating"):
        return Proposal(Rule("expression", (f"page.{name} | number",)), round(best, 2), f"the number in {name}")
    also = [other for rate, other in rated[1:4] if rate > LIKELY * best and fitting(field, other, samples) > 0]
    return Proposal(Rule("finding", (name, *also)), round(best, 2), f"“{field.label}” reads like {name}")


def by_kind(field: Field, samples: Sequence[RuleContext]) -> Proposal | None:
    """The usual finding of a kind, said with less certainty."""
    name = BY_KIND.get(field.kind.name, "")
    if not name or not fitting(field, name, samples):
        return None
    return Proposal(Rule("finding", (name,)), LEAST_CERTAINTY, f"the usual one for {field.kind.name}")


def likeness(field: Field, name: str) -> float:
    """How well a field's name fits a finding's: 1 for one of its own words, less for likeness of letters."""
    import difflib  # here, since it takes long to load

    words = words_of(field)
    known = SYNONYMS.get(name, "").split()
    if name in words:
        return SURE
    if known and any(word in known for word in words):
        return SURE - 0.05 * min(3, *(known.index(word) for word in words if word in known))
    last = re.findall(r"[^\W\d_]+", re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name.rpartition(".")[2]).casefold())
    ratio = max((difflib.SequenceMatcher(None, " ".join(words[:3]), " ".join(last)).ratio(),
                 *(difflib.SequenceMatcher(None, word, one).ratio() for word in words for one in last)), default=0.0)  # fmt: skip
    return ratio * LIKELY if ratio >= LEAST_LIKENESS else 0.0


def fitting(field: Field, name: str, samples: Sequence[RuleContext]) -> float:
    """The share of the samples that offer a value which can be read as the field's kind; 0.5 where there are none."""
    if not samples:
        return 0.5
    fits = 0
    for context in samples:
        given = give(Rule("finding", (name,)), context, field)
        try:
            fits += field.kind.from_plain(given.value) is not None
        except UnreadableValue:
            continue
    return fits / len(samples)


def propose_fields(samples: Sequence[RuleContext]) -> list[tuple[FieldPlan, Proposal]]:
    """The fields that a new collection for such pages should have: what most of the samples say."""
    out = [
        (FieldPlan("status", "Status", "choice"), Proposal(Rule("fixed", ("to read",)), SURE, "where you are with it")),
        (FieldPlan("address", "Address", "address"), Proposal(Rule("finding", ("address",)), SURE, "the address")),
    ]
    for name, label, kind in FOR_FIELDS:
        probe = Field(name, label, KINDS[kind if kind != "amount" else "text"], "f0")
        share = fitting(probe, name, samples)
        if samples and share >= 0.5:
            rule = Rule("picture", ("lead",)) if name == "image" else Rule("finding", (name,))
            if kind == "amount":
                rule = Rule("expression", ("page.price | amount(page.currency)",))
            told = f"{round(share * len(samples))} of {len(samples)} samples have it"
            out.append((FieldPlan(KEYS.get(name, name), label, kind), Proposal(rule, round(share, 2), told)))
    out += shown_fields(samples, {plan.key for plan, _ in out})
    out.append(
        (
            FieldPlan("captured", "Captured", "date"),
            Proposal(Rule("expression", ("now",)), SURE, "the moment of capture"),
        )
    )
    return out


def shown_fields(samples: Sequence[RuleContext], taken: Collection[str]) -> list[tuple[FieldPlan, Proposal]]:
    """Fields for the labels that most of the samples show, of kinds that their values can be read as.

    Args:
        taken: keys of other fields.
    """
    by_label: dict[str, list[tuple[str, str]]] = {}
    for context in samples:
        for one in context.reading.findings:
            if one.origin == LABELLED:
                by_label.setdefault(one.name, []).append((one.value, context.reading.language))
    out: list[tuple[FieldPlan, Proposal]] = []
    for label, values in by_label.items():
        share = len(values) / len(samples)
        key = re.sub(r"\W+", "_", label.casefold()).strip("_")
        if share >= LEAST_SHARE and key and key not in (*taken, "title", "captured") and len(out) < MOST_SHOWN_FIELDS:
            plan = FieldPlan(key, label, kind_of(values))
            told = f"{len(values)} of {len(samples)} samples show it as “{label}”"
            out.append((plan, Proposal(Rule("finding", (label,)), round(share, 2), told)))
    return out


def kind_of(values: Sequence[tuple[str, str]]) -> str:
    """The narrowest kind as which all values can be read, each in its page's language."""
    for name in ("yes/no", "date", "number", "amount", "address"):
        with suppress(UnreadableValue):
            if all(KINDS[name].read_in(value, language) is not None for value, language in values):
                return name
    return "long text" if any(len(value) > LONGEST_SHORT for value, _ in values) else "text"
