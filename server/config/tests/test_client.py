"""The client package: its example against a real server, its classes against the API's schema."""

from __future__ import annotations

import http.server
import json
import os
import re
import subprocess
import sys
import tempfile
import threading
import typing
from contextlib import contextmanager
from dataclasses import fields
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase, TransactionTestCase

from accounts import tokens
from accounts.models import Role
from coombe_client import Coombe, CoombeError, NotDoneError, answers
from coombe_core.formats import write_log
from coombe_core.packages.reading import read_package
from coombe_core.packages.verifying import verify
from coombe_core.simulating.scenarios import SCENARIOS, simulate
from recording.tests.recording_case import environment
from runs.models import Log
from runs.tests.factories import UserFactory
from trials.served import Web

SCHEMA = json.loads((settings.ROOT / "server" / "openapi.json").read_text())["components"]["schemas"]
# Which part of the schema each class is, and what it makes of what is answered.
CLASSES = {
    answers.Car: ("Car", set()),
    answers.Setup: ("Setup", set()),
    answers.Upload: ("Imported", {"log", "refusal", "path"}),
    answers.Measured: ("Headline", set()),
    answers.Run: ("RunRow", {"headlines"}),
    answers.Difference: ("Difference", set()),
    answers.Verdict: ("Pair", {"difference"}),
    answers.Comparison: ("Comparison", {"verdicts"}),
}
TYPES = {"integer": int, "number": float, "string": str, "boolean": bool}


class SchemaTest(SimpleTestCase):
    def test_every_field_is_in_the_schema_with_its_type(self):
        for kind, (name, made) in CLASSES.items():
            hints = typing.get_type_hints(kind)
            for field in fields(kind):
                if field.name in made:
                    continue
                with self.subTest(f"{name}.{field.name}"):
                    described = SCHEMA[name]["properties"][field.name]
                    for each in described.get("allOf", []):
                        described = {**SCHEMA[each["$ref"].rsplit("/", 1)[-1]], **described}
                    if "$ref" in described:
                        described = SCHEMA[described["$ref"].rsplit("/", 1)[-1]]
                    expected = TYPES[described["type"]]
                    self.assertEqual(hints[field.name], expected | None if described.get("nullable") else expected)

    def test_the_states_that_have_ended_are_those_of_the_server(self):
        states = SCHEMA["ImportedStateEnum"]["enum"]
        ended = {state for state in states if answers.Upload(1, "a", state, 0, 0, False, None, None).ended}
        self.assertEqual(ended, {"done", "refused", "canceled"})


class ExampleTest(TransactionTestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        web = Web(environment(self.folder / "var"))
        self.addCleanup(web.stop)
        self.address = f"http://127.0.0.1:{web.port}"
        _, self.token = tokens.make_token(None, UserFactory(role=Role.TESTER), "client", Role.TESTER)
        for side, seeds in (("before", (11, 12)), ("after", (13, 14))):
            (self.folder / side).mkdir()
            for seed in seeds:
                data = write_log(simulate(SCENARIOS["clean-run"], seed).trace, "nmea")
                (self.folder / side / f"{side}-{seed}.nmea").write_bytes(data)

    def test_the_example_goes_from_two_folders_to_a_package_that_is_worked_out_again(self):
        (self.folder / "before" / "words.csv").write_text("no log\n")
        (self.folder / "before" / "notes.md").write_text("not sent\n")
        env = {**os.environ, "COOMBE": self.address, "TOKEN": self.token}
        command = [sys.executable, str(settings.ROOT / "client" / "example.py"), "before", "after"]
        done = subprocess.run(command, cwd=self.folder, env=env, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        self.assertRegex(done.stdout, "words.csv: refused, 0 runs .+")
        self.assertEqual(len(re.findall(r": done, [1-9] runs", done.stdout)), 4, done.stdout)
        self.assertEqual(done.stdout.count("before: ") + done.stdout.count("after: "), 4)
        opened = read_package((self.folder / "comparison.zip").open("rb"))
        self.assertEqual([each for each in verify(opened) if each.outcome != "agrees"], [])
        self._and_what_else_it_does()

    def _and_what_else_it_does(self):
        coombe = Coombe(self.address, self.token)
        (car,) = coombe.cars()
        first, second = sorted(coombe.setups(car), key=lambda setup: setup.id)
        self.assertEqual((first.run_count, second.run_count), (4, 4))  # each log has a run and a stop
        path = self.folder / "after" / "after-13.nmea"
        (again,) = coombe.wait([coombe.upload(path, first)])
        self.assertTrue(again.already)
        log = Log.objects.get(name="after-13.nmea")
        self.assertEqual(coombe.download_log(log.pk, self.folder / "again.nmea").read_bytes(), path.read_bytes())
        self.assertEqual(coombe.download_spreadsheet(self.folder / "runs.xlsx").read_bytes()[:2], b"PK")
        runs = {
            setup.name: [run.id for run in coombe.runs(setup=setup.id, kind="standing")] for setup in (first, second)
        }
        saved = coombe.save_comparison("Again?", "0-60 mph", "rollout", runs)
        self.assertEqual(list(saved.verdicts), coombe.compare("0-60 mph", "rollout", runs))
        self.assertEqual(coombe.comparison(saved.id), saved)
        with self.assertRaisesRegex(CoombeError, "name") as refused:
            coombe.add_car("Corvina")
        self.assertEqual((refused.exception.status, list(refused.exception.fields)), (400, ["name"]))
        with self.assertRaises(CoombeError) as refused:
            coombe.download_log(10**6, self.folder / "none")
        self.assertEqual(refused.exception.status, 404)
        self.assertFalse((self.folder / "none").exists())
        with self.assertRaises(CoombeError) as refused:
            Coombe(self.address, "coombe_guessed").upload_folder(self.folder / "after", first)
        self.assertEqual(refused.exception.status, 401)


class Odd(http.server.BaseHTTPRequestHandler):
    """A server that is no Coombe, or breaks off."""

    def do_GET(self):
        if "original" in self.path:
            self.send_response(200)
            self.send_header("Content-Length", "1000")
            self.end_headers()
            self.wfile.write(b"half of it")
        elif "imports" in self.path:
            found = {"id": 1, "name": "a", "state": "timing", "runs_found": 0, "runs_timed": 0, "already": False}
            self.send_response(200)
            self.end_headers()
            self.wfile.write(json.dumps({**found, "log": None, "refusal": None}).encode())
        else:
            self.send_response(502)
            self.end_headers()
            self.wfile.write(b"<html>Bad gateway</html>")

    def log_message(self, *args):
        """Quiet."""


class TroubleTest(SimpleTestCase):
    @contextmanager
    def odd(self):
        server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Odd)
        thread = threading.Thread(target=server.serve_forever)
        thread.start()
        try:
            yield Coombe(f"http://127.0.0.1:{server.server_port}/", "coombe_x")
        finally:
            server.shutdown()
            server.server_close()
            thread.join()

    def test_what_is_no_answer_of_coombe_is_told_with_its_status(self):
        with self.odd() as coombe, self.assertRaisesRegex(CoombeError, "cars/ answers 502"):
            list(coombe.cars())

    def test_half_a_file_is_none(self):
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        with self.odd() as coombe, self.assertRaisesRegex(CoombeError, "broke"):
            coombe.download_log(1, folder / "log")
        self.assertEqual(list(folder.iterdir()), [])

    def test_what_is_not_timed_by_the_limit_is_named(self):
        waiting = answers.Upload(1, "a", "waiting", 0, 0, False, None, None)
        with self.odd() as coombe, self.assertRaisesRegex(NotDoneError, "within 0 s: a"):
            coombe.wait([waiting], limit_s=0, every_s=0)

    def test_nobody_there(self):
        with self.odd() as coombe:
            pass
        with self.assertRaisesRegex(CoombeError, "does not answer") as refused:
            list(coombe.cars())
        self.assertEqual(refused.exception.status, 0)
