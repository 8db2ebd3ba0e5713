"""From where a request comes: the address of whoever sent it, past the proxies in front of us.

client_of(request)      # "192.0.2.7", or "2001:db8:1:2::/64"
"""

from ipaddress import IPv6Address, IPv6Network, ip_address

from django.conf import settings
from django.http import HttpRequest


def client_of(request: HttpRequest) -> str:
    """The client's address; of IPv6 its network, since one client has all addresses in it.

    `settings.PROXIES` proxies are trusted to name theirs in X-Forwarded-For; what stands further left there anybody
    may have written.
    """
    sender = str(request.META.get("REMOTE_ADDR", ""))
    named = [part.strip() for part in request.headers.get("X-Forwarded-For", "").split(",") if part.strip()]
    steps = [*named, sender]
    text = steps[max(len(steps) - 1 - settings.PROXIES, 0)]
    try:
        address = ip_address(text)
    except ValueError:
        return sender[:60]
    return str(IPv6Network((address, 64), strict=False)) if isinstance(address, IPv6Address) else str(address)
