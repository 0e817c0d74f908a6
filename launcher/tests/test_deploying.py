"""What `install` writes: units that systemd accepts, a site that nginx accepts, settings that stay."""

from __future__ import annotations

import contextlib
import io
import re
import shutil
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase, mock, skipUnless

from coombe_launcher import deploying
from coombe_launcher.console import LauncherError, run
from coombe_launcher.deploying import ENVIRONMENT, SITE, WRITTEN, Installation, install, self_signed
from coombe_launcher.places import ROOT

BACKUPS = Path("/var/backups/coombe")


class InstallTest(TestCase):
    def setUp(self):
        self.root = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.enterContext(contextlib.redirect_stdout(io.StringIO()))

    def install(self, **what) -> Installation:
        wanted = Installation("tests.example.org", BACKUPS, root=self.root, **what)
        install(wanted)
        return wanted

    def written(self, path: Path) -> str:
        return (self.root / path.relative_to("/")).read_text()

    def test_every_file_is_filled_in_and_the_site_is_enabled(self):
        self.install(port=9000)
        for path in WRITTEN:
            self.assertNotRegex(self.written(path), r"@[A-Z]+@", path)
        self.assertIn(
            f"ExecStart={ROOT}/coombe serve --port 9000", self.written(Path("/etc/systemd/system/coombe.service"))
        )
        self.assertIn("proxy_pass http://127.0.0.1:9000;", self.written(SITE))
        self.assertEqual((self.root / "etc/nginx/sites-enabled/coombe").readlink(), SITE)

    def test_settings_that_were_changed_stay_when_it_is_installed_again(self):
        self.install()
        settings = self.root / ENVIRONMENT.relative_to("/")
        self.assertIn("COOMBE_HOSTS=tests.example.org,127.0.0.1\n", settings.read_text())
        self.assertEqual(settings.stat().st_mode & 0o777, 0o640)
        settings.write_text("COOMBE_VAR=/srv/coombe\n")
        self.install(port=9001)
        self.assertEqual(settings.read_text(), "COOMBE_VAR=/srv/coombe\n")
        self.assertIn("9001", self.written(SITE))

    def test_what_cannot_be_served_is_said_before_anything_is_written(self):
        file = self.root / "certificate.pem"
        file.touch()
        wrong = {
            "no name of a machine": Installation("Tests; rm", BACKUPS, root=self.root),
            "go together": Installation("a.example.org", BACKUPS, certificate=file, root=self.root),
            "there is no /nowhere": Installation("a.example.org", BACKUPS, file, Path("/nowhere"), root=self.root),
            "from the root": Installation("a.example.org", Path("backups"), root=self.root),
        }
        for sentence, installation in wrong.items():
            with self.subTest(sentence), self.assertRaisesRegex(LauncherError, sentence):
                install(installation)
        self.assertEqual([path.name for path in self.root.iterdir()], ["certificate.pem"])

    def test_a_machine_is_changed_by_root_alone_and_where_systemd_runs(self):
        wanted = Installation("tests.example.org", BACKUPS)
        with mock.patch.object(deploying, "_prepare") as prepare:
            with mock.patch("os.geteuid", return_value=1000), self.assertRaisesRegex(LauncherError, "by root"):
                install(wanted)
            with (
                mock.patch("os.geteuid", return_value=0),
                mock.patch.object(Path, "is_dir", return_value=False),
                self.assertRaisesRegex(LauncherError, "systemd does not run here"),
            ):
                install(wanted)
        prepare.assert_not_called()

    @skipUnless(shutil.which("systemd-analyze"), "needs systemd-analyze")
    def test_systemd_accepts_the_units_and_finds_them_hardened(self):
        self.install()
        units = sorted((self.root / "etc/systemd/system").iterdir())
        # The tool is systemd's own; what it says of a unit it does not accept is on standard error.
        done = subprocess.run(["systemd-analyze", "verify", *units], capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stderr), (0, ""))
        for unit in (each for each in units if each.suffix == ".service"):
            answer = run(["systemd-analyze", "security", "--offline=true", str(unit)], "asking systemd")
            level = re.search(r"exposure level for \S+: ([\d.]+)", answer)
            self.assertLess(float(level[1]), 2.5, unit.name)  # systemd calls what is under 5 good

    @skipUnless(shutil.which("nginx") and shutil.which("openssl"), "needs nginx and openssl")
    def test_nginx_accepts_the_site(self):
        run(self_signed("tests.example.org", self.root), "making a certificate")
        self.install(certificate=self.root / "certificate.pem", key=self.root / "key.pem")
        site = self.root / SITE.relative_to("/")
        whole = self.root / "nginx.conf"
        whole.write_text(f"pid {self.root}/pid; events {{}} http {{ access_log off; include {site}; }}")
        done = subprocess.run(["nginx", "-t", "-c", str(whole)], capture_output=True, text=True, check=False)
        self.assertIn("test is successful", done.stderr)
