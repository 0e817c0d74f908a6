"""Requests are answered in threads that keep their connection to the database, and get another where it broke."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from django.db import connection
from django.http import HttpRequest, HttpResponse
from django.test import SimpleTestCase, TransactionTestCase

from config import handling
from config.guard import AT_ONCE
from config.handling import ThreadedHandler


class NamesConnection(ThreadedHandler):
    """Answers with the number of the connection that it was worked out on."""

    def get_response(self, request: HttpRequest) -> HttpResponse:
        with connection.cursor() as cursor:
            cursor.execute("SELECT CONNECTION_ID()")
            return HttpResponse(str(cursor.fetchone()[0]))


class ConnectionTest(TransactionTestCase):
    def setUp(self):
        self.thread = ThreadPoolExecutor(1)
        self.handler = NamesConnection()

    def tearDown(self):
        self.thread.submit(lambda: connection.close()).result()
        self.thread.shutdown()

    def ask(self) -> int:
        return int(self.thread.submit(self.handler._answer, HttpRequest()).result().content)

    def test_a_thread_keeps_its_connection_until_it_breaks(self):
        first = self.ask()
        self.assertEqual(self.ask(), first)
        with connection.cursor() as cursor:
            cursor.execute("KILL %s", [first])
        self.assertNotEqual(self.ask(), first)


class ThreadsTest(SimpleTestCase):
    def test_no_more_connections_are_held_than_requests_are_answered_at_once(self):
        self.assertEqual(handling._threads._max_workers, AT_ONCE)
