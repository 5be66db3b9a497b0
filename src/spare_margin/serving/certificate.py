"""The certificate by which the local network's door speaks TLS, made on first use for this machine's names.

It is signed by itself: no authority vouches for a workshop's laptop. A phone therefore warns until it is
told to trust it, or until the certificate is put on it.
"""

import os
from collections.abc import Sequence
from datetime import datetime, timedelta
from ipaddress import ip_address, ip_network
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

from spare_margin.serving.doors import Certificate
from spare_margin.store.file.database import DatabaseError

LASTS = timedelta(days=397)
"""Phones refuse certificates that are good for longer."""
RENEWED_BEFORE = timedelta(days=30)


def certificate_for(folder: Path, names: Sequence[str], now: datetime) -> Certificate:
    """The certificate in a folder, made anew where it does not hold every name, or ends soon.

    `names` are host names and IP addresses. Raises DatabaseError where it cannot be kept.
    """
    files = Certificate(folder / "certificate.pem", folder / "key.pem")
    if not _holds(files, names, now):
        try:
            _make(files, names, now)
        except OSError as trouble:
            raise DatabaseError(f"No certificate could be kept: {trouble.strerror}.") from None
    return files


def fingerprint(files: Certificate) -> str:
    """SHA-256 of the certificate as phones show it: pairs of hex figures with colons."""
    made = x509.load_pem_x509_certificate(files.certificate.read_bytes())
    return made.fingerprint(hashes.SHA256()).hex(":").upper()


def _holds(files: Certificate, names: Sequence[str], now: datetime) -> bool:
    try:
        made = x509.load_pem_x509_certificate(files.certificate.read_bytes())
        key = serialization.load_pem_private_key(files.key.read_bytes(), None)
    except (OSError, ValueError):
        return False
    held = made.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    said = {str(name.value) for name in held}
    belongs = made.public_key() == key.public_key() and _is_constrained(made)
    return belongs and set(names) <= said and now < made.not_valid_after_utc - RENEWED_BEFORE


def _make(files: Certificate, names: Sequence[str], now: datetime) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Spare Margin, this workshop")])
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))  # the phone's clock may be behind
        .not_valid_after(now + LASTS)
        .add_extension(x509.SubjectAlternativeName([_general(n) for n in names]), critical=False)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        # A phone takes a certificate of one's own for an authority: this one is for these names alone.
        .add_extension(
            x509.NameConstraints([_subtree(n) for n in names], excluded_subtrees=None),
            critical=True,
        )
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(key, hashes.SHA256())
    )
    files.key.parent.mkdir(parents=True, exist_ok=True)
    plain = serialization.NoEncryption()
    form = serialization.PrivateFormat.PKCS8
    _write(files.key, key.private_bytes(serialization.Encoding.PEM, form, plain))
    _write(files.certificate, made.public_bytes(serialization.Encoding.PEM))


def _is_constrained(made: x509.Certificate) -> bool:
    try:
        made.extensions.get_extension_for_class(x509.NameConstraints)
    except x509.ExtensionNotFound:
        return False
    return True


def _subtree(name: str) -> x509.GeneralName:
    """A name as what a certificate may vouch for: an address alone, a host with what is below it."""
    try:
        return x509.IPAddress(ip_network(name))
    except ValueError:
        return x509.DNSName(name)


def _general(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _write(path: Path, content: bytes) -> None:
    """Write a file that no other user of this machine reads."""
    part = path.with_name(f"{path.name}.part")
    part.unlink(missing_ok=True)
    with os.fdopen(os.open(part, os.O_CREAT | os.O_WRONLY, 0o600), "wb") as file:
        file.write(content)
    os.replace(part, path)
