"""Until when a TLS certificate holds, and whether its key belongs to it."""

from __future__ import annotations

import socket
import ssl
import time
from pathlib import Path

from coombe_launcher.console import LauncherError

ANSWERS_WITHIN_S = 5.0
DAY_S = 86_400
EXPIRED = 10  # X509_V_ERR_CERT_HAS_EXPIRED of openssl


def days_left(certificate: Path, key: Path) -> float:
    """For how many days a certificate still holds. Raises LauncherError where it expired, or the key is another's."""
    serving = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    try:
        serving.load_cert_chain(certificate, key)
    except (ssl.SSLError, OSError) as error:
        raise LauncherError(f"{certificate} and {key} are no certificate with its key: {error}") from None
    to_server, to_client = ssl.MemoryBIO(), ssl.MemoryBIO()
    server = serving.wrap_bio(to_server, to_client, server_side=True)
    client = _trusting(certificate.read_text()).wrap_bio(to_client, to_server)
    for side in (client, server, client):
        try:
            side.do_handshake()
        except ssl.SSLWantReadError:
            continue
        except ssl.SSLCertVerificationError as error:
            raise _refused(error, str(certificate)) from None
    return _days_of(client)


def days_left_at(host: str, port: int) -> float:
    """The same of the certificate that a server shows. Raises LauncherError, also where it does not answer."""
    try:
        shown = ssl.get_server_certificate((host, port), timeout=ANSWERS_WITHIN_S)
        with (
            socket.create_connection((host, port), ANSWERS_WITHIN_S) as line,
            _trusting(shown).wrap_socket(line) as asking,
        ):
            return _days_of(asking)
    except ssl.SSLCertVerificationError as error:
        raise _refused(error, "the certificate") from None
    except OSError as error:
        raise LauncherError(f"nothing serves at {host}:{port}: {error}") from None


def _trusting(certificate: str) -> ssl.SSLContext:
    """What trusts one certificate whoever signed it, and looks at its dates."""
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    context.check_hostname = False
    context.verify_flags |= ssl.VERIFY_X509_PARTIAL_CHAIN
    context.load_verify_locations(cadata=certificate)
    return context


def _days_of(side: ssl.SSLObject | ssl.SSLSocket) -> float:
    facts = side.getpeercert()
    assert facts
    return (ssl.cert_time_to_seconds(str(facts["notAfter"])) - time.time()) / DAY_S


def _refused(error: ssl.SSLCertVerificationError, name: str) -> LauncherError:
    if error.verify_code == EXPIRED:
        return LauncherError(f"{name} has expired: browsers refuse it; put a new one in its place")
    return LauncherError(f"{name} does not hold: {error.verify_message}")
