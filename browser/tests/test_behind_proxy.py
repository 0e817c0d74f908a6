"""Behind nginx, as it is installed: the same roles, the same answers to any request, the same pages, over HTTPS."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import tempfile
from pathlib import Path
from typing import Any
from unittest import skipUnless

import requests
import schemathesis
import urllib3
from django.conf import settings

from accounts.models import Role
from config.tests.test_any_request import NOT_TRIED, try_operation
from config.tests.test_roles import ANYBODY, BY_METHOD, EXCEPTIONS, PEOPLE, operations
from coombe_launcher.database import free_port
from coombe_launcher.deploying import SITE, Installation, install, self_signed
from driving import violations
from recording.tests.recording_case import until
from runs.tests.factories import PASSWORD, UserFactory
from served import ServedTest
from trials.asking import Asker

NAME = "localhost"
PAGES = ("/", "/cars", "/plans", "/record", "/runs", "/compare", "/people", "/help")


def operations_of_files() -> set[str]:
    """What takes files, and no JSON."""
    schema = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
    taken = {
        each["operationId"]: each["requestBody"]["content"]
        for methods in schema["paths"].values()
        for each in methods.values()
        if "requestBody" in each
    }
    return {name for name, content in taken.items() if "application/json" not in content}


@skipUnless(shutil.which("nginx") and shutil.which("openssl"), "needs nginx and openssl")
class BehindProxyTest(ServedTest):
    def setUp(self) -> None:
        self.proxied = {"COOMBE_HTTPS": "1", "COOMBE_HOSTS": f"{NAME},127.0.0.1", "COOMBE_TRUSTED_PROXIES": "127.0.0.1"}
        super().setUp()
        self.proxy_port = free_port()
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.start_nginx()
        self.of_files = operations_of_files()
        urllib3.disable_warnings()

    def beside(self, command: list[str]) -> subprocess.Popen[bytes]:
        before = {name: os.environ.get(name) for name in self.proxied}
        os.environ.update(self.proxied)
        try:
            return super().beside(command)
        finally:
            for name, value in before.items():
                os.environ.pop(name) if value is None else os.environ.update({name: value})

    def start_nginx(self) -> None:
        """The site as `./coombe install` writes it, at a port of its own."""
        subprocess.run([*self_signed(NAME, self.folder)], check=True, capture_output=True)
        files = (self.folder / "certificate.pem", self.folder / "key.pem")
        install(Installation(NAME, Path("/var/backups"), *files, port=self.port, root=self.folder / "root"))
        site = (self.folder / "root" / SITE.relative_to("/")).read_text()
        site = site.replace("listen 443", f"listen {self.proxy_port}").replace("listen 80;", f"listen {free_port()};")
        lines = [line for line in site.splitlines() if "[::]" not in line]
        (self.folder / "site").write_text("\n".join(lines))
        person = "user root;" if os.geteuid() == 0 else ""
        whole = f"{person} daemon off; pid {self.folder}/pid; error_log {self.folder}/error.log; events {{}}"
        (self.folder / "nginx.conf").write_text(f"{whole} http {{ access_log off; include {self.folder}/site; }}")
        nginx = subprocess.Popen(["nginx", "-c", str(self.folder / "nginx.conf")])
        self.addCleanup(nginx.wait)
        self.addCleanup(nginx.terminate)
        until("nginx answers", lambda: self.ask("GET", "/health/live").status_code == 200)

    @property
    def address(self) -> str:
        return f"https://{NAME}:{self.proxy_port}"

    def ask(self, method: str, path: str, headers: dict[str, str] | None = None, **how: Any) -> requests.Response:
        try:
            whole = {"Referer": f"{self.address}/", **(headers or {})}
            return requests.request(method, self.address + path, headers=whole, verify=False, timeout=30, **how)
        except requests.ConnectionError:
            answer = requests.Response()
            answer.status_code = 0
            return answer

    def headers_of(self, who: int) -> dict[str, str]:
        if who == ANYBODY:
            return {}
        asker = Asker(0)
        asker.log_in(UserFactory(role=PEOPLE[who]))
        return asker.headers

    def sent(self, name: str, method: str) -> dict[str, Any]:
        """An empty body of the kind that an operation takes."""
        if method not in ("post", "put", "patch"):
            return {}
        return {"files": {"nothing": ("nothing", b"")}} if name in self.of_files else {"json": {}}

    def test_every_operation_takes_the_role_that_the_table_names_and_no_less(self):
        headers = {who: self.headers_of(who) for who in range(4)}
        for name, method, path in operations():
            least = EXCEPTIONS.get(name, BY_METHOD[method])
            address = path.replace("{file_format}", "csv").replace("{kind}", "pdf").replace("{place}", "0")
            for field in ("{id}", "{run}", "{mark}"):
                address = address.replace(field, "999999")
            for who in {max(least - 1, ANYBODY), least}:  # in between is tested without a proxy
                own = self.headers_of(who) if name.startswith("session_") else headers[who]
                answer = self.ask(method, address, own, **self.sent(name, method))
                code = answer.json()["code"] if answer.status_code in (401, 403) else ""
                refused = code not in ("", "authentication_failed", "csrf")
                with self.subTest(name, who=who):
                    if name.startswith("session_") and answer.status_code == 403:
                        continue  # nobody's request has no token against forged ones
                    self.assertEqual(refused, who < least, answer.text[:200])
                    self.assertLess(answer.status_code, 500)

    def test_no_request_fails_in_the_server_or_the_proxy(self):
        raw = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
        schema = schemathesis.openapi.from_dict(raw)
        schema.config.update(base_url=self.address)
        headers = self.headers_of(3) | {"Referer": f"{self.address}/"}
        for found in schema.get_all_operations():
            operation: Any = found.ok()
            if operation.definition.raw["operationId"] not in NOT_TRIED:
                with self.subTest(operation.label):
                    try_operation(operation, 1, headers=headers, verify=False)

    def test_pages_work_over_https_and_axe_finds_nothing_serious(self):
        self.person.role = Role.ADMINISTRATOR
        self.person.save()
        page = self.watched(self.open_context(ignore_https_errors=True).new_page())
        self.log_in(page, self.person.username, PASSWORD)
        for path in PAGES:
            page.goto(path)
            page.get_by_role("heading").first.wait_for()
            self.assertEqual(violations(page), [], path)
        cookies = {each["name"]: each for each in page.context.cookies()}
        self.assertTrue(cookies["sessionid"]["secure"] and cookies["csrftoken"]["secure"])
        answer = self.ask("GET", "/")
        self.assertIn("max-age", answer.headers["Strict-Transport-Security"])
        self.assertRegex(answer.headers["X-Request-ID"], r"^[0-9a-f]{32}$")
