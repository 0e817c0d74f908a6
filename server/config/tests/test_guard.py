"""What stands before the application: bodies by size, sender and time, and no connection that is never given back."""

from __future__ import annotations

import asyncio
import json
from unittest import mock

from django.test import TransactionTestCase, override_settings
from rest_framework.test import APIClient

from accounts.sessions import SessionStore
from config import guard
from config.guard import ANYBODY_BYTES, DATA_BYTES, Guard, limit_bytes
from runs.tests.factories import UserFactory


class Sent:
    """What went out, and what an application behind the guard saw."""

    def __init__(self) -> None:
        self.messages: list[dict] = []
        self.seen = 0
        self.reached_end = False

    async def send(self, message: dict) -> None:
        self.messages.append(dict(message))

    async def application(self, scope, receive, send) -> None:
        while True:
            message = await receive()
            self.seen += len(message.get("body", b""))
            if not message.get("more_body"):
                break
        self.reached_end = True
        await send({"type": "http.response.start", "status": 204, "headers": []})
        await send({"type": "http.response.body", "body": b""})

    @property
    def status(self) -> int:
        return self.messages[0]["status"]

    @property
    def body(self) -> dict:
        return json.loads(self.messages[1]["body"])


def scope(path: str = "/api/v1/cars/", cookie: str = "", **headers: str) -> dict:
    named = {name.replace("_", "-"): value for name, value in headers.items()}
    if cookie:
        named["cookie"] = f"theme=dark; sessionid={cookie}"
    return {
        "type": "http",
        "method": "POST",
        "path": path,
        "headers": [(name.encode(), value.encode()) for name, value in named.items()],
    }


def pieces(*sizes: int):
    """A receive channel that gives a body in pieces."""
    left = list(sizes)

    async def receive() -> dict:
        size = left.pop(0)
        return {"type": "http.request", "body": b"x" * size, "more_body": bool(left)}

    return receive


class GuardTest(TransactionTestCase):
    def pass_through(self, asked: dict, receive) -> Sent:
        sent = Sent()
        asyncio.run(Guard(sent.application)(asked, receive, sent.send))
        return sent

    def session_of(self, person) -> str:
        client = APIClient()
        client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
        return client.cookies["sessionid"].value

    def test_a_stranger_s_body_is_refused_by_its_stated_length_and_not_read(self):
        asked = scope("/api/v1/logs/", content_length=str(100 * 1024**2))
        sent = self.pass_through(asked, pieces(1))
        self.assertEqual((sent.status, sent.body["code"], sent.seen), (401, "not_authenticated", 0))
        self.assertIn((b"connection", b"close"), sent.messages[0]["headers"])

    def test_a_stranger_s_body_of_unstated_length_is_cut_off(self):
        sent = self.pass_through(scope("/api/v1/logs/"), pieces(ANYBODY_BYTES, *[10_000] * 1000))
        self.assertEqual((sent.status, sent.seen), (401, ANYBODY_BYTES))

    def test_a_made_up_session_is_a_stranger_s(self):
        for cookie in ("nonsense", SessionStore().session_key or "x" * 32):
            asked = scope("/api/v1/logs/", cookie, content_length="1000000")
            self.assertEqual(self.pass_through(asked, pieces(1)).status, 401)

    def test_whoever_is_logged_in_may_send_up_to_the_limit_of_the_address(self):
        cookie = self.session_of(UserFactory())
        sent = self.pass_through(scope("/api/v1/cars/", cookie), pieces(ANYBODY_BYTES, ANYBODY_BYTES, 1))
        self.assertEqual((sent.status, sent.seen), (204, 2 * ANYBODY_BYTES + 1))
        too_large = scope("/api/v1/cars/", cookie, content_length=str(DATA_BYTES + 1))
        refused = self.pass_through(too_large, pieces(1))
        self.assertEqual((refused.status, refused.body["code"]), (413, "too_large"))
        self.assertIn("at most 4 MB", refused.body["detail"])

    def test_a_person_who_was_disabled_is_a_stranger(self):
        person = UserFactory()
        cookie = self.session_of(person)
        person.is_active = False
        person.save()
        self.assertEqual(self.pass_through(scope("/api/v1/cars/", cookie), pieces(ANYBODY_BYTES + 1, 1)).status, 401)

    @override_settings(MAX_LOG_BYTES=10**6, MAX_ATTACHMENT_BYTES=2 * 10**6, MAX_SURVEY_BYTES=3 * 10**6)
    def test_each_upload_has_a_limit_of_its_own(self):
        form = guard.FORM_BYTES
        self.assertEqual(limit_bytes("/api/v1/logs/"), 2 * 10**6 + form)
        self.assertEqual(limit_bytes("/api/v1/attachments/"), 2 * 10**6 + form)
        self.assertEqual(limit_bytes("/api/v1/courses/7/survey/"), 3 * 10**6 + form)
        self.assertEqual(limit_bytes("/api/v1/logs/7/"), DATA_BYTES)

    def test_a_body_that_stops_in_its_middle_is_given_up(self):
        first = pieces(10, 10)

        async def stalling() -> dict:
            message = await first()
            if not message["more_body"]:
                await asyncio.Event().wait()
            return message

        with mock.patch.object(guard, "SILENT_S", 0.01):
            sent = self.pass_through(scope(), stalling)
        self.assertEqual((sent.status, sent.body["code"]), (408, "too_slow"))

    def test_a_body_that_drips_is_given_up_though_it_never_stops(self):
        clock = iter(range(0, 10**6, 5))
        with mock.patch.object(guard.time, "monotonic", lambda: float(next(clock))):
            sent = self.pass_through(scope(), pieces(*[1] * 1000))
        self.assertEqual(sent.status, 408)
        self.assertLess(sent.seen, 50)

    def test_a_body_that_arrives_holds_no_place_and_an_answer_gives_it_back(self):
        async def scenario() -> None:
            guarded = Guard(sent.application)
            with mock.patch.object(guard, "AT_ONCE", 1):
                first = pieces(10, 10)
                gate = asyncio.Event()

                async def slow() -> dict:
                    message = await first()
                    if not message["more_body"]:
                        await gate.wait()
                    return message

                waiting = asyncio.create_task(guarded(scope(), slow, sent.send))
                await asyncio.sleep(0)
                await guarded(scope(), pieces(1), Sent().send)  # passes the one that is still arriving
                gate.set()
                await waiting
                await guarded(scope(), pieces(1), Sent().send)

        sent = Sent()
        asyncio.run(asyncio.wait_for(scenario(), 10))
        self.assertTrue(sent.reached_end)
