"""What hostile pages, template expressions and servers cost: cases, crashes, hangs, memory at the most, requests that left.

Pages of one kind a million times over are read by `extract`; expressions that want all time and memory are taken in and tried;
a server redirects to this machine by every spelling, and sends bombs. What the live page may reach is a matter of the tests
(`tests/journeys/test_hostile_pages.py`, `test_endless_pages.py`), which drive the real engine.
"""

import gzip
import json
import os
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

from bench_growth import bench_growth

from wily_magpie.core.errors import MagpieError
from wily_magpie.core.pages.apart import read_page
from wily_magpie.core.pages.fetch import Fetcher
from wily_magpie.core.pages.pictures import addresses_in

HANG_S = 30.0
"""Of a whole command, its start included; reading itself has ten seconds of the processor."""
LOOK_S = 0.02
SOUND = (0, 1, 2)
LD = '<script type="application/ld+json">'
PAGES = {
    "rows of a table": "<table>" + "<tr><td>a<td>b<td>c</tr>" * 100_000 + "</table>",
    "cells of a row": "<table><tr>" + "<td>x" * 150_000 + "</table>",
    "attributes": "<p " + " ".join(f"a{n}=1" for n in range(100_000)) + ">x</p>",
    "links": "".join(f'<a href="/{n}">link {n}</a> ' for n in range(200_000)),
    "paragraphs": "<p>words of a paragraph</p>" * 300_000,
    "line breaks": "<br>" * 5_000_000,
    "opening signs": "<" * 20_000_000,
    "stars": "<p>" + "*" * 1_000_000 + "</p>",
    "brackets": "<p>" + "[" * 1_000_000 + "</p>",
    "brackets in code": "<p>x<code>" + "[" * 1_000_000 + "</code></p>",
    "underscores": "<p>" + "_a" * 500_000 + "</p>",
    "backticks": "<p>" + "`" * 1_000_000 + "</p>",
    "ampersands": "<p>" + "&" * 2_000_000 + "</p>",
    "one word": "<p>" + "x" * 5_000_000 + "</p>",
    "words": "<p>" + "word " * 4_000_000 + "</p>",
    "definitions in definitions": "<dl><dd>" * 50_000,
    "lists in lists": "<ul><li>" * 70_000,
    "boxes in boxes": "<div>" * 80_000,
    "links in links": "<a href=x>" * 80_000,
    "items": "<ul>" + "<li>some words</li>" * 150_000 + "</ul>",
    "headings": "<h2>a head</h2>" * 150_000,
    "pictures": '<img src="/a.png" width=900 height=800>' * 150_000,
    "footnotes": "<p>" + '<a href="#f1" id="r">1</a>' * 80_000 + "</p>",
    "options": "<select>" + "<option>x" * 100_000 + "</select>",
    "meta tags": '<meta property="og:title" content="x">' * 150_000,
    "structured data": LD + "[" + ",".join('{"@type":"Article"}' for _ in range(300_000)) + "]</script>",
    "deep structured data": LD + '{"a":' * 90_000 + "1" + "}" * 90_000 + "</script>",
    "an attribute": '<p title="' + "x" * 20_000_000 + '">a</p>',
    "superscripts": "<p>" + "<sup>1</sup>" * 80_000 + "</p>",
}  # fmt: skip
NESTED = "".join(f"Content-Type: multipart/mixed; boundary=b{at}\n\n--b{at}\n" for at in range(1_000))
FILES = {
    "nested.eml": f"From: a@b\nSubject: x\nMIME-Version: 1.0\n{NESTED}Content-Type: text/plain\n\nx",
    "brackets.eml": f"From: {'(' * 500_000}a@b\nSubject: x\n\nx",
    "heading.eml": f"From: a@b\nSubject: =?utf-8?q?{'x' * 20_000_000}?=\n\nx",
    "quotation.csv": 'url,title\n"' + "x\n" * 5_000_000,
    "keys.json": json.dumps([{f"k{at}": "v" for at in range(3_000)}]),
    "length.html": f'<title>Film</title>{LD}{{"@type":"VideoObject","name":"Film","duration":"PT{"9" * 400}H"}}</script><p>A film.',
}  # fmt: skip
LOOPS = "".join(f"{{% for {name} in page.text %}}" for name in "abc")
EXPRESSIONS = {
    "rounded to a billion places": "1.5 | round(1000000000)",
    "powers of powers": "10 ** 10 ** 8",
    "numbers squared": "{% set a = 10 ** 64 %}" + "{% set a = a * a %}" * 30 + "{{ a }}",
    "a text doubled": "{% set a = page.text %}" + "{% set a = a ~ a %}" * 40 + "{{ a }}",
    "a text repeated": "'a' * 1000000000",
    "loops in loops": LOOPS + "x" + "{% endfor %}" * 3,
    "loops that write nothing": LOOPS + "{% endfor %}" * 3,
    "a macro that calls itself": "{% macro m(n) %}{{ m(n + 1) }}{{ m(n + 1) }}{% endmacro %}{{ m(0) }}",
    "a regular expression that goes back": "('a' ~ page.text) | regex('(a+)+$')",
    "one that counts": "'a' | regex('(((a{1000}){1000}){1000})')",
    "one that is not exact": "page.text | regex('(?:the mill turns again after years of rest){e<=40}')",
    "one that grows": "page.text | regex_replace('(.)', '" + "x" * 5000 + "')",
    "a list doubled": "{% set a = page.text | split(' ') %}" + "{% set a = a + a %}" * 30 + "{{ a | length }}",
    "a long sum": "1" + "+1" * 9_000,
    "brackets in brackets": "(" * 5_000 + "1" + ")" * 5_000,
    "a page for a text": "{{ page }}",
}  # fmt: skip
SPELLINGS = (
    "127.0.0.1", "localhost", "2130706433", "0x7f000001", "0177.0.0.1", "127.1", "[::1]", "[::ffff:127.0.0.1]", "0.0.0.0",  # noqa: S104 - asked, not bound
    "127.0.0.1.", "LOCALHOST", "router", "10.0.0.1", "169.254.169.254", "[fe80::1]", "192.168.1.1",
)  # fmt: skip


@dataclass
class Tally:
    """What was seen."""

    cases: int = 0
    crashes: list[str] = field(default_factory=list)
    hangs: list[str] = field(default_factory=list)
    most_bytes: int = 0
    most_at: str = ""

    def run(self, name: str, *words: str) -> None:
        """A command of the program, its processes watched."""
        self.cases += 1
        command = [str(Path(sys.executable).parent / "wily-magpie"), *words]
        running = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, start_new_session=True)
        begun = time.monotonic()
        while running.poll() is None and time.monotonic() - begun < HANG_S:
            held = sum(map(held_bytes, family(running.pid)))
            if held > self.most_bytes:
                self.most_bytes, self.most_at = held, name
            time.sleep(LOOK_S)
        if running.poll() is None:
            self.hangs.append(name)
            running.kill()
        _, said = running.communicate()
        if running.returncode not in SOUND or b"Traceback" in said:
            self.crashes.append(name)


def family(pid: int) -> Iterator[int]:
    """A process and all that it has started."""
    yield pid
    try:
        children = Path(f"/proc/{pid}/task/{pid}/children").read_text("ascii").split()
    except OSError:
        return
    for child in children:
        yield from family(int(child))


def held_bytes(pid: int) -> int:
    """The memory that a process holds; 0 where it has ended."""
    try:
        return int(Path(f"/proc/{pid}/statm").read_text("ascii").split()[1]) * os.sysconf("SC_PAGE_SIZE")
    except (OSError, IndexError):
        return 0


class Victim(BaseHTTPRequestHandler):
    """Something on this machine that nobody may ask."""

    def do_GET(self) -> None:
        self.server.asked.append(self.path)  # type: ignore[attr-defined]
        self.send_response(200)
        self.end_headers()

    def log_message(self, *_: object) -> None:
        pass


class Site(BaseHTTPRequestHandler):
    """The hostile site, reached as through a proxy: /redirect/NUMBER, /pictures, /bomb/DEPTH."""

    def do_GET(self) -> None:
        port = self.server.victim_port  # type: ignore[attr-defined]
        _, what, number = (self.path.removeprefix("http://bad.example") + "/").split("/", 2)
        if what == "redirect":
            self.send_response(302)
            self.send_header("Location", f"http://{SPELLINGS[int(number.strip('/'))]}:{port}/inside")
            self.end_headers()
            return
        if what == "pictures":
            body, coding = (
                "".join(f'<img src="http://{one}:{port}/p.png" width=900 height=800>' for one in SPELLINGS).encode(),
                "",
            )
            body = b"<h1>A mill</h1><p>It turns with the ebb and the flood.</p>" + body
        else:
            body = gzip.compress(b"<p>" + b"x" * 300_000_000)
            body, coding = (gzip.compress(body), "gzip, gzip") if number.startswith("2") else (body, "gzip")
        self.send_response(200)
        self.send_header("Content-Type", "text/html")
        if coding:
            self.send_header("Content-Encoding", coding)
        self.end_headers()
        self.wfile.write(body)

    def log_message(self, *_: object) -> None:
        pass


@contextmanager
def serving(handler: type[BaseHTTPRequestHandler]) -> Iterator[ThreadingHTTPServer]:
    """A server on loopback."""
    server = ThreadingHTTPServer(("127.0.0.1", 0), handler)
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    try:
        yield server
    finally:
        server.shutdown()
        server.server_close()
        thread.join()


def fetched(tally: Tally) -> list[str]:
    """Fetches from the hostile site; what was asked inside."""
    with serving(Victim) as victim, serving(Site) as site:
        victim.asked = []  # type: ignore[attr-defined]
        site.victim_port = victim.server_port  # type: ignore[attr-defined]
        proxy = f"http://127.0.0.1:{site.server_port}"
        fetcher = Fetcher(lambda address: proxy if "bad.example" in address else None, silence_s=5, whole_s=10)
        paths = [*(f"redirect/{number}" for number in range(len(SPELLINGS))), "pictures", "bomb/1", "bomb/2"]
        for path in paths:
            tally.cases += 1
            begun = time.monotonic()
            try:
                page = fetcher.page(f"http://bad.example/{path}")
                for address in addresses_in(read_page(page).content.markdown):
                    ask(fetcher, address, page.address)
            except MagpieError:
                pass
            except Exception:  # noqa: BLE001 - that is what is counted
                tally.crashes.append(path)
            if time.monotonic() - begun > HANG_S:
                tally.hangs.append(path)
            held = sum(map(held_bytes, family(os.getpid())))
            if held > tally.most_bytes:
                tally.most_bytes, tally.most_at = held, path
        return list(victim.asked)  # type: ignore[attr-defined]


def ask(fetcher: Fetcher, address: str, page: str) -> None:
    """A picture of a page, which is not to be had."""
    with suppress(MagpieError):
        fetcher.picture(address, page)


def given(tally: Tally, folder: Path) -> None:
    """Files and questions that want all time and memory, given to the shell."""
    library = str(folder / "given")
    for name, content in FILES.items():
        path = folder / name
        path.write_text(content, "utf-8")
        tally.run(name, "--library", library, "capture", str(path))
    tally.run("a list without end", "--library", library, "capture", "--from", "/dev/zero")
    tally.run("a question of 2,000 words", "--library", library, "find", " ".join(f"w{at}" for at in range(2_000)))
    tally.run("a folder of the system", "--library", library, "find", "--in", "/proc/", "mill")


def bench_hostile() -> None:
    """Prints the figures."""
    tally = Tally()
    left = fetched(tally)
    with tempfile.TemporaryDirectory() as folder:
        page, library = Path(folder) / "page.html", str(Path(folder) / "library")
        for name, body in PAGES.items():
            page.write_text(f"<html><head><title>Mill</title></head><body>{body}</body></html>", "utf-8")
            tally.run(name, "extract", str(page))
        given(tally, Path(folder))
        page.write_text(
            "<title>Mill</title><h1>Mill</h1><p>" + "The mill turns again with the ebb. " * 200 + "</p>", "utf-8"
        )
        for name, text in EXPRESSIONS.items():
            template = Path(folder) / "template.json"
            rules = {"description": {"expression": text}}
            template.write_text(json.dumps({"format": 2, "name": name, "writes": "Sources", "fields": rules}), "utf-8")
            tally.run(name, "--library", library, "templates", "import", str(template), "--yes")
            tally.run(name, "--library", library, "templates", "try", str(page), "--template", name)
    print(f"hostile cases tried{tally.cases:>28}")
    print(f"crashes{len(tally.crashes):>40}   aim: 0   {', '.join(tally.crashes)}")
    print(f"hangs (over {HANG_S:.0f} s){len(tally.hangs):>30}   aim: 0   {', '.join(tally.hangs)}")
    print(
        f"memory of all processes at the most{tally.most_bytes / 1e6:>9.0f} MB   aim: under 1,000 MB   ({tally.most_at})"
    )
    print(f"requests that left{len(left):>29}   aim: 0   {', '.join(left)}")
    bench_growth()
