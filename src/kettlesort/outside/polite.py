"""Asking another server: with time limits, growing pauses between tries, a polite rate, and a limit on what it may send."""

from __future__ import annotations

import ipaddress
import socket
import threading
import time
from collections import defaultdict
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import NamedTuple
from urllib.parse import urljoin, urlsplit

import httpx2 as httpx


class Unreachable(Exception):
    """A server that could not be asked, or did not answer in time; the message says what was tried."""


class Refused(Exception):
    """A server that answered, but not with what was asked for; ``status`` is HTTP's."""

    def __init__(self, status: int, message: str) -> None:
        super().__init__(message)
        self.status = status


_WITHIN = [ipaddress.ip_network(word) for word in ("64:ff9b::/96", "64:ff9b:1::/48", "2002::/16", "2001::/32")]
"""Addresses of the newer kind that stand for ones of the older, whichever these are."""


def check_address(address: str, *, private: bool) -> list[str]:
    """The numbers of a server that may be asked: who asks connects to one of these, so that a name that changes meanwhile leads nowhere else.

    Raises ValueError for an address that must not be asked: none of the web's, or, unless ``private``, one within our own network.
    """
    result = urlsplit(address)
    if result.scheme not in ("http", "https") or not result.hostname:
        raise ValueError("An address begins with http:// or https:// and names a server.")
    if result.username or result.password:
        raise ValueError("An address with a name and password in it is not kept; ask the catalogue for one without.")
    if result.fragment or result.query:
        raise ValueError("An address ends before the question mark: its parameters are added for each question.")
    try:
        found = list(dict.fromkeys(str(info[4][0]) for info in socket.getaddrinfo(result.hostname, result.port, type=socket.SOCK_STREAM)))
    except (OSError, UnicodeError, ValueError):
        raise ValueError(f"There is no server named {result.hostname}.") from None
    if not private and not all(_outside(one) for one in found):
        raise ValueError(f"{result.hostname} lies within the network of this server, which is not asked.")
    return sorted(found, key=lambda one: ":" in one)


def _outside(number: str) -> bool:
    address = ipaddress.ip_address(number.partition("%")[0])
    if isinstance(address, ipaddress.IPv6Address):
        if address.ipv4_mapped:
            return address.ipv4_mapped.is_global
        if any(address in network for network in _WITHIN):
            return False
    return address.is_global and not address.is_multicast


@dataclass
class Manners:
    """How to ask: seconds for one try, how many tries, the first pause (each next is twice as long), pauses of at most, requests a second and host, bytes of an answer."""

    seconds: float = 20.0
    tries: int = 4
    first_pause: float = 0.5
    longest_pause: float = 20.0
    a_second: float = 6.0
    largest: int = 20_000_000
    private: bool = False
    sleep: Callable[[float], None] = field(default=lambda seconds: time.sleep(seconds))


_next: defaultdict[str, float] = defaultdict(float)
_guard = threading.Lock()


def _wait_for_turn(host: str, manners: Manners) -> None:
    with _guard:
        now = time.monotonic()
        turn = max(now, _next[host])
        _next[host] = turn + 1 / manners.a_second
    if turn > now:
        manners.sleep(turn - now)


class Posted(NamedTuple):
    """What is sent to a server: JSON, and a key that it knows us by, "" for none."""

    body: bytes
    key: str = ""


def ask(address: str, parameters: Mapping[str, str], accept: str, manners: Manners, posted: Posted | None = None) -> bytes:
    """What a server answers. A try that fails for a reason that passes is made again; raises Unreachable, Refused or ValueError.

    What is ``posted`` goes to the address that was named, never to another that it leads to.
    """
    host = urlsplit(address).netloc
    pause, last = manners.first_pause, ""
    for k in range(manners.tries):
        numbers = check_address(address, private=manners.private)
        _wait_for_turn(host, manners)
        try:
            return _once(address, numbers[k % len(numbers)], parameters, accept, manners, posted)
        except httpx.TimeoutException:
            last = f"no answer within {manners.seconds:g} seconds"
        except _Again as again:
            last, pause = str(again), max(pause, again.pause)
        except (httpx.HTTPError, httpx.InvalidURL) as error:
            last = f"the connection failed ({type(error).__name__})"
        if k + 1 < manners.tries:
            manners.sleep(min(pause, manners.longest_pause))
            pause *= 2
    raise Unreachable(f"{host} could not be asked: {last}, {manners.tries} times.")


class _Again(Exception):
    def __init__(self, message: str, pause: float) -> None:
        super().__init__(message)
        self.pause = pause


def _once(
    address: str, number: str, parameters: Mapping[str, str], accept: str, manners: Manners, posted: Posted | None = None, hops: int = 3
) -> bytes:
    """Ask the server with this ``number``, under the name that ``address`` gives it."""
    url = httpx.URL(address)
    headers = {"Accept": accept, "User-Agent": "KettleSort/0.1", "Host": url.netloc.decode("ascii")}
    if posted:
        headers |= {"Content-Type": "application/json", **({"Authorization": f"Bearer {posted.key}"} if posted.key else {})}
    named = {"sni_hostname": url.raw_host.decode("ascii")}
    begun = time.monotonic()
    with (
        httpx.Client(timeout=manners.seconds, follow_redirects=False, trust_env=False) as client,
        client.stream(
            "POST" if posted else "GET",
            url.copy_with(host=number.partition("%")[0]),
            params=parameters or None,
            headers=headers,
            content=posted.body if posted else None,
            extensions=named,
        ) as answer,
    ):
        if answer.status_code == 429 or answer.status_code >= 500:
            wanted = answer.headers.get("Retry-After", "")
            raise _Again(f"it answered {answer.status_code}", float(wanted) if wanted.isdecimal() and len(wanted) < 4 else 0.0)
        if answer.is_redirect and hops and not posted:
            there = urljoin(address, answer.headers["Location"])
            numbers = check_address(there.partition("?")[0].partition("#")[0], private=manners.private)
            return _once(there, numbers[0], {}, accept, manners, None, hops - 1)
        if answer.status_code >= 300:
            raise Refused(answer.status_code, f"it answered {answer.status_code}")
        out = bytearray()
        for piece in answer.iter_bytes():
            out += piece
            if len(out) > manners.largest:
                raise Refused(answer.status_code, f"it sent more than {manners.largest // 1_000_000} MB")
            if time.monotonic() - begun > 3 * manners.seconds:  # a server that trickles never times out by itself
                raise _Again(f"its answer took longer than {3 * manners.seconds:g} seconds", 0.0)
        return bytes(out)
