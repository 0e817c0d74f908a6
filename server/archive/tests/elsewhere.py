"""Another installation, for tests: one that is empty, and what an installation answers to whoever asks."""

from __future__ import annotations

import shutil
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from django.conf import settings
from django.test import Client, override_settings
from django.urls import reverse

from accounts.models import BrowserSession, Role, User
from archive.contents import MODELS
from archive.exporting import export
from config.urls import router
from history.models import Action
from runs.models import Import
from runs.tests.factories import UserFactory

# What belongs to an installation: who logs in, what is plugged in there, what waits.
AT_HOME = {"person", "invitation", "token", "import", "device", "recorder", "heads-up-run", "share", "recording"}


def written(folder: Path, name: str = "all.zip", car=None) -> Path:
    path = folder / name
    with path.open("wb") as out:
        export(out, car)
    return path


def tables(path: Path) -> dict[str, bytes]:
    with zipfile.ZipFile(path) as archive:
        return {name: archive.read(name) for name in archive.namelist() if name.startswith("tables/")}


def answers() -> dict[str, object]:
    """What every list says, and every comparison, study, report and day by itself."""
    client = Client()
    person = User.objects.filter(role=Role.ADMINISTRATOR).first() or UserFactory(role=Role.ADMINISTRATOR)
    client.force_login(person, backend="django.contrib.auth.backends.ModelBackend")
    found: dict[str, object] = {}
    for _, view, name in router.registry:
        if name in AT_HOME or not hasattr(view, "list"):
            continue
        answer = client.get(reverse(f"{name}-list"), {"page_size": 500})
        assert answer.status_code == 200, (name, answer.content[:300])
        found[name] = answer.json()
        if name in ("comparison", "study", "report", "test-day"):
            rows = found[name]["results"] if isinstance(found[name], dict) else found[name]
            found |= {
                f"{name} {row['id']}": client.get(reverse(f"{name}-detail", args=[row["id"]])).json() for row in rows
            }
    return found


@contextmanager
def another_installation() -> Iterator[None]:
    """Nothing is in the database nor in the store; what was in the store is there again afterwards."""
    folder = tempfile.mkdtemp(prefix="coombe-")
    storages = {**settings.STORAGES, "default": {**settings.STORAGES["default"], "OPTIONS": {"location": folder}}}
    Import.objects.all().delete()
    Action.objects.update(undoes=None)  # else none of them could go first
    for model in reversed(MODELS):
        model._base_manager.all()._raw_delete("default")
    BrowserSession.objects.all().delete()
    User.objects.all()._raw_delete("default")
    try:
        with override_settings(STORAGES=storages):
            yield
    finally:
        shutil.rmtree(folder)
