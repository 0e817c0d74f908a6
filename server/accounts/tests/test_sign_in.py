"""Signing in at another provider: who comes in, and what happens where it deceives or is away."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from urllib.parse import parse_qs, urlsplit

import requests
from django.test import Client, TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from accounts.links import INVITATION_LASTS
from accounts.models import AccountLink, Identity, Role, User
from runs.tests.factories import UserFactory
from trials.provider import Provider, running


class SignInTest(TestCase):
    def setUp(self):
        self.enterContext(self.assertNoLogs("django.request"))

    @contextmanager
    def provider(self, **traits) -> Iterator[Provider]:
        with running(Provider(**traits)) as provider:
            named = {"issuer": provider.issuer, "client_id": "coombe", "client_secret": "simulated", "name": "Example"}
            with override_settings(SIGN_IN=named):
                yield provider

    def come_back(self, browser: Client) -> str:
        """Follow the browser to the provider; the address that it is sent back to."""
        sent = browser.get(reverse("sign-in"))
        self.assertEqual(sent.status_code, 302)
        return requests.get(sent.headers["Location"], allow_redirects=False, timeout=5).headers["Location"]

    def outcome(self, **traits) -> tuple[str, str]:
        """Who is logged in after it, and what was refused; each empty where nobody or nothing."""
        browser = Client()
        with self.provider(**traits):
            back = urlsplit(self.come_back(browser))
            self.assertEqual(browser.get(f"{back.path}?{back.query}").headers["Location"], "/")
            now = browser.get(reverse("session")).json()
        return (now["person"] or {}).get("username", ""), now["refused"]

    def test_whoever_has_the_address_comes_in_and_is_known_by_their_number_from_then_on(self):
        person = UserFactory(username="ada", email="Ada@Example.org")
        self.assertEqual(self.outcome(), ("ada", ""))
        self.assertEqual(Identity.objects.get().subject, "1")
        moved = {"sub": "1", "email": "elsewhere@example.org", "email_verified": True}
        with self.provider(person=moved) as provider:
            Identity.objects.update(issuer=provider.issuer)  # its port is another
            browser = Client()
            back = urlsplit(self.come_back(browser))
            browser.get(f"{back.path}?{back.query}")
            self.assertEqual(browser.get(reverse("session")).json()["person"]["username"], person.username)

    def test_a_stranger_does_not_come_in(self):
        who, refused = self.outcome()
        self.assertEqual(who, "")
        self.assertIn("Nobody here is known by ada@example.org", refused)
        self.assertFalse(User.objects.exists())

    def test_an_invited_address_makes_the_account_in_its_role_once(self):
        AccountLink.objects.create(
            digest="a" * 64, role=Role.TESTER, email="ada@example.org", ends_at=timezone.now() + INVITATION_LASTS
        )
        UserFactory(username="ada")
        self.assertEqual(self.outcome(), ("ada2", ""))
        self.assertEqual(User.objects.get(username="ada2").role, Role.TESTER)
        self.assertFalse(AccountLink.objects.exists())

    def test_an_address_that_the_provider_does_not_vouch_for_is_nobody_s(self):
        UserFactory(email="ada@example.org")
        for verified in (False, None, "true"):
            person = {"sub": "1", "email": "ada@example.org", "email_verified": verified}
            who, refused = self.outcome(person=person)
            self.assertEqual(who, "", verified)
            self.assertIn("does not vouch", refused)

    def test_false_claims_are_refused_with_a_sentence(self):
        UserFactory(email="ada@example.org")
        cases = {
            "another addressee": {"aud": "another"},
            "another addressee, as if for us": {"aud": "another", "azp": "coombe"},
            "another issuer": {"iss": "https://other.example.org"},
            "an old answer": {"exp": int(time.time()) - 3600, "iat": int(time.time()) - 7200},
            "another's log-in": {"nonce": "replayed"},
        }
        for case, false_claims in cases.items():
            with self.subTest(case):
                who, refused = self.outcome(false_claims=false_claims)
                self.assertEqual(who, "")
                self.assertIn("can't be trusted", refused)
        who, refused = self.outcome(forged=True)
        self.assertEqual(who, "", "signed with another key")
        self.assertIn("can't be trusted", refused)

    def test_two_accounts_with_one_address_are_nobody_s(self):
        UserFactory(email="ada@example.org"), UserFactory(email="ada@example.org")
        self.assertEqual(self.outcome()[0], "")

    def test_a_closed_account_stays_closed(self):
        UserFactory(email="ada@example.org", is_active=False)
        self.assertIn("closed", self.outcome()[1])

    def test_a_person_may_change_their_mind(self):
        self.assertIn("did not agree", self.outcome(denies=True)[1])

    def test_an_answer_that_another_browser_asked_for_is_refused(self):
        UserFactory(email="ada@example.org")
        with self.provider():
            back = urlsplit(self.come_back(Client()))
            victim = Client()
            victim.get(f"{back.path}?{back.query}")
            self.assertIsNone(victim.get(reverse("session")).json()["person"])

    def test_the_secret_of_the_client_and_the_proof_go_to_the_provider_alone(self):
        with self.provider():
            asked = parse_qs(urlsplit(Client().get(reverse("sign-in")).headers["Location"]).query)
        self.assertEqual(asked["code_challenge_method"], ["S256"])
        self.assertNotIn("code_verifier", asked)
        self.assertNotIn("client_secret", asked)

    def test_a_provider_that_is_away_is_said_to_be(self):
        with self.provider():
            pass
        named = {"issuer": "http://127.0.0.1:1", "client_id": "coombe", "client_secret": "", "name": "Example"}
        browser = Client()
        with override_settings(SIGN_IN=named):
            self.assertEqual(browser.get(reverse("sign-in")).headers["Location"], "/")
            self.assertIn("Example does not answer", browser.get(reverse("session")).json()["refused"])
            self.assertEqual(browser.get(reverse("session")).json()["refused"], "", "said once")

    def test_without_a_provider_there_is_none(self):
        self.assertEqual(Client().get(reverse("sign-in")).headers["Location"], "/")
        self.assertEqual(Client().get(reverse("session")).json()["provider"], "")
