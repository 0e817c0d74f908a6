"""One machine a recorder: held for a while, taken over once it is let go; no other's bytes are touched."""

from __future__ import annotations

import tempfile
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from asgiref.sync import async_to_sync
from django.test import TestCase, override_settings
from django.utils import timezone

from recording import finishing, keeping, lease, live, relaying
from recording.lease import HeldError
from recording.models import Recorder, Recording
from recording.relaying import Relay
from runs.tests.factories import SetupFactory

BEGAN = datetime(2026, 5, 9, 9, tzinfo=UTC)


class LeaseTest(TestCase):
    def setUp(self):
        self.enterContext(override_settings(SPOOL=Path(self.enterContext(tempfile.TemporaryDirectory()))))
        self.recorder = Recorder.objects.create(name="Left", setup=SetupFactory())

    def take(self, by: str) -> bool:
        try:
            lease.take(self.recorder.pk, by)
        except HeldError as error:
            self.assertIn("records with it already", str(error))
            return False
        return True

    def test_a_second_machine_waits_until_the_first_lets_go(self):
        self.assertTrue(self.take("one") and self.take("one"))
        self.assertFalse(self.take("two"))
        lease.let_go(self.recorder.pk, "two")  # it is not theirs
        self.assertFalse(self.take("two"))
        lease.let_go(self.recorder.pk, "one")
        self.assertTrue(self.take("two"))
        self.assertFalse(self.take("one"))

    def test_one_that_died_lets_go_by_itself(self):
        self.take("one")
        held = Recorder.objects.get(pk=self.recorder.pk).held_until
        self.assertAlmostEqual((held - timezone.now()).total_seconds(), lease.LASTS_S, delta=5)
        Recorder.objects.filter(pk=self.recorder.pk).update(held_until=timezone.now() - timedelta(seconds=1))
        self.assertTrue(self.take("two"))

    def test_a_recorder_that_was_deleted_is_nobody_s(self):
        pk = self.recorder.pk
        self.recorder.delete()
        lease.take(pk, "one")

    def test_a_machine_keeps_its_name_and_no_other_home_has_it(self):
        first = lease.machine()
        self.assertEqual(lease.machine(), first)
        with override_settings(SPOOL=Path(self.enterContext(tempfile.TemporaryDirectory()))):
            self.assertNotEqual(lease.machine(), first)

    def test_a_recording_of_another_machine_is_neither_gone_on_with_nor_stored_here(self):
        made = Recording.objects.create(recorder=self.recorder, name="Left", began_at=BEGAN, machine="laptop")
        self.assertNotEqual(keeping.current(self.recorder).pk, made.pk)
        made.refresh_from_db()
        self.assertIsNotNone(made.stopped_at)
        self.assertEqual([each.pk for each in finishing.unstored()], [made.pk])
        self.assertEqual(finishing.finish_all(everything=True), [])
        self.assertFalse(finishing.finish(made))
        made.refresh_from_db()
        self.assertEqual(made.trouble, "Its bytes are on laptop, which stores them once it runs.")


class RelayTest(TestCase):
    def setUp(self):
        self.enterContext(override_settings(SPOOL=Path(self.enterContext(tempfile.TemporaryDirectory()))))
        self.recorder = Recorder.objects.create(name="Left", setup=SetupFactory(), wanted=True)
        self.heard = mock.Mock()
        self.broadcast = mock.Mock(last={"glance": '{"t": "glance", "speed_mps": 3.1}'})
        self.relay = Relay(self.recorder.pk, self.broadcast, self.heard)

    def test_one_that_has_reported_nothing_yet_is_there_all_the_same(self):
        self.broadcast.last = {}
        self.relay.leave()
        self.relay.leave()
        self.assertEqual(relaying.latest(self.recorder.pk)[1], {})
        self.heard.assert_not_called()

    def test_what_was_reported_is_read_elsewhere_and_a_number_grows_while_the_process_is_there(self):
        self.assertEqual(relaying.latest(self.recorder.pk), (0, {}))
        self.relay.leave()
        number, lines = relaying.latest(self.recorder.pk)
        self.assertEqual(lines, self.broadcast.last)
        for _ in range(relaying.STILL_THERE):
            self.relay.leave()
        self.assertEqual(relaying.latest(self.recorder.pk), (number + 1, lines))
        self.broadcast.last = {"glance": '{"t": "glance", "speed_mps": 4.2}'}
        self.relay.leave()
        self.assertEqual(relaying.latest(self.recorder.pk), (number + 2, self.broadcast.last))

    @override_settings(CLUSTER=True)
    def test_a_person_s_decision_is_heard_once_by_the_process_of_another_machine(self):
        self.relay.leave()
        Recorder.objects.update(held_by="laptop")
        live.say_seen(Recorder.objects.get())
        self.heard.assert_not_called()
        self.relay.leave()
        self.relay.leave()
        self.heard.assert_called_once_with({"seen": True})

    @override_settings(CLUSTER=True)
    def test_a_page_hears_what_another_machine_left_and_that_it_went_silent(self):
        self.relay.leave()
        Recorder.objects.update(held_by="laptop")
        with mock.patch.object(live, "SILENT_S", 0.3):
            found = async_to_sync(self.listen)()
        self.assertEqual(found, [b"data: " + self.broadcast.last["glance"].encode() + b"\n\n", live.NO_ANSWER])

    async def listen(self) -> list[bytes]:
        """Two events of a page that listens."""
        events = live._events(self.recorder.pk, 1)
        with mock.patch.object(live, "_may_listen", mock.AsyncMock(return_value=True)):
            found = [await anext(events) for _ in range(2)]
        await events.aclose()
        return found
