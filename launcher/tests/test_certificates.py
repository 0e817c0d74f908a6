"""Certificates that hold, end soon, have expired or are another key's, as files and as a server shows them."""

from __future__ import annotations

import socket
import ssl
import tempfile
import threading
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import TestCase, mock

from cryptography import x509
from cryptography.hazmat.primitives import hashes
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.serialization import Encoding, NoEncryption, PrivateFormat
from cryptography.x509.oid import NameOID

from coombe_launcher import doctor
from coombe_launcher.certificates import days_left, days_left_at
from coombe_launcher.console import LauncherError
from coombe_launcher.deploying import Installation


class CertificateTest(TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def made(self, days: float) -> tuple[Path, Path]:
        """A certificate that ends after a number of days, and its key."""
        key, now = ec.generate_private_key(ec.SECP256R1()), datetime.now(UTC)
        name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "tests.example.org")])
        signed = (
            x509.CertificateBuilder(name, name, key.public_key(), x509.random_serial_number())
            .not_valid_before(now - timedelta(days=900))
            .not_valid_after(now + timedelta(days=days))
            .sign(key, hashes.SHA256())
        )
        paths = self.folder / f"{days}.pem", self.folder / f"{days}.key"
        paths[0].write_bytes(signed.public_bytes(Encoding.PEM))
        paths[1].write_bytes(key.private_bytes(Encoding.PEM, PrivateFormat.PKCS8, NoEncryption()))
        return paths

    def served(self, days: float) -> int:
        """The port of a server that shows such a certificate."""
        context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        context.load_cert_chain(*self.made(days))
        listening = socket.create_server(("127.0.0.1", 0))
        self.addCleanup(listening.close)

        def serve() -> None:
            with suppress(OSError):
                while True:
                    line, _ = listening.accept()
                    with suppress(OSError), context.wrap_socket(line, server_side=True) as safe:
                        safe.recv(1)

        threading.Thread(target=serve, daemon=True).start()
        return listening.getsockname()[1]

    def test_one_that_holds_says_for_how_long(self):
        self.assertAlmostEqual(days_left(*self.made(90)), 90, delta=0.1)
        self.assertAlmostEqual(days_left_at("127.0.0.1", self.served(90)), 90, delta=0.1)

    def test_one_that_expired_is_refused_before_anything_is_installed(self):
        certificate, key = self.made(-1)
        with self.assertRaisesRegex(LauncherError, r"-1\.pem has expired: browsers refuse it"):
            Installation("a.example.org", Path("/var/backups"), certificate, key, root=self.folder / "root").check()
        with self.assertRaisesRegex(LauncherError, "the certificate has expired"):
            days_left_at("127.0.0.1", self.served(-1))

    def test_a_key_of_another_certificate_is_refused(self):
        with self.assertRaisesRegex(LauncherError, "are no certificate with its key"):
            days_left(self.made(90)[0], self.made(80)[1])

    def test_the_doctor_says_that_one_ends_soon_or_that_nothing_serves(self):
        for port, sentence in ((self.served(5), "it expires in 5 days"), (1, "nothing serves")):
            with mock.patch.object(doctor, "HTTPS_PORT", port), self.assertRaisesRegex(LauncherError, sentence):
                doctor._certificate()
        with mock.patch.object(doctor, "HTTPS_PORT", self.served(90)):
            self.assertEqual(doctor._certificate(), "it holds for 90 days")
