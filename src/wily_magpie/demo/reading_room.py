"""A site of the stand-in web whose pages are for those who have signed in: any name and any word will do."""

from urllib.parse import parse_qs, urlsplit

from wily_magpie.core.dataclass import dataclass

HOST, LETTER = "reading-room.example", "/letters/pell-1931"
TICKET = "ticket=2411"
SCAN = "/scans/pell-1931.svg"
SIGN_IN = """<!doctype html><html lang="en"><title>Sign in to the reading room</title><h1>Sign in to the reading room</h1>
<p>The letters of the Pell family are for readers with a ticket.</p>
<form action="/sign-in"><p><label>Reader <input name="reader"></label>
<p><label>Word <input name="word" type="password"></label>
<input name="form_token" type="hidden" value="8f2c-not-for-others"><p><button>Sign in</button></form></html>"""
PAGE = f"""<!doctype html><html lang="en"><head><title>Nathaniel Pell to his daughter, 1931</title>
<meta name="author" content="Nathaniel Pell"><meta name="csrf-token" content="8f2c-not-for-others"></head>
<body><header><p>Signed in as a reader. <a href="/sign-out">Sign out</a></p></header>
<article><h1>Nathaniel Pell to his daughter, 1931</h1>
<p>My dear Edith, the wheel has stood since Michaelmas. The pond is let go and the mud lies where the water was; I walk along the
bank each evening and count the herons, of which there are now more than there were sacks in a good week.</p>
<figure><img src="{SCAN}" alt="The first page of the letter" width="960" height="600">
<figcaption>The first page of the letter, in Pell's own hand.</figcaption></figure>
<p>They ask me at the harbour whether I will sell the stones. I have told them that the stones were my father's and that they will
turn again, though I do not believe it myself. Write to me when the ferry goes again in March.</p>
<form action="/note"><p><label>Your note on it <input name="note"></label>
<input name="form_token" type="hidden" value="8f2c-not-for-others"></form>
</article></body></html>"""


@dataclass(frozen=True)
class RoomAnswer:
    """What is answered.

    Attributes:
        picture: the name of the picture that it is, or "".
        location: where it sends on to, or "".
    """

    html: str = ""
    picture: str = ""
    location: str = ""
    status: int = 200
    cookie: str = ""


def answer(address: str, cookie: str) -> RoomAnswer | None:
    """What a request gets.

    Args:
        cookie: as it came along.
    """
    parts = urlsplit(address)
    is_in = TICKET in cookie
    match parts.path:
        case "/sign-in" if parse_qs(parts.query).get("reader"):
            return RoomAnswer(location=LETTER, status=302, cookie=f"{TICKET}; Path=/; HttpOnly")
        case "/" | "/sign-in":
            return RoomAnswer(SIGN_IN)
        case _ if parts.path == LETTER:
            return RoomAnswer(PAGE) if is_in else RoomAnswer(location="/sign-in", status=302)
        case _ if parts.path == SCAN:
            return RoomAnswer(picture="pell-letter.svg") if is_in else RoomAnswer(SIGN_IN, status=403)
    return None
