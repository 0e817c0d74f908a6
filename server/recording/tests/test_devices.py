"""Devices: set by administrators, opened only where they may be, and silent about why they do not answer."""

from __future__ import annotations

import socket
import tempfile
import threading
from pathlib import Path

from django.test import SimpleTestCase, TestCase
from django.urls import reverse
from rest_framework.test import APIClient

from accounts.models import Role
from recording.connecting import Place, refused
from recording.devices import CanData, Device, Receiver
from recording.models import Device as DeviceRow
from recording.tests.recording_case import until
from runs.tests.factories import UserFactory

SPIES = (
    "spy://loop://?file={path}",
    "alt://loop://?class=Serial",
    "rfc2217://127.0.0.1:9?logging=debug",
    "/etc/passwd",
    "/dev/../{path}",
    "/dev/ttyACM0/../../{path}",
    "socket://127.0.0.1:9",
)


class PlacesTest(SimpleTestCase):
    """Checks of the allow-list, by what pySerial's URL handlers would otherwise open."""

    def test_only_serial_ports_of_known_kinds_are_opened(self):
        for path in ("/dev/ttyACM0", "/dev/ttyUSB12", "/dev/serial/by-id/usb-u_blox_7-if00"):
            self.assertEqual(refused(Place("receiver", "serial", path)), {}, path)
        for path in (*SPIES, "/dev/ttyACM0\n", "/dev/tty", "/dev/sda", "/dev/serial/by-id/../../sda"):
            self.assertIn("path", refused(Place("receiver", "serial", path)), path)

    def test_only_named_hosts_are_connected_to(self):
        self.assertEqual(refused(Place("receiver", "tcp", host="127.0.0.1", port=5000)), {})
        for host in ("192.0.2.7", "169.254.169.254", "localhost.example", ""):
            self.assertIn("host", refused(Place("receiver", "tcp", host=host, port=80)), host)
        with self.settings(DEVICE_HOSTS=["car.lan"]):
            self.assertEqual(refused(Place("receiver", "tcp", host="car.lan", port=5000)), {})

    def test_a_can_channel_is_a_name_and_nothing_else(self):
        for channel in ("can0", "vcan1", "slcan0"):
            self.assertEqual(refused(Place("CAN", "socketcan", channel=channel)), {})
        for channel in ("/dev/ttyUSB0", "spy://x?file=y", "can0/../x", "", "can0 fd"):
            self.assertIn("channel", refused(Place("CAN", "socketcan", channel=channel)), channel)

    def test_a_place_that_may_not_be_opened_is_not_even_by_the_device(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "store"
            path.write_bytes(b"the only copy")
            for spy in SPIES:
                place = Place("receiver", "serial", spy.format(path=path))
                device = Receiver(place, lambda data: None, lambda: None)
                device.start()
                until("it gave up", lambda device=device: device.trouble)
                device.stop()
                self.assertEqual(device.trouble, "No answer from the GPS receiver.")
            self.assertEqual(path.read_bytes(), b"the only copy")

    def test_a_device_that_does_not_answer_tells_no_more_than_that(self):
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            place = Place("CAN", "socketcand", host="127.0.0.1", port=probe.getsockname()[1], channel="can0")
            device: Device = CanData(place, lambda message: None)
            device.start()
            until("it gave up", lambda: device.trouble)
            device.stop()
        self.assertEqual(device.trouble, "No answer from the CAN interface.")

    def test_a_receiver_behind_a_socket_is_read_and_opened_again(self):
        taken, opened = bytearray(), []
        with socket.create_server(("127.0.0.1", 0)) as server:
            place = Place("receiver", "tcp", host="127.0.0.1", port=server.getsockname()[1])
            device = Receiver(place, taken.extend, lambda: opened.append(True))

            def talk() -> None:
                for words in (b"first", b", second"):
                    line, _ = server.accept()
                    line.sendall(words)
                    line.close()

            talking = threading.Thread(target=talk)
            talking.start()
            device.start()
            until("both came", lambda: bytes(taken) == b"first, second")
            talking.join()
            device.stop()
        self.assertGreaterEqual(len(opened), 2)


class DeviceApiTest(TestCase):
    def client_of(self, role: Role) -> APIClient:
        client = APIClient()
        client.force_login(UserFactory(role=role), backend="django.contrib.auth.backends.ModelBackend")
        return client

    def given(self, **changes) -> dict:
        return {"name": "Car one", "kind": "receiver", "connection": "serial", "path": "/dev/ttyACM0", **changes}

    def test_a_tester_chooses_among_devices_and_sets_none(self):
        tester = self.client_of(Role.TESTER)
        self.assertEqual(tester.post(reverse("device-list"), self.given()).status_code, 403)
        DeviceRow.objects.create(**self.given())
        self.assertEqual(tester.get(reverse("device-list")).json()["count"], 1)
        page = reverse("device-detail", args=[DeviceRow.objects.get().pk])
        self.assertEqual(tester.patch(page, {"path": "/dev/ttyACM1", "revision": 1}).status_code, 403)
        self.assertEqual(tester.delete(page).status_code, 403)

    def test_what_may_not_be_opened_is_refused_at_its_field(self):
        admin = self.client_of(Role.ADMINISTRATOR)
        self.assertEqual(admin.post(reverse("device-list"), self.given()).status_code, 201)
        for spy in SPIES:
            answer = admin.post(reverse("device-list"), self.given(name="Two", path=spy.format(path="/tmp/x")))
            self.assertIn("path", answer.json()["errors"], spy)
        answer = admin.post(reverse("device-list"), self.given(name="Two", connection="tcp", host="192.0.2.7", port=22))
        self.assertIn("host", answer.json()["errors"])

    def test_a_kind_has_its_own_connections_and_a_dbc_must_be_readable(self):
        admin = self.client_of(Role.ADMINISTRATOR)
        answer = admin.post(reverse("device-list"), self.given(connection="socketcan", channel="can0"))
        self.assertIn("connection", answer.json()["errors"])
        can = self.given(kind="CAN", connection="socketcan", channel="can0", dbc="nonsense")
        self.assertIn("DBC", admin.post(reverse("device-list"), can).json()["errors"]["dbc"][0])
