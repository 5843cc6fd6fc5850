"""Formulas of MathML (W3C, MathML Core and the presentation elements of MathML 3) as TeX, as Markdown has them."""

from collections.abc import Callable

from wily_magpie.core.pages.tree import Element

LARGE = {"∑": r"\sum", "∏": r"\prod", "∫": r"\int", "∮": r"\oint", "⋃": r"\bigcup", "⋂": r"\bigcap", "lim": r"\lim",
         "max": r"\max", "min": r"\min", "sup": r"\sup", "inf": r"\inf"}  # fmt: skip
"""Signs that have something below and above them."""
NAMED = frozenset("sin cos tan cot sec csc sinh cosh tanh log ln exp arg deg det dim gcd ker".split())
ACCENTS = {"¯": r"\overline", "‾": r"\overline", "_": r"\underline", "^": r"\hat", "ˆ": r"\hat", "~": r"\tilde", "˜": r"\tilde",
           "→": r"\vec", "⃗": r"\vec", "˙": r"\dot", "¨": r"\ddot", "⏞": r"\overbrace", "⏟": r"\underbrace"}  # fmt: skip
SIGNS = {"\\": r"\backslash ", "{": r"\{", "}": r"\}", "#": r"\#", "$": r"\$", "%": r"\%", "&": r"\&", "_": r"\_",
         "\u2061": "", "\u2062": "", "\u2063": ",", "\u2064": "", "\u00a0": " "}  # fmt: skip
"""Signs that mean something in TeX, and those that are not seen."""
DEEPEST = 60


def to_tex(math: Element, depth: int = 0) -> str:
    """A formula, or a part of one."""
    if not isinstance(math.tag, str) or depth > DEEPEST:
        return ""
    name = math.tag.rpartition("}")[2].rpartition(":")[2].casefold()
    parts = [to_tex(child, depth + 1) for child in math if isinstance(child.tag, str)]
    make = OF_PARTS.get(name)
    if make is not None and len(parts) >= FEWEST.get(name, 1):
        return make(parts)
    if name in OF_TEXT:
        return OF_TEXT[name](" ".join((math.text or "").split()))
    if name == "mfenced":
        return rf"\left{math.get('open') or '('} {', '.join(parts)} \right{math.get('close') or ')'}"
    if name in ("annotation", "annotation-xml", "mphantom"):
        return ""
    return " ".join(part for part in parts if part)


def escaped(text: str) -> str:
    """Signs as TeX has them."""
    return "".join(SIGNS.get(sign, sign) for sign in text)


def identifier(text: str) -> str:
    """A name: of a function, or of one or several letters."""
    if text in NAMED or text in LARGE:
        return LARGE.get(text, f"\\{text}")
    return escaped(text) if len(text) <= 1 else rf"\mathrm{{{escaped(text)}}}"


def operator(text: str) -> str:
    """An operator or a bracket."""
    return LARGE.get(text) or escaped(text)


def words(text: str) -> str:
    """Words among signs; “&” stands outside of them, where alone it can be written."""
    parts = [rf"\text{{{escaped(part)}}}" if part else "" for part in text.split("&")]
    return r" \& ".join(parts)


def braced(part: str) -> str:
    """A part of more than one sign, held together."""
    return part if len(part) == 1 else f"{{{part}}}"


def limits(parts: list[str], signs: str) -> str:
    """A base with what stands below and above it."""
    return braced(parts[0]) + "".join(f"{sign}{{{part}}}" for sign, part in zip(signs, parts[1:], strict=False))


def over(parts: list[str]) -> str:
    """Something above a base: an accent, a limit, or else."""
    base, above = parts[:2]
    if above.strip() in ACCENTS:
        return f"{ACCENTS[above.strip()]}{{{base}}}"
    return f"{base}^{{{above}}}" if base in LARGE.values() else rf"\overset{{{above}}}{{{base}}}"


def under(parts: list[str]) -> str:
    """The same below."""
    base, below = parts[:2]
    if below.strip() in ACCENTS:
        return f"{ACCENTS[below.strip()]}{{{base}}}"
    return f"{base}_{{{below}}}" if base in LARGE.values() else rf"\underset{{{below}}}{{{base}}}"


def under_over(parts: list[str]) -> str:
    """Both."""
    base, below, above = parts[:3]
    if base in LARGE.values():
        return f"{base}_{{{below}}}^{{{above}}}"
    return over([under([base, below]), above])


OF_TEXT: dict[str, Callable[[str], str]] = {
    "mi": identifier,
    "mn": escaped,
    "mo": operator,
    "mtext": words,
    "ms": words,
    "mspace": lambda _text: r"\ ",
}
OF_PARTS: dict[str, Callable[[list[str]], str]] = {
    "semantics": lambda parts: parts[0],
    "mfrac": lambda parts: rf"\frac{{{parts[0]}}}{{{parts[1]}}}",
    "msqrt": lambda parts: rf"\sqrt{{{' '.join(parts)}}}",
    "mroot": lambda parts: rf"\sqrt[{parts[1]}]{{{parts[0]}}}",
    "msup": lambda parts: limits(parts, "^"),
    "msub": lambda parts: limits(parts, "_"),
    "msubsup": lambda parts: limits(parts, "_^"),
    "mover": over,
    "munder": under,
    "munderover": under_over,
    "mtr": " & ".join,
    "mlabeledtr": lambda parts: " & ".join(parts[1:]),
    "mtable": lambda parts: r"\begin{matrix}" + r" \\ ".join(parts) + r"\end{matrix}",
}
FEWEST = {"mfrac": 2, "mroot": 2, "msup": 2, "msub": 2, "msubsup": 3, "mover": 2, "munder": 2, "munderover": 3}
"""Parts that an element has at least; one that is broken is written as its parts."""
