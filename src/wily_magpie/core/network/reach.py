"""Which hosts may be reached: the web, and of this machine and the local network only what the person typed.

A name is resolved here, its numbers are held against the rule, and one of those that were is connected to: a name that is
resolved anew to a private number (DNS rebinding) leads nowhere.
"""

import ipaddress
import re
import socket
import time
from collections.abc import Collection

from wily_magpie.core.errors import PageFailure
from wily_magpie.core.network import failures

CONNECT_S = 10.0
LOCAL_ENDINGS = (".localhost", ".local", ".internal", ".home.arpa", ".lan", ".home", ".corp", ".intranet")
NUMBER = re.compile(r"(0x[0-9a-f]+|\d+)(\.(0x[0-9a-f]+|\d+)){0,3}")
"""What inet_aton takes for a number too: 2130706433, 0x7f000001, 127.1."""
Number = ipaddress.IPv4Address | ipaddress.IPv6Address


def is_local(host: str) -> bool:
    """Whether a host is written as one of this machine or the local network; a name of one word is."""
    host = host.strip("[]").casefold().rstrip(".")
    try:
        return not is_public(ipaddress.ip_address(host.partition("%")[0]))
    except ValueError:
        return "." not in host or host.endswith(LOCAL_ENDINGS) or bool(NUMBER.fullmatch(host))


def is_public(number: Number) -> bool:
    """Whether a number is one of the web. Of those that carry another one (RFC 4291, 3056, 4380, 6052) that counts, too."""
    if isinstance(number, ipaddress.IPv6Address):
        inner = [number.ipv4_mapped, number.sixtofour, *(number.teredo or ())]
        if number in ipaddress.ip_network("64:ff9b::/96"):
            inner.append(ipaddress.IPv4Address(int(number) & 0xFFFFFFFF))
        if not all(one is None or is_public(one) for one in inner):
            return False
        if number.ipv4_mapped is not None:
            return True
    return number.is_global and not number.is_multicast


def numbers_of(host: str, port: int) -> list[tuple[socket.AddressFamily, str]]:
    """The numbers of a host, in the order in which they are tried.

    Raises:
        PageFailure: there is no such host.
    """
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise failures.connect_failure(host, "getaddrinfo") from error
    return list(dict.fromkeys((info[0], str(info[4][0])) for info in found))


def reachable(host: str, port: int, typed: Collection[str]) -> list[tuple[socket.AddressFamily, str]]:
    """The numbers of a host that may be connected to.

    Args:
        typed: hosts that the person typed, which may be anywhere.

    Raises:
        PageFailure: there is no such host, or it is one of the local network.
    """
    if host.casefold() in typed:
        return numbers_of(host, port)
    if is_local(host):
        raise failures.into_the_local_network(host)
    found = numbers_of(host, port)
    public = [(family, number) for family, number in found if not is_local(number)]
    if not public:
        raise failures.into_the_local_network(host)
    return public


def connect(host: str, port: int, typed: Collection[str], deadline: float) -> socket.socket:
    """A connection to a host.

    Args:
        deadline: of time.monotonic(), by which it must have come about.

    Raises:
        PageFailure: it may not be reached, does not answer or refuses.
    """
    reason = ""
    for family, number in reachable(host, port, typed):
        made = socket.socket(family, socket.SOCK_STREAM)
        left = min(CONNECT_S, deadline - time.monotonic())
        try:
            if left <= 0:
                raise TimeoutError
            made.settimeout(left)
            made.connect((number, port))
            made.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        except OSError as error:
            made.close()
            reason = "timed out" if isinstance(error, TimeoutError) else str(error)
            continue
        return made
    raise failures.no_answer(host) if reason == "timed out" else failures.connect_failure(host, reason)


def check_name(host: str, port: int, typed: Collection[str]) -> None:
    """Holds a host against the rule where somebody else connects to it: a proxy of the system's.

    Raises:
        PageFailure: its name is one of the local network, or leads there as far as it is known here.
    """
    if host.casefold() in typed:
        return
    if is_local(host):
        raise failures.into_the_local_network(host)
    try:
        found = numbers_of(host, port)
    except PageFailure:
        return
    if all(is_local(number) for _, number in found):
        raise failures.into_the_local_network(host)
