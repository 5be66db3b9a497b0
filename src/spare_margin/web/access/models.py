"""What the door takes and gives."""

from typing import Annotated, Literal

from pydantic import Field

from spare_margin.web.common.models import Model

Words = Annotated[str, Field(max_length=200)]


class AccessOut(Model):
    """How the page that asks stands: at this machine itself, or on the network; and as which device."""

    door: Literal["here", "network"]
    paired: bool
    device: str
    person: str
    ends_at: str | None


class PairIn(Model):
    """What pairs a device: a code of this machine's page, or the passphrase; and what it is called."""

    code: Words = ""
    passphrase: Words = ""
    name: Words
    person: Words


class DeviceOut(Model):
    """A paired device."""

    id: str
    name: str
    person: str
    paired_at: str
    ends_at: str
    seen_at: str


class DeviceIn(Model):
    """What a device is to be called, and whose it is."""

    name: Words
    person: Words


class NetworkOut(Model):
    """How the local network's door stands. `possible`: this program can open one."""

    possible: bool
    open: bool
    urls: list[str]
    secure: bool
    fingerprint: str
    passphrase: bool
    devices: list[DeviceOut]


class NetworkIn(Model):
    """The door open or closed."""

    open: bool


class PassphraseIn(Model):
    """A passphrase of one's own; without one, four words are made up."""

    passphrase: Words | None = None


class PassphraseOut(Model):
    """The passphrase as it is now. It is shown this once: only its hash is kept."""

    passphrase: str


class CodeOut(Model):
    """A pairing code, for one device: what a phone scans (an SVG picture of `url`), until when."""

    code: str
    url: str
    picture: str
    lasts_s: int


class DevicePath(Model):
    """The device that an address names."""

    device: str
