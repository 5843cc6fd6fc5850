"""What can be had and for how much: prices, and the facts of a product."""

import math
import re

from wily_magpie.core.dataclass import dataclass
from wily_magpie.core.errors import UnreadableValue
from wily_magpie.core.fields import AMOUNT
from wily_magpie.core.fields.amount import split
from wily_magpie.core.fields.number import read_number_in, with_decimals
from wily_magpie.core.pages.boilerplate import names_of
from wily_magpie.core.pages.findings.page_lines import is_elsewhere, is_teaser
from wily_magpie.core.pages.findings.sources import META, VISIBLE, Sources, from_items, main_items, texts
from wily_magpie.core.pages.structured import types_of
from wily_magpie.core.pages.tree import named, text_of

SIGNS = {"£": "GBP", "€": "EUR", "$": "USD", "¥": "JPY", "₹": "INR", "₩": "KRW", "zł": "PLN", "kr": ""}
SHOWN = re.compile(r"(£|€|\$|¥|₹|₩)\s?(\d[\d.,' ]*\d|\d)|(\d[\d.,' ]*\d|\d)\s?(£|€|\$|¥|₹|₩|zł)")
PRICE_NAME = named(r"price|preis|prix|precio|prezzo")
FACTS = {
    "brand": "Brand", "author": "Author", "model": "Model", "bookFormat": "Format", "numberOfPages": "Pages", "isbn": "ISBN",
    "sku": "Article number", "gtin": "GTIN", "gtin13": "GTIN", "mpn": "Maker's number", "color": "Colour",
    "material": "RuleContext", "size": "Size", "weight": "Weight", "width": "Width", "height": "Height", "depth": "Depth",
    "countryOfOrigin": "Made in", "publisher": "Publisher", "datePublished": "Published", "inLanguage": "Language",
}  # fmt: skip


@dataclass(frozen=True)
class Fact:
    """A line of what can be said of a thing."""

    name: str
    value: str


def offers(sources: Sources) -> None:
    """Adds the price of what is offered, its currency (ISO 4217), whether it can be had, and its rating."""
    for item, origin in main_items(sources)[:8]:
        told = item.get("offers")
        for offer in told if isinstance(told, list) else [told]:
            if isinstance(offer, dict):
                kind = f"{origin} {types_of(item)[0]}.offers"
                for unit in texts(offer.get("priceCurrency")):
                    sources.add("currency", unit, f"{kind}.priceCurrency")
                for price in texts(offer.get("price") or offer.get("lowPrice")):
                    add_price(sources, price, f"{kind}.price")
                for state in texts(offer.get("availability"), "@id"):
                    words = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", state.rsplit("/", 1)[-1]).casefold()
                    sources.add("availability", words, f"{kind}.availability")
    sources.from_meta("currency", "product:price:currency og:price:currency")
    for key in ("product:price:amount", "og:price:amount"):
        for price in sources.meta.get(key, []):
            add_price(sources, price, f"{META} {key}")
    from_items(sources, "rating", "aggregateRating reviewRating", "ratingValue")
    shown_price(sources)


def add_price(sources: Sources, price: str, origin: str) -> None:
    """A declared price as a number, and its sign as the currency where nothing else tells that.

    What can be read two ways stays as it is declared: whoever takes it is told so.
    """
    try:
        number, unit = split(str(AMOUNT.read_declared(price, "")))
    except UnreadableValue:
        number, unit = math.nan, ""
    sources.add("price", price if math.isnan(number) else with_decimals(price, number), origin)
    sources.add("currency", unit if not sources.best("currency") else "", origin)


def shown_price(sources: Sources) -> None:
    """The first price that the page shows as one, with its sign."""
    heading = next(iter(sources.root.iter("h1")), None)
    for tag in sources.root.iter("span", "p", "div", "b", "strong", "ins", "bdi", "td", "dd"):
        if is_elsewhere(tag, heading) or is_teaser(tag, heading):
            continue
        if PRICE_NAME.search(names_of(tag)) and len(text_of(tag)) < 80:
            found = SHOWN.search(text_of(tag))
            if found:
                sources.add("price", shown_number(found[2] or found[3], sources.language), f"{VISIBLE} (price)")
                sources.add("currency", SIGNS.get(found[1] or found[4], ""), f"{VISIBLE} (price)")
                return


def shown_number(figures: str, language: str) -> str:
    """A number that a page in a language shows, as programs write it; as it is shown where it can be two."""
    try:
        number = read_number_in(figures, language)
    except UnreadableValue:
        number = None
    return with_decimals(figures, number) if number is not None else figures


def product_facts(sources: Sources) -> list[Fact]:
    """Price, then what is declared of a product, then its further properties."""
    price, unit, state = (sources.best(name) for name in ("price", "currency", "availability"))
    out = [Fact("Price", f"{price} {unit}".strip() + (f", {state}" if state else ""))] if price else []
    for item, _ in main_items(sources)[:2]:
        for key, name in FACTS.items():
            values = [value for value in texts(item.get(key)) if len(value) < 200]
            if values and not any(fact.name == name for fact in out):
                out.append(Fact(name, ", ".join(dict.fromkeys(one.rsplit("schema.org/", 1)[-1] for one in values))))
        more = item.get("additionalProperty")
        for one in more if isinstance(more, list) else [more]:
            if isinstance(one, dict) and one.get("name") and one.get("value") not in (None, ""):
                value = " ".join([*texts(one["value"]), *texts(one.get("unitText"))])
                out.append(Fact(str(one["name"])[:80], value[:300]))
    rating = sources.best("rating")
    return [*out, Fact("Rating", rating)] if rating else out
