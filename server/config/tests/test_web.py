"""The web server's own process: many requests one after the other, many at once, and connections that stall."""

from __future__ import annotations

import http.client
import re
import socket
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.db import connection
from django.test import TransactionTestCase

from accounts.models import SecurityEvent, User
from coombe_launcher.places import SERVER
from recording.models import Recorder
from recording.tests.recording_case import environment
from runs.tests.factories import SetupFactory
from trials import load
from trials.asking import Asker
from trials.served import Web

YEAR_S = 365 * 24 * 3600


class WebTest(TransactionTestCase):
    def setUp(self):
        self.var = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.web = Web({**environment(self.var), "COOMBE_HEAD_S": "0.5"})
        self.addCleanup(self.web.stop)

    def connections(self) -> int:
        with connection.cursor() as cursor:
            cursor.execute("SELECT COUNT(*) FROM information_schema.processlist WHERE db = DATABASE()")
            return cursor.fetchone()[0]

    def test_requests_one_after_the_other_leave_no_connection_behind(self):
        """The 149th of 600 was refused once: every request left a connection that nobody would use again."""
        before = self.connections()
        self.assertEqual({self.web.ask("GET", "/api/v1/session/") for _ in range(200)}, {200})
        self.assertLessEqual(self.connections(), before + 2)

    def test_who_asks_before_it_is_up_waits_for_a_socket_that_was_open_before(self):
        with socket.create_server(("127.0.0.1", 0)) as listening:
            asking = http.client.HTTPConnection(*listening.getsockname(), timeout=60)
            asking.request("GET", "/health/live")
            number, port = listening.fileno(), listening.getsockname()[1]
            where = ["--host", "127.0.0.1", "--port", str(port), "--socket", str(number), "--workers", "2"]
            command = [sys.executable, "-m", "config.web", *where]
            process = subprocess.Popen(command, cwd=SERVER, env=environment(self.var), pass_fds=[number])
        self.addCleanup(process.wait)
        self.addCleanup(process.terminate)
        self.assertEqual(asking.getresponse().status, 200)
        asking.close()

    def test_fifty_at_once_are_all_answered(self):
        found = load.Load()
        load._at_once(load.READERS, lambda place: load._read(self.web, found, 2.0))
        self.assertEqual(set(found.read), {200})
        self.assertGreaterEqual(found.read.total(), load.READERS)

    def test_a_head_that_never_ends_is_not_waited_for(self):
        for begun in (b"", b"GET /api/v1/session/ HTTP/1.1\r\nHost: 127.0.0.1\r\nX-Slow: "):
            with socket.create_connection(("127.0.0.1", self.web.port), 30) as line:
                line.sendall(begun)
                self.assertEqual(line.recv(1), b"", begun)  # closed from there, or the test ends in a timeout

    def test_files_with_a_hash_in_their_name_are_kept_for_good_and_pages_are_not(self):
        hashed = next((settings.WEB_BUILD / "assets").glob("index-*.js"))
        kept = self.headers(f"/static/assets/{hashed.name}")
        self.assertIn("immutable", kept["Cache-Control"])
        self.assertGreaterEqual(int(re.search(r"max-age=(\d+)", kept["Cache-Control"]).group(1)), YEAR_S)
        self.assertNotIn("immutable", self.headers("/runs").get("Cache-Control", ""))

    def headers(self, path: str) -> http.client.HTTPMessage:
        line = http.client.HTTPConnection("127.0.0.1", self.web.port, timeout=30)
        self.addCleanup(line.close)
        line.request("GET", path)
        answer = line.getresponse()
        self.assertEqual(answer.status, 200, path)
        return answer.headers

    def test_the_time_begins_anew_on_a_connection_that_is_used_again(self):
        with socket.create_connection(("127.0.0.1", self.web.port), 30) as line:
            line.sendall(b"GET /api/v1/session/ HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
            answer = http.client.HTTPResponse(line)
            answer.begin()
            answer.read()
            self.assertEqual(answer.status, 200)
            line.sendall(b"GET /api/v1/cars/ HTTP/1.1\r\nX-Slow: ")
            self.assertEqual(line.recv(1), b"")

    def test_nobody_says_where_they_come_from_but_their_connection(self):
        line = http.client.HTTPConnection("127.0.0.1", self.web.port, timeout=30)
        token = {**Asker(self.web.port).headers, "Content-Type": "application/json"}
        forged = {**token, "X-Forwarded-For": "198.51.100.7", "Forwarded": "for=198.51.100.7"}
        line.request("POST", "/api/v1/session/", '{"username": "nobody", "password": "wrong"}', forged)
        self.assertEqual(line.getresponse().status, 403)
        self.assertEqual(SecurityEvent.objects.get(kind="failed log-in").address, "127.0.0.1")

    def test_a_large_body_of_a_stranger_is_refused_before_it_is_sent(self):
        with socket.create_connection(("127.0.0.1", self.web.port), 30) as line:
            line.sendall(b"POST /api/v1/logs/ HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 100000000\r\n\r\n")
            answer = http.client.HTTPResponse(line)
            answer.begin()
            self.assertEqual((answer.status, answer.headers["Content-Type"]), (401, "application/problem+json"))
        self.assertEqual(list((self.var / "uploads").glob("*")), [])

    def test_uploads_eight_at_a_time_are_each_stored_once(self):
        with mock.patch.object(load, "_heavy", return_value={}), mock.patch.object(load, "Web", return_value=self.web):
            found = load.load(0.1, 24)
        self.assertEqual((dict(found.uploaded), found.logs), ({202: 24}, 24))

    def test_a_person_who_is_disabled_hears_no_more_of_a_recorder(self):
        person = User.objects.get(username__startswith="load-")
        recorder = Recorder.objects.create(name="One", setup=SetupFactory())
        line = http.client.HTTPConnection("127.0.0.1", self.web.port, timeout=30)
        line.request("GET", f"/api/v1/recorders/{recorder.pk}/live/", headers=self.web.asker.headers)
        answer = line.getresponse()
        self.assertEqual(answer.status, 200)
        self.assertIn(b"away", answer.readline())
        User.objects.filter(pk=person.pk).update(is_active=False)
        while answer.readline():  # until it ends from there, or the test does in a timeout
            pass
        self.assertEqual(self.web.ask("GET", f"/api/v1/recorders/{recorder.pk}/live/"), 401)
