"""What the process that draws formulas answers; see `formulas`, which asks."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from ziamath.config import config
from ziamath.zmath import Latex

config.svg2 = False  # paths as they are, which every reader of SVG knows


def draw(formulas: Sequence[str], em_px: int) -> list[str]:
    """Each formula as SVG; "" where it cannot be drawn."""
    return [one(tex, em_px) for tex in formulas]


def one(tex: str, em_px: int) -> str:
    """One formula."""
    if not tex.strip():
        return ""
    try:
        return str(Latex(tex, size=em_px).svg())
    except Exception:  # noqa: BLE001 - whatever a library makes of what a page says, the formula is shown as it is written
        return ""


ANSWERS: Mapping[str, Callable[..., Any]] = {"draw": draw}
