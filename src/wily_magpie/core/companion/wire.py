"""Frames of native messaging: the length as four bytes in the machine's own order, then JSON in UTF-8.

The same frames go from the browser to the host, from the host to the window's socket, and back.
"""

import json
import struct
from collections.abc import Callable
from typing import Any

from wily_magpie.core.errors import UserError

LARGEST_IN = 8 << 20
"""Bytes of a message that comes; the companion sends what is larger in pieces."""
LARGEST_OUT = 1 << 20
"""Browsers take no larger message from a host."""
HEAD = struct.Struct("=I")


def read_frame(read: Callable[[int], bytes]) -> Any:
    """The next message; None where there is none any more.

    Args:
        read: gives exactly so many bytes, fewer at the end.

    Raises:
        UserError: it is larger than a message may be, or no JSON.
    """
    head = read(HEAD.size)
    if len(head) < HEAD.size:
        return None
    (size,) = HEAD.unpack(head)
    if size > LARGEST_IN:
        raise UserError("companion-refused", f"A message of {size:,} bytes is too large.")
    body = read(size)
    if len(body) < size:
        return None
    try:
        return json.loads(body)
    except (ValueError, RecursionError) as error:
        raise UserError("companion-refused", "What came is no message.") from error


def frame(message: object) -> bytes:
    """A message as it goes out."""
    body = json.dumps(message).encode()
    return HEAD.pack(len(body)) + body
