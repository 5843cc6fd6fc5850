"""The pictures of the stand-in web: drawn in SVG from their names, in ink, the same at every start."""

import math
import random
import re

WIDTH, HEIGHT = 960, 600
PAPERS = ("#efe9dc", "#e6ebe8", "#f0e4d6", "#e3e6ee", "#ece7e0")


def draw(name: str) -> bytes | None:
    """The picture of a name such as "heron-mill.svg"; None for a name that is none."""
    if not re.fullmatch(r"[a-z0-9-]{1,60}\.svg", name):
        return None
    chance = random.Random(name)  # noqa: S311 - for looks
    stem = name.removesuffix(".svg")
    subject = next((word for word in SUBJECTS if word in stem), "mill")
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH}" height="{HEIGHT}" viewBox="0 0 {WIDTH} {HEIGHT}">',
        f'<rect width="{WIDTH}" height="{HEIGHT}" fill="{chance.choice(PAPERS)}"/>',
        '<g fill="none" stroke="#22303a" stroke-width="2" stroke-linecap="round" stroke-linejoin="round">',
        *SUBJECTS[subject](chance),
        "</g></svg>",
    ]
    return "".join(parts).encode()


def draw_icon(letter: str, colour: str) -> bytes:
    """The icon of a site: a letter on a square of its colour."""
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="64" height="64" viewBox="0 0 64 64">'
        f'<rect width="64" height="64" fill="{colour}"/><text x="32" y="46" font-family="serif" font-size="42" '
        f'text-anchor="middle" fill="#ffffff">{letter}</text></svg>'
    ).encode()


def water(chance: random.Random, top: int) -> list[str]:
    """Lines of small waves down to the lower edge."""
    out = []
    for row in range(top, HEIGHT, 18):
        shift = chance.uniform(0, 40)
        points = [f"{x},{row + 3 * math.sin((x + shift) / 14):.1f}" for x in range(0, WIDTH + 20, 20)]
        out.append(f'<polyline points="{" ".join(points)}" stroke="#3d6b78" stroke-width="1.4" opacity=".7"/>')
    return out


def hills(chance: random.Random, base: int) -> list[str]:
    """A far shore."""
    heights = [base - chance.uniform(10, 70) for _ in range(9)]
    points = " ".join(f"{i * 120},{h:.0f}" for i, h in enumerate(heights))
    return [f'<polygon points="0,{base} {points} {WIDTH},{base}" fill="#c9cfc4" stroke="#7c8a80"/>']


def mill(chance: random.Random) -> list[str]:
    """A mill on its dam, with a wheel."""
    left, floor = chance.randint(280, 420), 400
    width, height = chance.randint(200, 260), chance.randint(150, 200)
    out = hills(chance, floor - 40) + water(chance, floor + 14)
    out.append(f'<rect x="{left}" y="{floor - height}" width="{width}" height="{height}" fill="#faf6ec"/>')
    roof = f"{left - 16},{floor - height} {left + width / 2},{floor - height - 96} {left + width + 16},{floor - height}"
    out.append(f'<polygon points="{roof}" fill="#9b5d47"/>')
    for column in range(3):
        for row in range(2):
            x, y = left + 28 + column * (width - 56) / 2.4, floor - height + 26 + row * 66
            out.append(f'<rect x="{x:.0f}" y="{y}" width="26" height="36" fill="#51636d"/>')
    cx, cy, radius = left + width + 62, floor - 18, 78
    out.append(f'<circle cx="{cx}" cy="{cy}" r="{radius}" stroke-width="5"/><circle cx="{cx}" cy="{cy}" r="14"/>')
    for spoke in range(12):
        angle = spoke * math.pi / 6 + chance.uniform(-0.02, 0.02)
        end_x, end_y = cx + (radius + 12) * math.cos(angle), cy + (radius + 12) * math.sin(angle)
        out.append(f'<line x1="{cx}" y1="{cy}" x2="{end_x:.0f}" y2="{end_y:.0f}" stroke-width="3"/>')
    out.append(f'<path d="M0 {floor} H{WIDTH}" stroke-width="6"/>')
    return out


def stone(chance: random.Random) -> list[str]:
    """A millstone from above."""
    cx, cy, radius = WIDTH / 2, HEIGHT / 2, 220
    out = [f'<circle cx="{cx}" cy="{cy}" r="{radius}" fill="#d9d2c3" stroke-width="5"/>']
    out.append(f'<circle cx="{cx}" cy="{cy}" r="34" fill="#efe9dc" stroke-width="4"/>')
    for furrow in range(30):
        angle = furrow * math.pi / 15
        bend = angle + 0.32
        x1, y1 = cx + 44 * math.cos(angle), cy + 44 * math.sin(angle)
        x2, y2 = cx + 212 * math.cos(bend), cy + 212 * math.sin(bend)
        out.append(f'<line x1="{x1:.0f}" y1="{y1:.0f}" x2="{x2:.0f}" y2="{y2:.0f}" stroke="#6d6455"/>')
    return out


def chart(chance: random.Random) -> list[str]:
    """A curve of the tide over two days."""
    points = []
    for x in range(60, WIDTH - 40, 6):
        level = math.sin(x / 62) * 130 + math.sin(x / 420 + 1) * 50 + chance.uniform(-3, 3)
        points.append(f"{x},{300 - level:.0f}")
    axes = '<path d="M60 60 V540 H920" stroke-width="3"/>'
    grid = [f'<path d="M60 {y} H920" stroke="#b9b2a2" stroke-width="1"/>' for y in range(120, 540, 60)]
    return [*grid, axes, f'<polyline points="{" ".join(points)}" stroke="#0a5c6b" stroke-width="4"/>']


def loaf(chance: random.Random) -> list[str]:
    """A loaf of bread."""
    out = ['<ellipse cx="480" cy="360" rx="280" ry="150" fill="#b98449" stroke-width="4"/>']
    out += [
        f'<path d="M{300 + n * 80} {270 - n % 2 * 14} q60 60 30 150" stroke="#f1dcb5" stroke-width="7"/>'
        for n in range(5)
    ]
    return [*out, '<path d="M120 520 H840" stroke-width="5"/>']


def book(chance: random.Random) -> list[str]:
    """A book, standing."""
    colour = chance.choice(("#0a5c6b", "#7a3b2e", "#3f6b21"))
    return [
        f'<rect x="330" y="90" width="300" height="430" fill="{colour}" stroke-width="4"/>',
        '<rect x="330" y="90" width="34" height="430" fill="#22303a" opacity=".35"/>',
        '<path d="M400 200 H590 M400 232 H560" stroke="#f4f2ec" stroke-width="8"/>',
        '<circle cx="495" cy="380" r="62" stroke="#f4f2ec" stroke-width="5"/>',
        '<path d="M250 522 H710" stroke-width="5"/>',
    ]


SUBJECTS = {"stone": stone, "gauge": chart, "chart": chart, "loaf": loaf, "book": book, "mill": mill}
