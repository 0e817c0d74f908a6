"""The certificate of this installation, for other devices on the network: made at first start, by itself signed."""

from __future__ import annotations

import ipaddress
import os
import socket
from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

VALID = timedelta(days=397)  # browsers refuse more
RENEWED_BEFORE = timedelta(days=30)
SIGNS_OTHERS = False  # whoever trusts it trusts this machine, and no name that its key could sign for


def addresses() -> list[str]:
    """The names and addresses that other devices may find this machine by."""
    found = ["127.0.0.1", "localhost", socket.gethostname()]
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # sends nothing; tells which address would be used
            found.append(probe.getsockname()[0])
        except OSError:
            pass
    return list(dict.fromkeys(found))


def ensure(folder: Path, names: Sequence[str]) -> x509.Certificate:
    """The certificate in `folder` (key.pem, certificate.pem), made anew where it is missing, old or of other names."""
    path = folder / "certificate.pem"
    if path.exists():
        known = x509.load_pem_x509_certificate(path.read_bytes())
        lasting = known.not_valid_after_utc - datetime.now(UTC) > RENEWED_BEFORE
        if _names(known) >= set(names) and lasting and not _signs_others(known):
            return known
    folder.mkdir(parents=True, exist_ok=True)
    key = ec.generate_private_key(ec.SECP256R1())
    made = _signed(key, names)
    secret = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    handle = os.open(folder / "key.pem", os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "wb") as file:
        file.write(secret)
    path.write_bytes(made.public_bytes(serialization.Encoding.PEM))
    return made


def fingerprint(certificate: x509.Certificate) -> str:
    """SHA-256 as browsers show it."""
    return certificate.fingerprint(hashes.SHA256()).hex(":").upper()


def _signed(key: ec.EllipticCurvePrivateKey, names: Sequence[str]) -> x509.Certificate:
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Coombe on this machine")])
    now = datetime.now(UTC)
    builder = x509.CertificateBuilder(subject, subject, key.public_key(), x509.random_serial_number())
    builder = builder.not_valid_before(now - timedelta(hours=1)).not_valid_after(now + VALID)
    builder = builder.add_extension(x509.SubjectAlternativeName([_name(name) for name in names]), critical=False)
    builder = builder.add_extension(x509.BasicConstraints(ca=SIGNS_OTHERS, path_length=None), critical=True)
    builder = builder.add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
    return builder.sign(key, hashes.SHA256())


def _name(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _signs_others(certificate: x509.Certificate) -> bool:
    return bool(certificate.extensions.get_extension_for_class(x509.BasicConstraints).value.ca)


def _names(certificate: x509.Certificate) -> set[str]:
    names = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return {*names.get_values_for_type(x509.DNSName), *map(str, names.get_values_for_type(x509.IPAddress))}
