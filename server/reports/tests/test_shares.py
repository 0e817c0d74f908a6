"""Links that show a report: to whoever has one, for as long as it works, and nothing else."""

from __future__ import annotations

from datetime import timedelta

from django.test import Client, TestCase
from django.urls import reverse
from django.utils import timezone

from accounts.models import Role, SecurityEvent
from comparisons.models import Comparison
from reports.models import Report, Share, Sharing
from reports.tests.test_publishing import Written
from runs.tests.factories import UserFactory


class SharesTest(Written, TestCase):
    def setUp(self):
        super().setUp()
        self.version = self.publish()
        self.stranger = Client()

    def link(self, **asked) -> str:
        given = {"report": self.pk, "expires_at": timezone.now() + timedelta(days=7)}
        answer = self.client.post(reverse("share-list"), given | asked)
        self.assertEqual(answer.status_code, 201, answer.content[:300])
        return answer.json()["path"]

    def seen(self, address: str, status: int = 200, **asked) -> str:
        answer = self.stranger.get(address, asked)
        self.assertEqual(answer.status_code, status, answer.content[:300])
        self.assertIn("noindex", answer.headers["X-Robots-Tag"])
        self.assertEqual(answer.headers["Referrer-Policy"], "same-origin")
        return answer.content.decode()

    def test_a_stranger_sees_the_report_and_its_files_and_nothing_else(self):
        link = self.link()
        page = self.seen(link)
        self.assertIn("What it brought", page)
        self.assertIn(self.comparison["result"]["pairs"][0]["verdict"], page)
        policy = self.stranger.get(link).headers["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("script-src 'self'", policy)
        for kind in ("pdf", "html", "package"):
            answer = self.stranger.get(f"{link}{kind}/1/")
            self.assertEqual(answer.content, self.file(self.version["id"], kind))
        for address in (reverse("report-list"), reverse("report-detail", args=[self.pk]), reverse("run-list")):
            self.assertEqual(self.stranger.get(address).status_code, 401)

    def test_views_are_counted_and_logged_and_the_secret_is_kept_nowhere(self):
        link = self.link()
        self.seen(link)
        self.seen(link)
        share = Share.objects.get()
        self.assertEqual(share.views, 2)
        self.assertIsNotNone(share.viewed_at)
        events = list(SecurityEvent.objects.filter(kind="shared").values_list("detail", "address"))
        self.assertEqual(len(events), 2)
        self.assertIn("version 1", events[0][0])
        secret = link.split("/")[2]
        self.assertNotIn(secret, str([vars(share), events]))
        self.assertEqual(share.ending, secret[-4:])

    def test_the_list_counts_links_that_work(self):
        self.link()
        self.link()
        self.client.delete(reverse("share-detail", args=[Share.objects.first().pk]))
        row = self.client.get(reverse("report-list")).json()["results"][0]
        self.assertEqual((row["title"], row["links"]), ("What it brought", 1))
        self.assertIsNotNone(row["published_at"])

    def test_a_link_that_does_not_work_says_why_and_shows_nothing(self):
        link = self.link()
        self.assertIn("There is nothing at this link", self.seen("/shared/" + "a" * 43 + "/", 404))
        Share.objects.update(expires_at=timezone.now() - timedelta(minutes=1))
        self.assertIn("This link expired on", self.seen(link, 404))
        self.assertNotIn("What it brought", self.seen(f"{link}html/1/", 404))
        Share.objects.update(expires_at=timezone.now() + timedelta(days=1))
        self.client.delete(reverse("share-detail", args=[Share.objects.get().pk]))
        self.assertIn("was revoked", self.seen(link, 404))

    def test_an_administrator_shuts_all_links_and_nobody_else(self):
        link, switch = self.link(), reverse("sharing")
        self.client.force_login(UserFactory(role=Role.TESTER), backend="django.contrib.auth.backends.ModelBackend")
        self.assertEqual(self.client.put(switch, {"allowed": False}).status_code, 403)
        self.client.force_login(
            UserFactory(role=Role.ADMINISTRATOR), backend="django.contrib.auth.backends.ModelBackend"
        )
        self.assertEqual(self.client.put(switch, {"allowed": False}).json(), {"allowed": False})
        self.assertIn("There is nothing at this link", self.seen(link, 404))
        answer = self.client.post(
            reverse("share-list"), {"report": self.pk, "expires_at": timezone.now() + timedelta(days=7)}
        )
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "switched_off"))
        self.assertFalse(Sharing.the().allowed)

    def test_a_password_is_asked_once_and_guessing_is_held_back(self):
        link = self.link(password="open sesame")
        self.assertNotIn("What it brought", self.seen(link))
        self.assertIn("has a password", self.seen(f"{link}pdf/1/", 404))
        for _ in range(3):
            wrong = self.stranger.post(link, {"password": "open barley"})
            self.assertEqual(wrong.status_code, 403)
            self.assertIn("not the password", wrong.content.decode())
        held = self.stranger.post(link, {"password": "open sesame"})
        self.assertIn("Too many wrong passwords", held.content.decode())
        SecurityEvent.objects.all().delete()
        self.assertIn("What it brought", self.stranger.post(link, {"password": "open sesame"}).content.decode())
        self.assertIn("What it brought", self.seen(link))
        self.assertEqual(self.stranger.get(f"{link}pdf/1/").status_code, 200)
        self.assertNotIn("What it brought", Client().get(link).content.decode())

    def test_guessing_is_held_back_whatever_the_report_is_called(self):
        self.client.patch(reverse("report-detail", args=[self.pk]), {"title": "x" * 160, "revision": 1})
        link = self.link(password="open sesame")
        for _ in range(4):
            self.stranger.post(link, {"password": "open barley"})
        held = self.stranger.post(link, {"password": "open sesame"})
        self.assertIn("Too many wrong passwords", held.content.decode())

    def test_making_and_revoking_one_stand_in_the_security_log(self):
        self.link()
        self.client.delete(reverse("share-detail", args=[Share.objects.get().pk]))
        events = list(SecurityEvent.objects.filter(kind="token").order_by("pk").values_list("detail", flat=True))
        self.assertEqual([detail.split()[0] for detail in events], ["made", "revoked"])

    def test_earlier_versions_stay_and_other_reports_are_out_of_reach(self):
        link = self.link()
        self.client.patch(reverse("report-detail", args=[self.pk]), {"title": "Anew", "revision": 1})
        self.publish()
        self.assertIn("<h1>Anew</h1>", self.seen(link))
        self.assertIn("<h1>What it brought</h1>", self.seen(link, version=1))
        for version in ("3", "0", "x", "99999999"):
            self.assertIn("no such version", self.seen(link, 404, version=version))

    def test_it_shows_what_was_published_after_its_comparison_was_deleted(self):
        link = self.link()
        Comparison.objects.all().delete()
        self.assertIn("What it brought", self.seen(link))
        Report.objects.all().delete()
        self.assertIn("There is nothing at this link", self.seen(link, 404))

    def test_what_was_never_published_and_a_time_that_is_past_are_refused(self):
        unpublished = self.write()
        later = timezone.now() + timedelta(days=7)
        answer = self.client.post(reverse("share-list"), {"report": unpublished, "expires_at": later})
        self.assertEqual((answer.status_code, answer.json()["code"]), (409, "not_published"))
        for wrong in (timezone.now() - timedelta(days=1), timezone.now() + timedelta(days=800)):
            answer = self.client.post(reverse("share-list"), {"report": self.pk, "expires_at": wrong})
            self.assertEqual((answer.status_code, list(answer.json()["errors"])), (400, ["expires_at"]))
