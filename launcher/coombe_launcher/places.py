"""Where things are in the checkout."""

from __future__ import annotations

from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
VAR = ROOT / "var"
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
WEB = ROOT / "web"
SERVER = ROOT / "server"
STAMPS = VAR / "setup"
STATIC = VAR / "static"
PYTHON_PATH = ":".join(str(ROOT / part) for part in ("core", "launcher", "server", "client"))
