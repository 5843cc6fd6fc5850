"""Starter notes: a text with expressions, worked out for a title and a day in the process apart."""

from datetime import date, timedelta

from wily_magpie.core.templates import apart

NAMES = ("title", "date", "year", "month", "day", "week", "weekday", "yesterday", "tomorrow")


def names_of(title: str, day: date) -> dict[str, str]:
    """What expressions of a starter note may name."""
    return {
        "title": title, "date": day.isoformat(), "year": f"{day.year:04}", "month": f"{day.month:02}", "day": f"{day.day:02}",
        "week": f"{day.isocalendar().week:02}", "weekday": day.strftime("%A"),
        "yesterday": (day - timedelta(1)).isoformat(), "tomorrow": (day + timedelta(1)).isoformat(),
    }  # fmt: skip


def worked_out(text: str, title: str, day: date) -> str:
    """A starter note with its expressions worked out.

    Raises:
        UserError: one of them fails; nothing is made then.
    """
    if not apart.is_text(text):
        return text
    apart.check(text, "the starter note", NAMES)
    out = apart.write(text, [names_of(title, day)])[0]
    return f"{out}\n" if text.endswith("\n") and not out.endswith("\n") else out
