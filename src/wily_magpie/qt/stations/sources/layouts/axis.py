"""An axis of years on the screen: from years to pixels and back, and where its marks stand, from centuries to days."""

from calendar import isleap
from datetime import date, timedelta
from math import ceil, floor

from wily_magpie.core.dataclass import dataclass

NARROWEST, WIDEST = 0.04, 400_000.0
"""Pixels a year: ten thousand years on a screen, a day over a thousand pixels."""
YEAR_STEPS = (1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000)
MONTHS = "Jan Feb Mar Apr May Jun Jul Aug Sep Oct Nov Dec".split()
LEAST_APART_PX = 74
FIRST_YEAR, LAST_YEAR = 1, 9999


@dataclass(frozen=True)
class Axis:
    """Which years are seen.

    Attributes:
        left: the year at the left edge. scale: pixels a year.
    """

    left: float = 1900.0
    scale: float = 8.0

    def x(self, year: float) -> float:
        """Where a year is, in pixels."""
        return (year - self.left) * self.scale

    def year(self, x: float) -> float:
        """Which year is at a pixel."""
        return self.left + x / self.scale

    def zoomed(self, factor: float, x: float) -> "Axis":
        """Closer or further away; what is at a pixel stays there."""
        scale = min(max(self.scale * factor, NARROWEST), WIDEST)
        return Axis(self.year(x) - x / scale, scale)

    def moved(self, by_px: float) -> "Axis":
        """Further on or back."""
        return Axis(self.left + by_px / self.scale, self.scale)

    @classmethod
    def around(cls, begin: float, end: float, width: int, beside_px: int = 0) -> "Axis":
        """One on which a span of years is seen as a whole.

        Args:
            beside_px: what is to stay free at its right end, for words.
        """
        length, room = max(end - begin, 1 / 52), max(width - beside_px, width // 2)
        scale = min(max(room / (length * 1.1), NARROWEST), WIDEST)
        return cls(begin - (room / scale - length) / 2, scale)

    def marks(self, width: int) -> list[tuple[float, str]]:
        """The marks on it: (pixels, words)."""
        if self.scale / 12 * 2 >= LEAST_APART_PX:
            return self.day_marks(width) if self.scale / 365 * 8 >= LEAST_APART_PX else self.month_marks(width)
        step = next((one for one in YEAR_STEPS if one * self.scale >= LEAST_APART_PX), YEAR_STEPS[-1])
        first = max(FIRST_YEAR, ceil(self.left / step) * step)
        last = min(LAST_YEAR, floor(self.year(width)))
        return [(self.x(year), str(year)) for year in range(first, last + 1, step)]

    def month_marks(self, width: int) -> list[tuple[float, str]]:
        """A mark every one, three or six months."""
        step = next((one for one in (1, 3, 6) if self.scale * one / 12 >= LEAST_APART_PX), 6)
        out = []
        for year in range(max(FIRST_YEAR, floor(self.left)), min(LAST_YEAR, floor(self.year(width))) + 1):
            for month in range(1, 13, step):
                x = self.x(year_of(date(year, month, 1)))
                if -LEAST_APART_PX < x < width:
                    out.append((x, str(year) if month == 1 else f"{MONTHS[month - 1]} {year}"))
        return out

    def day_marks(self, width: int) -> list[tuple[float, str]]:
        """A mark every day, or every few days."""
        step = next((one for one in (1, 2, 7) if self.scale * one / 365 >= LEAST_APART_PX), 7)
        day = day_of(self.left)
        out: list[tuple[float, str]] = []
        while len(out) < width and self.x(year_of(day)) < width:
            out.append((self.x(year_of(day)), f"{day.day} {MONTHS[day.month - 1]} {day.year}"))
            if day > date.max - timedelta(days=step):
                break
            day += timedelta(days=step)
        return out


def year_of(day: date) -> float:
    """The beginning of a day in years."""
    return day.year + (day.timetuple().tm_yday - 1) / (366 if isleap(day.year) else 365)


def day_of(year: float) -> date:
    """The day that a point of time lies in."""
    whole = min(max(floor(year), FIRST_YEAR), LAST_YEAR)
    days = int((min(max(year, FIRST_YEAR), LAST_YEAR + 0.999) - whole) * (366 if isleap(whole) else 365) + 1e-6)
    return date(whole, 1, 1) + timedelta(days=max(0, min(days, 365 if isleap(whole) else 364)))


def written(begin: float, end: float, scale: float) -> str:
    """A span of years as a question has it, as exactly as it could be pointed at: years, months, or days."""
    first, last = day_of(begin), day_of(end)
    if scale / 12 < LEAST_APART_PX / 4:
        return f"{first.year:04}/{last.year:04}"
    if scale / 365 < LEAST_APART_PX / 16:
        return f"{first:%Y-%m}/{last:%Y-%m}"
    return f"{first.isoformat()}/{last.isoformat()}"
