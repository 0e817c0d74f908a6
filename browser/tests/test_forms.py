"""Forms: what has to be filled in, what the server refuses and where, and what somebody else changed meanwhile."""

from __future__ import annotations

from playwright.sync_api import expect

from accounts.models import Role
from cars.models import BatteryInterval
from driving import BrowserTest
from recording.models import Device, Recorder
from runs.tests.factories import SetupFactory, UserFactory

REASON = ".ant-form-item-explain-error"


class FormsTest(BrowserTest):
    def setUp(self):
        super().setUp()
        UserFactory(username="keeper", role=Role.ADMINISTRATOR)
        self.come_in(self.page, "keeper")

    def reason_at(self, label: str):
        """What stands below a field as the reason why it was refused."""
        page = self.page
        return page.locator(".ant-form-item", has=page.get_by_label(label, exact=True)).locator(REASON)

    def test_a_recorder_needs_a_receiver_and_no_other_device(self):
        page = self.page
        SetupFactory(car__name="Vireo", name="as it is")
        Device.objects.create(name="Puck", kind="receiver", connection="tcp", host="127.0.0.1", port=9001)
        page.goto("/record")
        page.get_by_role("button", name="Add a recorder").click()
        page.get_by_label("Name").fill("Car one")
        self.choose(page, "Setup", "Vireo: as it is")
        page.get_by_role("button", name="Add recorder").click()
        expect(self.reason_at("GPS receiver")).to_have_text("Choose the GPS receiver")
        expect(page.locator(REASON)).to_have_count(1)
        self.choose(page, "GPS receiver", "Puck")
        page.get_by_role("button", name="Add recorder").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        recorder = Recorder.objects.get()
        self.assertEqual((recorder.receiver.name, recorder.can, recorder.weather_station), ("Puck", None, None))

    def test_what_the_server_refuses_stands_at_its_field_and_nothing_is_lost(self):
        page = self.page
        car = SetupFactory(car__name="Vireo").car
        page.goto(f"/cars/{car.pk}")
        page.get_by_role("button", name="Add readings").click()
        page.get_by_label("From").fill("2026-05-09 08:00")
        page.keyboard.press("Enter")
        rows = page.get_by_label("Rows of minutes, battery °C, outside °C, charge %")
        rows.fill("0, 44.5, 8\n10, 43, 8\n5, 41.5, 8")
        page.get_by_role("button", name="Save readings").click()
        expect(page.locator(REASON)).to_have_text("Line 3: minutes must rise from row to row.")
        expect(page.get_by_text("Line 3:")).to_have_count(1)  # at the field, and nowhere else
        expect(rows).to_have_value("0, 44.5, 8\n10, 43, 8\n5, 41.5, 8")
        self.assertFalse(BatteryInterval.objects.exists())
        rows.fill("0, 44.5, 8\n10, 43, 8\n20, 41.5, 8")
        page.get_by_role("button", name="Save readings").click()
        expect(rows).to_be_hidden()
        self.assertEqual(BatteryInterval.objects.get().readings.count(), 3)

    def test_a_device_that_somebody_else_changed_shows_both_versions(self):
        page = self.page
        device = Device.objects.create(name="Puck", kind="receiver", connection="tcp", host="127.0.0.1", port=9001)
        page.goto("/devices")
        page.get_by_role("button", name="Edit Puck").click()
        page.get_by_label("Port", exact=True).fill("9002")
        Device.objects.filter(pk=device.pk).update(revision=2, port=9003)
        page.get_by_role("button", name="Save", exact=True).click()
        both = page.get_by_role("alert").filter(has_text="Changed in the meantime")
        expect(both).to_contain_text("9002")
        expect(both).to_contain_text("9003")
        page.get_by_role("button", name="Save what is chosen").click()
        expect(page.get_by_role("dialog")).to_have_count(0)
        device.refresh_from_db()
        self.assertEqual((device.port, device.revision), (9002, 3))
