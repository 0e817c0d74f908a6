"""The certificate for other devices: a client that trusts it connects, its key is nobody else's to read."""

from __future__ import annotations

import socket
import ssl
import tempfile
import threading
from datetime import timedelta
from pathlib import Path
from unittest import TestCase, mock

from accounts import certificate
from accounts.certificate import addresses, ensure, fingerprint


class CertificateTest(TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_a_client_that_trusts_it_connects_by_name_and_by_address(self):
        ensure(self.folder, ["localhost", "127.0.0.1"])
        serving = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
        serving.load_cert_chain(self.folder / "certificate.pem", self.folder / "key.pem")
        trusting = ssl.create_default_context(cafile=self.folder / "certificate.pem")
        for name in ("localhost", "127.0.0.1"):
            with socket.create_server(("127.0.0.1", 0)) as server:
                answering = threading.Thread(target=self.answer, args=(server, serving))
                answering.start()
                with (
                    socket.create_connection(server.getsockname()) as line,
                    trusting.wrap_socket(line, server_hostname=name) as safe,
                ):
                    self.assertEqual(safe.recv(5), b"hello")
                answering.join()

    @staticmethod
    def answer(server: socket.socket, serving: ssl.SSLContext) -> None:
        with serving.wrap_socket(server.accept()[0], server_side=True) as line:
            line.sendall(b"hello")

    def test_only_its_owner_reads_the_key(self):
        ensure(self.folder, ["localhost"])
        self.assertEqual((self.folder / "key.pem").stat().st_mode & 0o077, 0)

    def test_it_stays_until_the_address_changes_or_it_grows_old(self):
        first = fingerprint(ensure(self.folder, ["localhost", "127.0.0.1"]))
        self.assertEqual(fingerprint(ensure(self.folder, ["127.0.0.1"])), first)
        moved = fingerprint(ensure(self.folder, ["localhost", "192.0.2.7"]))
        self.assertNotEqual(moved, first)
        with mock.patch.object(certificate, "RENEWED_BEFORE", timedelta(days=500)):
            self.assertNotEqual(fingerprint(ensure(self.folder, ["localhost"])), moved)

    def test_this_machine_has_its_loopback_addresses_at_least(self):
        self.assertLessEqual({"127.0.0.1", "localhost"}, set(addresses()))
