"""Hosts of addresses as the domain name system knows them: names in other letters become punycode (RFC 5891)."""

from __future__ import annotations

from collections.abc import Iterable
from contextlib import suppress
from urllib.parse import urlsplit

import idna

from davlo.core.arrays.texts import Texts
from davlo.core.faults import ValueFault
from davlo.core.outcomes.sitemap.addresses import encode_addresses


def ascii_address(address: str) -> str:
    """An address with its host as the domain name system knows it; the rest stays as it is.

    Raises ValueFault if no host can have that name.

    Example
    -------
    >>> ascii_address("https://gärten.example/über")
    'https://xn--grten-gra.example/über'
    """
    if address.isascii():
        return address
    try:
        netloc = urlsplit(address).netloc
    except ValueError:
        return address
    host, colon, port = netloc.partition(":")
    if host.isascii():
        return address
    try:
        plain = idna.encode(host, uts46=True).decode()
    except idna.IDNAError as error:
        raise ValueFault(f"no host can be called {host!r}: {error}") from None
    return address.replace(netloc, plain + colon + port, 1)


def with_small_host(address: str) -> str:
    """A full address with its scheme and host in small letters, and a path: it means the same.

    RFC 3986, sections 6.2.2.1 and 6.2.3.

    Example
    -------
    >>> with_small_host("HTTPS://Garden.example/Über"), with_small_host("/visit"), with_small_host("http://a.example")
    ('https://garden.example/Über', '/visit', 'http://a.example/')
    """
    scheme, between, rest = address.partition("://")
    host, _, path = rest.partition("/")
    return f"{scheme.lower()}://{host.lower()}/{path}" if between else address


def as_published(addresses: Iterable[str]) -> list[str]:
    """Full addresses in the form that compares them: host in ASCII and small letters, the rest percent-encoded.

    A host that no host can be called stays as it is.

    Example
    -------
    >>> as_published(["HTTPS://Gärten.example/über uns"])
    ['https://xn--grten-gra.example/%C3%BCber%20uns']
    """
    plain = []
    for address in addresses:
        with suppress(ValueFault):
            address = ascii_address(address)
        plain.append(with_small_host(address))
    return encode_addresses(Texts.of(plain)).tolist()
