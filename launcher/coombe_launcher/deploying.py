"""`coombe install`: one machine that serves a team, under systemd, behind nginx, with a backup every night.

The files that it writes are in `deploy/`. With `--root` they are written below a folder and nothing is started, for a
look, or for a machine that is being made.
"""

from __future__ import annotations

import os
import pwd
import re
import shutil
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path

from coombe_launcher.certificates import days_left
from coombe_launcher.console import LauncherError, run, say
from coombe_launcher.places import ROOT

DEPLOY = ROOT / "deploy"
PACKAGES = ("nginx-light", "openssl")
PERSON = "coombe"
NAME = re.compile(r"(?=.{1,253}$)([a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?\.)*[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?")
DATA = Path("/var/lib/coombe")
METRICS_PORT = 8643
ENVIRONMENT = Path("/etc/coombe/environment")
TLS = Path("/etc/coombe/tls")
SITE, ENABLED = (Path(f"/etc/nginx/sites-{each}/coombe") for each in ("available", "enabled"))
# What is written where, from which file in `deploy/`.
WRITTEN = {
    Path("/etc/systemd/system/coombe.socket"): "coombe.socket",
    Path("/etc/systemd/system/coombe.service"): "coombe.service",
    Path("/etc/systemd/system/coombe-recorders.service"): "coombe-recorders.service",
    Path("/etc/systemd/system/coombe-backup.service"): "coombe-backup.service",
    Path("/etc/systemd/system/coombe-backup.timer"): "coombe-backup.timer",
    SITE: "nginx.conf",
}
PARTS = ("recording", "hardened")  # of `deploy/`, for more than one unit


@dataclass(frozen=True)
class Installation:
    """What a machine is to become: the name that it serves under, and where things are."""

    name: str
    backups: Path
    certificate: Path | None = None
    key: Path | None = None
    port: int = 8642
    root: Path = Path("/")

    def check(self) -> None:
        """Raises LauncherError for what can't be served."""
        if not NAME.fullmatch(self.name):
            raise LauncherError(f"{self.name} is no name of a machine; write it like tests.example.org")
        if bool(self.certificate) != bool(self.key):
            raise LauncherError("a certificate and its key go together: --certificate FILE --key FILE")
        for path in (self.certificate, self.key):
            if path and not path.is_file():
                raise LauncherError(f"there is no {path}")
        if self.certificate and self.key:
            days_left(self.certificate, self.key)
        if not self.backups.is_absolute():
            raise LauncherError(f"name the folder of backups from the root: {self.backups.absolute()}")

    @property
    def files(self) -> dict[Path, str]:
        """Everything that is written, by its path on the machine."""
        values = {
            "CODE": str(ROOT),
            "PORT": str(self.port),
            "NAME": self.name,
            "BACKUPS": str(self.backups),
            "CERTIFICATE": str(self.certificate or TLS / "certificate.pem"),
            "KEY": str(self.key or TLS / "key.pem"),
            **{part.upper(): (DEPLOY / f"{part}.conf").read_text().rstrip() for part in PARTS},
        }
        return {path: _filled((DEPLOY / source).read_text(), values) for path, source in WRITTEN.items()}

    @property
    def environment(self) -> str:
        """The settings of a new installation."""
        return (
            "# Settings of Coombe; docs/operation.md lists them. After a change: systemctl restart coombe\n"
            f"COOMBE_VAR={DATA}\nCOOMBE_HTTPS=1\nCOOMBE_HOSTS={self.name},127.0.0.1\n"
            f"COOMBE_TRUSTED_PROXIES=127.0.0.1\nCOOMBE_METRICS_PORT={METRICS_PORT}\nCOOMBE_LOG=json\n"
        )

    def place(self, path: Path) -> Path:
        """Where a path of the machine is now."""
        return self.root / path.relative_to("/")


def install(wanted: Installation) -> int:
    """Make this machine, or a folder, into an installation. A second time it changes what has to."""
    wanted.check()
    for_real = wanted.root == Path("/")
    if for_real:
        _refuse_elsewhere()
        _prepare(wanted)
    for path, text in wanted.files.items():
        _write(wanted.place(path), text, 0o644)
    settings = wanted.place(ENVIRONMENT)
    if not settings.exists():  # what an administrator has changed stays
        _write(settings, wanted.environment, 0o640)
    enabled = wanted.place(ENABLED)
    enabled.parent.mkdir(parents=True, exist_ok=True)
    enabled.unlink(missing_ok=True)
    enabled.symlink_to(SITE)
    if not for_real:
        say(f"Written below {wanted.root}; nothing was started.")
        return 0
    shutil.chown(settings, "root", PERSON)
    _start()
    say(
        f"Coombe is at https://{wanted.name}/. The first administrator is made with:\n"
        f"  runuser -u {PERSON} -- env COOMBE_VAR={DATA} {ROOT}/coombe admin"
    )
    return 0


def _refuse_elsewhere() -> None:
    if os.geteuid() != 0:
        raise LauncherError("an installation is made by root: sudo ./coombe install ...")
    if not Path("/run/systemd/system").is_dir():
        raise LauncherError(
            "systemd does not run here: ./coombe serve serves without it, install --root FOLDER only writes the files"
        )
    if ROOT.is_relative_to("/root") or ROOT.is_relative_to("/home"):
        raise LauncherError(f"the services can't read {ROOT}: move Coombe to /opt/coombe, and install from there")


def _prepare(wanted: Installation) -> None:
    """Packages, the system's user, the code set up by it, and a certificate where none was given."""
    env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    run(["apt-get", "install", "--yes", "--no-install-recommends", *PACKAGES], "installing packages", env=env)
    if all(each.pw_name != PERSON for each in pwd.getpwall()):
        run(["adduser", "--system", "--group", "--home", str(DATA), PERSON], "adding the system's user")
    for folder in (DATA, wanted.backups):
        folder.mkdir(parents=True, exist_ok=True)
        shutil.chown(folder, PERSON, PERSON)
        folder.chmod(0o700)
    run(["./coombe", "setup", "--for-use"], "setting up", cwd=ROOT)  # as root, since Debian packages may be missing
    run(["chown", "-R", f"root:{PERSON}", str(ROOT)], "giving the code to its user")
    run(["chmod", "-R", "g+rX,o-rwx", str(ROOT)], "letting its user read the code")
    if wanted.certificate is None and not (TLS / "key.pem").exists():
        TLS.mkdir(parents=True, exist_ok=True, mode=0o700)
        run(self_signed(wanted.name, TLS), "making a certificate")
        say(f"The certificate is this machine's own: browsers warn. Replace {TLS}, or give --certificate and --key.")


def self_signed(name: str, folder: Path) -> Sequence[str]:
    """The command that makes a machine's own certificate."""
    return (
        *("openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes"),
        *("-days", "825", "-subj", f"/CN={name}", "-addext", f"subjectAltName=DNS:{name}"),
        *("-keyout", str(folder / "key.pem"), "-out", str(folder / "certificate.pem")),
    )


def _start() -> None:
    run(["nginx", "-t"], "checking nginx")
    run(["systemctl", "daemon-reload"], "reading the units")
    run(["systemctl", "enable", "--now", "coombe.socket", "coombe.service", "coombe-backup.timer"], "starting Coombe")
    run(["systemctl", "reload-or-restart", "nginx"], "starting nginx")


def _filled(text: str, values: Mapping[str, str]) -> str:
    for name, value in values.items():
        text = text.replace(f"@{name}@", value)
    return text


def _write(path: Path, text: str, mode: int) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_name(f".{path.name}.partial")
    partial.write_text(text)
    partial.chmod(mode)
    partial.replace(path)
