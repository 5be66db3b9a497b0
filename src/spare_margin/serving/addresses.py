"""By which names and addresses this machine is reached on the local network."""

import socket
from ipaddress import IPv4Address, ip_address

import ifaddr


def lan_addresses() -> list[str]:
    """The IPv4 addresses that others on the network may reach: private ones first, no loopback.

    IPv6 ones are left out: they are long to type, and change by themselves.
    """
    found = {
        str(ip.ip)
        for adapter in ifaddr.get_adapters()
        for ip in adapter.ips
        if isinstance(ip.ip, str)
    }
    addresses = [IPv4Address(a) for a in found if isinstance(ip_address(a), IPv4Address)]
    usable = [a for a in addresses if not a.is_loopback and not a.is_link_local]
    return [str(a) for a in sorted(usable, key=lambda a: (not a.is_private, a))]


def host_names() -> list[str]:
    """This machine's name, plain and as the network's own name service has it."""
    name = socket.gethostname().split(".")[0].lower()
    return [name, f"{name}.local"] if name and name != "localhost" else []


def names_and_addresses() -> list[str]:
    """Everything this machine may be called on the network."""
    return [*lan_addresses(), *host_names()]
